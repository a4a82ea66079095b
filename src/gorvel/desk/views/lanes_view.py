"""The clusters side by side: pointed at, clicked, and walked through with the keys."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from functools import partial
from typing import Literal

from PySide6.QtCore import QEvent, QSize, Qt, Signal
from PySide6.QtGui import (
    QContextMenuEvent,
    QHelpEvent,
    QKeyEvent,
    QMouseEvent,
    QMoveEvent,
    QPainter,
    QPaintEvent,
)
from PySide6.QtWidgets import QMenu, QSizePolicy, QWidget

from gorvel.core.profile.lanes import Lane
from gorvel.core.profile.shown import Beside, CellFigure, Profiles, SpreadKind
from gorvel.core.profile.spread import Spread
from gorvel.core.tree.cluster_names import by_letter
from gorvel.desk.controls.delete_on_close import delete_on_close
from gorvel.desk.controls.plain_text import as_item, show_tip
from gorvel.desk.state.focus import Focus
from gorvel.paint.canvas import Canvas
from gorvel.paint.charts.lanes import LanesPainter
from gorvel.paint.theme import current

_Key = Qt.Key
_HINT = 640  # pixels of width


class LanesView(QWidget):
    """figure, kind, spreads, beside : as of the painter; other : the group of the other grouping

    that is pointed at, -1 for none.

    Signals: chosen(cluster), the number from 0 of a column or letter that was clicked;
    pointed(row, cluster), -1 for none; hidden(name of a question), it is not wanted; reached(row),
    by keys.
    """

    chosen = Signal(int)
    pointed = Signal(int, int)
    hidden = Signal(str)
    reached = Signal(int)

    def __init__(self, focus: Focus, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.focus = focus
        self.lanes: list[Lane] = []
        self.row = self.cluster = self.selected = self.other = -1
        self.figure: CellFigure = "mean"
        self.kind: SpreadKind | Literal[""] = ""
        self.common = False  # are lanes on one scale?
        self.spreads: Mapping[str, Spread] = {}
        self.beside: Beside | None = None
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("What the clusters are like")
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)

    def show_lanes(self, lanes: list[Lane]) -> None:
        """Show these, in this order."""
        self.lanes = lanes
        self.row, self.cluster = (self.row if self.row < len(lanes) else -1), -1
        painter = self.painter()
        self.setMinimumHeight(int(painter.height) if painter is not None else 0)
        self.setMinimumWidth(int(painter.least_width) if painter is not None else 0)
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(_HINT, 420)

    @property
    def order(self) -> list[int]:
        """Clusters (from 0) by their letters."""
        return [] if self.focus.cut is None else by_letter(self.focus.identities)

    @property
    def profiles(self) -> Profiles:
        """What is shown, and how."""
        return Profiles(self.lanes, self.figure, self.kind, self.spreads, self.beside, self.common)

    def painter(self) -> LanesPainter | None:
        """What paints it; None where there is nothing."""
        grown, cut = self.focus.grown, self.focus.cut
        if grown is None or cut is None or not self.lanes:
            return None
        painter = LanesPainter.of(
            self.profiles, grown, cut, self.focus.identities, current(), float(self.width())
        )
        return replace(painter, row=self.row, cluster=self.cluster, selected=self.selected)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = self.painter()
        if painter is not None:
            ground = QPainter(self)
            seen = event.rect()
            canvas = Canvas(ground)
            painter.paint(canvas, (seen.top(), seen.bottom()))
            if self.above:
                painter.paint_head(canvas, self.above)
            ground.end()

    @property
    def above(self) -> float:
        """Pixels that are scrolled out of sight above, where the head stays."""
        return max(-float(self.y()), 0.0)

    def moveEvent(self, event: QMoveEvent) -> None:
        super().moveEvent(event)
        self.update()

    # pointing

    def _at(self, x: float, y: float) -> tuple[int, int, int]:
        """The row, the cluster and the group of the other grouping at a place, -1 for none."""
        painter = self.painter()
        if painter is None:
            return -1, -1, -1
        in_head = y < self.above + painter.head
        row = -1 if in_head else painter.row_at(y)
        cluster, other = painter.cluster_at(x), painter.other_at(x)
        if row >= 0 and cluster < 0 and other < 0:
            cluster = painter.near(row, x, y)
        known = row >= 0 or in_head
        return row, cluster if known else -1, other if known else -1

    def point(self, row: int, cluster: int, other: int = -1) -> None:
        """A row and a cluster, or a group of the other grouping, are looked at."""
        if (row, cluster, other) != (self.row, self.cluster, self.other):
            self.row, self.cluster, self.other = row, cluster, other
            self.pointed.emit(row, cluster)
            self.update()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        self.point(*self._at(event.position().x(), event.position().y()))
        hand = Qt.CursorShape.PointingHandCursor
        self.setCursor(hand if self.cluster >= 0 else Qt.CursorShape.ArrowCursor)

    def leaveEvent(self, event: QEvent) -> None:
        self.point(-1, -1)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        _, cluster, _ = self._at(event.position().x(), event.position().y())
        if event.button() == Qt.MouseButton.LeftButton and cluster >= 0:
            self.choose(cluster)

    def choose(self, cluster: int) -> None:
        """Select a cluster (from 0)."""
        self.selected = cluster
        self.chosen.emit(cluster)
        self.update()

    def event(self, event: QEvent) -> bool:
        painter = self.painter()
        if isinstance(event, QHelpEvent) and event.type() == QEvent.Type.ToolTip and painter:
            row, cluster, other = self._at(event.pos().x(), event.pos().y())
            words = painter.words(row, cluster, other)
            show_tip(event.globalPos(), words, self)
            return True
        return super().event(event)

    def contextMenuEvent(self, event: QContextMenuEvent) -> None:
        row, cluster, _ = self._at(event.pos().x(), event.pos().y())
        menu = delete_on_close(QMenu(self))
        if row >= 0:
            name = self.lanes[row].name
            menu.addAction(as_item(f"Hide “{name}”"), partial(self.hidden.emit, name))
        if cluster >= 0:
            called = self.focus.identities[cluster].told
            menu.addAction(as_item(f"Show {called}"), partial(self.choose, cluster))
        if menu.actions():
            menu.exec(event.globalPos())

    # keys

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if not self.lanes or not self._key(event.key()):
            super().keyPressEvent(event)

    def _key(self, key: int) -> bool:
        order = self.order
        if key in (_Key.Key_Up, _Key.Key_Down):
            step = 1 if key == _Key.Key_Down else -1
            row = min(max(self.row + step, 0), len(self.lanes) - 1)
            self.point(row, self.cluster)
            self.reached.emit(row)
        elif key in (_Key.Key_Left, _Key.Key_Right) and order:
            step = 1 if key == _Key.Key_Right else -1
            here = order.index(self.cluster) + step if self.cluster in order else 0
            self.point(max(self.row, 0), order[min(max(here, 0), len(order) - 1)])
        elif key in (_Key.Key_Return, _Key.Key_Space) and self.cluster >= 0:
            self.choose(self.cluster)
        elif key == _Key.Key_Delete and self.row >= 0:
            self.hidden.emit(self.lanes[self.row].name)
        else:
            return False
        return True
