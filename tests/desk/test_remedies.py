"""What can be done about a caution, with one click on the Plan page."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QPushButton
from pytestqt.qtbot import QtBot

from gorvel.core.plan.plan import Plan
from gorvel.core.plan.remedies import _OFFERS, remedies_of
from gorvel.desk.window.window import Window

LEFT = Qt.MouseButton.LeftButton


def links(window: Window) -> dict[str, QPushButton]:
    found = window.plan.cautions.findChildren(QPushButton)
    return {link.text(): link for link in found if link.isVisibleTo(window.plan)}


def codes(window: Window) -> set[str]:
    assert window.focus.prepared is not None
    return {caution.code for caution in window.focus.prepared.cautions}


def settled(window: Window, qtbot: QtBot) -> None:
    qtbot.waitUntil(lambda: window.acts.jobs.idle and window.focus.prepared is not None)


@pytest.mark.slow
@pytest.mark.parametrize(
    ("words", "code"),
    [
        ("Impute the median", "dropped"),
        ("Use Gower distance and average linkage", "dropped"),
        ("Use ranks", "skewed-margins"),
        ("Scale them like the others", "yes-no-unscaled"),
    ],
)
def test_a_click_takes_the_caution_away_and_is_undone(
    grown: Window, qtbot: QtBot, words: str, code: str
) -> None:
    grown.go_to(1)
    settled(grown, qtbot)
    before = grown.focus.shelf.plan
    assert {"dropped", "skewed-margins", "yes-no-unscaled"} <= codes(grown)
    assert set(links(grown)) >= {words}
    with qtbot.waitSignal(grown.focus.prepared_changed):
        qtbot.mouseClick(links(grown)[words], LEFT)
    settled(grown, qtbot)
    assert code not in codes(grown)
    assert words not in links(grown)
    assert not grown.focus.problem
    with qtbot.waitSignal(grown.focus.prepared_changed):
        grown.focus.shelf.undo()
    settled(grown, qtbot)
    assert grown.focus.shelf.plan == before
    assert words in links(grown)


@pytest.mark.slow
def test_cautions_of_the_tree_are_told_while_it_is_the_tree_of_the_plan(
    grown: Window, qtbot: QtBot
) -> None:
    grown.focus.shelf.change("proximity", measure="cosine")
    grown.focus.shelf.change("scale", method="range01")
    with qtbot.waitSignal(grown.focus.tree_changed):
        grown.acts.grow()
    settled(grown, qtbot)
    grown.go_to(1)
    assert "Take them as squares" in links(grown)
    with qtbot.waitSignal(grown.focus.prepared_changed):
        qtbot.mouseClick(links(grown)["Take them as squares"], LEFT)
    settled(grown, qtbot)
    assert grown.focus.shelf.plan.tree.proximities_are == "squares"
    assert "Take them as squares" not in links(grown)  # the tree is another plan’s now
    with qtbot.waitSignal(grown.focus.tree_changed):
        grown.acts.grow()
    assert "linkage-geometry" not in {c.code for c in grown.focus.grown.cautions}


def test_remedies_fit_the_plan() -> None:
    base = {"source": {"file": "t.csv"}, "variables": {"use": ["a", "b"]}}
    plan = Plan.model_validate(base)
    for code in _OFFERS:
        for remedy in remedies_of(code, plan):
            assert remedy.change(plan) != plan
    assert not remedies_of("weights-ignored", Plan.model_validate(base | {
        "tree": {"linkage": "average"}
    }))  # fmt: skip
    assert remedies_of("inversions", plan) == []
    matrix = Plan.model_validate({"source": {"file": "m.csv", "kind": "proximities"}})
    words = [one.words for one in remedies_of("linkage-geometry", matrix)]
    assert words == ["Use average linkage"]


def test_many_cautions_do_not_hide_the_button(opened: object, qtbot: QtBot, tmp_path: Path) -> None:
    rng = np.random.default_rng(1)
    columns = [np.exp(2 * rng.normal(size=60)) for _ in range(6)]
    names = [f"amount in the year {2000 + j} of everything" for j in range(6)]
    rows = [",".join("" if rng.random() < 0.03 else f"{v:.3g}" for v in row)
            for row in zip(*columns, strict=True)]  # fmt: skip
    path = tmp_path / "amounts.csv"
    path.write_text(",".join(names) + "\n" + "\n".join(rows) + "\n")
    window: Window = opened(path)  # type: ignore[operator]
    window.focus.shelf.change_by(lambda plan: plan.using(names))
    settled(window, qtbot)
    window.resize(1000, 640)
    window.go_to(1)
    assert codes(window) >= {"dropped", "skewed-margins"}
    button = window.plan.grow
    assert button.visibleRegion().boundingRect().height() == button.height()


@pytest.mark.parametrize(
    ("table", "use", "offered"),
    [
        ("nominal,b\n1,dog\n3,cat\n2,dog\n", ["nominal", "b"], True),  # b is words
        ("nominal,b\n1,2\nx,4\n2,5\n6,1\n", ["b", "lost"], False),
        ("nominal,b\n1e400,2\n3,4\n2,5\n", ["nominal", "b"], False),  # a number that is too large
    ],
)
def test_a_measure_for_categories_is_offered_for_categories_alone(
    window: Window, qtbot: QtBot, tmp_path: Path, table: str, use: list[str], offered: bool
) -> None:
    """Whatever the columns are called."""
    (tmp_path / "t.csv").write_text(table, encoding="utf-8")
    names = ", ".join(f'"{name}"' for name in use)
    plan = f'gorvel = 1\n[source]\nfile = "t.csv"\n[variables]\nuse = [{names}]\n'
    (tmp_path / "p.toml").write_text(plan, encoding="utf-8")
    with qtbot.waitSignal(window.acts.opened):
        window.acts.open(tmp_path / "p.toml")
    qtbot.waitUntil(lambda: bool(window.focus.problem))
    window.go_to(1)
    assert ("Use Gower distance and average linkage" in links(window)) == offered
