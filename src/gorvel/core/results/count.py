"""Tables of what the rules for the number of clusters say."""

from __future__ import annotations

from typing import Any

from gorvel.core.count.board import Board
from gorvel.core.count.purpose import Calibrated
from gorvel.core.plan.purposes import CHARACTERISTICS


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


def purpose_columns(found: Calibrated, board: Board) -> dict[str, Any]:
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
