"""The order of the looks: what is found first, one step that is due, words that can be read."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtGui import QColor, QImage, QPainter
from PySide6.QtWidgets import QApplication, QLabel, QPushButton, QWidget
from pytestqt.qtbot import QtBot

from driving import LEFT, click, press, settled
from gorvel.desk.state.marks import Mark
from gorvel.desk.views.tabbed_page import TabbedPage
from gorvel.desk.window.application import first_scale
from gorvel.desk.window.pages import NAMES
from gorvel.desk.window.window import Window
from gorvel.paint.theme import current
from reference.colours import contrast

_FINE = 3  # dots of a pixel, so that strokes are wider than one
_THIN = 0.8  # of the contrast: strokes that are thinner than a dot do not reach all of it


def views(window: Window, qtbot: QtBot) -> Iterator[str]:
    """Every page with each of its tabs."""
    for place in range(7):
        window.go_to(place)
        settled(window, qtbot)
        page = getattr(window, NAMES[place].lower())
        tabs = page.tabs if isinstance(page, TabbedPage) else []
        for tab in tabs or [None]:
            if tab is not None:
                qtbot.mouseClick(tab, LEFT)
                settled(window, qtbot)
            yield f"{place} {'' if tab is None else tab.text()}"


def in_sight(window: Window, kind: type[QWidget]) -> list[QWidget]:
    """Widgets that can be seen, none of them wholly cut off."""
    return [
        w for w in window.findChildren(kind) if w.isVisible() and not w.visibleRegion().isEmpty()
    ]


@pytest.mark.slow
def test_actions_are_told_by_their_form(grown: Window, qtbot: QtBot) -> None:
    seen: set[str] = set()
    for view in views(grown, qtbot):
        buttons = in_sight(grown, QPushButton)
        filled = [one.text() for one in buttons if one.property("main")]
        assert len(filled) <= 1, (view, filled)
        seen.update(filled)
        for one in buttons:
            kinds = [k for k in ("main", "link", "tab", "value", "name", "chip", "more", "row")
                     if one.property(k)]  # fmt: skip
            assert len(kinds) <= 1, (view, one.text())
            strong = one.font().variableAxisValue(one.font().variableAxisTags()[0]) >= 600
            if kinds == ["link"] or (not kinds and one.objectName() != "badge"):
                assert not strong, (view, one.text())
            if one.text() == "⋯":
                assert one.accessibleName() == "Copy or save"
                assert one.size().toTuple() == (28, 28)
    assert not {"Grow the tree", "Grow the tree again"} & seen  # nothing of that is due
    grown.focus.shelf.change("tree", linkage="complete")
    settled(grown, qtbot)
    for place in (1, 2):
        grown.go_to(place)
        filled = [one.text() for one in in_sight(grown, QPushButton) if one.property("main")]
        assert filled == ["Grow the tree again"]


@pytest.mark.slow
@pytest.mark.parametrize("theme", ["light", "dark"])
def test_words_can_be_read_where_they_stand(grown: Window, qtbot: QtBot, theme: str) -> None:
    if theme == "dark":
        grown.other_theme()
    for view in views(grown, qtbot):
        image = QImage(grown.size() * _FINE, QImage.Format.Format_RGB32)
        image.setDevicePixelRatio(_FINE)
        with QPainter(image) as painter:
            grown.render(painter, QPoint(0, 0))
        pixels = np.frombuffer(image.constBits(), np.uint32).reshape(image.height(), -1)
        for one in [*in_sight(grown, QLabel), *in_sight(grown, QPushButton)]:
            if not one.text().strip() or not one.isEnabled() or one.visibleRegion().isEmpty():
                continue
            box = one.visibleRegion().boundingRect()
            if box.height() < one.height():  # cut off where something scrolls
                continue
            box.moveTopLeft(one.mapTo(grown, box.topLeft()))
            part = pixels[
                box.top() * _FINE : (box.bottom() + 1) * _FINE,
                box.left() * _FINE : (box.right() + 1) * _FINE,
            ]
            colours, times = np.unique(part & 0xFFFFFF, return_counts=True)
            names = [QColor.fromRgb(int(colour)).name() for colour in colours.tolist()]
            ground = names[int(times.argmax())]
            strongest = max(contrast(ground, name) for name in names)
            assert strongest >= _THIN * 4.5, (view, one.text(), ground)


def test_each_page_says_what_it_found(grown: Window, qtbot: QtBot) -> None:
    line, focus = grown.result, grown.focus
    assert line.isVisible()
    assert line.words.text() == "4 clusters of 79, 22, 63 and 44 cases; R² 0.58"
    focus.set_count(3)
    assert line.words.text() == "3 clusters of 79, 66 and 63 cases; R² 0.41"
    focus.set_count(9)
    assert line.words.text().startswith("9 clusters of ")
    assert " to " in line.words.text()
    told = {}
    for place in range(7):
        grown.go_to(place)
        settled(grown, qtbot)
        told[place] = line.words.text() if line.isVisible() else ""
    assert told[0] == "32 of 240 cases are excluded"
    assert told[1] == "The tree was grown by this plan"
    assert told[3] == ""  # the verdict stands there
    assert told[4].endswith(" separate the clusters most")
    assert told[5] == ""  # there is one tree
    assert told[6] == "208 cases in 9 clusters"
    focus.shelf.change("tree", linkage="complete")
    grown.go_to(1)
    assert line.words.text() == "This plan grows another tree"


def test_the_strip_of_clusters_is_the_key_on_every_page(grown: Window, qtbot: QtBot) -> None:
    focus, strip = grown.focus, grown.clusters
    shown = []
    for place in range(7):
        grown.go_to(place)
        shown.append(strip.isVisible())
    assert shown == [False, False, False, True, True, True, False]
    grown.go_to(4)
    QApplication.processEvents()
    chart = strip.chart()
    assert chart is not None
    assert [chart.names[k].name for k in chart.clusters] == ["A", "C", "B", "D"]
    widths = [chart.box(place).width() for place in range(4)]
    assert np.allclose(np.array(widths) + 2, strip.width() * np.array([79, 63, 22, 44]) / 208)
    for place, cluster in enumerate(chart.clusters):
        middle = chart.box(place).center()
        assert chart.at(middle.x(), middle.y()) == cluster
        click(qtbot, strip, middle.x(), middle.y())
        assert focus.selected == Mark("cluster", cluster + 1)
        assert strip.chart().marked == cluster
        assert chart.tip(cluster).startswith(chart.names[cluster].told)
    focus.set_count(1)
    grown.go_to(4)
    assert not strip.isVisible()


def test_a_ring_is_shown_to_the_keys_alone(grown: Window, qtbot: QtBot) -> None:
    press(grown, qtbot, "Alt+5")
    settled(grown, qtbot)
    qtbot.mouseClick(next(one for one in grown.profiles.tabs if one.text() == "Map"), LEFT)
    settled(grown, qtbot)
    view = grown.profiles.map.view
    view.setFocus(Qt.FocusReason.MouseFocusReason)
    assert not view.framed
    qtbot.keyClick(view, Qt.Key.Key_Shift)
    assert view.framed
    grown.setFocus()
    view.setFocus(Qt.FocusReason.TabFocusReason)
    assert view.framed


def test_what_wants_an_eye_has_a_sign_and_one_colour(grown: Window) -> None:
    grown.focus.shelf.change("tree", linkage="complete")
    picture = grown.strip.grab().toImage()
    seen = {picture.pixelColor(x, y).name() for x in range(picture.width()) for y in range(56)}
    assert current().warn.lower() in seen
    assert current().cut.lower() not in seen


def test_schedule_and_reading_stand_beside_the_drawing_where_there_is_room(grown: Window) -> None:
    page = grown.tree

    def places() -> tuple[QPoint, QPoint, QPoint]:
        QApplication.processEvents()
        return tuple(  # type: ignore[return-value]
            one.mapTo(page, QPoint(0, 0)) for one in (page.desk, page.schedule, page.reading)
        )

    grown.resize(1280, 800)
    drawing, schedule, reading = places()
    assert schedule.y() > drawing.y() + page.desk.height()
    assert abs(schedule.y() - reading.y()) < 80
    assert reading.x() > schedule.x()
    grown.resize(1920, 1080)
    drawing, schedule, reading = places()
    assert min(schedule.x(), reading.x()) >= drawing.x() + page.desk.width()
    assert reading.y() < schedule.y()
    grown.resize(1280, 800)
    drawing, schedule, _ = places()
    assert schedule.y() > drawing.y() + page.desk.height()


def test_the_drawing_can_have_the_whole_page(grown: Window) -> None:
    page = grown.tree
    menu = page.view.menu()
    QApplication.processEvents()
    before = page.desk.height()
    for shown in (False, True):
        menu.aboutToShow.emit()
        entry = next(one for one in menu.actions() if one.text() == "Schedule and reading")
        assert entry.isChecked() is not shown
        entry.trigger()
        QApplication.processEvents()
        assert page.schedule.isVisible() is shown
        assert (page.desk.height() > before + 100) is not shown


def test_what_is_said_beside_the_plan_goes_by_itself(grown: Window, qtbot: QtBot) -> None:
    grown._note_timer.setInterval(50)
    grown.say("Copied.", False)
    assert grown.note.text() == "Copied."
    qtbot.waitUntil(lambda: not grown.note.text())
    grown.say("That cannot be.", True)  # an error stays
    qtbot.wait(120)
    assert grown.alarm_words.text() == "That cannot be."


def test_a_portrait_is_as_high_as_its_words(grown: Window, qtbot: QtBot) -> None:
    press(grown, qtbot, "Alt+5")
    settled(grown, qtbot)
    field = grown.profiles.card.portrait
    lines = set()
    for words in ("", "a word", "many words of what it is like, " * 12):
        field.setPlainText(words)
        QApplication.processEvents()
        last = field.document().lastBlock()
        bottom = field.blockBoundingGeometry(last).translated(field.contentOffset()).bottom()
        assert bottom <= field.viewport().height() + 1
        assert field.verticalScrollBar().maximum() == 0
        lines.add(field.height())
    assert len(lines) == 2  # three lines at the least


def test_text_is_larger_on_a_first_start_on_a_very_wide_screen() -> None:
    assert [first_scale(wide) for wide in (1280, 1920, 2560, 3840)] == [1.0, 1.0, 1.0, 1.25]
