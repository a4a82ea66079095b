"""What it all comes to, in sentences that can be defended, and what speaks against it."""

from __future__ import annotations

from collections.abc import Collection, Iterator

import numpy as np

from gorvel.core.base.errors import Caution
from gorvel.core.base.numbers import counted, fixed, p_words, sentence, unit
from gorvel.core.count.indices.index_table import IndexTable
from gorvel.core.count.indices.verdicts import STABLE
from gorvel.core.count.null.conclusion import SURE, Conclusion, concluded
from gorvel.core.count.null.evidence import Evidence, Peaks
from gorvel.core.count.null.verdict_simulation import Trial
from gorvel.core.plan.count_rules import COUNT_RULES
from gorvel.core.plan.parts import CountPlan

_SMALL = 0.05  # share of the cases in the smallest cluster
_FEW_PLANS = 2  # tried, of which nothing is said
_MANY_AT_END = 3  # one rule in so many is best at the end
_YES, _NO = "There are groups", "No evidence of groups in these data"
_UNSURE = "It is unclear whether there are groups"
_NUMBERS = ("no", "one", "two", "three", "four", "five", "six", "seven", "eight", "nine", "ten")


def headline(told: Conclusion) -> str:
    """The verdict in a few words."""
    favour = "" if told.count is None else f"the rules favour {spelled(told.count)}"
    if told.groups == "yes":
        return f"{_YES}; {favour or 'how many is unclear'}."
    if told.groups == "unsure":
        return f"{_UNSURE}."
    if told.groups == "no":
        return f"{_NO}."
    if favour:
        return f"{favour[:1].upper()}{favour[1:]}; groups were not tested."
    return "No rule settles on a number."


def spelled(count: int) -> str:
    """A count as a word, up to ten."""
    return _NUMBERS[count] if count < len(_NUMBERS) else f"{count:,}"


def basis_words(told: Conclusion, evidence: Evidence | None, of: str = "cases") -> str:
    """What the headline rests on, without saying it again."""
    lead, basis = _groups(told, evidence, of)
    said = _with_votes(basis if told.groups is not None else lead, told)
    return sentence(said)


def conclusion_sentence(told: Conclusion, evidence: Evidence | None, of: str = "cases") -> str:
    """The verdict in a sentence or two, for the methods text. of : what the tree is of."""
    return _with_votes(groups_words(told, evidence, of), told)


def _with_votes(words: str, told: Conclusion) -> str:
    """The same and what the rules for the count say."""
    if told.count is not None and told.groups != "no":
        heard = counted(told.heard, "vote")
        words += f" {told.voices} of {heard} {'is' if told.voices == 1 else 'are'} for"
        words += f" {counted(told.count, 'cluster')}{_overtaken(told)}."
    elif told.groups == "yes":
        words += " No rule settles on a number."
    return words


def _overtaken(told: Conclusion) -> str:
    """Which numbers had more votes than the answer, and why they are not it."""
    more = [a for a, v in told.votes.items() if isinstance(a, int) and v > told.voices]
    if not more:
        return ""
    names = " and ".join(str(answer) for answer in more)
    return f" ({names} had more votes but lower silhouettes relative to data without groups)"


def groups_words(told: Conclusion, evidence: Evidence | None, of: str = "cases") -> str:
    """Whether there are groups, with the test."""
    lead, basis = _groups(told, evidence, of)
    return f"{lead}: {basis}" if basis else lead


def _groups(told: Conclusion, evidence: Evidence | None, of: str) -> tuple[str, str]:
    """Whether there are groups, and what that rests on; the whole where nothing was tested."""
    if told.groups is None or evidence is None:
        why = "" if evidence is None or not evidence.why else f": {evidence.why}"
        return f"Whether there are groups was not {'tested' if why else 'asked'}{why}.", ""
    if told.by == "peaks" and evidence.peaks is not None:
        return _YES, (
            f"the answers to {evidence.peaks.variable} have more than one peak (dip test,"
            f" {peaks_p(evidence.peaks)})."
        )
    reach = evidence_words(evidence)
    if told.groups == "yes":
        return _YES, f"{reach}."
    if told.groups == "no":
        return _NO, (
            f"{reach}. Clusters then divide the {of}; they are no evidence that distinct types "
            "exist."
        )
    if told.reserve == "few":
        return _UNSURE, (
            f"{reach}, but only a few {of} separate from one large cluster. Check them as "
            "outliers first."
        )
    if told.reserve == "little":
        return _UNSURE, f"{reach}, but the silhouettes exceed those of such data only slightly."
    return _UNSURE, f"{reach}."


def peaks_p(peaks: Peaks) -> str:
    """The p of a dip test, as far as its table tells."""
    return f"p ≤ {fixed(peaks.p, 3)}" if peaks.at_most else p_words(peaks.p)


def evidence_words(evidence: Evidence) -> str:
    """How often data without groups reach what the tree does; starts in lower case."""
    draws, p = evidence.draws, evidence.p
    if p is None:
        return "no data without groups were simulated"
    reached = round(p * (draws + 1)) - 1
    kept = "the same marginal distributions and correlations"
    if evidence.tails is not None:
        kept = "the same marginal distributions, correlations and joint tails"
    part = f", in a subsample of {evidence.part:,} cases" if evidence.part else ""
    return (
        f"of {draws:,} simulated data sets with {kept} but no groups,"
        f" {reached if reached else 'none'} had silhouettes this large{part}"
        f" ({p_words(p)})"
    )


def beside_words(evidence: Evidence, key: str) -> str:
    """What another index says of groups, which the verdict does not rest on."""
    index, name = evidence.of(key), COUNT_RULES[key].name
    if index is None:
        return f"{name} was not compared with data without groups."
    if index.p is None or index.highest is None:
        return f"{name} has no value in some of the data without groups."
    told = "distinguishes" if index.p <= SURE else "does not distinguish"
    return (
        f"{name} {told} these data from data without groups ({p_words(index.p)}, "
        f"highest at {index.highest}). The verdict rests on silhouettes."
    )


def against(
    told: Conclusion,
    board: IndexTable,
    evidence: Evidence | None,
    count: int | None = None,
    beside: Collection[str] = (),
) -> list[str]:
    """What speaks against a count, in sentences.

    count : None for that of the verdict; beside : other indices that were asked.
    """
    count = told.count if count is None else count
    return list(_against(told, board, evidence, count, beside))


def _against(
    told: Conclusion,
    board: IndexTable,
    evidence: Evidence | None,
    count: int | None,
    beside: Collection[str],
) -> Iterator[str]:
    p = None if evidence is None else evidence.p
    for key in beside:
        index = None if evidence is None else evidence.of(key)
        other = None if index is None else index.p
        if other is None or p is None or told.groups is None:
            continue
        if (other <= SURE) != (p <= SURE):
            name, but = COUNT_RULES[key].name, "differ" if other <= SURE else "do not differ"
            yield f"By {name}, these data {but} from data without groups ({p_words(other)})."
    if told.by == "peaks" and p is not None and p > SURE:
        yield (
            "By silhouettes alone, these data do not differ clearly from data without groups"
            f" ({p_words(p)})."
        )
    if count is None or count not in board.counts:
        return
    place, cases = board.counts.index(count), _cases(board)
    smallest = board.smallest[place]
    if cases and smallest < _SMALL * cases:
        share = smallest / cases
        yield f"The smallest of {count} clusters has {unit(board.of, smallest)} ({share:.0%})."
    stable = board.verdicts.get("bootstrap-jaccard")
    if stable is not None and stable.lowest is not None and count in stable.counts:
        least = float(stable.lowest[stable.counts.index(count)])
        if np.isfinite(least) and least < STABLE:
            yield (
                "In resamples its least stable cluster has a mean Jaccard index of"
                f" {fixed(least, 2)}, below {fixed(STABLE, 2)}."
            )
    if evidence is not None and evidence.draws > 1 and count in evidence.counts:
        at = evidence.counts.index(count)
        if evidence.by_count[at] > SURE:
            p_here = p_words(float(evidence.by_count[at]))
            yield (
                f"At {count} clusters alone, the silhouette is not significantly above data without"
                f" groups ({p_here})."
            )
    if count == board.counts[-1] and len(board.counts) > 1:
        yield f"{count} is the largest number examined: extend the range."
    rivals = {a: v for a, v in told.votes.items() if a != count and v >= told.votes.get(count, 0)}
    for answer, votes in rivals.items():
        called = {"one": "one cluster", "none": "no number"}.get(str(answer), str(answer))
        yield f"{counted(votes, 'vote')} for {called}."


def tried_words(plans: int) -> str:
    """How many plans were tried on the same data; empty for one or two."""
    if plans <= _FEW_PLANS:
        return ""
    return (
        f"{plans:,} plans were tried on these data: the best of many looks better than "
        "it is (Ullmann et al. 2023). Report how many, or validate on cases set aside."
    )


def trial_words(trial: Trial) -> str:
    """How often the verdict was right on studies like this one."""
    if trial.why and not trial.planted:
        return f"Not checked: {trial.why}."
    if not trial.without:
        return ""
    words = (
        "In simulated studies like this one, groups were rightly not declared in "
        f"{trial.kept_quiet} of {len(trial.without)} without groups"
    )
    if trial.planted:
        groups = spelled(trial.count)
        words += (
            f"; with these {groups} clusters, {groups} were found in {trial.found} of"
            f" {len(trial.planted)}"
        )
    return f"{words} (resampling rules excluded)."


def count_cautions(
    board: IndexTable, evidence: Evidence | None, asked: CountPlan
) -> tuple[Caution, ...]:
    """What a reader should know of the count taken, or of that of the verdict."""
    return tuple(_count_cautions(board, evidence, asked))


def _count_cautions(
    board: IndexTable, evidence: Evidence | None, asked: CountPlan
) -> Iterator[Caution]:
    voices = board.voices(asked.left_out)
    rising = [
        key
        for key, voice in voices.items()
        if COUNT_RULES[key].extreme
        and not COUNT_RULES[key].never
        and key not in asked.left_out
        and isinstance(voice.answer, int)
    ]
    at_end = [key for key in rising if board.verdicts[key].best == board.counts[-1]]
    if at_end and len(at_end) >= len(rising) / _MANY_AT_END:
        names = ", ".join(COUNT_RULES[key].name for key in at_end)
        yield Caution(
            "best-at-the-end",
            (
                f"{names}: best at {board.counts[-1]}, the largest number examined, where it "
                "may still rise. Extend the range."
            ),
        )
    told = concluded(board, evidence, asked.left_out)
    count = asked.chosen if asked.chosen in board.counts else told.count
    cases = _cases(board)
    if count is None or count not in board.counts or not cases:
        return
    smallest = board.smallest[board.counts.index(count)]
    if smallest < _SMALL * cases:
        yield Caution(
            "small-cluster",
            (
                f"The smallest of {count} clusters has {unit(board.of, smallest)} ("
                f"{smallest / cases:.1%}): check whether they are outliers before calling it a "
                "group."
            ),
        )


def _cases(board: IndexTable) -> int:
    return 0 if board.nested is None else len(board.nested.order)
