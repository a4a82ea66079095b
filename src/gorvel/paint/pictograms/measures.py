"""What a measure looks at between two cases."""

from __future__ import annotations

import math
from collections.abc import Callable

from gorvel.paint.pictograms.sketch import Sketch

_A, _B = (60.0, 72.0), (180.0, 24.0)
_CORNER = (180.0, 72.0)


def _ends(sketch: Sketch) -> None:
    sketch.dots([_A, _B], "ink", 5)


def _euclidean(sketch: Sketch) -> None:
    sketch.line(_A, _B)
    _ends(sketch)


def _squared(sketch: Sketch) -> None:
    (ax, ay), (bx, by) = a, b = (90.0, 72.0), (140.0, 60.0)
    up = (by - ay, ax - bx)
    sketch.filled([a, b, (bx + up[0], by + up[1]), (ax + up[0], ay + up[1])])
    sketch.dots([a, b], "ink", 5)


def _city_block(sketch: Sketch) -> None:
    sketch.path([_A, _CORNER, _B])
    _ends(sketch)


def _chebyshev(sketch: Sketch) -> None:
    sketch.line(_CORNER, _B, 0.8, "soft")
    sketch.line(_A, _CORNER, 3.0)
    _ends(sketch)


def _between(bend: float) -> list[tuple[float, float]]:
    """From A to B between the straight way (0) and the way round the corner (1)."""
    heart = ((_A[0] + _B[0]) / 2, (_A[1] + _B[1]) / 2)
    over = (heart[0] + bend * (_CORNER[0] - heart[0]), heart[1] + bend * (_CORNER[1] - heart[1]))
    out = []
    for step in range(21):
        t = step / 20
        out.append(
            (
                (1 - t) ** 2 * _A[0] + 2 * t * (1 - t) * over[0] + t * t * _B[0],
                (1 - t) ** 2 * _A[1] + 2 * t * (1 - t) * over[1] + t * t * _B[1],
            )
        )
    return out


def _minkowski(sketch: Sketch) -> None:
    sketch.path([_A, _CORNER, _B], 0.8, "soft")
    sketch.line(_A, _B, 0.8, "soft")
    sketch.path(_between(0.75))
    _ends(sketch)


def _power(sketch: Sketch) -> None:
    for k, difference in enumerate((0.35, 0.6, 1.0)):
        x = 46.0 + 60 * k
        sketch.bar(x, 84 - 66 * difference, 16, 66 * difference, "soft", 0.35)
        sketch.bar(x + 19, 84 - 66 * difference**3, 16, 66 * difference**3)


def _canberra(sketch: Sketch) -> None:
    sketch.line((24, 60), (222, 60), 1, "soft")
    sketch.line((24, 52), (24, 68), 1.4, "soft")
    sketch.word(24, 80, "0", "soft")
    for x, width in ((40.0, 5.0), (170.0, 1.2)):
        sketch.path([(x, 44), (x, 32), (x + 30, 32), (x + 30, 44)], width)
        sketch.dots([(x, 60), (x + 30, 60)], "ink", 5)


def _bray_curtis(sketch: Sketch) -> None:
    for k, (one, other) in enumerate(((60, 44), (22, 52), (40, 40))):
        x, low = 56.0 + 50 * k, min(one, other)
        sketch.bar(x, 84 - low, 32, low, "soft", 0.35)
        sketch.bar(x, 84 - max(one, other), 32, abs(one - other))
    sketch.line((46, 84), (204, 84), 1, "soft")


def _cosine(sketch: Sketch) -> None:
    origin, one, other = (50.0, 82.0), (196.0, 60.0), (120.0, 16.0)
    sketch.line(origin, one, 1.6, "soft")
    sketch.line(origin, other, 1.6, "soft")
    low = math.atan2(origin[1] - one[1], one[0] - origin[0])
    high = math.atan2(origin[1] - other[1], other[0] - origin[0])
    arc = [low + (high - low) * step / 12 for step in range(13)]
    sketch.path([(50 + 46 * math.cos(at), 82 - 46 * math.sin(at)) for at in arc], 3.0)
    sketch.dots([one, other], "ink", 5)


_STEPS = (40.0, 80.0, 120.0, 160.0, 200.0)


def _profile(sketch: Sketch, heights: tuple[float, ...], colour: int) -> None:
    points = list(zip(_STEPS, heights, strict=True))
    sketch.path(points, 2.0, colour)
    sketch.dots(points, colour)


def _correlation(sketch: Sketch) -> None:
    shape = (16.0, 0.0, 24.0, 8.0, 20.0)
    _profile(sketch, tuple(14 + y for y in shape), 1)
    _profile(sketch, tuple(56 + y for y in shape), 2)


def _spearman(sketch: Sketch) -> None:
    _profile(sketch, (24.0, 6.0, 34.0, 16.0, 28.0), 1)
    _profile(sketch, (81.0, 63.0, 89.0, 67.0, 85.0), 2)
    for x, rank in zip(_STEPS, "35142", strict=True):
        sketch.word(x, 50, rank, "soft")


def _mahalanobis(sketch: Sketch) -> None:
    for size in (1.0, 0.62, 0.28):
        sketch.ring((120, 48), 96 * size, 26 * size, "soft", -14)
    sketch.line((120, 48), (196, 29))
    sketch.line((120, 48), (128, 76))
    sketch.dots([(196, 29), (128, 76)], "ink", 5)
    sketch.cross((120, 48))


def _gower(sketch: Sketch) -> None:
    for k, likeness in enumerate((1.0, 0.35, 0.0, 0.8)):
        sketch.bar(40, 14 + 18 * k, 160, 10, "line")
        sketch.bar(40, 14 + 18 * k, 160 * likeness, 10)


def _chi_square(sketch: Sketch, lengths: tuple[float, float] = (170.0, 110.0)) -> None:
    for k, (parts, length) in enumerate(
        zip(((0.5, 0.3, 0.2), (0.25, 0.3, 0.45)), lengths, strict=True)
    ):
        x = 36.0
        for part, (colour, opacity) in zip(
            parts, (("cut", 0.85), ("soft", 0.35), ("soft", 0.65)), strict=True
        ):
            sketch.bar(x, 18 + 36 * k, part * length - 2, 24, colour, opacity)
            x += part * length


def _phi_square(sketch: Sketch) -> None:
    _chi_square(sketch, (170.0, 170.0))


MEASURE_PICTURES: dict[str, Callable[[Sketch], None]] = {
    "squared-euclidean": _squared,
    "euclidean": _euclidean,
    "city-block": _city_block,
    "chebyshev": _chebyshev,
    "minkowski": _minkowski,
    "power": _power,
    "canberra": _canberra,
    "bray-curtis": _bray_curtis,
    "cosine": _cosine,
    "correlation": _correlation,
    "spearman": _spearman,
    "mahalanobis": _mahalanobis,
    "gower": _gower,
    "chi-square": _chi_square,
    "phi-square": _phi_square,
}
