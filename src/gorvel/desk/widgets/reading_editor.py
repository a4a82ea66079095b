"""How a file is read: delimiter, decimal mark, encoding or sheet, with a preview."""

from __future__ import annotations

from functools import partial
from pathlib import Path

from PySide6.QtCore import QPoint, Qt
from PySide6.QtWidgets import (
    QComboBox,
    QFormLayout,
    QFrame,
    QLabel,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from gorvel.core.errors import InputError
from gorvel.core.plan import SourcePlan
from gorvel.core.table.detect import DELIMITERS
from gorvel.core.table.reading import WORKBOOKS, preview_table, sheets_of
from gorvel.core.table.table import Reading
from gorvel.desk.actions import Actions
from gorvel.desk.theme import SPACE, font
from gorvel.desk.widgets.texts import button, heading, text

__all__ = ["ReadingEditor", "open_reading_editor"]

_FOUND = "found by itself"
_DELIMITER_WORDS = {",": "comma", ";": "semicolon", "tab": "tab", "|": "bar", "space": "spaces"}
_DECIMAL_WORDS = {".": "point", ",": "comma"}
_ENCODINGS = ("utf-8", "cp1252", "latin-1", "utf-16", "mac-roman", "iso-8859-15")
_ROWS, _COLUMNS = 7, 12  # shown in the preview


class ReadingEditor(QWidget):
    """Choices and a preview that follows them at once; nothing is changed until it is taken."""

    def __init__(
        self, actions: Actions, path: Path, source: SourcePlan, parent: QWidget | None = None
    ) -> None:
        super().__init__(parent)
        self.acts, self.path = actions, path
        self.changes: dict[str, object] = {}
        self.fields: dict[str, QComboBox] = {}
        self.preview = QTableWidget()
        self.preview.setFont(font(0.86))
        self.preview.setEditTriggers(QTableWidget.EditTrigger.NoEditTriggers)
        self.preview.setFixedHeight(216)
        self.preview.verticalHeader().setDefaultSectionSize(22)
        self.preview.setShowGrid(False)
        for head in (self.preview.horizontalHeader(), self.preview.verticalHeader()):
            head.setFont(font(0.86))
        self.preview.setAccessibleName("Preview")
        self.said = text(weight=600)
        self.said.setProperty("alarm", True)
        self.take = button("Read the file like this", self._take, "main")
        layout = QVBoxLayout(self)
        layout.setContentsMargins(2 * SPACE, SPACE, 2 * SPACE, 2 * SPACE)
        layout.setSpacing(SPACE)
        layout.addWidget(heading("How the file is read", 1.07))
        layout.addLayout(self._form(source))
        layout.addWidget(self.said)
        layout.addWidget(self.preview)
        layout.addWidget(self.take)
        self._source = source
        self._show()

    def _form(self, source: SourcePlan) -> QFormLayout:
        form = QFormLayout()
        form.setHorizontalSpacing(2 * SPACE)
        if self.path.suffix.lower() in WORKBOOKS:
            names = sheets_of(self.path)
            sheets = {name: name for name in names}
            self._choice(form, "sheet", "Sheet", sheets, source.sheet or names[0])
        elif self.path.suffix.lower() != ".parquet":
            study = self.acts.focus.study
            found = study.source.reading if study else Reading()
            delimiters = {key: _DELIMITER_WORDS[key] for key in DELIMITERS}
            encodings = {name: name for name in _ENCODINGS}
            for key, words, choices, now in (
                ("delimiter", "Cells are parted by", delimiters, source.delimiter),
                ("decimal", "Decimal mark", _DECIMAL_WORDS, source.decimal),
                ("encoding", "Encoding", encodings, source.encoding),
            ):
                was = getattr(found, key)
                auto = f"{_FOUND}: {choices.get(was, was)}" if now == "auto" else _FOUND
                self._choice(form, key, words, {"auto": auto} | choices, now)
        return form

    def _choice(
        self, form: QFormLayout, key: str, words: str, choices: dict[str, str], now: str
    ) -> None:
        box = QComboBox()
        box.setFont(font())
        for value, name in (choices if now in choices else choices | {now: now}).items():
            box.addItem(name, value)
        box.setCurrentIndex(box.findData(now))
        box.setAccessibleName(words)
        box.currentIndexChanged.connect(partial(self._changed, key))
        label = QLabel(words)
        label.setFont(font())
        label.setBuddy(box)
        form.addRow(label, box)
        self.fields[key] = box

    def _changed(self, key: str, index: int) -> None:
        self.changes[key] = self.fields[key].itemData(index)
        self._show()

    def _show(self) -> None:
        """Read the first rows as chosen."""
        now = self._source.model_copy(update=self.changes)
        asked = Reading(now.delimiter, now.decimal, now.encoding)
        self.preview.clear()
        self.said.setVisible(False)
        try:
            table = preview_table(self.path, asked, now.sheet, _ROWS)
        except InputError as error:
            self.said.setText(str(error))
            self.said.setVisible(True)
            self.preview.setRowCount(0)
            self.preview.setColumnCount(0)
            self.take.setEnabled(False)
            return
        self.take.setEnabled(bool(self.changes))
        names = table.names[:_COLUMNS]
        self.preview.setColumnCount(len(names))
        self.preview.setHorizontalHeaderLabels(names)
        self.preview.setRowCount(min(table.n, _ROWS))
        for column, name in enumerate(names):
            numeric = table.numbers(name).mostly
            for row, cell in enumerate(table.cells(name).values[:_ROWS].tolist()):
                item = QTableWidgetItem("·" if cell is None else cell)
                if numeric:
                    item.setTextAlignment(
                        Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
                    )
                self.preview.setItem(row, column, item)
        self.preview.resizeColumnsToContents()

    def _take(self) -> None:
        self.acts.read_again(**self.changes)
        popup = self.parentWidget()
        if popup is not None:
            popup.close()


def open_reading_editor(actions: Actions, anchor: QWidget) -> QFrame | None:
    """Open the editor below a widget; Esc or a click elsewhere closes it."""
    study, plan = actions.focus.study, actions.focus.plan
    if study is None or plan is None:
        return None
    popup = QFrame(anchor, Qt.WindowType.Popup)
    popup.setProperty("panel", True)
    popup.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
    layout = QVBoxLayout(popup)
    layout.setContentsMargins(1, 1, 1, 1)
    layout.addWidget(ReadingEditor(actions, study.data_file, plan.source, popup))
    popup.resize(640, popup.sizeHint().height())
    popup.move(anchor.mapToGlobal(QPoint(0, anchor.height() + 2)))
    popup.show()
    return popup
