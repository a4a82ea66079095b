"""What the rules of the cluster count say, as files."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

from gorvel.core.count_rules import COUNT_RULES
from gorvel.core.counting.board import Board
from gorvel.core.export.files import write_csv
from gorvel.core.plan import CountPlan

__all__ = ["choice", "count_columns", "write_counting"]


def count_columns(board: Board) -> dict[str, Any]:
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


def choice(board: Board, asked: CountPlan) -> dict[str, Any]:
    """What choice.json holds."""
    return {
        "rules": [
            {
                "key": key,
                "name": COUNT_RULES[key].name,
                "direction": COUNT_RULES[key].direction,
                "best": verdict.best,
                "why": verdict.why,
                "runner_up": verdict.runner_up,
                "family": COUNT_RULES[key].family,
                "votes": key not in asked.left_out,
            }
            for key, verdict in board.verdicts.items()
        ],
        "votes": {str(count): votes for count, votes in board.votes(asked.left_out).items()},
        "family_votes": {
            str(count): round(sum(votes.values()), 6)
            for count, votes in sorted(board.family_votes(asked.left_out).items())
        },
        "chosen": asked.chosen,
        "reasons": asked.reasons,
    }


def write_counting(board: Board, asked: CountPlan, directory: Path) -> None:
    """Write counts.csv and choice.json."""
    write_csv(count_columns(board), directory / "counts.csv")
    text = json.dumps(choice(board, asked), indent=2, ensure_ascii=False, allow_nan=False)
    (directory / "choice.json").write_text(text + "\n", encoding="utf-8")
