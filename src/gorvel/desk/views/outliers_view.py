"""The cases that stand apart, ranked, with what makes each unusual."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from PySide6.QtCore import QSortFilterProxyModel, Qt
from PySide6.QtGui import QColor, QKeyEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import QTableView, QWidget

from gorvel.core.base.numbers import fixed, number
from gorvel.core.inspect.outliers import Outlier
from gorvel.desk.views.record_model import Column, RecordModel
from gorvel.desk.views.tables import dress
from gorvel.paint.theme import current, font

_FAR = 3.0  # times the usual, from which a number is marked


def _unusual(outlier: Outlier) -> str:
    reasons = (f"{one.variable} {fixed(one.z, 1, sign=True)}" for one in outlier.reasons)
    return ", ".join(reasons) or "the combination"


def _told(outlier: Outlier) -> str:
    told = "\n".join(
        f"{one.variable} is {number(one.answer)}: {fixed(abs(one.z), 1)} robust standard "
        f"deviations {'above' if one.z > 0 else 'below'} the median"
        for one in outlier.reasons
    )
    return told or "No single answer is unusual, but their combination is"


_COLUMNS = (
    Column[Outlier](
        "case", lambda one: one.label, "Label of the case", key=lambda one: one.case,
        cell_tip=_told,
    ),
    Column[Outlier](
        "from neighbours", lambda one: f"{fixed(one.apart, 1)} ×",
        "Mean distance to the five nearest cases, relative to its median over all cases",
        right=True, key=lambda one: one.apart, cell_tip=_told,
        colour=lambda one: current().warn if one.apart >= _FAR else None,
    ),
    Column[Outlier](
        "from centroid", lambda one: "" if one.cloud is None else fixed(one.cloud, 1),
        "Robust Mahalanobis distance over the p interval variables; about 2.5% exceed "
        "√χ²(p; 0.975)",
        right=True, key=lambda one: one.cloud or 0.0, cell_tip=_told,
    ),
    Column[Outlier](
        "unusual answers (robust z)", _unusual,
        "Variables in which the case is 2.5 or more robust SD from the median",
        key=lambda one: len(one.reasons), cell_tip=_told,
    ),
)  # fmt: skip


class OutliersView(QTableView):
    """Select cases to set them aside (S). Sorted by a click on a heading."""

    def __init__(self, set_aside: Callable[[], None], parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._set_aside = set_aside
        self.table = RecordModel[Outlier](_COLUMNS, self)
        self._sorted = QSortFilterProxyModel(self)
        self._sorted.setSourceModel(self.table)
        self._sorted.setSortRole(Qt.ItemDataRole.UserRole)
        self.setModel(self._sorted)
        dress(self, "Cases that stand apart", (66, 130, 92))
        self.setSortingEnabled(True)
        self.sortByColumn(1, Qt.SortOrder.DescendingOrder)
        self._why = ""

    def show_none(self, why: str) -> None:
        """An empty list. why : in words."""
        self._why = why
        self.table.show([])
        self.setAccessibleDescription(why)
        self.viewport().update()

    def show_found(self, outliers: Sequence[Outlier]) -> None:
        """The cases that stand apart, or that there are none."""
        if not outliers:
            self.show_none("No case stands apart from the others.")
            return
        self.show_none("")
        self.table.show(outliers)

    def paintEvent(self, event: QPaintEvent) -> None:
        super().paintEvent(event)
        if self._why and not self.table.rowCount():
            painter = QPainter(self.viewport())
            painter.setPen(QColor(current().soft))
            painter.setFont(font())
            flags = Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap
            painter.drawText(self.viewport().rect().adjusted(24, 24, -24, -24), flags, self._why)

    def chosen_cases(self) -> set[int]:
        """The numbers of the selected cases."""
        rows = (self._sorted.mapToSource(i).row() for i in self.selectionModel().selectedRows())
        return {self.table.records[row].case for row in rows}

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_S:
            self._set_aside()
        else:
            super().keyPressEvent(event)
