"""What each rule answers on made-up studies of known kinds; prints a table.

    python bench/rules.py [--studies 40] [--sizes 60 300] [--kinds three four] [--linkage ward]

Studies and plan are those of `verdict.py`, with other seeds and every rule there is. Of kinds with
groups a cell is the share of the studies in which the rule answers their count, of kinds without
groups the share in which it answers one cluster or none.
"""

from __future__ import annotations

import argparse
from concurrent.futures import ProcessPoolExecutor
from os import cpu_count

from gorvel.core.count.indices.index_table import compute_indices
from gorvel.core.count.indices.verdicts import Answer
from gorvel.core.count.resampling.resampled_rules import resampled
from gorvel.core.engine.engine import ThreadEngine
from gorvel.core.plan.count_rules import COUNT_RULES
from gorvel.core.plan.parts import CountPlan
from gorvel.core.warm import warm
from kinds import KINDS, study_of_kind
from verdict import grown

_FIRST = 500  # number of the first study: others than those of the verdict


def answers_of(
    kind: str, n: int, number: int, linkage: str, resamples: int
) -> dict[str, Answer | None]:
    """What each rule answers about one study."""
    tree = grown(study_of_kind(kind, n, number), linkage)
    asked = CountPlan.model_validate({"resamples": resamples, "more": "all"})
    board = compute_indices(tree, asked).with_verdicts(
        resampled(tree, asked, engine=ThreadEngine())
    )
    return {key: verdict.answer for key, verdict in board.verdicts.items()}


def share(answers: list[Answer | None], groups: tuple[int, ...]) -> str:
    """Of the studies in which the answer is right."""
    right = groups or ("one", "none")
    return f"{sum(answer in right for answer in answers) / len(answers):.2f}"


def main() -> None:
    """Print a table for each size, once all of its studies are done."""
    parser = argparse.ArgumentParser(description=__doc__.split("\n")[0])
    parser.add_argument("--studies", type=int, default=40)
    parser.add_argument("--sizes", type=int, nargs="+", default=[60, 300])
    parser.add_argument("--kinds", nargs="+", default=list(KINDS), choices=list(KINDS))
    parser.add_argument("--linkage", default="ward")
    parser.add_argument("--resamples", type=int, default=20)
    parser.add_argument("--workers", type=int, default=cpu_count() or 1)
    asked = parser.parse_args()
    numbers = range(_FIRST, _FIRST + asked.studies)
    with ProcessPoolExecutor(asked.workers, initializer=warm) as pool:
        for n in asked.sizes:
            work = {
                kind: [
                    pool.submit(answers_of, kind, n, number, asked.linkage, asked.resamples)
                    for number in numbers
                ]
                for kind in asked.kinds
            }
            found = {kind: [one.result() for one in jobs] for kind, jobs in work.items()}
            print(f"| {n:,} cases, {asked.studies} studies | {' | '.join(asked.kinds)} |")
            print("|---" * (1 + len(asked.kinds)) + "|")
            for key, rule in COUNT_RULES.items():
                cells = [
                    share([one[key] for one in found[kind]], KINDS[kind][1]) for kind in asked.kinds
                ]
                print(f"| {rule.name} | {' | '.join(cells)} |", flush=True)


if __name__ == "__main__":
    main()
