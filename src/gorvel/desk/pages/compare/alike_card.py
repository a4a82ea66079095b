"""How alike two trees are at each count, and as wholes."""

from __future__ import annotations

from PySide6.QtWidgets import QWidget

from gorvel.core.words.comparison import trees_words
from gorvel.desk.controls.arranging import in_row
from gorvel.desk.controls.texts import aside, card, heading, text
from gorvel.desk.views.alike_views import AlikeView
from gorvel.desk.views.taking_away import TakeAway
from gorvel.desk.work.actions import Actions
from gorvel.desk.work.comparing import Comparing
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
        self.says = text(size="note", soft=True)
        self.take = TakeAway.of(actions, "alike")
        head = in_row(
            heading("Agreement by number"), (aside("adjusted Rand"), 1), self.take, space=SPACE
        )
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
