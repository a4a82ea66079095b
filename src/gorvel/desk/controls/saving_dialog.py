"""Asking where something is to be saved: nothing is replaced that was not asked about."""

from __future__ import annotations

import re
from pathlib import Path

from PySide6.QtWidgets import QFileDialog, QWidget

from gorvel.desk.controls.dialog_parts import ask

__all__ = ["ask_beside", "ask_where"]

_ENDING = re.compile(r"\*(\.\w+)")
_ANOTHER = "Use another name …"
_ANSWERS = (_ANOTHER, "Replace", "Cancel")
_OTHER = re.compile(r"\.[A-Za-z]+")  # an ending, and not the rest of a name such as "wave 2.1"


def ask_where(parent: QWidget, title: str, start: Path, kinds: str) -> tuple[Path, str] | None:
    """A file, its name with an ending, and its kind; None where it was thought better of.

    start : the name that is proposed; kinds : as Qt lists them. An ending of another kind stays
    where there are several: whoever writes the file says what becomes of it.
    """
    while True:
        name, kind = QFileDialog.getSaveFileName(parent, title, str(start), kinds)
        if not name:
            return None
        given, endings = Path(name), _ENDING.findall(kinds)
        suffix = given.suffix.lower()
        named = suffix in endings or (len(set(endings)) > 1 and _OTHER.fullmatch(suffix))
        path = given if named else given.with_name(given.name + _ENDING.findall(kind or kinds)[0])
        if path == given or not path.exists():
            return path, kind
        # Qt asked about the name as it was typed, which had no ending
        answer = ask(parent, f"{path.name} already exists.", *_ANSWERS)
        if _ANSWERS[answer] != _ANOTHER:
            return (path, kind) if answer == 1 else None
        start = path


def ask_beside(
    parent: QWidget, title: str, data_file: Path, ending: str, kinds: str
) -> Path | None:
    """The same, of a file beside the data. ending : what is proposed after the name of theirs."""
    start = data_file.with_name(f"{data_file.stem}-{ending}")
    found = ask_where(parent, title, start, kinds)
    return None if found is None else found[0]
