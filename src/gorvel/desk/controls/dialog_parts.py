"""What every dialog that changes something has: a title, named fields, the row at its foot."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QDialog,
    QFormLayout,
    QHBoxLayout,
    QLabel,
    QMessageBox,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from gorvel.desk.controls.arranging import fill
from gorvel.desk.controls.plain_text import as_item
from gorvel.desk.controls.texts import button, heading
from gorvel.paint.theme import SPACE, font

_HEIGHT = 27  # of a field, so that those of one line are of one height


def body(dialog: QDialog, title: str) -> QVBoxLayout:
    """A dialog's layout, with its title; all else is added below."""
    return fill(dialog, heading(title), edges=(2 * SPACE, 2 * SPACE, 2 * SPACE, 2 * SPACE))


def add_field(form: QFormLayout, words: str, field: QWidget) -> None:
    """A field with its name before it, which screen readers say too."""
    label = QLabel(words)
    for widget in (label, field):
        widget.setFont(font())
    label.setBuddy(field)
    field.setMinimumHeight(_HEIGHT)
    field.setAccessibleName(words)
    form.addRow(label, field)


def add_foot(
    dialog: QDialog, layout: QVBoxLayout, take: QPushButton, says: QWidget | None = None
) -> None:
    """The row at the foot: what is said, the way out, and the button that takes it."""
    foot = QHBoxLayout()
    if says is None:
        foot.addStretch(1)
    else:
        foot.addWidget(says, 1)
    foot.addWidget(button("Cancel", dialog.reject, tip="Esc"))
    foot.addWidget(take)
    layout.addLayout(foot)


def ask(parent: QWidget, text: str, *answers: str) -> int:
    """Which of the answers is given to a question that nothing goes on without.

    The first one is what is proposed, the last one changes nothing, and Esc gives it; one between
    them does away with something.
    """
    box = QMessageBox(parent)
    box.setWindowTitle("Gorvel")
    box.setTextFormat(Qt.TextFormat.PlainText)
    box.setText(text)
    roles = QMessageBox.ButtonRole
    buttons = [
        box.addButton(
            as_item(answer),
            roles.AcceptRole if place == 0
            else roles.RejectRole if place == len(answers) - 1
            else roles.DestructiveRole,
        )
        for place, answer in enumerate(answers)
    ]  # fmt: skip
    box.setEscapeButton(buttons[-1])
    box.exec()
    clicked = box.clickedButton()
    box.deleteLater()  # not at once: what was clicked is asked for
    return buttons.index(clicked) if clicked in buttons else len(answers) - 1
