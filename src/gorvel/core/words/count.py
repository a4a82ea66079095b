"""What rules say about the cluster count, why one count and not another, in plain words."""

from __future__ import annotations

from collections.abc import Collection, Mapping

import numpy as np
from numpy.typing import NDArray

from gorvel.core.base.numbers import counted, fixed, listed, number, sentence, unit
from gorvel.core.count.indices.index_table import IndexTable
from gorvel.core.count.indices.uneven import Uneven
from gorvel.core.count.indices.verdicts import STABLE, Verdict
from gorvel.core.count.null.conclusion import concluded
from gorvel.core.count.null.evidence import Evidence
from gorvel.core.count.null.validity_profile import CalibratedIndices
from gorvel.core.plan.count_rule import FAMILIES
from gorvel.core.plan.count_rules import COUNT_RULES
from gorvel.core.plan.parts import CountPlan
from gorvel.core.words.conclusion import groups_words

_TOLD = 12  # splits told one by one
_NOTABLE = 0.02  # difference of an index that is told; smaller ones come with other cases
_UNSHAKEN = 0.05  # p-value
_STRONG = 0.95  # support


def verdict_words(verdict: Verdict) -> str:
    """What one rule says, and how near the runner-up comes."""
    if verdict.best is None:
        why = str(verdict.why)  # one cluster is an answer, though no count of the board
        told = sentence(why) if verdict.besides == "one" else f"No number: {why}"
        return f"{told}.{_published_words(verdict)}"
    words = f"Best at {verdict.best} ({number(verdict.at(verdict.best))})"
    if verdict.runner_up is not None:
        words += f", then {verdict.runner_up} ({number(verdict.at(verdict.runner_up))})"
    lowest = verdict.lowest
    if lowest is not None:
        least = float(lowest[verdict.counts.index(verdict.best)])
        words += f"; its least stable cluster has a mean Jaccard index of {number(least)}"
    return f"{words}.{_published_words(verdict)}"


def _published_words(verdict: Verdict) -> str:
    """What the rule of the paper answers, where ours beside it makes another answer."""
    if verdict.published is None or verdict.published == verdict.answer:
        return ""
    told = {"one": "one cluster", "none": "no number"}.get(str(verdict.published))
    return f" The published rule alone answers {told or verdict.published}."


def uneven_words(uneven: Uneven, verdict: Verdict) -> str:
    """How the best uneven cut compares with the even ones."""
    best = verdict.best
    words = f"Branches cut at different heights: {counted(uneven.clusters, 'cluster')}"
    words += f", {number(uneven.value)}"
    if best is None:
        return f"{words}."
    return f"{words}; the best cut at one height has {number(verdict.at(best))}."


def votes_words(board: IndexTable, count: int, left_out: Collection[str] = ()) -> str:
    """How many votes, and of which kinds of rules, are for a number of clusters."""
    heard = {key: voice for key, voice in board.voices(left_out).items() if voice.votes}
    mine = [key for key, voice in heard.items() if voice.answer == count]
    kinds = sorted({COUNT_RULES[key].family for key in mine}, key=list(FAMILIES).index)
    if not heard:
        return "no rule has a vote here"
    if not mine:
        return f"none of the {counted(len(heard), 'vote')} is for {count}"
    words = f"{len(mine)} of {counted(len(heard), 'vote')} {'is' if len(mine) == 1 else 'are'}"
    words += f" for {count}"
    return f"{words} ({listed([_kind(kind) for kind in kinds])})"


def _kind(family: str) -> str:
    return FAMILIES[family].lower()  # type: ignore[index]


def _stability(board: IndexTable, count: int) -> float | None:
    """Of the least stable cluster."""
    verdict = board.verdicts.get("bootstrap-jaccard")
    if verdict is None or verdict.lowest is None or count not in verdict.counts:
        return None
    value = float(verdict.lowest[verdict.counts.index(count)])
    return None if np.isnan(value) else value


def _smallest(board: IndexTable, count: int) -> int | None:
    return board.smallest[board.counts.index(count)] if count in board.counts else None


def draft_reasons(
    board: IndexTable, count: int, left_out: Collection[str] = (), evidence: Evidence | None = None
) -> str:
    """First sentences of reasons for a count, from the numbers.

    evidence : of groups, where it was asked for; it comes first, and so says the draft if the data
    have none.
    """
    told = concluded(board, evidence, left_out)
    groups = "" if told.groups is None else groups_words(told, evidence, board.of) + " "
    words = votes_words(board, count, left_out)
    smallest, stable = _smallest(board, count), _stability(board, count)
    if smallest is not None:
        words += f"; the smallest cluster has {unit(board.of, smallest)}"
    if stable is not None:
        words += "; in resamples the least stable cluster has a mean Jaccard index of"
        words += f" {fixed(stable, 2)}"
    return groups + sentence(words) + "."


def why_not(board: IndexTable, count: int, taken: int, left_out: Collection[str] = ()) -> str:
    """What speaks against a count, held against the one taken; and what speaks for it."""
    if count == taken:
        return f"{count} is the current number. " + draft_reasons(board, count, left_out)
    against: list[str] = []
    for_: list[str] = []
    votes = board.votes(left_out)
    mine, theirs = votes.get(count, 0), votes.get(taken, 0)
    words = f"{mine or 'no'} vote{'' if mine == 1 else 's'} for it, {theirs or 'none'} for {taken}"
    (for_ if mine > theirs else against).append(words)
    small, here = _smallest(board, count), _smallest(board, taken)
    if small is not None and here is not None and small < here:
        against.append(f"its smallest cluster has {unit(board.of, small)}, not {here:,}")
    stable, other = _stability(board, count), _stability(board, taken)
    if stable is not None and other is not None:
        words = (
            f"its least stable cluster has a Jaccard index of {fixed(stable, 2)}, not "
            f"{fixed(other, 2)}"
        )
        (against if stable < min(other, STABLE) else for_ if stable > other else []).append(words)
    for key in ("silhouette", "split-half"):
        verdict = board.verdicts.get(key)
        if verdict is None:
            continue
        gain = verdict.at(count) - verdict.at(taken)
        if abs(gain) >= _NOTABLE:
            words = f"{COUNT_RULES[key].name.lower()} {fixed(verdict.at(count), 2)}"
            (against if gain < 0 else for_).append(f"{words}, not {fixed(verdict.at(taken), 2)}")
    words = (
        f"Against {count}: {'; '.join(against)}."
        if against
        else (f"None of these figures speaks against {count}.")
    )
    return words + (f" For it: {'; '.join(for_)}." if for_ else "")


def purpose_words(
    found: CalibratedIndices, weights: Mapping[str, float], stable: NDArray[np.float64] | None
) -> str:
    """Which counts stand first by what clusters are for."""
    if found.why:
        return f"Not computed: {found.why}."
    ranked = found.ranked(weights, stable)
    known = [k for k in np.argsort(-ranked, kind="stable").tolist() if np.isfinite(ranked[k])]
    if not known:
        return "Give a characteristic some weight to rank the numbers of clusters."
    first = known[0]
    words = (
        f"For this purpose {found.counts[first]} clusters rank first, {fixed(ranked[first], 2)} SD"
    )
    words += " above random groupings"
    if len(known) > 1:
        words += f"; then {found.counts[known[1]]} ({fixed(ranked[known[1]], 2)})"
    words += "."
    if len(known) > 1 and first == len(found.counts) - 1:
        words += " It is the largest number examined."
    if found.part:
        words += f" Computed on a random sample of {found.part:,} cases."
    if stable is None and weights.get("stable", 0) > 0:
        words += " Stability is not included yet: press Resample."
    return words


def choice_sentence(asked: CountPlan) -> str:
    """The choice as it goes into the methods text; empty where none is made."""
    if asked.chosen is None:
        return ""
    clusters = f"{asked.chosen} cluster{'' if asked.chosen == 1 else 's'}"
    reasons = asked.reasons.strip()
    return f"The tree was cut into {clusters}." + (f" {reasons}" if reasons else "")
