"""Nothing is replaced that nobody meant to replace, by whatever way it is saved."""

from __future__ import annotations

import ast
import os
from collections.abc import Callable, Iterator
from pathlib import Path

import platformdirs
import pytest
from PySide6.QtWidgets import QMessageBox, QWidget
from pytestqt.qtbot import QtBot

from driving import choose_file, press
from gorvel.core.plan.file import load_plan
from gorvel.core.run import keep_study
from gorvel.core.study.opening import load_study
from gorvel.desk.controls.file_dialog import FileDialog, ask_where
from gorvel.desk.state.settings import load_settings, settings_file
from gorvel.desk.window.window import Window
from gorvel.main import DEMO

DESK = Path(__file__).parents[2] / "src" / "gorvel" / "desk"
TABLES = "Table (*.csv);;Excel workbook (*.xlsx)"
STUDIES = "Study (*.gorvel)"
Opener = Callable[[Path], Window]
Answering = Callable[..., list[str]]


@pytest.fixture
def answering(monkeypatch: pytest.MonkeyPatch) -> Answering:
    """Answers the questions to come, in turn, and gives the list of what was asked."""

    def begin(*answers: str) -> list[str]:
        asked, to_give = [], list(answers)

        def answer(box: QMessageBox) -> int:
            asked.append(box.text())
            wanted = to_give.pop(0)
            next(b for b in box.buttons() if b.text() == wanted).click()
            return 0

        monkeypatch.setattr(QMessageBox, "exec", answer)
        return asked

    return begin


def typed(monkeypatch: pytest.MonkeyPatch, *names: Path, kind: int = 0) -> None:
    """The names that are typed one after the other where it is asked for one."""
    left = list(names)

    def ask(dialog: FileDialog) -> bool:
        return choose_file(dialog, *([left.pop(0)] if left else []), kind=kind)

    monkeypatch.setattr(FileDialog, "exec", ask)


@pytest.mark.parametrize(
    ("kinds", "kind", "name", "called"),
    [
        (STUDIES, 0, "s", "s.gorvel"),
        (STUDIES, 0, "s.backup", "s.backup.gorvel"),
        (STUDIES, 0, "S.GORVEL", "S.GORVEL"),
        ("Plan (*.toml)", 0, "wave.2", "wave.2.toml"),
        (TABLES, 0, "t", "t.csv"),
        (TABLES, 1, "t", "t.xlsx"),
        (TABLES, 0, "t.xlsx", "t.xlsx"),
        (TABLES, 1, "wave 2.1", "wave 2.1.xlsx"),
        (TABLES, 0, "t.txt", "t.txt"),  # who writes it says what becomes of it
        ("Code books (*.json *.xml)", 0, "b", "b.json"),
        ("Code books (*.json *.xml)", 0, "b.xml", "b.xml"),
    ],
)
def test_a_name_gets_the_ending_of_its_kind(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch, qtbot: QtBot, kinds: str, kind: int,
    name: str, called: str,
) -> None:  # fmt: skip
    parent = QWidget()
    qtbot.addWidget(parent)
    typed(monkeypatch, tmp_path / name, kind=kind)
    found = ask_where(parent, "Save", tmp_path / "x", kinds)
    assert found == (tmp_path / called, kinds.split(";;")[kind])
    assert ask_where(parent, "Save", tmp_path / "x", kinds) is None
    assert platformdirs.user_config_path("gorvel") not in settings_file().parents
    assert load_settings().places[0] == str(tmp_path)


@pytest.mark.parametrize(
    ("answers", "taken"),
    [
        (["Replace"], "t.csv"),
        (["Cancel"], None),
        (["Use another name …"], "u.csv"),
        (["Use another name …", "Replace"], "v.csv"),
    ],
)
def test_a_file_that_has_the_whole_name_already_is_asked_about(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch, qtbot: QtBot, answering: Answering,
    answers: list[str], taken: str | None,
) -> None:  # fmt: skip
    parent = QWidget()
    qtbot.addWidget(parent)
    for name in ("t.csv", "v.csv"):
        (tmp_path / name).write_text("of somebody else")
    asked = answering(*answers)
    typed(monkeypatch, tmp_path / "t", tmp_path / ("v" if len(answers) > 1 else "u"))
    found = ask_where(parent, "Save", tmp_path / "x", TABLES)
    assert (None if found is None else found[0].name) == taken
    assert asked == [f"{name} already exists." for name in ("t.csv", "v.csv")[: len(answers)]]


def test_what_is_there_stays_whatever_is_saved(
    grown: Window, tmp_path: Path, monkeypatch: pytest.MonkeyPatch, answering: Answering
) -> None:
    dialogs = grown.dialogs
    ways = {
        "a.gorvel": dialogs.save_study_as, "a.toml": dialogs.save_plan,
        "a.csv": dialogs.save_memberships, "a.json": dialogs.save_codebook,
    }  # fmt: skip
    asked = answering(*["Cancel"] * len(ways))
    for name, save in ways.items():
        (tmp_path / name).write_text("of somebody else")
        typed(monkeypatch, tmp_path / "a")
        save()
        assert grown.acts.files.written()
        assert (tmp_path / name).read_text() == "of somebody else"
    assert asked == [f"{name} already exists." for name in ways]
    typed(monkeypatch, tmp_path / "wave.2")
    assert dialogs.save_plan()
    assert grown.acts.files.written()
    assert load_plan(tmp_path / "wave.2.toml").source.file == str(DEMO / "readers.csv")


_ASKING = ("getSaveFileName", "getOpenFileName", "getOpenFileNames", "setAcceptMode")


def _asking(tree: ast.AST) -> Iterator[str]:
    """Where it is asked for the name of a file."""
    for node in ast.walk(tree):
        if isinstance(node, ast.Attribute) and node.attr in _ASKING:
            yield node.attr


@pytest.mark.slow
def test_names_are_asked_for_in_one_place() -> None:
    found = {path.name for path in DESK.rglob("*.py") if [*_asking(ast.parse(path.read_text()))]}
    assert found == {"file_dialog.py"}
    assert [*_asking(ast.parse("def f():\n    QFileDialog.getSaveFileName(self, 'x')"))]


@pytest.mark.parametrize("link", [None, os.link, os.symlink])
def test_data_are_never_written_over(
    opened: Opener, qtbot: QtBot, tmp_path: Path, link: Callable[[Path, Path], None] | None
) -> None:
    """Nor by another name."""
    data = tmp_path / "t.csv"
    data.write_text("id,a,b\nA,1,2\nB,2,1\nC,9,9\nD,8,9\n")
    window, before = opened(data), data.read_bytes()
    window.acts.grow()
    qtbot.waitUntil(lambda: window.focus.cut is not None)
    target = data
    if link is not None:
        target = tmp_path / "other.csv"
        link(data, target)
    assert not window.acts.files.save_memberships(target)
    assert window.acts.files.written() is False
    told = window.alarm_words.text()
    assert told == (
        f"{target.name} holds what the study is made from: choose another name;"
        " the memberships were not saved"
    )
    assert data.read_bytes() == target.read_bytes() == before
    assert window.acts.files.save_memberships(tmp_path / "m.csv")
    assert window.acts.files.written()
    assert (tmp_path / "m.csv").exists()


def test_a_study_that_something_else_changed_is_asked_about(
    opened: Opener, qtbot: QtBot, tmp_path: Path, monkeypatch: pytest.MonkeyPatch,
    answering: Answering,
) -> None:  # fmt: skip
    file = tmp_path / "s.gorvel"
    keep_study(DEMO / "services.toml", file)
    window = opened(file)
    asked = answering("Cancel", "Save under another name …", "Replace")

    def change(clusters: int) -> None:
        window.focus.set_count(clusters)
        press(window, qtbot, "Ctrl+S")
        assert window.acts.files.written()

    change(3)  # what was read, is there
    change(4)  # and what was written by this window
    os.utime(file, (1, 1))  # as on disks that keep times by the second
    change(5)
    assert asked == []
    keep_study(DEMO / "stops.toml", file)
    theirs = file.read_bytes()
    change(3)
    assert file.read_bytes() == theirs
    assert window.focus.shelf.study_unsaved
    typed(monkeypatch, tmp_path / "mine.gorvel")
    press(window, qtbot, "Ctrl+S")
    assert window.acts.files.written()
    assert file.read_bytes() == theirs
    assert window.focus.shelf.file == tmp_path / "mine.gorvel"
    assert load_study(tmp_path / "mine.gorvel").study.source.n == 16
    change(6)  # it is known as it was written
    (tmp_path / "mine.gorvel").write_bytes(theirs)
    change(7)
    assert load_study(tmp_path / "mine.gorvel").study.source.n == 16
    assert asked == [
        "Another program has changed s.gorvel since you opened it.",
        "Another program has changed s.gorvel since you opened it.",
        "Another program has changed mine.gorvel since you opened it.",
    ]
    (tmp_path / "mine.gorvel").unlink()
    change(8)  # nothing is there that could be lost
    assert (tmp_path / "mine.gorvel").exists()
    assert len(asked) == 3
