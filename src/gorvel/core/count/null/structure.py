"""Is there any structure at all: before a count is chosen, whether there is anything to count."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from gorvel.core.base.errors import InputError
from gorvel.core.base.progress import Phase, Progress, Stage, silent
from gorvel.core.count.indices.index_table import without_variables
from gorvel.core.count.resampling.resampling_engine import NoiseBox, TreeResampler
from gorvel.core.engine.engine import Engine, rounds_of
from gorvel.core.grow.grown import Grown
from gorvel.core.proximity.measures import MEASURES
from gorvel.core.tree.cophenetic import cophenetic_correlation

Floats = NDArray[np.float64]

_SHARE, _MOST = 0.1, 100  # of the cases, and at most so many, are probed
_FEWEST = 10


@dataclass(frozen=True)
class Finding:
    """The answer of one check.

    value : None where it cannot be had, with the reason why; p : of a test against no structure;
    rounds : what it rests on.
    """

    value: float | None
    p: float | None
    rounds: int
    why: str = ""


def _nearest(points: Floats, cases: Floats, leave_out: Sequence[int] | None = None) -> Floats:
    """Squared distance of each point to the nearest case; leave_out : the case a point is."""
    out = np.empty(len(points))
    for k, point in enumerate(points):
        far = ((cases - point) ** 2).sum(axis=1)
        if leave_out is not None:
            far[leave_out[k]] = np.inf
        out[k] = far.min()
    return out


def hopkins(
    grown: Grown, rounds: int, seed: int, progress: Progress = silent, box: str = "axes"
) -> Finding:
    """Are cases nearer to each other than points of even noise are to them?

    Sums of u^p / (sums of u^p + w^p), u from points of noise in a box, w from cases, to the nearest
    other case; p variables; the median of the rounds. 0.5 for noise, towards 1 for clusters, and
    for any bell shape. Its p-value is that of Beta(m, m), m probes a round.

    progress : told "structure"; may stop the work by raising.

    References
    ----------
    Hopkins & Skellam 1954; Cross & Jain 1982, Measurement of clustering tendency.
    """
    why = without_variables(grown.prepared)
    n = grown.tree.n
    if why is None and n < _FEWEST:
        why = f"{n} cases are too few"
    answers = grown.prepared.answers
    if why is not None or answers is None:
        return Finding(None, None, 0, why or "")
    points = answers.values * np.sqrt(answers.importance)
    probes = min(max(int(_SHARE * n), 1), _MOST)
    drawn_from, found = NoiseBox.of(points, box), []
    for number in range(rounds):
        progress(Phase.STRUCTURE, number / rounds)
        random = np.random.default_rng([seed, number, 3])
        noise = np.log(_positive(_nearest(drawn_from.draw(random, probes), points)))
        some = random.choice(n, probes, replace=False)
        cases = np.log(_positive(_nearest(points[some], points, some.tolist())))
        half = points.shape[1] / 2  # squares to the power of p / 2
        top = max(noise.max(), cases.max())
        u, w = np.exp(half * (noise - top)).sum(), np.exp(half * (cases - top)).sum()
        found.append(float(u / (u + w)))
    value = float(np.median(found))
    return Finding(value, _beta_above(value, probes), rounds)


def _positive(values: Floats) -> Floats:
    return np.maximum(values, 1e-300)


def _beta_above(value: float, m: int) -> float:
    """P(Beta(m, m) >= value), which is P(Binomial(2m - 1, value) < m)."""
    if value <= 0 or value >= 1:
        return 1.0 if value <= 0 else 0.0
    terms = [
        math.lgamma(2 * m) - math.lgamma(j + 1) - math.lgamma(2 * m - j)
        + j * math.log(value) + (2 * m - 1 - j) * math.log1p(-value)
        for j in range(m)
    ]  # fmt: skip
    return min(math.fsum(math.exp(term) for term in terms), 1.0)


@dataclass(frozen=True, eq=False)
class _Shuffled:
    """The cophenetic correlation of cases whose answers are shuffled.

    None where they cannot be measured.
    """

    resampler: TreeResampler
    values: Floats
    seed: int

    def run(self, number: int, progress: Progress) -> float | None:
        random = np.random.default_rng([self.seed, number, 4])
        resampler = self.resampler.watched(progress)
        try:
            tree, pairs = resampler.measured(random.permuted(self.values, axis=0))
        except InputError:
            return None
        return cophenetic_correlation(tree, pairs, resampler.telling)


def permuted_cophenetic(
    grown: Grown, rounds: int, seed: int, progress: Progress = silent, engine: Engine | None = None
) -> Finding:
    """Is the tree more faithful to its proximities than trees of shuffled answers?

    Answers of cases are shuffled, each variable by itself, which leaves no structure but that of
    single variables.

    Returns
    -------
    The mean cophenetic correlation of shuffled cases, and the share of them (the tree itself
    counted in) that reach its own.

    progress : told "structure"; may stop the work by raising.
    """
    answers = grown.prepared.answers
    own = cophenetic_correlation(grown.tree, grown.pairs, progress)
    why = None
    if answers is None:
        why = "a proximity matrix has no variables to shuffle"
    elif answers.values.shape[1] < 2:
        why = "one variable cannot be shuffled against others"
    elif own is None:
        why = "the cophenetic correlation is not defined"
    elif MEASURES[grown.pairs.key].whitens:
        why = "the Mahalanobis distance is tied to the cases as they are"
    if why is not None or answers is None or own is None:
        return Finding(None, None, 0, why or "")
    resampler = TreeResampler(grown)
    told = rounds_of(
        engine or resampler.engine, _Shuffled(resampler, answers.values, seed), rounds,
        Stage(progress, Phase.STRUCTURE),
    )  # fmt: skip
    found = [value for value in told if value is not None]
    if not found:
        return Finding(None, None, 0, "shuffled cases cannot be measured")
    reach = sum(value >= own for value in found)
    return Finding(float(np.mean(found)), (1 + reach) / (1 + len(found)), len(found))
