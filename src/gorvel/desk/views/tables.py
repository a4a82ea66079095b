"""How all tables look."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

from PySide6.QtCore import QMimeData
from PySide6.QtWidgets import QAbstractItemView, QHeaderView, QTableView

from gorvel.core.results.table import ResultTable
from gorvel.desk.controls.clipboard import put_on_clipboard
from gorvel.paint.theme import font, text_scale

_BESIDE = 24  # pixels of a cell beside its words


def dress(view: QTableView, name: str, widths: Sequence[int] = (), row: int = 22) -> None:
    """The house style of a table.

    name : for screen readers; row : pixels of a row; widths : of columns at a text scale of 1, for
    a list whose rows are chosen whole; without them it is a grid of cells with numbered rows.
    """
    view.setFont(font("table"))
    view.setShowGrid(False)
    view.setWordWrap(False)
    view.setTabKeyNavigation(False)
    view.setAccessibleName(name)
    view.verticalHeader().setDefaultSectionSize(row)
    for head in (view.verticalHeader(), view.horizontalHeader()):
        head.setFont(font("note"))
        head.setHighlightSections(False)
    if not widths:
        return
    view.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
    view.verticalHeader().hide()
    view.horizontalHeader().setSectionResizeMode(QHeaderView.ResizeMode.Interactive)
    view.horizontalHeader().setStretchLastSection(True)
    for column, wide in enumerate(widths):
        view.setColumnWidth(column, round(wide * text_scale()))


def widen(view: QTableView, columns: Iterable[int], longest: str) -> None:
    """Give columns the room that their longest words take, where they have less."""
    wide = view.fontMetrics().horizontalAdvance(longest) + _BESIDE
    for column in columns:
        view.setColumnWidth(column, max(view.columnWidth(column), wide))


def copy_table(table: ResultTable) -> None:
    """Put a table on the clipboard: tab-separated, and as HTML for word processors."""
    data = QMimeData()
    data.setText(table.tsv())
    data.setHtml(table.html())
    put_on_clipboard(data)
