"""What each rule answers, and which answers are heard: one voice for one piece of evidence."""

from __future__ import annotations

from collections.abc import Collection, Mapping
from dataclasses import dataclass

from gorvel.core.count.indices.verdicts import Answer, Verdict
from gorvel.core.plan.count_rules import COUNT_RULES


@dataclass(frozen=True)
class RuleVote:
    """One rule. answer : None where it abstains; no_vote : why it is not heard, "" where it is."""

    answer: Answer | None
    no_vote: str = ""

    @property
    def votes(self) -> bool:
        return not self.no_vote


def voices_of(
    verdicts: Mapping[str, Verdict], linkage: str, left_out: Collection[str] = ()
) -> dict[str, RuleVote]:
    """The voice of every rule.

    A rule has none that is left out, that abstains, that answers alike whatever the data, that is
    another rule in other words, or whose best value is at the last count looked at, where it may
    still rise.

    linkage : of the tree, under which some rules are one.
    """
    return {
        key: RuleVote(verdict.answer, _why_unheard(verdict, verdicts, linkage, left_out))
        for key, verdict in verdicts.items()
    }


def _why_unheard(
    verdict: Verdict, verdicts: Mapping[str, Verdict], linkage: str, left_out: Collection[str]
) -> str:
    key, answer = verdict.key, verdict.answer
    if key in left_out:
        return "left out"
    if answer is None:
        return f"it abstains: {verdict.why}"
    rule = COUNT_RULES[key]
    if rule.never:
        return rule.never
    twin = verdicts.get(rule.twin)
    heard = twin is not None and twin.answer is not None and rule.twin not in left_out
    if heard and rule.twin_under in ("", linkage):
        return f"the same evidence as {COUNT_RULES[rule.twin].name}"
    if rule.extreme and answer == verdict.counts[-1]:
        return f"its best is {answer}, the largest number examined"
    return ""


def answers_of(voices: Mapping[str, RuleVote]) -> dict[Answer, int]:
    """How many voices give each answer: counts rising, then "one" and "none"."""
    heard = [voice.answer for voice in voices.values() if voice.votes and voice.answer is not None]
    counts = sorted({answer for answer in heard if isinstance(answer, int)})
    others: list[Answer] = ["one", "none"]
    return {a: heard.count(a) for a in (*counts, *others) if a in heard}
