"""Painting the answers of the cases: a column for each variable, coloured by standing."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QRectF
from PySide6.QtGui import QColor

from gorvel.core.base.numbers import number
from gorvel.core.scene.standardised import Standing, standing_of_rows
from gorvel.paint.axes import Frame
from gorvel.paint.canvas import Canvas
from gorvel.paint.columns.column import ColumnPicture
from gorvel.paint.shades import answer_ramp, image_of
from gorvel.paint.theme import font
from gorvel.paint.tree_style import TreeLook

_STEEP = 12.0  # pixels between names that run down
_LEAST_ROW, _LEAST_WIDE = 13.0, 26.0  # pixels a cell needs for its number
_VEIL = 0.55  # of the ground over the shade of a cell with its number


@dataclass(frozen=True, eq=False)
class AnswersPicture(ColumnPicture):
    """The answers of the cases, as colours.

    names : of the variables; raw : (n, p) answers as numbers; shown : None while it is worked out:
    there are no colours then.
    """

    look: TreeLook
    shown: Standing | None
    names: Sequence[str]
    raw: NDArray[np.float64]
    title = "Answers · teal low, rust high"

    def column_at(self, frame: Frame, x: float) -> int | None:
        """The variable (from 0) at a pixel."""
        part = (x - frame.left) / max(frame.right - frame.left, 1.0)
        return int(part * len(self.names)) if 0 <= part < 1 else None

    def paint(self, canvas: Canvas, frame: Frame) -> None:
        """Colours, and numbers where there is room; the caller has set the clip."""
        at, theme = self.look.arrangement, self.look.theme
        top, bottom = frame.top, min(frame.bottom, frame.y(at.length))
        high = round(bottom - top)
        if high < 1 or not self.names or self.shown is None:
            return
        edges = (np.arange(high + 1) + top - frame.top + frame.scrolled) / frame.row
        first = np.clip(np.searchsorted(at.edges, edges[:-1], side="right") - 1, 0, at.tree.n - 1)
        past = np.maximum(np.searchsorted(at.edges, edges[1:], side="left"), first + 1)
        rows = standing_of_rows(self.shown, first, np.minimum(past, at.tree.n))
        image = image_of((rows + 1) / 2, answer_ramp(theme), theme.panel)
        step = (frame.right - frame.left) / len(self.names)
        gap = 1.0 if step > 6 else 0.0
        for k in range(len(self.names)):
            box = QRectF(frame.left + k * step, top, step - gap, high)
            canvas.painter.drawImage(box, image, QRectF(k, 0, 1, high))
        if frame.row >= _LEAST_ROW and step >= _LEAST_WIDE:
            self._numbers(canvas, frame, step)

    def _numbers(self, canvas: Canvas, frame: Frame, step: float) -> None:
        """Answers in their cells, if there is room for all of them."""
        at, words = self.look.arrangement, font("note")
        first, last = self.look.positions(frame)
        cases = [node for node in map(at.unit, range(first, last)) if node < at.tree.n]
        told = {case: [_told(answer) for answer in self.raw[case].tolist()] for case in cases}
        widest = max((len(word) for row in told.values() for word in row), default=0)
        if canvas.wide("0" * widest, words) > step - 3:
            return
        veil = QColor(self.look.theme.panel)
        veil.setAlphaF(_VEIL)
        for case, answers in told.items():
            top, bottom = self.look.extent(frame, case)
            for k, answer in enumerate(answers):
                box = QRectF(frame.left + k * step, top, step - 1, bottom - top)
                canvas.painter.fillRect(box, veil)
                canvas.write(box, answer, self.look.theme.ink, words, "centre")

    def paint_foot(self, canvas: Canvas, frame: Frame) -> None:
        """The names below their columns: level where each has room, else running down."""
        step = (frame.right - frame.left) / max(len(self.names), 1)
        at, soft = font("note"), self.look.theme.soft
        level = not canvas.upright and all(canvas.wide(name, at) < step - 3 for name in self.names)
        deep = 86.0 if canvas.upright else 58.0
        every = 1 if level else int(np.ceil(_STEEP / step))
        for k, name in enumerate(self.names[::every]):
            middle = frame.left + (k * every + 0.5) * step
            if level:
                box = QRectF(middle - step / 2, frame.bottom + 2, step, 16)
                canvas.write(box, name, soft, at, "centre")
            else:
                box = QRectF(middle - 8, frame.bottom + 3, 16, deep)
                words = canvas.shortened(name, at, deep, middle=True)
                canvas.write(box, words, soft, at, steep=True)


def _told(answer: float) -> str:
    return "–" if np.isnan(answer) else number(answer)
