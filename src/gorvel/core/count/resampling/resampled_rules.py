"""Rules that draw again: noise for the gap statistic, cases with replacement, halves of the cases.

The rounds are put together in their order, so that what is finished when the work is stopped is
what fewer rounds would have given.
"""

from __future__ import annotations

from collections.abc import Callable, Collection, Sequence

import numpy as np
from numpy.typing import NDArray

from gorvel.core.base.errors import InputError
from gorvel.core.base.progress import Phase, Progress, Stage, silent
from gorvel.core.cases.design import Design
from gorvel.core.count.indices.index_table import count_range, spread_of, without_squares
from gorvel.core.count.indices.nested import nested_cuts
from gorvel.core.count.indices.verdicts import (
    PREDICTED,
    STABLE,
    Verdict,
    abstains,
    agrees_beyond,
    by_bound,
    by_extreme,
    gap_verdict,
    second_gap,
)  # fmt: skip
from gorvel.core.count.indices.within_ss import Spreads
from gorvel.core.count.resampling.null_model import NullModel, undrawable
from gorvel.core.count.resampling.resample_round import RULES_OF, ResampleRound, Rounds
from gorvel.core.count.resampling.resampling_engine import NoiseBox, TreeResampler
from gorvel.core.engine.engine import Engine, rounds_of
from gorvel.core.grow.grown import Grown
from gorvel.core.plan.count_rules import COUNT_RULES
from gorvel.core.plan.parts import ALL_RULES, CountPlan

Floats = NDArray[np.float64]

RESAMPLING = tuple(key for key, rule in COUNT_RULES.items() if "resamples" in rule.needs)
_FEWEST_NULLS = 19  # data sets without groups, from which p can be .05

Report = Callable[[int, Callable[[], list[Verdict]]], None]


def resampled(
    grown: Grown,
    asked: CountPlan = ALL_RULES,
    keys: Sequence[str] | None = None,
    progress: Progress = silent,
    report: Report | None = None,
    design: Design | None = None,
    engine: Engine | None = None,
) -> list[Verdict]:
    """What the rules say that resample.

    Parameters
    ----------
    asked : the part of a plan with range, rules and draws; keys : of rules; None for those asked
        for; others are passed over.
    progress : told "resamples"; may stop the work by raising.
    report : told after each round how many are done; what they say so far is worked out when the
        function it is handed is called.
    design : by which cases are drawn; engine : what grows the trees; None for the threads that pay.
    """
    counts = count_range(asked, grown.tree.n)
    wanted = [key for key in RESAMPLING if key in (keys or asked.wanted)]
    if not counts:
        few = f"{grown.tree.n} cases are too few"
        return [abstains(key, (), few) for key in wanted]
    whys = {key: why for key in wanted if (why := _why_not(grown, key, asked))}
    able = frozenset(wanted) - set(whys)
    refused = [abstains(key, counts, why) for key, why in whys.items()]
    nested = nested_cuts(grown.tree, counts[-1] + 1)
    stage = Stage(progress, Phase.RESAMPLES)
    answers, box, resampler = grown.prepared.answers, None, TreeResampler(grown, design)
    if able & set(RULES_OF["noise"]) and answers is not None:
        box = NoiseBox.of(answers.values * np.sqrt(answers.importance), asked.box)
    null = None
    if able & set(RULES_OF["without"]) and answers is not None:
        null = NullModel.of(answers, resampler.masses, asked.seed)
    task = ResampleRound(resampler, counts, nested, asked.seed, able, box, null)
    rounds = Rounds()
    if not able:
        return refused
    own = spread_of(grown, nested)

    def so_far() -> list[Verdict]:
        return refused + _verdicts(rounds, counts, able, own)

    for draw in rounds_of(engine or resampler.engine, task, asked.resamples, stage):
        for name, rules in RULES_OF.items():
            if isinstance(error := draw.get(name), InputError):
                why = f"a resample could not be measured: {error}"
                refused += [abstains(key, counts, why) for key in rules if key in able]
                able -= set(rules)
        if not able:
            return refused
        rounds.add(draw)
        if report is not None:
            report(rounds.done, so_far)
    return so_far()


def _why_not(grown: Grown, key: str, asked: CountPlan) -> str | None:
    if grown.tree.n < 4:
        return f"{grown.tree.n} cases are too few to draw from"
    if key == "clest" and asked.resamples < _FEWEST_NULLS:
        return f"it asks for a p of .05, which needs {_FEWEST_NULLS} resamples"
    if key == "clest":
        return undrawable(grown)
    return without_squares(grown) if "variables" in COUNT_RULES[key].needs else None


def _verdicts(
    rounds: Rounds, counts: tuple[int, ...], able: Collection[str], own: Spreads | None
) -> list[Verdict]:
    found: dict[str, Verdict] = {}
    if own is not None and rounds.parts["noise"]:
        noise = rounds.of("noise")
        found["gap"] = gap_verdict("gap", counts, own.within, noise[:, 0])
        found["weighted-gap"] = gap_verdict("weighted-gap", counts, own.variances, noise[:, 1])
        found["dd-gap"] = second_gap(counts, own.variances, noise[:, 1])
    if rounds.parts["jaccard"]:
        found["bootstrap-jaccard"] = _stability(counts, rounds.of("jaccard"))
    with np.errstate(invalid="ignore"):
        if rounds.parts["halves"]:
            halves = rounds.of("halves")
            strength, error = _mean_of_rounds(halves[:, 0])
            bound = np.full(len(counts), PREDICTED)
            found["prediction-strength"] = by_bound(
                "prediction-strength", counts, strength, strength >= bound, bound,
                below=False, last=True,
            ).with_error(error)  # fmt: skip
            agreement, error = _mean_of_rounds(halves[:, 1])
            found["split-half"] = by_extreme("split-half", counts, agreement, agreement).with_error(
                error
            )
            if rounds.parts["without"]:
                found["clest"] = agrees_beyond(counts, agreement, rounds.of("without"))
        if rounds.parts["differ"]:
            share, error = _mean_of_rounds(rounds.of("differ")[:, None])
            found["instability"] = by_extreme("instability", counts, share, -share).with_error(
                error
            )
    return [verdict for key, verdict in found.items() if key in able]


def _mean_of_rounds(found: Floats) -> tuple[Floats, Floats]:
    """(counts,) mean over rounds and both sides, and its standard error.

    found : (rounds, 2, counts), NaN where there is none.
    """
    each = _mean(found, 1)
    rounds = np.maximum((~np.isnan(each)).sum(axis=0), 1)
    mean = _mean(each, 0)
    error = np.sqrt(_mean((each - mean) ** 2, 0) / rounds)
    return mean, error


def _mean(found: Floats, axis: int) -> Floats:
    """The mean of what is known; NaN for nothing."""
    known = ~np.isnan(found)
    with np.errstate(invalid="ignore"):
        return np.asarray(np.where(known, found, 0.0).sum(axis=axis) / known.sum(axis=axis))


def _stability(counts: tuple[int, ...], found: Floats) -> Verdict:
    """found : (rounds, clusters of all counts)."""
    of_cluster = _mean(found, 0)
    ends = np.cumsum(counts)
    parts = [of_cluster[end - count : end] for count, end in zip(counts, ends, strict=True)]
    mean = np.array([_mean(part, 0) for part in parts])
    lowest = np.array([np.nan if np.isnan(part).all() else np.nanmin(part) for part in parts])
    bound = np.full(len(counts), STABLE)
    verdict = by_bound(
        "bootstrap-jaccard", counts, lowest, lowest >= bound, bound, below=False, last=True
    )
    return verdict.with_lowest(mean, lowest)
