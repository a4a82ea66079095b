"""However the program ends, what was not saved is there at the next start."""

from __future__ import annotations

import os
import signal
import subprocess
import sys
import time
import zipfile
from collections.abc import Callable
from pathlib import Path

import pytest
from pytestqt.qtbot import QtBot

from driving import choose_file
from gorvel.core.base.errors import InputError
from gorvel.core.base.processes import host, own_sign
from gorvel.core.plan.file import save_plan
from gorvel.core.plan.plan import Plan
from gorvel.core.run import keep_study
from gorvel.core.study.file import MARKER, save_study
from gorvel.core.study.opening import load_study
from gorvel.desk.controls.file_dialog import FileDialog
from gorvel.desk.window.window import Window
from gorvel.desk.work.autosave import left_behind, left_beside, opened_by
from gorvel.main import DEMO
from plans import quick_demo

Opener = Callable[[Path], Window]
# Opens a window as the program does, does something, and tells what is there at the end.
DRIVER = """
import os, signal, sys
from threading import Event
from pathlib import Path
from PySide6.QtCore import QTimer
from gorvel.desk.window import application
from gorvel.desk.window.window import Window
from gorvel.desk.work.jobs import JobKind
path, demo, what = sys.argv[1], Path(sys.argv[2]), sys.argv[3]
held = []

class Seen(Window):
    def __init__(self, *args):
        super().__init__(*args)
        held.append(self)
        self.timer = QTimer(interval=50)
        self.timer.timeout.connect(self.step)
        self.timer.start()
        self.state = "open"

    def step(self):
        focus = self.focus
        if self.state == "open" and focus.prepared is not None:
            self.state = "grow"
            if what == "look":
                return
            focus.shelf.change("tree", linkage="average")
            self.acts.grow()
        elif self.state == "grow" and focus.grown is not None and not focus.out_of_date:
            self.state = "over"
            if what == "look":
                kept = [entry.title for entry in focus.shelf.study.kept]
                told = focus.shelf.plan.tree.linkage, focus.cut.clusters, kept, self.notice.said[0]
                where = focus.shelf.study_unsaved, focus.shelf.study.plan_file, self.windowTitle()
                print(*told, *where, sep="|", flush=True)
                self.dialogs.may_leave = lambda: True
                self.dialogs.declined = True
                self.close()
                return
            focus.set_count(7)
            focus.shelf.keep()
            focus.shelf.call(focus.shelf.study.in_hand, "the one")
            if what == "kill":
                self.state = "kept"
            else:
                if what == "SIGHUP":  # while something is at work that hears of nothing
                    for kind in (JobKind.MAP, JobKind.RULES, JobKind.GAPS):
                        self.acts.jobs.start(kind, lambda p: Event().wait(), print, print)
                os.kill(os.getpid(), getattr(signal, what))

        elif self.state == "kept":  # as soon as what changed has been written
            if not self.keeper._settle.isActive() and not self.acts.jobs.writing:
                os.kill(os.getpid(), signal.SIGKILL)

application.Window = Seen
sys.exit(application.start(Path(path) if path else None, demo))
"""


def driven(place: Path, path: Path | str, what: str) -> subprocess.CompletedProcess[str]:
    """Start the program in a place of its own."""
    return subprocess.run(
        [sys.executable, "-c", DRIVER, str(path), str(DEMO / "readers.toml"), what],
        env=os.environ | {"GORVEL_SETTINGS": str(place / "settings.json")},
        capture_output=True, text=True, timeout=600, check=False,
    )  # fmt: skip


@pytest.mark.slow
def test_what_was_not_saved_is_taken_up(tmp_path: Path) -> None:
    ended = driven(tmp_path, DEMO / "readers.toml", "SIGTERM")
    assert ended.returncode == 0, ended.stderr
    (kept,) = tmp_path.glob("left-open-*.gorvel")
    assert kept.stat().st_size < 20_000  # the data are where they were
    (tmp_path / "left-open-x.gorvel").write_text("of somebody else")
    (tmp_path / "left-open-999999999.gorvel").write_text("cut o")
    found = driven(tmp_path, "", "look")
    assert found.returncode == 0, found.stderr
    assert found.stdout.strip().split("|") == [
        "average", "7", "['the one']", "Unsaved changes to readers.toml were restored.",
        "True", str(DEMO / "readers.toml"), "readers.toml (plan not saved) – Gorvel",
    ]  # fmt: skip
    # it was decided to go without saving: nothing is left
    assert [path.name for path in tmp_path.glob("left-open-*")] == ["left-open-x.gorvel"]


@pytest.mark.slow
def test_a_terminal_that_closes_loses_nothing(tmp_path: Path) -> None:
    ended = driven(tmp_path, DEMO / "readers.toml", "SIGHUP")
    assert ended.returncode == 0, ended.stderr
    assert len(list(tmp_path.glob("left-open-*.gorvel"))) == 1


@pytest.mark.slow
def test_changes_of_a_study_are_kept_beside_it(tmp_path: Path) -> None:
    file = tmp_path / "s.gorvel"
    keep_study(quick_demo(tmp_path), file)
    before = file.read_bytes()
    assert driven(tmp_path, file, "kill").returncode == -signal.SIGKILL
    assert file.read_bytes() == before  # only who saves changes it
    # the sign that it was open, and what was left
    assert sorted(path.name[:7] for path in tmp_path.glob(".s.*")) == [".s.left", ".s.open"]
    assert left_behind([str(tmp_path / "other.gorvel"), str(file)]) == left_beside(file)[0]
    found = driven(tmp_path, file, "look")
    assert found.returncode == 0, found.stderr
    assert found.stdout.strip().split("|") == [
        "average", "7", "['the one']", "Unsaved changes to s.gorvel were restored.",
        "True", str(tmp_path / "readers.toml"), "s.gorvel (not saved) – Gorvel",
    ]  # fmt: skip
    assert not list(tmp_path.glob(".s.*"))


@pytest.mark.slow
def test_what_another_program_has_open_is_left_alone(tmp_path: Path) -> None:
    file, pid = tmp_path / "s.gorvel", os.getpid()
    keep_study(DEMO / "services.toml", file)
    for name in (f"left-open-{pid}.gorvel", f".s.left-{pid}.gorvel"):
        (tmp_path / name).write_bytes(file.read_bytes())
    (tmp_path / f".s.open-elsewhere-{pid}").touch()
    code = (
        "from pathlib import Path; from gorvel.desk.work.autosave import *; import sys;"
        "print(left_behind(sys.argv[1:]), left_beside(Path(sys.argv[1])))"
    )
    told = subprocess.run(
        [sys.executable, "-c", code, file], capture_output=True, text=True, check=True,
        env=os.environ | {"GORVEL_SETTINGS": str(tmp_path / "settings.json")},
    )  # fmt: skip
    assert told.stdout == "None []\n"
    assert opened_by(file) == "on elsewhere"
    assert len(list(tmp_path.iterdir())) == 4


def test_what_cannot_be_taken_up_now_is_not_lost(
    window: Window, qtbot: QtBot, tmp_path: Path
) -> None:
    dead, away = tmp_path / "left-open-999999999.gorvel", tmp_path / "away.csv"
    content = keep_study(quick_demo(tmp_path), tmp_path / "s.gorvel")
    save_study(content, dead, away)
    left = left_behind()
    assert left is not None
    window.acts.take_up(left)
    qtbot.waitUntil(window.alarm.isVisible)
    assert "away.csv" in window.alarm_words.text()
    assert dead.exists()  # its data may only be out of reach today
    away.write_bytes((DEMO / "readers.csv").read_bytes())
    with qtbot.waitSignal(window.acts.opened):
        window.acts.take_up(left)
    assert not dead.exists()
    assert (tmp_path / f"left-open-{own_sign()}.gorvel").exists()
    assert window.focus.shelf.plan_unsaved


def test_what_was_left_and_cannot_be_read_stands_in_nobodys_way(
    window: Window, qtbot: QtBot, tmp_path: Path
) -> None:
    file = tmp_path / "s.gorvel"
    content = keep_study(DEMO / "services.toml", file)
    broken = tmp_path / ".s.left-999999999.gorvel"
    broken.write_bytes(file.read_bytes()[:300])
    with qtbot.waitSignal(window.acts.opened):
        window.acts.open(file)
    assert not broken.exists()
    assert window.notice.words.text() == ""
    save_study(content, broken, tmp_path / "gone.csv")  # sound, but its data are gone
    with qtbot.waitSignal(window.acts.opened):
        window.acts.open(file)
    assert window.focus.shelf.file == file
    assert not window.focus.shelf.study_unsaved
    assert broken.exists()  # they may only be out of reach today


@pytest.mark.parametrize("full", [False, True])
def test_the_window_waits_for_what_is_being_written(
    grown: Window, qtbot: QtBot, tmp_path: Path, monkeypatch: pytest.MonkeyPatch, full: bool
) -> None:
    """Where that is lost, it stays and says so."""

    def slowly(plan: Plan, path: Path) -> None:
        time.sleep(0.3)
        if full:
            raise InputError("No space left on device", file=path.name)
        save_plan(plan, path)

    monkeypatch.setattr("gorvel.desk.work.saving.save_plan", slowly)
    monkeypatch.setattr(grown.dialogs, "may_leave", lambda: True)
    assert grown.acts.files.save_plan(tmp_path / "p.toml")
    assert grown.close() is not full
    assert grown.isVisible() is full
    assert (tmp_path / "p.toml").exists() is not full
    assert ("No space left on device" in grown.alarm_words.text()) is full
    if full:
        assert grown.close()  # it was said: the next time nothing is waited for


def test_a_study_that_another_window_has_is_opened_for_reading(
    window: Window, qtbot: QtBot, tmp_path: Path
) -> None:
    file = tmp_path / "s.gorvel"
    keep_study(DEMO / "services.toml", file)
    before = file.read_bytes()
    with subprocess.Popen(["sleep", "60"]) as other:
        sign = tmp_path / f".s.open-here-{other.pid}"
        with pytest.MonkeyPatch.context() as patch:
            patch.setattr("gorvel.desk.work.autosave.host", lambda: "here")
            sign.touch()
            with qtbot.waitSignal(window.acts.shared):
                window.acts.open(file)
        other.kill()
    assert (
        window.notice.words.text()
        == "s.gorvel is already open in another window: here it is read-only."
    )
    assert window.windowTitle() == "s.gorvel (read-only) – Gorvel"
    assert window.focus.shelf.for_reading
    window.focus.set_count(5)
    asked, mine = list[str](), tmp_path / "mine"
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(
            FileDialog, "exec",
            lambda dialog: (asked.extend(dialog.selectedFiles()), choose_file(dialog, mine))[1],
        )  # fmt: skip
        window.dialogs.save_study()
    assert window.acts.files.written()
    assert asked == [str(tmp_path / "s-2.gorvel")]
    assert file.read_bytes() == before
    assert load_study(tmp_path / "mine.gorvel").study.source.n == 16
    assert window.windowTitle() == "mine.gorvel – Gorvel"
    assert sign.exists()  # of the other, who is no more
    assert opened_by(file) == "on here"
    assert left_beside(file) == []


def test_what_another_process_left_under_a_number_given_again_is_taken_up(tmp_path: Path) -> None:
    """As after the machine was started anew, when something else has the number of the window."""
    file = tmp_path / "s.gorvel"
    keep_study(DEMO / "services.toml", file)
    with subprocess.Popen(["sleep", "60"]) as other:
        beside = tmp_path / f".s.left-{other.pid}-0badcafe.gorvel"
        beside.write_bytes(file.read_bytes())
        sign = tmp_path / f".s.open-{host()}-{other.pid}-0badcafe"
        sign.touch()
        assert [left.kept for left in left_beside(file)] == [beside]
        assert opened_by(file) == ""
        assert not sign.exists()
        other.kill()


def test_what_a_newer_program_left_is_kept_for_it(tmp_path: Path) -> None:
    file, kept = tmp_path / "s.gorvel", tmp_path / ".s.left-999999999.gorvel"
    keep_study(DEMO / "services.toml", file)
    with zipfile.ZipFile(file) as old, zipfile.ZipFile(kept, "w") as new:
        for name in old.namelist():
            data = old.read(name)
            if name == MARKER:
                data = data.replace(b'"format": 1', b'"format": 9')
            new.writestr(name, data)
    assert left_beside(file) == []
    assert kept.exists()
    kept.write_bytes(b"PK\x03\x04 and nothing else")
    assert left_beside(file) == []
    assert not kept.exists()


@pytest.mark.slow
def test_where_it_cannot_be_kept_beside_the_study_it_is_kept_elsewhere_or_it_is_said(
    window: Window, opened: Opener, qtbot: QtBot, tmp_path: Path
) -> None:
    home, folder = tmp_path / "home", tmp_path / "shared"
    for one in (home, folder):
        one.mkdir()
    os.environ["GORVEL_SETTINGS"] = str(home / "settings.json")  # the fixture puts it back
    file, sign = folder / "s.gorvel", own_sign()
    keep_study(DEMO / "services.toml", file)
    (folder / f".s.left-{sign}.gorvel").mkdir()  # nothing can be put there
    window.keeper.watch()
    opened(file)

    def change(clusters: int) -> None:
        window.focus.set_count(clusters)
        qtbot.waitUntil(lambda: not window.keeper._settle.isActive())
        assert window.acts.files.written() is not None

    change(3)
    kept = home / f"left-open-{sign}.gorvel"
    assert kept.exists()
    assert not window.alarm.isVisible()
    assert load_study(kept).study.source.n == 16
    older = kept.read_bytes()
    (home / "keep").write_bytes(older)
    kept.unlink()
    kept.mkdir()
    change(4)
    assert "unsaved work could not be backed up: save it now" in (window.alarm_words.text())
    window.alarm.hide()
    change(5)
    assert not window.alarm.isVisible()  # it was said
    kept.rmdir()
    (folder / f".s.left-{sign}.gorvel").rmdir()
    change(6)
    assert (folder / f".s.left-{sign}.gorvel").exists()
    assert not kept.exists()
    window.keeper.forget()
    assert sorted(path.name for path in folder.iterdir()) == ["s.gorvel"]


@pytest.mark.slow
def test_trees_of_data_that_were_changed_since_are_not_shown(
    window: Window, qtbot: QtBot, tmp_path: Path
) -> None:
    """An answer, or the order of the cases, is enough; the plan stays."""
    dead, away = tmp_path / "left-open-999999999.gorvel", tmp_path / "readers.csv"
    content = keep_study(quick_demo(tmp_path), tmp_path / "s.gorvel")
    lines = (DEMO / "readers.csv").read_text().splitlines(keepends=True)
    numbers = [k for k, cell in enumerate(lines[1].split(",")) if cell.strip().isdigit()]
    cells = lines[1].split(",")
    cells[numbers[0]] = str(int(cells[numbers[0]]) + 1)
    changed = [lines[0], ",".join(cells), *lines[2:]]
    turned = [lines[0], *reversed(lines[1:])]
    for there, goes in ((lines, True), (changed, False), (turned, False)):
        away.write_text("".join(there))
        save_study(content, dead, away)
        left = left_behind()
        assert left is not None
        with qtbot.waitSignal(window.acts.taken_up):
            window.acts.take_up(left)
        assert (window.focus.grown is not None) is goes
        assert window.focus.shelf.plan == content.study.plan
        told = window.notice.words.text()
        assert told.startswith("Unsaved changes to readers.toml were restored.")
        lost = "Lost: the trees, since the data were changed. Grow again."
        assert (lost in told) is not goes
