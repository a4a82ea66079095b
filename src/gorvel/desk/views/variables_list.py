"""The list of variables: what each holds, its role and its level; both are set here."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

from PySide6.QtCore import (
    QAbstractItemModel,
    QAbstractTableModel,
    QItemSelectionModel,
    QModelIndex,
    QPersistentModelIndex,
    QRectF,
    Qt,
)
from PySide6.QtGui import QColor, QKeyEvent, QPainter
from PySide6.QtWidgets import (
    QComboBox,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QTableView,
    QWidget,
)

from gorvel.core.plan import Plan
from gorvel.core.sentences import number
from gorvel.core.table.levels import LEVELS, Level
from gorvel.core.table.summary import ColumnSummary
from gorvel.desk.state import Focus
from gorvel.desk.theme import current, font
from gorvel.desk.views.tables import dress

__all__ = ["ROLES", "VariablesList", "VariablesModel"]

Index = QModelIndex | QPersistentModelIndex
ROLES = ("active", "label", "weight", "split", "out")
_ONE_EACH = ("label", "weight", "split")  # roles that one column has
_HEADS = ("variable", "role", "level", "answers", "missing", "shape", "holds")
_ROLE, _LEVEL, _SHAPE = 1, 2, _HEADS.index("shape")
_KEYS = {
    Qt.Key.Key_A: "active", Qt.Key.Key_O: "out", Qt.Key.Key_L: "label", Qt.Key.Key_W: "weight",
    Qt.Key.Key_S: "split",
}  # fmt: skip
_LEVEL_KEYS = {
    Qt.Key.Key_1: "interval", Qt.Key.Key_2: "ordinal", Qt.Key.Key_3: "nominal",
    Qt.Key.Key_4: "binary",
}  # fmt: skip


def role_of(plan: Plan, name: str) -> str:
    """The role of a column in a plan."""
    if name in plan.variables.use:
        return "active"
    for role in _ONE_EACH:
        if name == getattr(plan.cases, role):
            return role
    return "out"


class VariablesModel(QAbstractTableModel):
    """A row for each column of the table. Changes go to the plan, and can be undone there."""

    def __init__(self, focus: Focus, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.focus = focus
        self.summaries: list[ColumnSummary] = []
        focus.plan_changed.connect(self._refresh)

    def show(self, summaries: Sequence[ColumnSummary]) -> None:
        """Show what each column holds."""
        self.beginResetModel()
        self.summaries = list(summaries)
        self.endResetModel()

    def _refresh(self) -> None:
        if self.summaries:
            last = self.index(len(self.summaries) - 1, len(_HEADS) - 1)
            self.dataChanged.emit(self.index(0, 0), last)

    def rowCount(self, parent: Index | None = None) -> int:
        return len(self.summaries)

    def columnCount(self, parent: Index | None = None) -> int:
        return len(_HEADS)

    def headerData(self, section: int, way: Qt.Orientation, role: int = 0) -> Any:
        if way == Qt.Orientation.Horizontal and role == Qt.ItemDataRole.DisplayRole:
            return _HEADS[section]
        if way == Qt.Orientation.Horizontal and role == Qt.ItemDataRole.TextAlignmentRole:
            return _alignment(section)
        return font(0.86) if role == Qt.ItemDataRole.FontRole else None

    def flags(self, index: Index) -> Qt.ItemFlag:
        flags = super().flags(index)
        if index.column() in (_ROLE, _LEVEL):
            flags |= Qt.ItemFlag.ItemIsEditable
        return flags

    def level_of(self, row: int) -> Level:
        """The level in force, by the plan or by what the column holds."""
        summary = self.summaries[row]
        named = self.focus.plan.variables.level(summary.name) if self.focus.plan else None
        return named or ("interval" if summary.numeric else "nominal")

    def data(self, index: Index, role: int = 0) -> Any:
        plan = self.focus.plan
        if not index.isValid() or plan is None:
            return None
        summary = self.summaries[index.row()]
        state = role_of(plan, summary.name)
        if role in (Qt.ItemDataRole.DisplayRole, Qt.ItemDataRole.EditRole):
            return self._text(index.row(), index.column(), state)
        if role == Qt.ItemDataRole.TextAlignmentRole:
            return _alignment(index.column())
        if role == Qt.ItemDataRole.FontRole and index.column() == 0:
            return font(0.93, 400 if state == "out" else 600)
        if role == Qt.ItemDataRole.ForegroundRole:
            theme = current()
            if index.column() == 4 and summary.missing and state == "active":
                return QColor(theme.cut)
            return QColor(theme.soft if state == "out" else theme.ink)
        if role == Qt.ItemDataRole.ToolTipRole:
            if index.column() == 0 and summary.name in plan.variables.labels:
                return plan.variables.labels[summary.name]
            return _hint(index.column(), summary)
        return None

    def _text(self, row: int, column: int, state: str) -> str:
        summary = self.summaries[row]
        match _HEADS[column]:
            case "variable":
                return summary.name
            case "role":
                return state
            case "level":
                return self.level_of(row)
            case "answers":
                return f"{summary.valid:,}"
            case "missing":
                return f"{summary.missing:,}" if summary.missing else ""
            case "shape":
                return ""
        plan = self.focus.plan
        return _holds(summary, plan.variables.values.get(summary.name, {}) if plan else {})

    def setData(self, index: Index, value: Any, role: int = Qt.ItemDataRole.EditRole) -> bool:
        if index.column() == _ROLE:
            self.set_role([index.row()], value)
        elif index.column() == _LEVEL:
            self.set_level([index.row()], value)
        return True

    def set_role(self, rows: Sequence[int], role: str) -> None:
        """Give columns a role; of a label, a weight, a split there is one: the last of several."""
        plan = self.focus.plan
        if plan is None or not rows:
            return
        names = [self.summaries[row].name for row in rows]
        if role in _ONE_EACH:
            names = names[-1:]
        use = [name for name in plan.variables.use if name not in names]
        if role == "active":
            wanted = {*use, *names}
            use = [s.name for s in self.summaries if s.name in wanted]
        cases = {
            key: None if getattr(plan.cases, key) in names else getattr(plan.cases, key)
            for key in _ONE_EACH
        }
        if role in cases:
            cases[role] = names[0]
        importance = {k: v for k, v in plan.variables.importance.items() if k in use}
        cap = {k: list(v) for k, v in plan.variables.cap.items() if k in use}
        changed = plan.with_("variables", use=use, importance=importance, cap=cap)
        self.focus.replace_plan(changed.with_("cases", **cases))

    def set_level(self, rows: Sequence[int], level: str) -> None:
        """Give columns a measurement level."""
        plan = self.focus.plan
        if plan is None or not rows:
            return
        names = [self.summaries[row].name for row in rows]
        part = plan.variables
        lists = {key: [n for n in getattr(part, key) if n not in names] for key in LEVELS}
        lists[level] += names  # type: ignore[index]
        asymmetric = [n for n in part.asymmetric if n not in names or level == "binary"]
        self.focus.change("variables", asymmetric=asymmetric, **lists)


def _alignment(column: int) -> Qt.AlignmentFlag:
    side = Qt.AlignmentFlag.AlignRight if column in (3, 4) else Qt.AlignmentFlag.AlignLeft
    return side | Qt.AlignmentFlag.AlignVCenter


def _holds(summary: ColumnSummary, words: Mapping[str, str]) -> str:
    """In short what a column holds; words : of a code book, for its codes."""
    if summary.numeric and summary.mean is not None:
        assert summary.low is not None
        assert summary.high is not None
        spread = "" if summary.sd is None else f" ± {number(summary.sd)}"
        return (
            f"{number(summary.low)} – {number(summary.high)}, mean {number(summary.mean)}{spread}"
        )
    if not summary.valid:
        return "nothing"
    if summary.distinct == summary.valid:
        return f"{summary.distinct:,} different values"
    mode = words.get(summary.mode, summary.mode)
    return f"{summary.distinct:,} values, {summary.mode_share:.0%} {mode}"


def _hint(column: int, summary: ColumnSummary) -> str | None:
    if column == _ROLE:
        return "Double-click or press A active, O out, L label, W weight, S split"
    if column == _LEVEL:
        return "Double-click or press 1 interval, 2 ordinal, 3 nominal, 4 binary"
    return f"{summary.name}: {summary.distinct:,} different values"


class _Shape(QStyledItemDelegate):
    """A small distribution: bars of single values, classes or categories."""

    def paint(self, painter: QPainter, option: QStyleOptionViewItem, index: Index) -> None:
        super().paint(painter, option, index)
        view = self.parent()
        assert isinstance(view, VariablesList)
        summary = view.table.summaries[index.row()]
        if not summary.shape:
            return
        room = QRectF(option.rect).adjusted(6, 3, -6, -3)
        wide = min(room.width() / len(summary.shape), 12.0)
        theme = current()
        plan = view.table.focus.plan
        out = plan is None or role_of(plan, summary.name) == "out"
        painter.save()
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor(theme.line if out else theme.bar))
        for k, high in enumerate(summary.shape):
            tall = max(high * room.height(), 1.0 if high else 0.0)
            gap = 1.0 if wide > 3 else 0.3
            painter.drawRect(QRectF(room.left() + k * wide, room.bottom() - tall, wide - gap, tall))
        painter.restore()


class _Picker(QStyledItemDelegate):
    """Edits a cell by a list of words."""

    def __init__(self, words: Sequence[str], parent: QWidget) -> None:
        super().__init__(parent)
        self._words = words

    def createEditor(self, parent: QWidget, option: QStyleOptionViewItem, index: Index) -> QWidget:
        box = QComboBox(parent)
        box.setFont(font(0.93))
        box.addItems(list(self._words))
        box.activated.connect(lambda: self._picked(box))
        return box

    def _picked(self, box: QComboBox) -> None:
        self.commitData.emit(box)
        self.closeEditor.emit(box)

    def setEditorData(self, editor: QWidget, index: Index) -> None:
        assert isinstance(editor, QComboBox)
        editor.setCurrentText(str(index.data()))

    def setModelData(self, editor: QWidget, model: QAbstractItemModel, index: Index) -> None:
        assert isinstance(editor, QComboBox)
        model.setData(index, editor.currentText())


class VariablesList(QTableView):
    """Select rows; a key gives all of them a role or a level."""

    def __init__(self, focus: Focus, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.table = VariablesModel(focus, self)
        self.setModel(self.table)
        dress(self, "Variables", (132, 56, 66, 60, 60, 88, 180), row=24)
        self.setItemDelegateForColumn(_ROLE, _Picker(ROLES, self))
        self.setItemDelegateForColumn(_LEVEL, _Picker(LEVELS, self))
        self.setItemDelegateForColumn(_SHAPE, _Shape(self))

    def show_variable(self, name: str) -> None:
        """Select the row of a variable and bring it into sight."""
        self.show_variables({name})

    def show_variables(self, names: set[str]) -> None:
        """Select the rows of some variables and bring them into sight."""
        rows = QItemSelectionModel.SelectionFlag.Rows
        self.clearSelection()
        for row, summary in enumerate(self.table.summaries):
            if summary.name in names:
                index = self.table.index(row, 0)
                chosen = QItemSelectionModel.SelectionFlag.Select | rows
                self.selectionModel().select(index, chosen)
                self.scrollTo(index)

    def chosen_rows(self) -> list[int]:
        """The selected rows, from the top."""
        return sorted(index.row() for index in self.selectionModel().selectedRows())

    def keyPressEvent(self, event: QKeyEvent) -> None:
        key = Qt.Key(event.key())
        plain = not event.modifiers() & Qt.KeyboardModifier.ControlModifier
        if plain and key in _KEYS:
            self.table.set_role(self.chosen_rows(), _KEYS[key])
        elif plain and key in _LEVEL_KEYS:
            self.table.set_level(self.chosen_rows(), _LEVEL_KEYS[key])
        else:
            super().keyPressEvent(event)
