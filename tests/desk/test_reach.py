"""Everything can be reached by keys, has a name to be read aloud, and can be read in both looks."""

from __future__ import annotations

import pytest
from PySide6.QtCore import Qt
from PySide6.QtGui import QKeySequence
from PySide6.QtWidgets import (
    QAbstractButton,
    QAbstractScrollArea,
    QAbstractSpinBox,
    QComboBox,
    QLineEdit,
    QPlainTextEdit,
    QWidget,
)
from pytestqt.qtbot import QtBot

from driving import press
from gorvel.desk.controls.shortcuts import KEYS
from gorvel.desk.window.commands import Command
from gorvel.desk.window.window import Window

FIELDS = (QAbstractButton, QAbstractSpinBox, QComboBox, QLineEdit, QPlainTextEdit)
PAGES = ("cases", "plan", "tree", "count")


def in_sight(window: Window) -> list[QWidget]:
    """What can be clicked or typed into, as it stands."""
    found = [w for kind in FIELDS for w in window.findChildren(kind)]
    return [w for w in dict.fromkeys(found) if w.isVisible() and w.isEnabled() and not _inner(w)]


def _inner(widget: QWidget) -> bool:
    """A part of a field that is a field itself, or a scroll bar's button."""
    above = widget.parentWidget()
    return isinstance(above, (QAbstractSpinBox, QComboBox)) or (
        isinstance(above, QAbstractScrollArea) and not isinstance(widget, FIELDS[0])
    )


def reached(window: Window, qtbot: QtBot) -> set[QWidget]:
    """All that Tab comes to, until it comes back to where it began."""
    seen: list[QWidget] = []
    for _ in range(400):
        at = window.focusWidget()
        assert at is not None
        if at in seen:
            break
        seen.append(at)
        window.focusNextChild()
    return set(seen)


@pytest.mark.slow
@pytest.mark.parametrize("page", range(5))
def test_every_field_is_reached_by_tab_and_has_a_name(
    grown: Window, qtbot: QtBot, page: int
) -> None:
    grown.go_to(page)
    press(grown, qtbot, "Ctrl+K")
    grown.focus.shelf.change("tree", linkage="complete")
    qtbot.waitUntil(lambda: grown.acts.jobs.idle)
    found = reached(grown, qtbot)
    missed = [
        w for w in in_sight(grown)
        if w not in found and w.focusPolicy() & Qt.FocusPolicy.TabFocus
    ]  # fmt: skip
    assert missed == []
    nameless = [
        w for w in in_sight(grown)
        if not (w.accessibleName() or getattr(w, "text", str)().strip() or _placeholder(w))
        and not isinstance(w, QAbstractSpinBox | QComboBox | QPlainTextEdit)
    ]  # fmt: skip
    assert nameless == []


def _placeholder(widget: QWidget) -> str:
    return widget.placeholderText() if isinstance(widget, QLineEdit) else ""


def test_no_two_commands_have_the_same_keys_and_all_are_listed(grown: Window) -> None:
    def flat(commands: tuple[Command, ...]) -> list[Command]:
        return [c for one in commands for c in (one, *flat(one.inside))]

    keys = [key for command in flat(grown.commands()) for key in command.keys]
    assert len(keys) == len(set(keys))
    assert not any(QKeySequence(key).isEmpty() for key in keys)
    listed = {key for place in KEYS.values() for words in place for key in words.split(", ")}
    listed |= {f"Alt+{k}" for k in range(1, 8)} | {"Ctrl+PgUp", "Ctrl+PgDown"}
    first = {command.keys[0] for command in flat(grown.commands()) if command.keys}
    assert first <= listed
