"""Do the clusters hang on how missing answers are handled?"""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QHBoxLayout, QTableWidget, QTableWidgetItem, QWidget

from gorvel.core.base.numbers import counted, fixed
from gorvel.core.compare.gap_handlings import TIMES, Filled
from gorvel.core.results.table import ResultTable
from gorvel.core.words.comparison import filled_words
from gorvel.core.words.plan import HANDLING_WORDS
from gorvel.desk.controls.inquiry_bar import InquiryBar
from gorvel.desk.controls.texts import button, card, heading, text
from gorvel.desk.views.bars import ShareBars
from gorvel.desk.views.tables import dress
from gorvel.desk.views.taking_away import TakeAway
from gorvel.desk.work.actions import Actions
from gorvel.desk.work.filling import Filling
from gorvel.paint.theme import font

_HEADS = ("missing answers", "cases", "adjusted Rand", "smallest cluster", "")
_CLUSTERS = ("cluster", "cases", "pairs kept", "loosely attached")
_BAR = 2
_WORDS = (
    f"Missing answers are imputed {TIMES} times (chained equations, predictive mean "
    "matching with five donors; Little 1988, van Buuren 2006). Assumes missing at "
    "random."
)


class GapsCard(QWidget):
    """Worked out when asked for."""

    def __init__(self, actions: Actions, filling: Filling, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.focus, self.filling = actions.focus, filling
        self.ask = button("Grow these trees", filling.ask, "link")
        self.take = TakeAway(actions, "gaps", self.table)
        self.bar = InquiryBar(filling.inquiry, filling.ask, "Imputing missing answers …")
        self.says = text()
        self.handlings, self.clusters = QTableWidget(0, len(_HEADS)), QTableWidget(0, 4)
        for table, heads, name, widths in (
            (self.handlings, _HEADS, "The tree under each treatment", (240, 70, 170, 120)),
            (self.clusters, _CLUSTERS, "Clusters across imputations", (150, 70, 190)),
        ):
            table.setHorizontalHeaderLabels(list(heads))
            table.setEditTriggers(QTableWidget.EditTrigger.NoEditTriggers)
            dress(table, name, widths, 26)
            table.setItemDelegateForColumn(_BAR, ShareBars(table))
        head = QHBoxLayout()
        head.addWidget(heading("Missing answers"))
        head.addStretch(1)
        head.addWidget(self.ask)
        head.addWidget(self.take)
        self._titles = heading("Each treatment", 1.0), heading("Multiple imputation", 1.0)
        inside = card(self)
        inside.addLayout(head)
        inside.addWidget(self.bar)
        inside.addWidget(self.says)
        for title, table in zip(self._titles, (self.handlings, self.clusters), strict=True):
            inside.addWidget(title)
            inside.addWidget(table, 1)
        inside.addWidget(text(_WORDS, 0.86, soft=True))
        filling.inquiry.changed.connect(self.follow)

    def follow(self) -> None:
        """Another cut, or the answer is there."""
        known, why = self.filling.known, self.filling.why_not
        working = self.filling.inquiry.job is not None
        self.ask.setVisible(not why and not working and known is None)
        self.take.setEnabled(known is not None)
        for widget in (*self._titles, self.handlings, self.clusters):
            widget.setVisible(known is not None)
        if known is None:
            words = why or ("Would another treatment of missing answers give other clusters?")
            self.says.setText("" if working else words)
            return
        names = [who.told for who in self.focus.identities]
        self.says.setText(filled_words(known.imputed, names))
        self._fill(self.handlings, self._handlings(known))
        self._fill(self.clusters, self._clusters(known, names))

    def _handlings(self, known: Filled) -> list[tuple[str | int | float, ...]]:
        count, plan = known.cut.clusters, self.focus.plan_of_tree
        assert plan is not None
        rows: list[tuple[str | int | float, ...]] = []
        for one in known.handlings:
            name = HANDLING_WORDS[one.at.handling]
            name += " (current)" if one.at.handling == plan.handling else ""
            if one.why:
                rows.append((name, "", "", "", one.why))
                continue
            agreement = one.agreement.get(count, float("nan"))
            rows.append((name, one.cases, agreement, one.smallest.get(count, 0), ""))
        found = known.imputed
        mean = float(np.mean(found.agreement))
        least = f"{counted(len(found.agreement), 'data set')}, lowest"
        rows.append(("are imputed many times", found.cases, mean, "",
                     f"{least} {fixed(min(found.agreement), 2)}"))  # fmt: skip
        return rows

    def _clusters(self, known: Filled, names: list[str]) -> list[tuple[str | int | float, ...]]:
        own, less = known.cut.membership - 1, known.imputed.together.cases < 0.5
        count = known.cut.clusters
        sizes = np.bincount(own, minlength=count).tolist()
        loose = np.bincount(own[less], minlength=count).tolist()
        return list(zip(names, sizes, known.imputed.together.clusters.tolist(), loose,
                        strict=True))  # fmt: skip

    def _fill(self, table: QTableWidget, rows: list[tuple[str | int | float, ...]]) -> None:
        table.setRowCount(len(rows))
        for place, row in enumerate(rows):
            for column, cell in enumerate(row):
                number = fixed(cell, 2) if isinstance(cell, float) else f"{cell:,}" if isinstance(
                    cell, int) else cell  # fmt: skip
                item = QTableWidgetItem("–" if number == "nan" else number)
                if column == 0:
                    item.setFont(font(0.93, 600))
                if isinstance(cell, float):
                    item.setData(Qt.ItemDataRole.UserRole, cell)
                table.setItem(place, column, item)

    def table(self) -> ResultTable | None:
        """A row for each handling."""
        known = self.filling.known
        if known is None:
            return None
        heads = ("missing answers", "cases", "adjusted Rand", "smallest cluster", "note")
        return ResultTable(heads, list(self._handlings(known)))
