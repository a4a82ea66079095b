"""The path strip: the pages in order of work, each with its live state."""

from __future__ import annotations

import math
from dataclasses import dataclass

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import (
    QColor,
    QFocusEvent,
    QFontMetricsF,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
)
from PySide6.QtWidgets import QWidget

from gorvel.desk.controls.plain_text import as_tip
from gorvel.paint.theme import current, font

_HIGH = 56
_LEFT = 16.0
_GAP, _WIDE_GAP = 44.0, 88.0  # pixels of line between two stops, and where there is much room
_WIDE = 1600  # pixels of a window that has it
_LEAST_GAP = 14.0  # where there is no room for more
_TEXT = 22.0  # from a stop's dot to its words


@dataclass(frozen=True)
class Stop:
    """One page on the path.

    state : in words; alarm : wants an eye; pending : something is still to be done here; ready :
    there is something;
    tip : what a click does, where that is not just to open the page.
    """

    name: str
    state: str
    alarm: bool = False
    pending: bool = False
    ready: bool = True
    tip: str = ""


class PathStrip(QWidget):
    """Signals: chosen(index)."""

    chosen = Signal(int)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.stops: tuple[Stop, ...] = ()
        self.here = -1
        self._cursor = 0
        self._by_key = False  # a ring is shown to those who came by the keyboard
        self.setFixedHeight(_HIGH)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        self.setAccessibleName("Path")
        self.setAttribute(Qt.WidgetAttribute.WA_Hover)

    def show_stops(self, stops: tuple[Stop, ...], here: int) -> None:
        """Show the path, and which page is open."""
        if (stops, here) == (self.stops, self.here):
            return
        self._cursor = here if here != self.here and here >= 0 else self._cursor
        self.stops, self.here = stops, here
        spoken = "; ".join(f"{stop.name}: {stop.state}" for stop in stops)
        self.setAccessibleDescription(spoken)
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(600, _HIGH)

    def places(self) -> list[QRectF]:
        """Where each stop is.

        They are nearer to each other where there is little room, then with states cut short, the
        longest first.
        """
        name, state = QFontMetricsF(font("title", 600)), QFontMetricsF(font("table"))
        names = [name.horizontalAdvance(stop.name) for stop in self.stops]
        states = [state.horizontalAdvance(_words(stop)) for stop in self.stops]
        between = max(len(names) - 1, 1)

        def wide(most: float) -> list[float]:
            return [max(one, min(told, most)) for one, told in zip(names, states, strict=True)]

        room = self.width() - _LEFT - _TEXT * len(names)
        gap = min(
            max(math.floor((room - sum(wide(math.inf))) / between), _LEAST_GAP),
            _WIDE_GAP if self.width() >= _WIDE else _GAP,
        )
        most = max(states, default=0.0)
        while most > 0 and sum(wide(most)) + gap * between > room:
            most -= 2.0
        out, x = [], _LEFT
        for width in wide(most):
            out.append(QRectF(x, 0, _TEXT + width, _HIGH))
            x += _TEXT + width + gap
        return out

    def paintEvent(self, event: QPaintEvent) -> None:
        theme = current()
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        places = self.places()
        name_font = font("title", 600)
        if not self.stops:
            painter.setFont(font("result", 600))
            painter.setPen(QColor(theme.ink))
            painter.drawText(QPointF(_LEFT, 35), "Gorvel")
        for k, (stop, place) in enumerate(zip(self.stops, places, strict=True)):
            end = place.left() + _TEXT + QFontMetricsF(name_font).horizontalAdvance(stop.name)
            if k + 1 < len(places):
                painter.setPen(QPen(QColor(theme.line), 1.5))
                painter.drawLine(QPointF(end + 10, 18), QPointF(places[k + 1].left() - 8, 18))
            self._stop(painter, stop, place, k)

    def _stop(self, painter: QPainter, stop: Stop, place: QRectF, k: int) -> None:
        theme, here = current(), k == self.here
        colour = QColor(theme.focus if here else theme.ink if stop.ready else theme.soft)
        hollow = stop.alarm or stop.pending or not stop.ready
        painter.setPen(QPen(QColor(theme.warn) if stop.alarm or stop.pending else colour, 2))
        painter.setBrush(Qt.BrushStyle.NoBrush if hollow else colour)
        painter.drawEllipse(QPointF(place.left() + 6, 18), 5, 5)
        painter.setFont(font("title", 600))
        painter.setPen(QColor(theme.ink if here or stop.ready or stop.alarm else theme.soft))
        painter.drawText(QPointF(place.left() + _TEXT, 23), stop.name)
        painter.setFont(font("table"))
        painter.setPen(QColor(theme.warn if stop.alarm else theme.soft))
        painter.drawText(
            QPointF(place.left() + _TEXT, 43),
            ("! " if stop.alarm else "") + self._told(stop, place),
        )
        if here:
            painter.fillRect(QRectF(place.left() - 4, _HIGH - 4, place.width() + 8, 4), colour)
        if self._by_key and self.hasFocus() and k == self._cursor:
            painter.setPen(QPen(QColor(theme.focus), 1.5))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRoundedRect(place.adjusted(-6, 3, 6, -6), 4, 4)

    @staticmethod
    def _told(stop: Stop, place: QRectF) -> str:
        """Its state, as far as there is room for it."""
        metrics, room = QFontMetricsF(font("table")), place.width() - _TEXT
        return metrics.elidedText(_words(stop), Qt.TextElideMode.ElideRight, room + 0.5)

    def _stop_at(self, point: QPointF) -> int | None:
        for k, place in enumerate(self.places()):
            if place.adjusted(-8, 0, 8, 0).contains(point):
                return k
        return None

    def mousePressEvent(self, event: QMouseEvent) -> None:
        stop = self._stop_at(event.position())
        if stop is not None:
            self._cursor = stop
            self.chosen.emit(stop)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        over = self._stop_at(event.position())
        shape = Qt.CursorShape.ArrowCursor if over is None else Qt.CursorShape.PointingHandCursor
        self.setCursor(shape)
        self.setToolTip("" if over is None else as_tip(self._tip(over)))

    def _tip(self, k: int) -> str:
        """What a click does, and the state where there is no room for all of it."""
        stop = self.stops[k]
        short = self._told(stop, self.places()[k]) != stop.state
        return "\n".join(filter(None, (stop.state if short else "", stop.tip)))

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() in (Qt.Key.Key_Left, Qt.Key.Key_Right):
            by = 1 if event.key() == Qt.Key.Key_Right else -1
            self._cursor = min(max(self._cursor + by, 0), len(self.stops) - 1)
            self._by_key = True
            self.update()
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Space):
            self.chosen.emit(self._cursor)
        else:
            super().keyPressEvent(event)

    def focusInEvent(self, event: QFocusEvent) -> None:
        reasons = (Qt.FocusReason.TabFocusReason, Qt.FocusReason.BacktabFocusReason)
        self._by_key = event.reason() in reasons
        self.update()

    def focusOutEvent(self, event: QFocusEvent) -> None:
        self.update()


def _words(stop: Stop) -> str:
    """Its state; a sign before what wants an eye, so that colour is not alone."""
    return f"! {stop.state}" if stop.alarm else stop.state
