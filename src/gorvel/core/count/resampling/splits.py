"""Each split of the tree tested, from the top down, against the hypothesis of one cluster."""

from __future__ import annotations

from collections import deque
from dataclasses import dataclass
from statistics import NormalDist

import numpy as np
from numpy.typing import NDArray

from gorvel.core.base.progress import Phase, Progress, Stage, silent
from gorvel.core.count.indices.index_table import without_variables
from gorvel.core.count.resampling.resampling_engine import TreeResampler
from gorvel.core.engine.engine import Engine
from gorvel.core.grow.grown import Grown
from gorvel.core.proximity.measures import MEASURES
from gorvel.core.tree.tree import Tree

Floats = NDArray[np.float64]

_FEWEST = 10  # cases of a cluster whose split is tested


@dataclass(frozen=True)
class SplitTest:
    """One join tested.

    join : from 0; cases : below it; index : cluster index, the share of the sum of squares that is
    left when it is split; p : how likely one normal cloud is to give as low a one; level : what p
    is held against, so that all tests together err in `alpha` of studies.
    """

    join: int
    cases: int
    index: float
    p: float
    level: float

    @property
    def holds(self) -> bool:
        """Is the split more than one cloud would show?"""
        return self.p <= self.level


@dataclass(frozen=True)
class SplitTests:
    """Tests in the order made; why : in words, where none could be made."""

    tests: tuple[SplitTest, ...]
    why: str = ""

    @property
    def clusters(self) -> int:
        """How many clusters the splits that hold make."""
        return 1 + sum(test.holds for test in self.tests)


def _why_not(grown: Grown) -> str | None:
    why = without_variables(grown.prepared)
    if why is not None:
        return why
    if grown.prepared.weights is not None:
        return "it is not defined for case weights"
    if not MEASURES[grown.method.measure].euclidean:
        return "it is made for Euclidean distances"
    if grown.method.linkage != "ward":
        return "it holds its level under Ward’s rule alone"
    return None if grown.tree.n >= _FEWEST else f"{grown.tree.n} cases are too few"


def _index(tree: Tree, join: int, points: Floats) -> float:
    """The share of the sum of squares of a cluster that is left when its join is undone."""

    def squares(node: int) -> float:
        own = points[tree.members(node)]
        return float(((own - own.mean(axis=0)) ** 2).sum())

    whole = squares(tree.n + join)
    parts = squares(int(tree.left[join])) + squares(int(tree.right[join]))
    return parts / whole if whole > 0 else 1.0


def shrunk_spreads(points: Floats) -> Floats:
    """(p,) standard deviations along the principal axes of (n, p) points.

    By a covariance that is shrunk towards equal variances as far as the points are too few to know
    better.

    References
    ----------
    Ledoit & Wolf 2004.
    """
    n, p = points.shape
    centred = points - points.mean(axis=0)
    covariance = centred.T @ centred / n
    values = np.maximum(np.linalg.eigvalsh(covariance)[::-1], 0.0)
    mean = values.mean()
    off = float(((values - mean) ** 2).sum()) / p  # of the covariance from equal variances
    lengths = (centred**2).sum(axis=1)
    stray = (float((lengths**2).sum()) / n - float((values**2).sum())) / (n * p)
    share = min(max(stray, 0.0) / off, 1.0) if off > 0 else 1.0
    return np.asarray(np.sqrt(share * mean + (1 - share) * values))


@dataclass(frozen=True, eq=False)
class _OneCluster:
    """The cluster index of the split of so many cases of one normal cloud.

    join : that is tested; spread : standard deviations along the axes of the cloud; roots : of the
    importance of each variable.
    """

    resampler: TreeResampler
    join: int
    cases: int
    spread: Floats
    roots: Floats
    seed: int

    def run(self, number: int, progress: Progress) -> float:
        random = np.random.default_rng([self.seed, number, 5, self.join])
        cloud = random.normal(size=(self.cases, len(self.spread))) * self.spread
        tree = self.resampler.watched(progress).of_values(cloud / self.roots)
        return _index(tree, self.cases - 2, cloud)


def split_tests(
    grown: Grown, rounds: int, seed: int, alpha: float = 0.05, progress: Progress = silent,
    engine: Engine | None = None,
) -> SplitTests:  # fmt: skip
    """Test splits from the top down; below one that does not hold, none is tested.

    One cluster is a normal cloud with the covariance of the cases, shrunk towards equal variances;
    its split by the same rule gives the cluster indices of chance, and a normal curve through these
    the p-value. (The unshrunk covariance takes in the distance of groups and hides them; the
    published test thresholds it, which breaks on correlated answers.) The level of a join of m
    among n cases is alpha (m - 1) / (n - 1).

    progress : told "splits"; may stop the work by raising.

    References
    ----------
    Kimes, Liu, Hayes & Marron 2017, Statistical significance for hierarchical clustering.
    Ledoit & Wolf 2004, A well-conditioned estimator for large-dimensional covariance matrices.
    Meinshausen 2008, Hierarchical testing of variable importance (the levels).
    """
    why = _why_not(grown)
    answers = grown.prepared.answers
    if why is not None or answers is None:
        return SplitTests((), why or "")
    tree, stage, resampler = grown.tree, Stage(progress, Phase.SPLITS), TreeResampler(grown)
    roots, engine = np.sqrt(answers.importance), engine or resampler.engine
    points = answers.values * roots
    waiting, tests, settled = deque([tree.joins - 1]), [], 0
    while waiting:
        join = waiting.popleft()
        node = tree.n + join
        own = points[tree.members(node)]
        task = _OneCluster(resampler, join, len(own), shrunk_spreads(own), roots, seed)
        found = []
        for index in engine.map(task, range(rounds), stage.while_growing):
            found.append(index)
            stage.tell((settled + len(own) * len(found) / rounds) / (3 * tree.n))
        settled += len(own)
        index = _index(tree, join, points)
        level = alpha * (len(own) - 1) / (tree.n - 1)
        test = SplitTest(join, len(own), index, _p_value(index, found), level)
        tests.append(test)
        if test.holds:
            parts = (int(tree.left[join]), int(tree.right[join]))
            waiting += [part - tree.n for part in parts if tree.sizes[part] >= _FEWEST]
    return SplitTests(tuple(tests))


def _p_value(index: float, found: list[float]) -> float:
    sd = float(np.std(found, ddof=1)) if len(found) > 1 else 0.0
    if sd == 0:
        return 1.0 if index >= np.mean(found) else 0.0
    return NormalDist(float(np.mean(found)), sd).cdf(index)
