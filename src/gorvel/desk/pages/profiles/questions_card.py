"""What the clusters answer: a row for each question, lanes or spreads, and numbers beside them."""

from __future__ import annotations

from dataclasses import replace
from typing import Literal

import numpy as np
from PySide6.QtCore import QSignalBlocker, Qt
from PySide6.QtWidgets import QComboBox, QHBoxLayout, QLineEdit, QScrollArea, QWidget

from gorvel.core.base.numbers import fixed
from gorvel.core.profile.lanes import Lane
from gorvel.core.profile.portrayed import Other
from gorvel.core.profile.shown import CELL_FIGURES, Beside, SpreadKind
from gorvel.core.tree.cluster_names import Identity, by_letter
from gorvel.desk.controls.arranging import fill, held_by, in_row
from gorvel.desk.controls.flow import flowing
from gorvel.desk.controls.following import WhenSeen
from gorvel.desk.controls.plain_text import as_tip
from gorvel.desk.controls.texts import button, scrolled, text
from gorvel.desk.views.lanes_view import LanesView
from gorvel.desk.views.taking_away import TakeAway
from gorvel.desk.work.actions import Actions
from gorvel.desk.work.profiling import Profiling
from gorvel.paint.theme import SPACE, font

_LETTERS = (
    "Letters: cluster means or shares; vertical line: all cases; bars: 95% "
    "confidence intervals{how}. "
)
_SHADES = "Shaded: at least 0.25 SD above (rust) or below (teal) all cases; bold: at least 1 SD."
_KINDS: dict[SpreadKind | Literal["", "common"], tuple[str, str]] = {
    "": ("Letters at the means", _LETTERS),
    "common": (
        "Letters, common scale",
        "One scale for all rows: {reach} SD either side of the mean of all cases. " + _LETTERS,
    ),
    "box": (
        "Boxes",
        (
            "Boxes: quartiles, with the median as a gap; lines: minimum to maximum; "
            "dashed: median of all cases. "
        ),
    ),
    "density": ("Densities", "Density of answers, equal areas; dashed: median of all cases. "),
    "stacked": (
        "Shares of each answer",
        (
            "Share of each answer, from first (light) to last (dark); boxes where there "
            "are more than eleven. "
        ),
    ),
}
_NONE = {
    "matrix": (
        "A proximity matrix has no variables to profile. See the panel on the right, and the map."
    ),
    "variables": "This tree groups variables: its clusters have members but no answers.",
}


class QuestionsCard(QWidget):
    """Follows the cut in hand."""

    def __init__(
        self, actions: Actions, profiling: Profiling, parent: QWidget | None = None
    ) -> None:
        super().__init__(parent)
        self.acts, self.profiling, self.focus = actions, profiling, actions.focus
        self.view = LanesView(self.focus)
        self.area: QScrollArea = scrolled(self.view)
        self.view.reached.connect(self._bring_into_sight)
        self.sort, self.kind, self.figure, self.beside = (QComboBox() for _ in range(4))
        self.sought = QLineEdit()
        self.reading, self.legend = text(), text(size="note", soft=True)
        self.says = text(soft=True)
        self.all = button("", self._show_all, "link", "Show hidden questions")
        self.take = TakeAway.of(actions, "profiles")
        fill(self, self._head(), self.says, (self.area, 1), self.reading, self.legend)
        self.reading.setMinimumHeight(38)
        self.reading.setAlignment(Qt.AlignmentFlag.AlignTop)
        self.reading.setAccessibleName("What is pointed at")
        self.view.pointed.connect(self._tell)
        self.view.hidden.connect(self._hide)
        self._seen = WhenSeen(
            self, self._follow, profiling.portraits.changed, self.focus.titles_changed
        )
        self.follow()

    def _head(self) -> QHBoxLayout:
        for key, (name, _) in _KINDS.items():
            self.kind.addItem(name, key)
        for figure, name in CELL_FIGURES.items():
            self.figure.addItem(name, figure)
        for box, name, wide in (
            (self.sort, "Questions sorted by", 150),
            (self.kind, "How rows show the answers", 140),
            (self.figure, "What the numbers are", 130),
            (self.beside, "Another grouping beside the clusters", 116),
        ):
            box.setAccessibleName(name)
            box.setToolTip(as_tip(name))
            box.setFont(font("table"))
            box.setMinimumContentsLength(8)
            box.setSizeAdjustPolicy(
                QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon
            )
            box.setFixedWidth(wide)
        self.sort.currentIndexChanged.connect(self._show)
        self.kind.currentIndexChanged.connect(self._other_kind)
        self.figure.currentIndexChanged.connect(self._show)
        self.beside.currentIndexChanged.connect(self._other_beside)
        self.sought.setPlaceholderText("Find a question")
        self.sought.setAccessibleName("Find a question")
        self.sought.setFixedWidth(116)
        self.sought.textChanged.connect(self._show)
        named = [
            held_by(in_row(text(words, "note", soft=True, wrap=False), box, space=4))
            for words, box in (
                ("Order", self.sort), ("Lanes", self.kind), ("Cells", self.figure),
                ("Beside", self.beside),
            )
        ]  # fmt: skip
        return in_row(
            (flowing(*named, self.sought, self.all, gap=SPACE), 1),
            (self.take, 0, Qt.AlignmentFlag.AlignTop),
            space=SPACE,
        )

    # following

    def follow(self) -> None:
        """Another cut, or what is told of it is known by now."""
        self._seen.follow()

    def _follow(self) -> None:
        cut = self.focus.cut
        if self.focus.grown is None or cut is None:
            self.view.show_lanes([])
            return
        self._offer_sorts()
        self._offer_groupings()
        self._show()

    def _bring_into_sight(self, row: int) -> None:
        """A row that keys went to, clear of the head."""
        painter = self.view.chart()
        if painter is not None:
            middle, half = painter.tops[row] + painter.tall / 2, painter.tall / 2
            self.area.ensureVisible(0, round(middle), 0, round(half + painter.head))

    def _offer_sorts(self) -> None:
        names = [who.told for who in self.focus.identities]
        chosen = self.sort.currentData()
        with QSignalBlocker(self.sort):
            self.sort.clear()
            self.sort.addItem("By effect size", -1)
            self.sort.addItem("In plan order", -2)
            for cluster in self.view.order:
                self.sort.addItem(f"Typical of {names[cluster]}", cluster)
            self.sort.setCurrentIndex(max(self.sort.findData(chosen), 0))

    def _offer_groupings(self) -> None:
        grown, cut = self.focus.grown, self.focus.cut
        if grown is None or cut is None:
            return
        with QSignalBlocker(self.beside):
            self.beside.clear()
            self.beside.addItem("No comparison", None)
            for count in range(2, min(grown.tree.n, 12) + 1):
                if count != cut.clusters:
                    self.beside.addItem(f"{count} clusters", count)
            for name in self.profiling.groups_to_choose():
                self.beside.addItem(name, name)
            self.beside.setCurrentIndex(max(self.beside.findData(self.profiling.beside), 0))

    def _other_kind(self) -> None:
        kind = self.kind.currentData()
        self.view.common, self.view.kind = kind == "common", "" if kind == "common" else kind
        self.profiling.show_spread(bool(self.view.kind))
        self._show()

    def _other_beside(self) -> None:
        self.profiling.put_beside(self.beside.currentData())

    def lanes(self) -> list[Lane]:
        """All of the cut in hand, in the order chosen, of the questions sought."""
        known = self.profiling.portrayed
        if known is None:
            return []
        found, by = list(known.lanes), self.sort.currentData()
        if self.view.kind:
            found = _one_each(found)
        if by == -2:
            places = {one.name: place for place, one in enumerate(known.told)}
            found.sort(key=lambda lane: places[lane.name])
        elif by is not None and by >= 0 and not self.view.kind:
            found.sort(key=lambda lane: (lane.role != "active", -abs(lane.away[by])))
        sought = self.sought.text().strip().casefold()
        hidden = self.profiling.hidden
        return [one for one in found if sought in one.title.casefold() and one.name not in hidden]

    def _show(self) -> None:
        known, grown = self.profiling.portrayed, self.focus.grown
        self.view.figure = self.figure.currentData()
        self.view.spreads = {} if known is None else known.spreads
        self.view.beside = None if known is None else self._beside(known.other)
        lanes = self.lanes()
        self.view.show_lanes(lanes)
        self.profiling.show(self.view.profiles)
        how = " under the sample design" if known is not None and known.design else ""
        painter = self.view.chart()
        reach = "" if painter is None else fixed(painter.reach, 1)
        words = _KINDS[self.kind.currentData()][1].format(how=how, reach=reach) + _SHADES
        self.legend.setText(words if lanes else "")
        told = known is not None and bool(known.told)
        for widget in (self.sort, self.kind, self.figure, self.beside, self.sought):
            widget.setVisible(told)
        self.take.setVisible(bool(lanes))
        hidden = len(self.profiling.hidden)
        self.all.setVisible(bool(hidden) and told)
        self.all.setText(f"{hidden} hidden")
        words = ""
        if known is None and grown is not None:
            words = self.profiling.portraits.problem or "Computing profiles …"
        elif known is not None and known.problem:
            words = known.problem
            if told:
                words = f"Standard errors assume a simple random sample. {words}"
        elif known is not None and grown is not None and not lanes:
            kind = "variables" if grown.of == "variables" else "matrix"
            words = "No question contains these words." if told else _NONE[kind]
        self.says.setText(words)
        self.says.setVisible(bool(words))
        self._tell(self.view.row, self.view.cluster)

    def _beside(self, other: Other | None) -> Beside | None:
        """Another grouping, as it stands beside the columns of the clusters."""
        grown, known = self.focus.grown, self.profiling.portrayed
        if other is None or grown is None or known is None:
            return None
        inside = other.own >= 0
        names: list[str | Identity] = list(other.words)
        if other.cut is not None:
            names = list(self.focus.identities_of(other.cut))
        count = len(names)
        cases = np.bincount(other.own[inside], minlength=count)
        mass = np.bincount(other.own[inside], known.masses[inside], count)
        order = (
            list(range(count))
            if other.cut is None
            else by_letter(self.focus.identities_of(other.cut))
        )
        return Beside(
            other.name, order, names, cases.tolist(), (mass / mass.sum()).tolist(),
            {lane.title: lane for lane in other.lanes},
        )  # fmt: skip

    def _tell(self, row: int, cluster: int) -> None:
        painter = self.view.chart()
        known = painter is not None and row < len(painter.lanes)
        words = painter.tip(self.view.place) if painter and known else ""
        self.reading.setText(words)

    def seek(self) -> None:
        """The keyboard goes to the field that searches."""
        self.sought.setFocus(Qt.FocusReason.ShortcutFocusReason)

    def _hide(self, name: str) -> None:
        self.profiling.hidden.add(name)
        self.acts.said.emit(f"“{name}” is hidden.", False)
        self._show()

    def _show_all(self) -> None:
        self.profiling.hidden.clear()
        self._show()


def _one_each(lanes: list[Lane]) -> list[Lane]:
    """A row for each question: levels of words together, and without numbers."""
    out: list[Lane] = []
    for lane in lanes:
        if not lane.word:
            out.append(lane)
        elif not out or out[-1].name != lane.name:
            nothing = np.full(len(lane.values), np.nan)
            out.append(replace(lane, word="", values=nothing, lower=nothing, upper=nothing))
    return out
