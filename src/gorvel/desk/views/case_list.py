"""Some cases as a list: searched, sorted, copied, and followed to the tree."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import QAbstractTableModel, QModelIndex, QPersistentModelIndex, Qt
from PySide6.QtGui import QKeySequence, QShortcut
from PySide6.QtWidgets import QLineEdit, QTableView, QWidget

from gorvel.core.results.table import ResultTable
from gorvel.core.study.tree_pairs import PairAtCut
from gorvel.desk.controls.arranging import fill, in_row
from gorvel.desk.controls.texts import button, heading
from gorvel.desk.state.focus import Focus
from gorvel.desk.state.marks import Mark, mark_in
from gorvel.desk.views.tables import copy_table, dress

_Index = QModelIndex | QPersistentModelIndex


class _Cases(QAbstractTableModel):
    """What a list tells of each case, the first a whole number. cases : as they are shown."""

    def __init__(self, of: CaseList) -> None:
        super().__init__()
        self._of = of
        self.cases: list[int] = []
        self._all: Sequence[int] = ()
        self._sought = ""
        self._by, self._way = 0, Qt.SortOrder.AscendingOrder

    def put(self, cases: Sequence[int]) -> None:
        """Show these."""
        self._all = cases
        self._arrange()

    def seek(self, words: str) -> None:
        """Show only those whose number or label holds these words."""
        self._sought = words.strip().casefold()
        self._arrange()

    def sort(self, column: int, order: Qt.SortOrder = Qt.SortOrder.AscendingOrder) -> None:
        self._by, self._way = column, order
        self._arrange()

    def _arrange(self) -> None:
        self.beginResetModel()
        told = {case: self._of.cells(case) for case in self._all}
        words = {case: [str(cell).casefold() for cell in cells] for case, cells in told.items()}
        shown = [case for case in self._all if self._sought in " ".join(words[case])]
        if self._by == 0:
            shown.sort(key=lambda case: told[case][0])
        else:
            shown.sort(key=lambda case: (words[case][self._by], told[case][0]))
        if self._way == Qt.SortOrder.DescendingOrder:
            shown.reverse()
        self.cases = shown
        self.endResetModel()

    def rowCount(self, parent: _Index | None = None) -> int:
        inside = parent is not None and parent.isValid()
        return 0 if inside or not self._of.known else len(self.cases)

    def columnCount(self, parent: _Index | None = None) -> int:
        return len(self._of.heads)

    def data(self, index: _Index, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        if role != Qt.ItemDataRole.DisplayRole or not self._of.known:
            return None
        return str(self._of.cells(self.cases[index.row()])[index.column()])

    def headerData(
        self, section: int, way: Qt.Orientation, role: int = Qt.ItemDataRole.DisplayRole
    ) -> object:
        shown = role == Qt.ItemDataRole.DisplayRole and way == Qt.Orientation.Horizontal
        return self._of.heads[section] if shown else None


class CaseList(QWidget):
    """Cases by their places in the tree in hand; what is chosen is marked on it."""

    heads: tuple[str, ...] = ("case", "label")

    def __init__(self, focus: Focus, title: str, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.focus = focus
        self.title = heading(title, "text")
        self.sought = QLineEdit()
        self.sought.setPlaceholderText("Find a case")
        self.sought.setAccessibleName("Find a case")
        self.view = QTableView()
        self._cases = _Cases(self)
        self.view.setModel(self._cases)
        self.view.setSortingEnabled(True)
        self.view.sortByColumn(0, Qt.SortOrder.AscendingOrder)
        dress(self.view, title, (64,), 20)
        self.view.setMinimumHeight(150)
        head = in_row(self.title, None, button("Copy", self.copy_all, "link", "Copy the list"))
        fill(self, head, self.sought, (self.view, 1), space=4)
        self.sought.textChanged.connect(self._cases.seek)
        self.view.clicked.connect(self._follow)
        self.view.activated.connect(self._follow)
        copy = QShortcut(QKeySequence(QKeySequence.StandardKey.Copy), self.view, self.copy_all)
        copy.setContext(Qt.ShortcutContext.WidgetShortcut)

    @property
    def known(self) -> bool:
        """Is there a tree whose cases can be told?"""
        return self.focus.grown is not None

    def cells(self, case: int) -> tuple[int | str, ...]:
        """What is told of a case: its number in the file, its label."""
        grown = self.focus.grown
        assert grown is not None
        return int(grown.prepared.numbers[case]), grown.prepared.labels[case]

    def mark(self, case: int) -> Mark | None:
        """Of a case, on the tree in hand."""
        return Mark("case", case)

    def show_cases(self, cases: Sequence[int]) -> None:
        """Show these, by their places in the tree."""
        self._cases.put(cases)

    @property
    def shown(self) -> list[int]:
        """Places of the cases in the list, in its order."""
        return list(self._cases.cases)

    def _follow(self, index: QModelIndex) -> None:
        self.focus.select(self.mark(self._cases.cases[index.row()]))

    def table(self) -> ResultTable:
        """The list as it stands."""
        return ResultTable(self.heads, [self.cells(case) for case in self.shown])

    def copy_all(self) -> None:
        """Put the list on the clipboard."""
        if self.known:
            copy_table(self.table())


class PairList(CaseList):
    """Cases by their places among those that both have."""

    heads = ("case", "label", "left", "right")

    def __init__(self, focus: Focus, parent: QWidget | None = None) -> None:
        self.met: PairAtCut | None = None
        super().__init__(focus, "Cases", parent)
        for column, wide in enumerate((52, 110, 48)):
            self.view.setColumnWidth(column, wide)

    @property
    def known(self) -> bool:
        return self.met is not None

    def show_pair(self, met: PairAtCut, cases: Sequence[int], title: str) -> None:
        """Show these cases of two trees."""
        self.met = met
        self.title.setText(f"{title}: {len(cases):,}")
        self.show_cases(cases)

    def cells(self, case: int) -> tuple[int | str, ...]:
        met = self.met
        assert met is not None
        prepared, place = met.faced.pair.one.prepared, int(met.faced.pair.mine[case])
        here, there = int(met.crossed.own[case]), int(met.crossed.its[case])
        return (
            int(prepared.numbers[place]), prepared.labels[place], met.names[here].name,
            met.others[there].name,
        )  # fmt: skip

    def mark(self, case: int) -> Mark | None:
        return None if self.met is None else mark_in(self.met, case, self.focus.grown)
