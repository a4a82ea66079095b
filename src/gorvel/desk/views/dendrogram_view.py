"""The dendrogram beside its labels: zoom, scroll, hover, select, drag the cut."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QEvent, QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import (
    QColor,
    QFocusEvent,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPixmap,
    QResizeEvent,
    QWheelEvent,
)
from PySide6.QtWidgets import QAbstractScrollArea, QFrame, QWidget

from gorvel.core.scene.axis import HeightAxis, HeightScale
from gorvel.core.scene.dendrogram import DendrogramScene, cut_share, hit, lay_out
from gorvel.desk.painting.dendrogram import STRIP, DendrogramPainter, label_width, paint_cut_line
from gorvel.desk.painting.frame import Frame
from gorvel.desk.state import Focus, Mark
from gorvel.desk.theme import current, font

__all__ = ["DendrogramView"]

_HEADER = 36.0  # pixels above the tree: titles and the handle of the cut line
_MARGIN = 14.0
_GRAB = 6.0  # pixels around the cut line that take hold of it
_NEAR = 7.0  # pixels around a bracket that count as pointing at it
_MOST_ROW = 26.0
_MOST_FIT = 56.0  # a tree of few cases may stand wide
_LEAST_LABELS = 84.0
_ZOOM = 1.25


class DendrogramView(QAbstractScrollArea):
    """Signals: framed() when the height axis has moved; views below draw on the same axis."""

    framed = Signal()

    def __init__(self, focus: Focus, scale: HeightScale = "root", parent: QWidget | None = None):
        super().__init__(parent)
        self.focus = focus
        self.scale: HeightScale = scale
        self.scene: DendrogramScene | None = None
        self._row: float | None = None  # pixels a case; None fits all
        self._picture: QPixmap | None = None
        self._labels_wide = 60.0
        self._dragging = False
        self._by_key = False  # a ring is shown to those who came by the keyboard
        self.setFrameShape(QFrame.Shape.NoFrame)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.viewport().setMouseTracking(True)
        self.viewport().setAutoFillBackground(False)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setAccessibleName("Dendrogram")
        self.setMinimumSize(QSize(320, 140))
        self.verticalScrollBar().valueChanged.connect(self._forget_picture)
        focus.tree_changed.connect(self._new_tree)
        focus.cut_changed.connect(self._forget_picture)
        focus.mark_changed.connect(self._follow_mark)
        self._new_tree()

    # geometry

    def set_scale(self, scale: HeightScale) -> None:
        """Show heights as they are, or their square root."""
        self.scale = scale
        self._new_tree()

    def _new_tree(self) -> None:
        grown = self.focus.grown
        if grown is None:
            self.scene = None
        elif (
            self.scene is None
            or self.scene.tree is not grown.tree
            or self.scene.axis.scale != self.scale
        ):
            if self.scene is None or self.scene.tree is not grown.tree:
                self._row = None
            axis = HeightAxis.over(grown.tree.heights, self.scale)
            self.scene = lay_out(grown.tree, axis)
        self._measure()

    def _measure(self) -> None:
        grown = self.focus.grown
        if grown is not None:
            wide = label_width(grown.prepared.labels, self.viewport().width() * 0.24)
            self._labels_wide = max(wide, _LEAST_LABELS)
        body = self._body_height()
        whole = self._row_height() * (grown.tree.n if grown else 0)
        bar = self.verticalScrollBar()
        bar.setPageStep(int(body))
        bar.setSingleStep(max(int(self._row_height()), 12))
        bar.setRange(0, max(0, round(whole - body)))
        self._forget_picture()
        self.framed.emit()

    def _body_height(self) -> float:
        return max(self.viewport().height() - _HEADER - 4, 10.0)

    def _fit_row(self) -> float:
        cases = self.focus.grown.tree.n if self.focus.grown else 1
        return min(self._body_height() / max(cases, 1), _MOST_FIT)

    def _row_height(self) -> float:
        return self._fit_row() if self._row is None else self._row

    def frame(self) -> Frame:
        """Where the axes run now."""
        right = self.viewport().width() - self._labels_wide - STRIP
        return Frame(
            _MARGIN, right, _HEADER, _HEADER + self._body_height(),
            self._row_height(), float(self.verticalScrollBar().value()),
        )  # fmt: skip

    def cut_x(self) -> float | None:
        """The pixel of the cut line."""
        if self.scene is None or self.focus.cut is None:
            return None
        if self.focus.cut_height is not None:
            share = float(self.scene.axis.share(self.focus.cut_height))
        else:
            share = cut_share(self.scene, self.focus.cut)
        return self.frame().x(share)

    def zoom(self, factor: float, at: float | None = None) -> None:
        """Make rows higher or lower, holding the case at a pixel in its place."""
        if self.focus.grown is None:
            return
        frame = self.frame()
        at = (frame.top + frame.bottom) / 2 if at is None else at
        place = frame.place(at)
        fit = self._fit_row()
        row = min(max(self._row_height() * factor, fit), max(_MOST_ROW, fit))
        self._row = None if row <= fit * 1.001 else row
        self._measure()
        moved = place * self._row_height() - (at - frame.top)
        self.verticalScrollBar().setValue(round(moved))

    def zoom_to_fit(self) -> None:
        """All cases in sight."""
        self._row = None
        self._measure()

    def _follow_mark(self) -> None:
        """Bring what was selected elsewhere into sight; what is hovered is left where it is."""
        mark = self.focus.selected
        if mark is not None and self.focus.hovered is None and self.scene is not None:
            frame = self.frame()
            y = frame.y(float(self.scene.place[self._node(mark)]))
            if not frame.top <= y <= frame.bottom:
                bar = self.verticalScrollBar()
                bar.setValue(round(bar.value() + y - (frame.top + frame.bottom) / 2))
        self.viewport().update()

    # painting

    def _forget_picture(self) -> None:
        self._picture = None
        self.viewport().update()

    def _painter_of_tree(self) -> DendrogramPainter | None:
        grown, cut = self.focus.grown, self.focus.cut
        if grown is None or cut is None or self.scene is None:
            return None
        return DendrogramPainter(self.scene, grown.prepared.labels, cut, current())

    def paintEvent(self, event: QPaintEvent) -> None:
        tree_painter = self._painter_of_tree()
        painter = QPainter(self.viewport())
        if tree_painter is None:
            painter.end()
            return
        if self._picture is None:
            ratio = self.devicePixelRatioF()
            self._picture = QPixmap(self.viewport().size() * ratio)
            self._picture.setDevicePixelRatio(ratio)
            self._picture.fill(QColor(current().panel))
            with QPainter(self._picture) as inner:
                self.paint_still(inner, tree_painter)
        painter.drawPixmap(0, 0, self._picture)
        self._overlay(painter, tree_painter)
        painter.end()

    def paint_still(self, painter: QPainter, tree_painter: DendrogramPainter) -> None:
        """All that does not follow the pointer."""
        frame, theme = self.frame(), current()
        painter.setFont(font(0.86, 600))
        painter.setPen(QColor(theme.soft))
        words = "height, square root" if self.scale == "root" else "height"
        painter.drawText(QPointF(frame.left, 16), f"Dendrogram · {words}")
        painter.drawText(QPointF(frame.right + STRIP + 4, 16), "Case")
        wide = float(self.viewport().width())
        painter.setClipRect(QRectF(0, frame.top, wide - 4, frame.bottom - frame.top + 2))
        tree_painter.paint(painter, frame)
        painter.setClipping(False)

    def _overlay(self, painter: QPainter, tree_painter: DendrogramPainter) -> None:
        frame, theme, mark = self.frame(), current(), self.focus.mark
        wide = float(self.viewport().width())
        painter.save()
        painter.setClipRect(QRectF(0, frame.top - 1, wide, frame.bottom - frame.top + 3))
        if mark is not None:
            self._paint_mark(painter, frame, tree_painter, mark)
        pair = self.focus.pair
        if pair is not None and self.scene is not None:
            self._paint_mark(painter, frame, tree_painter, Mark("case", pair[0]))
            self._dot(painter, frame, self.scene.tree.n + self.scene.tree.meeting(*pair))
        painter.restore()
        x = self.cut_x()
        if x is not None and self.focus.cut is not None:
            k = self.focus.cut.clusters
            text = f"{k:,} cluster{'s' if k > 1 else ''}"
            paint_cut_line(painter, x, frame.top - 4, float(self.viewport().height()), theme, text)
        if self.hasFocus() and self._by_key:
            painter.setPen(QColor(theme.focus))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(QRectF(0.5, 0.5, wide - 1, self.viewport().height() - 1))

    def _paint_mark(
        self, painter: QPainter, frame: Frame, tree_painter: DendrogramPainter, mark: Mark
    ) -> None:
        assert self.scene is not None
        tree, theme = self.scene.tree, current()
        if mark.kind == "case":
            start, size = int(tree.starts[mark.number]), 1
        else:
            node = self._node(mark)
            start, size = int(tree.starts[node]), int(tree.sizes[node])
        band = QRectF(
            frame.right, frame.y(start), self.viewport().width() - frame.right,
            max(size * frame.row, 2.0),
        )  # fmt: skip
        tint = QColor(theme.focus)
        tint.setAlpha(46)
        painter.fillRect(band, tint)
        node = self._node(mark)
        if node >= tree.n:
            tree_painter.paint_subtree(painter, frame, node - tree.n)
            self._dot(painter, frame, node)
        if mark.kind == "case" and frame.row < 10 and self.focus.grown is not None:
            self._paint_label(painter, frame, start, self.focus.grown.prepared.labels[mark.number])

    def _dot(self, painter: QPainter, frame: Frame, node: int) -> None:
        """Where a join is."""
        assert self.scene is not None
        x, y = frame.x(float(self.scene.share[node])), frame.y(float(self.scene.place[node]))
        painter.setPen(QColor(current().panel))
        painter.setBrush(QColor(current().focus))
        painter.drawEllipse(QPointF(x, y), 4.5, 4.5)

    def _paint_label(self, painter: QPainter, frame: Frame, position: int, label: str) -> None:
        """The label of one case, where rows are too low for labels."""
        theme = current()
        painter.setFont(font(0.86, 600))
        metrics = painter.fontMetrics()
        wide = self._labels_wide - 8
        box = QRectF(frame.right + STRIP, 0, wide, metrics.height() + 2)
        box.moveTop(min(max(frame.y(position + 0.5) - box.height() / 2, frame.top), frame.bottom))
        painter.fillRect(box, QColor(theme.tint))
        painter.setPen(QColor(theme.ink))
        text = metrics.elidedText(label, Qt.TextElideMode.ElideRight, int(wide) - 8)
        painter.drawText(box.adjusted(4, 0, -2, 0), Qt.AlignmentFlag.AlignVCenter, text)

    def _node(self, mark: Mark) -> int:
        assert self.scene is not None
        if mark.kind == "join":
            return self.scene.tree.n + mark.number
        if mark.kind == "cluster" and self.focus.cut is not None:
            return int(self.focus.cut.roots[mark.number - 1])
        return mark.number

    # pointer and keys

    def mark_at(self, point: QPointF) -> Mark | None:
        """What is at a pixel: a join, a case, a cluster, or nothing."""
        frame = self.frame()
        if self.scene is None or not frame.top <= point.y() <= frame.bottom:
            return None
        tree = self.scene.tree
        position = int(frame.place(point.y()))
        if not 0 <= position < tree.n:
            return None
        case = int(tree.order[position])
        if point.x() > frame.right + STRIP:
            return Mark("case", case)
        if point.x() > frame.right + 4 and self.focus.cut is not None:
            return Mark("cluster", int(self.focus.cut.membership[case]))
        wide = max(frame.right - frame.left, 1.0)
        found = hit(
            self.scene, frame.share(point.x()), frame.place(point.y()),
            _NEAR / wide, max(_NEAR / frame.row, 1e-9),
        )  # fmt: skip
        return None if found is None else Mark("join", found)

    def _over_cut(self, point: QPointF) -> bool:
        x = self.cut_x()
        if x is None:
            return False
        handle = point.y() < _HEADER and abs(point.x() - x) < 50
        return handle or abs(point.x() - x) <= _GRAB

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.button() != Qt.MouseButton.LeftButton:
            return
        if self._over_cut(event.position()):
            self._dragging = True
            self.focus.hover(None)
        else:
            self.focus.select(self.mark_at(event.position()))

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._dragging and self.scene is not None:
            share = self.frame().share(event.position().x())
            self.focus.set_height(self.scene.axis.height(share))
            return
        over = self._over_cut(event.position())
        shape = Qt.CursorShape.SplitHCursor if over else Qt.CursorShape.ArrowCursor
        self.viewport().setCursor(shape)
        self.focus.hover(None if over else self.mark_at(event.position()))

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        self._dragging = False

    def viewportEvent(self, event: QEvent) -> bool:
        if event.type() == QEvent.Type.Leave and not self._dragging:
            self.focus.hover(None)
        return super().viewportEvent(event)

    def wheelEvent(self, event: QWheelEvent) -> None:
        if event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            turns = event.angleDelta().y() / 120
            self.zoom(_ZOOM**turns, event.position().y())
            event.accept()
        else:
            super().wheelEvent(event)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        count = self.focus.cut.clusters if self.focus.cut else 1
        acts: dict[Qt.Key, Callable[[], None]] = {
            Qt.Key.Key_Left: lambda: self.focus.set_count(count - 1),
            Qt.Key.Key_Right: lambda: self.focus.set_count(count + 1),
            Qt.Key.Key_Up: lambda: self.focus.step(1),
            Qt.Key.Key_Down: lambda: self.focus.step(-1),
            Qt.Key.Key_Plus: lambda: self.zoom(_ZOOM),
            Qt.Key.Key_Equal: lambda: self.zoom(_ZOOM),
            Qt.Key.Key_Minus: lambda: self.zoom(1 / _ZOOM),
            Qt.Key.Key_0: self.zoom_to_fit,
            Qt.Key.Key_Escape: lambda: self.focus.select(None),
        }
        act = acts.get(Qt.Key(event.key()))
        if act is None:
            super().keyPressEvent(event)
        else:
            act()

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._measure()

    def changeEvent(self, event: QEvent) -> None:
        super().changeEvent(event)
        if event.type() in (QEvent.Type.PaletteChange, QEvent.Type.StyleChange):
            self._forget_picture()

    def focusInEvent(self, event: QFocusEvent) -> None:
        self._by_key = event.reason() in (
            Qt.FocusReason.TabFocusReason,
            Qt.FocusReason.BacktabFocusReason,
        )
        self.viewport().update()

    def focusOutEvent(self, event: QFocusEvent) -> None:
        self.viewport().update()
