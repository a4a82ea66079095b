"""A matrix of small scatters: a few questions, each against each."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from PySide6.QtCore import QEvent, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QColor, QMouseEvent, QPainter, QPaintEvent, QPen, QPixmap
from PySide6.QtWidgets import QSizePolicy, QWidget

from gorvel.desk.state.focus import Focus
from gorvel.paint.canvas import Canvas
from gorvel.paint.charts.points import Points, PointsPainter
from gorvel.paint.figure import Sheet
from gorvel.paint.theme import LIGHT, Theme, current, font

Made = Callable[[str, str], Points | None]


class GridView(QWidget):
    """Names stand on the diagonal. Signals: chosen(across, along), a picture was clicked."""

    chosen = Signal(str, str)

    def __init__(self, focus: Focus, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.focus = focus
        self.names: Sequence[str] = []
        self._points: dict[tuple[str, str], Points] = {}
        self._ground: QPixmap | None = None  # as painted last, kept until something changes
        self._over: tuple[int, int] | None = None
        self.setMouseTracking(True)
        self.setAccessibleName("Questions all against all")
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)

    def sizeHint(self) -> QSize:
        return QSize(640, 480)

    def show_grid(self, names: Sequence[str], made: Made | None) -> None:
        """Show these questions. made : the points of a pair, across and along."""
        self.names, self._points = names, {}
        for row, along in enumerate(names):
            for across in names[:row]:
                points = made(across, along) if made is not None else None
                if points is not None:
                    self._points[across, along] = points
        self._ground = None
        self.update()

    def _cell(self, row: int, column: int, width: float, height: float) -> QRectF:
        count = max(len(self.names), 1)
        wide, high = width / count, height / count
        return QRectF(column * wide + 2, row * high + 2, wide - 4, high - 4)

    def draw(self, canvas: Canvas, width: float, height: float, theme: Theme) -> None:
        """Pictures below the diagonal, names on it."""
        painter = canvas.painter
        for row, along in enumerate(self.names):
            box = self._cell(row, row, width, height)
            shape = font(0.93, 600)
            words = canvas.shortened(along, shape, box.width() - 6)
            canvas.write(box, words, theme.ink, shape, "centre")
            for column, across in enumerate(self.names[:row]):
                box = self._cell(row, column, width, height)
                painter.setPen(QPen(QColor(theme.line), 1.0))
                painter.setBrush(Qt.BrushStyle.NoBrush)
                painter.drawRect(box)
                points = self._points.get((across, along))
                if points is not None:
                    painter.save()
                    painter.translate(box.topLeft())
                    PointsPainter(
                        points, theme, box.width(), box.height(), small=True
                    ).paint(canvas)  # fmt: skip
                    painter.restore()

    def paintEvent(self, event: QPaintEvent) -> None:
        ratio = self.devicePixelRatioF()
        if self._ground is None or self._ground.size() != self.size() * ratio:
            self._ground = QPixmap(self.size() * ratio)
            self._ground.setDevicePixelRatio(ratio)
            self._ground.fill(Qt.GlobalColor.transparent)
            inner = QPainter(self._ground)
            self.draw(Canvas(inner), self.width(), self.height(), current())
            inner.end()
        painter = QPainter(self)
        painter.drawPixmap(0, 0, self._ground)
        if self._over is not None:
            painter.setPen(QPen(QColor(current().focus), 1.6))
            painter.drawRect(self._cell(*self._over, self.width(), self.height()))
        painter.end()

    def pair_at(self, x: float, y: float) -> tuple[int, int] | None:
        """Row and column of the picture at a pixel."""
        count = len(self.names)
        row = int(y / max(self.height() / max(count, 1), 1e-9))
        column = int(x / max(self.width() / max(count, 1), 1e-9))
        return (row, column) if 0 <= column < row < count else None

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        self._over = self.pair_at(event.position().x(), event.position().y())
        hand = Qt.CursorShape.PointingHandCursor
        self.setCursor(hand if self._over else Qt.CursorShape.ArrowCursor)
        self.update()

    def leaveEvent(self, event: QEvent) -> None:
        self._over = None
        self.update()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        pair = self.pair_at(event.position().x(), event.position().y())
        if pair is not None and event.button() == Qt.MouseButton.LeftButton:
            self.chosen.emit(self.names[pair[1]], self.names[pair[0]])

    def sheet(self) -> Sheet | None:
        """The matrix for print."""
        if not self.names:
            return None

        def draw(canvas: Canvas, width: float, height: float) -> None:
            self.draw(canvas, width, height, LIGHT)

        return Sheet(draw, 170.0, 150.0, title="Questions against each other")
