"""Five exports as they come, carried by clicks and keys from the file to saved memberships."""

from __future__ import annotations

import importlib.util
from collections.abc import Callable, Iterator
from pathlib import Path

import numpy as np
import polars as pl
import pytest
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QAbstractButton, QApplication, QWidget
from pytestqt.qtbot import QtBot

from driving import LEFT, press, settled
from gorvel.core.run import run_plan
from gorvel.desk.window.window import Window

MAKER = Path(__file__).parents[2] / "tools" / "five_studies.py"
Studies = dict[str, Callable[[np.random.Generator, Path], None]]


@pytest.fixture(scope="module")
def makers() -> Studies:
    spec = importlib.util.spec_from_file_location("five_studies", MAKER)
    assert spec is not None
    assert spec.loader is not None
    module = importlib.util.module_from_spec(spec)
    spec.loader.exec_module(module)
    return module.STUDIES  # type: ignore[no-any-return]


class Hands:
    """What a user does, counted."""

    def __init__(self, window: Window, qtbot: QtBot, folder: Path) -> None:
        self.window, self.qtbot, self.folder, self.actions = window, qtbot, folder, 0

    def _buttons(self) -> Iterator[QAbstractButton]:
        for one in self.window.findChildren(QAbstractButton):
            if one.isVisible() and one.isEnabled():
                yield one

    def click(self, words: str) -> None:
        self.qtbot.waitUntil(lambda: any(one.text() == words for one in self._buttons()))
        self._done(next(one for one in self._buttons() if one.text() == words))

    def _done(self, button: QWidget) -> None:
        self.qtbot.mouseClick(button, LEFT)
        self.actions += 1
        settled(self.window, self.qtbot)

    def press(self, keys: str) -> None:
        press(QApplication.focusWidget() or self.window, self.qtbot, keys)
        self.actions += 1
        settled(self.window, self.qtbot)

    def give(self, role: str, *names: str) -> None:
        """Rows are clicked, all but the first with Ctrl, and their role is."""
        view = self.window.cases.variables.view
        rows = [k for k, one in enumerate(view.table.summaries) if one.name in names]
        assert len(rows) == len(names)
        for place, row in enumerate(rows):
            index = view.table.index(row, 0)
            view.scrollTo(index)
            keys = Qt.KeyboardModifier.ControlModifier if place else Qt.KeyboardModifier.NoModifier
            at = view.visualRect(index).center()
            self.qtbot.mouseClick(view.viewport(), LEFT, keys, at)
            self.actions += 1
        self.click(role)

    def only(self, condition: str) -> None:
        field = self.window.cases.source.keep
        field.setFocus()
        self.qtbot.keyClicks(field, condition)
        self.qtbot.keyClick(field, Qt.Key.Key_Return)
        self.actions += 1
        settled(self.window, self.qtbot)


def survey(hands: Hands) -> None:
    hands.click("Convert answers to numbers …")
    hands.click("Strongly agree?")
    hands.click("Create 31 variables")
    active = hands.window.focus.shelf.plan.variables.use
    hands.give("not used", *(name for name in active if not name.startswith("Q")))
    hands.only('Status = "IP Address"')


def regions(hands: Hands) -> None:
    hands.click("Convert answers to numbers …")
    hands.click("Create 5 variables")
    assert hands.window.focus.shelf.plan.cases.label == "region"


def clinic(hands: Hands) -> None:
    hands.give("stratum", "stratum")
    hands.give("sampling unit", "segment")


@pytest.mark.slow
@pytest.mark.parametrize(
    ("study", "file", "work", "used", "most"),
    [("survey", "survey.csv", survey, (1241, 30), 16), ("panel", "panel.xlsx", None, (300, 8), 5),
     ("matrix", "matrix.csv", None, (60, 0), 5), ("regions", "regions.csv", regions, (20, 30), 7),
     ("clinic", "clinic.csv", clinic, (800, 40), 9)],
)  # fmt: skip
def test_from_the_file_to_saved_memberships(
    study: str, file: str, work: Callable[[Hands], None] | None, used: tuple[int, int], most: int,
    makers: Studies, window: Window, qtbot: QtBot, tmp_path: Path,
    file_asked: Callable[[Path], None],
) -> None:  # fmt: skip
    """Without a surprise, in few actions, and with what a run of the same plan gives."""
    number = [*makers].index(study) + 1
    makers[study](np.random.default_rng(number), tmp_path)
    hands = Hands(window, qtbot, tmp_path)
    file_asked(tmp_path / file)
    hands.press("Ctrl+O")
    qtbot.waitUntil(lambda: window.focus.shelf.study is not None)
    settled(window, qtbot)
    if work is not None:
        work(hands)
    focus = window.focus
    qtbot.waitUntil(lambda: focus.prepared is not None)
    assert not window.stuck.isVisible()
    assert focus.prepared is not None
    assert (focus.prepared.n, len(focus.shelf.plan.variables.use)) == used
    hands.click("Grow the tree")
    qtbot.waitUntil(lambda: focus.cut is not None)
    hands.press("Alt+3")
    count = window.tree.count
    count.setFocus()
    count.selectAll()
    qtbot.keyClicks(count, "4")
    qtbot.keyClick(count, Qt.Key.Key_Return)
    assert focus.cut is not None
    assert focus.cut.clusters == 4
    for name, save in (("m.csv", "Ctrl+M"), ("p.toml", None)):
        file_asked(tmp_path / name)
        hands.press(save) if save else window.dialogs.save_plan()
        assert window.acts.files.written()
    assert window.alarm.told == ("", False)
    assert hands.actions <= most
    run_plan(tmp_path / "p.toml", tmp_path / "o")
    saved, again = (
        pl.read_csv(path, infer_schema_length=None)
        for path in (tmp_path / "m.csv", tmp_path / "o" / "membership.csv")
    )
    mine, theirs = (
        next(frame[name] for name in frame.columns if name.endswith("k4")).drop_nulls().to_list()
        for frame in (saved, again)
    )
    assert mine == theirs
    assert len(mine) == used[0]
