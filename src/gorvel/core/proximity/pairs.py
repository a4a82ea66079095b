"""The proximities of all pairs of cases."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from gorvel.core.errors import InputError
from gorvel.core.progress import Progress, silent
from gorvel.core.proximity.answers import Answers
from gorvel.core.proximity.measures import MEASURES, Measure

__all__ = ["all_pairs", "bytes_needed"]

_BLOCK = 1 << 18  # cells worked on at a time: stays in the processor's cache


def all_pairs(
    answers: Answers, key: str, case_names: Sequence[str], progress: Progress = silent
) -> NDArray[np.float64]:
    """The square, symmetric matrix of proximities with a zero diagonal.

    Parameters
    ----------
    answers : n cases by p variables; key : of the measure; case_names : n names for errors.

    Returns
    -------
    (n, n) float64; smaller is more alike.

    Raises
    ------
    InputError : two cases have no variable in common, or their distance is not finite: names both;
        the measure cannot place a case (all zeros, all equal): names it.
    """
    n = answers.values.shape[0]
    measure = MEASURES[key]
    out = np.empty((n, n))
    step = max(1, _BLOCK // max(n, 1))
    for start in range(0, n, step):
        progress("proximities", start / n)
        rows = slice(start, min(n, start + step))
        with np.errstate(over="ignore"):
            out[rows] = measure.function(answers, rows)
        out[np.arange(rows.start, rows.stop), np.arange(rows.start, rows.stop)] = 0.0
        if not np.isfinite(out[rows]).all():
            _refuse(out[rows], rows.start, case_names, answers, measure)
    return out


def _refuse(
    block: NDArray[np.float64],
    start: int,
    case_names: Sequence[str],
    answers: Answers,
    measure: Measure,
) -> None:
    i, j = (int(k) for k in np.argwhere(~np.isfinite(block))[0])
    cases = sorted((start + i, j))
    place = " and ".join(f'"{case_names[k]}"' for k in cases)
    pair = answers.values[cases]
    both = ~np.isnan(pair).any(axis=0)
    undefined = measure.undefined
    if undefined is not None and both.any():
        wrong = np.flatnonzero(undefined.flags(pair[:, both]))
        if wrong.size:
            place = f'case "{case_names[cases[int(wrong[0])]]}"'
            expected = f"{undefined.expected}, for {measure.name}"
            raise InputError(undefined.found, expected, place=place)
    if np.isnan(block[i, j]):
        raise InputError(
            "no variable that both have", "at least one in common", place=f"cases {place}"
        )
    raise InputError(
        "a distance beyond the largest number", "smaller values", place=f"cases {place}"
    )


def bytes_needed(cases: int) -> float:
    """Peak memory of growing a tree: the proximities, and the working copy the joins consume."""
    return 2.1 * 8.0 * cases * cases
