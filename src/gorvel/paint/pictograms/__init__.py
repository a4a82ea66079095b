"""Small pictures that show what a linkage, a measure or a scaling looks at.

Each is a function of a `Sketch` of 244 x 96 places; keys are those of the registries.
"""

from __future__ import annotations

from collections.abc import Callable

from gorvel.paint.pictograms.linkages import LINKAGE_PICTURES
from gorvel.paint.pictograms.measures import MEASURE_PICTURES
from gorvel.paint.pictograms.orders import ORDER_PICTURES
from gorvel.paint.pictograms.scalings import SCALE_PICTURES
from gorvel.paint.pictograms.sketch import Sketch
from gorvel.paint.pictograms.yes_no import YES_NO_PICTURES

__all__ = ["PICTURES", "Sketch"]

Picture = Callable[[Sketch], None]

PICTURES: dict[tuple[str, str], Picture] = {
    **{("linkage", key): picture for key, picture in LINKAGE_PICTURES.items()},
    **{("measure", key): picture for key, picture in MEASURE_PICTURES.items()},
    **{("measure", key): picture for key, picture in YES_NO_PICTURES.items()},
    **{("neighbours", key): picture for key, picture in ORDER_PICTURES.items()},
    **{("scale", key): picture for key, picture in SCALE_PICTURES.items()},
}
