"""Links that copy what a view shows as a table and a picture, and save the picture."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from pathlib import Path

from PySide6.QtCore import QMimeData
from PySide6.QtGui import QAction
from PySide6.QtWidgets import QMenu, QPushButton, QWidget

from gorvel.core.results.registry import RESULTS
from gorvel.core.results.table import ResultTable
from gorvel.desk.controls.clipboard import put_on_clipboard
from gorvel.desk.controls.file_dialog import ask_beside
from gorvel.desk.controls.plain_text import as_item
from gorvel.desk.views.tables import copy_table
from gorvel.desk.work.actions import Actions
from gorvel.paint.figure import Printable, Sheet, as_mime, drawn
from gorvel.paint.result_figures import FIGURES
from gorvel.paint.theme import font

_KINDS = "SVG drawing (*.svg);;PDF document (*.pdf);;PNG image (*.png)"

_TABLES = "Comma-separated table (*.csv);;Spreadsheet (*.xlsx)"


class TakeAway(QPushButton):
    """A menu behind a link. table, picture : make what is taken; None hides the entry."""

    def __init__(
        self,
        actions: Actions,
        stem: str,
        table: Callable[[], ResultTable | None] | None = None,
        picture: Callable[[], Printable | None] | None = None,
        parent: QWidget | None = None,
    ) -> None:
        super().__init__("⋯", parent)
        self.acts, self.stem, self.table, self.picture = actions, stem, table, picture
        self.setFont(font("text", 600))
        self.setProperty("more", True)
        self.setFixedSize(28, 28)
        self.setToolTip("Copy or save")
        self.setAccessibleName("Copy or save")
        menu = QMenu(self)
        for words, act, wanted in (
            ("Copy table", self.copy_values, table),
            ("Save table …", self._ask_table, table),
            ("Copy figure", self.copy_picture, picture),
            ("Save figure …", self._ask, picture),
        ):
            if wanted is not None:
                action = QAction(as_item(words), menu)
                action.triggered.connect(act)
                menu.addAction(action)
        self.setMenu(menu)

    @classmethod
    def of(
        cls, actions: Actions, key: str, picture: Callable[[], Printable | None] | None = None
    ) -> TakeAway:
        """Of a result, made of what is known when it is taken.

        picture : of results whose figure is drawn from what a view shows.
        """

        def table() -> ResultTable | None:
            known = actions.findings()
            return None if known is None else RESULTS[key].table(known)

        def figure() -> Sheet | None:
            known = actions.findings()
            return None if known is None else FIGURES[key](known)

        if picture is None and key in FIGURES:
            picture = figure
        return cls(actions, RESULTS[key].file, table, picture)

    def copy_values(self) -> None:
        """The table goes to the clipboard."""
        table = self.table() if self.table is not None else None
        if table is not None:
            copy_table(table)
            self.acts.said.emit("Copied.", False)

    def copy_picture(self) -> None:
        """The figure goes to the clipboard, as an image and as SVG."""
        figure = self.picture() if self.picture is not None else None
        if figure is not None:
            data: QMimeData = as_mime(figure)
            put_on_clipboard(data)
            self.acts.said.emit("Copied.", False)

    def _ask(self) -> None:
        path = self._where("Save the figure", f"{self.stem}.svg", _KINDS)
        if path is not None:
            self.save_to(path)

    def _ask_table(self) -> None:
        path = self._where("Save the table", f"{self.stem}.csv", _TABLES)
        if path is not None:
            self.save_table_to(path)

    def _where(self, title: str, ending: str, kinds: str) -> Path | None:
        study = self.acts.focus.shelf.study
        return None if study is None else ask_beside(self, title, study.data_file, ending, kinds)

    def save_table_to(self, path: Path) -> None:
        """Write the table and say so."""
        table = self.table() if self.table is not None else None
        if table is not None:
            self.acts.files.save_table(table, path)

    def save_to(self, path: Path) -> None:
        """Write the figure and say so."""
        figure = self.picture() if self.picture is not None else None
        if figure is not None:
            self.acts.files.save_figure(partial(drawn, figure), path)
