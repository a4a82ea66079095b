"""The editor of one part of the plan: names on the left, what the chosen one does on the right."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import QSize, Qt, Signal
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import (
    QCheckBox,
    QDoubleSpinBox,
    QHBoxLayout,
    QListWidget,
    QListWidgetItem,
    QVBoxLayout,
    QWidget,
)

from gorvel.core.words.plan_options import Choice, Dial, PartChoices, Switch, choices_for
from gorvel.desk.controls.arranging import fill, in_row
from gorvel.desk.controls.pictogram import Pictogram
from gorvel.desk.controls.plain_text import PlainTick
from gorvel.desk.controls.texts import clear, heading, text
from gorvel.desk.state.focus import Focus
from gorvel.paint.theme import SPACE, current, font

_PLACE = Qt.ItemDataRole.UserRole  # of an item: its place among the choices; headings have none
_TALLEST = 430  # pixels of the list of names


def options_of(focus: Focus, part: str) -> PartChoices:
    """The choices of a part of the plan in force."""
    plan, study = focus.shelf.plan, focus.shelf.study
    assert plan is not None
    return choices_for(plan, None if study is None else study.source, part)


class Choices(QWidget):
    """A list of names on the left, what the chosen one does on the right. Signals: finished()."""

    finished = Signal()

    def __init__(self, focus: Focus, part: PartChoices, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.focus, self.part = focus, part
        self._step = object()  # all that is chosen here, until something else is done
        self._dials = QHBoxLayout()
        self.names = QListWidget()
        self.names.setFont(font())
        self.names.setAccessibleName(part.title)
        self.names.setFrameShape(QListWidget.Shape.NoFrame)
        self.names.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        theme = current()
        self.names.setStyleSheet(
            f"QListWidget {{ background: {theme.panel}; outline: 0; }}"
            "QListWidget::item { padding: 6px 10px; border-radius: 4px; }"
            f"QListWidget::item:selected {{ background: {theme.tint}; color: {theme.ink}; }}"
        )
        self._details = QVBoxLayout()
        self._picture = Pictogram()
        self._formula = text(size="title", weight=600)
        self._purpose, self._fits = text(), text(soft=True)
        self._misleads, self._source = text(), text(size="note", soft=True)
        self._caution = text(weight=600)
        self._caution.setProperty("alarm", True)
        self._lay_out()
        self._fill()
        self.names.setMinimumHeight(min(self.names.count() * 32 + 8, _TALLEST))
        self.names.currentItemChanged.connect(self._take)
        self.names.itemActivated.connect(lambda item: self.finished.emit())
        current_item = self.names.currentItem()
        self._tell(current_item.data(_PLACE) if current_item is not None else 0)
        self.names.scrollToItem(current_item)

    def _fill(self) -> None:
        """The names, under headings where the choices come in groups."""
        group = ""
        for place, choice in enumerate(self.part.choices):
            if choice.group != group:
                group = choice.group
                head = QListWidgetItem(group)
                head.setFlags(Qt.ItemFlag.NoItemFlags)
                head.setFont(font("note", 600))
                self.names.addItem(head)
            item = QListWidgetItem(choice.name)
            item.setData(_PLACE, place)
            if not choice.allowed:
                item.setFlags(Qt.ItemFlag.NoItemFlags)
            self.names.addItem(item)
            if choice.key == self.part.chosen:
                self.names.setCurrentItem(item)

    def _lay_out(self) -> None:
        self.names.setFixedWidth(260)
        details = self._details
        details.setSpacing(SPACE)
        for widget in (
            self._picture, self._formula, self._purpose, self._misleads, self._fits,
            self._caution, self._source,
        ):  # fmt: skip
            details.addWidget(widget)
        details.insertLayout(2, self._dials)
        details.addStretch(1)
        row = in_row((self.names, 0, Qt.AlignmentFlag.AlignTop), (details, 1), space=2 * SPACE)
        fill(
            self, heading(self.part.title), row, space=None,
            edges=(2 * SPACE, SPACE + 4, 2 * SPACE, SPACE + 4),
        )  # fmt: skip

    def sizeHint(self) -> QSize:
        return QSize(680, max(super().sizeHint().height(), 340))

    def take_focus(self) -> None:
        """Give the keyboard to the list."""
        self.names.setFocus()

    def _take(self, item: QListWidgetItem | None) -> None:
        place = None if item is None else item.data(_PLACE)
        if place is not None:
            with self.focus.shelf.one_step(self._step):
                key = self.part.choices[place].key
                problem = self.focus.shelf.attempt(lambda plan: self.part.change(plan, key))
            self._tell(place, problem)

    def _show_dials(self, choice: Choice) -> None:
        """A field for each number that goes with the choice."""
        clear(self._dials)
        plan = self.focus.shelf.plan
        for dial in choice.dials:
            field = QDoubleSpinBox()
            field.setFont(font())
            field.setDecimals(2)
            field.setSingleStep(0.25)
            field.setRange(dial.low, dial.high)
            field.setValue(getattr(getattr(plan, dial.part), dial.key))
            field.setAccessibleName(dial.name)
            field.setObjectName(dial.key)
            field.valueChanged.connect(partial(self._turn, dial))
            self._dials.addWidget(text(dial.name, wrap=False))
            self._dials.addWidget(field)
        for switch in choice.switches:
            self._dials.addWidget(self._switch(switch))
        if choice.dials or choice.switches:
            self._dials.addStretch(1)

    def _switch(self, switch: Switch) -> QCheckBox:
        out = PlainTick(switch.name)
        out.setFont(font())
        out.setChecked(
            getattr(getattr(self.focus.shelf.plan, switch.part), switch.key) == switch.on
        )
        out.setObjectName(switch.key)
        out.toggled.connect(partial(self._flip, switch))
        return out

    def _flip(self, switch: Switch, on: bool) -> None:
        with self.focus.shelf.one_step(self._step):
            self.focus.shelf.change(switch.part, **{switch.key: switch.on if on else switch.off})

    def _turn(self, dial: Dial, value: float) -> None:
        with self.focus.shelf.one_step(self._step):
            self.focus.shelf.change(dial.part, **{dial.key: round(value, 2)})

    def _tell(self, row: int, problem: str = "") -> None:
        choice = self.part.choices[row]
        self._picture.show_choice(self.part.part, choice.key or "")
        self._picture.setVisible(self._picture.known)
        self._show_dials(choice)
        for label, words in (
            (self._formula, choice.formula),
            (self._purpose, choice.purpose),
            (self._misleads, f"Careful: {choice.misleads}" if choice.misleads else ""),
            (self._fits, choice.fits),
            (self._caution, problem or choice.why_not),
            (self._source, choice.source),
        ):
            label.setText(words)
            label.setVisible(bool(words))

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() in (Qt.Key.Key_Escape, Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.finished.emit()
        else:
            super().keyPressEvent(event)
