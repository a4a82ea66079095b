"""Columns of results that only files and copies have."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from gorvel.core.grow.assigning import Assigned

Ints = NDArray[np.int64]


def assigned_columns(found: Assigned) -> dict[str, Any]:
    """A row for each case of the other file."""
    columns: dict[str, Any] = {"case": list(found.cases), "label": list(found.labels)}
    for count, given in found.by_count.items():
        none = given.cluster == 0
        columns[f"k{count}"] = _unless(given.cluster, none)
        columns[f"k{count}_distance"] = given.distance
        columns[f"k{count}_second"] = _unless(given.second, given.second == 0)
        columns[f"k{count}_margin"] = given.margin
        columns[f"k{count}_far"] = _unless(given.far.astype(np.int64), none)
    return columns


def _unless(values: Ints, none: NDArray[np.bool_]) -> list[int | None]:
    pairs = zip(values.tolist(), none.tolist(), strict=True)
    return [None if missing else value for value, missing in pairs]
