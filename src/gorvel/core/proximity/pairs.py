"""The proximities of all pairs of cases."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from gorvel.core.errors import InputError
from gorvel.core.progress import Progress, silent
from gorvel.core.proximity.answers import Answers
from gorvel.core.proximity.measures import MEASURES, Measure

__all__ = ["Proximities", "all_pairs", "kernel_kind", "square_pairs"]

_STEP = 1 << 23  # pairs between two reports
_BLOCK = 1 << 18  # cells worked on at a time: stays in the processor's cache


def all_pairs(
    answers: Answers,
    key: str,
    case_names: Sequence[str],
    progress: Progress = silent,
    out: NDArray[np.float64] | None = None,
) -> NDArray[np.float64]:
    """The square, symmetric matrix of proximities with a zero diagonal.

    Parameters
    ----------
    answers : n cases by p variables; key : of the measure; case_names : n names for errors; out :
        (n, n) to be filled.

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
    out = np.empty((n, n)) if out is None else out
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


def kernel_kind(answers: Answers, key: str) -> tuple[int, bool] | None:
    """Which compiled loop measures all pairs, and whether roots follow; None for none.

    Only differences of complete answers have one.
    """
    kinds = {"squared-euclidean": (0, False), "euclidean": (0, True), "city-block": (1, False)}
    return None if np.isnan(answers.values).any() else kinds.get(key)


def square_pairs(
    answers: Answers,
    key: str,
    case_names: Sequence[str],
    progress: Progress = silent,
    out: NDArray[np.float64] | None = None,
) -> NDArray[np.float64]:
    """The square matrix to be joined in rounds: as `all_pairs`, with infinity on the diagonal."""
    kind = kernel_kind(answers, key)
    if kind is None:
        out = all_pairs(answers, key, case_names, progress, out)
        np.fill_diagonal(out, np.inf)
        return out
    from gorvel.core.kernels.pairs import ROWS, fill_square

    n = answers.values.shape[0]
    out = np.empty((n, n)) if out is None else out
    columns, halves = np.ascontiguousarray(answers.values.T), (-(-n // ROWS) + 1) // 2
    step = max(_STEP // (ROWS * n), 1)
    for begin in range(0, halves, step):
        progress("proximities", begin / halves)
        fill_square(columns, answers.importance, *kind, begin, min(begin + step, halves), out)
    if not np.isfinite(_furthest(answers, kind[0])):
        for i in range(n):
            progress("proximities", 1.0)
            if np.isinf(out[i, :i]).any():
                _too_far(case_names, int(np.isinf(out[i]).argmax()), i)
    return out


def _furthest(answers: Answers, kind: int) -> float:
    """No two cases are further apart; kind : 0 for squared, 1 for absolute differences."""
    with np.errstate(over="ignore"):
        apart = np.ptp(answers.values, axis=0)
        return float(np.sum(answers.importance * (apart if kind else apart**2)))


def _too_far(case_names: Sequence[str], i: int, j: int) -> None:
    names = f'"{case_names[i]}" and "{case_names[j]}"'
    raise InputError(
        "a distance beyond the largest number", "smaller values", place=f"cases {names}"
    )


@dataclass(frozen=True, eq=False)
class Proximities:
    """The proximities of n cases, kept as a matrix or measured again whenever they are asked for.

    answers : None where a matrix was read; key : of the measure; matrix : (n, n), None when it is
    not kept; names : n names for errors.
    """

    answers: Answers | None
    key: str
    matrix: NDArray[np.float64] | None
    names: Sequence[str]

    def block(self, rows: NDArray[np.int64], columns: NDArray[np.int64]) -> NDArray[np.float64]:
        """(rows, columns) proximities of some cases to some others."""
        if self.matrix is not None:
            return self.matrix[rows[:, None], columns[None, :]]
        assert self.answers is not None
        values = self.answers.values[np.concatenate([rows, columns])]
        measured = MEASURES[self.key].function(
            replace(self.answers, values=values), slice(0, len(rows))
        )
        out = measured[:, len(rows) :]
        out[rows[:, None] == columns[None, :]] = 0.0
        return out

    def whole(self) -> NDArray[np.float64]:
        """(n, n), measured anew when it is not kept."""
        if self.matrix is not None:
            return self.matrix
        assert self.answers is not None
        return all_pairs(self.answers, self.key, self.names)
