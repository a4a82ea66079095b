"""Cells that cannot be converted, each with its cases and what it is to be read as."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from difflib import get_close_matches
from functools import partial

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QComboBox, QHBoxLayout, QLineEdit, QVBoxLayout, QWidget

from gorvel.desk.controls.plain_text import as_tip
from gorvel.desk.controls.texts import button, clear, counted, heading, text
from gorvel.desk.work.derived_variables import Answered, UnturnedCell
from gorvel.paint.theme import SPACE, font

_MOST = 12  # kinds of cells that are listed
_MOST_ROWS = 5  # of a kind of cell that are named
_NEAR = 0.75  # likeness from which a word is taken for a slip of another

WordsOf = Mapping[str, tuple[str, ...]]


class UnturnedList(QWidget):
    """Hidden while there are none, and none was settled.

    Signals: said(columns, cell, answer or None for a missing one); undone(what was said).
    """

    said = Signal(object, str, object)
    undone = Signal(object)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._rows = QVBoxLayout(self)
        self._rows.setContentsMargins(0, 0, 0, 0)
        self._rows.setSpacing(2)
        self.fields: dict[tuple[str, str], QWidget] = {}
        self.links: dict[tuple[str, str], QWidget] = {}
        self.near: dict[tuple[str, str], QWidget] = {}
        self.settled: dict[tuple[str, str], QWidget] = {}
        self.undo: dict[tuple[str, str], QWidget] = {}
        self.hide()

    def show_cells(
        self, cells: Sequence[UnturnedCell], answered: Sequence[Answered], words_of: WordsOf
    ) -> None:
        """Show other ones.

        answered : that were said of cells; words_of : by column, the words that a cell can be read
        as.
        """
        clear(self._rows)
        self.fields, self.links, self.near, self.settled, self.undo = {}, {}, {}, {}, {}
        total = sum(len(cell.rows) for cell in cells)
        head = heading(f"{counted(total, 'cell')} cannot be converted", "text")
        head.setProperty("alarm", True)
        if cells:
            self._rows.addWidget(head)
        for cell in cells[:_MOST]:
            self._rows.addWidget(self._open_row(cell, words_of))
        if len(cells) > _MOST:
            more = f"and {len(cells) - _MOST:,} other kinds of cells"
            self._rows.addWidget(text(more, soft=True))
        still = {(column, cell.cell) for cell in cells for column in cell.columns}
        settled = [one for one in answered if not still & {(c, one.cell) for c in one.columns}]
        for answer in settled:
            self._rows.addWidget(self._settled_row(answer, words_of))
        self.setVisible(bool(cells) or bool(settled))

    def _open_row(self, cell: UnturnedCell, words_of: WordsOf) -> QWidget:
        rows = ", ".join(f"{row:,}" for row in cell.rows[:_MOST_ROWS])
        more = f" and {len(cell.rows) - _MOST_ROWS:,} more" if len(cell.rows) > _MOST_ROWS else ""
        case = "case" if len(cell.rows) == 1 else "cases"
        where = _where(cell.columns)
        label = text(f"“{cell.cell}” in {where}, {case} {rows}{more}", "table")
        label.setToolTip(as_tip(f"Expected {cell.expected}"))
        words = words_of.get(cell.columns[0], ())
        parts: list[QWidget] = []
        meant = _near(cell.cell, words)
        key = (cell.columns[0], cell.cell)
        if meant:
            said = partial(self.said.emit, cell.columns, cell.cell, meant)
            self.near[key] = button(f"{meant}?", said, "", f"Read “{cell.cell}” as “{meant}”")
            parts += [self.near[key], text("or", "table", soft=True, wrap=False)]
        self.fields[key] = self._field(cell.columns, cell.cell, words, cell.expected)
        self.links[key] = button(
            "Missing", partial(self.said.emit, cell.columns, cell.cell, None), ""
        )
        self.links[key].setAccessibleName(f"Read “{cell.cell}” as missing")
        parts += [self.fields[key], text("or", "table", soft=True, wrap=False), self.links[key]]
        return _row(label, text("read as", "table", soft=True, wrap=False), *parts)

    def _settled_row(self, answer: Answered, words_of: WordsOf) -> QWidget:
        """What was said of a cell stays in sight; it can be changed, or taken back."""
        where, key = _where(answer.columns), (answer.columns[0], answer.cell)
        label = text(f"“{answer.cell}” in {where}", "table", soft=True)
        words = words_of.get(answer.columns[0], ())
        field = self._field(answer.columns, answer.cell, words, "", answer.right)
        self.settled[key] = field
        self.undo[key] = button("Undo", partial(self.undone.emit, answer), "link")
        self.undo[key].setAccessibleName(f"Undo what “{answer.cell}” is read as")
        said = "read as" if answer.right else "read as missing, or as"
        return _row(label, text(said, "table", soft=True, wrap=False), field, self.undo[key])

    def _field(
        self, columns: Sequence[str], cell: str, words: tuple[str, ...], expected: str,
        right: str = "",
    ) -> QWidget:  # fmt: skip
        """A choice among words where there are some, or a field to type in."""
        name = f"Read “{cell}” as"
        if words:
            box = QComboBox()
            box.setFont(font("table"))
            box.setAccessibleName(name)
            box.addItem("…", "")
            for word in words:
                box.addItem(word, word)
            box.setCurrentIndex(max(box.findData(right), 0))
            box.activated.connect(
                lambda at: self.said.emit(columns, cell, box.itemData(at)) if at else None
            )
            return box
        field = QLineEdit(right)
        field.setFont(font("table"))
        field.setFixedWidth(110)
        field.setAccessibleName(name)
        field.setPlaceholderText("what it means")
        field.setToolTip(as_tip(f"Expected {expected} (Return)" if expected else "Return"))
        field.returnPressed.connect(
            lambda: self.said.emit(columns, cell, field.text()) if field.text().strip() else None
        )
        return field


def _row(label: QWidget, *others: QWidget) -> QWidget:
    box = QWidget()
    row = QHBoxLayout(box)
    row.setContentsMargins(SPACE, 0, 0, 0)
    row.setSpacing(SPACE)
    row.addWidget(label, 1)
    for widget in others:
        row.addWidget(widget)
    return box


def _where(columns: Sequence[str]) -> str:
    """The columns that a cell stands in."""
    named = [column for column in columns if column]
    more = f" and {len(named) - 2:,} more" if len(named) > 3 else ""
    return ", ".join(named if len(named) <= 3 else named[:2]) + more


def _near(cell: str, words: Sequence[str]) -> str:
    """The word that a cell may be a slip of; "" where none is near."""
    plain = {word.casefold(): word for word in words}
    found = get_close_matches(cell.strip().casefold(), list(plain), n=1, cutoff=_NEAR)
    return plain[found[0]] if found else ""
