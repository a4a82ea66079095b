"""A column of the desk: painted along the shared case axis, upright or not."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

from PySide6.QtCore import QEvent, QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import (
    QColor,
    QEnterEvent,
    QFocusEvent,
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

from gorvel.core.results.table import ResultTable
from gorvel.desk.controls.texts import button
from gorvel.desk.state.marks import Mark
from gorvel.desk.views.case_axis import CaseAxis
from gorvel.paint.axes import Frame
from gorvel.paint.canvas import Canvas
from gorvel.paint.columns.column import ColumnPicture
from gorvel.paint.theme import Theme, current
from gorvel.paint.tree_style import TreeLook

_ZOOM = 1.25
_LARGE = 50_000  # cases from which columns are painted one after the other
_MARK = 2.0  # pixels of the lines above and below what is marked
_CROSS = 16  # pixels of the mark that hides the column
_DRAG = 5.0  # pixels from which a press is a drag


class Column(QWidget):
    """Subclasses say what they show by `picture`, paint marks over it, and answer `mark_at`.

    Signals: asked(QPoint), the menu of the column was asked for; filled(), it shall fill the page;
    hide_requested(), it shall go; named(cluster), a cluster (from 1) is to be given a title.
    """

    asked = Signal(object)
    filled = Signal()
    hide_requested = Signal()
    named = Signal(int)
    key = ""
    title = ""
    margin = ColumnPicture.margin
    covered = -1.0  # pixels from which what is marked is tinted, where no colour means anything

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
        self.hide_button = button("×", self.hide_requested.emit, "link", "Hide the column (Delete)")
        self.hide_button.setAccessibleName(f"Hide {self.title}")
        self.hide_button.setParent(self)
        self.hide_button.setFixedSize(_CROSS, _CROSS)
        self.hide_button.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.hide_button.hide()
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

    def frame(self) -> Frame:
        """Where the axes run."""
        before, after = self.margin
        return self.axis.frame(before, max(self.extent()[0] - after, before + 1))

    def _point(self, point: QPointF) -> QPointF:
        return QPointF(point.y(), point.x()) if self.axis.upright else point

    # painting

    def picture(self, look: TreeLook, final: bool = False) -> ColumnPicture | None:
        """What is shown, as plain values; None where there is nothing.

        final : on paper, where nothing can follow; on the screen it may be less at first, to be
        painted again soon.
        """
        raise NotImplementedError

    def natural(self, look: TreeLook, share: float) -> float:
        """The width that suits the column, as its picture has it; 0 where more is better."""
        return 0.0

    def printed(self, theme: Theme) -> ColumnPicture | None:
        """What is shown, for paper."""
        look = self.axis.look()
        return None if look is None else self.picture(replace(look, theme=theme), final=True)

    def table(self, look: TreeLook) -> ResultTable | None:
        """What the column shows, as a table to be copied."""
        return None

    def paint_live(self, canvas: Canvas, look: TreeLook, frame: Frame) -> None:
        """What follows the pointer and the selection; rows of what is marked by default."""
        if self.focus.mark is not None:
            for node in self.focus.nodes_of(self.focus.mark):
                self._band(canvas, look, frame, node)

    def _band(self, canvas: Canvas, look: TreeLook, frame: Frame, node: int) -> None:
        top, bottom = look.extent(frame, node)
        colour, wide = QColor(look.theme.focus), frame.right - frame.left
        for y in (top - _MARK, max(bottom, top + _MARK)):  # colours between stay what they are
            canvas.painter.fillRect(QRectF(frame.left, y, wide, _MARK), colour)
        if self.covered >= 0:
            colour.setAlpha(46)
            box = QRectF(frame.left, top, wide, bottom - top).adjusted(self.covered, 0, 0, 0)
            canvas.painter.fillRect(box, colour)

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
        look = self.axis.look()
        shown = None if look is None else self.picture(look)
        if shown is not None:
            with QPainter(picture) as inner:
                shown.paint_whole(Canvas(inner, self.axis.upright), frame, self.extent()[0])
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

    def enterEvent(self, event: QEnterEvent) -> None:
        self.hide_button.show()

    def leaveEvent(self, event: QEvent) -> None:
        self.hide_button.hide()
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
            Qt.Key.Key_F2: self.name_marked,
            Qt.Key.Key_Return: self.filled.emit,
            Qt.Key.Key_Delete: self.hide_requested.emit,
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

    def name_marked(self) -> None:
        """Ask for a title of the cluster that is marked."""
        if self.marked_cluster():
            self.named.emit(self.marked_cluster())

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
        self.hide_button.move(self.width() - _CROSS - 1, 0)
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
