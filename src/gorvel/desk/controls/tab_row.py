"""Words in a row, one of which is in front."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import partial

from PySide6.QtWidgets import QButtonGroup, QHBoxLayout, QPushButton, QWidget

from gorvel.desk.controls.flow import flowing
from gorvel.desk.controls.texts import button


def tab_row(
    tabs: Sequence[tuple[str, str]], show: Callable[[int], None], parent: QWidget
) -> tuple[QHBoxLayout, list[QPushButton]]:
    """A row of tabs that breaks where it is too narrow, and its buttons.

    tabs : words and tip of each; show : brings one to front.
    """
    row, group, buttons = QHBoxLayout(), QButtonGroup(parent), []
    for number, (name, tip) in enumerate(tabs):
        tab = button(name, partial(show, number), "tab", tip)
        tab.setCheckable(True)
        group.addButton(tab)
        buttons.append(tab)
    row.addWidget(flowing(*buttons), 1)
    return row, buttons
