"""Two questions against each other, or a few of them all against all."""

from __future__ import annotations

from PySide6.QtCore import QSignalBlocker
from PySide6.QtWidgets import QCheckBox, QComboBox, QHBoxLayout, QStackedWidget, QWidget

from gorvel.core.base.numbers import counted
from gorvel.core.profile.planes import answers_points, grid_points
from gorvel.core.profile.raw_answers import Question
from gorvel.core.scene.points import Points, apart
from gorvel.desk.controls.arranging import fill
from gorvel.desk.controls.following import WhenSeen
from gorvel.desk.controls.texts import button, text
from gorvel.desk.views.grid_view import GridView
from gorvel.desk.views.points_view import PointsView, clusters_now
from gorvel.desk.views.taking_away import TakeAway
from gorvel.desk.work.actions import Actions
from gorvel.desk.work.profiling import Profiling
from gorvel.paint.theme import font

_MATRIX = 5  # questions of a scatter matrix


class ScatterCard(QWidget):
    """Follows the cut in hand."""

    def __init__(
        self, actions: Actions, profiling: Profiling, parent: QWidget | None = None
    ) -> None:
        super().__init__(parent)
        self.profiling, self.focus = profiling, actions.focus
        self.view = PointsView(self.focus, "Two questions against each other")
        self.grid = GridView()
        self.across, self.along = QComboBox(), QComboBox()
        self.next = QCheckBox("One more cluster")
        self.next.setToolTip("Dashed: what one more cluster would split")
        self.matrix = button("Show matrix", self._turn, "link",
                             "The questions that separate clusters most")  # fmt: skip
        self.says = text(size="note", soft=True)
        self._against = text("against", soft=True, wrap=False)
        head = QHBoxLayout()
        for box, name in ((self.along, "Question along"), (self.across, "Question across")):
            box.setAccessibleName(name)
            box.setFont(font("table"))
            box.setMinimumWidth(130)
            box.setMaximumWidth(240)
            box.currentIndexChanged.connect(self._show)
            head.addWidget(box)
            if box is self.along:
                head.addWidget(self._against)
        head.addWidget(self.next)
        head.addWidget(self.matrix)
        head.addStretch(1)
        self.take = TakeAway.of(actions, "scatter")
        head.addWidget(self.take)
        self.pictures = QStackedWidget()
        self.pictures.addWidget(self.view)
        self.pictures.addWidget(self.grid)
        fill(self, head, (self.pictures, 1), self.says)
        self.next.toggled.connect(self._show)
        self.grid.chosen.connect(self._take_pair)
        WhenSeen(self, self.follow, profiling.portraits.changed, self.focus.titles_changed).follow()

    def _questions(self) -> list[Question]:
        """Those that tell clusters apart most first."""
        known = self.profiling.portrayed
        if known is None:
            return []
        told = {one.name: one for one in known.told if not one.nominal}
        names = dict.fromkeys(lane.name for lane in known.lanes if lane.name in told)
        return [told[name] for name in names]

    def follow(self) -> None:
        """Another cut, or what is told of it is known by now."""
        names = sorted(one.name for one in self._questions())
        first = [one.name for one in self._questions()[:2]]
        for place, box in enumerate((self.along, self.across)):
            chosen = box.currentText()
            with QSignalBlocker(box):
                if [box.itemText(k) for k in range(box.count())] != names:
                    box.clear()
                    box.addItems(names)
                wanted = chosen if chosen in names else first[place] if len(first) == 2 else ""
                box.setCurrentIndex(max(box.findText(wanted), 0) if names else -1)
        self._show()

    def _turn(self) -> None:
        """From one pair to all, and back."""
        self.pictures.setCurrentIndex(1 - self.pictures.currentIndex())
        self._show()

    def _take_pair(self, across: str, along: str) -> None:
        for box, name in ((self.across, across), (self.along, along)):
            with QSignalBlocker(box):
                box.setCurrentIndex(box.findText(name))
        self.pictures.setCurrentIndex(0)
        self._show()

    def _show(self) -> None:
        told = {one.name: one for one in self._questions()}
        across, along = told.get(self.across.currentText()), told.get(self.along.currentText())
        many = self.pictures.currentIndex() == 1
        for widget in (self.across, self.along, self._against, self.next):
            widget.setVisible(bool(told) and not many)
        self.matrix.setVisible(len(told) > 1)
        self.matrix.setText("Show one pair" if many else "Show matrix")
        clusters = clusters_now(self.focus, self.next.isChecked() and not many)
        if across is None or along is None or clusters is None:
            waiting = self.profiling.portrayed is None
            self._put([], None, {})
            self.says.setText("" if waiting else "There are no numeric variables.")
        elif many:
            chosen = self._questions()[:_MATRIX]
            self._put(chosen, None, grid_points(chosen, clusters))
            more = len(told) - len(chosen)
            words = "The variables that separate clusters most; click one to enlarge it."
            self.says.setText(words + (f" {more} more are not shown." if more else ""))
        else:
            points = answers_points(across, along, clusters)
            self._put([across, along], points, {})
            lacking = int((~points.known).sum())
            moved = any(apart(one.values) is not one.values for one in (across, along))
            words = "Equal answers are jittered slightly. " if moved else ""
            if lacking:
                words += f"{counted(lacking, 'case')} with missing answers not shown."
            self.says.setText(words)

    def _put(
        self, questions: list[Question], points: Points | None,
        grid: dict[tuple[str, str], Points],
    ) -> None:  # fmt: skip
        """Show one pair, or all, and keep them for what is taken away."""
        self.profiling.against = questions
        self.profiling.planes["scatter"], self.profiling.grid = points, grid
        self.view.show_points(points)
        if grid or not questions:
            self.grid.show_grid([one.name for one in questions], grid)
