"""Everything that can be done from any page: one list, behind the keys and behind the menu."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass
from functools import partial
from pathlib import Path
from typing import Protocol

from PySide6.QtGui import QAction, QKeySequence, QShortcut
from PySide6.QtWidgets import QApplication, QMenu, QWidget

from gorvel.core.words.count import choice_sentence
from gorvel.desk.controls.delete_on_close import delete_on_close
from gorvel.desk.controls.group_tabs import GroupTabs
from gorvel.desk.controls.plain_text import as_item
from gorvel.desk.editors.plan_sentence import PlanSentence
from gorvel.desk.state.focus import Focus
from gorvel.desk.state.settings import Settings
from gorvel.desk.window.dialogs import Dialogs
from gorvel.paint.theme import DARK, current, font

_PAGES = 7  # that Alt and a number turn to


class Commanded(Protocol):
    """What commands are given to: a window."""

    focus: Focus
    settings: Settings
    dialogs: Dialogs
    sentence: PlanSentence
    groups: GroupTabs
    shelf_seen: bool

    def go_to(self, page: int) -> None: ...
    def to_variables(self) -> None: ...
    def turn_answers(self) -> None: ...
    def grow(self) -> None: ...
    def keep_tree(self) -> None: ...
    def toggle_shelf(self) -> None: ...
    def open_menu(self) -> None: ...
    def show_keys(self) -> None: ...
    def show_about(self) -> object: ...
    def other_theme(self) -> None: ...
    def scale_text(self, factor: float) -> None: ...
    def close(self) -> bool: ...


@dataclass(frozen=True)
class Command:
    """One thing to do.

    words : "" for one that is in no menu, and "-" for a line there; keys : one or more, of which
    the menu names the first; ready : can it be done now; inside : of a menu of its own, what is in
    it.
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
    menu = delete_on_close(QMenu(parent))
    _fill(menu, commands)
    return menu


def _fill(menu: QMenu, commands: Iterable[Command]) -> None:
    for command in commands:
        if command.words.startswith("-"):
            menu.addSeparator()
            head = menu.addAction(as_item(command.words.removeprefix("-").strip()))
            head.setFont(font("note", 600))
            head.setEnabled(False)
        elif command.inside:
            _fill(menu.addMenu(as_item(command.words)), command.inside)
        elif command.words:
            keys = f"\t{command.keys[0]}" if command.keys else ""
            action = QAction(as_item(command.words) + keys, menu)
            action.setEnabled(command.ready)
            action.triggered.connect(lambda _=False, act=command.act: act())
            menu.addAction(action)


def recent_files(names: Iterable[str], open_file: Callable[[Path], object]) -> Iterable[Command]:
    """A command for each file used last; those that are gone say so."""
    for name in names:
        path = Path(name)
        there = path.exists()
        gone = "" if there else "  (not found)"
        yield Command(f"{path.name}{gone}", act=lambda path=path: open_file(path), ready=there)  # type: ignore[misc]


def commands_of(window: Commanded) -> tuple[Command, ...]:
    """Everything that can be done from any page of a window, as it stands now."""
    focus, ask = window.focus, window.dialogs
    other = "Light theme" if current() is DARK else "Dark theme"
    ready, cut = focus.shelf.study is not None, focus.cut is not None
    table = focus.shelf.plan is not None and focus.shelf.plan.source.kind == "table"
    back, again = focus.shelf.to_undo, focus.shelf.to_redo
    recent = tuple(recent_files(window.settings.recent, ask.open_recent))
    shelf = "Hide the shelf" if window.shelf_seen else "Show the shelf"
    return (
        Command("- Study"),
        Command("Open …", ("Ctrl+O",), ask.open),
        Command("Open recent", ready=bool(recent), inside=recent),
        Command("Open with options …", ("Ctrl+Shift+O",), ask.preview),
        Command("Save the study", ("Ctrl+S",), ask.save_study, ready),
        Command("Save the study as …", ("Ctrl+Shift+S",), ask.save_study_as, ready),
        Command("- Data and results"),
        Command("Save memberships …", ("Ctrl+M",), ask.save_memberships, cut),
        Command("Save the plan …", ("Ctrl+Shift+P",), ask.save_plan, ready),
        Command("Convert answers to numbers …", ("Ctrl+E",), window.turn_answers, table),
        Command("Import codebook …", (), ask.read_codebook, table),
        Command("Export codebook …", (), ask.save_codebook, table),
        Command("- Tree"),
        Command("Grow the tree", ("Ctrl+G",), window.grow, ready),
        Command("Keep this tree", ("Ctrl+K",), window.keep_tree, ready),
        Command(shelf, ("Ctrl+L",), window.toggle_shelf, ready),
        Command(f"Undo{_after(back)}", ("Ctrl+Z",), focus.shelf.undo, bool(back)),
        Command(f"Redo{_after(again)}", ("Ctrl+Shift+Z", "Ctrl+Y"), focus.shelf.redo, bool(again)),
        Command("Copy the plan sentence", (), partial(_copy_sentence, window), ready),
        Command("- Window"),
        Command(other, ("Ctrl+T",), window.other_theme),
        Command("Larger text", ("Ctrl++",), lambda: window.scale_text(1.1)),
        Command("Smaller text", ("Ctrl+-",), lambda: window.scale_text(1 / 1.1)),
        Command("Keyboard shortcuts", ("F1",), window.show_keys),
        Command("About Gorvel", (), window.show_about),
        Command("Quit", ("Ctrl+Q",), window.close),
        Command("", ("Alt+M",), window.open_menu),
        *(Command("", (f"Alt+{k + 1}",), partial(window.go_to, k)) for k in range(_PAGES)),
        Command("", ("Alt+V",), window.to_variables),
        Command("", ("Ctrl+PgDown",), lambda: window.groups.step(1)),
        Command("", ("Ctrl+PgUp",), lambda: window.groups.step(-1)),
    )


def _copy_sentence(window: Commanded) -> None:
    plan = window.focus.shelf.plan
    taken = "" if plan is None else choice_sentence(plan.counting)
    QApplication.clipboard().setText(f"{window.sentence.sentence()} {taken}".strip())


def _after(words: str) -> str:
    return f": {words}" if words else ""
