"""What a file that is opened holds: a plan with its data, a table, or a matrix of proximities."""

from __future__ import annotations

from pathlib import Path

from gorvel.core.analysis import read_source
from gorvel.core.errors import InputError
from gorvel.core.matrix import read_matrix
from gorvel.core.plan.file import load_plan
from gorvel.core.plan.parts import SourcePlan
from gorvel.core.plan.plan import Plan
from gorvel.core.progress import Progress
from gorvel.core.propose import looks_like_matrix, propose_matrix_plan, propose_plan
from gorvel.core.table.table import Reading, Table
from gorvel.desk.state import Study

__all__ = ["read_study"]


def read_study(path: Path, source: SourcePlan | None, progress: Progress) -> tuple[Study, Plan]:
    """Read what a file holds: a plan with its data, a matrix, or a table.

    source : how the data are to be read; None to find out.
    """
    if path.suffix.lower() == ".toml":
        plan = load_plan(path)
        if source is not None:
            plan = plan.model_copy(update={"source": source})
        data = path.parent / plan.source.file
        return Study(data, read_source(plan, data, progress), path), plan
    if not path.exists():
        raise InputError("no such file", "a table or a plan", file=str(path))
    matrix = looks_like_matrix(path) if source is None else source.kind == "proximities"
    if matrix:
        told = source or SourcePlan(file=path.name, kind="proximities")
        asked = Reading(told.delimiter, told.decimal, told.encoding, told.header)
        found = read_matrix(path, asked, None, told.sheet)
        return Study(path, found), propose_matrix_plan(found, told)
    first = Plan(source=source or SourcePlan(file=path.name))
    table = read_source(first, path, progress)
    assert isinstance(table, Table)
    return Study(path, table), propose_plan(table, first.source)
