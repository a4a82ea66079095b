"""A run without a window: from a plan file to a directory of results."""

from __future__ import annotations

import time
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from gorvel.core.analysis import Grown, analyse, read_source, timed
from gorvel.core.choosing import case_labels, split_rows
from gorvel.core.counting.board import quick_board
from gorvel.core.counting.checks import made
from gorvel.core.counting.groups import groups_of
from gorvel.core.counting.resampling import resampled
from gorvel.core.errors import InputError
from gorvel.core.export.counting import Counted
from gorvel.core.export.files import results_directory
from gorvel.core.export.results import safe_name, write_results
from gorvel.core.faithful import cophenetic_correlation
from gorvel.core.kernels.loading import at_hand
from gorvel.core.matrix import ProximityTable
from gorvel.core.placing import place_set_aside
from gorvel.core.plan.file import load_plan
from gorvel.core.plan.plan import Plan
from gorvel.core.progress import Progress, silent
from gorvel.core.table.table import Table

__all__ = ["Outcome", "run_plan"]


@dataclass(frozen=True)
class Outcome:
    """What a run wrote. directory; files : names, sorted; summaries : by group, "" for all."""

    directory: Path
    files: tuple[str, ...]
    summaries: dict[str, dict[str, Any]]


def run_plan(
    plan_file: Path,
    out: Path,
    data: Path | None = None,
    matrix: bool = False,
    progress: Progress = silent,
) -> Outcome:
    """Do what a plan file says and write the results, whole or not at all.

    Parameters
    ----------
    data : read instead of the file the plan names; matrix : write large proximity matrices too.

    Raises
    ------
    InputError, TooLargeError, Cancelled : the directory is left as it was.
    """
    plan = load_plan(plan_file)
    try:
        return _run(plan, plan_file, out, data, matrix, progress)
    except InputError as error:
        raise error.in_file(plan_file.name) from None


def _run(
    plan: Plan, plan_file: Path, out: Path, data: Path | None, matrix: bool, progress: Progress
) -> Outcome:
    begin = time.perf_counter()
    source = read_source(plan, data or plan_file.parent / plan.source.file, progress)
    reading = time.perf_counter() - begin
    summaries: dict[str, dict[str, Any]] = {}
    with results_directory(out) as directory:
        for group, rows in _groups(source, plan).items():
            grown = _grow_group(source, plan, group, rows, progress)
            grown.seconds["read"] = reading
            with timed(grown.seconds, "correlation"):
                cophenetic = cophenetic_correlation(grown.tree, grown.pairs, progress)
            numbers, labels = _read_rows(source, plan, rows)
            folder = directory / safe_name(group, [*summaries]) if group else directory
            placed = place_set_aside(source, grown)
            counted = None if plan.count is None else _counted(grown, source, progress)
            summaries[folder.name if group else ""] = write_results(
                grown, labels, numbers, folder, cophenetic, matrix, placed, counted, progress
            )
        files = [str(p.relative_to(directory)) for p in directory.rglob("*") if p.is_file()]
    return Outcome(out, tuple(sorted(files)), summaries)


def _grow_group(
    source: Table | ProximityTable,
    plan: Plan,
    group: str,
    rows: list[int] | None,
    progress: Progress,
) -> Grown:
    """The tree of one group, as if it were alone; errors name the group."""
    if rows is None:
        return analyse(source, plan, None, progress)
    place = f'group "{group}" of [cases] split'
    if len(rows) < 2:
        raise InputError(f"{len(rows)} case", "at least 2", place=place, file=source.name)
    try:
        grown = analyse(source, plan, rows, progress)
    except InputError as error:
        error.place = f"{place}, {error.place}" if error.place else place
        raise
    if plan.tree.of == "cases" and grown.tree.n < 2:
        raise InputError(f"{grown.tree.n} case kept", "at least 2", place=place, file=source.name)
    return grown


def _counted(grown: Grown, source: Table | ProximityTable, progress: Progress) -> Counted:
    """What the rules of the cluster count say, and the checks, that the plan asks for."""
    begin = time.perf_counter()
    with at_hand(grown.tree.n):
        board = quick_board(grown, None, progress)
        board = board.with_verdicts(resampled(grown, None, progress))
        counted = Counted(board, made(grown, progress), groups_of(grown, source, grown.plan))
    grown.seconds["count"] = time.perf_counter() - begin
    return counted


def _groups(source: Table | ProximityTable, plan: Plan) -> dict[str, list[int] | None]:
    if isinstance(source, Table) and plan.cases.split is not None:
        return {**split_rows(source, plan)}
    return {"": None}


def _read_rows(
    source: Table | ProximityTable, plan: Plan, rows: list[int] | None
) -> tuple[list[int], list[str]]:
    """Numbers and labels of all that was read, of a group if there is one."""
    if isinstance(source, ProximityTable):
        labels = list(source.labels)
    elif plan.tree.of == "variables":
        labels, rows = list(plan.variables.use), None
    else:
        labels = case_labels(source, plan)
    places = range(len(labels)) if rows is None else rows
    return [place + 1 for place in places], [labels[place] for place in places]
