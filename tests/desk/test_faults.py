"""A defect is said once and written down without answers; the window lives on."""

from __future__ import annotations

import os
import subprocess
import sys
from pathlib import Path

import pytest
from PySide6.QtWidgets import QApplication, QPushButton
from pytestqt.qtbot import QtBot

from gorvel.desk.window.window import Window
from gorvel.desk.work.faults import FAULTS, Faults
from gorvel.desk.work.jobs import JobKind, Jobs
from gorvel.main import DEMO

SCRIPT = """
import sys
from pathlib import Path
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication
from gorvel.desk.state.settings import load_settings
from gorvel.desk.views.column import Column
from gorvel.desk.views.variables_model import VariablesModel
from gorvel.desk.window.application import make_application
from gorvel.desk.window.pictures import wait_for
from gorvel.desk.window.window import Window
from gorvel.desk.work.faults import FAULTS, guard_widgets

def fails(*_):
    raise ValueError("the answers of Anna")

app = make_application()
FAULTS.watch()
VariablesModel.data = fails
Column.paintEvent = fails
Column.mousePressEvent = fails
window = Window(load_settings(), Path(sys.argv[1]))
print("guarded", guard_widgets(), guard_widgets())
window.show()
window.acts.open(Path(sys.argv[1]))
wait_for(lambda: window.focus.prepared is not None, "the cases")
window.acts.grow()
wait_for(lambda: window.focus.grown is not None, "the tree")
for page in range(6):
    window.go_to(page)
    wait_for(lambda: window.acts.jobs.idle, "the page")
    window.grab()
window.go_to(2)
QTest.mouseClick(window.tree.dendrogram, Qt.LeftButton, pos=QPoint(40, 40))
window.note.linkActivated.connect(fails)
window.note.linkActivated.emit("x")
assert window.alarm.isVisible() and window.alarm.report.isVisible()
print(window.alarm_words.text())
window.alarm.report.click()
print(QApplication.clipboard().text())
window.acts.finish()
"""


@pytest.mark.slow
def test_the_window_outlives_its_defects(tmp_path: Path) -> None:
    told = subprocess.run(
        [sys.executable, "-c", SCRIPT, str(DEMO / "services.toml")],
        capture_output=True, text=True, timeout=600,
        env=os.environ | {
            "PYTHONPATH": str(DEMO.parent / "src"), "XDG_STATE_HOME": str(tmp_path),
            "GORVEL_SETTINGS": str(tmp_path / "settings.json"),
        },
    )  # fmt: skip
    assert told.returncode == 0, told.stderr
    assert "Traceback" not in told.stderr
    lines = [line for line in told.stdout.splitlines() if not line.startswith("FIXME")]  # of Qt's
    first, sentence, *report = lines
    once, twice = first.removeprefix("guarded ").split()
    assert once == twice
    assert int(once) > 120
    assert sentence.startswith("Internal error (")
    assert sentence.endswith("saved files are not affected.")
    assert report[0].startswith("Gorvel ")
    assert report[-1].isalpha()
    log = (tmp_path / "gorvel" / "log" / "gorvel.log").read_text()
    assert log.count("ValueError") == 1  # the four of them are the same, met once
    for words in (log, told.stdout, told.stderr):
        assert "Anna" not in words
        assert str(DEMO.parent) not in "\n".join(report)


class Panic(BaseException):
    """As compiled libraries raise it."""


@pytest.mark.parametrize("error", [ValueError, Panic, RecursionError, SystemExit])
def test_a_job_ends_whatever_is_raised(qtbot: QtBot, error: type[BaseException]) -> None:
    jobs, told = Jobs(), []

    def work(progress: object) -> None:
        raise error("Anna")

    jobs.start(JobKind.GROW, work, told.append, told.append)
    qtbot.waitUntil(lambda: bool(told))
    assert told[0].startswith(f"Internal error ({error.__name__} in test_faults.py")
    assert "Anna" not in told[0] + FAULTS.report
    assert jobs.idle


def test_a_defect_is_told_once_and_places_of_this_machine_are_not() -> None:
    faults, met = Faults(), []
    faults.met.connect(met.append)
    for _ in range(3):
        try:
            Path("/none/of/this").read_text()
        except OSError as error:
            sentence = faults.note(error)
    assert met == [sentence]
    assert "/none" not in faults.report
    assert str(Path(__file__).parent) not in faults.report
    assert "FileNotFoundError" in faults.report


def test_what_the_program_is_can_be_seen_and_copied(window: Window, qtbot: QtBot) -> None:
    dialog = window.show_about()
    words = " ".join(label.text() for label in dialog.findChildren(type(window.note)))
    assert "Python" in words
    assert "gorvel.log" in words
    copy = next(b for b in dialog.findChildren(QPushButton) if b.text() == "Copy report")
    copy.click()
    assert copy.text() == "Copied."
    assert QApplication.clipboard().text().startswith("Gorvel ")
    dialog.accept()


def test_what_went_wrong_is_still_said_in_other_looks(grown: Window, qtbot: QtBot) -> None:
    grown.say("That is not so.", True)
    grown.other_theme()
    qtbot.waitUntil(lambda: grown.alarm.isVisible())
    assert grown.alarm_words.text() == "That is not so."
    grown.alarm.tell("Internal error", defect=True)
    grown.other_theme()
    grown.say("All is well", False)
    assert grown.alarm.told == ("Internal error", True)
    grown.alarm.report.click()
    assert grown.alarm.report.text() == "Copied."
    grown.alarm.tell("Another", defect=True)
    assert grown.alarm.report.text() == "Copy report"
