"""Putting variables on comparable scales."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from gorvel.core.errors import InputError

__all__ = ["SCALINGS", "Scaling", "average_ranks", "pearson", "scale_cases", "scale_variables"]

Vector = NDArray[np.float64]

_FEWEST = 3  # cases a correlation needs


@dataclass(frozen=True)
class Scaling:
    """One way of scaling.

    key : in plan files; name : on screen, as it reads in the plan sentence;
    formula, purpose, misleads : for people; function : known values (m,) and weights -> (m,).
    """

    key: str
    name: str
    formula: str
    purpose: str
    misleads: str
    function: Callable[[Vector, Vector | None], Vector]
    needs_spread: bool = True
    affine: bool = True  # a straight line for each variable


def _none(x: Vector, weights: Vector | None) -> Vector:
    return x


def _zscore(x: Vector, weights: Vector | None) -> Vector:
    w = np.ones_like(x) if weights is None else weights
    mean = np.sum(w * x) / np.sum(w)
    spread = np.sum(w * (x - mean) ** 2) / (np.sum(w) - 1)
    return np.asarray((x - mean) / np.sqrt(spread))


def _range01(x: Vector, weights: Vector | None) -> Vector:
    low, high = np.min(x), np.max(x)
    return np.asarray((x - low) / (high - low))


_ALL = (
    Scaling(
        "none",
        "the answers as they are",
        "x",
        "Variables already share one unit, such as minutes, or ratings from 1 to 5.",
        "A variable with large numbers outweighs all others.",
        _none,
        needs_spread=False,
    ),
    Scaling(
        "zscore",
        "z-scores",
        "(x − mean) / sd",
        "Every variable gets mean 0 and standard deviation 1, so that all have a like say.",
        "A long tail or a few outliers swell the sd and flatten everybody else.",
        _zscore,
    ),
    Scaling(
        "range01",
        "ranges 0 to 1",
        "(x − min) / (max − min)",
        "Every variable runs from 0 to 1; keeps the shape of bounded answers such as ratings.",
        "One extreme answer sets the range and squeezes the rest together.",
        _range01,
    ),
)
SCALINGS: dict[str, Scaling] = {scaling.key: scaling for scaling in _ALL}


def _scaled(scaling: Scaling, x: Vector, weights: Vector | None, place: str) -> Vector:
    known = ~np.isnan(x)
    values = x[known]
    if scaling.needs_spread and (values.size == 0 or np.all(values == values[0])):
        raise InputError(
            "no spread (all known values are equal)",
            f"values that differ, for {scaling.name}; leave it out, or scale by none",
            place=place,
        )
    if scaling.key == "zscore" and weights is not None and np.sum(weights[known]) <= 1:
        raise InputError("weights that sum to 1 or less", "a larger sum for z-scores", place=place)
    out = np.full_like(x, np.nan)
    with np.errstate(all="ignore"):
        out[known] = scaling.function(values, None if weights is None else weights[known])
    if not np.all(np.isfinite(out[known])):
        raise InputError("values too large or too alike to scale", "a finite result", place=place)
    return out


def scale_variables(
    x: NDArray[np.float64], names: Sequence[str], key: str, weights: Vector | None = None
) -> NDArray[np.float64]:
    """Scale each column by its known values.

    Parameters
    ----------
    x : (n, p), NaN where missing; names : p names for errors; weights : (n,) or None.

    Raises
    ------
    InputError : a variable has no spread (unless key is "none"); names the variable.
    """
    columns = [
        _scaled(SCALINGS[key], x[:, j], weights, f'variable "{name}"')
        for j, name in enumerate(names)
    ]
    return np.column_stack(columns) if columns else x.copy()


def scale_cases(x: NDArray[np.float64], case_names: Sequence[str], key: str) -> NDArray[np.float64]:
    """Scale each row by its own known values (a case's answers against its own mean or range).

    Raises
    ------
    InputError : a case has no spread (unless key is "none"); names the case.
    """
    rows = [
        _scaled(SCALINGS[key], x[i], None, f'case "{name}"') for i, name in enumerate(case_names)
    ]
    return np.vstack(rows) if rows else x.copy()


def average_ranks(x: Vector) -> Vector:
    """Ranks 1.., equal values share the mean of theirs; NaN stays NaN.

    x : (n,) -> (n,).
    """
    out = np.full_like(x, np.nan)
    known = np.flatnonzero(~np.isnan(x))
    _, inverse, counts = np.unique(x[known], return_inverse=True, return_counts=True)
    last = np.cumsum(counts)
    out[known] = (last - (counts - 1) / 2)[inverse]
    return out


def pearson(x: Vector, y: Vector) -> float | None:
    """Product-moment correlation of two complete columns; None for fewer than 3 cases or no spread.

    x, y : (n,).
    """
    if x.size < _FEWEST:
        return None
    a, b = x - x.mean(), y - y.mean()
    size = float(np.sqrt((a @ a) * (b @ b)))
    return float(np.clip(a @ b / size, -1.0, 1.0)) if size > 0 else None
