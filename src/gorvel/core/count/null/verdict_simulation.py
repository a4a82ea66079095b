"""How often the verdict is right on studies like this one, without groups and with those found."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from gorvel.core.base.errors import InputError
from gorvel.core.base.progress import Phase, Progress, Stage, silent
from gorvel.core.count.indices.index_table import compute_indices
from gorvel.core.count.null.conclusion import Groups, concluded
from gorvel.core.count.null.evidence import MOST, evidence_of_groups
from gorvel.core.count.resampling.null_model import NullModel
from gorvel.core.count.resampling.resampling_engine import TreeResampler
from gorvel.core.engine.engine import Engine, ThreadEngine
from gorvel.core.grow.grown import Grown
from gorvel.core.plan.parts import CountPlan
from gorvel.core.tree.cuts import cut_at_count

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]
Said = tuple[Groups | None, int | None]  # whether there are groups, and how many

TRIALS = 25  # data sets of each kind, more each time it is asked
_DRAWS = 39  # data sets without groups that each is held against: p may be .025
_WITHOUT, _WITH = 11, 12  # what random numbers are for
_FEWEST = 4  # cases of a cluster whose own correlations are kept


@dataclass(frozen=True)
class Trial:
    """What was said of made-up studies.

    count : of the clusters that were planted; without, planted : of each study without groups and
    with them; why : in words, where none could be made.
    """

    count: int
    without: tuple[Said, ...] = ()
    planted: tuple[Said, ...] = ()
    why: str = ""

    @property
    def kept_quiet(self) -> int:
        """Of studies without groups, those in which none were said to be."""
        return sum(groups != "yes" for groups, _ in self.without)

    @property
    def found(self) -> int:
        """Of planted ones, those in which there were said to be groups, and as many."""
        return sum(said == ("yes", self.count) for said in self.planted)


Report = Callable[[Trial], None]


def try_verdict(
    grown: Grown,
    count: int,
    asked: CountPlan,
    before: Trial | None = None,
    progress: Progress = silent,
    report: Report | None = None,
    engine: Engine | None = None,
) -> Trial:
    """Make up studies with the cases, variables, gaps and weights of this one, and conclude.

    One kind has the margins, correlations and tails of the study and no groups; the other has, in
    each of the clusters found, those of that cluster. Each is concluded from silhouettes against 39
    data sets without groups, and by the rules that do not resample.

    Parameters
    ----------
    count : clusters that are planted; before : an earlier trial of the same count, which is gone on
        with; progress : told "trial"; may stop the work by raising; report : told after each study.
    """
    trial = before if before is not None and before.count == count else Trial(count)
    answers, n = grown.prepared.answers, grown.tree.n
    if grown.of == "variables" or answers is None:
        return replace(trial, why="studies are simulated from answers, and there are none here")
    if n > MOST or not 2 <= count < n:
        return replace(trial, why=f"it is checked up to {MOST:,} cases, with two clusters or more")
    resampler = TreeResampler(grown)
    null = NullModel.of(answers, resampler.masses, asked.seed)
    planted = _Planted.of(grown, count, resampler.masses, asked.seed)
    plan = asked.model_copy(update={"resamples": _DRAWS})
    begun, stage = len(trial.planted), Stage(progress, Phase.TRIAL)
    kinds = [
        (number, purpose)
        for number in range(begun, begun + TRIALS)
        for purpose in (_WITHOUT, _WITH)
        if purpose == _WITH or len(trial.without) <= number
    ]
    task = _SimulatedStudy(resampler, null, planted, plan, kinds)
    engine = engine or resampler.engine
    studies = engine.map(task, range(len(kinds)), stage.while_growing)
    for (_, purpose), said in zip(kinds, studies, strict=True):
        if isinstance(said, InputError):
            return replace(trial, why=f"a simulated study could not be analysed: {said}")
        if purpose == _WITHOUT:
            trial = replace(trial, without=(*trial.without, said))
        else:
            trial = replace(trial, planted=(*trial.planted, said))
        stage.tell((len(trial.without) + len(trial.planted) - 2 * begun) / (2 * TRIALS))
        if report is not None:
            report(trial)
    return trial


@dataclass(frozen=True, eq=False)
class _SimulatedStudy:
    """What is said of one study. kinds : of each, its number and purpose."""

    resampler: TreeResampler
    null: NullModel
    planted: _Planted
    plan: CountPlan
    kinds: Sequence[tuple[int, int]]

    def run(self, number: int, progress: Progress) -> Said | InputError:
        place, purpose = self.kinds[number]
        draw = self.null.draw if purpose == _WITHOUT else self.planted.draw
        values = draw(np.random.default_rng([self.plan.seed, place, purpose]))
        try:
            grown = self.resampler.watched(progress).again(values)
            board = compute_indices(grown, self.plan, None, progress)
            evidence = evidence_of_groups(grown, self.plan, progress, engine=ThreadEngine())
        except InputError as error:
            return error
        told = concluded(board, evidence, self.plan.left_out)
        return told.groups, told.count


@dataclass(frozen=True, eq=False)
class _Planted:
    """Cases in clusters, each drawn like the cases of its own. rows : of each cluster."""

    values: Floats
    rows: tuple[Ints, ...]
    nulls: tuple[NullModel | None, ...]

    @classmethod
    def of(cls, grown: Grown, count: int, masses: Floats, seed: int) -> _Planted:
        answers = grown.prepared.answers
        assert answers is not None
        membership = cut_at_count(grown.tree, count).membership
        rows = tuple(np.flatnonzero(membership == cluster) for cluster in range(1, count + 1))
        nulls = []
        for own in rows:
            values = answers.values[own]
            known = ~np.isnan(values).all(axis=0)
            fits = len(own) >= _FEWEST and bool(known.all())
            some = replace(answers, values=values)
            nulls.append(NullModel.of(some, masses[own], seed) if fits else None)
        return cls(answers.values, rows, tuple(nulls))

    def draw(self, random: np.random.Generator) -> Floats:
        """(n, p) answers; cases of very small clusters are drawn from it whole."""
        out = np.empty_like(self.values)
        for own, null in zip(self.rows, self.nulls, strict=True):
            out[own] = (
                self.values[random.choice(own, len(own))] if null is None else null.draw(random)
            )
        return out
