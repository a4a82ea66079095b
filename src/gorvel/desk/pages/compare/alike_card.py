"""How alike two trees are at each count, and as wholes."""

from __future__ import annotations

from PySide6.QtWidgets import QHBoxLayout, QWidget

from gorvel.core.results.table import ResultTable
from gorvel.core.words.comparison import trees_words
from gorvel.desk.controls.texts import aside, card, heading, text
from gorvel.desk.views.alike_views import AlikeView
from gorvel.desk.views.taking_away import TakeAway
from gorvel.desk.work.actions import Actions
from gorvel.desk.work.comparing import Comparing
from gorvel.paint.figure import Sheet
from gorvel.paint.theme import SPACE

_HEADS = ("clusters", "Rand", "adjusted Rand", "Fowlkes–Mallows", "variation of information",
          "normalised mutual information", "moved")  # fmt: skip


class AlikeCard(QWidget):
    """A click on a count cuts the tree in hand there, and with it the other one."""

    def __init__(
        self, actions: Actions, comparing: Comparing, parent: QWidget | None = None
    ) -> None:
        super().__init__(parent)
        self.focus, self.comparing = actions.focus, comparing
        self.view = AlikeView()
        self.view.chosen.connect(self.focus.set_count)
        self.says = text(size=0.86, soft=True)
        head = QHBoxLayout()
        head.setSpacing(SPACE)
        head.addWidget(heading("Agreement by number"))
        head.addWidget(aside("adjusted Rand"), 1)
        head.addWidget(TakeAway(actions, "alike", self.table, self.sheet))
        inside = card(self)
        inside.addLayout(head)
        inside.addWidget(self.view, 1)
        inside.addWidget(self.says)

    def follow(self) -> None:
        """Another pair, or another count."""
        faced, cut = self.comparing.faced, self.focus.cut
        counts = {} if faced is None else faced.counts
        self.view.show_found(counts, 0 if cut is None else cut.clusters)
        self.says.setText("" if faced is None else trees_words(faced.whole, faced.pair.one.of))

    def table(self) -> ResultTable | None:
        """A row for each count."""
        faced = self.comparing.faced
        if faced is None:
            return None
        rows: list[tuple[str | int | float | None, ...]] = [
            (count, one.rand, one.adjusted_rand, one.fowlkes_mallows, one.variation_of_information,
             one.normalised_mi, one.moved)
            for count, one in faced.counts.items()
        ]  # fmt: skip
        return ResultTable(_HEADS, rows)

    def sheet(self) -> Sheet | None:
        """The picture for print."""
        return None if self.comparing.faced is None else self.view.sheet()
