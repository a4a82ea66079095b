"""The proximities of all pairs of cases."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from gorvel.core.base.errors import InputError
from gorvel.core.base.progress import Phase, Progress, silent
from gorvel.core.kernels.recipe import Recipe
from gorvel.core.proximity.answers import Answers
from gorvel.core.proximity.measures import MEASURES, Measure, recipe_of

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
        progress(Phase.PROXIMITIES, start / n)
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


def plain_kind(answers: Answers, key: str) -> tuple[int, bool] | None:
    """Of which differences complete answers are a plain sum, None for other measures.

    Squares (0) or absolute differences (1), and whether roots follow; None for other measures.
    """
    return None if np.isnan(answers.values).any() else MEASURES[key].plain


def square_pairs(
    answers: Answers,
    key: str,
    case_names: Sequence[str],
    progress: Progress = silent,
    out: NDArray[np.float64] | None = None,
    alone: bool = False,
) -> NDArray[np.float64]:
    """The square matrix to be joined in rounds: as `all_pairs`, with infinity on the diagonal.

    alone : on one thread, beside others.
    """
    recipe = recipe_of(answers, key)
    if recipe is None:
        out = all_pairs(answers, key, case_names, progress, out)
        np.fill_diagonal(out, np.inf)
        return out
    from gorvel.core.kernels.pairs import ROWS, fill_alone, fill_square

    n = answers.values.shape[0]
    out = np.empty((n, n)) if out is None else out
    pieces = -(-n // ROWS)
    halves, sound = (pieces + 1) // 2, np.ones(pieces, dtype=bool)
    step = max(_STEP // (ROWS * n), 1)
    for begin in range(0, halves, step):
        progress(Phase.PROXIMITIES, begin / halves)
        (fill_alone if alone else fill_square)(recipe, begin, min(begin + step, halves), out, sound)
    for piece in np.flatnonzero(~sound).tolist():
        progress(Phase.PROXIMITIES, 1.0)
        rows = range(piece * ROWS, min((piece + 1) * ROWS, n))
        _refuse_strange(answers, key, case_names, out, rows)
    return out


def _refuse_strange(
    answers: Answers, key: str, names: Sequence[str], out: NDArray[np.float64], rows: range
) -> None:
    """Refuse the first pair of some rows whose distance is not a finite number, if there is one."""
    for i in rows:
        others = ~np.isfinite(out[i])
        others[i] = False
        if others.any():
            block = np.where(np.arange(len(out)) == i, 0.0, out[i])[None]
            _refuse(block, i, names, answers, MEASURES[key])


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

    @property
    def recipe(self) -> Recipe | None:
        """How a compiled loop measures them; None for none, or where a matrix is kept."""
        if self.matrix is not None or self.answers is None:
            return None
        return recipe_of(self.answers, self.key)
