"""Reading what a plan names: one file or several, one sheet or several, a table or a matrix."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

from gorvel.core.base.errors import InputError
from gorvel.core.base.progress import Progress, silent
from gorvel.core.base.reading import guarded
from gorvel.core.plan.parts import SourcePlan
from gorvel.core.plan.plan import Plan
from gorvel.core.sources.stacking import joined, stacked
from gorvel.core.table.file_kind import Asked
from gorvel.core.table.matrix import read_matrix
from gorvel.core.table.reading import names_in, read_as
from gorvel.core.table.source import Source
from gorvel.core.table.table import Reading, Table


def asked_of(told: SourcePlan, folder: Path) -> Asked:
    """How a plan wants its file read. folder : of its other files."""
    reading = Reading(told.delimiter, told.decimal, told.encoding, told.header, told.skip)
    return Asked(reading, told.sheet, told.table, told.query, told.codebook, folder)


def files_of(plan: Plan, path: Path, beside: Path | None = None) -> list[Path]:
    """All files that are read for a plan. path, beside : see `read_source`."""
    told, folder = plan.source, path.parent if beside is None else beside
    others = [*told.also, *(join.file for join in told.join)]
    if told.codebook is not None:
        others.append(told.codebook)
    if plan.assign is not None:
        others.append(plan.assign.file)
    return [path, *(folder / name for name in others)]


def read_source(
    plan: Plan, path: Path, progress: Progress = silent, beside: Path | None = None
) -> Source:
    """Read the file a plan names, with all that is stacked below it or joined to it.

    path : of the first file; beside : the directory in which the others are, that of the first
    by default; progress : told the phase "reading"; may raise to stop.

    Raises
    ------
    InputError : a file cannot be read, is not what the plan says, or they do not go together.
    """
    told = plan.source
    folder = path.parent if beside is None else beside
    with guarded(path.name, "a table"):
        if told.kind == "proximities":
            return read_matrix(path, asked_of(told, folder).reading, told.similarity, told.sheet)
        try:
            table = _whole(told, path, folder, progress)
            for join in told.join:
                other = _one(told, folder / join.file, folder, None, progress, plain=True)
                table = joined(table, other, join.by, join.file)
        except InputError as error:
            raise error.in_file(path.name) from None
        return table


def _whole(told: SourcePlan, path: Path, folder: Path, progress: Progress) -> Table:
    """The table with its sheets or files below each other."""
    if told.sheets:
        names = names_in(path) if told.sheets == "all" else told.sheets
        sheets = [(name, _one(told, path, folder, name, progress)) for name in names]
        return stacked(sheets, "sheet")
    table = _one(told, path, folder, told.sheet, progress)
    if not told.also:
        return table
    files = [(name, _one(told, folder / name, folder, told.sheet, progress)) for name in told.also]
    return stacked([(told.file, table), *files], "file")


def _one(
    told: SourcePlan, path: Path, folder: Path, sheet: str | None, progress: Progress,
    plain: bool = False,
) -> Table:  # fmt: skip
    """One file. plain : nothing of the plan's reading applies to it."""
    return read_as(
        path, Asked() if plain else replace(asked_of(told, folder), sheet=sheet), progress
    )
