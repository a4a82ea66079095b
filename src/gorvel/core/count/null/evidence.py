"""Are there any groups: the silhouettes of a tree beside those of data without groups."""

from __future__ import annotations

from collections.abc import Callable, Collection
from dataclasses import dataclass, field, replace

import numpy as np
from numpy.typing import NDArray

from gorvel.core.base.errors import InputError
from gorvel.core.base.progress import Phase, Progress, Stage, silent
from gorvel.core.cases.prepared import sequence_of
from gorvel.core.count.indices.index_table import compute_indices, count_range
from gorvel.core.count.indices.nested import nested_cuts
from gorvel.core.count.indices.pairsums import Distances, pair_sums, silhouette_values
from gorvel.core.count.null.dip import at_table_end, dip, dip_p
from gorvel.core.count.null.null_comparison import IndexComparison, NullComparison
from gorvel.core.count.resampling.null_model import NullModel, Tails, undrawable
from gorvel.core.count.resampling.resampling_engine import TreeResampler
from gorvel.core.engine.engine import Engine, rounds_of
from gorvel.core.grow.grown import Grown
from gorvel.core.plan.count_rules import COUNT_RULES
from gorvel.core.plan.parts import ALL_RULES, CountPlan
from gorvel.core.proximity.pairs import Proximities
from gorvel.core.tree.tree import Tree

Floats = NDArray[np.float64]
Report = Callable[["Evidence"], None]

MOST = 5_000  # cases, of larger studies a part is drawn
_FEWEST = 10  # cases
_HEAP = 0.02  # share of the cases that give one answer, from which it is a heap
_FEW = 3  # cases that may give one answer whatever their share
_ENOUGH = 19  # draws; p is at least one in one more
_PURPOSE = 6  # of random numbers


@dataclass(frozen=True)
class Peaks:
    """The variable that has several peaks most clearly.

    p : all variables taken together; at_most : is the true p no larger than that?
    """

    variable: str
    p: float
    at_most: bool = False


@dataclass(frozen=True, eq=False)
class Evidence(NullComparison):
    """What data like these without groups reach.

    counts : rising, from 2; values : (counts,) mean silhouettes of the tree; second : (counts,)
    share of the cases in the second largest cluster; drawn : (draws, counts) mean silhouettes of
    trees of data without groups; tails : of the copula these were drawn from, None for a Gaussian
    one; peaks : None where no variable can be looked at; part : cases that were drawn of a large
    study, 0 for all; why : in words, where nothing could be drawn; beside : other indices, by the
    key of their rule.
    """

    counts: tuple[int, ...]
    values: Floats
    second: Floats
    drawn: Floats
    tails: Tails | None = None
    peaks: Peaks | None = None
    part: int = 0
    why: str = ""
    beside: dict[str, IndexComparison] = field(default_factory=dict)

    @property
    def enough(self) -> bool:
        """Are there so many draws that p could be as small as .05 at all?"""
        return self.draws >= _ENOUGH

    def with_draw(self, values: dict[str, Floats]) -> Evidence:
        """The same with one more data set. values : (counts,) of each index."""
        beside = {
            key: replace(one, drawn=np.vstack([one.drawn, values[key]]))
            for key, one in self.beside.items()
        }
        drawn = np.vstack([self.drawn, values["silhouette"]])
        return replace(self, drawn=drawn, beside=beside)

    def of(self, key: str) -> NullComparison | None:
        """The silhouettes, or another index; None for one that was not looked at."""
        return self if key == "silhouette" else self.beside.get(key)


@dataclass(frozen=True, eq=False)
class _WithoutGroups:
    """(counts,) values of indices of one data set without groups. others : besides silhouettes."""

    resampler: TreeResampler
    null: NullModel
    counts: tuple[int, ...]
    others: tuple[str, ...]
    seed: int

    def run(self, number: int, progress: Progress) -> dict[str, Floats] | InputError:
        random = np.random.default_rng([self.seed, number, _PURPOSE])
        resampler = self.resampler.watched(progress)
        try:
            made_up = resampler.again(self.null.draw(random))
        except InputError as error:
            return error
        means = _silhouettes(made_up.tree, made_up.pairs, self.counts)[0]
        unknown = {key: np.full(len(self.counts), np.nan) for key in self.others}
        others = _others(made_up, self.counts, self.others, resampler.telling)
        return {"silhouette": means} | unknown | others


def evidence_of_groups(
    grown: Grown,
    asked: CountPlan = ALL_RULES,
    progress: Progress = silent,
    report: Report | None = None,
    engine: Engine | None = None,
) -> Evidence:
    """Hold the silhouettes of a tree against those of trees of data without groups.

    asked : the part of a plan with range, draws and seed; progress : told "groups"; may stop the
    work by raising; report : told what there is after each draw.

    References
    ----------
    Hennig & Lin 2015, Flexible parametric bootstrap for testing homogeneity against clustering and
    assessing the number of clusters.
    """
    counts = tuple(count for count in count_range(asked, grown.tree.n) if count > 1)
    why = undrawable(grown) or (None if counts else f"{grown.tree.n} cases are too few")
    if why is not None:
        unknown = np.full(len(counts), np.nan)
        return Evidence(counts, unknown, unknown, np.empty((0, len(counts))), why=why)
    stage, part = Stage(progress, Phase.GROUPS), 0
    if grown.tree.n > MOST:
        grown, part = _part_of(grown, asked.seed, stage), MOST
    answers, resampler = grown.prepared.answers, TreeResampler(grown)
    assert answers is not None
    null = NullModel.of(answers, resampler.masses, asked.seed)
    values, second = _silhouettes(grown.tree, grown.pairs, counts)
    tails = None if np.isinf(null.tails.freedom) else null.tails
    nothing = np.empty((0, len(counts)))
    found = Evidence(counts, values, second, nothing, tails, _peaks(grown), part)
    others = _others(grown, counts, asked.groups_by, stage.while_growing)
    found = replace(
        found, beside={key: _beside(key, counts, values) for key, values in others.items()}
    )
    task = _WithoutGroups(resampler, null, counts, tuple(others), asked.seed)
    for of_draw in rounds_of(engine or resampler.engine, task, asked.resamples, stage):
        if isinstance(of_draw, InputError):
            why = f"data without groups could not be simulated: {of_draw}"
            return replace(found, drawn=nothing, why=why, beside={})
        found = found.with_draw(of_draw)
        if report is not None:
            report(found)
    return found


def _others(
    grown: Grown, counts: tuple[int, ...], keys: Collection[str], progress: Progress
) -> dict[str, Floats]:
    """(counts,) values of other indices of a tree, of those that can be worked out."""
    if not keys:
        return {}
    plan = CountPlan.model_validate({"from": counts[0], "to": counts[-1]})
    board = compute_indices(grown, plan, list(keys), progress)
    return {
        key: verdict.values
        for key, verdict in board.verdicts.items()
        if np.isfinite(verdict.values).any()
    }


def _beside(key: str, counts: tuple[int, ...], values: Floats) -> IndexComparison:
    sign = COUNT_RULES[key].direction.sign or -1.0
    return IndexComparison(counts, values, np.empty((0, len(counts))), sign)


def _part_of(grown: Grown, seed: int, stage: Stage) -> Grown:
    """The tree of a part of the cases, drawn at random."""
    rows = np.sort(np.random.default_rng([seed, 9]).choice(grown.tree.n, MOST, replace=False))
    prepared, answers = grown.prepared, grown.prepared.answers
    assert answers is not None
    some = replace(
        prepared,
        labels=tuple(prepared.labels[int(k)] for k in rows),
        numbers=prepared.numbers[rows],
        weights=None if prepared.weights is None else prepared.weights[rows],
        raw=None if prepared.raw is None else prepared.raw[rows],
        answers=replace(answers, values=answers.values[rows]),
        sequence=sequence_of(prepared.sequence, rows),
    )
    of_part = TreeResampler(replace(grown, prepared=some), progress=stage.while_growing)
    tree, pairs = of_part.measured(answers.values[rows])
    return replace(grown, prepared=some, tree=tree, pairs=pairs)


def _peaks(grown: Grown) -> Peaks | None:
    """Of variables without heaps, each case counting once.

    Amounts as people tell them have heaps, at round numbers and at 0, which are no groups.
    """
    answers, variables = grown.prepared.answers, grown.prepared.variables
    assert answers is not None
    found = []
    for j, variable in enumerate(variables):
        known = answers.values[~np.isnan(answers.values[:, j]), j]
        if variable.level == "nominal" or len(known) < _FEWEST:
            continue
        if np.unique(known, return_counts=True)[1].max() <= max(_FEW, _HEAP * len(known)):
            found.append((dip_p(dip(known), len(known)), variable.name))
    if not found:
        return None
    p, name = min(found)
    return Peaks(name, min(p * len(found), 1.0), at_table_end(p))


def _silhouettes(tree: Tree, pairs: Proximities, counts: tuple[int, ...]) -> tuple[Floats, Floats]:
    """(counts,) the mean silhouette, and the share of cases in the second largest cluster."""
    nested = nested_cuts(tree, counts[-1])
    sums = pair_sums(nested, Distances(pairs))
    means = np.array([silhouette_values(sums, count)[0].mean() for count in counts])
    second = [np.partition(nested.cluster_sizes(count), -2)[-2] / tree.n for count in counts]
    return means, np.array(second)
