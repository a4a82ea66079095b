"""What is wrong with the columns, in words, with a button for each remedy."""

from __future__ import annotations

from collections.abc import Sequence
from functools import partial

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QFrame, QGridLayout, QVBoxLayout, QWidget

from gorvel.core.inspect.screening import Flag, grouped
from gorvel.desk.controls.arranging import fill
from gorvel.desk.controls.texts import button, clear, heading, scrolled, text
from gorvel.desk.state.focus import Focus
from gorvel.paint.theme import SPACE

_BESIDE = 150  # pixels of a button that leaves room for words
_ALL = (1 << 24) - 1  # as high as there is room for, as Qt has it


class FlagsPanel(QFrame):
    """Signals: shown(set of columns), when the name of a column or of many is clicked."""

    shown = Signal(object)

    def __init__(self, focus: Focus, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.focus = focus
        self.flags: list[Flag] = []
        self.title = heading("", "text")
        self._rows = QGridLayout()
        self._rows.setContentsMargins(0, 0, SPACE, 0)
        self._rows.setVerticalSpacing(3)
        self._rows.setColumnStretch(1, 1)
        inside = QWidget()
        inside.setLayout(self._rows)
        self._list = scrolled(inside)
        fill(self, self.title, (self._list, 1), space=2)
        self.show_flags([])

    def show_flags(self, flags: Sequence[Flag]) -> None:
        """Show what is to be looked at, the most pressing first."""
        self.flags = grouped(flags)
        clear(self._rows)
        count = len(self.flags)
        plan = self.focus.shelf.plan
        none = plan is not None and plan.source.kind == "table" and not plan.variables.use
        self.title.setText(
            "No variable is active yet: select some above and press A"
            if none
            else f"To check: {count}"
            if count
            else "Nothing to check"
        )
        for row, flag in enumerate(self.flags):
            many = len(flag.columns) > 1
            name = button(
                f"{len(flag.columns)} variables" if many else flag.column,
                partial(self.shown.emit, set(flag.columns)),
                "name",
                "Show in the list",
            )
            self._rows.addWidget(name, row, 0, Qt.AlignmentFlag.AlignTop)
            words = text(flag.text)
            words.setContentsMargins(4, 3, 4, 3)
            told = QVBoxLayout()
            told.setSpacing(2)
            told.addWidget(words)
            self._rows.addLayout(told, row, 1, Qt.AlignmentFlag.AlignTop)
            if flag.remedy is not None:
                mend = button(
                    flag.remedy.words,
                    partial(self.focus.shelf.change_by, flag.remedy.change),
                    tip="One step; undo with Ctrl+Z",
                )
                mend.setMaximumHeight(28)
                if mend.sizeHint().width() <= _BESIDE:
                    self._rows.addWidget(mend, row, 2, Qt.AlignmentFlag.AlignTop)
                else:  # the words would be left too narrow
                    told.addWidget(mend, 0, Qt.AlignmentFlag.AlignLeft)
        self._rows.setRowStretch(count, 1)
        self._list.setVisible(bool(self.flags))
        self.setMaximumHeight(_ALL if self.flags else self.title.sizeHint().height())
