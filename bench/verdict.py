"""How often the verdict is right, on made-up studies of known kinds; prints a table.

    python bench/verdict.py [--studies 100] [--sizes 60 300] [--kinds three four] [--linkage ward]

Each study is grown by the default plan: Ward’s rule, squared Euclidean distance, z-scores, counts
from 2 to 10, all rules. `yes` and `unsure` are shares of the studies; `right` is the share in which
the verdict is yes and its count that of the groups; `vote` the share in which most rules call that
count best when each rule has a vote, as it was before there was a verdict (without groups there is
no right count, and that vote names one in every study).
"""

from __future__ import annotations

import argparse
import time
from collections import Counter
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass
from os import cpu_count

import numpy as np

from gorvel.core.cases.prepared import Prepared, Variable
from gorvel.core.count.indices.index_table import compute_indices
from gorvel.core.count.null.conclusion import concluded
from gorvel.core.count.null.evidence import evidence_of_groups
from gorvel.core.count.resampling.resampled_rules import resampled
from gorvel.core.engine.engine import ThreadEngine
from gorvel.core.grow.grown import Grown, grow_prepared
from gorvel.core.plan.parts import CountPlan, ScalePlan, SourcePlan, TreePlan, VariablesPlan
from gorvel.core.plan.plan import Plan
from gorvel.core.proximity.answers import Answers
from gorvel.core.proximity.scaling import scale_variables
from gorvel.core.warm import warm
from kinds import KINDS, study_of_kind


@dataclass(frozen=True)
class Said:
    """What was said of one study. vote : the count most rules call best; seconds : of all."""

    groups: str | None
    count: int | None
    by: str | None
    vote: int | None
    seconds: float


def grown(x: np.ndarray, linkage: str) -> Grown:
    """The tree of the default plan."""
    n, p = x.shape
    names = tuple(f"v{j}" for j in range(p))
    plan = Plan(
        source=SourcePlan(file="made-up"), variables=VariablesPlan(use=names),
        scale=ScalePlan(method="zscore"), tree=TreePlan(linkage=linkage),
    )  # fmt: skip
    values = scale_variables(x.copy(), names, "zscore", None)
    answers = Answers.of(values, np.ones(p), ("interval",) * p, (False,) * p)
    variables = tuple(Variable(name, "interval") for name in names)
    labels = tuple(map(str, range(n)))
    prepared = Prepared(
        "made-up", n, np.arange(1, n + 1), labels, None, variables, x, answers, None, "cases",
        (), (),
    )  # fmt: skip
    return grow_prepared(prepared, plan, {})


def said_of(kind: str, n: int, number: int, linkage: str, draws: int, resamples: int) -> Said:
    """The verdict about one study."""
    begin = time.perf_counter()
    tree = grown(study_of_kind(kind, n, number), linkage)
    board = compute_indices(tree).with_verdicts(
        resampled(tree, CountPlan(resamples=resamples), engine=ThreadEngine())
    )
    told = concluded(board, evidence_of_groups(tree, CountPlan(resamples=draws)))
    best = Counter(v.best for v in board.verdicts.values() if v.best is not None)
    vote = max(best, key=lambda count: (best[count], -count)) if best else None
    return Said(told.groups, told.count, told.by, vote, time.perf_counter() - begin)


def line(kind: str, n: int, found: list[Said]) -> str:
    """A row of the table."""
    groups, studies = KINDS[kind][1], len(found)

    def share(some: int) -> str:
        return f"{some / studies:.2f}"

    right = sum(one.groups == "yes" and one.count in groups for one in found)
    votes = sum(one.vote in groups for one in found)
    counts = Counter(one.count for one in found if one.groups == "yes")
    named = ", ".join(f"{count}: {times}" for count, times in counts.most_common(4))
    cells = (
        kind, f"{n:,}", studies, share(sum(one.groups == "yes" for one in found)),
        share(sum(one.groups == "unsure" for one in found)),
        share(right) if groups else "", share(votes), named,
        f"{np.median([one.seconds for one in found]):.1f}",
    )  # fmt: skip
    return f"| {' | '.join(map(str, cells))} |"


def main() -> None:
    """Print the table, a line as soon as it is known."""
    parser = argparse.ArgumentParser(description=__doc__.split("\n")[0])
    parser.add_argument("--studies", type=int, default=100)
    parser.add_argument("--sizes", type=int, nargs="+", default=[60, 300])
    parser.add_argument("--kinds", nargs="+", default=list(KINDS), choices=list(KINDS))
    parser.add_argument("--linkage", default="ward")
    parser.add_argument("--draws", type=int, default=100)
    parser.add_argument("--resamples", type=int, default=40)
    parser.add_argument("--workers", type=int, default=cpu_count() or 1)
    asked = parser.parse_args()
    print("| data | n | studies | yes | unsure | right | vote | counts | seconds |")
    print("|---|---|---|---|---|---|---|---|---|", flush=True)
    with ProcessPoolExecutor(asked.workers, initializer=warm) as pool:
        for n in asked.sizes:
            for kind in asked.kinds:
                work = [
                    pool.submit(
                        said_of, kind, n, number, asked.linkage, asked.draws, asked.resamples
                    )
                    for number in range(asked.studies)
                ]  # fmt: skip
                print(line(kind, n, [one.result() for one in work]), flush=True)


if __name__ == "__main__":
    main()
