"""The cases on a map: near where they are alike, as far as two dimensions can tell."""

from __future__ import annotations

import numpy as np
from PySide6.QtWidgets import QCheckBox, QComboBox, QWidget

from gorvel.core.base.numbers import fixed, unit
from gorvel.core.profile.map import CaseMap
from gorvel.core.results.table import ResultTable
from gorvel.desk.controls.arranging import fill, in_row
from gorvel.desk.controls.following import WhenSeen
from gorvel.desk.controls.texts import text
from gorvel.desk.controls.work_bars import InquiryBar
from gorvel.desk.views.points_view import PointsView, points_now, points_table
from gorvel.desk.views.taking_away import TakeAway
from gorvel.desk.work.actions import Actions
from gorvel.desk.work.profiling import Profiling
from gorvel.paint.figure import Sheet
from gorvel.paint.theme import font

_FAIR, _POOR = 0.1, 0.2  # of stress-1: beyond these a map is read with care, or hardly (Kruskal)


class MapCard(QWidget):
    """Worked out when it is looked at; the cut in hand colours it."""

    def __init__(
        self, actions: Actions, profiling: Profiling, parent: QWidget | None = None
    ) -> None:
        super().__init__(parent)
        self.acts, self.profiling, self.focus = actions, profiling, actions.focus
        self.view = PointsView(self.focus, "Map of the cases")
        self.way = QComboBox()
        self.way.setAccessibleName("Method of the map")
        self.way.setFont(font(0.93))
        self.way.addItem("smallest stress", "least")
        self.way.addItem("classical scaling", "classical")
        self.next = QCheckBox("One more cluster")
        self.next.setToolTip("Dashed: what one more cluster would split")
        self.next.setChecked(True)
        self.says = text(size=0.86, soft=True)
        self.bar = InquiryBar(profiling.map, self._again, "Mapping the cases …")
        self.take = TakeAway(actions, "map", self.table, self.sheet)
        head = in_row(self.way, self.next, None, self.take)
        fill(self, head, self.bar, (self.view, 1), self.says)
        self.way.currentIndexChanged.connect(self._show)
        self.next.toggled.connect(self._show)
        profiling.map.changed.connect(self._show)
        WhenSeen(
            self, self._follow, self.focus.tree_changed, self.focus.cut_changed,
            self.focus.titles_changed, self.focus.stays_changed,
        ).follow()  # fmt: skip

    def _again(self) -> None:
        self.profiling.ask_map(again=True)

    def _follow(self) -> None:
        self.profiling.ask_map()
        self._show()

    def _show(self) -> None:
        found: CaseMap | None = self.profiling.map.found
        grown = self.focus.grown
        if found is None or grown is None or len(found.least) != grown.tree.n:
            self.view.show_points(None)
            self.says.setText("")
            return
        least = self.way.currentData() == "least"
        places = found.least if least else found.classical
        self.view.show_points(points_now(self.focus, places, shadow=self.next.isChecked()))
        hollow = " Hollow: stays with its cluster in fewer than half of the other trees."
        told = hollow if self.focus.stays is not None else ""
        self.says.setText(_words(found, least, grown.of) + told)

    def table(self) -> ResultTable | None:
        """Each case with its place."""
        return points_table(self.view, "across", "along")

    def sheet(self) -> Sheet | None:
        """The map for print."""
        return self.view.sheet("Map of the cases")


def _words(found: CaseMap, least: bool, of: str) -> str:
    """How far the map is to be trusted."""
    if least:
        how = "distances show similarity well"
        if found.stress1 > _POOR:
            how = "distances only roughly show similarity: two dimensions fit poorly"
        elif found.stress1 > _FAIR:
            how = "distances roughly show similarity"
        words = f"Stress {fixed(found.stress1, 2)}: {how}."
    elif np.isfinite(found.explained):
        words = (
            f"The two axes account for {found.explained:.0%} of the sum of the positive "
            "eigenvalues."
        )
    else:
        words = "All distances are 0."
    if found.landmarks:
        words += (
            f" Map of {found.landmarks:,} sampled {unit(of, found.landmarks).split()[-1]}; "
            "the others placed afterwards."
        )
    return words
