"""Do the clusters differ: a test for each question, corrected for their number where asked."""

from __future__ import annotations

import re
from dataclasses import dataclass

import numpy as np
from PySide6.QtCore import Qt
from PySide6.QtGui import QColor
from PySide6.QtWidgets import (
    QCheckBox,
    QHBoxLayout,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from gorvel.core.base.numbers import fixed, number
from gorvel.core.profile.differences import Difference, differences, holm
from gorvel.core.profile.portrayed import Portrayed
from gorvel.core.profile.told import Told
from gorvel.core.results.table import ResultTable
from gorvel.desk.controls.as_is import as_tip
from gorvel.desk.controls.seen import WhenSeen
from gorvel.desk.controls.texts import text
from gorvel.desk.views.tables import dress
from gorvel.desk.views.taking_away import TakeAway
from gorvel.desk.work.actions import Actions
from gorvel.desk.work.profiling import Profiling
from gorvel.paint.theme import SPACE, current, font

_NAMES = {
    "f": "F", "wald-f": "Wald F", "chi-square": "chi-square", "rao-scott-f": "Rao-Scott F",
}  # fmt: skip
_HEADS = ("question", "test", "statistic", "df", "p", "effect", "design effect")
_NOTE = (
    "Active variables (grey) differ because clusters were formed from them: their "
    "p-values are only descriptive. Profile-only variables can be tested."
)
_GIVEN = " Under the design, clusters are taken as fixed."


@dataclass(frozen=True)
class _Row:
    told: Told
    test: Difference
    deff: float  # mean design effect, NaN where there is none


class TestsCard(QWidget):
    """Worked out when it is looked at."""

    __test__ = False  # for pytest

    def __init__(
        self, actions: Actions, profiling: Profiling, parent: QWidget | None = None
    ) -> None:
        super().__init__(parent)
        self.profiling, self.focus = profiling, actions.focus
        self._rows: list[_Row] = []
        self._of: Portrayed | None = None
        self.holm = QCheckBox("Adjust p-values for multiple tests (Holm)")
        self.holm.setToolTip("Across profile-only variables; active ones are not tested")
        self.table_view = QTableWidget(0, len(_HEADS))
        self.table_view.setHorizontalHeaderLabels(list(_HEADS))
        self.table_view.setEditTriggers(QTableWidget.EditTrigger.NoEditTriggers)
        dress(self.table_view, "Tests of each question", (176, 96, 80, 82, 74, 118), 24)
        self.note = text(size=0.86, soft=True)
        head = QHBoxLayout()
        head.addWidget(self.holm)
        head.addStretch(1)
        head.addWidget(TakeAway(actions, "tests", self.table))
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(SPACE // 2)
        layout.addLayout(head)
        layout.addWidget(self.table_view, 1)
        layout.addWidget(self.note)
        self.holm.toggled.connect(self._show)
        self._seen = WhenSeen(self, self._follow)
        profiling.portraits.changed.connect(self._seen.follow)
        self._seen.follow()

    def _follow(self) -> None:
        known = self.profiling.portrayed
        if known is None or not known.told:
            self._rows, self._of = [], None
        elif known is not self._of:
            self._of = known
            self._rows = _tested(known)
        self._show()

    def p_shown(self) -> list[float]:
        """(rows,) as they stand in the table: corrected where that is asked for."""
        out = np.array(
            [float("nan") if row.test.withheld else row.test.p for row in self._rows],
            dtype=np.float64,
        )
        if self.holm.isChecked():
            for plain in (True, False):  # those that know the design are a family of their own
                places = [
                    place for place, row in enumerate(self._rows)
                    if row.told.role == "profile" and _is_plain(row.test) == plain
                ]  # fmt: skip
                out[places] = holm(out[places])
        return [float(p) for p in out]

    def _show(self) -> None:
        view, soft = self.table_view, current().soft
        view.setRowCount(len(self._rows))
        known = self._of
        sampled = known is not None and known.design is not None
        view.setColumnHidden(_HEADS.index("design effect"), not sampled)
        for place, (row, p) in enumerate(zip(self._rows, self.p_shown(), strict=True)):
            for column, words in enumerate(_cells(row, p)):
                item = QTableWidgetItem(words)
                if row.told.role == "active":
                    item.setForeground(QColor(soft))
                    item.setToolTip("The clusters were formed from it: descriptive only")
                elif column == 0:
                    item.setFont(font(0.93, 600))
                if 2 <= column <= 4:
                    item.setTextAlignment(
                        Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
                    )
                view.setItem(place, column, item)
            if row.test.withheld:
                reason = QTableWidgetItem(f"Withheld: {self._named(row.test.withheld)}")
                reason.setForeground(QColor(soft))
                reason.setToolTip(as_tip(reason.text()))
                view.setItem(place, 2, reason)
            view.setSpan(place, 2, 1, 3 if row.test.withheld else 1)
        words = _NOTE + (_GIVEN if sampled else "")
        if not self._rows:
            words = "There is nothing to test: no variables, or one cluster."
        self.note.setText(words)
        self.note.setStyleSheet(f"color: {soft};")

    def _named(self, why: str) -> str:
        """A reason with the cluster as it is called."""
        for place, who in enumerate(self.focus.identities, 1):
            why = re.sub(rf"\bcluster {place}\b", f"cluster {who.told}", why)
        return why

    def table(self) -> ResultTable | None:
        """A row for each test, p as it is shown."""
        if not self._rows:
            return None
        corrected = "p (Holm)" if self.holm.isChecked() else "p"
        heads = ("question", "role", "test", "statistic", "df1", "df2", corrected, "effect",
                 "design effect", "withheld")  # fmt: skip
        rows: list[tuple[str | int | float | None, ...]] = [
            (row.told.name, row.told.role, _NAMES[row.test.test],
             None if row.test.withheld else row.test.statistic, row.test.df1, row.test.df2, p,
             row.test.effect, row.deff, self._named(row.test.withheld) or None)
            for row, p in zip(self._rows, self.p_shown(), strict=True)
        ]  # fmt: skip
        return ResultTable(heads, rows)


def _is_plain(test: Difference) -> bool:
    return test.test in ("f", "chi-square")


def _tested(known: Portrayed) -> list[_Row]:
    """Questions for profiles first, since they can test; in each part the largest effects first."""
    if known.cut.clusters < 2:
        return []
    out: list[_Row] = []
    for told in known.told:
        found = differences(told, known.own, known.cut.clusters, known.masses, known.design)
        out += [_Row(told, test, _deff(known, told) if not _is_plain(test) else float("nan"))
                for test in found]  # fmt: skip
    return sorted(
        out, key=lambda row: (row.told.role == "active", -np.nan_to_num(row.test.effect, nan=-1.0))
    )


def _deff(known: Portrayed, told: Told) -> float:
    """Mean of the design effects of its means, or shares, in the clusters; NaN for none."""
    found = [lane.deff for lane in known.lanes if lane.name == told.name]
    all_ = np.concatenate(found) if found else np.empty(0)
    all_ = all_[np.isfinite(all_)]
    return float(all_.mean()) if all_.size else float("nan")


def p_words(p: float) -> str:
    """A p value as papers print it."""
    if np.isnan(p):
        return "–"
    return "< .001" if p < 0.001 else fixed(p, 3).lstrip("0") if p < 1 else "1"


def _cells(row: _Row, p: float) -> tuple[str, ...]:
    test = row.test
    df = "–" if np.isnan(test.df1) else number(test.df1)
    if not np.isnan(test.df2):
        df += f", {number(test.df2)}"
    effect = "–"
    if not np.isnan(test.effect):
        name = "Cramér’s V" if row.told.level in ("nominal", "binary") else "eta²"
        effect = f"{name} {fixed(test.effect, 2)}"
    return (
        row.told.name, _NAMES[test.test],
        "–" if np.isnan(test.statistic) else fixed(test.statistic, 2), df, p_words(p), effect,
        "" if np.isnan(row.deff) else fixed(row.deff, 2),
    )  # fmt: skip
