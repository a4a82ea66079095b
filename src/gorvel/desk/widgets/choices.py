"""The editor of one part of the plan: what there is to choose, and what each choice does."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from PySide6.QtCore import QSize, Qt, Signal
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import (
    QHBoxLayout,
    QListWidget,
    QListWidgetItem,
    QVBoxLayout,
    QWidget,
)

from gorvel.core.linkage.rules import LINKAGES
from gorvel.core.plan import HANDLINGS, Plan
from gorvel.core.proximity.measures import MEASURES
from gorvel.core.scaling import SCALINGS
from gorvel.core.sentences import HANDLING_WORDS
from gorvel.core.table.table import Table
from gorvel.desk.state import Focus
from gorvel.desk.theme import SPACE, current, font
from gorvel.desk.widgets.pictogram import Pictogram
from gorvel.desk.widgets.texts import heading, text

__all__ = ["Choice", "Choices", "PartChoices", "choices_for"]

_HANDLING_TEXTS = {
    "drop": ("Only cases with an answer to every active variable are grouped.",
             "Can lose many cases; those who leave gaps may differ from the others."),
    "stop": ("Growing is refused while an active answer is missing.", ""),
    "mean": ("Every gap takes the mean of its variable.",
             "Draws such cases to the middle; spread is understated."),
    "median": ("Every gap takes the median of its variable.",
               "Draws such cases to the middle; spread is understated."),
    "mode": ("Every gap takes the most frequent answer.", "Strengthens what is frequent already."),
    "pairwise": ("A pair is compared on the variables both have, scaled up to all of them.",
                 "Pairs rest on different variables; two cases without one in common are refused."),
}  # fmt: skip


@dataclass(frozen=True)
class Choice:
    """One thing to choose. key : in the plan; why_not : a caution or reason in words."""

    key: str | None
    name: str
    formula: str = ""
    purpose: str = ""
    misleads: str = ""
    source: str = ""
    why_not: str = ""
    fits: str = ""
    allowed: bool = True


@dataclass(frozen=True)
class PartChoices:
    """All choices of one part; take puts one in force."""

    title: str
    part: str
    chosen: str | None
    choices: tuple[Choice, ...]
    take: Callable[[str | None], str]


def choices_for(focus: Focus, part: str) -> PartChoices:
    """The choices of a part of the plan in force."""
    plan = focus.plan
    assert plan is not None
    return {
        "scale": _scales, "measure": _measures, "linkage": _linkages,
        "missing": _handlings, "weight": _weights,
    }[part](focus, plan)  # fmt: skip


def _scales(focus: Focus, plan: Plan) -> PartChoices:
    choices = tuple(
        Choice(s.key, s.name, s.formula, s.purpose, s.misleads) for s in SCALINGS.values()
    )
    return PartChoices(
        "Put the variables on comparable scales", "scale", plan.scale.method, choices,
        lambda key: focus.change("scale", method=key),
    )  # fmt: skip


def _measures(focus: Focus, plan: Plan) -> PartChoices:
    squares = LINKAGES[plan.tree.linkage]
    nominal = _has_nominal(focus, plan)
    choices = []
    for m in MEASURES.values():
        why_not = ""
        if squares.squares and not m.euclidean:
            why_not = f"{squares.name} is made for Euclidean distances; a caution will be kept."
        if nominal and not m.mixed:
            why_not = f"{nominal} is nominal: only Gower distance can use it."
        fits = "Goes with " + ", ".join(
            rule.name for rule in LINKAGES.values() if m.euclidean or not rule.squares
        ) + "."  # fmt: skip
        choices.append(
            Choice(m.key, m.name, m.formula, m.purpose, m.misleads, m.source, why_not, fits)
        )

    def take(key: str | None) -> str:
        assert key is not None
        if MEASURES[key].mixed and plan.missing.handling in ("mean", "median", "mode"):
            return "Gower distance does not fill gaps: choose another handling of missing answers."
        return focus.change("proximity", measure=key)

    return PartChoices(
        "Measure how far apart two cases are", "measure", plan.proximity.measure,
        tuple(choices), take,
    )  # fmt: skip


def _has_nominal(focus: Focus, plan: Plan) -> str:
    source = focus.study.source if focus.study else None
    if not isinstance(source, Table):
        return ""
    for name in plan.variables.use:
        if plan.variables.level(name) == "nominal":
            return name
    return ""


def _linkages(focus: Focus, plan: Plan) -> PartChoices:
    matrix = plan.source.kind == "proximities"
    euclidean = not matrix and MEASURES[plan.proximity.measure].euclidean
    shown = "a proximity matrix" if matrix else MEASURES[plan.proximity.measure].name
    choices = []
    for rule in LINKAGES.values():
        why_not = ""
        if rule.squares and not euclidean:
            why_not = f"Made for Euclidean distances, not for {shown}; a caution will be kept."
        elif plan.cases.weight and not rule.masses:
            why_not = "Does not use the case weights; a caution will be kept."
        choices.append(
            Choice(
                rule.key, rule.name, rule.formula, rule.purpose, rule.misleads, rule.source,
                why_not, f"The height of a join is {rule.height_means}.",
            )
        )  # fmt: skip
    return PartChoices(
        "Choose which two clusters are joined next", "linkage", plan.tree.linkage,
        tuple(choices), lambda key: focus.change("tree", linkage=key),
    )  # fmt: skip


def _handlings(focus: Focus, plan: Plan) -> PartChoices:
    mixed = MEASURES[plan.proximity.measure].mixed
    choices = []
    for key in HANDLINGS:
        purpose, misleads = _HANDLING_TEXTS[key]
        fill = key in ("mean", "median", "mode")
        why_not = "Gower distance does not fill gaps." if mixed and fill else ""
        name = f"missing answers {HANDLING_WORDS[key]}"
        choices.append(
            Choice(key, name, "", purpose, misleads, why_not=why_not, allowed=not (mixed and fill))
        )
    return PartChoices(
        "Decide what becomes of missing answers", "missing", plan.handling, tuple(choices),
        lambda key: focus.change("missing", handling=key),
    )  # fmt: skip


def _weights(focus: Focus, plan: Plan) -> PartChoices:
    source = focus.study.source if focus.study else None
    none = Choice(None, "unweighted", purpose="Every case counts once.")
    choices = [none]
    if isinstance(source, Table):
        for name in source.names:
            numbers = source.numbers(name, plan.codes(name))
            positive = numbers.mostly and numbers.bad_row < 0 and bool((numbers.values > 0).all())
            if positive and name not in plan.variables.use and name != plan.cases.label:
                choices.append(
                    Choice(
                        name, f"weighted by {name}",
                        purpose="A case counts as often as this column says: a survey weight, or"
                        " how many people a row stands for.",
                        misleads="Single and complete linkage take no notice of weights.",
                    )
                )  # fmt: skip
    return PartChoices(
        "Let cases count more or less", "weight", plan.cases.weight, tuple(choices),
        lambda key: focus.change("cases", weight=key),
    )  # fmt: skip


class Choices(QWidget):
    """A list of names on the left, what the chosen one does on the right. Signals: finished()."""

    finished = Signal()

    def __init__(self, focus: Focus, part: PartChoices, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.part = part
        self.names = QListWidget()
        self.names.setFont(font(1.0))
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
        self._formula = text(size=1.07, weight=600)
        self._purpose, self._fits = text(), text(soft=True)
        self._misleads, self._source = text(), text(size=0.86, soft=True)
        self._caution = text(weight=600)
        self._caution.setProperty("alarm", True)
        self._lay_out()
        for choice in part.choices:
            item = QListWidgetItem(choice.name)
            if not choice.allowed:
                item.setFlags(Qt.ItemFlag.NoItemFlags)
            self.names.addItem(item)
            if choice.key == part.chosen:
                self.names.setCurrentItem(item)
        self.names.setMinimumHeight(len(part.choices) * 32 + 8)
        self.names.currentRowChanged.connect(self._take)
        self.names.itemActivated.connect(lambda item: self.finished.emit())
        self._tell(max(self.names.currentRow(), 0))

    def _lay_out(self) -> None:
        outer = QVBoxLayout(self)
        outer.setContentsMargins(2 * SPACE, SPACE + 4, 2 * SPACE, SPACE + 4)
        outer.addWidget(heading(self.part.title, 1.07))
        row = QHBoxLayout()
        row.setSpacing(2 * SPACE)
        self.names.setFixedWidth(230)
        row.addWidget(self.names, 0, Qt.AlignmentFlag.AlignTop)
        details = self._details
        details.setSpacing(SPACE)
        for widget in (
            self._picture, self._formula, self._purpose, self._misleads, self._fits,
            self._caution, self._source,
        ):  # fmt: skip
            details.addWidget(widget)
        details.addStretch(1)
        row.addLayout(details, 1)
        outer.addLayout(row)

    def sizeHint(self) -> QSize:
        return QSize(680, max(super().sizeHint().height(), 340))

    def take_focus(self) -> None:
        """Give the keyboard to the list."""
        self.names.setFocus()

    def _take(self, row: int) -> None:
        if row >= 0:
            self._tell(row, self.part.take(self.part.choices[row].key))

    def _tell(self, row: int, problem: str = "") -> None:
        choice = self.part.choices[row]
        self._picture.show_choice(self.part.part, choice.key or "")
        self._picture.setVisible(self._picture.known)
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
