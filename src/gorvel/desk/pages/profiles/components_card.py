"""Principal components: the cases in the plane of two, the variables as arrows."""

from __future__ import annotations

from PySide6.QtCore import QSignalBlocker
from PySide6.QtWidgets import QCheckBox, QComboBox, QHBoxLayout, QWidget

from gorvel.core.profile.components import Components
from gorvel.core.profile.planes import components_points
from gorvel.core.words.planes import components_words
from gorvel.desk.controls.arranging import fill
from gorvel.desk.controls.following import WhenSeen
from gorvel.desk.controls.texts import text
from gorvel.desk.views.points_view import PointsView, clusters_now
from gorvel.desk.views.taking_away import TakeAway
from gorvel.desk.work.actions import Actions
from gorvel.desk.work.profiling import Profiling
from gorvel.paint.theme import font


class ComponentsCard(QWidget):
    """Follows the tree; the cut in hand colours it."""

    def __init__(
        self, actions: Actions, profiling: Profiling, parent: QWidget | None = None
    ) -> None:
        super().__init__(parent)
        self.profiling, self.focus = profiling, actions.focus
        self.view = PointsView(self.focus, "Principal components")
        self.across, self.along = QComboBox(), QComboBox()
        self.next = QCheckBox("One more cluster")
        self.next.setToolTip("Dashed: what one more cluster would split")
        self.says = text(size="note", soft=True)
        head = QHBoxLayout()
        for box, name in ((self.across, "Component across"), (self.along, "Component along")):
            box.setAccessibleName(name)
            box.setFont(font("table"))
            box.currentIndexChanged.connect(self._show)
            head.addWidget(box)
        head.addWidget(self.next)
        head.addStretch(1)
        self.take = TakeAway.of(actions, "components")
        head.addWidget(self.take)
        fill(self, head, (self.view, 1), self.says)
        self.next.toggled.connect(self._show)
        profiling.components.changed.connect(self._found)
        WhenSeen(
            self, self._follow, self.focus.tree_changed, self.focus.cut_changed,
            self.focus.titles_changed,
        ).follow()  # fmt: skip

    def _follow(self) -> None:
        self.profiling.ask_components()
        self._found()

    def _found(self) -> None:
        found = self.profiling.principal_components
        count = 0 if found is None else len(found.explained)
        for place, box in enumerate((self.across, self.along)):
            chosen = max(box.currentIndex(), 0) or place
            with QSignalBlocker(box):
                box.clear()
                for k in range(count):
                    assert found is not None
                    box.addItem(f"component {k + 1} ({found.explained[k]:.0%})", k)
                box.setCurrentIndex(min(chosen, count - 1))
        self._show()

    def _axes(self, found: Components) -> tuple[int, int]:
        last = len(found.explained) - 1
        return max(self.across.currentIndex(), 0), min(max(self.along.currentIndex(), 0), last)

    def _show(self) -> None:
        found = self.profiling.principal_components
        grown = self.focus.grown
        for widget in (self.across, self.along, self.next):
            widget.setVisible(found is not None)
        clusters = clusters_now(self.focus, self.next.isChecked())
        if found is None or grown is None or clusters is None or len(found.places) != grown.tree.n:
            waiting = self.profiling.components.job is not None
            words = "Components need cases and at least two numeric or yes/no variables."
            points, words = None, "" if waiting else words
        else:
            axes = self._axes(found)
            points = components_points(found, *axes, clusters)
            words = components_words(found, *axes)
        self.profiling.planes["components"] = points
        self.view.show_points(points)
        self.says.setText(words)
