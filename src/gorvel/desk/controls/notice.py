"""A bar that says what happened and offers what can be done about it."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QHBoxLayout, QWidget

from gorvel.desk.controls.arranging import fill_row
from gorvel.desk.controls.texts import button, clear, text
from gorvel.paint.theme import SPACE

Offer = tuple[str, Callable[[], object]]


class Notice(QWidget):
    """Stays until one of its offers is taken, it is dismissed, or something else is said."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.words = text(weight=600)
        self.words.setAccessibleName("Notice")
        self._offers = QHBoxLayout()
        self._offers.setSpacing(2 * SPACE)
        fill_row(
            self, (self.words, 1), self._offers, space=None, edges=(2 * SPACE, 0, 2 * SPACE, 0)
        )
        self.said: tuple[str, tuple[Offer, ...]] = ("", ())
        self.hide()

    def say(self, words: str, *offers: Offer) -> None:
        """Say something, with what can be done; an empty text hides it."""
        self.said = (words, offers)
        clear(self._offers)
        self.words.setText(words)
        for name, act in offers:
            self._offers.addWidget(button(name, self._taken(act), "link"))
        dismiss = button("Dismiss", lambda: self.say(""), "link")
        self._offers.addWidget(dismiss, 0, Qt.AlignmentFlag.AlignRight)
        self.setVisible(bool(words))

    def _taken(self, act: Callable[[], object]) -> Callable[[], None]:
        def taken() -> None:
            self.say("")
            act()

        return taken

    def offer(self, name: str) -> Callable[[], object] | None:
        """What an offer does, by its name; None where it is not made."""
        return dict(self.said[1]).get(name)
