"""Words in an order, each with how often it was answered; they are dragged or moved by keys."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QColor, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QSizePolicy, QWidget

from gorvel.desk.controls.plain_text import as_tip
from gorvel.paint.canvas import Canvas
from gorvel.paint.theme import current, font

_CHIP, _BARS, _GAP = 30.0, 30.0, 6.0  # pixels: height of a word, of the bars below, between
_LEAST = 84.0  # width of a word
_NUMBER = 22.0


class OrderStrip(QWidget):
    """One chip for each word, 1 on the left. Left and Right choose, with Alt they move.

    Signals: moved(words), in the order they stand in now.
    """

    moved = Signal(object)

    def __init__(
        self, words: Sequence[str], counts: Mapping[str, int], parent: QWidget | None = None
    ) -> None:
        super().__init__(parent)
        self.words, self.counts = list(words), dict(counts)
        self.at = 0
        self._held: QPointF | None = None
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        self.setCursor(Qt.CursorShape.OpenHandCursor)
        policy = QSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Preferred)
        policy.setHeightForWidth(True)
        self.setSizePolicy(policy)
        self.setAccessibleName("The order of the answers")
        self._describe()

    def _describe(self) -> None:
        told = ", ".join(f"{k} {word}" for k, word in enumerate(self.words, 1))
        self.setAccessibleDescription(told)

    # where things lie

    def _columns(self, width: float) -> int:
        return max(min(len(self.words), int((width + _GAP) // (_LEAST + _GAP))), 1)

    def heightForWidth(self, width: int) -> int:
        rows = -(-len(self.words) // self._columns(width))
        return int(rows * (_CHIP + _BARS + _GAP))

    def sizeHint(self) -> QSize:
        return QSize(400, self.heightForWidth(400))

    def minimumSizeHint(self) -> QSize:
        return QSize(200, int(_CHIP + _BARS))

    def chip(self, place: int) -> QRectF:
        """Where a word lies."""
        columns = self._columns(self.width())
        wide = (self.width() - (columns - 1) * _GAP) / columns
        row, column = divmod(place, columns)
        return QRectF(column * (wide + _GAP), row * (_CHIP + _BARS + _GAP), wide, _CHIP)

    def _chip_at(self, point: QPointF) -> int | None:
        for place in range(len(self.words)):
            if self.chip(place).adjusted(0, 0, _GAP, _BARS).contains(point):
                return place
        return None

    # moving

    def move_to(self, place: int) -> None:
        """Put the chosen word at another place."""
        place = min(max(place, 0), len(self.words) - 1)
        if place != self.at:
            word = self.words.pop(self.at)
            self.words.insert(place, word)
            self.at = place
            self._describe()
            self.update()
            self.moved.emit(tuple(self.words))

    def keyPressEvent(self, event: QKeyEvent) -> None:
        step = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}.get(Qt.Key(event.key()))
        if step is None:
            super().keyPressEvent(event)
            return
        if event.modifiers() & Qt.KeyboardModifier.AltModifier:
            self.move_to(self.at + step)
        else:
            self.at = min(max(self.at + step, 0), len(self.words) - 1)
            self.update()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        place = self._chip_at(event.position())
        if place is not None and event.button() == Qt.MouseButton.LeftButton:
            self.at, self._held = place, event.position()
            self.setCursor(Qt.CursorShape.ClosedHandCursor)
            self.update()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        place = self._chip_at(event.position())
        if self._held is not None and place is not None:
            word = self.words.pop(self.at)
            self.words.insert(place, word)
            self.at = place
            self.update()
        elif place is not None:
            word = self.words[place]
            self.setToolTip(as_tip(f"{word}: {self.counts.get(word, 0):,} times"))

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self._held is not None:
            self._held = None
            self.setCursor(Qt.CursorShape.OpenHandCursor)
            self._describe()
            self.moved.emit(tuple(self.words))

    # drawing

    def paintEvent(self, event: QPaintEvent) -> None:
        theme, painter = current(), QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        canvas = Canvas(painter)
        most = max([*self.counts.values(), 1])
        for place, word in enumerate(self.words):
            box = self.chip(place).adjusted(0.5, 0.5, -0.5, -0.5)
            chosen = place == self.at and self.hasFocus()
            painter.setPen(QPen(QColor(theme.focus if chosen else theme.line), 2 if chosen else 1))
            painter.setBrush(QColor(theme.panel))
            painter.drawRoundedRect(box, 5, 5)
            canvas.write(
                box.adjusted(9, 0, 0, 0), str(place + 1), theme.focus, font("table", 600)
            )  # fmt: skip
            at = font("table")
            room = box.adjusted(9 + _NUMBER, 0, -4, 0)
            canvas.write(room, canvas.shortened(word, at, room.width()), theme.ink, at)
            times = self.counts.get(word, 0)
            high = max((_BARS - 9) * times / most, 1.0 if times else 0.0)
            bar = QRectF(box.left(), box.bottom() + _BARS - 5 - high, box.width(), high)
            painter.fillRect(bar, QColor(theme.bar))
        painter.end()
