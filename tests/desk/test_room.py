"""Where there is little room nothing is cut within a letter or lies over something else."""

from __future__ import annotations

from itertools import pairwise

import pytest
from hypothesis import given
from hypothesis import strategies as st
from PySide6.QtCore import QPoint, Qt
from PySide6.QtGui import QFontMetricsF, QHelpEvent
from PySide6.QtWidgets import QApplication, QToolTip
from pytestqt.qtbot import QtBot

from driving import moved, settled
from gorvel.desk.controls.path_strip import PathStrip, Stop
from gorvel.desk.controls.texts import aside
from gorvel.desk.window.pages import NAMES
from gorvel.desk.window.window import Window
from gorvel.paint.theme import font

PAGES = ("Cases", "Plan", "Tree", "Count", "Profiles", "Compare", "Memberships")
STATES = st.lists(st.text("abc ,0123", max_size=60), min_size=7, max_size=7)
TIP = QHelpEvent.Type.ToolTip


def strip_of(states: list[str], wide: int) -> PathStrip:
    strip = PathStrip()
    strip.show_stops(tuple(Stop(*both) for both in zip(PAGES, states, strict=True)), 0)
    strip.resize(wide, 56)
    return strip


@given(STATES, st.integers(800, 1800))
def test_all_stops_are_in_sight_with_their_names(states: list[str], wide: int) -> None:
    strip = strip_of(states, wide)
    places, name = strip.places(), QFontMetricsF(font("title", 600))
    assert places[-1].right() <= wide
    for one, other in pairwise(places):
        assert other.left() - one.right() >= 14.0 - 1e-6
    for page, place in zip(PAGES, places, strict=True):
        assert place.width() >= name.horizontalAdvance(page)
        assert strip._stop_at(place.center()) == PAGES.index(page)
    # where there is room for all there is nothing to cut
    roomy = strip_of(states, 20_000)
    assert all(
        roomy._told(stop, place) == stop.state
        for stop, place in zip(roomy.stops, roomy.places(), strict=True)
    )


def test_a_state_that_is_cut_short_is_said_where_it_is_pointed_at(qtbot: QtBot) -> None:
    states = ["few", "some words that go on and on, wherever they began", *["few"] * 5]
    strip = strip_of(states, 760)
    qtbot.addWidget(strip)
    place = strip.places()[1]
    assert strip._told(strip.stops[1], place).endswith("…")
    strip.mouseMoveEvent(moved(strip, place.center().x(), 20, Qt.MouseButton.NoButton))
    assert strip.toolTip() == states[1]
    first = strip.places()[0].center()
    strip.mouseMoveEvent(moved(strip, first.x(), 20, Qt.MouseButton.NoButton))
    assert strip.toolTip() == ""


@pytest.mark.parametrize(("wide", "cut"), [(40, True), (900, False)])
def test_soft_words_end_with_dots_where_there_is_no_room(
    qtbot: QtBot, wide: int, cut: bool
) -> None:
    label = aside("4 clusters & <b>more</b>")
    qtbot.addWidget(label)
    label.resize(wide, 20)
    label.show()
    assert label.text() == "4 clusters & <b>more</b>"
    assert label.shown.endswith("…") is cut
    assert not label.grab().isNull()
    QToolTip.hideText()
    at = QPoint(3, 3)
    QApplication.sendEvent(label, QHelpEvent(TIP, at, label.mapToGlobal(at)))
    assert ("4 clusters" in QToolTip.text()) is cut


@pytest.mark.slow
@pytest.mark.parametrize("scale", [1.0, 1.2])
def test_no_page_asks_for_more_than_a_small_screen(
    grown: Window, qtbot: QtBot, scale: float
) -> None:
    """With the shelf, on any page and tab; at the usual size of text nothing has to scroll."""
    grown.scale_text(scale)
    grown.keep_tree()
    if not grown.shelf_seen:
        grown.toggle_shelf()
    grown.resize(1200, 700)
    for number, name in enumerate(NAMES):
        grown.go_to(number)
        page = getattr(grown, name.lower())
        tabbed = page.answers if name == "Cases" else page
        for tab in range(len(getattr(tabbed, "tabs", [0]))):
            if hasattr(tabbed, "show_tab"):
                tabbed.show_tab(tab)
            settled(grown, qtbot)
            needed = grown.minimumSizeHint()
            assert needed.width() <= 1200, (name, tab)
            assert needed.height() <= 700, (name, tab)
            assert (grown.width(), grown.height()) == (1200, 700)
            bars = grown.room.horizontalScrollBar(), grown.room.verticalScrollBar()
            if scale == 1.0:
                assert [bar.maximum() for bar in bars] == [0, 0], (name, tab)
