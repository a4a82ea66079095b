"""A strip that tells whether cases stay where the tree has put them, and lists the others."""

from __future__ import annotations

import numpy as np
from PySide6.QtWidgets import QDialog, QWidget

from gorvel.core.words.comparison import moving_words
from gorvel.desk.controls.arranging import fill, in_row
from gorvel.desk.controls.delete_on_close import brought_up, delete_on_close
from gorvel.desk.controls.following import WhenSeen
from gorvel.desk.controls.texts import button, heading, text
from gorvel.desk.controls.work_bars import InquiryBar
from gorvel.desk.views.case_list import CaseList
from gorvel.desk.work.moving import Moves, Moving

_TITLE = "Cases that change cluster"


class MovedList(CaseList):
    """Cases that end in another cluster, with where they come from and go."""

    heads = ("case", "label", "from", "to")

    def __init__(self, moving: Moving, moves: Moves, parent: QWidget | None = None) -> None:
        self.moves = moves
        self.names = [who.told for who in moving.focus.identities]
        super().__init__(moving.focus, _TITLE, parent)
        for column, wide in enumerate((60, 130, 110)):
            self.view.setColumnWidth(column, wide)
        moved = moves.moved
        self.show_cases(np.flatnonzero(moved.before != moved.after).tolist())

    @property
    def known(self) -> bool:
        grown = self.focus.grown
        return grown is not None and grown.tree is self.moves.grown.tree

    def cells(self, case: int) -> tuple[int | str, ...]:
        number, label = super().cells(case)
        moved = self.moves.moved
        return (
            number, label, self.names[int(moved.before[case])], self.names[int(moved.after[case])],
        )  # fmt: skip


class MovingStrip(QWidget):
    """A sentence, with the way to the cases that it is about."""

    def __init__(self, moving: Moving, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.moving = moving
        self.says = text()
        self.ask = button("Check", moving.ask)
        self.list = button("List the cases", self.show_list, "link", "Cases that change cluster")
        self.bar = InquiryBar(moving.inquiry, moving.ask, "Moving cases between centroids …")
        head = in_row(heading("Do cases stay in their cluster?", "text"), None, self.list, self.ask)
        fill(self, head, self.bar, self.says)
        WhenSeen(
            self, self._follow, moving.focus.tree_changed, moving.focus.cut_changed,
            moving.focus.titles_changed, moving.inquiry.changed,
        ).follow()  # fmt: skip

    def _follow(self) -> None:
        known, why = self.moving.known, self.moving.why_not
        working = self.moving.inquiry.job is not None
        if known is None and not working and self.isVisible():
            self.moving.ask_unasked()
            known, working = self.moving.known, self.moving.inquiry.job is not None
        self.ask.setVisible(known is None and not why and not working)
        self.list.setVisible(known is not None and known.moved.moved > 0)
        words = why or (
            "Moves each case to the nearest centroid until none moves; k-means searches "
            "for lower sums of squares from other starts."
        )
        if known is not None:
            words = moving_words(known.moved, known.best)
        self.says.setProperty("soft", known is None)
        self.says.setText("" if working else words)
        self.says.style().polish(self.says)

    def show_list(self) -> QDialog | None:
        """Those that move, in a window of their own; a click marks one on the tree."""
        known = self.moving.known
        if known is None:
            return None
        if (there := brought_up(self, _TITLE)) is not None:
            there.close()  # its cases may have moved by another rule
        dialog = delete_on_close(QDialog(self))
        dialog.setWindowTitle(_TITLE)
        dialog.resize(460, 420)
        fill(
            dialog, MovedList(self.moving, known), button("Close", dialog.close), space=None,
            edges=None,
        )  # fmt: skip
        dialog.show()
        return dialog
