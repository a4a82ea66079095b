"""A grid of shaded numbers: pointed at, walked through with the keys, clicked."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

from PySide6.QtCore import QEvent, Qt, Signal
from PySide6.QtGui import QHelpEvent, QKeyEvent, QMouseEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import QWidget

from gorvel.desk.controls.plain_text import show_tip
from gorvel.paint.canvas import Canvas
from gorvel.paint.charts.shaded import ShadedPainter
from gorvel.paint.figure import Sheet
from gorvel.paint.theme import LIGHT, Theme, current

_Cell = tuple[int, int]


class ShadedView(QWidget):
    """told : says what a cell is.

    Signals: taken(row, column), by a click or Return; pointed(), at another cell.
    """

    taken = Signal(int, int)
    pointed = Signal()

    def __init__(
        self, name: str, told: Callable[[_Cell], str], parent: QWidget | None = None
    ) -> None:
        super().__init__(parent)
        self._told = told
        self._grid: ShadedPainter | None = None
        self.cell: _Cell | None = None
        self.hovered: _Cell | None = None
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName(name)

    def show_grid(self, grid: ShadedPainter | None) -> None:
        """Show this; its size and looks are those of the view."""
        self._grid = grid
        if grid is not None:
            self.setMinimumSize(*(round(side) for side in grid.least))
        self.update()

    def painter(
        self, theme: Theme | None = None, width: float = 0.0, height: float = 0.0
    ) -> ShadedPainter | None:
        """What paints it; None where there is nothing. width, height : 0 for the screen."""
        if self._grid is None:
            return None
        return replace(
            self._grid, theme=theme or current(), width=width or float(self.width()),
            height=height or float(self.height()), chosen=None if width else self.cell,
            hovered=None if width else self.hovered,
        )  # fmt: skip

    @property
    def at(self) -> _Cell | None:
        """What is pointed at, or else walked to."""
        return self.hovered or self.cell

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = self.painter()
        if painter is not None:
            ground = QPainter(self)
            painter.paint(Canvas(ground))
            ground.end()

    def event(self, event: QEvent) -> bool:
        if event.type() == QEvent.Type.ToolTip and isinstance(event, QHelpEvent):
            painter = self.painter()
            cell = None if painter is None else painter.cell_at(event.pos().x(), event.pos().y())
            show_tip(event.globalPos(), "" if cell is None else self._told(cell), self)
            return True
        return super().event(event)

    def _point(self, cell: _Cell | None) -> None:
        if cell != self.hovered:
            self.hovered = cell
            shape = Qt.CursorShape.PointingHandCursor if cell else Qt.CursorShape.ArrowCursor
            self.setCursor(shape)
            self.pointed.emit()
            self.update()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        painter, at = self.painter(), event.position()
        self._point(None if painter is None else painter.cell_at(at.x(), at.y()))

    def leaveEvent(self, event: QEvent) -> None:
        self._point(None)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        painter, at = self.painter(), event.position()
        cell = None if painter is None else painter.cell_at(at.x(), at.y())
        if cell is not None:
            self.cell = cell
            self.update()
            self.taken.emit(*cell)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        steps = {Qt.Key.Key_Left: (0, -1), Qt.Key.Key_Right: (0, 1), Qt.Key.Key_Up: (-1, 0),
                 Qt.Key.Key_Down: (1, 0)}  # fmt: skip
        painter, step = self.painter(), steps.get(Qt.Key(event.key()))
        if painter is not None and step is not None:
            row, column = (0, 0) if self.cell is None else (
                self.cell[0] + step[0], self.cell[1] + step[1]
            )  # fmt: skip
            self.cell = (min(max(row, 0), len(painter.rows) - 1),
                         min(max(column, 0), len(painter.columns) - 1))  # fmt: skip
            self.hovered = None
            self.pointed.emit()
            self.update()
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and self.cell is not None:
            self.taken.emit(*self.cell)
        else:
            super().keyPressEvent(event)

    def sheet(self, title: str) -> Sheet | None:
        """The picture for print."""
        if self._grid is None:
            return None

        def draw(canvas: Canvas, width: float, height: float) -> None:
            painter = self.painter(LIGHT, width, height)
            if painter is not None:
                painter.paint(canvas)

        return Sheet(draw, 170.0, 110.0, title=title)
