"""What a linkage looks at between two clusters."""

from __future__ import annotations

import math
from collections.abc import Callable
from itertools import combinations

from gorvel.paint.pictograms.sketch import Point, Sketch, middle

_LEFT = [(34.0, 26.0), (62.0, 44.0), (28.0, 62.0), (72.0, 70.0)]
_RIGHT = [(168.0, 34.0), (206.0, 24.0), (190.0, 62.0), (214.0, 72.0)]
_ACROSS = [(a, b) for a in _LEFT for b in _RIGHT]
# a cluster made of a larger and a smaller part
_LARGE, _SMALL = [(30.0, 20.0), (58.0, 16.0), (46.0, 36.0)], [(56.0, 78.0)]


def _length(pair: tuple[Point, Point]) -> float:
    return math.dist(*pair)


def _clusters(sketch: Sketch) -> None:
    sketch.dots(_LEFT, 1)
    sketch.dots(_RIGHT, 2)


def _single(sketch: Sketch) -> None:
    sketch.line(*min(_ACROSS, key=_length))
    _clusters(sketch)


def _complete(sketch: Sketch) -> None:
    sketch.line(*max(_ACROSS, key=_length))
    _clusters(sketch)


def _average(sketch: Sketch) -> None:
    for a, b in _ACROSS:
        sketch.line(a, b, 0.8)
    _clusters(sketch)


def _within_average(sketch: Sketch) -> None:
    for a, b in combinations(_LEFT + _RIGHT, 2):
        sketch.line(a, b, 0.8)
    _clusters(sketch)


def _minimax(sketch: Sketch) -> None:
    cases = _LEFT + _RIGHT
    heart = min(cases, key=lambda at: max(math.dist(at, other) for other in cases))
    farthest = max(cases, key=lambda other: math.dist(heart, other))
    for other in cases:
        sketch.line(heart, other, 0.6, "soft")
    sketch.line(heart, farthest)
    _clusters(sketch)
    sketch.ring(heart, 8, 8, "ink")


def _centroid(sketch: Sketch) -> None:
    a, b = middle(_LEFT), middle(_RIGHT)
    sketch.line(a, b)
    _clusters(sketch)
    sketch.cross(a)
    sketch.cross(b)


def _ward(sketch: Sketch) -> None:
    heart = middle(_LEFT + _RIGHT)
    for point in _LEFT + _RIGHT:
        sketch.line(heart, point, 1.0)
    _clusters(sketch)
    sketch.cross(heart)


def _parts(sketch: Sketch) -> None:
    """Two parts that have been joined, and the cluster that they are compared with."""
    sketch.dots(_LARGE + _SMALL, 1)
    sketch.dots(_RIGHT, 2)
    sketch.ring(middle(_LARGE), 26, 19)
    sketch.ring(middle(_SMALL), 12, 12)


def _weighted_average(sketch: Sketch) -> None:
    to = middle(_RIGHT)
    sketch.line(middle(_LARGE), to, 1.8)
    sketch.line(middle(_SMALL), to, 1.8)
    _parts(sketch)


def _flexible(sketch: Sketch) -> None:
    sketch.line(middle(_LARGE), middle(_SMALL), 1.8, dashed=True)
    _weighted_average(sketch)


def _flexible_average(sketch: Sketch) -> None:
    to = middle(_RIGHT)
    sketch.line(middle(_LARGE), middle(_SMALL), 1.8, dashed=True)
    sketch.line(middle(_LARGE), to, 4.2)
    sketch.line(middle(_SMALL), to, 1.4)
    _parts(sketch)


def _median(sketch: Sketch) -> None:
    one, other = middle(_LARGE), middle(_SMALL)
    halfway, to = middle([one, other]), middle(_RIGHT)
    sketch.line(one, other, 1.0, "soft")
    sketch.line(halfway, to)
    _parts(sketch)
    sketch.cross(halfway)
    sketch.cross(to)


def _splinter(sketch: Sketch) -> None:
    """A case that leaves: nearer on the mean to those that left than to those that stay."""
    leaver, stay = (118.0, 46.0), _LEFT
    for other in stay:
        sketch.line(leaver, other, 0.8, "soft")
    for other in _RIGHT:
        sketch.line(leaver, other, 1.0)
    sketch.dots([*stay, leaver], 1)
    sketch.dots(_RIGHT, 2)
    sketch.ring(leaver, 8, 8, "ink")


LINKAGE_PICTURES: dict[str, Callable[[Sketch], None]] = {
    "single": _single,
    "complete": _complete,
    "average": _average,
    "weighted-average": _weighted_average,
    "within-average": _within_average,
    "minimax": _minimax,
    "flexible": _flexible,
    "flexible-average": _flexible_average,
    "centroid": _centroid,
    "median": _median,
    "ward": _ward,
    "splinter": _splinter,
}
