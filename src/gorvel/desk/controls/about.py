"""The program, what it runs on, and where it keeps what it writes by itself."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QApplication, QDialog, QPushButton, QWidget

from gorvel.desk.controls.arranging import in_row
from gorvel.desk.controls.delete_on_close import brought_up, delete_on_close
from gorvel.desk.controls.dialog_parts import body
from gorvel.desk.controls.texts import ButtonKind, button, text
from gorvel.desk.state.settings import settings_file
from gorvel.desk.work.faults import FAULTS, log_file, machine

_TITLE = "About Gorvel"
_COPY, _COPIED = "Copy report", "Copied."


def report_button(kind: ButtonKind = "") -> QPushButton:
    """Puts what whoever mends a defect wants to know on the clipboard, and says so."""

    def copy() -> None:
        QApplication.clipboard().setText(FAULTS.report)
        made.setText(_COPIED)

    made = button(
        _COPY, copy, kind, "Version, machine and the latest internal error; no survey data"
    )
    return made


def show_about(window: QWidget) -> QDialog:
    """In a dialog of its own; its words can be selected and copied."""
    if (there := brought_up(window, _TITLE)) is not None:
        return there
    dialog = delete_on_close(QDialog(window))
    dialog.setWindowTitle(_TITLE)
    layout = body(dialog, "Gorvel: agglomerative hierarchies of survey cases")
    for words in (
        machine(),
        f"Settings: {settings_file()}",
        f"Log of internal errors, without survey data: {log_file()}",
    ):
        line = text(words, "table")
        line.setTextInteractionFlags(
            Qt.TextInteractionFlag.TextSelectableByMouse
            | Qt.TextInteractionFlag.TextSelectableByKeyboard
        )
        layout.addWidget(line)
    close = button("Close", dialog.accept, "main", "Esc")
    foot = in_row(None, report_button(), close)
    layout.addLayout(foot)
    dialog.resize(520, 200)
    dialog.show()
    return dialog
