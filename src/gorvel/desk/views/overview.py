"""All cases at once beside the scroll bar: the clusters, and which part is in sight."""

from __future__ import annotations

from PySide6.QtCore import QEvent, QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from gorvel.desk.views.case_axis import CaseAxis
from gorvel.paint.axes import Frame
from gorvel.paint.canvas import Canvas
from gorvel.paint.theme import current

_WIDE = 16


class Overview(QWidget):
    """Shown while some cases are out of sight; a press or a drag goes there."""

    def __init__(self, axis: CaseAxis, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.axis = axis
        self.setAccessibleName("Overview of all cases")
        self.setToolTip("All cases; the frame marks those visible")
        for signal in (axis.moved, axis.arranged, axis.focus.cut_changed):
            signal.connect(self._follow)
        self._follow()

    def _follow(self) -> None:
        self.setVisible(self.axis.whole > self.axis.body + 1)
        limit = 16_777_215  # no limit
        if self.axis.upright:
            self.setMinimumSize(0, _WIDE)
            self.setMaximumSize(limit, _WIDE)
        else:
            self.setMinimumSize(_WIDE, 0)
            self.setMaximumSize(_WIDE, limit)
        self.update()

    def _frame(self) -> Frame:
        """All cases, beside where the columns show some of them."""
        axis = self.axis
        length = axis.arrangement.length if axis.arrangement else 1.0
        top, body = axis.head, axis.body
        return Frame(2.0, _WIDE - 2.0, top, top + body, body / max(length, 1.0))

    def paintEvent(self, event: QPaintEvent) -> None:
        look = self.axis.look()
        if look is None:
            return
        painter, frame = QPainter(self), self._frame()
        canvas = Canvas(painter, self.axis.upright)
        for cluster, root in enumerate(look.cut.roots.tolist(), 1):
            top, bottom = look.extent(frame, root)
            colour = look.colour(cluster)
            colour.setAlpha(150)
            canvas.painter.fillRect(QRectF(4, top, _WIDE - 8, max(bottom - top, 0.5)), colour)
        shown, theme = self.axis.frame(0, 1), current()
        first, last = shown.place(shown.top), shown.place(shown.bottom)
        painter.setPen(QPen(QColor(theme.focus), 1.6))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        high = max((last - first) * frame.row, 3.0)
        painter.drawRoundedRect(QRectF(1.5, frame.y(first), _WIDE - 3, high), 2, 2)
        painter.end()

    def _go(self, at: QPointF) -> None:
        y = at.x() if self.axis.upright else at.y()
        self.axis.scroll_to(self._frame().place(y) * self.axis.row - self.axis.body / 2)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self._go(event.position())

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if event.buttons() & Qt.MouseButton.LeftButton:
            self._go(event.position())

    def changeEvent(self, event: QEvent) -> None:
        super().changeEvent(event)
        if event.type() == QEvent.Type.PaletteChange:
            self.update()
