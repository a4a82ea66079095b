"""Tables of what the rules for the number of clusters say."""

from __future__ import annotations

from typing import Any

from gorvel.core.count.groups import check_of
from gorvel.core.count.indices.index_table import IndexTable
from gorvel.core.count.indices.verdicts import Verdict
from gorvel.core.count.null.null_comparison import NullComparison
from gorvel.core.count.null.validity_profile import CalibratedIndices
from gorvel.core.plan.purposes import CHARACTERISTICS
from gorvel.core.results.findings import Findings
from gorvel.core.results.table import ResultTable


def count_columns(board: IndexTable) -> dict[str, Any]:
    """A row for each count, a column for each rule and for what belongs to it."""
    columns: dict[str, Any] = {"clusters": list(board.counts)}
    for key, verdict in board.verdicts.items():
        columns[key] = verdict.values
        if key == "gap" and verdict.error is not None:
            columns["gap_se"] = verdict.error
        elif key == "gap":
            columns["gap_se"] = [None] * len(board.counts)
        if key == "bootstrap-jaccard":
            lowest = verdict.lowest
            columns[f"{key}_min"] = [None] * len(board.counts) if lowest is None else lowest
    return columns


def purpose_columns(found: CalibratedIndices, board: IndexTable) -> dict[str, Any]:
    """A row for each count: each characteristic, and its standing among random groupings."""
    stable = board.coming_back(found.counts)
    columns: dict[str, Any] = {"clusters": list(found.counts)}
    standing = found.standing(stable)
    for place, key in enumerate(CHARACTERISTICS):
        own = found.values[place]
        if key == "stable" and stable is not None:
            own = stable
        columns[key], columns[f"{key}_standing"] = own, standing[place]
    return columns


def rules_table(known: Findings) -> ResultTable | None:
    """The values of all rules, a row for each count."""
    return None if known.board is None else ResultTable.of(count_columns(known.board))


def verdict_of(known: Findings) -> Verdict | None:
    """What the rule that is looked at says."""
    return None if known.board is None else known.board.verdicts.get(known.rule)


def rule_table(known: Findings) -> ResultTable | None:
    """The values of the rule that is looked at, with what belongs to them."""
    verdict = verdict_of(known)
    if verdict is None:
        return None
    columns: dict[str, Any] = {"clusters": list(verdict.counts), verdict.key: verdict.values}
    more = {"error": verdict.error, "bound": verdict.bound, "lowest": verdict.lowest}
    columns |= {name: values for name, values in more.items() if values is not None}
    return ResultTable.of(columns)


def index_of(known: Findings) -> NullComparison | None:
    """The index that is held against data without groups, where there is something to say."""
    index = None if known.evidence is None else known.evidence.of(known.index)
    return index if index is not None and index.told else None


def null_table(known: Findings) -> ResultTable | None:
    """Each count with the index and what data without groups reach."""
    index = index_of(known)
    if index is None:
        return None
    return ResultTable.of({
        "clusters": index.counts, known.index: index.values, "mean without groups": index.mean,
        "SD without groups": index.sd, "p": index.by_count,
    })  # fmt: skip


def purpose_table(known: Findings) -> ResultTable | None:
    """Each count with its characteristics and how they stand among random groupings."""
    found = known.purpose
    if found is None or found.why or known.board is None:
        return None
    return ResultTable.of(purpose_columns(found, known.board))


def silhouettes_table(known: Findings) -> ResultTable | None:
    """Every case with its silhouette at the count in hand."""
    found, labels, names = known.silhouettes, known.grown.prepared.labels, known.names
    if found is None:
        return None
    rows = [
        (labels[case], names[own - 1].name, value, names[lean - 1].name)
        for case, own, value, lean in zip(
            found.cases.tolist(), found.own.tolist(), found.values.tolist(), found.leans.tolist(),
            strict=True,
        )
    ]  # fmt: skip
    return ResultTable(("case", "cluster", "silhouette", "next cluster"), rows)


def known_groups_table(known: Findings) -> ResultTable | None:
    """The clusters in hand by the groups known beforehand."""
    groups = known.known_groups
    if groups is None:
        return None
    own = check_of(groups, known.cut)
    rows = [(who.name, *cases) for who, cases in zip(known.names, own.table.tolist(), strict=True)]
    return ResultTable(("cluster", *groups.groups), rows)
