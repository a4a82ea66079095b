"""The columns of the agglomeration schedule, and its joins as rows of a table."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QAbstractTableModel, QModelIndex, QPersistentModelIndex, Qt
from PySide6.QtWidgets import QWidget

from gorvel.core.base.numbers import fixed, number
from gorvel.core.grow.grown import Grown
from gorvel.core.tree.schedule import Schedule, WithinSS
from gorvel.core.tree.tree import Tree
from gorvel.core.words.tree import join_names
from gorvel.desk.controls.plain_text import as_tip
from gorvel.paint.theme import font

Index = QModelIndex | QPersistentModelIndex


@dataclass(frozen=True)
class Column:
    """One column of the schedule.

    width : pixels; tip : what it says; key : of all joins, to sort by; text : of a join; words : is
    it written from the left?; numbered : has it numbers up to that of the cases?; squares : is it
    made of sums of squares?
    """

    head: str
    width: int
    tip: str
    key: Callable[[ScheduleModel], NDArray[Any]]
    text: Callable[[ScheduleModel, int], str]
    words: bool = False
    numbered: bool = False
    squares: bool = False


class ScheduleModel(QAbstractTableModel):
    """A row for each join, the last one first until it is sorted otherwise."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.grown: Grown | None = None
        self.support: NDArray[np.float64] | None = None  # of each join, where it was measured
        self.most_jump = 1.0
        self._joins = np.empty(0, dtype=np.int64)  # of each row
        self._rows = np.empty(0, dtype=np.int64)  # of each join

    def show(self, grown: Grown | None) -> None:
        """Show the schedule of a tree."""
        self.beginResetModel()
        self.grown = grown
        if grown is not None and grown.tree.joins > 1:
            self.most_jump = max(float(np.nanmax(grown.schedule.jump)), 1e-300)
        self._arrange(np.arange(grown.tree.joins if grown is not None else 0)[::-1])
        self.endResetModel()

    def _arrange(self, joins: NDArray[np.int64]) -> None:
        self._joins, self._rows = joins, np.empty_like(joins)
        self._rows[joins] = np.arange(len(joins))

    def sort(self, column: int, order: Qt.SortOrder = Qt.SortOrder.AscendingOrder) -> None:
        """Sort by a column; equal joins stay in order of joining."""
        if self.grown is None:
            return
        keys = np.asarray(COLUMNS[column].key(self))
        falling = order == Qt.SortOrder.DescendingOrder
        if keys.dtype.kind == "f":
            keys = np.where(np.isnan(keys), -np.inf if falling else np.inf, keys)
        joins = np.argsort(keys, kind="stable")
        self.layoutAboutToBeChanged.emit()
        self._arrange(joins[::-1] if falling else joins)
        self.layoutChanged.emit()

    @property
    def tree(self) -> Tree:
        """That is shown."""
        assert self.grown is not None
        return self.grown.tree

    @property
    def rows(self) -> Schedule:
        """Of the tree shown."""
        assert self.grown is not None
        return self.grown.schedule

    def join_of(self, row: int) -> int:
        """The join (from 0) in a row."""
        return int(self._joins[row])

    def row_of(self, join: int) -> int:
        """The row of a join (from 0)."""
        return int(self._rows[join])

    def rowCount(self, parent: Index | None = None) -> int:
        return 0 if self.grown is None else self.grown.tree.joins

    def columnCount(self, parent: Index | None = None) -> int:
        return len(COLUMNS)

    def headerData(self, section: int, way: Qt.Orientation, role: int = 0) -> Any:
        if way == Qt.Orientation.Horizontal:
            if role == Qt.ItemDataRole.DisplayRole:
                head = COLUMNS[section].head
                return self.grown.of if self.grown and head == "cases" else head
            if role == Qt.ItemDataRole.ToolTipRole:
                return as_tip(self._tip(COLUMNS[section]))
            if role == Qt.ItemDataRole.TextAlignmentRole:
                return _alignment(section)
            if role == Qt.ItemDataRole.FontRole:
                return font("note")
        return None

    def data(self, index: Index, role: int = 0) -> Any:
        if self.grown is None or not index.isValid():
            return None
        if role == Qt.ItemDataRole.DisplayRole:
            return self.text(self.join_of(index.row()), index.column())
        if role == Qt.ItemDataRole.TextAlignmentRole:
            return _alignment(index.column())
        if role == Qt.ItemDataRole.ToolTipRole:
            if COLUMNS[index.column()].head == "note":
                return as_tip(_note(self, self.join_of(index.row()), long=True))
            return as_tip(self.text(self.join_of(index.row()), index.column()))
        return None

    def text(self, join: int, column: int) -> str:
        """What a cell says."""
        return COLUMNS[column].text(self, join)

    def _tip(self, column: Column) -> str:
        """What a column says, and why it is empty where it is."""
        if self.grown is None or not column.squares or self.rows.spread is not None:
            return column.tip
        return f"{column.tip}. Not available: {self.grown.prepared.no_spread}."


def _alignment(column: int) -> Qt.AlignmentFlag:
    words = COLUMNS[column].words
    side = Qt.AlignmentFlag.AlignLeft if words else Qt.AlignmentFlag.AlignRight
    return side | Qt.AlignmentFlag.AlignVCenter


# what cells say


def _names(model: ScheduleModel, node: int) -> str:
    assert model.grown is not None
    return join_names(model.grown, [node])[0]


def _jump(model: ScheduleModel, join: int) -> str:
    jump = float(model.rows.jump[join])
    return "" if np.isnan(jump) else number(jump)


def _support(model: ScheduleModel, join: int) -> str:
    known = model.support is not None and not np.isnan(model.support[join])
    return f"{100 * model.support[join]:.0f}" if known else ""  # type: ignore[index]


def _note(model: ScheduleModel, join: int, long: bool = False) -> str:
    rows = model.rows
    if rows.inverted[join]:
        return "An inversion: lower than the previous join" if long else "inversion"
    if rows.tie_matters[join]:
        told = "A tied pair shared a cluster: file order decided the tree"
        return told if long else "order-dependent tie"
    if rows.tied[join]:
        return "Another pair was tied, elsewhere in the tree" if long else "tie"
    return ""


def _of_squares(
    head: str, width: int, tip: str, values: Callable[[WithinSS], NDArray[Any]],
    words: Callable[[float], str],
) -> Column:  # fmt: skip
    """A column that is empty where there are no sums of squares."""

    def key(model: ScheduleModel) -> NDArray[Any]:
        spread = model.rows.spread
        return np.zeros(model.rowCount()) if spread is None else values(spread)

    def text(model: ScheduleModel, join: int) -> str:
        spread = model.rows.spread
        if spread is None or np.isnan(spread.r2[join]):
            return "–"
        return words(float(values(spread)[join]))

    return Column(head, width, tip, key, text, squares=True)


COLUMNS = (
    Column(
        "join", 60, "The step, in order of joining", lambda m: m.rows.join,
        lambda m, j: str(j + 1), numbered=True,
    ),
    Column(
        "left branch", 110, "The branch with the earlier case: its first case, and how many more",
        lambda m: m.tree.firsts[m.rows.left], lambda m, j: _names(m, int(m.rows.left[j])),
        words=True,
    ),
    Column(
        "right branch", 110, "The other branch", lambda m: m.tree.firsts[m.rows.right],
        lambda m, j: _names(m, int(m.rows.right[j])), words=True,
    ),
    Column(
        "cases", 60, "Cases in the cluster that the join makes", lambda m: m.rows.size,
        lambda m, j: f"{m.rows.size[j]:,}", numbered=True,
    ),
    Column(
        "height", 70, "The height at which the branches join", lambda m: m.rows.height,
        lambda m, j: number(float(m.rows.height[j])),
    ),
    Column(
        "jump", 104, "Height minus that of the previous join; long bars suggest where to cut",
        lambda m: m.rows.jump, _jump, words=True,
    ),
    Column(
        "clusters", 66, "Clusters left after the join", lambda m: m.rows.clusters,
        lambda m, j: f"{m.rows.clusters[j]:,}", numbered=True,
    ),
    _of_squares(
        "R²", 48, "Share of the variance (of a cross table: of its chi-square) that lies between"
        " the clusters left", lambda spread: spread.r2, lambda value: fixed(value, 3),
    ),
    Column(
        "support", 62, "Support in per cent: recovery in resamples of the cases (Hennig 2007), or"
        " of the variables (approximately unbiased; Shimodaira 2004)",
        lambda m: np.zeros(m.rowCount()) if m.support is None else m.support, _support,
    ),
    Column(
        "note", 104, "Ties and inversions",
        lambda m: 4 * m.rows.inverted + 2 * m.rows.tie_matters + 1 * m.rows.tied, _note,
        words=True,
    ),
    _of_squares(
        "semipartial R²", 96, "Loss of R² at this join", lambda spread: spread.semipartial_r2,
        lambda value: fixed(value, 3),
    ),
    _of_squares(
        "within", 80, "Sum of squares within the clusters left", lambda spread: spread.within,
        number,
    ),
    Column(
        "left from", 70, "The join that made the left branch; none for a case",
        lambda m: m.rows.left_made_at, lambda m, j: str(m.rows.left_made_at[j] or ""),
    ),
    Column(
        "right from", 70, "The join that made the right branch; none for a case",
        lambda m: m.rows.right_made_at, lambda m, j: str(m.rows.right_made_at[j] or ""),
    ),
    Column(
        "next join", 70, "The join that uses the new cluster next; none for the last",
        lambda m: m.rows.used_at, lambda m, j: str(m.rows.used_at[j] or ""), numbered=True,
    ),
    Column(
        "weight", 70, "Sum of the case weights in the cluster that the join makes",
        lambda m: m.rows.mass, lambda m, j: number(float(m.rows.mass[j])),
    ),
)  # fmt: skip
HEADS = tuple(column.head for column in COLUMNS)
NUMBERED = [place for place, column in enumerate(COLUMNS) if column.numbered]
JUMP = HEADS.index("jump")
