"""A kind of file is one entry: added, it is known wherever files are."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import polars as pl
import pytest
from PySide6.QtCore import QFileInfo, Qt
from PySide6.QtWidgets import QApplication
from pytestqt.qtbot import QtBot

from gorvel.core.base.errors import InputError
from gorvel.core.base.progress import Progress
from gorvel.core.plan.file import parse_plan
from gorvel.core.run import run_plan
from gorvel.core.table.file_kind import Asked, Content, FileKind
from gorvel.core.table.file_kinds import FILE_KINDS, kind_named
from gorvel.core.table.reading import begun, preview_table, read_table
from gorvel.core.table.table import Reading
from gorvel.desk.controls.file_icons import FileIcons
from gorvel.desk.editors.reading_editor import ReadingEditor
from gorvel.desk.window.window import Window

PEOPLE = (("Ada", 1, 2), ("Ben", 4, 0), ("Bob", 5, 4), ("Cai", 9, 9))
BLOCKS = "\n\n".join(f"name: {name}\nx: {x}\ny: {y}" for name, x, y in PEOPLE)


def read_blocks(path: Path, asked: Asked, progress: Progress) -> Content:
    """Cases as blocks of lines, each with a name and an answer."""
    blocks = path.read_text(encoding="utf-8").strip().split("\n\n")
    if "" in blocks:
        raise InputError("no blocks", "a case")
    rows = [dict(line.split(": ") for line in block.split("\n")) for block in blocks]
    if asked.table is not None:
        rows = [row for row in rows if row["name"].startswith(asked.table)]
    return Content(pl.DataFrame(rows), Reading("", ".", ""))


def initials(path: Path) -> list[str]:
    names = read_blocks(path, Asked(), lambda *_: None).frame["name"].to_list()
    return sorted({name[0] for name in names})


@pytest.fixture(autouse=True)
def added(monkeypatch: pytest.MonkeyPatch) -> None:
    """In the registry, and nowhere else."""
    kind = FileKind("blocks", (".blk",), frozenset({"table", "query"}), read_blocks, names=initials)
    monkeypatch.setitem(FILE_KINDS, "blocks", kind)


@pytest.fixture
def path(tmp_path: Path) -> Path:
    out = tmp_path / "people.blk"
    out.write_text(BLOCKS, encoding="utf-8")
    return out


PLAN = """gorvel = 1
[source]
file = "people.blk"
KEY
[variables]
use = ["x", "y"]
[cases]
label = "name"
"""


def test_a_plan_reads_it(path: Path, tmp_path: Path) -> None:
    (tmp_path / "plan.toml").write_text(PLAN.replace("KEY", ""), encoding="utf-8")
    run_plan(tmp_path / "plan.toml", tmp_path / "out")
    told = pl.read_csv(tmp_path / "out" / "membership.csv")
    assert told["label"].to_list() == ["Ada", "Ben", "Bob", "Cai"]


@pytest.mark.parametrize(
    ("key", "misfit"),
    [('table = "A"', None), ("skip = 2", "skip"), ('sheet = "A"', "sheet"),
     ('codebook = "b.xml"', "codebook")],
)  # fmt: skip
def test_a_plan_is_told_which_keys_do_not_fit(key: str, misfit: str | None) -> None:
    text = PLAN.replace("KEY", key)
    if misfit is None:
        assert parse_plan(text, "plan.toml").source.table == "A"
        return
    with pytest.raises(InputError, match=misfit):
        parse_plan(text, "plan.toml")


def test_it_is_begun_with_and_looked_at(path: Path) -> None:
    assert begun(path) == {}
    assert preview_table(path, rows=2).n == 2
    assert read_table(path).frame["x"].to_list() == ["1", "4", "5", "9"]
    packed = path.with_suffix(".blk.gz")
    assert kind_named(packed.name) is None
    with pytest.raises(InputError, match=r"\.blk"):
        read_table(packed)


def test_the_window_offers_and_opens_it(opened: Callable[[Path], Window], path: Path) -> None:
    window = opened(path)
    assert window.focus.shelf.study is not None
    assert window.focus.shelf.study.source.names == ["name", "x", "y"]
    icons = FileIcons()
    like = QFileInfo(str(path.with_suffix(".csv")))
    own = icons.icon(QFileInfo(str(path))).pixmap(32).toImage()
    assert own == icons.icon(like).pixmap(32).toImage()


def test_its_options_can_be_chosen_in_the_window(
    opened: Callable[[Path], Window], path: Path, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    filters: list[str] = []

    def ask(parent: object, title: str, folder: object, kinds: str) -> Path:
        filters.append(kinds)
        return path

    monkeypatch.setattr("gorvel.desk.window.dialogs.ask_for_file", ask)
    window = opened(path)
    window.dialogs.preview()
    assert "blocks" in filters[0]
    assert "*.blk" in filters[0]
    editor = QApplication.activeModalWidget()
    assert isinstance(editor, ReadingEditor)
    qtbot.waitUntil(lambda: editor.shown is not None)
    assert set(editor.fields) == {"kind", "table"}
    tables = editor.fields["table"]
    qtbot.waitUntil(lambda: tables.count() == 4)
    assert [tables.itemData(k) for k in range(3)] == ["A", "B", "C"]
    tables.setCurrentIndex(tables.findData("B"))
    qtbot.waitUntil(lambda: editor.take.isEnabled() and editor.shown.n == 2)
    qtbot.mouseClick(editor.take, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: window.focus.shelf.study.source.names == ["name", "x", "y"])
    qtbot.waitUntil(lambda: window.focus.shelf.study.source.n == 2)
    assert window.focus.shelf.study.source.frame["name"].to_list() == ["Ben", "Bob"]
    assert window.focus.shelf.plan.source.table == "B"
