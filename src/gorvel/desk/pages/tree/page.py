"""The Tree page: the desk, schedule and reading, one cut through them."""

from __future__ import annotations

from PySide6.QtCore import QSignalBlocker, Qt
from PySide6.QtGui import QAction, QKeySequence, QResizeEvent, QShortcut
from PySide6.QtWidgets import (
    QBoxLayout,
    QCheckBox,
    QDialog,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QMenu,
    QPushButton,
    QSpinBox,
    QWidget,
)

from gorvel.core.base.numbers import counted, number, unit
from gorvel.core.grow.grown import Grown
from gorvel.core.scene.axis import SCALES
from gorvel.desk.controls.arranging import fill, fill_row, in_row, split
from gorvel.desk.controls.delete_on_close import brought_up, delete_on_close
from gorvel.desk.controls.flow import flowing
from gorvel.desk.controls.growing import NoTree, StaleBar
from gorvel.desk.controls.page_stack import CurrentPageStack
from gorvel.desk.controls.texts import button, heading, panel, text
from gorvel.desk.editors.tree_summary_panel import TreeSummaryPanel
from gorvel.desk.pages.tree.desk import Desk
from gorvel.desk.pages.tree.figure_dialog import FigureDialog
from gorvel.desk.pages.tree.pair_dialog import PairDialog
from gorvel.desk.state.marks import Mark
from gorvel.desk.state.settings import save_settings
from gorvel.desk.views.column import Column
from gorvel.desk.views.layout import Layout
from gorvel.desk.views.matrix_view import MatrixView
from gorvel.desk.views.schedule_view import ScheduleView
from gorvel.desk.work.actions import Actions
from gorvel.paint.theme import SPACE, font

_WIDE, _BESIDE = 1_600, 440  # pixels of a page with schedule and reading beside the drawing
_MATRIX = "Proximities: smaller is more alike"


class TreePage(QWidget):
    """Before there is a tree it says how to get one."""

    def __init__(self, actions: Actions, layout: Layout, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.acts, self.focus = actions, actions.focus
        self.shown = layout
        self.desk = Desk(self.acts, layout)
        self.dendrogram = self.desk.dendrogram
        self.schedule = ScheduleView(self.focus)
        self.reading = TreeSummaryPanel(self.focus)
        self.reading.asked_to_compare.connect(self.compare)
        self.reading.asked_to_correlate.connect(
            lambda yes: actions.correlate() if yes else actions.stop_correlating()
        )
        self.count = QSpinBox()
        self.height_field = QLineEdit()
        self.sought = QLineEdit()
        self._study: object = None  # whose desk is laid out
        self.stale = StaleBar(self.acts, self)
        self._stack = CurrentPageStack(self)
        words = "The sentence above is the plan. When it says what you want, grow the tree."
        self.empty = NoTree(actions, "No tree yet", words)
        self._stack.addWidget(self.empty)
        self._stack.addWidget(self._desk())
        self.focus.tree_changed.connect(self._follow)
        self.focus.cut_changed.connect(self._show_cut)
        self._follow()
        self._show_cut()

    # building

    def _desk(self) -> QWidget:
        page = QWidget()
        upper = panel()
        fill(upper, self._tools(), SPACE // 2, (self.desk, 1), space=0, edges=(2, SPACE, 2, 2))
        self._lower = QWidget()
        fill_row(self._lower, (self._schedule_box(), 7), (self.reading, 5), space=2 * SPACE)
        self._halves = split(upper, self._lower, sizes=(460, 190), shares=(1,), down=True)
        fill(
            page, self.stale, (self._halves, 1), space=SPACE,
            edges=(2 * SPACE, 0, 2 * SPACE, 12),
        )  # fmt: skip
        return page

    def resizeEvent(self, event: QResizeEvent) -> None:
        """Schedule and reading stand below the drawing, or beside it where there is much room."""
        super().resizeEvent(event)
        ways, below = Qt.Orientation, self._lower.layout()
        wide = self.width() >= _WIDE
        if wide == (self._halves.orientation() == ways.Horizontal) or below is None:
            return
        assert isinstance(below, QBoxLayout)
        across, down = QBoxLayout.Direction.LeftToRight, QBoxLayout.Direction.BottomToTop
        below.setDirection(down if wide else across)
        self._halves.setOrientation(ways.Horizontal if wide else ways.Vertical)
        self._halves.setSizes([self.width() - _BESIDE, _BESIDE] if wide else [460, 190])

    def _schedule_box(self) -> QWidget:
        box = panel()
        self.schedule_note = text(soft=True, wrap=False)
        self.schedule.horizontalHeader().sortIndicatorChanged.connect(self._tell_order)
        head = in_row(
            heading("Agglomeration schedule"),
            self.schedule_note,
            None,
            button(
                "Copy schedule", self.schedule.copy, "link", "All columns, tab-separated (Ctrl+C)"
            ),
        )
        self.schedule.setProperty("bare", True)
        fill(
            box, head, (self.schedule, 1), space=4, edges=(2 * SPACE, SPACE, SPACE, 2),
        )  # fmt: skip
        return box

    def _tools(self) -> QWidget:
        self.count.setRange(1, 1)
        self.count.setAccessibleName("Number of clusters")
        self.count.setToolTip("Number of clusters (arrow keys)")
        self.count.setKeyboardTracking(False)
        self.count.valueChanged.connect(self.focus.set_count)
        self.height_field.setFixedWidth(76)
        self.height_field.setAccessibleName("Height of the cut")
        self.height_field.setToolTip("Cut at this height (Return)")
        self.height_field.returnPressed.connect(self._height_typed)
        self.sought.setPlaceholderText("Find a case")
        self.sought.setAccessibleName("Find a case")
        self.sought.setToolTip("Part of a label; Return finds the next (Ctrl+F)")
        self.sought.setFixedWidth(110)
        self.sought.returnPressed.connect(self._find_next)
        QShortcut(QKeySequence.StandardKey.Find, self, self.sought.setFocus)
        cut = self._group(
            self._word("Cut into", self.count), self.count,
            self._word("clusters, at height", self.height_field), self.height_field,
        )  # fmt: skip
        self.view = QPushButton("View")
        menu = QMenu(self.view)
        menu.aboutToShow.connect(lambda: self._fill_view(menu))
        self.view.setMenu(menu)
        zoom_out = button("−", lambda: self.desk.axis.zoom(0.64), tip="Lower rows (−)")
        zoom_in = button("+", lambda: self.desk.axis.zoom(1.5625), tip="Higher rows (+)")
        fit = button("Whole tree", self.desk.axis.zoom_to_fit, tip="Show all cases (0)")
        for tool in (zoom_out, zoom_in, fit, self.view):
            tool.setMaximumHeight(28)
        zoom_out.setAccessibleName("Zoom out")
        zoom_in.setAccessibleName("Zoom in")
        row = flowing(cut, self._group(self.view, self.sought, zoom_out, zoom_in, fit))
        row.setContentsMargins(12, 0, SPACE, 0)
        self.desk.changed.connect(self._desk_changed)
        self.desk.figure_wanted.connect(self.open_figure)
        self.desk.matrix_wanted.connect(self.show_matrix)
        self.shown.rescaled.connect(self._desk_changed)
        return row

    def _fill_view(self, menu: QMenu) -> None:
        self.desk.fill_view_menu(menu)
        below = QAction("Schedule and reading", menu)
        below.setCheckable(True)
        below.setChecked(not self._lower.isHidden())
        below.toggled.connect(self._lower.setVisible)
        menu.insertAction(menu.actions()[1], below)

    @staticmethod
    def _word(words: str, field: QWidget | None = None) -> QLabel:
        label = QLabel(words)
        label.setProperty("soft", True)
        label.setFont(font("table"))
        if field is not None:
            label.setBuddy(field)
        return label

    @staticmethod
    def _group(*widgets: QWidget) -> QWidget:
        box = QWidget()
        layout = QHBoxLayout(box)
        layout.setContentsMargins(0, 0, 2 * SPACE, 0)
        layout.setSpacing(6)
        for widget in widgets:
            layout.addWidget(widget)
        box.setMinimumHeight(32)
        return box

    # following the focus

    def _follow(self) -> None:
        grown = self.focus.grown
        self._stack.setCurrentIndex(0 if grown is None else 1)
        if grown is not None:
            self.sought.setPlaceholderText(f"Find a {unit(grown.of)}")
            self._lay_desk_out(grown)
            with QSignalBlocker(self.count):
                self.count.setRange(1, grown.tree.n)
            self._tell_order()

    def _tell_order(self) -> None:
        """How the schedule is sorted, and how to get back."""
        head, grown = self.schedule.horizontalHeader(), self.focus.grown
        column = head.sortIndicatorSection()
        order = "last join first"
        if column or head.sortIndicatorOrder() != Qt.SortOrder.DescendingOrder:
            name = self.schedule.table.headerData(
                column, Qt.Orientation.Horizontal, Qt.ItemDataRole.DisplayRole
            )
            order = f"sorted by {name}; J for the order of joining"
        joins = grown.tree.joins if grown is not None else 0
        self.schedule_note.setText(f"{counted(joins, 'join')}, {order}")

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

    def _find_next(self) -> None:
        """Select the next case whose label holds what was typed."""
        grown, at = self.focus.grown, self.desk.axis.arrangement
        sought = self.sought.text().strip().casefold()
        if grown is None or at is None or not sought:
            return
        mark = self.focus.selected
        here = int(at.starts[mark.number]) if mark is not None and mark.kind == "case" else -1
        labels, n = grown.prepared.labels, at.tree.n
        for step in range(1, n + 1):
            case = int(at.order[(here + step) % n])
            if sought in labels[case].casefold():
                self.focus.select(Mark("case", case))
                return
        self.acts.said.emit(f"No label contains “{self.sought.text().strip()}”.", True)

    # the desk

    def _lay_desk_out(self, grown: Grown) -> None:
        """As this study was last looked at, or as suits its heights."""
        study = self.focus.shelf.study
        if study is None or self._study is study.data_file:
            return
        self._study = study.data_file
        state = self.acts.settings.desks.get(str(study.data_file.absolute()), {})
        table = grown.prepared.proximities is None
        squared = table and grown.method.measure == "squared-euclidean"
        before = self.focus.came_with
        kept = "" if before is None else before.looked.scale
        scale = kept or state.get("scale", "root" if squared else "plain")
        if self.shown.of is not study.data_file:  # else other looks, of the same desk
            self.shown.of = study.data_file
            self.shown.set_scale(scale if scale in SCALES else "plain")
        self.desk.restore(state)

    def compare(self) -> PairDialog | None:
        """Ask which two cases are to be compared."""
        if self.focus.grown is None:
            return None
        dialog = PairDialog(self.acts, self)
        dialog.show()
        return dialog

    def show_matrix(self) -> QDialog | None:
        """The proximities as a plain table in a window of its own."""
        if self.focus.grown is None:
            return None
        if (there := brought_up(self, _MATRIX)) is not None:
            return there
        dialog = delete_on_close(QDialog(self))
        dialog.setWindowTitle(_MATRIX)
        view = MatrixView(self.desk.axis, self.focus.grown, dialog)
        view.copied.connect(self.acts.said)
        of_file = QCheckBox("in file order")
        of_file.toggled.connect(view.set_file_order)
        ends = in_row(
            button("Copy", view.copy, "link", "The selection, or all (Ctrl+C)"), of_file, None,
            button("Close", dialog.accept),
        )  # fmt: skip
        fill(dialog, (view, 1), ends, space=None, edges=None)
        dialog.resize(900, 560)
        dialog.show()
        self.focus.tree_changed.connect(dialog.close)
        return dialog

    def open_figure(self, columns: list[Column]) -> FigureDialog | None:
        """Ask how some columns are to be printed."""
        study = self.focus.shelf.study
        if study is None or self.focus.grown is None:
            return None
        stem = "-".join([study.data_file.stem, columns[0].key if len(columns) == 1 else "tree"])
        start = study.data_file.with_name(stem)
        dialog = FigureDialog(self.acts, columns, self.desk.shares(columns), start, self)
        dialog.open()
        return dialog

    def _desk_changed(self) -> None:
        self._show_cut()
        study = self.focus.shelf.study
        if study is not None and self._study is study.data_file:
            self.acts.settings.remember_desk(study.data_file, self.desk.state())
            save_settings(self.acts.settings)
