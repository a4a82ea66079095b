"""Numbers as colours: ramps for proximities and for answers, and images made of them."""

from __future__ import annotations

from functools import cache

import numpy as np
from numpy.typing import NDArray
from PySide6.QtGui import QColor, QImage

from gorvel.paint.colour import contrast
from gorvel.paint.theme import Theme

Pixels = NDArray[np.uint32]
_STEPS = 256


@cache
def proximity_ramp(theme: Theme) -> Pixels:
    """From most alike to least alike."""
    return _ramp((*theme.proximities,))


@cache
def answer_ramp(theme: Theme) -> Pixels:
    """From far below the mean, over the mean, to far above it."""
    return _ramp((theme.below, theme.middle, theme.above))


def _ramp(stops: tuple[str, ...]) -> Pixels:
    at, places = np.linspace(0, len(stops) - 1, _STEPS), np.arange(len(stops), dtype=np.float64)
    colours = [QColor(stop) for stop in stops]

    def part(levels: list[int]) -> Pixels:
        return np.round(np.interp(at, places, np.array(levels, dtype=np.float64))).astype(np.uint32)

    red = part([colour.red() for colour in colours])
    green = part([colour.green() for colour in colours])
    blue = part([colour.blue() for colour in colours])
    return np.asarray((np.uint32(255) << 24) | (red << 16) | (green << 8) | blue, dtype=np.uint32)


def image_of(shares: NDArray[np.float64], ramp: Pixels, unknown: str | None = None) -> QImage:
    """An image of numbers from 0 to 1; unknown : the colour of NaN."""
    known = ~np.isnan(shares)
    steps = np.clip(np.where(known, shares, 0.0) * (_STEPS - 1), 0, _STEPS - 1)
    pixels = ramp[np.round(steps).astype(np.intp)]
    if unknown is not None:
        pixels[~known] = QColor(unknown).rgba()
    high, wide = pixels.shape
    pixels = np.ascontiguousarray(pixels)
    image = QImage(pixels.data, wide, high, 4 * wide, QImage.Format.Format_RGB32)
    return image.copy()  # the array may go


def ink_on(ground: QColor, theme: Theme) -> str:
    """Of the inks and grounds of a theme, the one that stands out most."""
    inks = theme.ink, theme.panel, theme.paper
    return max(inks, key=lambda ink: contrast(QColor(ink), ground))
