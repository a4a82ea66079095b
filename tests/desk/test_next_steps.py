"""Wherever something is in the way, what comes next is said and within reach."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import pytest
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QApplication, QPushButton, QWidget
from pytestqt.qtbot import QtBot

from driving import LEFT, press, settled, show_tab
from gorvel.core.base.errors import InputError
from gorvel.core.table.reading import read_table
from gorvel.desk.pages.profiles.page import ProfilesPage
from gorvel.desk.views.tables import widen
from gorvel.desk.window.window import Window

Opener = Callable[[Path], Window]
PLAN = (
    'gorvel = 1\n[source]\nfile = "t.csv"\n[cases]\nlabel = "id"\n[variables]\nuse = ["a", "b"]\n'
)


def named(parent: QWidget, words: str) -> QPushButton:
    return next(one for one in parent.findChildren(QPushButton) if one.text() == words)


def test_a_plan_that_cannot_run_says_why_on_every_page(
    opened: Opener, qtbot: QtBot, tmp_path: Path
) -> None:
    rows = [f"c{k},{k % 5},{'many' if k == 7 else k % 3}" for k in range(20)]
    (tmp_path / "t.csv").write_text("\n".join(["id,a,b", *rows]))
    (tmp_path / "p.toml").write_text(f'{PLAN}interval = ["a", "b"]\n')
    window = opened(tmp_path / "p.toml")
    window.go_to(0)
    assert window.stuck.isVisible()
    assert 'row 8, column "b": "many"' in window.stuck.words.text()
    assert not window.grow_button.isEnabled()
    qtbot.mouseClick(named(window.stuck, "Show the plan"), LEFT)
    assert window.pages.place == 1
    assert not window.stuck.isVisible()  # the page says it by itself
    assert 'column "b"' in window.plan.problem.text()
    press(window, qtbot, "Alt+1")
    assert window.stuck.isVisible()
    qtbot.waitUntil(lambda: len(window.cases.variables.flags.flags) == 1)
    qtbot.mouseClick(named(window.cases.variables.flags, "Read “many” as missing"), LEFT)
    qtbot.waitUntil(lambda: window.focus.prepared is not None)
    QApplication.processEvents()
    assert not window.stuck.isVisible()
    assert window.grow_button.isEnabled()


@pytest.mark.parametrize(
    ("below", "advised"),
    [("Source: the office\n", True), ("\nSource: the office\nMade in May\n", True),
     ("Source\n9,9,9\n", False), ("9,9\n", False), ("9,9,9,9\n", False)],
)  # fmt: skip
def test_lines_below_a_table_are_named_as_such(tmp_path: Path, below: str, advised: bool) -> None:
    path = tmp_path / "t.csv"
    path.write_text(f"id,a,b\n1,2,3\n2,3,4\n{below}")
    with pytest.raises(InputError, match="row 3") as caught:
        read_table(path)
    assert ("try removing the lines below the table" in str(caught.value)) is advised


def test_after_a_defect_the_study_can_be_saved(
    grown: Window, qtbot: QtBot, tmp_path: Path, file_asked: Callable[[Path], None]
) -> None:
    grown.alarm.tell("Internal error (KeyError in a place).", defect=True)
    file_asked(tmp_path / "s.gorvel")
    qtbot.mouseClick(named(grown.alarm, "Save the study …"), LEFT)
    assert grown.acts.files.written()
    assert (tmp_path / "s.gorvel").exists()
    grown.alarm.tell("Another error.")
    QApplication.processEvents()
    words = [one.text() for one in grown.alarm.findChildren(QPushButton) if one.isVisible()]
    assert words == ["Dismiss"]


def test_new_cases_are_tried_again_once_their_file_is_mended(
    page: ProfilesPage, grown: Window, qtbot: QtBot, tmp_path: Path
) -> None:
    show_tab(page, grown, qtbot, "New cases")
    whole = grown.focus.shelf.study.source.frame
    new = tmp_path / "new.csv"
    whole.rename({"visits": "calls"}).write_csv(new)
    page.new_cases.take_file(new)
    settled(grown, qtbot)
    assert "visits" in page.new_cases.bar.says.text()
    assert page.profiling.assigned is None
    whole.write_csv(new)
    again = named(page.new_cases.bar, "Run again")
    assert again.isVisible()
    qtbot.mouseClick(again, LEFT)
    settled(grown, qtbot)
    assert page.profiling.assigned is not None
    assert not page.new_cases.bar.isVisible()


def test_cautions_of_a_tree_are_a_link_to_their_page(grown: Window, qtbot: QtBot) -> None:
    told = grown.focus.grown.cautions
    reading = grown.tree.reading
    assert told
    assert reading.cautions.text() == f"{len(told)} caution{'s' if len(told) > 1 else ''}"
    assert told[0].text not in reading.words.text()
    qtbot.mouseClick(reading.copy, LEFT)
    assert told[0].text in QApplication.clipboard().text()
    qtbot.mouseClick(reading.cautions, LEFT)
    assert grown.pages.place == 1


def test_numbers_of_a_million_cases_have_room_in_lists(grown: Window) -> None:
    variables, schedule = grown.cases.variables.view, grown.tree.schedule
    for view, heads in ((variables, ("answers",)), (schedule, ("join", "cases", "clusters"))):
        if view is schedule:
            widen(view, range(view.model().columnCount()), "1,000,000")
        model, needs = view.model(), view.fontMetrics().horizontalAdvance("1,000,000") + 12
        for column in range(model.columnCount()):
            head = model.headerData(column, Qt.Orientation.Horizontal, Qt.ItemDataRole.DisplayRole)
            if head in heads:
                assert view.columnWidth(column) >= needs, head
