"""How the sample was drawn, told on the Cases page, and what the profiles make of it."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
from PySide6.QtCore import QItemSelectionModel, Qt
from pytestqt.qtbot import QtBot

from gorvel.core.cases.design import sample_of
from gorvel.core.profile.lanes import lanes_of
from gorvel.core.profile.raw_answers import read_answers
from gorvel.desk.editors.design_line import DesignLine
from gorvel.desk.window.window import Window

N = 60


@pytest.fixture
def window(opened: object, tmp_path: Path) -> Window:
    """Cases drawn by segments within two regions."""
    rng = np.random.default_rng(5)
    lines = ["a,b,c,region,segment,r1,r2"]
    for k in range(N):
        a, b, c = (rng.normal(size=3) + 4 * (k % 2)).round(3).tolist()
        lines.append(f"{a},{b},{c},{'north' if k < 30 else 'south'},s{k // 6},1,{1 + k % 3}")
    (tmp_path / "t.csv").write_text("\n".join(lines), encoding="utf-8")
    (tmp_path / "p.toml").write_text(
        'gorvel = 1\n[source]\nfile = "t.csv"\n[variables]\nuse = ["a", "b"]\nprofile = ["c"]\n',
        encoding="utf-8",
    )
    return opened(tmp_path / "p.toml")  # type: ignore[operator, no-any-return]


def give(window: Window, qtbot: QtBot, key: Qt.Key, *names: str) -> None:
    """Select rows of the list of variables, and press a key."""
    view = window.cases.variables.view
    qtbot.waitUntil(lambda: view.table.rowCount() > 0)
    flags = QItemSelectionModel.SelectionFlag.Rows | QItemSelectionModel.SelectionFlag.Select
    view.clearSelection()
    for row, summary in enumerate(view.table.summaries):
        if summary.name in names:
            view.selectionModel().select(view.table.index(row, 0), flags)
    qtbot.keyClick(view, key)


def line(window: Window) -> tuple[DesignLine, str]:
    """The line that tells the design, and its words."""
    found = window.cases.findChild(DesignLine)
    assert isinstance(found, DesignLine)
    return found, f"{found.words.text()} {found.trouble.text()}"


def test_strata_and_units_are_roles(window: Window, qtbot: QtBot) -> None:
    focus = window.focus
    assert line(window)[0].isHidden()
    give(window, qtbot, Qt.Key.Key_T, "region")
    give(window, qtbot, Qt.Key.Key_U, "segment")
    design = focus.shelf.plan.design
    assert (design.strata, design.psu) == ("region", "segment")
    assert focus.shelf.to_undo == "the sample design"
    qtbot.waitUntil(lambda: "10 units in 2 strata" in line(window)[1])
    with qtbot.waitSignal(focus.tree_changed):
        window.acts.grow()
    focus.set_count(2)
    window.go_to(4)
    page = window.profiles
    qtbot.waitUntil(lambda: bool(page.view.lanes))
    grown, plan, source = focus.grown, focus.shelf.plan, focus.shelf.study.source
    sample = sample_of(source, plan, grown.prepared)
    told = read_answers(source, plan, grown.prepared)
    core = lanes_of(told, focus.cut.membership - 1, 2, np.ones(N), sample)
    for shown, wanted in zip(page.view.lanes, core, strict=True):
        np.testing.assert_array_equal(shown.lower, wanted.lower)
    assert "under the sample design" in page.questions.legend.text()
    page.show_tab(1)
    names = [row[2] for row in page.tests.take.table().rows]
    assert names.count("Wald F") == 3
    deff = {row[0]: row[8] for row in page.tests.take.table().rows if row[2] == "Wald F"}
    for lane in core:
        assert deff[lane.name] == pytest.approx(lane.deff.mean())
    give(window, qtbot, Qt.Key.Key_O, "region", "segment")
    assert focus.shelf.plan.design is None
    assert line(window)[0].isHidden()
    focus.shelf.undo()
    assert focus.shelf.plan.design == design


def test_replicates_come_instead_of_strata(window: Window, qtbot: QtBot) -> None:
    focus = window.focus
    give(window, qtbot, Qt.Key.Key_T, "region")
    give(window, qtbot, Qt.Key.Key_R, "r1", "r2")
    design = focus.shelf.plan.design
    assert design.strata is None
    assert design.replicates == ("r1", "r2")
    box, words = line(window)
    assert "2 replicate weights" in words
    kind = box.kind
    kind.setCurrentIndex(kind.findData("fay"))
    kind.activated.emit(kind.currentIndex())
    assert focus.shelf.plan.design.kind == "fay"
    box.fay.setValue(0.3)
    assert focus.shelf.plan.design.fay == 0.3
    give(window, qtbot, Qt.Key.Key_U, "segment")
    assert focus.shelf.plan.design.replicates == ()
    qtbot.mouseClick(box.off, Qt.MouseButton.LeftButton)
    assert focus.shelf.plan.design is None


def test_a_lone_unit_is_said_and_mended(window: Window, qtbot: QtBot) -> None:
    focus = window.focus
    give(window, qtbot, Qt.Key.Key_T, "segment")
    give(window, qtbot, Qt.Key.Key_U, "segment")  # one column cannot be both: the later stands
    assert focus.shelf.plan.design.strata is None
    give(window, qtbot, Qt.Key.Key_T, "segment")
    give(window, qtbot, Qt.Key.Key_U, "region")  # each segment lies in one region
    qtbot.waitUntil(lambda: "The design cannot be used" in line(window)[1])
    with qtbot.waitSignal(focus.tree_changed):
        window.acts.grow()
    window.go_to(4)
    qtbot.waitUntil(lambda: bool(window.profiles.view.lanes))
    assert "one sampling unit in" in window.profiles.questions.says.text()
    single = line(window)[0].single
    single.setCurrentIndex(single.findData("centre"))
    single.activated.emit(single.currentIndex())
    assert focus.shelf.plan.design.single == "centre"
    qtbot.waitUntil(lambda: window.profiles.questions.says.isHidden())
