"""Painting the proximities of all pairs in tree order: only what is seen is measured."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QColor, QImage, QPen

from gorvel.core.base.numbers import number
from gorvel.core.proximity.pairs import Proximities
from gorvel.paint.axes import Frame
from gorvel.paint.canvas import Canvas
from gorvel.paint.columns.column import ColumnPicture
from gorvel.paint.shades import image_of, proximity_ramp
from gorvel.paint.theme import font
from gorvel.paint.tree_style import TreeLook

Ints = NDArray[np.int64]
_TIMES = 3  # cases looked at, along both axes, where many share a pixel: their mean is shown
_LEAST_ROW, _LEAST_WIDE = 13.0, 30.0  # pixels a cell needs for its number


@dataclass(frozen=True, eq=False)
class Patch:
    """Proximities of the positions that are seen.

    rows, columns : the positions; values : (rows, columns); area : places left, top, right, bottom
    that it stands for; down, across : for each pixel which of the rows and columns, `times` of them
    in a row where several cases share a pixel.
    """

    rows: Ints
    columns: Ints
    values: NDArray[np.float64]
    area: tuple[float, float, float, float]
    down: Ints
    across: Ints
    times: int


@dataclass(frozen=True, eq=False)
class ProximitiesPicture(ColumnPicture):
    """The proximities of the cases, as colours.

    most : the proximity where the colours end; follows : across, too, only what is in sight;
    of_file : cases stand as in the file, not beside the tree; ready : an image, and of what it is,
    where pairs are not to be measured for each painting.
    """

    look: TreeLook
    pairs: Proximities
    most: float
    follows: bool = False
    of_file: bool = False
    ready: tuple[QImage, Patch] | None = None
    title = "Proximity"

    def heading(self) -> str:
        shade = "light" if self.look.theme.name == "dark" else "dark"
        return f"{self.title} · {shade} = similar{', file order' if self.of_file else ''}"

    def ends(self, frame: Frame) -> tuple[float, float]:
        """The places at the left and right end."""
        length = self.look.arrangement.length
        if not self.follows:
            return 0.0, length
        return frame.place(frame.top), min(frame.place(frame.bottom), length)

    def wanted(self, frame: Frame) -> tuple[Ints, Ints, tuple[float, float, float, float], int]:
        """For each pixel down and across some positions, the places covered, and how many."""
        at = self.look.arrangement
        bottom = min(frame.bottom, frame.y(at.length))
        high, wide = max(round(bottom - frame.top), 1), max(round(frame.right - frame.left), 1)
        begin, end = frame.place(frame.top), frame.place(bottom)
        left, right = self.ends(frame)
        crowded = max((end - begin) / high, (right - left) / wide) > 1.0
        times = _TIMES if crowded else 1

        def positions(low: float, top: float, pixels: int) -> Ints:
            pixels *= times
            places = low + (np.arange(pixels) + 0.5) / pixels * (top - low)
            found = np.searchsorted(at.edges, places, side="right") - 1
            return np.clip(found, 0, at.tree.n - 1)

        down, across = positions(begin, end, high), positions(left, right, wide)
        return down, across, (left, begin, right, end), times

    def image(self, patch: Patch) -> QImage:
        """A patch in colours."""
        shares = patch.values / self.most if self.most > 0 else patch.values * 0
        pixels = shares[patch.down[:, None], patch.across[None, :]]
        if patch.times > 1:
            high, wide = (size // patch.times for size in pixels.shape)
            pixels = pixels.reshape(high, patch.times, wide, patch.times).mean(axis=(1, 3))
        return image_of(pixels, proximity_ramp(self.look.theme), self.look.theme.panel)

    def x(self, frame: Frame, place: float) -> float:
        """The pixel of a place across."""
        left, right = self.ends(frame)
        return frame.left + (place - left) / max(right - left, 1e-9) * (frame.right - frame.left)

    def place_across(self, frame: Frame, x: float) -> float:
        """The place across at a pixel."""
        left, right = self.ends(frame)
        return left + (x - frame.left) / max(frame.right - frame.left, 1.0) * (right - left)

    @property
    def nothing(self) -> tuple[QImage, Patch]:
        """What stands there while pairs are measured."""
        none = np.zeros(0, dtype=np.int64)
        patch = Patch(none, none, np.zeros((0, 0)), (0.0, 0.0, 0.0, 0.0), none, none, 1)
        return QImage(), patch

    def measured(self, frame: Frame) -> tuple[QImage, Patch]:
        """What is in sight in colours, and the proximities behind them."""
        down, across, area, times = self.wanted(frame)
        rows, in_rows = np.unique(down, return_inverse=True)
        columns, in_columns = np.unique(across, return_inverse=True)
        order = self.look.arrangement.order
        values = self.pairs.block(order[rows], order[columns])
        patch = Patch(rows, columns, values, area, in_rows, in_columns, times)
        return self.image(patch), patch

    def paint(self, canvas: Canvas, frame: Frame) -> None:
        """The image where it belongs now, frames round the clusters, numbers in large cells."""
        image, patch = self.ready or self.measured(frame)
        if image.isNull():
            return
        left, begin, right, end = patch.area
        box = QRectF(
            self.x(frame, left), frame.y(begin),
            self.x(frame, right) - self.x(frame, left), (end - begin) * frame.row,
        )  # fmt: skip
        canvas.painter.drawImage(box, image)
        canvas.painter.setBrush(Qt.BrushStyle.NoBrush)
        roots = self.look.cut.roots.tolist() if not self.of_file else []
        for cluster, root in enumerate(roots, 1):
            top, bottom = self.look.extent(frame, root)
            if bottom - top < 3:
                continue
            first, last = self.look.arrangement.span(root)
            canvas.painter.setPen(QPen(self.look.colour(cluster), 1.4))
            wide = self.x(frame, last) - self.x(frame, first)
            around = QRectF(self.x(frame, first), top, wide, bottom - top)
            canvas.painter.drawRect(around.intersected(box))
        self._numbers(canvas, frame, patch)

    def _numbers(self, canvas: Canvas, frame: Frame, patch: Patch) -> None:
        left, right = self.ends(frame)
        step = (frame.right - frame.left) / max(right - left, 1e-9)
        if frame.row < _LEAST_ROW or step < _LEAST_WIDE or self.look.arrangement.folded:
            return
        at = font("note")
        for i, position in enumerate(patch.rows.tolist()):
            for j, other in enumerate(patch.columns.tolist()):
                box = QRectF(self.x(frame, other), frame.y(position), step, frame.row)
                value = float(patch.values[i, j])
                share = value / self.most if self.most else 0.0
                words = number(value) if value else "0"
                canvas.write(box, words, self._ink(share), at, "centre")

    def _ink(self, share: float) -> str:
        ground = QColor.fromRgb(int(proximity_ramp(self.look.theme)[min(int(share * 255), 255)]))
        return "#10171E" if ground.lightness() > 130 else "#FFFFFF"

    def paint_foot(self, canvas: Canvas, frame: Frame) -> None:
        """The colours and what they stand for."""
        ramp = image_of(np.linspace(0, 1, 90)[None, :], proximity_ramp(self.look.theme))
        wide = min(90.0, (frame.right - frame.left) * 0.35)
        box = QRectF(frame.left, frame.bottom + 7, wide, 8)
        canvas.painter.drawImage(box, ramp)
        words, at = f"0 to {number(self.most)} and more", font("note")
        if wide + 6 + canvas.wide(words, at) > frame.right - frame.left:
            words = f"0 – {number(self.most)}+"
        room = QRectF(box.right() + 6, frame.bottom + 2, canvas.wide(words, at) + 4, 18)
        if canvas.upright:
            room = QRectF(box.right() + 2, frame.bottom + 2, 16, 86)
            words = f"0 to {number(self.most)}+"
        canvas.write(room, words, self.look.theme.soft, at)
