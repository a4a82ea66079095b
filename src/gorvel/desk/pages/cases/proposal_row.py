"""One proposal: what the columns hold, what they would become, and all that can be chosen of it."""

from __future__ import annotations

from dataclasses import replace
from datetime import date
from functools import partial
from itertools import pairwise

from PySide6.QtCore import QEvent, QObject, QSignalBlocker, Qt, Signal
from PySide6.QtGui import QMouseEvent
from PySide6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QFrame,
    QGridLayout,
    QLabel,
    QLineEdit,
    QVBoxLayout,
    QWidget,
)

from gorvel.core.base.numbers import fixed
from gorvel.core.column_detection.proposals import Proposal, with_missing, with_name, with_reversed
from gorvel.core.derive.dates import formats_of
from gorvel.core.inspect.items import Items
from gorvel.core.words.proposals import assumed_words, becomes_words, choices_of, seen_words
from gorvel.desk.controls.flow import flowing
from gorvel.desk.controls.plain_text import PlainTick
from gorvel.desk.controls.texts import clear, text
from gorvel.desk.views.order_strip import OrderStrip
from gorvel.paint.theme import SPACE, font

WIDTHS = (5, 4, 4, 2)  # shares of the columns of a row


class ProposalRow(QFrame):
    """A line, and below it, while it is open, what can be chosen.

    Signals: taken(on); changed(proposal); opened().
    """

    taken = Signal(bool)
    changed = Signal(object)
    opened = Signal()

    def __init__(self, proposal: Proposal, on: bool, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.proposal = proposal
        self.items: Items | None = None
        self.box = QCheckBox()
        self.box.setAccessibleName(f"Create: {', '.join(proposal.columns)}")
        self.box.toggled.connect(self._toggled)
        self.name = text(proposal.columns[0], weight=600)
        self.rest = text(size="note", soft=True)
        self.seen = text(seen_words(proposal), soft=True)
        self.becomes = text()
        self.kind = QComboBox()
        self.kind.setFont(font())
        self.kind.setAccessibleName("Becomes")
        for key, words in choices_of(proposal).items():
            self.kind.addItem(words, key)
        self.kind.activated.connect(self._kind_chosen)
        self.assumed: QLabel | None = None  # what open bands are taken for
        self.state = text(weight=600, wrap=False)
        self.detail = QWidget()
        self.strip: OrderStrip | None = None
        self.format: QComboBox | None = None
        self.names: dict[str, QLineEdit] = {}
        self.turned: dict[str, QCheckBox] = {}
        self.gone: dict[tuple[str, ...], QCheckBox] = {}
        self._inside = QVBoxLayout(self.detail)
        self._inside.setContentsMargins(26, 4, 0, SPACE)
        self._inside.setSpacing(SPACE // 2)
        grid = QGridLayout(self)
        grid.setContentsMargins(SPACE, SPACE // 2, SPACE, SPACE // 2)
        grid.setHorizontalSpacing(SPACE)
        grid.setVerticalSpacing(2)
        top = Qt.AlignmentFlag.AlignTop
        grid.addWidget(self.box, 0, 0, top)
        grid.addWidget(self.name, 0, 1, top)
        grid.addWidget(self.rest, 1, 1, top)
        grid.addWidget(self.seen, 0, 2, top)
        grid.addWidget(self.becomes, 0, 3, top)
        grid.addWidget(self.kind, 0, 3, top)
        grid.addWidget(self.state, 0, 4, top)
        grid.addWidget(self.detail, 2, 0, 1, 5)
        for column, share in enumerate(WIDTHS, 1):
            grid.setColumnStretch(column, share)
        self.setProperty("row", True)
        for label in (self.name, self.rest, self.seen, self.becomes, self.state):
            label.installEventFilter(self)
        self.show_state(proposal, on, None)
        self.open(False)

    # what it shows

    def show_state(self, proposal: Proposal, on: bool, items: Items | None) -> None:
        """Follow what is chosen. items : how its columns hang together, where that is known."""
        self.proposal, self.items = proposal, items
        with QSignalBlocker(self.box):
            self.box.setChecked(on)
        choices = choices_of(proposal)
        self.kind.setVisible(bool(choices))
        self.becomes.setVisible(not choices)
        if choices:
            self.kind.setCurrentIndex(self.kind.findData(proposal.kind))
        self.becomes.setText(becomes_words(proposal))
        if self.assumed is not None:
            self.assumed.setText(assumed_words(proposal))
        makes = proposal.makes_something
        said = {(True, True): "", (True, False): "mark only"}.get((on, makes), "leave as is")
        self.state.setText(said)
        self.state.setProperty("soft", not on)
        self.state.style().polish(self.state)
        more = len(proposal.columns) - 1
        others = f"and {more} more with the same answers" if more else ""
        self.rest.setText(others)
        self.rest.setVisible(bool(others))
        self._tell_turned()

    def open(self, on: bool) -> None:
        """Show what can be chosen, or hide it."""
        if on and self._inside.count() == 0:
            self._fill()
            self._chain()
        self.detail.setVisible(on and self._inside.count() > 0)
        self.setProperty("open", on)
        self.style().polish(self)

    def _chain(self) -> None:
        """Tab goes through what can be chosen in the order in which it stands."""
        chain: list[QWidget] = [self.box, self.kind]
        chain += [one for one in (self.strip, self.format) if one is not None]
        for column, name in self.names.items():
            chain += [name, *([self.turned[column]] if column in self.turned else [])]
        for one, following in pairwise([*chain, *self.gone.values()]):
            QWidget.setTabOrder(one, following)

    def _fill(self) -> None:
        clear(self._inside)
        proposal = self.proposal
        counts = dict(zip(proposal.answers, proposal.counts, strict=True))
        if proposal.becomes in ("order", "words"):
            self.strip = OrderStrip(proposal.words, counts)
            self.strip.moved.connect(self._moved)
            self._inside.addWidget(self.strip)
            hint = "Drag the words, or move them with Alt+Left and Alt+Right."
            self._inside.addWidget(text(hint, "note", soft=True))
        if proposal.becomes == "several":
            told = ", ".join(f"“{option}”" for option in proposal.options)
            self._inside.addWidget(text(f"A variable for each of {told}.", "table"))
        if proposal.becomes in ("number", "bands", "date", "time", "yes-no", "text", "checklist"):
            shown = proposal.answers[:8]
            more = " …" if len(proposal.answers) > len(shown) else ""
            told = ", ".join(f"{answer} ({counts[answer]:,})" for answer in shown)
            self._inside.addWidget(text(told + more, "table", soft=True))
        if proposal.becomes == "date":
            self._inside.addWidget(self._written())
        if proposal.becomes == "bands":
            self.assumed = text(assumed_words(proposal), "table")
            self._inside.addWidget(self.assumed)
        if proposal.makes_something:
            self._inside.addWidget(self._names())
        if proposal.missing:
            self._inside.addWidget(self._missing_row())

    def _written(self) -> QWidget:
        """How dates are written, where more than one way fits."""
        formats = formats_of(self.proposal.answers)
        self.format = box = QComboBox()
        box.setFont(font("table"))
        box.setAccessibleName("How the dates are written")
        for written in formats:
            words = date(2026, 2, 15).strftime(written) if written else "2026-02-15"
            box.addItem(f"as in {words} for 15 February 2026", written or None)
        box.setCurrentIndex(max(box.findData(self.proposal.format), 0))
        box.activated.connect(lambda at: self._format_chosen(box.itemData(at)))
        box.setEnabled(len(formats) > 1)
        return flowing(text("Written", "table", wrap=False), box)

    def _names(self) -> QWidget:
        """What is made of each column is called, and which of them are turned round."""
        box, proposal = QWidget(), self.proposal
        grid = QGridLayout(box)
        grid.setContentsMargins(0, 2, 0, 2)
        grid.setHorizontalSpacing(SPACE)
        grid.setVerticalSpacing(3)
        for row, column in enumerate(proposal.columns):
            if len(proposal.columns) > 1:
                grid.addWidget(text(column, "table"), row, 0)
            grid.addWidget(text("called", "note", soft=True, wrap=False), row, 1)
            name = QLineEdit(proposal.names.get(column, ""))
            name.setFont(font("table"))
            name.setPlaceholderText(proposal.usual_name(column))
            name.setAccessibleName(f"Name of the variable created from {column}")
            name.editingFinished.connect(partial(self._named, column, name))
            self.names[column] = name
            grid.addWidget(name, row, 2)
            if proposal.becomes in ("order", "words"):
                turned = QCheckBox("Reverse-scored")
                turned.setFont(font("table"))
                turned.setAccessibleName(f"{column} reverse-scored")
                turned.toggled.connect(partial(self._turn, column))
                self.turned[column] = turned
                grid.addWidget(turned, row, 3)
        for place, share in enumerate((4, 0, 4, 3)):
            grid.setColumnStretch(place, share)
        self._tell_turned()
        return box

    def _tell_turned(self) -> None:
        """Beside columns that run against the others, how much."""
        for place, (column, box) in enumerate(self.turned.items()):
            with QSignalBlocker(box):
                box.setChecked(column in self.proposal.reversed)
            items = self.items
            against = items is not None and place in items.against
            words = "Reverse-scored"
            if items is not None and against:
                words += (
                    f": correlates negatively with the others, r = {fixed(items.rest[place], 2)}"
                )
            box.setText(words)
            box.setProperty("alarm", against)
            box.style().polish(box)

    def _missing_row(self) -> QWidget:
        """Cells that say that there is no answer, one box for each."""
        boxes = []
        cells: dict[str, list[str]] = {}
        for column, found in self.proposal.missing.items():
            for cell in found:
                cells.setdefault(cell, []).append(column)
        for cell, columns in cells.items():
            box = PlainTick(f"“{cell}”")
            box.setFont(font("table"))
            box.setChecked(True)
            box.toggled.connect(partial(self._miss, cell, tuple(columns)))
            self.gone[cell, *columns] = box
            boxes.append(box)
        return flowing(text("Read as missing:", "table", wrap=False), *boxes)

    # what is chosen

    def _toggled(self, on: bool) -> None:
        self.opened.emit()
        self.taken.emit(on)

    def _kind_chosen(self, index: int) -> None:
        self.changed.emit(replace(self.proposal, kind=self.kind.itemData(index)))

    def _format_chosen(self, written: str | None) -> None:
        self.changed.emit(replace(self.proposal, format=written))

    def _moved(self, words: tuple[str, ...]) -> None:
        self.changed.emit(replace(self.proposal, words=words))

    def _named(self, column: str, field: QLineEdit) -> None:
        if field.text().strip() != self.proposal.names.get(column, ""):
            self.changed.emit(with_name(self.proposal, column, field.text()))

    def _turn(self, column: str, on: bool) -> None:
        self.changed.emit(with_reversed(self.proposal, column, on))

    def _miss(self, cell: str, columns: tuple[str, ...], on: bool) -> None:
        changed = self.proposal
        for column in columns:
            changed = with_missing(changed, column, cell, on)
        self.changed.emit(changed)

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        """A click on any words of the row opens it, too."""
        if event.type() == QEvent.Type.MouseButtonPress:
            self.opened.emit()
        return super().eventFilter(watched, event)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.opened.emit()
        super().mousePressEvent(event)
