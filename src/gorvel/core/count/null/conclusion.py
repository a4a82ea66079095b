"""What it all comes to: first whether there are groups, then how many."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass
from typing import Literal

from gorvel.core.count.indices.index_table import IndexTable
from gorvel.core.count.indices.verdicts import Answer
from gorvel.core.count.null.evidence import Evidence

Groups = Literal["yes", "no", "unsure"]
By = Literal["silhouette", "peaks"]
Reserve = Literal["", "few", "little"]

SURE, UNSURE = 0.05, 0.10  # p up to which there are groups, and up to which it is open
PEAKED = 0.01  # p of a variable with several peaks, all variables taken together
RIVALS = 0.5  # share of most voices from which a count is a rival
LEAST_EXCESS = 0.05  # silhouette above data without groups
_SMALL = 10  # cases of a cluster below which it is called small
_SMALL_SHARE = 0.02  # of all cases, likewise
_CHAINS = "single"  # the linkage whose clusters need not be round
LEAST_SECOND = 0.10  # share of the cases in the second largest cluster


@dataclass(frozen=True)
class Conclusion:
    """An answer with what it rests on.

    groups : None where that was not asked or cannot be told; p, by : of the test that decides;
    reserve : why a small p is not enough: "few" cases apart from all others, or "little" more than
    without groups; count : the answer, None where there is none, or no groups; voices : for it;
    heard : all; votes : by answer.
    """

    groups: Groups | None
    p: float | None
    by: By | None
    reserve: Reserve
    count: int | None
    voices: int
    heard: int
    votes: dict[Answer, int]


def concluded(
    board: IndexTable, evidence: Evidence | None, left_out: Collection[str] = ()
) -> Conclusion:
    """Bring evidence of groups and the voices of the rules together.

    There are groups where the silhouettes of the tree are beyond those of data without groups
    (p <= .05), by enough to matter, and not for a few cases alone; or where a variable has several
    peaks. The answer is the count with most voices; or one with at least half as many that stands
    higher above data without groups, unless it makes a cluster of very few cases that the other
    does not. The smaller wins a draw. Under single linkage, whose clusters need not be round as
    silhouettes want them, the voices alone decide.
    """
    votes = board.votes(left_out)
    groups, p, by, reserve = _groups(evidence)
    best = _count(board, votes, evidence)
    others = max(votes.get("one", 0), votes.get("none", 0))
    if groups == "no" or (groups is None and best is not None and others > votes[best]):
        best = None
    found = 0 if best is None else votes[best]
    return Conclusion(groups, p, by, reserve, best, found, sum(votes.values()), votes)


def _count(board: IndexTable, votes: dict[Answer, int], evidence: Evidence | None) -> int | None:
    counts = {answer: found for answer, found in votes.items() if isinstance(answer, int)}
    if not counts:
        return None
    most = max(counts.values())
    first = max(counts, key=lambda k: (counts[k], _standing(evidence, k), -k))
    if evidence is None or evidence.draws < 2 or board.linkage == _CHAINS:
        return first
    small = {count: _has_small(board, count) for count in counts}
    near = [
        count
        for count, found in counts.items()
        if found >= RIVALS * most and (small[first] or not small[count])
    ]
    return max(near, key=lambda k: (_standing(evidence, k), counts[k], -k))


def is_small(cases: int, of: int) -> bool:
    """Is a cluster so small that it wants an eye? of : cases of the tree."""
    return cases < max(_SMALL, _SMALL_SHARE * of) and of > 2 * _SMALL


def _has_small(board: IndexTable, count: int) -> bool:
    if count not in board.counts or board.nested is None:
        return False
    return is_small(board.smallest[board.counts.index(count)], len(board.nested.order))


def _groups(evidence: Evidence | None) -> tuple[Groups | None, float | None, By | None, Reserve]:
    if evidence is None or evidence.p is None:
        return None, None, None, ""
    p, highest = evidence.p, evidence.highest
    assert highest is not None
    place = evidence.counts.index(highest)
    reserve: Reserve = ""
    if evidence.second[place] < LEAST_SECOND:
        reserve = "few"
    elif evidence.values[place] - evidence.mean[place] < LEAST_EXCESS:
        reserve = "little"
    sure = p <= SURE and not reserve
    if not sure and evidence.peaks is not None and evidence.peaks.p <= PEAKED:
        return "yes", evidence.peaks.p, "peaks", ""
    if p > UNSURE:
        return "no", p, "silhouette", ""
    return ("yes" if sure else "unsure"), p, "silhouette", reserve


def _standing(evidence: Evidence | None, count: int) -> float:
    if evidence is None or evidence.draws < 2 or count not in evidence.counts:
        return 0.0
    return float(evidence.standing[evidence.counts.index(count)])
