"""What clusters are for, weighed by hand on the Count page."""

from __future__ import annotations

import numpy as np
import pytest
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QApplication, QPushButton
from pytestqt.qtbot import QtBot

from driving import click
from gorvel.core.count.null import validity_profile as purpose_module
from gorvel.core.count.null.validity_profile import calibrated
from gorvel.core.plan.purposes import CHARACTERISTICS, PURPOSES
from gorvel.desk.pages.count.purpose_card import PurposeCard
from gorvel.desk.window.window import Window

LEFT = Qt.MouseButton.LeftButton


def settled(window: Window, qtbot: QtBot) -> None:
    qtbot.waitUntil(lambda: window.counting.complete and window.acts.jobs.idle)
    QApplication.processEvents()


@pytest.fixture
def card(grown: Window, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch) -> PurposeCard:
    """The demo study, measured because its tab is looked at, beside few random groupings."""
    monkeypatch.setattr(purpose_module, "TIMES", 5)
    grown.focus.shelf.change("count", resamples=10, to=6)
    grown.go_to(3)
    settled(grown, qtbot)
    qtbot.mouseClick(next(tab for tab in grown.count.tabs if tab.text() == "Purpose"), LEFT)
    settled(grown, qtbot)
    return grown.count.purpose


def preset(card: PurposeCard, name: str) -> QPushButton:
    return next(b for b in card.findChildren(QPushButton) if b.text() == PURPOSES[name].name)


@pytest.mark.slow
def test_clusters_are_measured_and_a_purpose_ranks_the_counts(
    card: PurposeCard, grown: Window, qtbot: QtBot
) -> None:
    found = card.counting.checks.purpose
    core = calibrated(grown.focus.grown, card.counting.asked)
    np.testing.assert_array_equal(found.mean, core.mean)
    assert card.says.text().startswith("Give a characteristic some weight")
    assert card.take.picture() is None  # nothing to draw yet
    qtbot.mouseClick(preset(card, "segments"), LEFT)
    weights = dict(PURPOSES["segments"].weights)
    assert grown.focus.shelf.plan.counting.purpose == weights
    assert {key: one.value() for key, one in card.sliders.items() if one.value()} == weights
    assert "Stability is not included yet: press Resample." in card.says.text()
    qtbot.mouseClick(grown.count.draw, LEFT)
    settled(grown, qtbot)
    stable = card.counting.board.coming_back(found.counts)
    ranked = core.ranked(weights, stable)
    painter = card.view.chart()
    np.testing.assert_array_equal(painter.ranked, ranked)
    first = core.counts[int(np.argmax(ranked))]
    assert painter.highest == first
    assert card.says.text().startswith(f"For this purpose {first} clusters rank first")
    assert painter.tip(first) == f"{first} clusters: {ranked.max():.2f} SD above random groupings"
    click(qtbot, card.view, painter.x(painter.along.index(6)), 30)
    assert grown.focus.cut.clusters == 6
    assert card.take.picture().title == "Numbers of clusters by purpose"
    table = card.take.table()
    assert table.heads[:3] == ("clusters", "stable", "stable_standing")
    assert table.rows[0][1] == stable[0]


@pytest.mark.slow
def test_sliders_weigh_with_the_keys_and_can_be_undone(
    card: PurposeCard, grown: Window, qtbot: QtBot
) -> None:
    slider = card.sliders["apart"]
    assert slider.accessibleName() == "Weight: well separated"
    slider.setFocus()
    for _ in range(3):
        qtbot.keyClick(slider, Qt.Key.Key_Right)
    assert grown.focus.shelf.plan.counting.purpose == {"apart": 3.0}
    apart = card.counting.checks.purpose.standing()[list(CHARACTERISTICS).index("apart")]
    np.testing.assert_allclose(card.view.chart().ranked, apart)
    grown.focus.shelf.undo()
    assert slider.value() == 2
    measured = card.counting.checks.purpose
    qtbot.keyClick(slider, Qt.Key.Key_Home)
    assert grown.focus.shelf.plan.counting.purpose == {}
    assert card.view.chart().highest is None
    assert card.counting.checks.purpose is measured  # weights need no new measuring


@pytest.mark.slow
def test_other_counts_are_measured_anew_and_stopped_work_waits(
    card: PurposeCard, grown: Window, qtbot: QtBot
) -> None:
    card.counting.questions.weigh({"inside": 1.0})
    grown.count.last.setValue(12)
    qtbot.waitUntil(lambda: card.counting.at_work("purpose"))
    assert card.stop.isVisible()
    qtbot.waitUntil(lambda: card.counting.checks.purpose is not None)
    qtbot.mouseClick(card.stop, LEFT)
    settled(grown, qtbot)
    part = card.counting.checks.purpose
    done = np.isfinite(part.ranked({"inside": 1.0}))
    assert done[0]
    assert not done[-1]
    assert not card.counting.at_work("purpose")
    card.view.chart()
    grown.go_to(2)
    grown.go_to(3)  # looked at again: what was stopped is not begun by itself
    QApplication.processEvents()
    assert not card.counting.at_work("purpose")


@pytest.mark.slow
def test_what_was_measured_is_kept_in_the_study(
    card: PurposeCard, grown: Window, qtbot: QtBot
) -> None:
    card.counting.questions.weigh({"inside": 1.0})
    measured = card.counting.checks.purpose
    grown.focus.shelf.change("tree", linkage="average")
    with qtbot.waitSignal(grown.focus.tree_changed):
        grown.acts.grow()
    settled(grown, qtbot)
    assert card.counting.checks.purpose is not measured
    grown.focus.shelf.undo()
    settled(grown, qtbot)
    assert card.counting.checks.purpose is not None
