"""Words of the data on buttons, in menus, tips and questions: they are shown as they are.

Qt takes an ampersand for a key and what looks like a tag for markup; what follows a tab stands on
the right of a menu.
"""

from __future__ import annotations

from typing import overload

from PySide6.QtCore import QPoint
from PySide6.QtGui import Qt
from PySide6.QtWidgets import QCheckBox, QPushButton, QToolTip, QWidget


def as_item(words: str) -> str:
    """An entry of a menu, or what stands on a button."""
    return words.replace("&", "&&").replace("\t", " ")


@overload
def as_tip(words: str) -> str: ...
@overload
def as_tip(words: str | None) -> str | None: ...
def as_tip(words: str | None) -> str | None:
    """What is said of what lies below the pointer; None where nothing is."""
    if words is None or not Qt.mightBeRichText(words):
        return words
    return Qt.convertFromPlainText(words, Qt.WhiteSpaceMode.WhiteSpaceNormal)


def as_question(words: str) -> str:
    """What is asked where something is typed."""
    return as_tip(words) if Qt.mightBeRichText(words) else words.replace("&", "&&")


def show_tip(at: QPoint, words: str, of: QWidget) -> None:
    """Say something at a place on the screen; no words, and what was said goes."""
    QToolTip.showText(at, as_tip(words), of)


class _Plain:
    """What is put before a kind of button, so that its words stand for themselves."""

    def __init__(self, words: str = "", parent: QWidget | None = None) -> None:
        super().__init__(as_item(words), parent)  # type: ignore[call-arg]  # of the button

    def setText(self, words: str) -> None:
        super().setText(as_item(words))  # type: ignore[misc]

    def text(self) -> str:
        told: str = super().text()  # type: ignore[misc]
        return told.replace("&&", "&")


class PlainButton(_Plain, QPushButton):
    """A button whose words stand for themselves."""


class PlainTick(_Plain, QCheckBox):
    """A box to tick whose words stand for themselves."""
