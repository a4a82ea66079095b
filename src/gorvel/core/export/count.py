"""What the rules of the cluster count say, as files."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np

from gorvel.core.count.checks import Checks
from gorvel.core.count.groups import KnownGroups, check_of
from gorvel.core.count.indices.index_table import IndexTable
from gorvel.core.count.indices.silhouettes import silhouettes_of
from gorvel.core.count.indices.uneven import uneven_of
from gorvel.core.count.null.conclusion import concluded
from gorvel.core.count.null.evidence import Evidence
from gorvel.core.count.null.null_comparison import NullComparison
from gorvel.core.count.null.validity_profile import CalibratedIndices
from gorvel.core.export.files import write_csv, write_json
from gorvel.core.grow.grown import Grown
from gorvel.core.plan.count_rules import COUNT_RULES
from gorvel.core.plan.parts import CountPlan
from gorvel.core.results.count import count_columns, purpose_columns
from gorvel.core.tree.cuts import cut_at_count
from gorvel.core.tree.tree import Tree
from gorvel.core.words.conclusion import conclusion_sentence


@dataclass(frozen=True, eq=False)
class Counted:
    """All that was found about the count of one tree. groups : known beforehand, None for none."""

    board: IndexTable
    checks: Checks
    groups: KnownGroups | None


def choice(
    board: IndexTable,
    asked: CountPlan,
    evidence: Evidence | None = None,
    purpose: CalibratedIndices | None = None,
) -> dict[str, Any]:
    """What choice.json holds. evidence : of groups; purpose : of clusters, where asked for."""
    voices, left_out = board.voices(asked.left_out), asked.left_out
    told = concluded(board, evidence, left_out)
    return {
        "rules": [
            {
                "key": key,
                "name": COUNT_RULES[key].name,
                "direction": COUNT_RULES[key].direction.told,
                "best": verdict.best,
                "why": verdict.why,
                "runner_up": verdict.runner_up,
                "family": COUNT_RULES[key].family,
                "answer": voices[key].answer,
                "vote": voices[key].votes,
                "no_vote": voices[key].no_vote or None,
            }
            | ({"published": verdict.published} if key in ("gap", "weighted-gap") else {})
            for key, verdict in board.verdicts.items()
        ],
        "votes": {str(answer): votes for answer, votes in told.votes.items()},
        "family_votes": {
            str(count): round(sum(votes.values()), 6)
            for count, votes in sorted(board.family_votes(asked.left_out).items())
        },
        "verdict": {
            "groups": told.groups,
            "p": told.p,
            "by": told.by,
            "reserve": told.reserve or None,
            "count": told.count,
            "sentence": conclusion_sentence(told, evidence, board.of),
        },
        "purpose": None if purpose is None else purpose_told(purpose, board, asked),
        "chosen": asked.chosen,
        "reasons": asked.reasons,
    }


def purpose_told(found: CalibratedIndices, board: IndexTable, asked: CountPlan) -> dict[str, Any]:
    """How the counts stand by what clusters are for."""
    ranked = found.ranked(asked.purpose, board.coming_back(found.counts))
    known = np.isfinite(ranked)
    return {
        "weights": dict(asked.purpose),
        "best": found.counts[int(np.nanargmax(ranked))] if known.any() else None,
        "by_count": {
            str(count): value if math.isfinite(value) else None
            for count, value in zip(found.counts, ranked.tolist(), strict=True)
        },
        "part": found.part or None,
        "why": found.why or None,
    }


def checks_told(checks: Checks, counts: Sequence[int]) -> dict[str, Any]:
    """What checks.json holds: each check that was made."""
    out: dict[str, Any] = {}
    for name, finding in (("hopkins", checks.hopkins), ("shuffled_cophenetic", checks.shuffled)):
        if finding is not None:
            out[name] = {"value": finding.value, "p": finding.p, "why": finding.why or None}
    if checks.groups is not None:
        out["groups"] = evidence_told(checks.groups)
    if checks.splits is not None:
        out["splits"] = {
            "clusters": checks.splits.clusters if checks.splits.tests else None,
            "why": checks.splits.why or None,
            "tests": [
                {"join": t.join + 1, "cases": t.cases, "index": t.index, "p": t.p,
                 "level": t.level, "holds": t.holds}
                for t in checks.splits.tests
            ],
        }  # fmt: skip
    if checks.support is not None:
        out["support"] = {"drawn": checks.support.of, "why": checks.support.why or None}
    if checks.orders is not None:
        rows = zip(counts, checks.orders.mean.tolist(), checks.orders.lowest.tolist(), strict=True)
        out["orders"] = {
            str(count): {"together": mean, "lowest": lowest} for count, mean, lowest in rows
        }
    return out


def evidence_told(evidence: Evidence) -> dict[str, Any]:
    """What data without groups reach, beside what the tree does, at each count."""
    return {
        "p": evidence.p, "draws": evidence.draws, "why": evidence.why or None,
        "highest": evidence.highest, "part": evidence.part or None,
        "tails": None if evidence.tails is None else {
            "freedom": evidence.tails.freedom, "of_rest": evidence.tails.of_rest,
        },
        "peaks": None if evidence.peaks is None else {
            "variable": evidence.peaks.variable, "p": evidence.peaks.p,
            "at_most": evidence.peaks.at_most,
        },
        "by_count": _by_count(evidence),
        "beside": {
            key: {"p": index.p, "highest": index.highest, "by_count": _by_count(index)}
            for key, index in evidence.beside.items()
        },
    }  # fmt: skip


def _by_count(index: NullComparison) -> dict[str, Any]:
    """At each count that has a standing."""
    if not index.told:
        return {}
    rows = zip(
        index.counts, index.values.tolist(), index.mean.tolist(), index.sd.tolist(),
        index.by_count.tolist(), index.standing.tolist(), strict=True,
    )  # fmt: skip
    return {
        str(count): {"value": value, "mean": mean, "sd": sd, "p": p, "standing": z}
        for count, value, mean, sd, p, z in rows
        if math.isfinite(z)
    }


def groups_told(groups: KnownGroups, tree: Tree, counts: Sequence[int]) -> dict[str, Any]:
    """How known groups go with the clusters at each count."""
    checks = {count: check_of(groups, cut_at_count(tree, count)) for count in counts}
    return {
        "column": groups.name,
        "agreement": {
            str(count): {
                "adjusted_rand": check.rand,
                "normalised_mutual_information": check.information,
            }
            for count, check in checks.items()
        },
    }


def silhouette_columns(
    board: IndexTable, labels: Sequence[str], counts: Sequence[int]
) -> dict[str, Any]:
    """Long form: each case at each of some counts, with the next cluster it could be in."""
    columns: dict[str, Any] = {
        name: [] for name in ("clusters", "label", "cluster", "silhouette", "next")
    }
    for count in counts:
        if board.sums is None or board.nested is None or not 2 <= count <= board.nested.finest:
            continue
        found = silhouettes_of(board.sums, count)
        columns["clusters"] += [count] * len(found.cases)
        columns["label"] += [labels[int(case)] for case in found.cases]
        columns["cluster"] += found.own.tolist()
        columns["silhouette"] += found.values.tolist()
        columns["next"] += found.leans.tolist()
    return columns


def write_counting(
    counted: Counted, grown: Grown, asked: CountPlan, saved: Sequence[int], directory: Path
) -> None:
    """Write counts.csv, choice.json, silhouettes.csv, and what checks found.

    asked : the count part of the plan; saved : counts whose memberships are saved, and so the
    silhouettes.
    """
    board = counted.board
    write_csv(count_columns(board), directory / "counts.csv")
    purpose = counted.checks.purpose
    told = choice(board, asked, counted.checks.groups, purpose)
    if (uneven := uneven_of(grown, board)) is not None:
        told["uneven"] = {
            "value": uneven.value, "clusters": uneven.clusters, "level": uneven.level,
            "split": [join + 1 for join in uneven.split],
        }  # fmt: skip
    write_json(told, directory / "choice.json")
    if purpose is not None and not purpose.why:
        write_csv(purpose_columns(purpose, board), directory / "purpose.csv")
    if board.sums is not None:
        columns = silhouette_columns(board, grown.prepared.labels, saved)
        write_csv(columns, directory / "silhouettes.csv")
    found = checks_told(counted.checks, board.counts)
    if counted.groups is not None:
        found["known_groups"] = groups_told(counted.groups, grown.tree, board.counts)
    if found:
        write_json(found, directory / "checks.json")
    support = counted.checks.support
    if support is not None and not support.why:
        columns = {"join": grown.schedule.join, "plain": support.plain}
        if support.of == "variables":
            columns["unbiased"] = support.unbiased
        write_csv(columns, directory / "support.csv")
