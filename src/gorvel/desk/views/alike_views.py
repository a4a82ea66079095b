"""How two trees agree: a curve over the counts, and a table of who is where."""

from __future__ import annotations

from collections.abc import Mapping

from PySide6.QtCore import QEvent, QSize, Qt, Signal
from PySide6.QtGui import QHelpEvent, QKeyEvent, QMouseEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import QSizePolicy, QWidget

from gorvel.core.compare.partitions import Agreement
from gorvel.core.results.comparison import as_drawn
from gorvel.core.study.tree_pairs import PairAtCut
from gorvel.desk.controls.plain_text import show_tip
from gorvel.paint.canvas import Canvas
from gorvel.paint.charts.alike import AlikePainter, CrossPainter
from gorvel.paint.theme import Theme, current

_Cell = tuple[int, int]


class AlikeView(QWidget):
    """Signals: chosen(count), by a click or the arrow keys."""

    chosen = Signal(int)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.found: Mapping[int, Agreement] = {}
        self.count = self._hovered = 0
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Agreement by number of clusters")
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setMinimumHeight(120)

    def sizeHint(self) -> QSize:
        return QSize(320, 180)

    def show_found(self, found: Mapping[int, Agreement], count: int) -> None:
        """count : in hand."""
        self.found, self.count = found, count
        self.update()

    def painter(
        self, theme: Theme | None = None, width: float = 0.0, height: float = 0.0
    ) -> AlikePainter:
        """What paints it. width, height : 0 for the screen."""
        return AlikePainter(
            self.found, theme or current(), width or float(self.width()),
            height or float(self.height()), self.count, 0 if width else self._hovered,
        )  # fmt: skip

    def paintEvent(self, event: QPaintEvent) -> None:
        ground = QPainter(self)
        self.painter().paint(Canvas(ground))
        if self.hasFocus():
            ground.setPen(current().focus)
            ground.drawRect(self.rect().adjusted(0, 0, -1, -1))
        ground.end()

    def event(self, event: QEvent) -> bool:
        if event.type() == QEvent.Type.ToolTip and isinstance(event, QHelpEvent):
            painter = self.painter()
            words = painter.tip(painter.count_at(float(event.pos().x())))
            show_tip(event.globalPos(), words, self)
            return True
        return super().event(event)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        self._hovered = self.painter().count_at(event.position().x())
        self.update()

    def leaveEvent(self, event: QEvent) -> None:
        self._hovered = 0
        self.update()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        count = self.painter().count_at(event.position().x())
        if count:
            self.chosen.emit(count)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        by = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}.get(Qt.Key(event.key()), 0)
        if by and self.count + by in self.found:
            self.chosen.emit(self.count + by)
        elif not by:
            super().keyPressEvent(event)


class CrossView(QWidget):
    """Signals: chosen(), the cell whose cases are listed, or none any more."""

    chosen = Signal()

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.met: PairAtCut | None = None
        self.cell: _Cell | None = None  # clusters of the left and the right tree
        self._hovered: _Cell | None = None
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Cross-tabulation of the clusters of both trees")

    def show_met(self, met: PairAtCut | None) -> None:
        """Show these two cuts."""
        same = met is not None and self.met is not None and met.crossed is self.met.crossed
        self.met = met
        self._hovered = None
        painter = self.painter()
        if painter is not None:
            self.setMinimumSize(*(round(side) for side in painter.least))
        self.update()
        if not same and self.cell is not None:
            self.take(None)

    def painter(
        self, theme: Theme | None = None, width: float = 0.0, height: float = 0.0
    ) -> CrossPainter | None:
        """What paints it; None where there is nothing. width, height : 0 for the screen."""
        met = self.met
        if met is None:
            return None
        found, (rows, columns) = met.crossed, as_drawn(met)
        return CrossPainter(
            found.table, rows, columns, met.names, met.others, found.partner, theme or current(),
            width or float(self.width()), height or float(self.height()),
            None if width else self.cell, None if width else self._hovered,
        )  # fmt: skip

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = self.painter()
        if painter is None:
            return
        ground = QPainter(self)
        painter.paint(Canvas(ground))
        if self.hasFocus():
            ground.setPen(current().focus)
            ground.drawRect(self.rect().adjusted(0, 0, -1, -1))
        ground.end()

    def told(self, cell: _Cell) -> str:
        """What a cell holds, in words."""
        met = self.met
        assert met is not None
        cases, own = int(met.crossed.table[cell]), int(met.crossed.table[cell[0]].sum())
        here, there = met.names[cell[0]].told, met.others[cell[1]].told
        of = met.faced.pair.one.of
        return f"{cases:,} of the {own:,} {of} of {here} are in {there} of the right tree"

    def take(self, cell: _Cell | None) -> None:
        """Have the cases of a cell listed."""
        self.cell = cell
        self.update()
        self.chosen.emit()

    def event(self, event: QEvent) -> bool:
        if event.type() == QEvent.Type.ToolTip and isinstance(event, QHelpEvent):
            painter = self.painter()
            cell = None if painter is None else painter.cell_at(event.pos().x(), event.pos().y())
            show_tip(event.globalPos(), "" if cell is None else self.told(cell), self)
            return True
        return super().event(event)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        painter, at = self.painter(), event.position()
        self._hovered = None if painter is None else painter.cell_at(at.x(), at.y())
        shape = Qt.CursorShape.PointingHandCursor if self._hovered else Qt.CursorShape.ArrowCursor
        self.setCursor(shape)
        self.update()

    def leaveEvent(self, event: QEvent) -> None:
        self._hovered = None
        self.update()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        painter, at = self.painter(), event.position()
        cell = None if painter is None else painter.cell_at(at.x(), at.y())
        self.take(None if cell == self.cell else cell)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        steps = {Qt.Key.Key_Left: (0, -1), Qt.Key.Key_Right: (0, 1), Qt.Key.Key_Up: (-1, 0),
                 Qt.Key.Key_Down: (1, 0)}  # fmt: skip
        painter, step = self.painter(), steps.get(Qt.Key(event.key()))
        if painter is not None and step is not None:
            row, column = 0, 0
            if self.cell is not None:
                row = painter.rows.index(self.cell[0]) + step[0]
                column = painter.columns.index(self.cell[1]) + step[1]
            row = min(max(row, 0), len(painter.rows) - 1)
            column = min(max(column, 0), len(painter.columns) - 1)
            self.take((painter.rows[row], painter.columns[column]))
        elif event.key() == Qt.Key.Key_Escape and self.cell is not None:
            self.take(None)
        else:
            super().keyPressEvent(event)
