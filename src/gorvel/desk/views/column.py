"""A column of the desk: painted along the shared case axis, upright or not."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

from PySide6.QtCore import QEvent, QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import (
    QColor,
    QFocusEvent,
    QFont,
    QKeyEvent,
    QMouseEvent,
    QNativeGestureEvent,
    QPainter,
    QPaintEvent,
    QPixmap,
    QResizeEvent,
    QWheelEvent,
)
from PySide6.QtWidgets import QWidget

from gorvel.core.export.views import ViewTable
from gorvel.desk.state.marks import Mark
from gorvel.desk.views.case_axis import CaseAxis
from gorvel.paint.canvas import Canvas
from gorvel.paint.frame import Frame
from gorvel.paint.look import TreeLook
from gorvel.paint.theme import Theme, current, font

__all__ = ["Column"]

_ZOOM = 1.25
_LARGE = 50_000  # cases from which columns are painted one after the other
_UPRIGHT_FREE = 58.0  # pixels beside an upright heading that the handle of the cut takes
_DRAG = 5.0  # pixels from which a press is a drag


class Column(QWidget):
    """Subclasses paint with `paint_still` and `paint_live`, and answer `mark_at`.

    Signals: asked(QPoint), the menu of the column was asked for; filled(), it shall fill the page.
    """

    asked = Signal(object)
    filled = Signal()
    key = ""
    title = ""
    margin = (6.0, 6.0)

    def __init__(self, axis: CaseAxis, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.axis, self.focus = axis, axis.focus
        self._picture: QPixmap | None = None
        self._stale = True  # the picture shows what was there before
        self._pressed: tuple[float, float] | None = None  # where, and how far the axis was scrolled
        self._by_key = False  # a ring is shown to those who came by the keyboard
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        self.setAccessibleName(self.title)
        self.setMinimumSize(QSize(60, 60))
        axis.moved.connect(self.forget_picture)
        axis.arranged.connect(self.forget_picture)
        self.focus.cut_changed.connect(self.forget_picture)
        self.focus.mark_changed.connect(self.update)

    # geometry: as if cases ran down, whichever way they do

    def extent(self) -> tuple[float, float]:
        """Pixels across the cases, and along them."""
        wide, high = float(self.width()), float(self.height())
        return (high, wide) if self.axis.upright else (wide, high)

    def natural(self, look: TreeLook) -> float:
        """The width that suits the column whatever room there is; 0 where more is better."""
        return 0.0

    def frame(self) -> Frame:
        """Where the axes run."""
        wide = self.extent()[0]
        return self.axis.frame(self.margin[0], max(wide - self.margin[1], self.margin[0] + 1))

    def _point(self, point: QPointF) -> QPointF:
        return QPointF(point.y(), point.x()) if self.axis.upright else point

    # painting

    def paint_still(self, canvas: Canvas, look: TreeLook, frame: Frame) -> None:
        """All that does not follow the pointer, inside the cases."""
        raise NotImplementedError

    def paint_print(self, canvas: Canvas, look: TreeLook, frame: Frame) -> None:
        """The same where nothing can follow later."""
        self.paint_still(canvas, look, frame)

    def table(self, look: TreeLook) -> ViewTable | None:
        """What the column shows, as a table to be copied."""
        return None

    def paint_foot(self, canvas: Canvas, look: TreeLook, frame: Frame) -> None:
        """Scales and legends after the last case."""

    def paint_live(self, canvas: Canvas, look: TreeLook, frame: Frame) -> None:
        """What follows the pointer and the selection; rows of what is marked by default."""
        if self.focus.mark is not None:
            for node in self.focus.nodes_of(self.focus.mark):
                self._band(canvas, look, frame, node)

    def _band(self, canvas: Canvas, look: TreeLook, frame: Frame, node: int) -> None:
        top, bottom = look.extent(frame, node)
        tint = QColor(look.theme.focus)
        tint.setAlpha(46)
        box = QRectF(frame.left, top, frame.right - frame.left, max(bottom - top, 2.0))
        canvas.painter.fillRect(box, tint)
        if bottom - top < 8:
            canvas.painter.setPen(QColor(look.theme.focus))
            canvas.painter.drawRect(box)

    def paint_cut(self, canvas: Canvas, look: TreeLook, frame: Frame) -> None:
        """Over everything else, the line of the cut where the column has one."""

    def heading(self, theme: Theme) -> str:
        """What the column shows, in words."""
        return self.title

    def paint_whole(self, canvas: Canvas, frame: Frame, theme: Theme, still: bool = True) -> None:
        """Title, cases, foot and cut; still : may show less at first, to be painted again soon."""
        look = self.axis.look()
        if look is None:
            return
        if look.theme is not theme:
            look = replace(look, theme=theme)
        self._head(canvas, frame, look.theme)
        canvas.painter.save()
        canvas.clip(self._cases(frame))
        (self.paint_still if still else self.paint_print)(canvas, look, frame)
        canvas.painter.restore()
        canvas.painter.save()
        self.paint_foot(canvas, look, frame)
        canvas.painter.restore()
        self.paint_cut(canvas, look, frame)

    def _head(self, canvas: Canvas, frame: Frame, theme: Theme) -> None:
        """The heading above the cases; in lines beside them when upright, clear of the cut's."""
        at, words = font(0.86, 600), self.heading(theme)
        long = frame.top - _UPRIGHT_FREE if canvas.upright else frame.right - frame.left
        lines = _lines(canvas, words, at, long) if canvas.upright else [words]
        for number, line in enumerate(lines):
            box = QRectF(frame.left, 0, frame.right - frame.left, 17)
            if canvas.upright:
                box = QRectF(frame.left + 16 * number, 6, 22, long)
            canvas.write(box, canvas.shortened(line, at, long), theme.soft, at)

    def _cases(self, frame: Frame) -> QRectF:
        return QRectF(0, frame.top, self.extent()[0] + 4000, frame.bottom - frame.top + 1)

    @property
    def up_to_date(self) -> bool:
        """Does the picture show what is there now?"""
        return not self._stale

    def forget_picture(self) -> None:
        """Paint anew at the next occasion."""
        self._stale = True
        self.update()

    def _paint_anew(self, frame: Frame) -> QPixmap:
        ratio = self.devicePixelRatioF()
        picture = QPixmap(self.size() * ratio)
        picture.setDevicePixelRatio(ratio)
        picture.fill(QColor(current().panel))
        with QPainter(picture) as inner:
            self.paint_whole(Canvas(inner, self.axis.upright), frame, current())
        return picture

    def paintEvent(self, event: QPaintEvent) -> None:
        frame, look = self.frame(), self.axis.look()
        large = look is not None and look.tree.n > _LARGE
        if self._stale and not (large and self.axis.turns.must_wait(self)):
            with self.axis.turns.painting():
                self._picture, self._stale = self._paint_anew(frame), False
        painter = QPainter(self)
        if self._picture is not None:
            painter.drawPixmap(0, 0, self._picture)
        if look is not None:
            painter.save()
            canvas = Canvas(painter, self.axis.upright)
            self.paint_live(canvas, look, frame)
            painter.restore()
        if self.hasFocus() and self._by_key:
            painter.setPen(QColor(current().focus))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(QRectF(0.5, 0.5, self.width() - 1, self.height() - 1))
        painter.end()

    # pointer and keys

    def mark_at(self, x: float, y: float) -> Mark | None:
        """What is at a point, as cases run down."""
        node = self.unit_at(y)
        return None if node is None else self.axis.mark_of(node)

    def unit_at(self, y: float) -> int | None:
        """The case or folded branch at a pixel down."""
        at, frame = self.axis.arrangement, self.frame()
        if at is None or not frame.top <= y < min(frame.bottom, frame.y(at.length)):
            return None
        return at.unit(at.position(frame.place(y)))

    def pressed(self, x: float, y: float) -> bool:
        """A press that is the column's own business; False where it selects or drags."""
        return False

    def dragged(self, x: float, y: float) -> bool:
        """A drag after such a press."""
        return False

    def released(self) -> None:
        """The end of such a drag."""

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.button() != Qt.MouseButton.LeftButton:
            return
        point = self._point(event.position())
        if self.pressed(point.x(), point.y()):
            return
        self._pressed = (point.y(), self.axis.scrolled)
        self.focus.select(self.mark_at(point.x(), point.y()))

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        point = self._point(event.position())
        if event.buttons() & Qt.MouseButton.LeftButton:
            if self.dragged(point.x(), point.y()):
                return
            if self._pressed is not None and abs(point.y() - self._pressed[0]) > _DRAG:
                self.axis.scroll_to(self._pressed[1] + self._pressed[0] - point.y())
            return
        self.hovered(point.x(), point.y())

    def hovered(self, x: float, y: float) -> None:
        """The pointer is at a point without a button pressed."""
        self.focus.hover(self.mark_at(x, y))

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        self._pressed = None
        self.released()

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        point = self._point(event.position())
        if point.y() < self.axis.head:
            self.filled.emit()
            return
        mark = self.mark_at(point.x(), point.y())
        if mark is not None and mark.kind == "join":
            self.axis.fold(self.focus.nodes_of(mark)[0])

    def contextMenuEvent(self, event: object) -> None:
        self.asked.emit(event.globalPos())  # type: ignore[attr-defined]

    def leaveEvent(self, event: QEvent) -> None:
        self.focus.hover(None)

    def wheelEvent(self, event: QWheelEvent) -> None:
        turns = (event.angleDelta().y() or event.angleDelta().x()) / 120
        if event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            self.axis.zoom(_ZOOM**turns, self._point(event.position()).y())
        else:
            self.axis.scroll_to(self.axis.scrolled - turns * 60)
        event.accept()

    def event(self, event: QEvent) -> bool:
        if isinstance(event, QNativeGestureEvent):
            if event.gestureType() == Qt.NativeGestureType.ZoomNativeGesture:
                self.axis.zoom(1 + event.value(), self._point(event.position()).y())
            return True
        return super().event(event)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        count = self.focus.cut.clusters if self.focus.cut else 1
        axis = self.axis
        acts: dict[Qt.Key, Callable[[], None]] = {
            Qt.Key.Key_Left: lambda: self.focus.set_count(count - 1),
            Qt.Key.Key_Right: lambda: self.focus.set_count(count + 1),
            Qt.Key.Key_Up: lambda: self.focus.step(1),
            Qt.Key.Key_Down: lambda: self.focus.step(-1),
            Qt.Key.Key_Plus: lambda: axis.zoom(_ZOOM),
            Qt.Key.Key_Equal: lambda: axis.zoom(_ZOOM),
            Qt.Key.Key_Minus: lambda: axis.zoom(1 / _ZOOM),
            Qt.Key.Key_0: axis.zoom_to_fit,
            Qt.Key.Key_PageUp: lambda: axis.scroll_to(axis.scrolled - axis.body * 0.9),
            Qt.Key.Key_PageDown: lambda: axis.scroll_to(axis.scrolled + axis.body * 0.9),
            Qt.Key.Key_Home: lambda: axis.scroll_to(0.0),
            Qt.Key.Key_End: lambda: axis.scroll_to(axis.whole),
            Qt.Key.Key_F: self.fold_marked,
            Qt.Key.Key_R: self.rotate_marked,
            Qt.Key.Key_S: self.split_marked,
            Qt.Key.Key_U: self.join_marked_again,
            Qt.Key.Key_Return: self.filled.emit,
            Qt.Key.Key_Escape: lambda: self.focus.select(None),
        }
        act = acts.get(Qt.Key(event.key()))
        if act is None or event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            super().keyPressEvent(event)
        else:
            act()

    def marked_cluster(self) -> int:
        """The cluster (from 1) that what is marked lies in; 0 for none."""
        cut, look, mark = self.focus.cut, self.axis.look(), self.focus.mark
        if cut is None or look is None or mark is None:
            return 0
        node = self.focus.nodes_of(mark)[0]
        own = int(cut.membership[look.tree.firsts[node]])
        return own if look.tree.sizes[node] <= look.tree.sizes[cut.roots[own - 1]] else 0

    def split_marked(self) -> None:
        """Cut the cluster that is marked lower than the others."""
        if self.marked_cluster():
            self.focus.split_cluster(self.marked_cluster())

    def join_marked_again(self) -> None:
        """Take that back for the cluster that is marked."""
        if self.marked_cluster():
            self.focus.join_again(self.marked_cluster())

    def fold_marked(self) -> None:
        """Fold or unfold the branch that is marked."""
        if self.focus.mark is not None:
            self.axis.fold(self.focus.nodes_of(self.focus.mark)[0])

    def rotate_marked(self) -> None:
        """Exchange the parts of the join that is marked."""
        look, mark = self.axis.look(), self.focus.mark
        if look is not None and mark is not None:
            node = self.focus.nodes_of(mark)[0]
            if node >= look.tree.n:
                self.axis.rotate(node - look.tree.n)

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self.axis.set_length(self.extent()[1])
        self.forget_picture()

    def changeEvent(self, event: QEvent) -> None:
        super().changeEvent(event)
        if event.type() in (QEvent.Type.PaletteChange, QEvent.Type.StyleChange):
            self.forget_picture()

    def focusInEvent(self, event: QFocusEvent) -> None:
        self._by_key = event.reason() in (
            Qt.FocusReason.TabFocusReason,
            Qt.FocusReason.BacktabFocusReason,
        )
        self.update()

    def focusOutEvent(self, event: QFocusEvent) -> None:
        self.update()


def _lines(canvas: Canvas, words: str, at: QFont, long: float) -> list[str]:
    """Words in lines of so many pixels, each part of a heading from a line of its own on."""
    lines: list[str] = []
    for part in words.split(" · "):
        begun = ""
        for word in part.split():
            longer = f"{begun} {word}".strip()
            if begun and canvas.wide(longer, at) > long:
                lines.append(begun)
                longer = word
            begun = longer
        lines.append(begun)
    return lines
