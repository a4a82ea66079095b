"""Everything can be reached by keys, has a name to be read aloud, and can be read in both looks."""

from __future__ import annotations

import itertools
import math

import pytest
from PySide6.QtCore import Qt
from PySide6.QtGui import QColor, QKeySequence
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
from gorvel.paint.theme import DARK, LIGHT, Theme

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


def brightness(colour: str) -> float:
    """Relative luminance (WCAG 2)."""
    red, green, blue = linear(colour)
    return 0.2126 * red + 0.7152 * green + 0.0722 * blue


def linear(colour: str) -> list[float]:
    """Amounts of light (sRGB), 0 to 1."""
    shares = QColor(colour).getRgbF()[:3]
    return [v / 12.92 if v <= 0.04045 else ((v + 0.055) / 1.055) ** 2.4 for v in shares]


def seen_without_green(light: list[float]) -> list[float]:
    """As eyes without green cones see it (Machado, Oliveira & Fernandes 2009)."""
    rows = ((0.367, 0.861, -0.228), (0.280, 0.673, 0.047), (-0.012, 0.043, 0.969))
    made = [sum(a * b for a, b in zip(row, light, strict=True)) for row in rows]
    return [min(max(value, 0.0), 1.0) for value in made]


def lab(light: list[float]) -> tuple[float, float, float]:
    """CIE L*a*b* of amounts of light, white D65."""
    r, g, b = light
    x = (0.4124 * r + 0.3576 * g + 0.1805 * b) / 0.9505
    y = 0.2126 * r + 0.7152 * g + 0.0722 * b
    z = (0.0193 * r + 0.1192 * g + 0.9505 * b) / 1.089
    f = [v ** (1 / 3) if v > 0.008856 else 7.787 * v + 16 / 116 for v in (x, y, z)]
    return 116 * f[1] - 16, 500 * (f[0] - f[1]), 200 * (f[1] - f[2])


def contrast(one: str, other: str) -> float:
    """Contrast ratio (WCAG 2), 1 to 21."""
    dark, light = sorted((brightness(one), brightness(other)))
    return (light + 0.05) / (dark + 0.05)


@pytest.mark.parametrize("theme", [LIGHT, DARK], ids=lambda theme: theme.name)
def test_words_can_be_read_on_every_ground(theme: Theme) -> None:
    for words, ground in itertools.product(
        (theme.ink, theme.soft, theme.focus, theme.cut), (theme.paper, theme.panel)
    ):
        assert contrast(words, ground) >= 4.5, (words, ground)
    assert contrast(theme.ink, theme.tint) >= 4.5
    assert contrast(theme.on_cut, theme.cut) >= 4.5
    for cluster in theme.clusters:  # bars and lines, beside a letter
        assert contrast(cluster, theme.panel) >= 3.0, cluster
    assert contrast(theme.proximities[0], theme.proximities[-1]) >= 7


@pytest.mark.parametrize("theme", [LIGHT, DARK], ids=lambda theme: theme.name)
def test_clusters_are_told_apart_by_colour_blind_eyes_too(theme: Theme) -> None:
    for one, other in itertools.combinations(theme.clusters, 2):
        mine, its = linear(one), linear(other)
        assert math.dist(lab(mine), lab(its)) > 25, (one, other)
        blind = lab(seen_without_green(mine)), lab(seen_without_green(its))
        assert math.dist(*blind) > 7, (one, other)
