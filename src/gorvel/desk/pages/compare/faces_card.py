"""Two trees face to face, with what is said of the lines between them."""

from __future__ import annotations

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QCheckBox, QWidget

from gorvel.core.base.numbers import counted
from gorvel.desk.controls.arranging import in_row
from gorvel.desk.controls.texts import aside, button, card, heading, text
from gorvel.desk.controls.work_bars import InquiryBar
from gorvel.desk.views.faces_view import FacesView
from gorvel.desk.views.taking_away import TakeAway
from gorvel.desk.work.actions import Actions
from gorvel.desk.work.comparing import Comparing
from gorvel.paint.figure import Sheet
from gorvel.paint.theme import SPACE


class FacesCard(QWidget):
    """Signals: list_wanted(), of the cases that move."""

    list_wanted = Signal()

    def __init__(
        self, actions: Actions, comparing: Comparing, parent: QWidget | None = None
    ) -> None:
        super().__init__(parent)
        self.focus, self.comparing = actions.focus, comparing
        self.view = FacesView(self.focus)
        self.crossings = aside()
        self.folded = QCheckBox("Fold clusters")
        self.folded.setToolTip("Show each cluster as one wedge (F)")
        self.folded.clicked.connect(self.view.fold)
        self.view.turned.connect(self.folded.setChecked)
        self.swap = button("Swap", comparing.swap, "link", "Swap left and right")
        self.bar = InquiryBar(comparing.faces, self._again, "Aligning the trees …")
        self.says = text(size="table", soft=True)
        self.list = button("List the cases", self.list_wanted.emit, "link")
        self.take = TakeAway.of(actions, "face-to-face", self.sheet)
        head = in_row(
            heading("Face to face"), (self.crossings, 1), self.folded, self.swap, self.take,
            space=SPACE,
        )  # fmt: skip
        foot = in_row((self.says, 1), self.list)
        inside = card(self)
        inside.addLayout(head)
        inside.addWidget(self.bar)
        inside.addWidget(self.view, 1)
        inside.addLayout(foot)

    def _again(self) -> None:
        self.comparing.ask(again=True)

    def follow(self) -> None:
        """Another pair, another cut, or other names."""
        met = self.comparing.met
        self.view.show_met(met, self.comparing.titles)
        self.folded.setChecked(self.view.folded)
        self.swap.setEnabled(self.comparing.right[0] > 0)
        for widget in (self.folded, self.take, self.list):
            widget.setEnabled(met is not None)
        if met is None:
            self.crossings.setText("")
            waits = self.comparing.waits
            self.says.setText("The current tree is not grown yet (Ctrl+G)." if waits else "")
            self.list.hide()
            return
        facing, common = met.faced.facing, met.faced.pair.common
        before = f", {facing.before:,} before" if facing.before != facing.after else ""
        self.crossings.setText(f"untangled: {counted(facing.after, 'crossing')}{before}")
        of, moved = met.faced.pair.one.of, met.crossed.agreement.moved
        if not common:
            self.says.setText(f"The trees have no {of} in common.")
        else:
            one, other = met.faced.pair.one.tree.n, met.faced.pair.other.tree.n
            lone = one + other - 2 * common
            words = f"Bold lines: {of} that change cluster, {moved:,} of {common:,}."
            words += f" {counted(lone, 'case')} in one tree only, without a line." if lone else ""
            self.says.setText(words)
        self.list.setVisible(moved > 0)

    def sheet(self) -> Sheet | None:
        """The picture for print."""
        return self.view.sheet(" and ".join(self.comparing.titles))
