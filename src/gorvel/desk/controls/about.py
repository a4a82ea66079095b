"""The program, what it runs on, and where it keeps what it writes by itself."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QApplication, QDialog, QHBoxLayout, QWidget

from gorvel.desk.controls.dialog_parts import body
from gorvel.desk.controls.texts import button, text
from gorvel.desk.state.settings import settings_file
from gorvel.desk.work.faults import FAULTS, log_file, machine

__all__ = ["copy_report", "show_about"]


def copy_report() -> None:
    """Put what whoever mends a defect wants to know on the clipboard."""
    QApplication.clipboard().setText(FAULTS.report)


def show_about(window: QWidget) -> QDialog:
    """In a dialog of its own; its words can be selected and copied."""
    dialog = QDialog(window)
    dialog.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
    dialog.setWindowTitle("About Gorvel")
    layout = body(dialog, "Gorvel: agglomerative hierarchies of survey cases")
    for words in (
        machine(),
        f"Settings: {settings_file()}",
        f"Log of defects, with no answers of a survey in it: {log_file()}",
    ):
        line = text(words, 0.93)
        line.setTextInteractionFlags(
            Qt.TextInteractionFlag.TextSelectableByMouse
            | Qt.TextInteractionFlag.TextSelectableByKeyboard
        )
        layout.addWidget(line)
    foot = QHBoxLayout()
    foot.addStretch(1)
    foot.addWidget(
        button("Copy a report", copy_report, tip="Version, machine, and the latest defect")
    )
    close = button("Close", dialog.accept, "main", "Esc")
    foot.addWidget(close)
    layout.addLayout(foot)
    dialog.resize(520, 200)
    dialog.show()
    return dialog
