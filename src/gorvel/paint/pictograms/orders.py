"""Which clusters may join where cases stand in an order."""

from __future__ import annotations

from collections.abc import Callable

from gorvel.paint.pictograms.sketch import Sketch

_PLACES = (26.0, 58.0, 90.0, 134.0, 166.0, 212.0)
_LINE = 62.0


def _order(sketch: Sketch) -> None:
    """Stretches of a row: those side by side may join, those further off may not."""
    sketch.line((10, _LINE), (234, _LINE), 1, "line")
    for left, right in ((16.0, 100.0), (124.0, 176.0), (202.0, 222.0)):
        sketch.ring(((left + right) / 2, _LINE), (right - left) / 2, 13)
    for left, right in ((58.0, 150.0), (150.0, 212.0)):
        sketch.path([(left, _LINE - 15), ((left + right) / 2, _LINE - 38), (right, _LINE - 15)])
    sketch.line((58, _LINE + 20), (212, _LINE + 20), 1.0, "soft", dashed=True)
    sketch.dots([(x, _LINE) for x in _PLACES[:3]], 1)
    sketch.dots([(x, _LINE) for x in _PLACES[3:5]], 2)
    sketch.dots([(_PLACES[5], _LINE)], 3)


ORDER_PICTURES: dict[str, Callable[[Sketch], None]] = {"order": _order}
