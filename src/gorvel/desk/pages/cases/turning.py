"""Answers in words become variables: what is proposed, what is chosen, what cannot be turned."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import QEvent, QObject, Qt, Signal
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QHBoxLayout, QLineEdit, QVBoxLayout, QWidget

from gorvel.core.base.numbers import counted
from gorvel.core.column_detection.proposals import Proposal
from gorvel.core.inspect.items import Items
from gorvel.core.words.proposals import whole_words
from gorvel.desk.controls.arranging import fill, fill_row, in_row, split
from gorvel.desk.controls.texts import button, card, clear, heading, scrolled, text
from gorvel.desk.controls.work_bars import InquiryBar
from gorvel.desk.pages.cases.made_list import MadeList
from gorvel.desk.pages.cases.outcome import OutcomeCard
from gorvel.desk.pages.cases.proposal_row import WIDTHS, ProposalRow
from gorvel.desk.pages.cases.unturned import UnturnedList
from gorvel.desk.work.derived_variables import Turning
from gorvel.paint.theme import SPACE

_TITLES = ("column", "answers in the file", "becomes", "status")


class TurningPanel(QWidget):
    """Proposals on the left, what comes out on the right.

    Signals: closed(), the table is wanted again.
    """

    closed = Signal()

    def __init__(self, turning: Turning, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.turning = turning
        self.rows: list[ProposalRow] = []
        self.opened = -1
        self.tally = text(soft=True)
        self.bar = InquiryBar(turning.looking, turning.ask, "Checking the columns …")
        self.list = QWidget()
        self._list = QVBoxLayout(self.list)
        self._list.setContentsMargins(0, 0, SPACE, 0)
        self._list.setSpacing(2)
        self.unturned = UnturnedList()
        self.unturned.said.connect(turning.mend)
        self.unturned.undone.connect(turning.take_back)
        self.why = text(size="table")
        self.why.setProperty("alarm", True)
        self.to_cells = button("Show", self._show_cells, "link", "The cells, below the list")
        self.made = MadeList(turning)
        self.back = button("Back to the table", self.closed.emit, tip="Esc")
        self.go = button("Create variables", self._make, "main", "Return")
        left = QWidget()
        self._lay_out(left)
        self.outcome = OutcomeCard(turning)
        halves = split(left, self.outcome, sizes=(820, 430), gap=2 * SPACE)
        fill_row(self, halves)
        turning.changed.connect(self.follow)
        turning.outcome_changed.connect(self._outcome_known)
        turning.focus.shelf.columns_changed.connect(self._outcome_known)
        self.follow()
        self._outcome_known()

    def _lay_out(self, left: QWidget) -> None:
        inside = card(left)
        head = in_row(heading("Convert answers to numbers"), (self.tally, 1))
        inside.addLayout(head)
        inside.addWidget(self.bar)
        self.titles = self._titles()
        inside.addWidget(self.titles)
        whole = QWidget()
        fill(whole, self.list, self.unturned, self.made, None, space=SPACE)
        self._area = scrolled(whole)
        inside.addWidget(self._area, 1)
        foot = in_row((self.why, 1), self.to_cells, self.back, self.go)
        inside.addLayout(foot)

    def _titles(self) -> QWidget:
        """What stands in the columns of the list."""
        line = QWidget()
        row = QHBoxLayout(line)
        row.setContentsMargins(SPACE + 28, 0, 2 * SPACE, 0)
        row.setSpacing(SPACE)
        for words, share in zip(_TITLES, WIDTHS, strict=True):
            row.addWidget(text(words, "note", soft=True, wrap=False), share)
        return line

    def take_focus(self) -> None:
        """The keys go to the proposal that is open."""
        if 0 <= self.opened < len(self.rows):
            self.rows[self.opened].box.setFocus()
        else:
            self.go.setFocus()

    # proposals

    def follow(self) -> None:
        """Other proposals, or another choice among them."""
        proposals, taken = self.turning.proposals, self.turning.taken
        same = [row.proposal.columns for row in self.rows] == [p.columns for p in proposals]
        if not same:
            self._fill(proposals)
        self.titles.setVisible(bool(proposals))
        for row, proposal, on in zip(self.rows, proposals, taken, strict=True):
            row.show_state(proposal, on, self._items(proposal))
        table, looking = self.turning.table, self.turning.looking.job is not None
        said = whole_words(proposals, 0 if table is None else len(table.names))
        self.tally.setText("" if looking else said)
        self._name_button()

    def _fill(self, proposals: list[Proposal]) -> None:
        clear(self._list)
        self.rows, self.opened = [], -1
        for place, proposal in enumerate(proposals):
            row = ProposalRow(proposal, self.turning.taken[place])
            row.taken.connect(partial(self.turning.take, place))
            row.changed.connect(partial(self.turning.change, place))
            row.opened.connect(partial(self.open, place))
            row.box.installEventFilter(self)
            self.rows.append(row)
            self._list.addWidget(row)
        first = next((k for k, p in enumerate(proposals) if p.makes_something and p.sure), -1)
        self.open(first)

    def open(self, place: int) -> None:
        """Show what can be chosen of one proposal, and of that alone."""
        if place == self.opened:
            return
        self.opened = place
        for k, row in enumerate(self.rows):
            row.open(k == place)

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        """The proposal that the keys are at is open; Up and Down go to the next."""
        boxes = [row.box for row in self.rows]
        if watched not in boxes:
            return super().eventFilter(watched, event)
        place = boxes.index(watched)
        if event.type() == QEvent.Type.FocusIn:
            self.open(place)
        if event.type() == QEvent.Type.KeyPress and isinstance(event, QKeyEvent):
            step = {Qt.Key.Key_Up: -1, Qt.Key.Key_Down: 1}.get(Qt.Key(event.key()))
            if step is not None and 0 <= place + step < len(boxes):
                boxes[place + step].setFocus()
                return True
        return super().eventFilter(watched, event)

    def _items(self, proposal: Proposal) -> Items | None:
        outcome = self.turning.outcome
        return None if outcome is None else outcome.items.get(proposal.columns[0])

    def _name_button(self) -> None:
        outcome, chosen = self.turning.outcome, self.turning.chosen
        words = "Create variables"
        if outcome is not None:
            words = f"Create {counted(len(outcome.names), 'variable')}"
            if not outcome.names:
                words = "Apply"
        self.go.setText(words)
        self.go.setVisible(bool(chosen) or bool(self.turning.in_words))
        self.go.setEnabled(outcome is not None and not outcome.unturned)

    # what cannot be turned

    def _outcome_known(self) -> None:
        for row, proposal, on in zip(
            self.rows, self.turning.proposals, self.turning.taken, strict=False
        ):
            row.show_state(proposal, on, self._items(proposal))
        self._name_button()
        outcome = self.turning.outcome
        if outcome is None and self.turning.trying.job is not None:
            return
        cells = self.turning.unturned
        words = {c: p.words for p in self.turning.proposals for c in p.columns}
        words |= {make.from_: make.order for make in self.turning.made if make.from_ and make.order}
        self.unturned.show_cells(cells, self.turning.answered, words)
        open_cells = sum(len(cell.rows) for cell in cells)
        means = "it means" if open_cells == 1 else "they mean"
        self.why.setText(
            f"{counted(open_cells, 'cell')} cannot be converted: say below what {means}."
            if cells else self.turning.trying.problem
        )  # fmt: skip
        self.to_cells.setVisible(bool(cells))

    def _show_cells(self) -> None:
        self._area.ensureWidgetVisible(self.unturned, 0, self._area.height() // 2)

    def _make(self) -> None:
        if self.turning.make():
            self.closed.emit()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Escape:
            self.closed.emit()
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and self.go.isEnabled():
            if not isinstance(self.focusWidget(), QLineEdit):  # there it ends what was typed
                self._make()
        else:
            super().keyPressEvent(event)


class TurningOffer(QWidget):
    """Hidden where nothing waits to be turned. Signals: wanted()."""

    wanted = Signal()

    def __init__(self, turning: Turning, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.turning, self._offered = turning, True
        self.says = text(wrap=False)
        self.go = button("Convert answers to numbers …", self.wanted.emit, "main", "Ctrl+E")
        fill_row(self, self.says, self.go, None, space=2 * SPACE)
        turning.changed.connect(self._follow)
        turning.focus.shelf.columns_changed.connect(self._follow)
        self._follow()

    def show_offer(self, on: bool) -> None:
        """Offer it, or not, while it is done."""
        self._offered = on
        self._follow()

    def _follow(self) -> None:
        table = self.turning.table
        waits = any(p.makes_something and p.sure for p in self.turning.proposals)
        made = self.turning.so_far
        bad = 0 if made is None else sum(len(cell.rows) for cell in made.unturned)
        self.setVisible(self._offered and table is not None and (waits or bad > 0))
        self.says.setProperty("alarm", bad > 0)
        self.says.style().polish(self.says)
        if bad:
            self.says.setText(
                f"{counted(bad, 'cell')} cannot be converted into what the plan creates."
            )
        elif table is not None:
            self.says.setText(f"{whole_words(self.turning.proposals, len(table.names))}.")
