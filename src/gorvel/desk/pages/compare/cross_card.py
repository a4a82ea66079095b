"""Who is where: the clusters of one tree by those of the other."""

from __future__ import annotations

from PySide6.QtWidgets import QWidget

from gorvel.desk.controls.arranging import in_row
from gorvel.desk.controls.texts import aside, card, heading, scrolled, text
from gorvel.desk.views.alike_views import CrossView
from gorvel.desk.views.taking_away import TakeAway
from gorvel.desk.work.actions import Actions
from gorvel.desk.work.comparing import Comparing
from gorvel.paint.theme import SPACE


class CrossCard(QWidget):
    """A click on a cell has its cases listed."""

    def __init__(
        self, actions: Actions, comparing: Comparing, parent: QWidget | None = None
    ) -> None:
        super().__init__(parent)
        self.comparing = comparing
        self.view = CrossView()
        self.counts = aside()
        self.says = text("Rows: left tree, columns: right tree. Click a cell to list its cases.",
                         "note", soft=True)  # fmt: skip
        self.take = TakeAway.of(actions, "who-is-where")
        head = in_row(heading("Cross-tabulation"), (self.counts, 1), self.take, space=SPACE)
        inside = card(self)
        inside.addLayout(head)
        inside.addWidget(scrolled(self.view), 1)
        inside.addWidget(self.says)

    def follow(self) -> None:
        """Another pair, another cut, or other names."""
        met = self.comparing.met
        self.view.show_met(met)
        words = ""
        if met is not None:
            one, other = met.crossed.one.clusters, met.crossed.other.clusters
            words = f"{one:,} by {other:,}"
        self.counts.setText(words)
