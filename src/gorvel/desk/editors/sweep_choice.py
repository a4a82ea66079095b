"""Which scales, handlings of missing answers and measures are swept together."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping
from functools import partial
from math import prod

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QCheckBox, QDialog, QHBoxLayout, QVBoxLayout, QWidget

from gorvel.core.base.numbers import counted
from gorvel.core.linkage.rules import LINKAGES
from gorvel.core.plan.kinds import HANDLINGS
from gorvel.core.plan.plan import Plan
from gorvel.core.proximity.measures import MEASURES
from gorvel.core.proximity.scaling import SCALINGS
from gorvel.core.words.plan import HANDLING_WORDS
from gorvel.desk.controls.arranging import in_column
from gorvel.desk.controls.delete_on_close import delete_on_close
from gorvel.desk.controls.dialog_parts import add_foot, body
from gorvel.desk.controls.plain_text import PlainTick, as_tip
from gorvel.desk.controls.texts import button, heading, scrolled, text
from gorvel.paint.theme import SPACE

_NAMES: dict[str, Callable[[str], str]] = {
    "measures": lambda key: MEASURES[key].name.removesuffix(" distance"),
    "scales": lambda key: SCALINGS[key].name,
    "handlings": lambda key: HANDLING_WORDS[key],
}
_SHORT = {
    "none": "as they are", "drop": "excluded", "stop": "none missing", "mean": "means",
    "median": "medians", "mode": "mode", "pairwise": "pairwise",
}  # fmt: skip
_TITLES = {"scales": "Scales", "handlings": "Missing answers", "measures": "Measures"}
_ALL: dict[str, Iterable[str]] = {"scales": SCALINGS, "handlings": HANDLINGS, "measures": MEASURES}
_PLACES = {  # where a plan says it
    "scales": ("scale", "method"), "handlings": ("missing", "handling"),
    "measures": ("proximity", "measure"),
}  # fmt: skip


def called(kind: str, key: str) -> str:
    """What a scale, a handling or a measure is called."""
    return _NAMES[kind](key)


def called_shortly(kind: str, key: str) -> str:
    """The same where several stand side by side."""
    return called(kind, key) if kind == "measures" else _SHORT.get(key, called(kind, key))


class SweepChoice(QDialog):
    """A list of each to tick; what does not go with the plan in hand alone says why in its tip.

    chosen : keys by kind. Signals: taken(keys by kind), to be swept now.
    """

    taken = Signal(object)

    def __init__(
        self, plan: Plan, chosen: Mapping[str, tuple[str, ...]], parent: QWidget | None = None
    ) -> None:
        super().__init__(parent)
        delete_on_close(self)
        self.setWindowTitle("Sweep settings")
        self.boxes: dict[str, dict[str, QCheckBox]] = {}
        self.says = text(soft=True)
        self.go = button("Grow all these trees", self._take, "main")
        lists = QHBoxLayout()
        lists.setSpacing(3 * SPACE)
        for kind in _TITLES:
            lists.addLayout(self._list(kind, plan, chosen[kind]), 1)
        layout = body(self, "Sweep settings")
        words = (
            "Every linkage is combined with each of these, and the trees are compared with "
            "the current one."
        )
        layout.addWidget(text(words))
        layout.addLayout(lists, 1)
        add_foot(self, layout, self.go, self.says)
        self.resize(820, 520)
        self._tell()

    def _list(self, kind: str, plan: Plan, chosen: tuple[str, ...]) -> QVBoxLayout:
        inside = QWidget()
        rows = QVBoxLayout(inside)
        rows.setContentsMargins(0, 0, SPACE, 0)
        rows.setSpacing(2)
        part, name = _PLACES[kind]
        self.boxes[kind] = {}
        for key in _ALL[kind]:
            box = PlainTick(called(kind, key))
            box.setChecked(key in chosen)
            box.setToolTip(as_tip(plan.why_not(part, **{name: key})))
            box.toggled.connect(self._tell)
            rows.addWidget(box)
            self.boxes[kind][key] = box
        rows.addStretch(1)
        head = QHBoxLayout()
        head.addWidget(heading(_TITLES[kind], "text"), 1)
        for words, wanted in (("all", True), ("none", False)):
            head.addWidget(button(words, partial(self._tick, kind, wanted), "link"))
        return in_column(head, (scrolled(inside), 1))

    def _tick(self, kind: str, wanted: bool) -> None:
        for box in self.boxes[kind].values():
            box.setChecked(wanted)

    def chosen(self) -> dict[str, tuple[str, ...]]:
        """The keys that are ticked, by kind."""
        return {kind: tuple(key for key, box in boxes.items() if box.isChecked())
                for kind, boxes in self.boxes.items()}  # fmt: skip

    def _tell(self) -> None:
        """How many trees that makes."""
        chosen = self.chosen()
        empty = [_TITLES[kind].lower() for kind, keys in chosen.items() if not keys]
        trees = prod(len(keys) for keys in chosen.values()) * len(LINKAGES)
        self.says.setText(
            f"Tick at least one of {' and of '.join(empty)}." if empty
            else f"With {len(LINKAGES)} linkages up to {counted(trees, 'tree')}."
        )  # fmt: skip
        self.go.setEnabled(not empty)

    def _take(self) -> None:
        self.taken.emit(self.chosen())
        self.accept()
