"""The cases on a map: near where they are alike, as far as two dimensions can tell."""

from __future__ import annotations

from PySide6.QtWidgets import QCheckBox, QComboBox, QWidget

from gorvel.core.profile.map import CaseMap
from gorvel.core.profile.planes import map_points
from gorvel.core.words.planes import fits_badly, map_words
from gorvel.desk.controls.arranging import fill, in_row
from gorvel.desk.controls.following import WhenSeen
from gorvel.desk.controls.texts import text
from gorvel.desk.controls.work_bars import InquiryBar
from gorvel.desk.views.points_view import PointsView, clusters_now
from gorvel.desk.views.taking_away import TakeAway
from gorvel.desk.work.actions import Actions
from gorvel.desk.work.profiling import Profiling
from gorvel.paint.theme import font


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
        self.way.setFont(font("table"))
        self.way.addItem("smallest stress", "least")
        self.way.addItem("classical scaling", "classical")
        self.next = QCheckBox("One more cluster")
        self.next.setToolTip("Dashed: what one more cluster would split")
        self.next.setChecked(True)
        self.says = text(size="table", soft=True)
        self.bar = InquiryBar(profiling.map, self._again, "Mapping the cases …")
        self.take = TakeAway.of(actions, "map")
        head = in_row(self.way, self.next, None, self.take)
        fill(self, head, self.says, self.bar, (self.view, 1))
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
        grown, clusters = self.focus.grown, clusters_now(self.focus, self.next.isChecked())
        points, words = None, ""
        if (
            found is not None
            and grown is not None
            and clusters is not None
            and len(found.least) == grown.tree.n
        ):
            least = self.way.currentData() == "least"
            points, words = map_points(found, least, clusters), map_words(found, least, grown.of)
            if self.focus.stays is not None:
                words += " Hollow: stays with its cluster in fewer than half of the other trees."
        self.profiling.planes["map"] = points
        self.view.show_points(points)
        self.says.setProperty(
            "alarm", points is not None and found is not None and fits_badly(found)
        )
        self.says.style().polish(self.says)
        self.says.setText(words)
