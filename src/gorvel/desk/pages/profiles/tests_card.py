"""Do the clusters differ: a test for each question, corrected for their number where asked."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QCheckBox, QWidget

from gorvel.core.base.numbers import fixed, number
from gorvel.core.profile.portrayed import Portrayed
from gorvel.core.profile.tested import Tested, p_told, tested
from gorvel.core.results.profiles import TEST_NAMES, with_names
from gorvel.desk.controls.arranging import fill, in_row
from gorvel.desk.controls.following import WhenSeen
from gorvel.desk.controls.texts import text
from gorvel.desk.views.result_view import ResultView
from gorvel.desk.views.taking_away import TakeAway
from gorvel.desk.work.actions import Actions
from gorvel.desk.work.profiling import Profiling
from gorvel.paint.theme import current

_HEADS = ("question", "test", "statistic", "df", "p", "effect", "design effect")
_STATISTIC, _SPANNED = 2, 3  # the column, and how many of them a reason takes
_NOTE = (
    "Active variables (grey) differ because clusters were formed from them: their "
    "p-values are only descriptive. Profile-only variables can be tested."
)
_ACTIVE = "The clusters were formed from it: descriptive only"
_GIVEN = " Under the design, clusters are taken as fixed."


class TestsCard(QWidget):
    """Worked out when it is looked at."""

    __test__ = False  # for pytest

    def __init__(
        self, actions: Actions, profiling: Profiling, parent: QWidget | None = None
    ) -> None:
        super().__init__(parent)
        self.profiling, self.focus = profiling, actions.focus
        self._rows: list[Tested] = []
        self._of: Portrayed | None = None
        self.holm = QCheckBox("Adjust p-values for multiple tests (Holm)")
        self.holm.setToolTip("Across profile-only variables; active ones are not tested")
        self.table_view = ResultView(
            _HEADS, "Tests of each question", (176, 96, 80, 82, 74, 118), right=(2, 3, 4)
        )
        self.note = text(size="note", soft=True)
        self.take = TakeAway.of(actions, "tests")
        fill(self, in_row(self.holm, None, self.take), (self.table_view, 1), self.note)
        self.holm.setChecked(profiling.adjusted)
        self.holm.toggled.connect(self._adjust)
        WhenSeen(self, self._follow, profiling.portraits.changed).follow()

    def _follow(self) -> None:
        known = self.profiling.portrayed
        if known is None or not known.told:
            self._rows, self._of = [], None
        elif known is not self._of:
            self._of = known
            self._rows = tested(known)
        self._show()

    def _adjust(self, adjusted: bool) -> None:
        self.profiling.adjusted = adjusted
        self._show()

    def _show(self) -> None:
        view, soft = self.table_view, current().soft
        known = self._of
        sampled = known is not None and known.design is not None
        view.setColumnHidden(_HEADS.index("design effect"), not sampled)
        p_values = p_told(self._rows, self.profiling.adjusted)
        view.show_rows(
            [self._cells(row, p) for row, p in zip(self._rows, p_values, strict=True)],
            lambda row, column: column == 0 and self._rows[row].told.role != "active",
        )
        for place, row in enumerate(self._rows):
            if row.told.role == "active":
                view.soften(place, range(len(_HEADS)), _ACTIVE)
            if row.test.withheld:
                reason = view.cell(place, _STATISTIC)
                reason.setTextAlignment(Qt.AlignmentFlag.AlignVCenter)
                view.soften(place, (_STATISTIC,), reason.text())
            wide = _SPANNED if row.test.withheld else 1
            if view.columnSpan(place, _STATISTIC) != wide:
                view.setSpan(place, _STATISTIC, 1, wide)
        words = _NOTE + (_GIVEN if sampled else "")
        if not self._rows:
            words = "There is nothing to test: no variables, or one cluster."
        self.note.setText(words)
        self.note.setStyleSheet(f"color: {soft};")

    def _cells(self, row: Tested, p: float) -> tuple[str, ...]:
        """As it stands in the table; a test that is withheld says why."""
        test = row.test
        statistic = "–" if np.isnan(test.statistic) else fixed(test.statistic, 2)
        if test.withheld:
            statistic = f"Withheld: {with_names(test.withheld, self.focus.identities)}"
        df = "–" if np.isnan(test.df1) else number(test.df1)
        if not np.isnan(test.df2):
            df += f", {number(test.df2)}"
        effect = "–"
        if not np.isnan(test.effect):
            name = "Cramér’s V" if row.told.level in ("nominal", "binary") else "eta²"
            effect = f"{name} {fixed(test.effect, 2)}"
        return (
            row.told.name, TEST_NAMES[test.test],
            statistic, df, p_words(p), effect,
            "" if np.isnan(row.deff) else fixed(row.deff, 2),
        )  # fmt: skip


def p_words(p: float) -> str:
    """A p value as papers print it."""
    if np.isnan(p):
        return "–"
    return "< .001" if p < 0.001 else fixed(p, 3).lstrip("0") if p < 1 else "1"
