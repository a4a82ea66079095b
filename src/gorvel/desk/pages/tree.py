"""The Tree page: dendrogram and height chart, schedule and reading, one cut through them."""

from __future__ import annotations

from PySide6.QtCore import QSignalBlocker, Qt
from PySide6.QtWidgets import (
    QComboBox,
    QFrame,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QSpinBox,
    QSplitter,
    QStackedLayout,
    QVBoxLayout,
    QWidget,
)

from gorvel.core.analysis import Grown
from gorvel.core.scene.axis import HeightScale
from gorvel.core.sentences import number
from gorvel.desk.actions import Actions
from gorvel.desk.settings import save_settings
from gorvel.desk.theme import SPACE, font
from gorvel.desk.views.dendrogram_view import DendrogramView
from gorvel.desk.views.heights_view import HeightsView
from gorvel.desk.views.schedule_view import ScheduleView
from gorvel.desk.widgets.growing import GrowBar
from gorvel.desk.widgets.reading import ReadingPanel
from gorvel.desk.widgets.texts import block, button, heading, panel, text

__all__ = ["TreePage"]


class TreePage(QWidget):
    """Before there is a tree it says how to get one."""

    def __init__(self, actions: Actions, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.acts, self.focus = actions, actions.focus
        self.dendrogram = DendrogramView(self.focus)
        self.heights = HeightsView(self.focus, self.dendrogram)
        self.schedule = ScheduleView(self.focus)
        self.reading = ReadingPanel(self.focus)
        self.count = QSpinBox()
        self.height_field = QLineEdit()
        self.scale = QComboBox()
        self.stale = self._stale_bar()
        self._stack = QStackedLayout(self)
        self._stack.addWidget(self._empty())
        self._stack.addWidget(self._desk())
        self.focus.tree_changed.connect(self._follow)
        self.focus.cut_changed.connect(self._show_cut)
        self._follow()
        self._show_cut()

    # building

    def _empty(self) -> QWidget:
        page = QWidget()
        box = panel()
        box.setFixedWidth(460)
        inside = QVBoxLayout(box)
        inside.setContentsMargins(4 * SPACE, 3 * SPACE, 4 * SPACE, 3 * SPACE)
        inside.setSpacing(SPACE)
        inside.addWidget(heading("No tree yet", 1.43))
        inside.addWidget(
            block(
                "The sentence above is the plan. When it says what you want, grow the tree.",
                460 - 8 * SPACE,
            )
        )
        self.first_grow = GrowBar(self.acts)
        inside.addWidget(self.first_grow)
        outer = QVBoxLayout(page)
        outer.addStretch(2)
        outer.addWidget(box, 0, Qt.AlignmentFlag.AlignHCenter)
        outer.addStretch(3)
        return page

    def _stale_bar(self) -> QFrame:
        bar = panel()
        layout = QHBoxLayout(bar)
        layout.setContentsMargins(2 * SPACE, 4, SPACE, 4)
        words = text("The plan has changed since this tree was grown.", weight=600)
        words.setProperty("alarm", True)
        layout.addWidget(words, 1)
        self.grow = GrowBar(self.acts)
        layout.addWidget(self.grow)
        return bar

    def _desk(self) -> QWidget:
        page = QWidget()
        outer = QVBoxLayout(page)
        outer.setContentsMargins(2 * SPACE, 0, 2 * SPACE, 2 * SPACE)
        outer.setSpacing(SPACE)
        outer.addWidget(self.stale)
        upper = panel()
        drawn = QVBoxLayout(upper)
        drawn.setContentsMargins(2, SPACE, 2, 2)
        drawn.setSpacing(0)
        drawn.addLayout(self._tools())
        drawn.addSpacing(SPACE // 2)
        drawn.addWidget(self.dendrogram, 1)
        drawn.addWidget(self.heights)
        lower = QWidget()
        below = QHBoxLayout(lower)
        below.setContentsMargins(0, 0, 0, 0)
        below.setSpacing(2 * SPACE)
        below.addWidget(self._schedule_box(), 7)
        below.addWidget(self.reading, 5)
        split = QSplitter(Qt.Orientation.Vertical)
        split.addWidget(upper)
        split.addWidget(lower)
        split.setStretchFactor(0, 1)
        split.setSizes([430, 210])
        split.setHandleWidth(SPACE)
        split.setChildrenCollapsible(False)
        outer.addWidget(split, 1)
        return page

    def _schedule_box(self) -> QWidget:
        box = QWidget()
        layout = QVBoxLayout(box)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(4)
        head = QHBoxLayout()
        head.addWidget(heading("Agglomeration schedule", 1.0))
        self.schedule_note = text(soft=True, wrap=False)
        head.addWidget(self.schedule_note)
        head.addStretch(1)
        head.addWidget(
            button(
                "copy schedule", self.schedule.copy, "link", "All columns, tab-separated (Ctrl+C)"
            )
        )
        layout.addLayout(head)
        layout.addWidget(self.schedule, 1)
        return box

    def _tools(self) -> QHBoxLayout:
        row = QHBoxLayout()
        row.setContentsMargins(14, 0, SPACE, 0)
        row.setSpacing(6)
        self.count.setRange(1, 1)
        self.count.setAccessibleName("Number of clusters")
        self.count.setToolTip("Cut into so many clusters (arrow keys)")
        self.count.setKeyboardTracking(False)
        self.count.valueChanged.connect(self.focus.set_count)
        self.height_field.setFixedWidth(84)
        self.height_field.setAccessibleName("Height of the cut")
        self.height_field.setToolTip("Cut at this height (Return)")
        self.height_field.returnPressed.connect(self._height_typed)
        self.scale.addItem("square root", "root")
        self.scale.addItem("as it is", "plain")
        self.scale.setToolTip("The square root keeps low joins apart when heights are squared")
        self.scale.setAccessibleName("Scale of the heights")
        self.scale.currentIndexChanged.connect(self._scale_chosen)
        for words, field in (
            ("Cut into", self.count), ("clusters, at height", self.height_field),
            ("    Height axis", self.scale),
        ):  # fmt: skip
            label = QLabel(words)
            label.setProperty("soft", True)
            label.setFont(font(0.93))
            label.setBuddy(field)
            row.addWidget(label)
            row.addWidget(field)
        row.addStretch(1)
        zoom_out = button("−", lambda: self.dendrogram.zoom(0.64), tip="Lower rows (−)")
        zoom_in = button(
            "+", lambda: self.dendrogram.zoom(1.5625), tip="Higher rows (+, Ctrl+wheel)"
        )
        fit = button("whole tree", self.dendrogram.zoom_to_fit, tip="All cases in sight (0)")
        for tool in (zoom_out, zoom_in, fit):
            tool.setMaximumHeight(28)
            row.addWidget(tool)
        zoom_out.setAccessibleName("Zoom out")
        zoom_in.setAccessibleName("Zoom in")
        return row

    # following the focus

    def _follow(self) -> None:
        grown = self.focus.grown
        self._stack.setCurrentIndex(0 if grown is None else 1)
        self.stale.setVisible(self.focus.out_of_date)
        if grown is not None:
            self._choose_scale(grown)
            with QSignalBlocker(self.count):
                self.count.setRange(1, grown.tree.n)
            self.schedule_note.setText(f"{grown.tree.joins:,} joins, the last one first")

    def _show_cut(self) -> None:
        cut, scene = self.focus.cut, self.dendrogram.scene
        if cut is None:
            return
        with QSignalBlocker(self.count):
            self.count.setMaximum(max(self.count.maximum(), cut.clusters))
            self.count.setValue(cut.clusters)
        height = self.focus.cut_height
        if height is None and scene is not None:
            x = self.dendrogram.cut_x()
            if x is not None:
                height = scene.axis.height(self.dendrogram.frame().share(x))
        if height is not None and not self.height_field.hasFocus():
            self.height_field.setText(number(height).replace(",", ""))

    def _height_typed(self) -> None:
        words = self.height_field.text().strip().replace(",", ".")
        try:
            height = float(words)
        except ValueError:
            self.acts.said.emit(f'"{words}" is not a height: type a number, such as 12.5.', True)
            return
        self.focus.set_height(height)

    def _choose_scale(self, grown: Grown) -> None:
        """The scale asked for, or else the root for squared heights."""
        wanted = self.acts.settings.height_scale
        if wanted == "auto":
            table = grown.plan.source.kind == "table"
            squared = table and grown.plan.proximity.measure == "squared-euclidean"
            wanted = "root" if squared else "plain"
        with QSignalBlocker(self.scale):
            self.scale.setCurrentIndex(self.scale.findData(wanted))
        self.dendrogram.set_scale("plain" if wanted == "plain" else "root")

    def _scale_chosen(self) -> None:
        scale: HeightScale = "plain" if self.scale.currentData() == "plain" else "root"
        self.dendrogram.set_scale(scale)
        self.acts.settings.height_scale = scale
        save_settings(self.acts.settings)
        self._show_cut()
