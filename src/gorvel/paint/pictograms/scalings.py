"""Two variables after scaling."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from gorvel.paint.pictograms.sketch import Sketch

_SPREAD = (-1.0, -0.55, -0.2, 0.1, 0.35, 1.0)
_HEART = 120.0
_TOP, _APART = 32.0, 32.0


def _rows(sketch: Sketch, rows: Sequence[tuple[float, float]], marks: Sequence[float] = ()) -> None:
    """Both variables; rows : middle and half the width of each; marks : places that are alike."""
    for mark in marks:
        sketch.line((mark, _TOP - 14), (mark, _TOP + _APART + 14), 1.4, dashed=True)
    for k, (heart, width) in enumerate(rows):
        y = _TOP + _APART * k
        sketch.line((20, y), (220, y), 1, "line")
        sketch.dots([(heart + part * width, y) for part in _SPREAD], k + 1)


def _ranks(sketch: Sketch) -> None:
    for k, colour in enumerate((1, 2)):
        y = _TOP + _APART * k
        sketch.line((20, y), (220, y), 1, "line")
        sketch.dots([(40 + 32.0 * place, y) for place in range(6)], colour)


def _robust(sketch: Sketch) -> None:
    for k in range(2):
        sketch.bar(_HEART - 26, _TOP + _APART * k - 8, 44, 16, "cut", 0.25)
    _rows(sketch, ((_HEART - 4, 40), (_HEART - 4, 40)), (_HEART - 4,))
    sketch.dots([(212, _TOP)], 1)


SCALE_PICTURES: dict[str, Callable[[Sketch], None]] = {
    "none": lambda sketch: _rows(sketch, ((_HEART, 96), (_HEART, 22))),
    "zscore": lambda sketch: _rows(sketch, ((_HEART, 60), (_HEART, 60)), (_HEART,)),
    "range01": lambda sketch: _rows(sketch, ((_HEART, 80), (_HEART, 80)), (40, 200)),
    "range11": lambda sketch: _rows(sketch, ((_HEART, 80), (_HEART, 80)), (40, _HEART, 200)),
    "max1": lambda sketch: _rows(sketch, ((_HEART, 80), (165, 35)), (200,)),
    "mean1": lambda sketch: _rows(sketch, ((_HEART, 84), (_HEART, 34)), (_HEART,)),
    "sd1": lambda sketch: _rows(sketch, ((82, 52), (164, 52))),
    "robust": _robust,
    "rank": _ranks,
}
