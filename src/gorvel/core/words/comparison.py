"""Two trees beside each other, read out in sentences."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from gorvel.core.base.numbers import counted, fixed, listed, number, sentence, unit
from gorvel.core.compare.coassociation import CoAssociation
from gorvel.core.compare.cross_validation import Replication
from gorvel.core.compare.imputed_trees import Imputed
from gorvel.core.compare.pair import Crossed, Move
from gorvel.core.compare.partitions import Agreement
from gorvel.core.compare.relocation import MANY_MOVE, Best, Relocation
from gorvel.core.compare.trees import Comparison
from gorvel.core.profile.lanes import Lane
from gorvel.core.words.portrait import answer_words

_MOST_MOVES = 3
_MOST_NAMED = 6  # clusters
_MARKS = 0.5  # standard deviations of all cases between those that move and those that stay
_MOST_MARKS = 3
_STANDS, _FALLS = 0.9, 0.5  # shares of pairs that stay together
_LEAST = 3  # cases that move together, before it is asked what sets them apart


def agree_words(found: Crossed, of: str = "cases") -> str:
    """How much two cuts agree."""
    m, clusters = len(found.own), counted(found.one.clusters, "cluster")
    if found.agreement.moved == 0 and found.one.clusters == found.other.clusters:
        return f"At {clusters} both trees have the same clusters."
    stay = m - found.agreement.moved
    return (
        f"At {clusters}, {stay:,} of {m:,} {of} are in matching clusters (adjusted Rand "
        f"index {fixed(found.agreement.adjusted_rand, 2)})."
    )


def same_words(
    found: Crossed, names: Sequence[str], stands: Sequence[tuple[int, int] | None]
) -> str:
    """Which clusters are the same in the other tree, at the same count or at others; or "".

    names : of the clusters; stands : of each, from which to which count the other tree has it.
    """
    count, here, elsewhere, never = found.other.clusters, [], [], []
    for name, span in zip(names, stands, strict=True):
        if span is None:
            never.append(name)
        elif span[0] <= count <= span[1]:
            here.append(name)
        else:
            counts = f"{span[0]:,}" if span[0] == span[1] else f"{span[0]:,} to {span[1]:,}"
            elsewhere.append(f"{name} at {counts}")
    if found.agreement.moved == 0 and not elsewhere and not never:
        return ""
    parts = []
    if here:
        parts.append(f"{listed(here)} {_are(here)} the same in both.")
    if elsewhere:
        parts.append(f"The right tree has, at other counts: {'; '.join(elsewhere)}.")
    if never:
        few = never if len(never) <= _MOST_NAMED else [
            *never[:_MOST_NAMED - 1], f"{len(never) - _MOST_NAMED + 1} others"]  # fmt: skip
        parts.append(f"At no number of clusters does it have {listed(few, 'or')}.")
    return " ".join(parts)


def whole_words(found: Crossed, names: Sequence[str], others: Sequence[str]) -> str:
    """Which clusters are joined in the right tree, or parted; or ""."""
    parts = [f"{others[there]} combines {listed([names[k] for k in held])}"
             for there, held in found.joined]  # fmt: skip
    parts += [f"{names[here]} is split into {listed([others[k] for k in held])}"
              for here, held in found.parted]  # fmt: skip
    return f"In the right tree {'; '.join(parts)}." if parts else ""


def _unexplained(found: Crossed) -> list[Move]:
    """Moves but those of clusters that are joined or parted as wholes."""
    told = {(here, there) for there, held in found.joined for here in held}
    told |= {(here, there) for here, held in found.parted for there in held}
    return [move for move in found.moves if (move.here, move.there) not in told]


def moves_words(found: Crossed, names: Sequence[str], others: Sequence[str]) -> str:
    """Who else is elsewhere in the right tree; or "". names, others : of the clusters of both."""
    moves = _unexplained(found)
    if not moves:
        return ""
    told = [f"{len(move.cases):,} of {names[move.here]} in {others[move.there]}"
            for move in moves[:_MOST_MOVES]]  # fmt: skip
    rest = sum(len(move.cases) for move in moves[_MOST_MOVES:])
    more = f", and {rest:,} more elsewhere" if rest else ""
    return f"Cases that are elsewhere in the right tree: {', '.join(told)}{more}."


def largest_move(found: Crossed) -> Move | None:
    """The move most worth a word: of those that leave others of their cluster behind."""
    own = found.table.sum(axis=1)
    for move in _unexplained(found) or found.moves:
        if len(move.cases) >= _LEAST and len(move.cases) < own[move.here]:
            return move
    return None


def set_apart(
    move: Move, lanes: Sequence[Lane], names: Sequence[str], others: Sequence[str]
) -> str:
    """What sets those who move apart from those who stay; or "".

    lanes : with those who move as the first group, and the others of their cluster as the second.
    """
    if not lanes or int(max(lane.n[1] for lane in lanes)) == 0:
        return ""
    apart = []
    for lane in lanes:
        by = float(lane.away[0] - lane.away[1])
        if abs(by) >= _MARKS:
            apart.append((abs(by), "higher" if by > 0 else "lower", lane))
    who = f"The {len(move.cases):,} of {names[move.here]} that are in {others[move.there]}"
    if not apart:
        return f"{who} differ from the rest of it in no question by half a standard deviation."
    apart.sort(key=lambda one: -one[0])
    told = [
        f"{side} on {lane.title} ({answer_words(lane, float(lane.values[0]))} against"
        f" {answer_words(lane, float(lane.values[1]))})"
        for _, side, lane in apart[:_MOST_MARKS]
    ]
    return f"{who} are {', '.join(told)} than those that stay."


def counts_words(found: Mapping[int, Agreement], count: int) -> str:
    """At which count two trees are most alike; or ""."""
    if len(found) < 2:
        return ""
    best = max(found, key=lambda k: found[k].adjusted_rand)
    low, high, most = min(found), max(found), found[best].adjusted_rand
    here = count in found and found[count].adjusted_rand == most
    where = "here" if here else f"at {best}"
    return f"From {low} to {high} clusters, agreement is highest {where} ({fixed(most, 2)})."


def trees_words(found: Comparison, of: str = "cases") -> str:
    """Whole trees beside each other."""
    parts = []
    if found.pearson is not None:
        parts.append(f"cophenetic distances correlate at {_signed(found.pearson)}")
    if found.gamma is not None:
        parts.append(f"Baker’s gamma is {_signed(found.gamma)}")
    fewer = min(found.branches)
    parts.append(f"{found.shared:,} of {fewer:,} branches are in both")
    words = "; ".join(parts)
    words = sentence(words) + "."
    return words if found.cases else f"The trees have no {unit(of)} in common."


def _signed(value: float) -> str:
    return fixed(value, 2)


def _are(names: Sequence[str]) -> str:
    return "are" if len(names) > 1 else "is"


def standing_words(found: CoAssociation, names: Sequence[str]) -> str:
    """Which clusters stand whatever the tree. names : of the clusters."""
    told: dict[str, list[str]] = {"stands": [], "mixed": [], "falls": [], "lone": []}
    for name, inside, across in zip(
        names, found.clusters.tolist(), found.strangers.tolist(), strict=True
    ):
        if inside != inside:
            told["lone"].append(name)
        elif inside < _FALLS:
            told["falls"].append(name)
        elif inside >= _STANDS:
            told["mixed" if across > 1 - _STANDS else "stands"].append(name)
    parts = [
        f"{listed(who)} {words[len(who) > 1]}"
        for key, words in _STANDING.items()
        if (who := told[key])
    ]
    if not parts:
        return "No cluster keeps 90% of its pairs together, and none falls apart."
    words = "; ".join(parts)
    over = (
        "Compared with one other tree: "
        if found.trees == 1
        else f"Across {found.trees} other trees: "
    )
    return f"{over}{words}."


_STANDING = {  # of one cluster, and of several
    "stands": ("is stable across trees", "are stable across trees"),
    "mixed": ("stays together, but often joined with others",
              "stay together, but often joined with others"),
    "falls": ("falls apart: fewer than half of its pairs stay together",
              "fall apart: fewer than half of their pairs stay together"),
    "lone": ("is a single case", "are single cases"),
}  # fmt: skip


def filled_words(found: Imputed, names: Sequence[str]) -> str:
    """Do clusters hang on what stands in the gaps? names : of the clusters."""
    if not found.gaps:
        return "No answer is missing: there is nothing to impute."
    low, high = min(found.agreement), max(found.agreement)
    mean = sum(found.agreement) / len(found.agreement)
    words = (
        f"{counted(found.gaps, 'missing answer')} imputed"
        f" {counted(len(found.agreement), 'time')}: mean adjusted Rand index {fixed(mean, 2)}"
        f" ({fixed(low, 2)} to {fixed(high, 2)}). "
    )
    told = standing_words(found.together, names)
    told = told.removeprefix(f"Across {found.together.trees} other trees: ")
    return words + told.replace("across trees", "across imputations")


def groups_words(
    found: Mapping[tuple[str, str], Replication], names: Mapping[str, str], count: int
) -> str:
    """Whether groups of a split find the same clusters. names : what the groups are called."""
    both = {
        (one, other): (found[one, other].agreement + found[other, one].agreement) / 2
        for one, other in found
        if (other, one) in found and list(names).index(one) < list(names).index(other)
    }
    known = {pair: value for pair, value in both.items() if value == value}
    if not known:
        return ""
    most, least = max(known, key=lambda pair: known[pair]), min(known, key=lambda pair: known[pair])

    def told(pair: tuple[str, str]) -> str:
        value = fixed(known[pair], 2)
        return f"{names[pair[0]]} and {names[pair[1]]} ({value})"

    start = (
        f"At {counted(count, 'cluster')}, the cases of each group were assigned to the "
        "clusters of every other group’s tree and compared with their own."
    )
    if len(known) == 1:
        return f"{start} {told(most)}: mean adjusted Rand index of both directions."
    return (
        f"{start} Agreement is highest for {told(most)} and lowest for {told(least)} "
        "(mean of both directions)."
    )


def found_again_words(found: Replication, one: str, other: str) -> str:
    """One group’s cases in the clusters of another’s tree; one : whose tree it is."""
    how = "nearest centroid" if found.method == "centroid" else "smallest mean proximity"
    if found.agreement != found.agreement:
        return f"{other} has too few cases that could be assigned to the clusters of {one}."
    value = fixed(found.agreement, 2)
    return (
        f"{counted(found.cases, 'case')} of {other} in the clusters of {one} (by the {how}) and in"
        f" their own: adjusted Rand index {value}."
    )


_MUCH_LOWER = 0.02  # of the sum of squares: what k-means finds beyond is worth a word


def moving_words(moved: Relocation, best: Best) -> str:
    """Whether the cut is near to a lowest sum of squares, and how far the lowest found is."""
    n, many = len(moved.before), moved.moved
    if not many:
        words = "Every case is nearest to the centroid of its own cluster."
    else:
        words = (
            f"{many:,} of {n:,} cases ({_share(many / n)}) {'ends' if many == 1 else 'end'} "
            "in another cluster when each is moved to the nearest centroid, in "
            f"{counted(moved.rounds, 'round')}; the within-cluster sum of squares falls "
            f"from {number(moved.w_before)} to {number(moved.w_after)}."
        )
        if many / n > MANY_MOVE:
            words += " That is many: use the reassigned clusters, or doubt that compact clusters"
            words += " exist here."
    if moved.emptied:
        ends = "ends" if moved.emptied == 1 else "end"
        words += f" {counted(moved.emptied, 'cluster')} {ends} without cases."
    lower = (best.w_tree - best.w) / best.w_tree if best.w_tree > 0 else 0.0
    words += f" K-means from other starts reaches {number(best.w)}"
    if best.agreement >= 1:
        return words + ", with the same clusters."
    words += f", with an adjusted Rand index of {fixed(best.agreement, 2)} between the clusters"
    return words + (f", {lower:.0%} below the cut." if lower >= _MUCH_LOWER else ".")


def _share(share: float) -> str:
    return f"{share:.0%}" if share >= 0.01 else f"{share:.1%}"
