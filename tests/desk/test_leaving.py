"""However the program ends, what was not saved is there at the next start."""

from __future__ import annotations

import json
import os
import signal
import subprocess
import sys
from pathlib import Path

import pytest
from pytestqt.qtbot import QtBot

from gorvel.core.plan.file import load_plan, plan_text
from gorvel.desk.keeping import left_behind
from gorvel.desk.window import Window
from gorvel.main import DEMO

# Opens a window as the program does, does something, and tells what is there at the end.
DRIVER = """
import os, signal, sys
from pathlib import Path
from PySide6.QtCore import QTimer
from gorvel.desk import application
from gorvel.desk.window import Window
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
        if self.state == "open" and self.focus.prepared is not None:
            self.state, self.said = "grow", self.note.text()
            if what != "look":
                self.focus.change("tree", linkage="average")
            self.acts.grow()
        elif self.state == "grow" and self.focus.grown is not None:
            self.state = "over"
            if what == "look":
                told = self.focus.plan.tree.linkage, self.focus.cut.clusters, self.said
                where = self.focus.plan_unsaved, self.focus.study.plan_file
                print(*told, *where, sep="|", flush=True)
                self.dialogs.may_leave = lambda: True
                self.dialogs.declined = True
                self.close()
                return
            self.focus.set_count(7)
            if what == "kill":
                QTimer.singleShot(1900, lambda: os.kill(os.getpid(), signal.SIGKILL))
            else:
                os.kill(os.getpid(), signal.SIGTERM)

application.Window = Seen
sys.exit(application.start(Path(path) if path else None, demo))
"""


def driven(place: Path, path: str, what: str) -> subprocess.CompletedProcess[str]:
    """Start the program in a place of its own."""
    return subprocess.run(
        [sys.executable, "-c", DRIVER, path, str(DEMO / "readers.toml"), what],
        env=os.environ | {"GORVEL_SETTINGS": str(place / "settings.json")},
        capture_output=True, text=True, timeout=120, check=False,
    )  # fmt: skip


@pytest.mark.parametrize(("how", "status"), [("terminate", 0), ("kill", -signal.SIGKILL)])
def test_what_was_not_saved_is_taken_up(tmp_path: Path, how: str, status: int) -> None:
    ended = driven(tmp_path, str(DEMO / "readers.toml"), how)
    assert ended.returncode == status, ended.stderr
    (kept,) = tmp_path.glob("left-open-*.json")
    assert json.loads(kept.read_text())["count"] == 7
    (tmp_path / "left-open-x.json").write_text("of somebody else")
    (tmp_path / "left-open-999999999.json").write_text("cut o")
    found = driven(tmp_path, "", "look")
    assert found.returncode == 0, found.stderr
    assert found.stdout.split("|") == [
        "average", "7", "readers.csv is as you left it; it was not saved.", "True",
        f"{DEMO / 'readers.toml'}\n",
    ]  # fmt: skip
    # it was decided to go without saving: nothing is left
    assert [path.name for path in tmp_path.glob("left-open-*")] == ["left-open-x.json"]


def test_what_another_program_has_open_is_left_alone(tmp_path: Path) -> None:
    other = tmp_path / f"left-open-{os.getpid()}.json"
    other.write_text(json.dumps({"plan": "", "plan_file": "", "count": 0}))
    code = "from gorvel.desk.keeping import left_behind; print(left_behind())"
    told = subprocess.run(
        [sys.executable, "-c", code], capture_output=True, text=True, check=True,
        env=os.environ | {"GORVEL_SETTINGS": str(tmp_path / "settings.json")},
    )  # fmt: skip
    assert told.stdout == "None\n"
    assert other.exists()


def test_what_cannot_be_taken_up_now_is_not_lost(
    window: Window, qtbot: QtBot, tmp_path: Path
) -> None:
    dead = tmp_path / "left-open-999999999.json"
    plan = load_plan(DEMO / "readers.toml").with_("source", file=str(tmp_path / "away.csv"))
    dead.write_text(json.dumps({"plan": plan_text(plan), "plan_file": "", "count": 3}))
    left = left_behind()
    assert left is not None
    window.acts.take_up(left)
    qtbot.waitUntil(window.alarm.isVisible)
    assert "away.csv" in window.alarm_words.text()
    assert dead.exists()  # its data may only be out of reach today
    (tmp_path / "away.csv").write_bytes((DEMO / "readers.csv").read_bytes())
    with qtbot.waitSignal(window.acts.opened):
        window.acts.take_up(left)
    assert not dead.exists()
    assert (tmp_path / f"left-open-{os.getpid()}.json").exists()
    assert window.focus.plan_unsaved
