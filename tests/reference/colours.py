"""How far colours stand apart: slow code from the definitions.

References
----------
Sharma, Wu & Dalal 2005, The CIEDE2000 color-difference formula. Machado, Oliveira & Fernandes 2009,
A physiologically-based model for simulation of color vision deficiency (severity 1).
"""

from __future__ import annotations

import math
from itertools import product

Rgb = tuple[float, float, float]

SIGHTS: dict[str, tuple[Rgb, Rgb, Rgb]] = {
    "normal": ((1.0, 0.0, 0.0), (0.0, 1.0, 0.0), (0.0, 0.0, 1.0)),
    "protan": (
        (0.152286, 1.052583, -0.204868), (0.114503, 0.786281, 0.099216),
        (-0.003882, -0.048116, 1.051998),
    ),
    "deutan": (
        (0.367322, 0.860646, -0.227968), (0.280085, 0.672501, 0.047413),
        (-0.011820, 0.042940, 0.968881),
    ),
}  # fmt: skip


def linear(colour: str) -> Rgb:
    """Light of a colour such as "#1B2530", from 0 to 1."""
    parts = [int(colour[at : at + 2], 16) / 255 for at in (1, 3, 5)]
    red, green, blue = (p / 12.92 if p <= 0.04045 else ((p + 0.055) / 1.055) ** 2.4 for p in parts)
    return red, green, blue


def luminance(colour: str) -> float:
    """As in WCAG 2.1."""
    red, green, blue = linear(colour)
    return 0.2126 * red + 0.7152 * green + 0.0722 * blue


def contrast(one: str, other: str) -> float:
    """From 1 to 21, as in WCAG 2.1."""
    dark, light = sorted((luminance(one), luminance(other)))
    return (light + 0.05) / (dark + 0.05)


def seen(colour: str, sight: str) -> Rgb:
    """Light as somebody of this sight sees it."""
    light = linear(colour)
    red, green, blue = (
        min(max(sum(w * part for w, part in zip(row, light, strict=True)), 0.0), 1.0)
        for row in SIGHTS[sight]
    )
    return red, green, blue


def lab(light: Rgb) -> Rgb:
    """CIE L*a*b* under D65."""
    red, green, blue = light
    x = (0.4124564 * red + 0.3575761 * green + 0.1804375 * blue) / 0.95047
    y = 0.2126729 * red + 0.7151522 * green + 0.0721750 * blue
    z = (0.0193339 * red + 0.1191920 * green + 0.9503041 * blue) / 1.08883
    fx, fy, fz = (
        value ** (1 / 3) if value > (6 / 29) ** 3 else value / (3 * (6 / 29) ** 2) + 4 / 29
        for value in (x, y, z)
    )
    return 116 * fy - 16, 500 * (fx - fy), 200 * (fy - fz)


def distance(one: str, other: str, sight: str = "normal") -> float:
    """CIEDE2000 between two colours as somebody of this sight sees them."""
    return ciede2000(lab(seen(one, sight)), lab(seen(other, sight)))


def ciede2000(one: Rgb, other: Rgb) -> float:
    """Between two colours in CIE L*a*b*."""
    (l1, a1, b1), (l2, a2, b2) = one, other
    mean = (math.hypot(a1, b1) + math.hypot(a2, b2)) / 2
    g = 0.5 * (1 - math.sqrt(mean**7 / (mean**7 + 25.0**7)))
    a1, a2 = (1 + g) * a1, (1 + g) * a2
    c1, c2 = math.hypot(a1, b1), math.hypot(a2, b2)
    h1, h2 = (math.degrees(math.atan2(b, a)) % 360 for a, b in ((a1, b1), (a2, b2)))
    turn = h2 - h1
    if c1 * c2 == 0:
        turn = 0.0
    elif turn > 180:
        turn -= 360
    elif turn < -180:
        turn += 360
    dl, dc = l2 - l1, c2 - c1
    dh = 2 * math.sqrt(c1 * c2) * math.sin(math.radians(turn / 2))
    ml, mc = (l1 + l2) / 2, (c1 + c2) / 2
    if c1 * c2 == 0:
        mh = h1 + h2
    elif abs(h1 - h2) <= 180:
        mh = (h1 + h2) / 2
    else:
        mh = (h1 + h2 + (360 if h1 + h2 < 360 else -360)) / 2
    t = (
        1
        - 0.17 * math.cos(math.radians(mh - 30))
        + 0.24 * math.cos(math.radians(2 * mh))
        + 0.32 * math.cos(math.radians(3 * mh + 6))
        - 0.20 * math.cos(math.radians(4 * mh - 63))
    )
    sl = 1 + 0.015 * (ml - 50) ** 2 / math.sqrt(20 + (ml - 50) ** 2)
    sc, sh = 1 + 0.045 * mc, 1 + 0.015 * mc * t
    around = 30 * math.exp(-(((mh - 275) / 25) ** 2))
    rt = -math.sin(math.radians(2 * around)) * 2 * math.sqrt(mc**7 / (mc**7 + 25.0**7))
    return math.sqrt((dl / sl) ** 2 + (dc / sc) ** 2 + (dh / sh) ** 2 + rt * (dc / sc) * (dh / sh))


def least_distance(one: str, other: str) -> float:
    """The smallest in any sight."""
    return min(distance(one, other, sight) for sight in SIGHTS)


def pairs(colours: tuple[str, ...]) -> list[tuple[str, str]]:
    """Each two of them, once."""
    places = range(len(colours))
    return [(colours[i], colours[j]) for i, j in product(places, places) if i < j]
