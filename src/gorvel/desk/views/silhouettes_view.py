"""The silhouettes of all cases at the count in hand and, beside it, at another."""

from __future__ import annotations

from PySide6.QtCore import QEvent, QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QHelpEvent, QMouseEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import QWidget

from gorvel.core.base.numbers import fixed
from gorvel.core.count.silhouettes import Silhouettes
from gorvel.core.tree.cluster_names import Identity
from gorvel.core.tree.cuts import cut_at_count
from gorvel.desk.controls.plain_text import show_tip
from gorvel.desk.state.marks import Mark
from gorvel.desk.work.counting import Counting
from gorvel.paint.canvas import Canvas
from gorvel.paint.charts.silhouettes import SilhouettesPainter
from gorvel.paint.theme import current


class SilhouettesView(QWidget):
    """A click on a bar selects the case, in all views."""

    def __init__(self, counting: Counting, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.counting = counting
        self.other = 0  # the count beside, 0 for none
        self.setMouseTracking(True)
        self.setMinimumHeight(80)
        self.setAccessibleName("Silhouettes of the cases")
        focus = counting.focus
        for signal in (counting.changed, focus.cut_changed, focus.mark_changed):
            signal.connect(self.update)

    def sizeHint(self) -> QSize:
        return QSize(420, 230)

    def count(self) -> int:
        """In hand."""
        cut = self.counting.focus.cut
        return cut.clusters if cut is not None else 0

    def beside(self, count: int) -> None:
        """Show another count as well; 0 for none."""
        self.other = count
        self.update()

    def names(self, count: int) -> list[Identity]:
        """Of the clusters of a count."""
        focus = self.counting.focus
        assert focus.grown is not None
        cut = cut_at_count(focus.grown.tree, count)
        return focus.identities_of(cut)

    def drawings(self, width: float = 0.0, height: float = 0.0) -> list[SilhouettesPainter]:
        """One for each count shown."""
        counts = [self.count()]
        if self.other and self.other != self.count():
            counts.append(self.other)
        found = [(count, self.counting.silhouettes(count)) for count in counts]
        shown = [(count, s) for count, s in found if s is not None]
        wide = (width or self.width()) / max(len(shown), 1)
        high = height or self.height()
        mark = self.counting.focus.mark
        out = []
        for place, (count, s) in enumerate(shown):
            marked = [s.row_of(mark.number)] if mark is not None and mark.kind == "case" else []
            box = QRectF(place * wide, 0, wide - 4, high)
            out.append(SilhouettesPainter(s, self.names(count), current(), box, marked))
        return out

    def paintEvent(self, event: QPaintEvent) -> None:
        ground = QPainter(self)
        self.paint(Canvas(ground), self.drawings())
        ground.end()

    @staticmethod
    def paint(canvas: Canvas, painters: list[SilhouettesPainter]) -> None:
        """All that are shown, each with its title."""
        for painter in painters:
            found = painter.found
            mean = float(found.values.mean())
            painter.paint(canvas, f"{found.count} clusters: mean {fixed(mean, 2)}")

    def _case_at(self, at: QPointF) -> tuple[Silhouettes, int] | None:
        for painter in self.drawings():
            if painter.box.left() <= at.x() < painter.box.right():
                row = painter.row_at(at.y())
                return (painter.found, row) if row >= 0 else None
        return None

    def _mark(self, at: QPointF) -> Mark | None:
        found = self._case_at(at)
        return Mark("case", int(found[0].cases[found[1]])) if found else None

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        self.counting.focus.hover(self._mark(event.position()))

    def leaveEvent(self, event: QEvent) -> None:
        self.counting.focus.hover(None)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.button() == Qt.MouseButton.LeftButton:
            self.counting.focus.select(self._mark(event.position()))

    def event(self, event: QEvent) -> bool:
        grown = self.counting.focus.grown
        if isinstance(event, QHelpEvent) and event.type() == QEvent.Type.ToolTip and grown:
            found = self._case_at(QPointF(event.pos()))
            words = self.describe(*found) if found else ""
            show_tip(event.globalPos(), words, self)
            return True
        return super().event(event)

    def describe(self, found: Silhouettes, row: int) -> str:
        """One bar in words."""
        grown = self.counting.focus.grown
        assert grown is not None
        names = self.names(found.count)
        label = grown.prepared.labels[int(found.cases[row])]
        own, other = names[int(found.own[row]) - 1], names[int(found.leans[row]) - 1]
        value = float(found.values[row])
        lean = f"closer to {other.name}" if value < 0 else f"next is {other.name}"
        return f"{label}: cluster {own.name}, silhouette {fixed(value, 2)}, {lean}"
