"""Putting variables on comparable scales."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from gorvel.core.base.errors import InputError
from gorvel.core.base.numbers import varies

Vector = NDArray[np.float64]

_FEWEST = 3  # cases a correlation needs


@dataclass(frozen=True)
class Scaling:
    """One way of scaling.

    key : in plan files; name : on screen, as it reads in the plan sentence;
    formula, purpose, misleads : for people; function : known values (m,) and weights -> (m,);
    flaw : says of values with some spread what makes the scaling impossible, or nothing;
    affine : a straight line for each variable.
    """

    key: str
    name: str
    formula: str
    purpose: str
    misleads: str
    function: Callable[[Vector, Vector | None], Vector]
    needs_spread: bool = True
    affine: bool = True
    flaw: Callable[[Vector, Vector | None], str] = lambda x, weights: ""


def _none(x: Vector, weights: Vector | None) -> Vector:
    return x


def _mean(x: Vector, weights: Vector | None) -> float:
    w = np.ones_like(x) if weights is None else weights
    return math.fsum(w * x) / math.fsum(w)


def _sd(x: Vector, weights: Vector | None) -> float:
    w = np.ones_like(x) if weights is None else weights
    return math.sqrt(math.fsum(w * (x - _mean(x, weights)) ** 2) / (math.fsum(w) - 1.0))


def _zscore(x: Vector, weights: Vector | None) -> Vector:
    return np.asarray((x - _mean(x, weights)) / _sd(x, weights))


def _range01(x: Vector, weights: Vector | None) -> Vector:
    low, high = np.min(x), np.max(x)
    return np.asarray((x - low) / (high - low))


def _range11(x: Vector, weights: Vector | None) -> Vector:
    return 2.0 * _range01(x, weights) - 1.0


def _max1(x: Vector, weights: Vector | None) -> Vector:
    return np.asarray(x / np.max(np.abs(x)))


def _mean1(x: Vector, weights: Vector | None) -> Vector:
    return np.asarray(x / _mean(x, weights))


def _sd1(x: Vector, weights: Vector | None) -> Vector:
    return np.asarray(x / _sd(x, weights))


def _robust(x: Vector, weights: Vector | None) -> Vector:
    away = x - np.median(x)
    return np.asarray(away / (1.4826 * np.median(np.abs(away))))


def _no_mean(x: Vector, weights: Vector | None) -> str:
    return "a mean of 0" if _mean(x, weights) == 0 else ""


def _no_middle_spread(x: Vector, weights: Vector | None) -> str:
    return "half of the values equal (MAD 0)" if np.median(np.abs(x - np.median(x))) == 0 else ""


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
        "(x − mean) / SD",
        (
            "Every variable gets mean 0 and standard deviation 1, so all have equal "
            "influence; yes/no answers stay 0 and 1 unless they are scaled too."
        ),
        (
            "Downweights the very variables that separate groups, since groups inflate the "
            "SD (Fleiss & Zubin 1969). Ranges did better in simulations. A long tail does "
            "the same."
        ),
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
    Scaling(
        "range11",
        "ranges −1 to 1",
        "2 (x − min) / (max − min) − 1",
        "As ranges 0 to 1, with the middle of the range at 0.",
        "One extreme answer sets the range and squeezes the rest together.",
        _range11,
    ),
    Scaling(
        "max1",
        "shares of the maximum",
        "x / max |x|",
        "Amounts that start at 0, such as counts: 0 stays 0 and the largest becomes 1.",
        "One extreme answer sets the scale; a variable far from 0 hardly varies any more.",
        _max1,
    ),
    Scaling(
        "mean1",
        "multiples of the mean",
        "x / mean",
        "Amounts that start at 0: every variable gets mean 1, and relative differences count.",
        "A mean near 0 inflates differences.",
        _mean1,
        flaw=_no_mean,
    ),
    Scaling(
        "sd1",
        "multiples of the SD",
        "x / SD",
        "Every variable gets standard deviation 1, while 0 keeps its meaning.",
        "A long tail or a few outliers inflate the SD and flatten all other answers.",
        _sd1,
    ),
    Scaling(
        "robust",
        "robust z-scores",
        "(x − median) / (1.4826 MAD)",
        (
            "Like z-scores, but centre and scale are those of the bulk of the answers, "
            "which outliers cannot move."
        ),
        "Outliers stay as far out as they are; fails where half of the answers are one value.",
        _robust,
        flaw=_no_middle_spread,
    ),
    Scaling(
        "rank",
        "ranks",
        "average rank, 1 to n",
        "Only the order of the answers counts; tails and units play no part.",
        (
            "Large and small steps become equal. Tied answers share a rank, so a variable "
            "with few or lopsided answers varies less than one with many."
        ),
        lambda x, weights: average_ranks(x),
        affine=False,
    ),
)
SCALINGS: dict[str, Scaling] = {scaling.key: scaling for scaling in _ALL}


def _scaled(scaling: Scaling, x: Vector, weights: Vector | None, place: str) -> Vector:
    known = ~np.isnan(x)
    values = x[known]
    if scaling.needs_spread and (values.size == 0 or np.all(values == values[0])):
        raise InputError(
            "constant (all known values are equal)",
            f"values that differ, for {scaling.name}; leave it out, or scale by none",
            place=place,
        )
    own = None if weights is None else weights[known]
    by_sd = scaling.key in ("zscore", "sd1")
    if by_sd and own is not None and np.sum(own) <= 1:
        expected = f"a larger sum for {scaling.name}"
        raise InputError("weights that sum to 1 or less", expected, place=place)
    flaw = scaling.flaw(values, own)
    if flaw:
        raise InputError(flaw, f"another scaling than {scaling.name}", place=place)
    out = np.full_like(x, np.nan)
    with np.errstate(all="ignore"):
        out[known] = scaling.function(values, own)
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
    if x.size < _FEWEST or not (varies(x) and varies(y)):
        return None
    a, b = x - x.mean(), y - y.mean()
    size = float(np.sqrt((a @ a) * (b @ b)))
    return float(np.clip(a @ b / size, -1.0, 1.0)) if size > 0 else None
