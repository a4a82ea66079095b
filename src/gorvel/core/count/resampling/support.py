"""How well supported each branch is: does it come back when cases or variables are drawn anew?"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from statistics import NormalDist

import numpy as np
from numpy.typing import NDArray

from gorvel.core.base.errors import InputError
from gorvel.core.base.progress import Phase, Progress, Stage, silent
from gorvel.core.cases.design import Design
from gorvel.core.count.resampling.resampling_engine import TreeResampler
from gorvel.core.engine.engine import Engine, rounds_of
from gorvel.core.grow.grown import Grown
from gorvel.core.tree.tree import Tree

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]

SCALES = tuple(round(0.5 + 0.1 * k, 1) for k in range(10))  # of the number of variables
_NORMAL = NormalDist()
FEWEST = 30  # variables from which drawing them anew tells of branches
RECOVERED = 0.75  # Jaccard index from which a branch has come back
_SLACK = 1e-9  # of sums of shares of a case that was drawn several times
MOST = 2_000  # branches that are looked for, the largest ones


@dataclass(frozen=True, eq=False)
class Support:
    """Of each join, (n-1,): NaN for the last, which is always there.

    plain : the share of the rounds in which the branch comes back; unbiased : approximately
    unbiased support, 0 to 1, where variables were drawn, else NaN; why : in words, where none could
    be had; of : what was drawn, "variables" or "cases".
    """

    unbiased: Floats
    plain: Floats
    rounds: int
    why: str = ""
    of: str = "variables"

    @property
    def shown(self) -> Floats:
        """The one that is told of a branch."""
        return self.plain if self.of == "cases" else self.unbiased


def branch_support(
    grown: Grown, rounds: int, seed: int, progress: Progress = silent,
    design: Design | None = None, engine: Engine | None = None,
) -> Support:  # fmt: skip
    """Draw anew, and see which branches come back.

    From 30 variables on, these are drawn (in a tree of variables the cases), at ten scales,
    `rounds` times each: a multiscale bootstrap. Few variables of a questionnaire are no sample of
    variables, and the unbiased support of noise is high; there the cases are drawn, `rounds` times,
    and a branch has come back where some branch of the new tree has a Jaccard index of 0.75 with
    it, among the cases drawn; of the 2,000 largest branches.

    progress : told "support"; may stop the work by raising; design : by which cases are drawn.

    References
    ----------
    Hennig 2007, Cluster-wise assessment of cluster stability.
    Shimodaira 2004, Approximately unbiased tests of regions using multistep-multiscale bootstrap
    resampling.
    """
    answers, tree = grown.prepared.answers, grown.tree
    nothing = np.full(tree.joins, np.nan)
    few = answers is None or answers.values.shape[1] < FEWEST or answers.whitening is not None
    if grown.of == "cases" and few:
        if tree.n < 4:
            why = f"{tree.n} cases are too few to draw from"
            return Support(nothing, nothing, 0, why, "cases")
        return _by_cases(grown, rounds, seed, progress, design, engine)
    if answers is None:
        return Support(nothing, nothing, 0, "no answers stand behind these columns to draw from")
    if answers.values.shape[1] < 3:
        why = f"{answers.values.shape[1]} cases are too few to draw from"
        return Support(nothing, nothing, 0, why)
    stage, p = Stage(progress, Phase.SUPPORT), answers.values.shape[1]
    resampler = TreeResampler(grown)
    keys = np.random.default_rng(0).integers(0, 2**64, tree.n, dtype=np.uint64)
    own = _branches(tree, keys)
    counts = np.zeros((len(SCALES), tree.joins))
    sizes = [max(round(scale * p), 1) for scale in SCALES]
    done, whole = np.zeros(len(SCALES)), rounds * len(SCALES)
    task = _OfVariables(resampler, own, keys, sizes, rounds, seed)
    for number, found in enumerate(rounds_of(engine or resampler.engine, task, whole, stage)):
        if found is not None:
            counts[number // rounds] += found
            done[number // rounds] += 1
    shares = counts / np.maximum(done, 1)[:, None]
    ratios = np.array(sizes) / p
    support = np.array([unbiased(shares[:, join], ratios, done) for join in range(tree.joins)])
    plain = shares[SCALES.index(1.0)].copy()
    support[-1:], plain[-1:] = np.nan, np.nan
    return Support(support, plain, rounds)


@dataclass(frozen=True, eq=False)
class _OfVariables:
    """(joins,) does each branch come back by variables drawn anew?

    None where cases have no proximity by these. own : branches, by sums of `keys` of their cases;
    sizes : of draws by scale.
    """

    resampler: TreeResampler
    own: NDArray[np.uint64]
    keys: NDArray[np.uint64]
    sizes: Sequence[int]
    rounds: int
    seed: int

    def run(self, number: int, progress: Progress) -> NDArray[np.bool_] | None:
        scale, draw = divmod(number, self.rounds)
        random = np.random.default_rng([self.seed, draw, 6, scale])
        answers = self.resampler.prepared.answers
        assert answers is not None
        columns = random.integers(0, answers.values.shape[1], self.sizes[scale])
        try:
            other = self.resampler.watched(progress).of_columns(columns)
        except InputError:
            return None
        return np.isin(self.own, _branches(other, self.keys))


@dataclass(frozen=True, eq=False)
class _OfCases:
    """As `_jaccards`, of cases drawn anew."""

    resampler: TreeResampler
    looked_for: Ints
    seed: int

    def run(self, number: int, progress: Progress) -> Floats | InputError:
        resampler = self.resampler.watched(progress)
        drawn = resampler.drawn(np.random.default_rng([self.seed, number, 10]))
        try:
            return _jaccards(resampler, drawn, self.looked_for)
        except InputError as error:
            return error


def _by_cases(
    grown: Grown, rounds: int, seed: int, progress: Progress, design: Design | None,
    engine: Engine | None,
) -> Support:  # fmt: skip
    """The share of case resamples in which each branch comes back."""
    tree, resampler = grown.tree, TreeResampler(grown, design)
    sizes = tree.sizes[tree.n : -1]
    looked_for = np.sort(np.argsort(-sizes, kind="stable")[:MOST])
    task, stage = _OfCases(resampler, looked_for, seed), Stage(progress, Phase.SUPPORT)
    back, tried = np.zeros(len(looked_for)), np.zeros(len(looked_for))
    nothing = np.full(tree.joins, np.nan)
    for found in rounds_of(engine or resampler.engine, task, rounds, stage):
        if isinstance(found, InputError):
            why = f"a resample could not be measured: {found}"
            return Support(nothing, nothing, 0, why, "cases")
        tried += ~np.isnan(found)
        back += np.nan_to_num(found) >= RECOVERED - _SLACK
    plain = nothing.copy()
    with np.errstate(invalid="ignore"):
        plain[looked_for] = back / tried
    return Support(nothing, plain, rounds, "", "cases")


def _jaccards(resampler: TreeResampler, drawn: Ints, joins: Ints) -> Floats:
    """The largest Jaccard index of each of some branches with any of a tree of drawn cases.

    NaN where fewer than two of its cases were drawn.
    """
    cases, times = np.unique(drawn, return_counts=True)
    if resampler.folds:
        other, leaves = resampler.of_rows(cases, times), np.arange(len(cases))
    else:  # a case stands as often as it was drawn, and counts once in all
        other, leaves = resampler.of_rows(drawn), np.searchsorted(cases, drawn)
    weight = np.ones(len(cases)) if resampler.folds else 1 / times
    place = leaves[other.order]
    ends = np.concatenate([[0.0], np.cumsum(weight[place])])
    starts = other.starts[other.n :]
    stops = starts + other.sizes[other.n :]
    wide = ends[stops] - ends[starts]
    tree, own = resampler.grown.tree, np.zeros(resampler.prepared.n)
    out = np.full(len(joins), np.nan)
    for k, join in enumerate(joins.tolist()):
        own[:] = 0.0
        own[tree.members(tree.n + join)] = 1.0
        mine = own[cases]
        size = mine.sum()
        if size >= 2:
            shared = np.concatenate([[0.0], np.cumsum((mine * weight)[place])])
            both = shared[stops] - shared[starts]
            out[k] = (both / (size + wide - both)).max()
    return out


def _branches(tree: Tree, keys: NDArray[np.uint64]) -> NDArray[np.uint64]:
    """(n-1,) a number for the set of cases below each join: the sum of theirs, which wraps."""
    sums = np.concatenate([np.zeros(1, dtype=np.uint64), np.cumsum(keys[tree.order])])
    starts = tree.starts[tree.n :]
    return np.asarray(sums[starts + tree.sizes[tree.n :]] - sums[starts])


def unbiased(shares: Floats, ratios: Floats, draws: Floats) -> float:
    """Approximately unbiased support from how often a branch comes back at several scales.

    z = inverse normal of 1 - share is fitted by v sqrt(r) + c / sqrt(r), weighted by its precision;
    the support is 1 - normal(v - c). Where a branch always or never comes back at all scales but
    one, it is the share at the scale nearest to 1.

    shares, ratios, draws : (scales,).
    """
    usable = (shares > 0) & (shares < 1)
    if usable.sum() < 2 or len(np.unique(ratios[usable])) < 2:
        return float(shares[np.abs(ratios - 1).argmin()])
    share, ratio = shares[usable], ratios[usable]
    z = np.array([_NORMAL.inv_cdf(1 - s) for s in share])
    density = np.array([_NORMAL.pdf(q) for q in z])
    weight = draws[usable] * density**2 / (share * (1 - share))
    design = np.stack([np.sqrt(ratio), 1 / np.sqrt(ratio)], axis=1)
    root = np.sqrt(weight)
    v, c = np.linalg.lstsq(design * root[:, None], z * root, rcond=None)[0]
    return 1 - _NORMAL.cdf(float(v - c))
