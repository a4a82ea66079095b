"""Missing answers on the Cases page: what is seen of them, and what becomes of the cases."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import pytest
from PySide6.QtCore import Qt
from PySide6.QtGui import QColor
from PySide6.QtWidgets import QPushButton
from pytestqt.qtbot import QtBot

from gorvel.desk.window.window import Window
from gorvel.main import DEMO
from gorvel.paint.theme import current

Opener = Callable[[Path], Window]


def test_gaps_are_mapped_and_their_handling_is_chosen_there(opened: Opener, qtbot: QtBot) -> None:
    window = opened(DEMO / "readers.toml")
    page, focus = window.cases, window.focus
    qtbot.waitUntil(lambda: page.answers.gaps.gaps is not None)
    qtbot.mouseClick(page.answers.tabs[1], Qt.MouseButton.LeftButton)
    assert page.answers.gap_map.isVisible()
    assert not page.answers.cells.isVisible()
    assert "in 32 of 240 cases" in page.answers.gaps.summary.text()
    pixels = page.answers.gap_map.grab().toImage()
    row = round(page.answers.gap_map.chart().head + 30)  # the most frequent pattern of gaps
    seen = {pixels.pixelColor(x, row).name() for x in range(pixels.width())}
    assert QColor(current().warn).name() in seen

    median = page.answers.gaps.findChild(QPushButton, "median")
    qtbot.mouseClick(median, Qt.MouseButton.LeftButton)
    assert focus.shelf.plan is not None
    assert focus.shelf.plan.handling == "median"
    qtbot.waitUntil(lambda: window.strip.stops[0].state == "240 of 240 used")


def test_who_is_left_out_for_gaps_is_told_beside_the_gaps(opened: Opener, qtbot: QtBot) -> None:
    window = opened(DEMO / "readers.toml")
    panel = window.cases.answers
    panel.show_tab(1)
    qtbot.waitUntil(lambda: panel.gaps.lost.isVisible())
    assert panel.gaps.lost.text().splitlines()[0] == (
        "Do you borrow large print? “yes” 50% against 14%"
    )
    window.focus.shelf.change("missing", handling="mean")
    qtbot.waitUntil(lambda: not panel.gaps.lost.isVisible())


@pytest.mark.slow
def test_where_no_case_is_left_that_is_what_is_said(opened: Opener, qtbot: QtBot) -> None:
    window = opened(DEMO / "readers.toml")
    answers = window.cases.answers
    window.focus.shelf.change("cases", keep="age > 999")
    answers.show_tab(1)
    qtbot.waitUntil(lambda: window.acts.jobs.idle)
    assert answers.gaps.summary.text().startswith("The plan uses no case")
    assert not [one for one in answers.gaps.findChildren(QPushButton) if one.isVisible()]
    answers.show_tab(4)
    qtbot.waitUntil(lambda: window.acts.jobs.idle)
    assert "too few cases" in answers.correlations.chart().title()
    window.focus.shelf.undo()
    qtbot.waitUntil(lambda: window.acts.jobs.idle)
    assert "active answers are missing" in answers.gaps.summary.text()
    assert "too few cases" not in answers.correlations.chart().title()
