"""A run without a window: from a plan or a study to a directory of results, or to a study."""

from __future__ import annotations

import time
from collections.abc import Mapping
from dataclasses import dataclass
from functools import partial
from pathlib import Path
from typing import Any

from gorvel.core.base.errors import InputError
from gorvel.core.base.progress import Phase, Progress, silent
from gorvel.core.cases.design import Design, sample_of
from gorvel.core.cases.rows import source_labels, split_rows
from gorvel.core.count.checks import CHECK_PARTS, CHECKS, Checks
from gorvel.core.count.groups import groups_of
from gorvel.core.count.indices.index_table import compute_indices
from gorvel.core.count.resampling.resampled_rules import resampled
from gorvel.core.derive.making import check_turned, completed
from gorvel.core.export.count import Counted
from gorvel.core.export.extra_analyses import (
    moving_cautions,
    reassigned_cuts,
    write_moving,
    write_other_trees,
    write_sweep,
)
from gorvel.core.export.files import results_directory, write_csv
from gorvel.core.export.profile import portraits
from gorvel.core.export.results import safe_name, write_results
from gorvel.core.export.tables import dropped_columns
from gorvel.core.grow.allocation import place_set_aside
from gorvel.core.grow.assigning import assign
from gorvel.core.grow.grown import Grown, analyse, timed, wanted_counts
from gorvel.core.kernels.loading import at_hand
from gorvel.core.plan.consistency import check_fit
from gorvel.core.plan.file import load_plan
from gorvel.core.plan.others import other_plans
from gorvel.core.plan.parts import CountPlan
from gorvel.core.plan.plan import Plan
from gorvel.core.profile.dropped_cases import DropoutComparison, lost_cases
from gorvel.core.results.profiles import assigned_columns
from gorvel.core.sources.reading import files_of, read_source
from gorvel.core.study.file import SUFFIX, StudyFile, save_study
from gorvel.core.study.kept import Drawn, KeptTree, grown_again, same_check
from gorvel.core.study.opening import holds_study, is_study, load_study
from gorvel.core.study.study import study_of
from gorvel.core.table.source import Source
from gorvel.core.table.table import Table
from gorvel.core.tree.cophenetic import Faithful, cophenetic_correlation


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
        source, reading = _read(plan, plan_file, data, progress)
        read = files_of(plan, _data_file(plan, plan_file, data), plan_file.parent)
        with results_directory(out, [plan_file, *read]) as directory:
            summaries = _write(
                source, plan, {}, directory, matrix, reading, plan_file.parent, progress
            )
            files = _files(directory)
    except InputError as error:
        raise error.in_file(plan_file.name) from None
    return Outcome(out, files, summaries)


def run_study(file: Path, out: Path, matrix: bool = False, progress: Progress = silent) -> Outcome:
    """Write the results of a study from its file alone.

    Those of the tree in hand, and in a directory `trees` of its own each of the others that can be
    grown.

    What the file keeps is not worked out again.

    Raises
    ------
    InputError, TooLargeError, Cancelled : the directory is left as it was.
    """
    begin = time.perf_counter()
    content = load_study(file)
    reading, study = time.perf_counter() - begin, content.study
    try:
        with results_directory(out, [file]) as directory:
            summaries: dict[str, dict[str, Any]] = {}
            for entry in (study.entry, *(e for e in study.trees if e.id != study.in_hand)):
                in_hand = entry.id == study.in_hand
                if not in_hand and entry.plan.open_choice:
                    continue
                check_fit(entry.plan)
                kept = {g: tree for (number, g), tree in content.kept.items() if number == entry.id}
                folder, before = directory, ""
                if not in_hand:
                    title = entry.title or f"tree {entry.id}"
                    before = f"trees/{safe_name(title, _names(directory))}"
                    folder = directory / before
                    folder.mkdir(parents=True)
                told = _write(
                    study.source_for(entry.plan), entry.plan, kept, folder, matrix, reading,
                    study.data_file.parent, progress,
                )  # fmt: skip
                for group, summary in told.items():
                    summaries["/".join(filter(None, (before, group)))] = summary
            files = _files(directory)
    except InputError as error:
        raise error.in_file(file.name) from None
    return Outcome(out, files, summaries)


def keep_study(
    plan_file: Path,
    out: Path,
    data: Path | None = None,
    force: bool = False,
    progress: Progress = silent,
) -> StudyFile:
    """Carry a plan out and keep data, plan, trees and what was found of them in one study file.

    data : read instead of the file the plan names; force : put it in the place of another file.

    Raises
    ------
    InputError, TooLargeError, Cancelled : the file is as it was.
    """
    if not is_study(out):
        raise InputError(f'the ending "{out.suffix}"', SUFFIX, place="--out", file=str(out))
    if out.exists() and not force and not holds_study(out):
        found, expected = "a file that is not a study", "another place, or --force"
        raise InputError(found, expected, place="--out", file=str(out))
    plan = load_plan(plan_file)
    try:
        source, _ = _read(plan, plan_file, data, progress)
        kept = {
            (1, group or None): _work(source, plan, group, rows, None, progress).kept(plan)
            for group, rows in _groups(source, plan).items()
        }
    except InputError as error:
        raise error.in_file(plan_file.name) from None
    data_file = _data_file(plan, plan_file, data)
    content = StudyFile(study_of(source, data_file, plan, plan_file.absolute()), kept)
    progress(Phase.WRITING, 0.0)
    save_study(content, out)
    return content


def _data_file(plan: Plan, plan_file: Path, data: Path | None) -> Path:
    return data or plan_file.parent / plan.source.file


def _read(
    plan: Plan, plan_file: Path, data: Path | None, progress: Progress
) -> tuple[Source, float]:
    """What was read, and how many seconds that took."""
    other_plans(plan)  # what is wrong with them is said before anything is worked out
    begin = time.perf_counter()
    source = read_source(plan, _data_file(plan, plan_file, data), progress, plan_file.parent)
    return source, time.perf_counter() - begin


@dataclass(frozen=True, eq=False)
class _Worked:
    """All that is worked out of one tree. counted : where the plan asks for it."""

    grown: Grown
    faithful: Faithful
    counted: Counted | None
    drawn: Drawn | None

    def kept(self, plan: Plan) -> KeptTree:
        """What a study keeps of it."""
        made = {} if self.counted is None else {"checks": self.counted.checks}
        asked = plan.counting
        checked = dict.fromkeys(asked.checks, asked)
        return KeptTree.of(
            plan, self.grown, faithful=self.faithful, drawn=self.drawn, checked=checked,
            **made,
        )  # fmt: skip


def _work(
    source: Source, plan: Plan, group: str, rows: list[int] | None, kept: KeptTree | None,
    progress: Progress,
) -> _Worked:  # fmt: skip
    """Grow the tree of one group and find out about it, as far as that is not known yet."""
    if kept is not None and kept.grows_as(plan):
        grown = grown_again(source, kept, plan, progress)
    else:
        kept, grown = None, _grow_group(source, plan, group, rows, progress)
    with timed(grown.seconds, "correlation"):
        faithful = kept.faithful if kept is not None else None
        if faithful is None:
            faithful = Faithful(cophenetic_correlation(grown.tree, grown.pairs, progress))
    if plan.count is None:
        return _Worked(grown, faithful, None, None)
    with timed(grown.seconds, "count"):
        counted, drawn = _counted(grown, source, plan, kept, progress)
    return _Worked(grown, faithful, counted, drawn)


def _write(
    source: Source, plan: Plan, kept: Mapping[str | None, KeptTree], directory: Path, matrix: bool,
    reading: float, beside: Path, progress: Progress,
) -> dict[str, dict[str, Any]]:  # fmt: skip
    """Write the results of a plan into a directory; returns the summaries by folder.

    beside : the directory in which the other file of `[assign]` is looked for.
    """
    summaries: dict[str, dict[str, Any]] = {}
    source = completed(source, plan)
    other = _other(source, plan, beside, progress)
    for group, rows in _groups(source, plan).items():
        worked = _work(source, plan, group, rows, kept.get(group or None), progress)
        worked.grown.seconds["read"] = reading
        numbers, labels = _read_rows(source, plan, rows)
        folder = directory / safe_name(group, [*summaries]) if group else directory
        placed = place_set_aside(source, plan, worked.grown)
        moved = reassigned_cuts(plan, worked.grown)
        summaries[folder.name if group else ""] = write_results(
            worked.grown, plan, labels, numbers, folder, worked.faithful.correlation, matrix,
            placed, worked.counted, portraits(source, plan, worked.grown), progress,
            more=moving_cautions(moved, plan, worked.grown),
        )  # fmt: skip
        lost = _lost(source, plan, worked.grown)
        if lost:
            write_csv(dropped_columns(lost), folder / "dropped.csv")
        write_moving(plan, worked.grown, moved, labels, numbers, folder, progress)
        if other is not None and isinstance(source, Table):
            counts = wanted_counts(plan, worked.grown.tree.n)
            found = assign(source, plan, worked.grown, other, counts, group, progress)
            write_csv(assigned_columns(found), folder / "assigned.csv")
        if plan.sweep is not None:
            write_sweep(source, plan, worked.grown, rows, folder, progress)
        if plan.trees:
            grow = partial(_grow_group, source, group=group, rows=rows, progress=progress)
            write_other_trees(
                source, plan, worked.grown, labels, numbers, grow, folder, progress
            )  # fmt: skip
    return summaries


def _lost(source: Source, plan: Plan, grown: Grown) -> list[DropoutComparison]:
    """Cases left out for missing answers beside those kept; none of a matrix."""
    return lost_cases(source, plan, grown.prepared) if isinstance(source, Table) else []


def _other(source: Source, plan: Plan, beside: Path, progress: Progress) -> Table | None:
    """The other file of `[assign]`. beside : the directory it is looked for in."""
    if plan.assign is None:
        return None
    other = completed(read_source(plan, beside / plan.assign.file, progress), plan, source)
    check_turned(other)
    return other if isinstance(other, Table) else None


def _files(directory: Path) -> tuple[str, ...]:
    found = (p for p in directory.rglob("*") if p.is_file())
    return tuple(sorted(str(p.relative_to(directory)) for p in found))


def _names(directory: Path) -> list[str]:
    """Names of trees that are taken."""
    beside = directory / "trees"
    return [path.name for path in sorted(beside.iterdir())] if beside.exists() else []


def _grow_group(
    source: Source, plan: Plan, group: str, rows: list[int] | None, progress: Progress
) -> Grown:
    """The tree of one group, as if it were alone; errors name the group."""
    if rows is None:
        return analyse(source, plan, None, progress)
    place = f'group "{group}" of [cases] split'
    if len(rows) < 2:
        raise InputError(f"{len(rows)} case", "at least 2", place=place, file=source.name)
    try:
        grown = analyse(source, plan, rows, progress, group)
    except InputError as error:
        error.place = f"{place}, {error.place}" if error.place else place
        raise
    if plan.tree.of == "cases" and grown.tree.n < 2:
        raise InputError(f"{grown.tree.n} case used", "at least 2", place=place, file=source.name)
    return grown


def _counted(
    grown: Grown, source: Source, plan: Plan, kept: KeptTree | None, progress: Progress
) -> tuple[Counted, Drawn]:
    """What the rules of the cluster count say, and the checks, that the plan asks for."""
    asked, design = plan.counting, sample_of(source, plan, grown.prepared)
    if kept is not None and kept.plan.design != plan.design:
        kept = kept.with_(drawn=None, checked={})
    with at_hand(grown.tree.n):
        board = compute_indices(grown, asked, None, progress)
        drawn = None if kept is None else kept.drawn
        if drawn is None or not drawn.answers(asked):
            drawn = Drawn(asked, tuple(resampled(grown, asked, None, progress, design=design)))
        board = board.with_verdicts([v for v in drawn.verdicts if v.key in asked.wanted])
        checks = _checks(grown, asked, design, kept, progress)
    return Counted(board, checks, groups_of(grown, source, plan)), drawn


def _checks(
    grown: Grown, asked: CountPlan, design: Design | None, kept: KeptTree | None,
    progress: Progress,
) -> Checks:  # fmt: skip
    """The checks that the plan asks for; those are not made again that are kept.

    Whether there are groups is told whenever that is kept, asked for or not.
    """
    found = Checks()
    held = () if kept is None or kept.checks.groups is None else ("groups",)
    for name in dict.fromkeys((*asked.checks, *held)):
        if kept is not None and same_check(name, kept.checked.get(name), asked):
            for part in CHECK_PARTS[name]:
                setattr(found, part, getattr(kept.checks, part))
        elif name in asked.checks:
            for part, value in CHECKS[name](grown, asked, progress, design).items():
                setattr(found, part, value)
    return found


def _groups(source: Source, plan: Plan) -> dict[str, list[int] | None]:
    if isinstance(source, Table) and plan.cases.split is not None:
        return {**split_rows(source, plan)}
    return {"": None}


def _read_rows(source: Source, plan: Plan, rows: list[int] | None) -> tuple[list[int], list[str]]:
    """Numbers and labels of all that was read, of a group if there is one."""
    labels = source_labels(source, plan)
    places = range(len(labels)) if rows is None or plan.tree.of == "variables" else rows
    return [place + 1 for place in places], [labels[place] for place in places]
