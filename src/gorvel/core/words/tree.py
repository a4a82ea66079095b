"""A grown tree in plain words: joins, cases, pairs, clusters, answers."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from gorvel.core.base.numbers import counted, fixed, letters, number, unit
from gorvel.core.grow.grown import Grown
from gorvel.core.proximity.measures import MEASURES
from gorvel.core.tree.cuts import Cut

Names = Sequence[str]
_SUPPORT = {  # what it means, by what was drawn
    "cases": "the mean Jaccard index with the nearest branch of trees of resampled cases",
    "variables": "approximately unbiased, from resampled variables; not a frequency",
}


def _named(names: Names, cluster: int) -> str:
    """What a cluster (from 1) is called: as told, or by its letter."""
    return names[cluster - 1] if names else letters(cluster)


def _part(grown: Grown, node: int, cut: Cut | None, names: Names = ()) -> str:
    tree, labels = grown.tree, grown.prepared.labels
    first = labels[int(tree.firsts[node])]
    size = int(tree.sizes[node])
    if size == 1:
        return first
    roots = cut.roots.tolist() if cut is not None else []
    if node in roots:
        told = unit(grown.of, size)
        return f"cluster {_named(names, roots.index(node) + 1)} ({told})"
    return f"{first} and {counted(size - 1, 'other')}"


def describe_join(
    grown: Grown, join: int, cut: Cut | None = None, names: Names = (), support: float = np.nan,
    support_of: str = "variables",
) -> str:  # fmt: skip
    """One to four sentences on a join (from 0), true for the linkage in use.

    cut, names : parts that are whole clusters are told by their names, or else letters;
    support : of the branch, 0 to 1, where it was measured; support_of : what was drawn for that.
    """
    tree, rows = grown.tree, grown.schedule
    left, right = int(tree.left[join]), int(tree.right[join])
    clusters = tree.n - join - 1
    text = (
        f"Join {join + 1} brings {_part(grown, left, cut, names)} together with"
        f" {_part(grown, right, cut, names)}, at height {number(float(tree.heights[join]))}. "
    )
    became = f"It turns {clusters + 1:,} clusters into {clusters:,}"
    if rows.spread is not None and rows.spread.r2[-1:].size and rows.spread.r2[-1] == 0:
        share = 100 * float(rows.spread.semipartial_r2[join])
        loss = "less than 0.001" if share < 0.001 else f"{float(f'{share:.2g}'):g}"
        if grown.prepared.chi_square is None:
            became += f" and lowers R² by {loss} percentage points"
        else:
            became += f" and loses {loss}% of the chi-square of the table"
        if grown.prepared.chi_square is None and not MEASURES[grown.method.measure].flat:
            became += " of the scaled answers, which the measure does not use"
    became += _jump_words(grown, join)
    text += became + ". "
    meaning = grown.height_means
    if grown.method.linkage == "single":
        a, b = _nearest_members(grown, left, right)
        text += f"The height is the proximity of the two nearest members, {a} and {b}."
    else:
        text += f"The height is {meaning}."
    if tree.inversions[join]:
        text += " It is lower than the previous join: an inversion."
    elif tree.tie_matters[join]:
        text += " A tied pair shared a cluster with it, so file order decided."
    elif tree.tied[join]:
        text += " Another pair was tied; file order decided which came first."
    if not np.isnan(support):
        text += f" Support {100 * support:.0f}%: {_SUPPORT[support_of]}."
    return text


def describe_parts(grown: Grown, join: int, most: int = 40) -> str:
    """The cases of the two parts of a join (from 0), in the order of the tree.

    most : labels told of a part.
    """
    lines = []
    for node in (int(grown.tree.left[join]), int(grown.tree.right[join])):
        members = grown.tree.members(node).tolist()
        told = ", ".join(grown.prepared.labels[case] for case in members[:most])
        more = f" and {len(members) - most:,} more" if len(members) > most else ""
        lines.append(f"{unit(grown.of, len(members))}: {told}{more}.")
    return "\n".join(lines)


def _jump_words(grown: Grown, join: int) -> str:
    jumps = grown.schedule.jump
    if join < 2:
        return ""
    now, before = float(jumps[join]), float(jumps[join - 1])
    if now <= 0 or before <= 0 or now / before < 1.5:
        return ""
    return f"; the step up is {number(now / before)} times the previous one"


def _nearest_members(grown: Grown, left: int, right: int) -> tuple[str, str]:
    a, b = grown.tree.members(left), grown.tree.members(right)
    block = grown.pairs.block(a, b)
    i, j = divmod(int(block.argmin()), len(b))
    return grown.prepared.labels[int(a[i])], grown.prepared.labels[int(b[j])]


def describe_case(grown: Grown, case: int, cut: Cut | None = None, names: Names = ()) -> str:
    """Where a case (from 0) stands: its cluster, and its first join."""
    tree, label = grown.tree, grown.prepared.labels[case]
    whole = "file" if grown.of == "cases" else "plan"
    number_ = f"{grown.prepared.numbers[case]:,}"
    text = f"{label} is {unit(grown.of)} {number_} of the {whole}"
    if cut is not None:
        own = int(cut.membership[case])
        size = int(tree.sizes[cut.roots[own - 1]])
        text += f", in cluster {_named(names, own)} with {counted(size - 1, 'other')}"
    join = int(tree.used_at[case])
    if join < 0:
        return text + "."
    other = int(tree.right[join] if tree.left[join] == case else tree.left[join])
    height = number(float(tree.heights[join]))
    text += f". It first joins {_part(grown, other, None)}"
    return f"{text}, in join {join + 1} at height {height}."


def describe_pair(grown: Grown, a: int, b: int, nearer: int | None = None) -> str:
    """How alike two cases (from 0) are: near on the page is not near in the data.

    nearer : how many pairs are, where that is known and the matrix is not kept.
    """
    tree, labels = grown.tree, grown.prepared.labels
    own = float(grown.pairs.block(np.array([a]), np.array([b]))[0, 0])
    compared = ""
    if nearer is None and (d := grown.pairs.matrix) is not None:
        nearer = int((np.count_nonzero(d < own) - tree.n * (own > 0)) // 2)
    if nearer is not None:
        compared = f": {nearer:,} of the {tree.n * (tree.n - 1) // 2:,} pairs are nearer"
    join = tree.meeting(a, b)
    return (
        f"{labels[a]} and {labels[b]} have proximity {number(own)} (smaller = more "
        f"similar){compared}. They first share a cluster in join {join + 1}, at height "
        f"{number(float(tree.heights[join]))}, when "
        f"{counted(tree.n - join - 1, 'cluster is', 'clusters are')} left."
    )


def describe_level(grown: Grown, a: int, b: int, clusters: int) -> str:
    """Are two neighbours (cases from 0) together with so many clusters? What a gap means."""
    tree, labels = grown.tree, grown.prepared.labels
    join = tree.meeting(a, b)
    left, height = tree.n - join - 1, number(float(tree.heights[join]))
    with_ = f"With {counted(clusters, 'cluster')}, {labels[a]} and {labels[b]} are"
    if clusters <= left:
        return f"{with_} already together; they met in join {join + 1}, at height {height}."
    return (
        f"{with_} still apart; they meet in join {join + 1}, at height {height}, when"
        f" {counted(left, 'cluster is', 'clusters are')} left."
    )


def describe_answer(grown: Grown, case: int, variable: int) -> str:
    """What a case (from 0) answered to a variable (from 0), beside all cases kept."""
    raw, name = grown.prepared.raw, grown.prepared.variables[variable].name
    label = grown.prepared.labels[case]
    if raw is None or np.isnan(raw[case, variable]):
        return f"{label} has no answer to {name}."
    column = raw[~np.isnan(raw[:, variable]), variable]
    own, mean, spread = float(raw[case, variable]), float(column.mean()), float(column.std())
    text = f"{label}: {name} is {number(own)}; the mean of all cases is {number(mean)}"
    if spread == 0:
        return f"{text}, and all answered alike."
    away = (own - mean) / spread
    side = "above" if away >= 0 else "below"
    return f"{text}, so this is {number(abs(away))} standard deviations {side} it."


def describe_cluster(grown: Grown, cut: Cut, cluster: int, names: Names = ()) -> str:
    """Size, share, height and next join of a cluster (from 1)."""
    tree = grown.tree
    root = int(cut.roots[cluster - 1])
    size = int(tree.sizes[root])
    text = f"Cluster {_named(names, cluster)}: {unit(grown.of, size)},"
    text += f" {100 * size / tree.n:.0f}% of those used"
    if size > 1:
        text += f"; formed at height {number(float(tree.heights[root - tree.n]))}"
    join = int(tree.used_at[root])
    if join >= 0:
        text += f"; merged in join {join + 1} at height"
        text += f" {number(float(tree.heights[join]))}"
    return text + "."


def describe_tree(
    grown: Grown, cut: Cut, names: Names = (), cophenetic: float | None = None
) -> str:
    """What there is to see when nothing is pointed at: the tree, the cut, how far to trust it.

    cophenetic : correlation; None where it is not defined, or not known yet.
    """
    tree = grown.tree
    if tree.joins == 0:
        return f"One {unit(grown.of)} is used, so there is nothing to join."
    sizes = [f"{_named(names, k)} {tree.sizes[root]:,}" for k, root in enumerate(cut.roots[:8], 1)]
    more = f" and {cut.clusters - 8:,} more" if cut.clusters > 8 else ""
    text = f"{unit(grown.of, tree.n)} in {counted(tree.joins, 'join')}. "
    text += f"Cut into {counted(cut.clusters, 'cluster')}"
    text += ", with some branches cut lower: " if cut.split else ": "
    text += f"{', '.join(sizes)}{more}. "
    if cophenetic is not None:
        text += (
            f"Cophenetic correlation {fixed(cophenetic, 2)} (Sokal & Rohlf 1962; 1 = "
            "perfect linear agreement)."
        )
    return text


def join_names(grown: Grown, nodes: Sequence[int]) -> list[str]:
    """The parts of joins in short: the first case's label, and how many more."""
    tree, labels = grown.tree, grown.prepared.labels
    return [
        labels[int(tree.firsts[v])] + (f" +{tree.sizes[v] - 1:,}" if v >= tree.n else "")
        for v in nodes
    ]
