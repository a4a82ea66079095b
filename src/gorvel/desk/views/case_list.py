"""Some cases as a list: searched, sorted, copied, and followed to the tree."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import QAbstractTableModel, QModelIndex, QPersistentModelIndex, Qt
from PySide6.QtGui import QKeySequence, QShortcut
from PySide6.QtWidgets import QHBoxLayout, QLineEdit, QTableView, QVBoxLayout, QWidget

from gorvel.core.export.views import ViewTable
from gorvel.desk.controls.texts import button, heading
from gorvel.desk.state.focus import Focus
from gorvel.desk.state.marks import Mark
from gorvel.desk.views.tables import copy_table, dress

__all__ = ["CaseList"]

_HEADS = ("case", "label")
_Index = QModelIndex | QPersistentModelIndex


class _Cases(QAbstractTableModel):
    """Number in the file and label of each case. cases : places in the tree, as they are shown."""

    def __init__(self, focus: Focus) -> None:
        super().__init__()
        self.focus = focus
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
        shown = [k for k in self._all if self._sought in " ".join(self._cells(k)).casefold()]
        if self._by == 0:
            shown.sort()
        else:
            shown.sort(key=lambda case: self._cells(case)[1].casefold())
        if self._way == Qt.SortOrder.DescendingOrder:
            shown.reverse()
        self.cases = shown
        self.endResetModel()

    def _cells(self, case: int) -> tuple[str, str]:
        grown = self.focus.grown
        assert grown is not None
        return str(grown.prepared.numbers[case]), grown.prepared.labels[case]

    def rowCount(self, parent: _Index | None = None) -> int:
        inside = parent is not None and parent.isValid()
        return 0 if inside or self.focus.grown is None else len(self.cases)

    def columnCount(self, parent: _Index | None = None) -> int:
        return len(_HEADS)

    def data(self, index: _Index, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        if role != Qt.ItemDataRole.DisplayRole or self.focus.grown is None:
            return None
        return self._cells(self.cases[index.row()])[index.column()]

    def headerData(
        self, section: int, way: Qt.Orientation, role: int = Qt.ItemDataRole.DisplayRole
    ) -> object:
        shown = role == Qt.ItemDataRole.DisplayRole and way == Qt.Orientation.Horizontal
        return _HEADS[section] if shown else None


class CaseList(QWidget):
    """What is chosen in it is marked on the tree."""

    def __init__(self, focus: Focus, title: str, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.focus = focus
        self.sought = QLineEdit()
        self.sought.setPlaceholderText("Find a case")
        self.sought.setAccessibleName("Find a case")
        self.view = QTableView()
        self._cases = _Cases(focus)
        self.view.setModel(self._cases)
        self.view.setSortingEnabled(True)
        self.view.sortByColumn(0, Qt.SortOrder.AscendingOrder)
        dress(self.view, title, (64,), 20)
        self.view.setMinimumHeight(150)
        head = QHBoxLayout()
        head.addWidget(heading(title, 1.0))
        head.addStretch(1)
        head.addWidget(button("copy", self.copy_all, "link", "The list as it stands"))
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(4)
        layout.addLayout(head)
        layout.addWidget(self.sought)
        layout.addWidget(self.view, 1)
        self.sought.textChanged.connect(self._cases.seek)
        self.view.clicked.connect(self._follow)
        self.view.activated.connect(self._follow)
        copy = QShortcut(QKeySequence(QKeySequence.StandardKey.Copy), self.view, self.copy_all)
        copy.setContext(Qt.ShortcutContext.WidgetShortcut)

    def show_cases(self, cases: Sequence[int]) -> None:
        """Show these, by their places in the tree."""
        self._cases.put(cases)

    @property
    def shown(self) -> list[int]:
        """Places of the cases in the list, in its order."""
        return list(self._cases.cases)

    def _follow(self, index: QModelIndex) -> None:
        self.focus.select(Mark("case", self._cases.cases[index.row()]))

    def table(self) -> ViewTable:
        """The list as it stands."""
        grown = self.focus.grown
        assert grown is not None
        rows = [(int(grown.prepared.numbers[k]), grown.prepared.labels[k]) for k in self.shown]
        return ViewTable(_HEADS, rows)

    def copy_all(self) -> None:
        """Put the list on the clipboard."""
        if self.focus.grown is not None:
            copy_table(self.table())
