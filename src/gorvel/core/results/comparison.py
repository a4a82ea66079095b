"""Tables of trees beside each other."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np

from gorvel.core.base.numbers import counted, fixed
from gorvel.core.compare.coassociation import CoAssociation
from gorvel.core.compare.sweep import Swept
from gorvel.core.results.findings import Findings
from gorvel.core.results.table import Cell, ResultTable
from gorvel.core.study.tree_pairs import PairAtCut
from gorvel.core.words.plan import HANDLING_WORDS

_LOOSE = 0.5  # of the other trees: a case that stays less often with its cluster


def sweep_columns(
    found: Sequence[Swept], rules: Sequence[str], counts: Sequence[int]
) -> dict[str, list[Any]]:
    """A row for each combination. rules : of the cluster count; counts : of the cuts."""
    out: dict[str, list[Any]] = {
        "scale": [one.at.scale or None for one in found],
        "handling": [one.at.handling or None for one in found],
        "measure": [one.at.measure or None for one in found],
        "linkage": [one.at.linkage for one in found],
        "status": [one.why or "ok" for one in found],
    }
    known = [None if one.why else one for one in found]
    for name, key in (
        ("cases", "cases"), ("cophenetic_correlation", "cophenetic"),
        ("agglomerative_coefficient", "agglomerative"), ("inversions", "inversions"),
        ("ties_that_matter", "ties_that_matter"),
    ):  # fmt: skip
        out[name] = [None if one is None else getattr(one, key) for one in known]
    for rule in rules:
        out[f"best_{rule}"] = [None if one is None else one.best.get(rule) for one in known]
    for count in counts:
        out[f"ari_k{count}"] = [None if one is None else one.agreement.get(count) for one in known]
        out[f"smallest_k{count}"] = [None if one is None else one.smallest.get(count)
                                     for one in known]  # fmt: skip
    return out


def agreement_table(known: Findings) -> ResultTable | None:
    """How much two trees agree, a row for each count."""
    if known.faced is None:
        return None
    heads = ("clusters", "Rand", "adjusted Rand", "Fowlkes–Mallows", "variation of information",
             "normalised mutual information", "moved")  # fmt: skip
    rows = [
        (count, one.rand, one.adjusted_rand, one.fowlkes_mallows, one.variation_of_information,
         one.normalised_mi, one.moved)
        for count, one in known.faced.counts.items()
    ]  # fmt: skip
    return ResultTable(heads, rows)


def as_drawn(met: PairAtCut) -> tuple[list[int], list[int]]:
    """The clusters of the left and of the right tree in the order in which these are drawn."""
    found, facing = met.crossed, met.faced.facing
    rows = np.argsort(facing.left.starts[found.one.roots], kind="stable")
    columns = np.argsort(facing.right.starts[found.other.roots], kind="stable")
    return rows.tolist(), columns.tolist()


def cross_table(known: Findings) -> ResultTable | None:
    """The cases in each two clusters of two trees, as these are drawn."""
    met = known.met
    if met is None:
        return None
    rows, columns = as_drawn(met)
    heads = ("", *(met.others[k].told for k in columns))
    return ResultTable(heads, [
        (met.names[row].told, *(int(met.crossed.table[row, k]) for k in columns)) for row in rows
    ])  # fmt: skip


def pair_table(known: Findings) -> ResultTable | None:
    """Each case that both trees have, with its cluster here and there."""
    met = known.met
    if met is None:
        return None
    pair, found, cases = met.faced.pair, met.crossed, met.faced.pair.one.prepared
    rows = [
        (int(cases.numbers[place]), cases.labels[place], met.names[a].told, met.others[b].told,
         "yes" if moved else "")
        for place, a, b, moved in zip(
            pair.mine.tolist(), found.own.tolist(), found.its.tolist(), found.moved.tolist(),
            strict=True,
        )
    ]  # fmt: skip
    return ResultTable(("number", "label", *known.titles, "moved"), rows)


def sweep_table(known: Findings) -> ResultTable | None:
    """A row for each combination, as sweep.csv has it."""
    found = known.sweep
    if found is None:
        return None
    rules = list(dict.fromkeys(rule for one in found.found for rule in one.best))
    return ResultTable.of(sweep_columns(found.found, rules, [found.count]))


def _sizes(known: Findings, found: CoAssociation) -> tuple[list[int], list[int]]:
    """(k,) cases of each cluster, and those that stay with it in less than half of the trees."""
    own, less, count = known.cut.membership - 1, found.cases < _LOOSE, known.cut.clusters
    sizes = np.bincount(own, minlength=count).tolist()
    return sizes, np.bincount(own[less], minlength=count).tolist()


def stability_table(known: Findings) -> ResultTable | None:
    """Which clusters the other trees have, a row for each."""
    found = known.stability
    if found is None:
        return None
    names, (sizes, loose) = [who.told for who in known.names], _sizes(known, found)
    return ResultTable.of({
        "cluster": names, "cases": sizes, "pairs kept": found.clusters,
        "with others": found.strangers, "loosely attached": loose,
    })  # fmt: skip


def handlings_table(known: Findings) -> ResultTable | None:
    """The tree under each treatment of missing answers."""
    found = known.handlings
    if found is None:
        return None
    rows: list[tuple[Cell, ...]] = []
    for one in found.handlings:
        name = HANDLING_WORDS[one.at.handling]
        name += " (current)" if one.at.handling == known.plan.handling else ""
        if one.why:
            rows.append((name, "", "", "", one.why))
            continue
        count = found.cut.clusters
        agreement = one.agreement.get(count, float("nan"))
        rows.append((name, one.cases, agreement, one.smallest.get(count, 0), ""))
    many = found.imputed
    least = f"{counted(len(many.agreement), 'data set')}, lowest {fixed(min(many.agreement), 2)}"
    rows.append(("are imputed many times", many.cases, float(np.mean(many.agreement)), "", least))
    heads = ("missing answers", "cases", "adjusted Rand", "smallest cluster", "note")
    return ResultTable(heads, rows)


def imputed_table(known: Findings) -> ResultTable | None:
    """How surely each cluster stays across imputations."""
    if known.handlings is None:
        return None
    found = known.handlings.imputed.together
    names, (sizes, loose) = [who.told for who in known.names], _sizes(known, found)
    return ResultTable.of({
        "cluster": names, "cases": sizes, "pairs kept": found.clusters, "loosely attached": loose,
    })  # fmt: skip


def replication_table(known: Findings) -> ResultTable | None:
    """Whether groups of a split find the same clusters: each two of them, in either direction."""
    found = known.replicated
    if found is None:
        return None
    heads = ("tree of", "cases of", "clusters", "cases", "adjusted Rand", "assigned by")
    rows = [
        (found.groups[one][0], found.groups[other][0], found.count, again.cases, again.agreement,
         again.method)
        for (one, other), again in found.found.items()
    ]  # fmt: skip
    return ResultTable(heads, rows)
