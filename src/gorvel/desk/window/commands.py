"""Everything that can be done from any page: one list, behind the keys and behind the menu."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass
from pathlib import Path

from PySide6.QtCore import Qt
from PySide6.QtGui import QAction, QKeySequence, QShortcut
from PySide6.QtWidgets import QMenu, QWidget

__all__ = ["Command", "add_keys", "made_menu", "recent_files"]


@dataclass(frozen=True)
class Command:
    """One thing to do. words : "" for one that is in no menu, and "-" for a line there; keys : one

    or more, of which the menu names the first; ready : can it be done now; inside : of a menu of
    its own, what is in it.
    """

    words: str
    keys: tuple[str, ...] = ()
    act: Callable[[], object] = lambda: None
    ready: bool = True
    inside: tuple[Command, ...] = ()


def add_keys(commands: Iterable[Command], window: QWidget) -> None:
    """Have the keys of some commands do what they say, anywhere in a window."""
    for command in commands:
        for keys in command.keys:
            QShortcut(QKeySequence(keys), window, command.act)


def made_menu(commands: Iterable[Command], parent: QWidget) -> QMenu:
    """The menu of some commands."""
    menu = QMenu(parent)
    menu.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
    _fill(menu, commands)
    return menu


def _fill(menu: QMenu, commands: Iterable[Command]) -> None:
    for command in commands:
        if command.words == "-":
            menu.addSeparator()
        elif command.inside:
            _fill(menu.addMenu(command.words), command.inside)
        elif command.words:
            keys = f"\t{command.keys[0]}" if command.keys else ""
            action = QAction(f"{command.words}{keys}", menu)
            action.setEnabled(command.ready)
            action.triggered.connect(lambda _=False, act=command.act: act())
            menu.addAction(action)


def recent_files(names: Iterable[str], open_file: Callable[[Path], object]) -> Iterable[Command]:
    """A command for each file used last; those that are gone say so."""
    for name in names:
        path = Path(name)
        there = path.exists()
        gone = "" if there else "  (not there any more)"
        yield Command(f"{path.name}{gone}", act=lambda path=path: open_file(path), ready=there)  # type: ignore[misc]
