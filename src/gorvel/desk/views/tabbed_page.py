"""A page of cards of which one is in front, once there is a tree."""

from __future__ import annotations

from collections.abc import Sequence
from functools import partial

from PySide6.QtWidgets import QButtonGroup, QHBoxLayout, QPushButton, QWidget

from gorvel.desk.controls.arranging import in_row
from gorvel.desk.controls.flow import flowing
from gorvel.desk.controls.page_stack import CurrentPageStack
from gorvel.desk.controls.texts import button
from gorvel.desk.views.layout import Layout


class TabbedPage(QWidget):
    """name : under which the layout keeps what is in front."""

    def __init__(self, name: str, layout: Layout, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.name, self.shown = name, layout
        self.tabs: list[QPushButton] = []
        self._front = QWidget()
        self._cards = CurrentPageStack(self._front)
        self._stack = CurrentPageStack(self)  # what is said without a tree, and the page

    def tab_row(self, tabs: Sequence[tuple[str, str]], *cards: QWidget) -> QHBoxLayout:
        """A row of tabs, which breaks where it is too narrow. tabs : words and tip of each card."""
        group = QButtonGroup(self)
        for number, ((words, tip), card) in enumerate(zip(tabs, cards, strict=True)):
            tab = button(words, partial(self.show_tab, number), "tab", tip)
            tab.setCheckable(True)
            group.addButton(tab)
            self.tabs.append(tab)
            self._cards.addWidget(card)
        return in_row((flowing(*self.tabs, gap=2), 1))

    def show_tab(self, number: int) -> None:
        """Bring a card to the front."""
        self.shown.tabs[self.name] = number
        self._cards.setCurrentIndex(number)
        self.tabs[number].setChecked(True)

    def show_kept_tab(self) -> None:
        """Bring to the front what was there before."""
        self.show_tab(self.shown.tabs.get(self.name, 0))
