"""Cells that cannot be turned, each kind with its cases and what can be done about it."""

from __future__ import annotations

from collections.abc import Sequence
from functools import partial

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QComboBox, QHBoxLayout, QLineEdit, QVBoxLayout, QWidget

from gorvel.desk.controls.as_is import as_tip
from gorvel.desk.controls.texts import button, clear, counted, heading, text
from gorvel.desk.work.turning import UnturnedCell
from gorvel.paint.theme import SPACE, font

__all__ = ["UnturnedList"]

_MOST = 12  # kinds of cells that are listed
_MOST_ROWS = 5  # of a kind of cell that are named


class UnturnedList(QWidget):
    """Hidden while there are none.

    words_of : by column, the words that a cell can be read as; signals: missing(cell), read it as
    missing; corrected(cell, text).
    """

    missing = Signal(object)
    corrected = Signal(object, str)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._rows = QVBoxLayout(self)
        self._rows.setContentsMargins(0, 0, 0, 0)
        self._rows.setSpacing(2)
        self.fields: dict[tuple[str, str], QWidget] = {}
        self.links: dict[tuple[str, str], QWidget] = {}
        self.hide()

    def show_cells(
        self, cells: Sequence[UnturnedCell], words_of: dict[str, tuple[str, ...]]
    ) -> None:  # fmt: skip
        """Show other ones."""
        clear(self._rows)
        self.fields, self.links = {}, {}
        total = sum(len(cell.rows) for cell in cells)
        head = heading(f"{counted(total, 'cell')} cannot be turned", 1.0)
        head.setProperty("alarm", True)
        self._rows.addWidget(head)
        for cell in cells[:_MOST]:
            self._rows.addWidget(self._row(cell, words_of.get(cell.column, ())))
        if len(cells) > _MOST:
            more = f"and {len(cells) - _MOST:,} other kinds of cells"
            self._rows.addWidget(text(more, soft=True))
        self.setVisible(bool(cells))

    def _row(self, cell: UnturnedCell, words: tuple[str, ...]) -> QWidget:
        rows = ", ".join(f"{row:,}" for row in cell.rows[:_MOST_ROWS])
        more = f" and {len(cell.rows) - _MOST_ROWS:,} more" if len(cell.rows) > _MOST_ROWS else ""
        case = "case" if len(cell.rows) == 1 else "cases"
        label = text(f"“{cell.cell}” in {cell.column}, {case} {rows}{more}", 0.93)
        label.setToolTip(as_tip(f"Expected {cell.expected}"))
        box = QWidget()
        row = QHBoxLayout(box)
        row.setContentsMargins(SPACE, 0, 0, 0)
        row.setSpacing(SPACE)
        row.addWidget(label, 1)
        row.addWidget(text("read as", 0.93, soft=True, wrap=False))
        field = self._field(cell, words)
        key = (cell.column, cell.cell)
        self.fields[key] = field
        row.addWidget(field)
        row.addWidget(text("or", 0.93, soft=True, wrap=False))
        link = button("as missing", partial(self.missing.emit, cell), "link")
        link.setAccessibleName(f"Read “{cell.cell}” as missing")
        self.links[key] = link
        row.addWidget(link)
        return box

    def _field(self, cell: UnturnedCell, words: tuple[str, ...]) -> QWidget:
        """A choice among words where there are some, or a field to type in."""
        name = f"Read “{cell.cell}” as"
        if words:
            box = QComboBox()
            box.setFont(font(0.93))
            box.setAccessibleName(name)
            box.addItem("…", "")
            for word in words:
                box.addItem(word, word)
            box.activated.connect(
                lambda at: self.corrected.emit(cell, box.itemData(at)) if at else None
            )
            return box
        field = QLineEdit()
        field.setFont(font(0.93))
        field.setFixedWidth(110)
        field.setAccessibleName(name)
        field.setPlaceholderText("what it means")
        field.setToolTip(as_tip(f"Expected {cell.expected} (Return)"))
        field.returnPressed.connect(
            lambda: self.corrected.emit(cell, field.text()) if field.text().strip() else None
        )
        return field
