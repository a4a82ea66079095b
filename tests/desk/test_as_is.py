"""Whatever columns, answers, groups and files are called: the window shows it letter by letter."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import numpy as np
import pytest
from hypothesis import example, given
from hypothesis import strategies as st
from PySide6.QtCore import QPoint
from PySide6.QtGui import Qt, QTextDocument
from PySide6.QtWidgets import (
    QAbstractButton,
    QAbstractItemView,
    QApplication,
    QInputDialog,
    QLabel,
    QMenu,
    QToolTip,
    QWidget,
)
from pytestqt.qtbot import QtBot

from gorvel.desk.controls.plain_text import (
    PlainButton,
    PlainTick,
    as_item,
    as_question,
    as_tip,
    show_tip,
)
from gorvel.desk.window.pages import NAMES
from gorvel.desk.window.window import Window

NAME = "t & <b>u<b>.csv"
PLAN = f"""
gorvel = 1
source = {{file = "{NAME}"}}
cases = {{label = "<i>id</i> & no", split = "of & in", keep = "`x<b>` < 90"}}
variables = {{use = ["a & b", "x<b>"], nominal = ["of & in", "<u>c</u>"], profile = ["<u>c</u>"]}}
"""
SHOWN = st.text("ab &<>/;\"'\n\u00e9", max_size=30)


def seen_of_tip(words: str) -> str:
    """What can be read in a tip of these words."""
    if not Qt.mightBeRichText(words):
        return words
    page = QTextDocument()
    page.setHtml(words)
    return page.toPlainText().replace("\u00a0", " ")


@example("&&", "<b>")
@given(SHOWN, st.sampled_from(["", "<b>", "<i>x</i>", "<p>", "R&amp;D", "<img src='x'>"]))
def test_words_are_shown_as_they_are(words: str, tag: str) -> None:
    words = f"{words}{tag} {words}".strip()
    assert [*seen_of_tip(as_tip(words)).split()] == words.split()
    asked = as_question(words)
    if not Qt.mightBeRichText(words):  # then each ampersand stands twice, or it would be a key
        assert "&" not in asked.replace("&&", "")
        asked = asked.replace("&&", "&")
    assert seen_of_tip(asked).split() == words.split()
    button, tick = PlainButton(), PlainTick(words)
    button.setText(words)
    for one in (button, tick):
        assert one.text() == words
        # what Qt holds: each ampersand twice, so that none is a key
        assert as_item(words) == one.property("text")
    assert as_tip(None) is None
    assert as_item("a\tb") == "a b"


def odd_ones(root: QWidget) -> Iterator[str]:
    """Words that Qt may show as others than they are."""
    for one in (root, *root.findChildren(QWidget)):
        tips, items = [one.toolTip()], []
        if isinstance(one, QLabel) and one.textFormat() != Qt.TextFormat.PlainText:
            tips.append(one.text())
        if isinstance(one, QAbstractButton):
            items.append(str(one.property("text")))
        if isinstance(one, QMenu):
            items += [action.text() for action in one.actions()]
        if isinstance(one, QAbstractItemView) and (model := one.model()) is not None:
            for row in range(min(model.rowCount(), 12)):
                for column in range(min(model.columnCount(), 12)):
                    cell = model.index(row, column)
                    tips.append(cell.data(Qt.ItemDataRole.ToolTipRole) or "")
            for column in range(min(model.columnCount(), 12)):
                head = Qt.Orientation.Horizontal, Qt.ItemDataRole.ToolTipRole
                tips.append(model.headerData(column, *head) or "")
        # what was made plain is a page of its own
        yield from (tip for tip in tips if Qt.mightBeRichText(tip) and "&lt;" not in tip)
        yield from (item for item in items if "&" in item.replace("&&", ""))


@pytest.fixture
def odd(window: Window, qtbot: QtBot, tmp_path: Path) -> Window:
    rng = np.random.default_rng(3)
    rows = ['"<i>id</i> & no",a & b,x<b>,<u>c</u>,of & in']
    for k in range(40):
        a, x = rng.normal(3 * (k % 4)), rng.normal()
        group, word = ("A & B", "<u>C</u>")[k % 2], ("<b>yes</b> & no", "R & D")[k // 20]
        rows.append(f"<b>R&D</b> {k},{a:.3f},{x:.3f},{word},{group}")
    (tmp_path / NAME).write_text("\n".join(rows))
    (tmp_path / "p & q.toml").write_text(PLAN)
    with qtbot.waitSignal(window.acts.opened):
        window.acts.open(tmp_path / "p & q.toml")
    with qtbot.waitSignal(window.focus.tree_changed):
        window.acts.grow()
    return window


@pytest.mark.slow
def test_every_page_shows_every_name_as_it_is(
    odd: Window, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    focus = odd.focus
    focus.name_cluster(1, "<b>E</b> & F")
    focus.shelf.call(focus.shelf.study.in_hand, "1 & <i>2</i>")
    focus.shelf.keep()
    found: dict[str, set[str]] = {}
    for page, name in enumerate(NAMES):
        odd.go_to(page)
        qtbot.waitUntil(lambda: odd.acts.jobs.idle)
        tabs = [one for one in odd.pages.seen.findChildren(QAbstractButton) if one.property("tab")]
        for tab in tabs:
            if tab.isVisible() and tab.isEnabled():
                tab.click()
                qtbot.waitUntil(lambda: odd.acts.jobs.idle)
                QApplication.processEvents()
                found[f"{name}: {tab.text()}"] = set(odd_ones(odd))
    menu = odd.build_menu()
    found["menu"] = set(odd_ones(menu))
    menu.close()
    assert {place: words for place, words in found.items() if words} == {}
    assert len(found) > 20
    assert [tab.text() for tab in odd.groups.tabs.values()] == ["A & B  20", "<u>C</u>  20"]
    assert odd.groups.tabs["A & B"].property("text") == "A && B  20"

    asked: list[str] = []

    def ask(_: QWidget, title: str, words: str, **given: str) -> tuple[str, bool]:
        asked.append(words)
        return "", False

    monkeypatch.setattr(QInputDialog, "getText", ask)
    monkeypatch.setattr(QInputDialog, "getMultiLineText", lambda *told: ask(*told[:3]))
    odd.tree.desk.name_cluster(1)
    card = odd.shelf.cards[0]
    card.write_note()
    assert seen_of_tip(asked[1]) == "About 1 & <i>2</i>:"


def test_tips_below_the_pointer_are_as_they_are(odd: Window, qtbot: QtBot) -> None:
    show_tip(odd.mapToGlobal(QPoint(50, 50)), "<b>R&D</b> 1", odd)
    assert seen_of_tip(QToolTip.text()) == "<b>R&D</b> 1"
    show_tip(odd.mapToGlobal(QPoint(50, 50)), "", odd)
