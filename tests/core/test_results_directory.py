"""Results stand beside their target until they are whole, and nothing is left of them else."""

from __future__ import annotations

import os
import stat
from collections.abc import Callable
from pathlib import Path
from typing import get_args

import pytest
from pydantic import BaseModel

from gorvel.core.base.errors import InputError
from gorvel.core.export.files import results_directory
from gorvel.core.plan.file import parse_plan
from gorvel.core.plan.plan import Plan
from gorvel.core.run import run_plan
from gorvel.core.sources.reading import files_of


class Ended(BaseException):
    """What a signal makes of a run."""


@pytest.mark.parametrize("deep", [False, True])
def test_a_signal_while_the_directory_is_made_leaves_nothing(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch, deep: bool
) -> None:
    """The signal is told as soon as the system has made the directory, before anybody knows it."""
    made = Path.mkdir

    def mkdir(self: Path, *args: object, **kinds: object) -> None:
        made(self, *args, **kinds)  # type: ignore[arg-type]
        if ".part-" in self.name:
            raise Ended

    monkeypatch.setattr(Path, "mkdir", mkdir)
    target = tmp_path / "a" / "b" / "out" if deep else tmp_path / "out"
    with pytest.raises(Ended), results_directory(target):
        raise AssertionError
    assert list(tmp_path.iterdir()) == []


def test_what_is_there_stays_where_the_work_fails(tmp_path: Path) -> None:
    target = tmp_path / "out"
    with results_directory(target) as beside:
        (beside / "a.txt").write_text("old")

    def fails(beside: Path) -> None:
        (beside / "a.txt").write_text("new")
        raise ValueError("no")

    with pytest.raises(ValueError, match="no"), results_directory(target) as beside:
        fails(beside)
    assert (target / "a.txt").read_text() == "old"
    assert [path.name for path in tmp_path.iterdir()] == ["out"]


@pytest.mark.parametrize(("mask", "modes"), [(0o022, (0o755, 0o644)), (0o077, (0o700, 0o600))])
def test_who_may_read_files_may_read_results_and_nobody_else(
    tmp_path: Path, mask: int, modes: tuple[int, int]
) -> None:
    before = os.umask(mask)
    try:
        with results_directory(tmp_path / "out") as beside:
            assert stat.S_IMODE(beside.stat().st_mode) == 0o700  # as long as they are made
            (beside / "a.txt").write_text("answers")
    finally:
        os.umask(before)
    found = [stat.S_IMODE((tmp_path / name).stat().st_mode) for name in ("out", "out/a.txt")]
    assert tuple(found) == modes


MATRIX = "id,a,b,c\na,0,1,5\nb,1,0,4\nc,5,4,0\n"
OF_A_MATRIX = """
gorvel = 1
source = {file = "proximity.csv", kind = "proximities"}
tree = {linkage = "average"}
"""


@pytest.mark.parametrize("link", [None, os.link, os.symlink])
def test_a_run_never_writes_over_what_it_reads(
    tmp_path: Path, link: Callable[[Path, Path], None] | None
) -> None:
    (tmp_path / "proximity.csv").write_text(MATRIX)
    (tmp_path / "plan.toml").write_text(OF_A_MATRIX)
    out = tmp_path
    if link is not None:
        out = tmp_path / "out"
        out.mkdir()
        link(tmp_path / "proximity.csv", out / "proximity.csv")
    before = sorted(os.listdir(out))
    with pytest.raises(InputError, match=r"proximity\.csv: a file that this is made from"):
        run_plan(tmp_path / "plan.toml", out)
    assert (out / "proximity.csv").read_text() == MATRIX
    assert sorted(os.listdir(out)) == before
    assert run_plan(tmp_path / "plan.toml", tmp_path / "elsewhere").files


def test_all_files_of_a_plan_are_known() -> None:
    """Each key of a plan that names a file to be read is among them."""
    plan = parse_plan(
        'gorvel = 1\nsource = {file = "a.dat", codebook = "a.xml", also = ["b.dat"],'
        ' join = [{file = "c.csv", by = "id"}]}\n[variables]\nuse = ["x"]\n'
        '[assign]\nfile = "d.csv"\n',
        "p.toml",
        unfinished=True,
    )
    names = [path.name for path in files_of(plan, Path("/data/a.dat"), Path("/plans"))]
    assert sorted(names) == ["a.dat", "a.xml", "b.dat", "c.csv", "d.csv"]
    told = [key for part in Plan.model_fields.values() for key in _files_in(part.annotation)]
    assert sorted(told) == ["codebook", "file", "file", "file"]  # and `also`, of names


def _files_in(part: object) -> list[str]:
    """Keys of a part, and of the parts of it, that are called after files."""
    found: list[str] = []
    for kind in (part, *get_args(part)):
        if isinstance(kind, type) and issubclass(kind, BaseModel):
            found += [key for key in kind.model_fields if key in ("file", "codebook")]
            found += [
                key for one in kind.model_fields.values() for key in _files_in(one.annotation)
            ]
        elif kind is not part:
            found += _files_in(kind)
    return found


def test_results_over_older_ones_keep_mode_and_link(tmp_path: Path) -> None:
    target, elsewhere = tmp_path / "out", tmp_path / "elsewhere"
    (target / "trees").mkdir(parents=True)
    elsewhere.mkdir()
    for name, mode in (("a.csv", 0o600), ("trees/b.csv", 0o640)):
        (target / name).write_text("old")
        (target / name).chmod(mode)
    (elsewhere / "c.csv").write_text("old")
    (elsewhere / "c.csv").chmod(0o604)
    (target / "c.csv").symlink_to(elsewhere / "c.csv")
    (target / "d.csv").symlink_to(elsewhere / "not there yet")
    with results_directory(target) as beside:
        (beside / "trees").mkdir()
        for name in ("a.csv", "trees/b.csv", "c.csv", "d.csv"):
            (beside / name).write_text(f"new {name}")
    for name, mode in (("a.csv", 0o600), ("trees/b.csv", 0o640), ("c.csv", 0o604)):
        assert (target / name).read_text() == f"new {name}"
        assert stat.S_IMODE((target / name).stat().st_mode) == mode
    assert (target / "c.csv").is_symlink()
    assert (elsewhere / "c.csv").read_text() == "new c.csv"
    assert (target / "d.csv").is_symlink()
    assert (elsewhere / "not there yet").read_text() == "new d.csv"
    assert sorted(path.name for path in elsewhere.iterdir()) == ["c.csv", "not there yet"]
