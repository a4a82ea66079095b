"""Trees of other cases by the plan of a grown one: of some of its cases, and of made-up ones."""

from __future__ import annotations

from dataclasses import dataclass, replace
from os import cpu_count

import numpy as np
from numpy.typing import NDArray

from gorvel.core.base.progress import Progress, silent
from gorvel.core.cases.design import Design
from gorvel.core.cases.prepared import Prepared, measurable, sequence_of
from gorvel.core.engine.engine import Engine, ThreadEngine
from gorvel.core.grow.algorithm import SMALL
from gorvel.core.grow.growing import regrown, regrown_pairs
from gorvel.core.grow.grown import Grown
from gorvel.core.linkage.rules import TREE_RULES
from gorvel.core.proximity.pairs import Proximities
from gorvel.core.tree.tree import Tree

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]

_WORTH = 500  # cases from which a second thread pays
# rules under which equal cases are joined first and then stand for one of their mass


@dataclass(frozen=True, eq=False)
class TreeResampler:
    """Grows trees by the plan of one that is there.

    design : by which cases are drawn, None for each by itself; progress : told while a large one
    grows; may stop it by raising.
    """

    grown: Grown
    design: Design | None = None
    progress: Progress = silent

    def watched(self, progress: Progress) -> TreeResampler:
        """The same, which tells where it is."""
        return replace(self, progress=progress)

    @property
    def prepared(self) -> Prepared:
        return self.grown.prepared

    @property
    def masses(self) -> Floats:
        """(n,) case weights, 1 where there are none."""
        weights = self.prepared.weights
        return np.ones(self.prepared.n) if weights is None else weights

    @property
    def folds(self) -> bool:
        """May a case drawn several times be one of several times the mass?"""
        return TREE_RULES[self.grown.method.linkage].folds

    def drawn(self, random: np.random.Generator) -> Ints:
        """Places of cases drawn anew with replacement, rising."""
        n = self.prepared.n
        if self.design is not None:
            return self.design.drawn(random)
        return np.sort(random.integers(0, n, n))

    def of_drawn(self, drawn: Ints) -> tuple[Ints, Ints, Tree, Ints]:
        """The tree of all cases that were drawn.

        The different cases among those drawn, how often each is, the tree of all that were drawn,
        and (cases,) where each stands in it. drawn : places in the study, rising.
        """
        cases, times = np.unique(drawn, return_counts=True)
        if self.folds:
            return cases, times, self.of_rows(cases, times), np.arange(len(cases))
        return cases, times, self.of_rows(drawn), np.searchsorted(drawn, cases)

    def of_rows(self, rows: Ints, times: Ints | None = None) -> Tree:
        """The tree of some cases.

        rows : places in the study; times : how often each stands for itself; where the rule allows
        it they become heavier, else `rows` has to hold them that often.
        """
        prepared = self.prepared
        weights = prepared.weights if prepared.weights is None else prepared.weights[rows]
        if times is not None:
            weights = self.masses[rows] * times
        answers = prepared.answers
        whole = self.grown.pairs.matrix
        matrix = None if whole is None else whole[np.ix_(rows, rows)]
        some = replace(
            prepared,
            labels=tuple(prepared.labels[int(k)] for k in rows),
            weights=weights,
            answers=None if answers is None else replace(answers, values=answers.values[rows]),
            proximities=None,
            sequence=sequence_of(prepared.sequence, rows),
        )
        return self._regrown(some, matrix)

    def of_values(self, values: Floats, weights: Floats | None = None) -> Tree:
        """The tree of made-up cases.

        values : (m, p), scaled; weights : (m,) or None.
        """
        return regrown(
            self._made_up(values, weights),
            self.grown.method,
            alone=self.side_by_side,
            progress=self.telling,
        )

    def measured(self, values: Floats) -> tuple[Tree, Proximities]:
        """The tree of as many made-up cases, with their proximities.

        Raises
        ------
        InputError : they cannot be measured.
        """
        made_up = self._made_up(values, self.prepared.weights)
        made_up = measurable(made_up, self.grown.method.measure)
        return regrown_pairs(made_up, self.grown.method, self.side_by_side, self.telling)

    def again(self, values: Floats) -> Grown:
        """As `measured`, as a study of its own; its schedule is that of the first."""
        made_up = self._made_up(values, self.prepared.weights)
        tree, pairs = self.measured(values)
        return replace(self.grown, prepared=made_up, tree=tree, pairs=pairs)

    def of_columns(self, columns: Ints) -> Tree:
        """The tree of the same cases by some of the variables, some of them several times."""
        answers = self.prepared.answers
        assert answers is not None
        drawn = replace(
            answers,
            values=np.ascontiguousarray(answers.values[:, columns]),
            importance=answers.importance[columns],
            levels=tuple(answers.levels[int(j)] for j in columns),
            asymmetric=tuple(answers.asymmetric[int(j)] for j in columns),
            ranges=answers.ranges[columns],
        )
        drawn_cases = replace(self.prepared, answers=drawn, proximities=None)
        return regrown(
            drawn_cases, self.grown.method, alone=self.side_by_side, progress=self.telling
        )

    def _regrown(self, cases: Prepared, matrix: Floats | None = None) -> Tree:
        return regrown(cases, self.grown.method, matrix, self.side_by_side, self.telling)

    def _made_up(self, values: Floats, weights: Floats | None) -> Prepared:
        answers = self.prepared.answers
        assert answers is not None
        return replace(
            self.prepared,
            labels=tuple(map(str, range(len(values)))),
            weights=weights,
            answers=replace(answers, values=values),
            proximities=None,
            sequence=None if self.prepared.sequence is None else np.arange(len(values)),
        )

    @property
    def telling(self) -> Progress:
        """Of one tree; none of a small one, which is done at once."""
        return silent if self.side_by_side else self.progress

    @property
    def side_by_side(self) -> bool:
        """Are trees grown beside each other; large ones use all cores one after the other."""
        return self.prepared.n <= SMALL

    @property
    def engine(self) -> Engine:
        """What grows many of them."""
        return engine_for(self.prepared.n)


def engine_for(cases: int) -> ThreadEngine:
    """What grows many trees of so many cases.

    Threads would wait for each other in small ones; large ones use all cores one after the other.
    """
    return ThreadEngine(max(cpu_count() or 1, 1) if _WORTH <= cases <= SMALL else 1)


@dataclass(frozen=True, eq=False)
class NoiseBox:
    """A box around some points, from which even noise is drawn.

    centre : (p,); axes : (q, p), one a row; low, high : (q,) ends along each.

    References
    ----------
    Tibshirani, Walther & Hastie 2001, Estimating the number of clusters in a data set via the gap
    statistic, references (a), the straight box, and (b), that along the axes.
    """

    centre: Floats
    axes: Floats
    low: Floats
    high: Floats

    @classmethod
    def of(cls, points: Floats, box: str = "axes") -> NoiseBox:
        """The box of (n, p) points, along their principal "axes", or "straight" along variables.

        Where variances are alike the axes are turned at random, and a box along them is much larger
        than the points need.
        """
        centre = points.mean(axis=0)
        if box == "straight":
            axes = np.eye(points.shape[1])
        else:
            axes = np.linalg.svd(points - centre, full_matrices=False)[2]
        along = (points - centre) @ axes.T
        return cls(centre, axes, along.min(axis=0), along.max(axis=0))

    def draw(self, random: np.random.Generator, cases: int) -> Floats:
        """(cases, p) even noise."""
        noise = random.uniform(self.low, self.high, (cases, len(self.low)))
        return np.asarray(noise @ self.axes + self.centre)
