"""Files whose rows stand below those of the first, and files whose columns stand beside them."""

from __future__ import annotations

import os
from functools import partial
from pathlib import Path

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QComboBox, QHBoxLayout, QVBoxLayout, QWidget

from gorvel.core.plan.parts import JoinPlan, SourcePlan
from gorvel.desk.controls.arranging import fill, in_row
from gorvel.desk.controls.file_dialog import ask_for_files, tables_filter
from gorvel.desk.controls.texts import button, clear, text
from gorvel.paint.theme import SPACE, font


class OtherFiles(QWidget):
    """A line for each; the columns that could be a key are those of the first file.

    Signals: changed(), another choice of `also` or `join`.
    """

    changed = Signal()

    def __init__(self, data: Path, source: SourcePlan, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.folder = data.parent
        self.also, self.join = list(source.also), list(source.join)
        self.columns: list[str] = []
        self.keys: list[QComboBox] = []
        self._lines = QVBoxLayout()
        self._lines.setSpacing(2)
        self.below = button(
            "Add rows of another file …", self._add_below, "", "Files of the same form"
        )
        self.beside = button(
            "Add columns of another file …", self._add_beside, "", "Joined by a key column"
        )
        fill(self, self._lines, in_row(self.below, self.beside, None), space=2)
        self._show()

    def name_columns(self, names: list[str]) -> None:
        """The columns of the first file, which may be keys."""
        if names != self.columns:
            self.columns = names
            self._show()

    def _asked(self, title: str) -> list[str]:
        files = ask_for_files(self.window(), title, self.folder, tables_filter())
        return [os.path.relpath(file, self.folder) for file in files]

    def _add_below(self) -> None:
        self.add_below(self._asked("Rows of other files below"))

    def add_below(self, names: list[str]) -> None:
        """Put the rows of files below, each once."""
        new = [name for name in names if name not in self.also]
        if new:
            self.also += new
            self._tell()

    def _add_beside(self) -> None:
        for name in self._asked("Columns of another file")[:1]:
            self.add_beside(name)

    def add_beside(self, name: str) -> None:
        """Put the columns of a file beside, by the first column until another key is chosen."""
        by = self.columns[0] if self.columns else "id"
        self.join.append(JoinPlan(file=name, by=by))
        self._tell()

    def _tell(self) -> None:
        self._show()
        self.changed.emit()

    def _show(self) -> None:
        clear(self._lines)
        self.keys = []
        for name in self.also:
            self._line(f"below: the rows of {name}", partial(self._drop_below, name), None)
        for place, join in enumerate(self.join):
            key = QComboBox()
            key.setFont(font("table"))
            key.setAccessibleName(f"Key column of {join.file}")
            key.addItems(self.columns if join.by in self.columns else [join.by, *self.columns])
            key.setCurrentText(join.by)
            key.activated.connect(partial(self._keyed, place, key))
            self.keys.append(key)
            words = f"Columns of {join.file}, by"
            self._line(words, partial(self._drop_beside, place), key)

    def _line(self, words: str, drop: partial[None], key: QComboBox | None) -> None:
        line = QWidget()
        row = QHBoxLayout(line)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(SPACE)
        row.addWidget(text(words, wrap=False))
        if key is not None:
            row.addWidget(key)
        row.addStretch(1)
        link = button("Remove", drop)
        link.setAccessibleName(f"Remove {words}")
        row.addWidget(link)
        self._lines.addWidget(line)

    def _drop_below(self, name: str) -> None:
        self.also.remove(name)
        self._tell()

    def _drop_beside(self, place: int) -> None:
        del self.join[place]
        self._tell()

    def _keyed(self, place: int, key: QComboBox, index: int) -> None:
        del index
        self.join[place] = JoinPlan(file=self.join[place].file, by=key.currentText())
        self._tell()
