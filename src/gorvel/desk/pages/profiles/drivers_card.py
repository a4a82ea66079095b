"""How much each variable matters to the clusters: the tree grown again without it."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QWidget

from gorvel.core.base.numbers import fixed
from gorvel.core.profile.leave_one_variable_out import Driver, only_noise
from gorvel.desk.controls.arranging import fill, in_row
from gorvel.desk.controls.following import WhenSeen
from gorvel.desk.controls.texts import button, text
from gorvel.desk.controls.work_bars import InquiryBar
from gorvel.desk.views.result_view import ResultView
from gorvel.desk.views.taking_away import TakeAway
from gorvel.desk.work.actions import Actions
from gorvel.desk.work.profiling import Profiling

_HEADS = ("variable", "ARI without it", "between clusters", "silhouette gain", "")
_SAME, _EXPLAIN = 1, 2
_WORDS = (
    "Each active variable is left out in turn, and the tree is grown from the "
    "others and cut at the same number of clusters."
)
_MOST_AT_ONCE = 3_000_000  # cases x cases x variables that are begun unasked


class DriversCard(QWidget):
    """Worked out when asked for, in the background."""

    def __init__(
        self, actions: Actions, profiling: Profiling, parent: QWidget | None = None
    ) -> None:
        super().__init__(parent)
        self.profiling, self.focus = profiling, actions.focus
        self.view = ResultView(
            _HEADS, "How much each variable matters", (210, 170, 150, 150), 26, (_SAME, _EXPLAIN)
        )
        self.ask = button("Grow the trees without each variable", profiling.ask_drivers)
        self.bar = InquiryBar(
            profiling.drivers, profiling.ask_drivers, "Growing the tree without each variable …"
        )
        self.says = text(soft=True)
        self.take = TakeAway.of(actions, "drivers")
        head = in_row(
            (self.says, 1), (self.ask, 0, Qt.AlignmentFlag.AlignTop),
            (self.take, 0, Qt.AlignmentFlag.AlignTop),
        )  # fmt: skip
        self.note = text(_WORDS, "note", soft=True)
        fill(self, head, self.bar, (self.view, 1), self.note)
        WhenSeen(
            self, self._follow, profiling.drivers.changed, profiling.portraits.changed
        ).follow()

    def _follow(self) -> None:
        known, grown, cut = self.profiling.portrayed, self.focus.grown, self.focus.cut
        whole = known is not None and bool(known.told) and cut is not None and not cut.split
        idle = self.profiling.drivers.job is None
        found = self.profiling.driven
        cost = 0 if grown is None else grown.tree.n**2 * len(grown.prepared.variables)
        ended = self.profiling.drivers.stopped or bool(self.profiling.drivers.problem)
        little = cost <= _MOST_AT_ONCE and not ended
        if whole and idle and found is None and little and self.isVisible():
            self.profiling.ask_drivers()
            return
        self.ask.setVisible(bool(whole) and idle and found is None
                            and not self.profiling.drivers.stopped)  # fmt: skip
        self.take.setVisible(bool(found))
        words = "" if idle else "More follow."
        if cut is not None and cut.split:
            words = "Some branches are cut lower: cut by number of clusters to compute this."
        elif known is not None and not known.told:
            words = "There are no variables to leave out."
        elif found:
            words = _summary(found)
        self.says.setText(words)
        self._fill(found or [])

    def _fill(self, found: list[Driver]) -> None:
        rows = sorted(found, key=lambda one: np.nan_to_num(one.agreement, nan=2.0))
        noise = set(only_noise(found))
        self.view.show_rows([
            (one.name, one.agreement, one.explained, _signed(one.gain),
             one.why or ("contributes little here" if one.name in noise else ""))
            for one in rows
        ])  # fmt: skip


def _signed(value: float) -> str:
    return "–" if np.isnan(value) else fixed(value, 3, sign=True)


def _summary(found: list[Driver]) -> str:
    known = [one for one in found if not np.isnan(one.agreement)]
    if not known:
        return found[0].why
    least = min(known, key=lambda one: one.agreement)
    words = (
        f"The clusters change most without {least.name} (adjusted Rand index "
        f"{fixed(least.agreement, 2)})."
    )
    noise = only_noise(found)
    if 2 * sum(one.little for one in known) >= len(known):
        words += (
            " But less than 10% of the variance of most variables lies between clusters: "
            "separation is weak."
        )
    if noise:
        told = ", ".join(noise[:5]) + (" …" if len(noise) > 5 else "")
        words += (
            f" Less than 10% of the variance of {told} lies between clusters, and they "
            "separate better without it: consider leaving it out, or profile only."
        )
    return words
