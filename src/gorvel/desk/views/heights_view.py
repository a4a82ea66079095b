"""The height chart under the dendrogram, on the same axis; the cut line runs on through it."""

from __future__ import annotations

from PySide6.QtCore import QEvent, Qt
from PySide6.QtGui import QMouseEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import QToolTip, QWidget

from gorvel.core.sentences import number
from gorvel.desk.painting.dendrogram import paint_cut_line
from gorvel.desk.painting.frame import Frame
from gorvel.desk.painting.heights import HeightsPainter
from gorvel.desk.state import Focus
from gorvel.desk.theme import current
from gorvel.desk.views.dendrogram_view import DendrogramView

__all__ = ["HeightsView"]

_HIGH = 60


class HeightsView(QWidget):
    """A click on the span of a count cuts there; a drag moves the cut line."""

    def __init__(self, focus: Focus, dendrogram: DendrogramView, parent: QWidget | None = None):
        super().__init__(parent)
        self.focus, self.dendrogram = focus, dendrogram
        self.setFixedHeight(_HIGH)
        self.setMouseTracking(True)
        self.setAccessibleName("Height chart")
        dendrogram.framed.connect(self.update)
        focus.cut_changed.connect(self.update)

    def frame(self) -> Frame:
        """The dendrogram's height axis, on this widget's own ground."""
        above = self.dendrogram.frame()
        return Frame(above.left, above.right, 0.0, float(_HIGH), 1.0)

    def paintEvent(self, event: QPaintEvent) -> None:
        scene, cut = self.dendrogram.scene, self.focus.cut
        if scene is None or cut is None:
            return
        painter = QPainter(self)
        HeightsPainter(scene, cut.clusters, current()).paint(painter, self.frame())
        x = self.dendrogram.cut_x()
        if x is not None:
            paint_cut_line(painter, x, 0.0, 38.0, current())
        painter.end()

    def _cut_at(self, event: QMouseEvent) -> None:
        scene = self.dendrogram.scene
        if scene is not None:
            share = self.frame().share(event.position().x())
            self.focus.set_height(scene.axis.height(share))

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.button() == Qt.MouseButton.LeftButton:
            self._cut_at(event)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        scene = self.dendrogram.scene
        if event.buttons() & Qt.MouseButton.LeftButton:
            self._cut_at(event)
        elif scene is not None and self.focus.cut is not None:
            height = scene.axis.height(self.frame().share(event.position().x()))
            painter = HeightsPainter(scene, self.focus.cut.clusters, current())
            found = painter.spans().at(height)
            if found is not None:
                clusters, low, high = found
                text = (
                    f"{clusters:,} cluster{'s hold' if clusters > 1 else ' holds'} from height"
                    f" {number(low)} to {number(high)}. Click to cut here."
                )
                QToolTip.showText(event.globalPosition().toPoint(), text, self)

    def changeEvent(self, event: QEvent) -> None:
        super().changeEvent(event)
        if event.type() == QEvent.Type.PaletteChange:
            self.update()
