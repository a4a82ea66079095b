"""A chart on the screen: painted, pointed at, pressed, walked through with the keys, printed."""

from __future__ import annotations

from typing import Any, Generic, TypeVar

from PySide6.QtCore import QEvent, QPointF, QSize, Qt
from PySide6.QtGui import (
    QFocusEvent,
    QHelpEvent,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPixmap,
)
from PySide6.QtWidgets import QSizePolicy, QWidget

from gorvel.desk.controls.plain_text import show_tip
from gorvel.paint.canvas import Canvas
from gorvel.paint.chart import Chart, Place
from gorvel.paint.figure import Sheet
from gorvel.paint.result_figures import sheet_of
from gorvel.paint.theme import LIGHT, Theme, current

_BY_KEY = (Qt.FocusReason.TabFocusReason, Qt.FocusReason.BacktabFocusReason)
AnyChart = TypeVar("AnyChart", bound=Chart[Any])
ARROWS = {
    Qt.Key.Key_Left: (-1, 0), Qt.Key.Key_Right: (1, 0),
    Qt.Key.Key_Up: (0, -1), Qt.Key.Key_Down: (0, 1),
}  # fmt: skip


class ChartView(QWidget, Generic[AnyChart, Place]):
    """A subclass makes the chart, and says what pointing at a place and pressing there mean.

    hint, least : pixels across and down, 0 for none; keys : can it have the keyboard? grows : takes
    what room there is.
    """

    paper = (170.0, 110.0)  # millimetres of the figure for print

    def __init__(
        self, name: str, hint: tuple[int, int] = (0, 0), least: tuple[int, int] = (0, 0),
        keys: bool = False, grows: bool = False, parent: QWidget | None = None,
    ) -> None:  # fmt: skip
        super().__init__(parent)
        self._hint = hint
        self.place: Place | None = None  # under the pointer
        self._ground: tuple[object, QPixmap] | None = None  # kept, by what it shows
        self._keyed = False  # did the keys come here by a key?
        self.setMouseTracking(True)
        self.setAccessibleName(name)
        self.setMinimumSize(*least)
        if keys:
            self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        if grows:
            self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)

    def sizeHint(self) -> QSize:
        return QSize(*self._hint) if any(self._hint) else super().sizeHint()

    # the chart

    def make_chart(
        self, theme: Theme, width: float, height: float, screen: bool = True
    ) -> AnyChart | None:
        """The chart; None where there is nothing to show. screen : with what is marked."""
        raise NotImplementedError

    def chart(self) -> AnyChart | None:
        """As it is on the screen."""
        return self.make_chart(current(), float(self.width()), float(self.height()))

    def sheet(self, title: str) -> Sheet | None:
        """For print; None where there is nothing to show."""
        if self.chart() is None:
            return None

        def made(theme: Theme, wide: float, high: float) -> Chart[Any]:
            chart = self.make_chart(theme, wide, high, screen=False)
            assert chart is not None
            return chart

        return sheet_of(made, *self.paper, title)

    def keep_size(self) -> None:
        """Be no smaller than the chart needs."""
        chart = self.make_chart(LIGHT, float(self.width()), float(self.height()))
        if chart is not None:
            self.setMinimumSize(*(round(side) for side in chart.least))

    # painting

    def ground_key(self, chart: AnyChart) -> object:
        """What the ground shows, where it is kept while only marks move; None where it is not."""
        return None

    def paint_marks(self, chart: AnyChart, canvas: Canvas) -> None:
        """What lies over a ground that is kept."""

    def paint_ground(self, chart: AnyChart, canvas: Canvas, event: QPaintEvent | None) -> None:
        """All that is not a mark. event : None where a ground is kept."""
        chart.paint(canvas)

    @property
    def framed(self) -> bool:
        """Is it shown that the keys go here?"""
        return self.hasFocus() and self._keyed

    def paintEvent(self, event: QPaintEvent) -> None:
        chart = self.chart()
        if chart is None:
            return
        with QPainter(self) as painter:
            key = self.ground_key(chart)
            if key is None:
                self.paint_ground(chart, Canvas(painter), event)
            else:
                painter.drawPixmap(0, 0, self._kept_ground(chart, key))
                self.paint_marks(chart, Canvas(painter))
            if self.framed:
                painter.setBrush(Qt.BrushStyle.NoBrush)
                painter.setPen(current().focus)
                painter.drawRect(self.rect().adjusted(0, 0, -1, -1))

    def _kept_ground(self, chart: AnyChart, key: object) -> QPixmap:
        ratio = self.devicePixelRatioF()
        whole = (key, ratio, self.size().toTuple())
        if self._ground is None or self._ground[0] != whole:
            pixels = QPixmap(self.size() * ratio)
            pixels.setDevicePixelRatio(ratio)
            pixels.fill(Qt.GlobalColor.transparent)
            with QPainter(pixels) as inner:
                self.paint_ground(chart, Canvas(inner), None)
            self._ground = whole, pixels
        return self._ground[1]

    # pointing

    def at(self, point: QPointF) -> Place | None:
        """What lies at a pixel."""
        chart = self.chart()
        return None if chart is None else chart.at(point.x(), point.y())

    def point(self, place: Place | None) -> None:
        """Something is pointed at, None for nothing."""
        if place != self.place:
            self.place = place
            self.update()

    def can_press(self, place: Place | None) -> bool:
        """Does it mean anything to press there?"""
        return place is not None

    def press(self, place: Place | None) -> None:
        """Something was pressed, None for nothing."""

    def words(self, place: Place) -> str:
        """What is said of a place."""
        chart = self.chart()
        return "" if chart is None else chart.tip(place)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        place = self.at(event.position())
        self.point(place)
        shapes = Qt.CursorShape
        can = self.can_press(place)
        self.setCursor(shapes.PointingHandCursor if can else shapes.ArrowCursor)

    def leaveEvent(self, event: QEvent) -> None:
        self.point(None)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.button() == Qt.MouseButton.LeftButton:
            self.press(self.at(event.position()))

    def event(self, event: QEvent) -> bool:
        if isinstance(event, QHelpEvent) and event.type() == QEvent.Type.ToolTip:
            place = self.at(QPointF(event.pos()))
            show_tip(event.globalPos(), "" if place is None else self.words(place), self)
            return True
        return super().event(event)

    # keys

    def key(self, key: Qt.Key) -> bool:
        """Act on a key; False where it means nothing here."""
        return False

    def focusInEvent(self, event: QFocusEvent) -> None:
        self._keyed = event.reason() in _BY_KEY
        super().focusInEvent(event)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if not self._keyed:
            self._keyed = True
            self.update()
        if self.chart() is None or not self.key(Qt.Key(event.key())):
            super().keyPressEvent(event)
