"""Cross tables, orders in which neighbours join, and splits from the top, in the window."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import numpy as np
import pytest
from PySide6.QtWidgets import QApplication, QPushButton
from pytestqt.qtbot import QtBot

from driving import states, taken
from gorvel.core.plan.parts import SourcePlan
from gorvel.desk.editors.option_editor import options_of
from gorvel.desk.window.window import Window

Opener = Callable[[Path], Window]

COUNTS = (
    "branch,novels,history,audio\nElm,310,90,60\nFell,150,60,22\nDene,280,75,88\nQuay,40,90,9\n"
)


def settled(window: Window, qtbot: QtBot) -> None:
    QApplication.processEvents()
    qtbot.waitUntil(lambda: window.acts.jobs.idle)
    QApplication.processEvents()


def cross_table(folder: Path) -> Path:
    (folder / "counts.csv").write_text(COUNTS, encoding="utf-8")
    path = folder / "counts.toml"
    path.write_text(
        'gorvel = 1\n[source]\nfile = "counts.csv"\nkind = "counts"\n[cases]\nlabel = "branch"\n'
        '[variables]\nuse = ["novels", "history", "audio"]\n',
        encoding="utf-8",
    )
    return path


def test_a_cross_table_from_its_plan_to_its_sentences(
    opened: Opener, qtbot: QtBot, tmp_path: Path
) -> None:
    window = opened(cross_table(tmp_path))
    assert window.sentence.sentence() == (
        "Group 4 rows of counts by 3 columns, joined by the least loss of chi-square."
    )
    assert states(window)["Plan"] == "Least loss of chi-square"
    window.go_to(1)
    shown = {button.objectName() for button in window.plan.findChildren(QPushButton)}
    assert {"of", "linkage", "neighbours"} <= shown
    assert not {"scale", "measure", "missing", "weight"} & shown
    assert [c.name for c in options_of(window.focus, "linkage").choices] == [
        "the least loss of chi-square"
    ]
    assert [c.name for c in options_of(window.focus, "of").choices] == ["the rows", "the columns"]
    window.acts.grow()
    settled(window, qtbot)
    window.go_to(2)
    look = window.tree.desk.axis.look()
    assert look is not None
    picture = window.tree.dendrogram.picture(look)
    assert picture is not None
    assert "chi-square lost" in picture.heading()
    grown = window.focus.grown
    assert grown is not None
    assert sum(grown.tree.heights) > 0
    assert taken(window.focus, "of", "variables") == ""
    settled(window, qtbot)
    window.acts.grow()
    settled(window, qtbot)
    assert window.focus.grown.prepared.labels == ("novels", "history", "audio")
    window.go_to(5)
    settled(window, qtbot)
    assert window.compare.offers == []
    window.compare.put_beside("complete")  # which does not go with counts
    assert "chi-square" in window.alarm.words.text()


@pytest.mark.slow
@pytest.mark.parametrize("of", ["cases", "variables"])
def test_every_page_shows_a_cross_table(
    opened: Opener, qtbot: QtBot, tmp_path: Path, of: str
) -> None:
    path = cross_table(tmp_path)
    path.write_text(path.read_text(encoding="utf-8") + f'[tree]\nof = "{of}"\n', encoding="utf-8")
    window = opened(path)
    window.acts.grow()
    settled(window, qtbot)
    for number in range(6):
        window.go_to(number)
        page = window.pages.seen
        for place, tab in enumerate(getattr(page, "tabs", [])):
            if tab.isEnabled():
                page.show_tab(place)
                settled(window, qtbot)
        for count in (3, 1, 2):
            window.focus.set_count(count)
            settled(window, qtbot)
    for what in ("structure", "splits", "support", "orders"):
        window.counting.check(what)
        settled(window, qtbot)
    assert not window.alarm.isVisible()


def test_a_table_is_read_as_counts(opened: Opener, qtbot: QtBot, tmp_path: Path) -> None:
    (tmp_path / "counts.csv").write_text(COUNTS, encoding="utf-8")
    window = opened(tmp_path / "counts.csv")
    with qtbot.waitSignal(window.acts.opened):
        window.acts.open(tmp_path / "counts.csv", SourcePlan(file="counts.csv", kind="counts"))
    settled(window, qtbot)
    plan = window.focus.shelf.plan
    assert plan is not None
    assert (plan.cases.label, plan.variables.use) == ("branch", ("novels", "history", "audio"))


def test_neighbours_are_chosen_on_the_plan_page(grown: Window, qtbot: QtBot) -> None:
    choices = options_of(grown.focus, "neighbours")
    names = [choice.name for choice in choices.choices]
    assert names[:2] == ["any two clusters", "neighbours in file order"]
    assert "neighbours in order of age" in names
    assert taken(grown.focus, choices.part, "age") == ""
    settled(grown, qtbot)
    assert "only neighbours in order of age" in grown.sentence.sentence()
    grown.acts.grow()
    settled(grown, qtbot)
    tree, look = grown.focus.grown, grown.tree.desk.axis.look()
    assert tree is not None
    assert look is not None
    source = grown.focus.shelf.study.source
    ages = source.numbers("age").values[tree.prepared.numbers - 1]
    drawn = ages[look.arrangement.order]
    assert (np.diff(drawn) >= 0).all()
    refused = taken(grown.focus, "linkage", "minimax")
    assert "neighbours" in refused


def test_splits_from_the_top_are_a_choice_among_linkages(grown: Window, qtbot: QtBot) -> None:
    choices = options_of(grown.focus, "linkage")
    splinter = next(choice for choice in choices.choices if choice.key == "splinter")
    assert "Macnaughton-Smith" in splinter.source
    assert splinter.misleads
    assert taken(grown.focus, choices.part, "splinter") == ""
    settled(grown, qtbot)
    grown.acts.grow()
    settled(grown, qtbot)
    tree = grown.focus.grown
    assert tree is not None
    assert not tree.tree.inversions.any()
    assert "splits from the top" in grown.sentence.sentence()
