"""The few questions that tell clusters apart best, and the rule that does it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from gorvel.core.base.progress import Phase, Progress, silent
from gorvel.core.profile.raw_answers import Question

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]

FOLDS = 10  # of the cross-validation; case number k (from 0) is in fold k mod 10
_RIDGE = 1e-9  # of the spread of each question, so that one that clusters explain whole counts


@dataclass(frozen=True, eq=False)
class Discriminant:
    """Linear discriminant functions on raw answers: the cluster of the largest is taken.

    constants : (k,); coefficients : (q, k).
    """

    constants: Floats
    coefficients: Floats

    def clusters(self, x: Floats) -> Ints:
        """(m,) clusters from 0 of (m, q) answers, the first of equals."""
        return np.asarray((x @ self.coefficients + self.constants).argmax(axis=1))


@dataclass(frozen=True, eq=False)
class ShortForm:
    """Questions in the order of choice.

    accuracy : share of cases that cross-validation gives their own cluster, after each; rule : on
    all of them, from all cases; confused : (k, k) cases of each cluster (rows) by the one they are
    given in cross-validation, with all of them; means : (q,) of the questions, which stand for
    gaps; answers : (n, q) with these; given : (q, n) clusters that cross-validation gives after
    each question; own : (n,).
    """

    questions: tuple[str, ...]
    accuracy: tuple[float, ...]
    rule: Discriminant
    confused: Ints
    means: Floats
    answers: Floats
    given: Ints
    own: Ints

    @property
    def chance(self) -> float:
        """Share of the cases that is given right by naming the largest cluster."""
        sizes = np.bincount(self.own)
        return float(sizes.max() / sizes.sum())

    def first(self, questions: int) -> ShortForm:
        """The same of the first so many questions."""
        q, count = questions, len(self.confused)
        x = np.ascontiguousarray(self.answers[:, :q])
        return ShortForm(
            self.questions[:q], self.accuracy[:q], discriminant(x, self.own, count),
            _confused(self.own, self.given[q - 1], count), self.means[:q], x, self.given[:q],
            self.own,
        )  # fmt: skip


def discriminant(x: Floats, own: Ints, count: int) -> Discriminant:
    """Fisher’s linear discriminant analysis with the shares of clusters as prior chances.

    A cluster without cases is never taken.

    x : (n, q) answers, complete; own : (n,) clusters from 0.

    References
    ----------
    Fisher 1936, The use of multiple measurements in taxonomic problems.
    """
    n, sizes = len(x), np.bincount(own, minlength=count)
    centre = x.mean(axis=0)
    off = x - centre
    sums = np.stack([np.bincount(own, column, count) for column in off.T], axis=1)
    means = sums / np.maximum(sizes, 1)[:, None]
    away = off - means[own]
    present = int((sizes > 0).sum())
    pooled = away.T @ away / max(n - present, 1)
    spread = (off**2).mean(axis=0)
    pooled[np.diag_indices(len(pooled))] += _RIDGE * np.where(spread > 0, spread, 1.0)
    means += centre
    turned = np.linalg.solve(pooled, means.T)
    with np.errstate(divide="ignore"):
        chances = np.log(sizes / n)
    return Discriminant(chances - 0.5 * (means * turned.T).sum(axis=1), turned)


def short_form(
    told: Sequence[Question], own: Ints, count: int, most: int, progress: Progress = silent
) -> ShortForm | None:
    """Choose questions one after the other, each the one with which most cases are given right.

    Of equal ones the earlier is taken. Nominal questions take no part; a gap counts as the mean of
    its question.

    Parameters
    ----------
    own : (n,) clusters from 0; most : questions, at most as many as there are.
    progress : told "typing"; may stop the work by raising.

    Returns
    -------
    None where there is no question of numbers.
    """
    asked = [one for one in told if not one.nominal and not np.isnan(one.values).all()]
    if not asked:
        return None
    x = np.column_stack([_filled(one.values) for one in asked])
    n = len(own)
    folds = np.arange(n) % min(FOLDS, n)
    most = min(most, len(asked))
    chosen: list[int] = []
    accuracy: list[float] = []
    given: list[Ints] = []
    for place in range(most):
        best = (-1, -1, own)
        for j in range(len(asked)):
            progress(Phase.TYPING, (place + j / len(asked)) / most)
            if j not in chosen:
                found = _validated(x[:, [*chosen, j]], own, count, folds)
                right = int((found == own).sum())
                if right > best[0]:
                    best = (right, j, found)
        chosen.append(best[1])
        accuracy.append(best[0] / n)
        given.append(best[2])
    names = tuple(asked[j].name for j in chosen)
    x = x[:, chosen]
    means = np.array([np.nanmean(asked[j].values) for j in chosen])
    return ShortForm(
        names, tuple(accuracy), discriminant(x, own, count), _confused(own, given[-1], count),
        means, x, np.array(given), own,
    )  # fmt: skip


def _confused(own: Ints, given: Ints, count: int) -> Ints:
    """(k, k) cases of each cluster by the one they are given."""
    out = np.zeros((count, count), dtype=np.int64)
    np.add.at(out, (own, given), 1)
    return out


def _filled(values: Floats) -> Floats:
    return np.where(np.isnan(values), np.nanmean(values), values)


def _validated(x: Floats, own: Ints, count: int, folds: Ints) -> Ints:
    """(n,) the cluster each case is given by the rule of the cases of the other folds."""
    out = np.zeros(len(own), dtype=np.int64)
    for fold in range(int(folds.max()) + 1):
        test = folds == fold
        if test.all():
            continue
        out[test] = discriminant(x[~test], own[~test], count).clusters(x[test])
    return out
