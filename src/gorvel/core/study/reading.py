"""What a file that is opened holds: a study, a plan with its data, a table, or a matrix."""

from __future__ import annotations

from contextlib import suppress
from dataclasses import dataclass, replace
from pathlib import Path

from gorvel.core.base.errors import GorvelError, InputError
from gorvel.core.base.progress import Progress
from gorvel.core.base.writing import FileState
from gorvel.core.column_detection.first_plan import (
    looks_like_matrix,
    propose_matrix_plan,
    propose_plan,
)
from gorvel.core.grow.grown import Grown
from gorvel.core.plan.file import load_plan
from gorvel.core.plan.parts import SourcePlan
from gorvel.core.plan.plan import Plan
from gorvel.core.scene.arrangement import Arrangement, laid_out
from gorvel.core.sources.reading import asked_of, read_source
from gorvel.core.study.file import StudyFile
from gorvel.core.study.kept import KeptTree, grown_again
from gorvel.core.study.opening import is_study, load_study
from gorvel.core.study.study import Study, study_of, with_others
from gorvel.core.table.matrix import read_matrix
from gorvel.core.table.reading import begun
from gorvel.core.table.source import Source
from gorvel.core.table.table import Table


@dataclass(frozen=True, eq=False)
class Shown:
    """A tree that was grown before, ready to be shown. number : of its entry."""

    grown: Grown
    arrangement: Arrangement
    number: int
    kept: KeptTree


@dataclass(frozen=True, eq=False)
class Opened:
    """What is to be looked at.

    file : of the study, if it is one; shown : its tree in hand; state : of that file when it was
    read.
    """

    content: StudyFile
    file: Path | None = None
    shown: Shown | None = None
    state: FileState | None = None


def opened(kept_in: Path, file: Path | None, progress: Progress) -> Opened:
    """A study with its tree in hand, where that was grown; a tree that does not go is let go.

    kept_in : where it is read from; file : its own, None where it has none.
    """
    state = _state(kept_in, file)  # before it is read: it may be changed meanwhile
    content = load_study(kept_in)
    study, kept = content.study, content.kept.get((content.study.in_hand, content.group))
    if kept is None:
        return Opened(content, file, None, state)
    try:
        shown = shown_again(study.read, study.in_hand, kept, progress)
    except GorvelError:
        others = {key: tree for key, tree in content.kept.items() if tree is not kept}
        return Opened(replace(content, kept=others), file, None, state)
    return Opened(content, file, shown, state)


def _state(kept_in: Path, file: Path | None) -> FileState | None:
    """That of the study's own file.

    None where it is younger than what was left of it: then something else changed it.
    """
    if file is None:
        return None
    with suppress(OSError):
        if file.stat().st_mtime_ns > kept_in.stat().st_mtime_ns:
            return None
    return FileState.of(file)


def shown_again(source: Source, number: int, kept: KeptTree, progress: Progress) -> Shown:
    """A kept tree, ready to be shown.

    Raises
    ------
    InputError : it does not go with what was read.
    """
    grown = grown_again(source, kept, None, progress)
    tree, looked = kept.tree, kept.looked
    folded = [node for node in looked.folded if tree.n <= node < 2 * tree.n - 1]
    flipped = grown.flipped if looked.flipped is None else looked.flipped
    return Shown(grown, laid_out(tree, flipped, folded), number, kept)


def read_file(path: Path, source: SourcePlan | None, progress: Progress) -> Opened:
    """Read what a file holds.

    source : how data are to be read; None to find out.

    Raises
    ------
    InputError : it cannot be read, or holds none of these.
    """
    if is_study(path):
        return opened(path, path, progress)
    return Opened(StudyFile(_begun(path, source, progress)))


def first_source(path: Path) -> SourcePlan:
    """How a file that nobody has described is read.

    Below its header, the first table of a database, a fixed-width file by the codebook beside it.

    Raises
    ------
    InputError : a database that cannot be read, or has no tables; no codebook beside.
    """
    return SourcePlan(file=path.name, **begun(path))


def _begun(path: Path, source: SourcePlan | None, progress: Progress) -> Study:
    """A study that begins with a plan and its data, a matrix, or a table."""
    if path.suffix.lower() == ".toml":
        plan = load_plan(path)
        if source is not None:
            plan = plan.model_copy(update={"source": source})
        data = path.parent / plan.source.file
        return with_others(study_of(read_source(plan, data, progress), data, plan, path))
    if not path.exists():
        raise InputError("file not found", "a table, a plan or a study", file=str(path))
    matrix = looks_like_matrix(path)
    if source is not None:
        matrix = source.kind == "proximities"
    if matrix:
        told = source or SourcePlan(file=path.name, kind="proximities")
        asked = asked_of(told, path.parent)
        read = read_matrix(path, asked.reading, None, told.sheet)
        return study_of(read, path, propose_matrix_plan(read, told))
    first = Plan(source=source or first_source(path))
    table = read_source(first, path, progress)
    assert isinstance(table, Table)
    return study_of(table, path, propose_plan(table, first.source))
