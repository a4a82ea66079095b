"""Files are written whole or not at all, whatever goes wrong, and nothing is left beside them."""

from __future__ import annotations

import ast
import os
import shutil
import stat
import subprocess
import tempfile
import zipfile
from collections.abc import Callable, Iterator
from pathlib import Path

import polars as pl
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from gorvel.core.base.errors import InputError
from gorvel.core.base.processes import host, own_mark
from gorvel.core.base.writing import replacing
from gorvel.core.codebook.codebook import codebook_of, save_codebook
from gorvel.core.export.groups import save_groups
from gorvel.core.export.membership import save_membership, write_frame
from gorvel.core.grow.grown import analyse
from gorvel.core.plan.file import load_plan, parse_plan, save_plan
from gorvel.core.run import keep_study, run_plan
from gorvel.core.study.file import StudyFile, save_study
from gorvel.core.study.groups import grow_groups
from gorvel.core.study.opening import load_study
from gorvel.core.study.study import study_of
from gorvel.core.table.sheets import read_sheet
from gorvel.core.tree.cuts import cut_at_count
from gorvel.main import DEMO
from limits import file_size
from plans import LEAST, table

SOURCE = Path(__file__).parents[2] / "src" / "gorvel"
PLAN = parse_plan(LEAST, "p.toml")
LIMIT = 100  # bytes, at which the disk is full


TABLE = table(2)
GROWN = analyse(TABLE, PLAN)
SPLIT = PLAN.with_parts({"cases": {"split": "word"}, "missing": {"handling": "mean"}})
GROUPS = list(grow_groups(TABLE, SPLIT).kept.values())


def _membership(path: Path) -> None:
    save_membership(TABLE, PLAN, GROWN, cut_at_count(GROWN.tree, 2), path)


WRITERS: dict[str, Callable[[Path], object]] = {
    "p.toml": lambda path: save_plan(load_plan(DEMO / "readers.toml"), path),
    "s.gorvel": lambda path: save_study(StudyFile(study_of(TABLE, path, PLAN)), path),
    "m.csv": _membership,
    "m.xlsx": _membership,
    "g.csv": lambda path: save_groups(TABLE, GROUPS, path),
    "b.json": lambda path: save_codebook(codebook_of(PLAN, TABLE), path),
    "b.xml": lambda path: save_codebook(codebook_of(PLAN, TABLE), path),
}


@pytest.mark.parametrize("name", WRITERS)
def test_a_full_disk_leaves_the_old_file_and_nothing_beside_it(tmp_path: Path, name: str) -> None:
    write, path = WRITERS[name], tmp_path / name
    with file_size(LIMIT), pytest.raises(InputError, match=name.replace(".", r"\.")):
        write(path)
    assert os.listdir(tmp_path) == []
    path.write_bytes(b"before")
    with file_size(LIMIT), pytest.raises(InputError):
        write(path)
    assert path.read_bytes() == b"before"
    assert os.listdir(tmp_path) == [name]
    write(path)
    assert path.stat().st_size > LIMIT
    assert os.listdir(tmp_path) == [name]


@pytest.mark.parametrize("name", WRITERS)
def test_a_link_stays_a_link_and_a_mode_is_kept(tmp_path: Path, name: str) -> None:
    real, link = tmp_path / "real" / name, tmp_path / name
    real.parent.mkdir()
    real.write_bytes(b"before")
    real.chmod(0o640)
    link.symlink_to(real)
    WRITERS[name](link)
    assert link.is_symlink()
    assert real.stat().st_size > LIMIT
    assert stat.S_IMODE(real.stat().st_mode) == 0o640
    assert sorted(os.listdir(tmp_path)) == sorted([name, "real"])
    assert os.listdir(real.parent) == [name]


@pytest.mark.parametrize("name", WRITERS)
def test_a_place_that_is_none_is_said(tmp_path: Path, name: str) -> None:
    with pytest.raises(InputError, match=r"cannot be written|No such file|directory"):
        WRITERS[name](tmp_path / "none" / name)
    (tmp_path / name).mkdir()
    with pytest.raises(InputError):
        WRITERS[name](tmp_path / name)
    assert os.listdir(tmp_path) == [name]


def test_results_and_studies_on_a_full_disk_leave_what_was_there(tmp_path: Path) -> None:
    plan, out = DEMO / "services.toml", tmp_path / "out"
    run_plan(plan, out)
    before = {path.name: path.read_bytes() for path in out.iterdir()}
    with file_size(LIMIT), pytest.raises((InputError, OSError)):
        run_plan(DEMO / "stops.toml", out)
    assert {path.name: path.read_bytes() for path in out.iterdir()} == before
    with file_size(LIMIT), pytest.raises(InputError, match=r"s\.gorvel"):
        keep_study(plan, tmp_path / "s.gorvel")
    assert os.listdir(tmp_path) == ["out"]
    keep_study(plan, tmp_path / "s.gorvel")
    assert load_study(tmp_path / "s.gorvel").study.source.n == 16


def test_what_breaks_off_in_the_middle_is_thrown_away(tmp_path: Path) -> None:
    path = tmp_path / "a.txt"
    path.write_text("before")

    def break_off() -> None:
        with replacing(path) as part:
            part.write_text("half")
            raise ZeroDivisionError

    with pytest.raises(InputError, match=r"a\.txt: cannot be written \(ZeroDivisionError\)"):
        break_off()
    assert path.read_text() == "before"
    assert os.listdir(tmp_path) == ["a.txt"]


def test_names_may_be_as_long_as_the_system_allows(tmp_path: Path) -> None:
    path = tmp_path / ("n" * 251 + ".csv")
    _membership(path)
    _membership(path)
    assert os.listdir(tmp_path) == [path.name]
    with pytest.raises(InputError, match="File name too long"):
        _membership(tmp_path / ("n" * 252 + ".csv"))


def _gone() -> int:
    """The number of a process that is no more."""
    child = subprocess.Popen(["true"])
    child.wait()
    return child.pid


def test_what_a_killed_process_left_is_done_away_with_and_nothing_else(tmp_path: Path) -> None:
    path, out = tmp_path / "m.csv", tmp_path / "out"
    dead, mine = f"{host()}-{_gone()}", f"{host()}-{os.getppid()}"
    for name in (path.name, out.name):
        for mark in (dead, mine, f"elsewhere-{_gone()}", "x"):
            (tmp_path / f".{name}.part-{mark}").mkdir()
            (tmp_path / f".{name}.part-{mark}" / "secret.csv").write_text("answers")
    (tmp_path / f".m.csv.part-{dead}.csv").write_text("answers")
    _membership(path)
    run_plan(DEMO / "services.toml", out)
    kept = [f".{n}.part-{m}" for n in ("m.csv", "out") for m in ("elsewhere", mine, "x")]
    found = sorted(name for name in os.listdir(tmp_path) if name.startswith("."))
    assert len(found) == 6
    assert all(any(name.startswith(start) for start in kept) for name in found)


def test_results_are_moved_in_all_or_none(tmp_path: Path) -> None:
    """Also where a directory stands in the way of the last file."""
    out = tmp_path / "out"
    run_plan(DEMO / "services.toml", out)
    before = {path.name: path.read_bytes() for path in out.iterdir()}
    (out / "tree.nwk").unlink()
    (out / "tree.nwk").mkdir()
    with pytest.raises(InputError, match=r"tree\.nwk: a directory; expected a file, or nothing"):
        run_plan(DEMO / "stops.toml", out)
    assert all(p.read_bytes() == before[p.name] for p in out.iterdir() if p.is_file())
    assert os.listdir(tmp_path) == ["out"]


def test_a_matrix_for_which_there_is_no_room_is_not_begun(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    usage = shutil.disk_usage(tmp_path)
    monkeypatch.setattr(shutil, "disk_usage", lambda _: usage._replace(free=1_000))
    with pytest.raises(InputError, match=r"room on the disk: 0\.0 GiB free; expected about"):
        run_plan(DEMO / "services.toml", tmp_path / "out")
    assert os.listdir(tmp_path) == []
    monkeypatch.setattr(shutil, "disk_usage", lambda _: usage._replace(free=10))
    for name in ("m.csv", "s.gorvel"):  # nor anything else that may be large
        target = tmp_path / name
        target.write_text("before")
        with pytest.raises(InputError, match=r"room on the disk: 0\.0 GiB free; expected about"):
            WRITERS[name](target)
        assert target.read_text() == "before"
    assert sorted(os.listdir(tmp_path)) == ["m.csv", "s.gorvel"]


def test_what_a_process_of_the_same_number_left_is_no_hindrance(tmp_path: Path) -> None:
    """In a container every program may have the same number."""
    left = tmp_path / f".out.part-{own_mark()}"
    left.mkdir()
    (left / "secret.csv").write_text("answers")
    run_plan(DEMO / "services.toml", tmp_path / "out")
    assert os.listdir(tmp_path) == ["out"]
    assert not (tmp_path / "out" / "secret.csv").exists()


TEXTS = st.lists(
    st.one_of(
        st.sampled_from(["mailto:a@b", "http://x.org", "internal:Sheet1!A1", "=1+1", "{=1}", "007",
                         "external:b.xlsx", "1e5", "ftp://x y", "@x", "-3"]),
        st.text("aZ\u00e9\u6f22 =+-@'\"&<>", min_size=1, max_size=9).filter(str.strip),
    ), min_size=1, max_size=8,
)  # fmt: skip


@settings(max_examples=25)
@given(TEXTS)
def test_texts_in_a_workbook_are_read_as_they_were_written(texts: list[str]) -> None:
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "t.xlsx"
        write_frame(pl.DataFrame({"=head": texts}), path)
        with zipfile.ZipFile(path) as book:
            sheet = book.read("xl/worksheets/sheet1.xml")
        assert b"hyperlink" not in sheet
        assert b"<f>" not in sheet
        found = read_sheet(path.read_bytes(), None).frame.to_series().to_list()
    assert found == ["=head", *texts]


def test_texts_like_formulas_stand_behind_an_apostrophe_where_asked(tmp_path: Path) -> None:
    path = tmp_path / "t.csv"
    frame = pl.DataFrame(
        {"=a": ["=1+1", "@x", "-3", "+4.5", "-x", "a=b", None, "\tq"], "b": [1] * 8}
    )
    write_frame(frame, path)
    assert path.read_text().splitlines()[1:4] == ["=1+1,1", "@x,1", "-3,1"]
    write_frame(frame, path, apostrophes=True)
    rows = [line.rsplit(",", 1)[0] for line in path.read_text().splitlines()]
    assert rows == ["'=a", "'=1+1", "'@x", "-3", "+4.5", "'-x", "a=b", "", "'\tq"]


def test_what_a_workbook_cannot_hold_is_refused_with_its_place(tmp_path: Path) -> None:
    path = tmp_path / "t.xlsx"
    long = pl.DataFrame({"a": [1, 2], "b": ["x", "y" * 32_768]})
    with pytest.raises(InputError, match='row 2, column "b": a text of 32,768 characters'):
        write_frame(long, path)
    with pytest.raises(InputError, match="17,000 columns"):
        write_frame(pl.DataFrame({str(k): [1] for k in range(17_000)}), path)
    assert os.listdir(tmp_path) == []
    write_frame(long, tmp_path / "t.csv")


# who may write otherwise than by `replacing`: results that are moved in as a whole directory, and
# what tells another process where compiling is
WHOLE = {"core/export/files.py", "core/export/results.py", "core/export/count.py"}
OTHERS = {"core/warm.py", "core/base/writing.py"}
WRITES = {"write_text", "write_bytes", "write_csv", "write_excel", "write_parquet", "replace"}


def _writing(tree: ast.Module) -> Iterator[tuple[int, bool]]:
    """Lines with a call that writes a file, and whether it stands inside `with replacing(…)`."""
    inside: set[int] = set()
    for node in ast.walk(tree):
        if isinstance(node, ast.With) and "replacing" in ast.dump(node.items[0]):
            inside |= {id(child) for child in ast.walk(node)}
    for node in ast.walk(tree):
        if not isinstance(node, ast.Call):
            continue
        name = node.func.attr if isinstance(node.func, ast.Attribute) else ""
        of = ast.unparse(node.func.value) if isinstance(node.func, ast.Attribute) else ""
        opened = name == "open" and any(
            isinstance(arg, ast.Constant) and str(arg.value)[:1] in ("w", "a", "x")
            for arg in node.args
        )
        if opened or (name in WRITES and (name != "replace" or of == "os")):
            yield node.lineno, id(node) in inside


@pytest.mark.parametrize(
    "place", sorted(str(p.relative_to(SOURCE)) for p in SOURCE.rglob("*.py")), ids=str
)
def test_every_file_is_written_in_the_one_way(place: str) -> None:
    tree = ast.parse((SOURCE / place).read_text(encoding="utf-8"))
    if place in WHOLE | OTHERS:
        return
    helpers = {"core/study/file.py", "core/export/workbooks.py", "desk/work/autosave.py"}
    loose = [line for line, inside in _writing(tree) if not inside]
    assert len(loose) <= (1 if place in helpers else 0), loose


def test_a_loose_write_is_seen() -> None:
    for text in ("p.write_text(x)", "os.replace(a, b)", "open_it = p.open('w')", "f.write_csv(p)"):
        assert list(_writing(ast.parse(text))) == [(1, False)]
    tidy = "with replacing(p) as part:\n    part.write_text('x')"
    assert list(_writing(ast.parse(tidy))) == [(2, True)]
    assert list(_writing(ast.parse("'a'.replace('a', 'b')\np.open('rb')"))) == []
