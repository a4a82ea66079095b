"""Lightness of colours, and how far two of them stand apart."""

from __future__ import annotations

from PySide6.QtGui import QColor

_EDGE, _SLOPE = (6 / 29) ** 3, 3 * (6 / 29) ** 2  # where the cube root of CIE L* gives way
_TO_LIGHT = (
    (0.4124564, 0.3575761, 0.1804375), (0.2126729, 0.7151522, 0.0721750),
    (0.0193339, 0.1191920, 0.9503041),
)  # fmt: skip
_WHITE = (0.95047, 1.0, 1.08883)  # D65
_FROM_LIGHT = (
    (3.2404542, -1.5371385, -0.4985314), (-0.9692660, 1.8760108, 0.0415560),
    (0.0556434, -0.2040259, 1.0572252),
)  # fmt: skip


def luminance(colour: QColor) -> float:
    """From 0 to 1 (W3C, WCAG 2.1: relative luminance)."""
    red, green, blue = _linear(colour)
    return 0.2126 * red + 0.7152 * green + 0.0722 * blue


def contrast(one: QColor, other: QColor) -> float:
    """How far two colours stand apart, from 1 to 21 (W3C, WCAG 2.1: contrast ratio)."""
    dark, light = sorted((luminance(one), luminance(other)))
    return (light + 0.05) / (dark + 0.05)


def lightness(colour: QColor) -> float:
    """CIE L*, from 0 to 100."""
    return _lab(colour)[0]


def moved_in_lightness(colour: QColor, by: float) -> QColor:
    """The same hue, lighter or darker by so much of CIE L*; as near as a screen can show."""
    light, a, b = _lab(colour)
    light = min(max(light + by, 0.0), 100.0)
    y = (light + 16) / 116
    x, z = y + a / 500, y - b / 200
    there = [white * _cubed(part) for white, part in zip(_WHITE, (x, y, z), strict=True)]
    return QColor.fromRgbF(*(_shown(sum(map(float.__mul__, row, there))) for row in _FROM_LIGHT))


def _linear(colour: QColor) -> tuple[float, float, float]:
    parts = (colour.redF(), colour.greenF(), colour.blueF())
    red, green, blue = (p / 12.92 if p <= 0.04045 else ((p + 0.055) / 1.055) ** 2.4 for p in parts)
    return red, green, blue


def _lab(colour: QColor) -> tuple[float, float, float]:
    light = _linear(colour)
    x, y, z = (
        _rooted(sum(map(float.__mul__, row, light)) / white)
        for row, white in zip(_TO_LIGHT, _WHITE, strict=True)
    )
    return 116 * y - 16, 500 * (x - y), 200 * (y - z)


def _rooted(value: float) -> float:
    return value ** (1 / 3) if value > _EDGE else value / _SLOPE + 4 / 29


def _cubed(value: float) -> float:
    return value**3 if value > 6 / 29 else _SLOPE * (value - 4 / 29)


def _shown(light: float) -> float:
    """A channel of the screen for linear light."""
    light = min(max(light, 0.0), 1.0)
    return 12.92 * light if light <= 0.0031308 else 1.055 * light ** (1 / 2.4) - 0.055
