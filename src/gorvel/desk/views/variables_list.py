"""The list of variables as it is seen and worked with by mouse and keys."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import (
    QAbstractItemModel,
    QItemSelectionModel,
    QModelIndex,
    QPersistentModelIndex,
    QRectF,
    Qt,
    Signal,
)
from PySide6.QtGui import QColor, QFontMetricsF, QKeyEvent, QPainter
from PySide6.QtWidgets import (
    QComboBox,
    QStyle,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QTableView,
    QWidget,
)

from gorvel.core.table.levels import LEVELS
from gorvel.desk.state.focus import Focus
from gorvel.desk.views.tables import dress
from gorvel.desk.views.variables_model import (
    LEVEL,
    LEVEL_KEYS,
    ROLE,
    ROLE_KEYS,
    ROLES,
    SHAPE,
    VariablesModel,
    role_of,
)
from gorvel.paint.theme import current, font

Index = QModelIndex | QPersistentModelIndex
_ACTIVE = 3.0  # pixels of the bar before active variables
_ROW, _ROW_WITH_QUESTION, _TALLEST = 24, 38, 24.0  # pixels


class _Name(QStyledItemDelegate):
    """A name, and in a second line the question behind it."""

    def initStyleOption(self, option: QStyleOptionViewItem, index: Index) -> None:
        """Names of one battery begin alike: the end stays."""
        super().initStyleOption(option, index)
        option.textElideMode = Qt.TextElideMode.ElideMiddle

    def paint(self, painter: QPainter, option: QStyleOptionViewItem, index: Index) -> None:
        view = self.parent()
        assert isinstance(view, VariablesList)
        question = view.table.question(index.row())
        if not question:
            super().paint(painter, option, index)
            self._show_active(painter, view, option, index)
            return
        self.initStyleOption(option, index)
        option.text = ""
        style = view.style()
        style.drawControl(QStyle.ControlElement.CE_ItemViewItem, option, painter, view)
        room = QRectF(option.rect).adjusted(8, 2, -4, -2)
        side = Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter
        painter.save()
        upper, lower = QRectF(room), QRectF(room)
        upper.setHeight(room.height() / 2)
        lower.setTop(upper.bottom())
        lines = (
            (upper, index.data(), index.data(Qt.ItemDataRole.FontRole), current().ink),
            (lower, question, font("note"), current().soft),
        )
        for box, words, kind, colour in lines:
            painter.setFont(kind)
            painter.setPen(QColor(colour))
            metrics = QFontMetricsF(kind)
            painter.drawText(
                box, side, metrics.elidedText(words, Qt.TextElideMode.ElideRight, box.width())
            )
        painter.restore()
        self._show_active(painter, view, option, index)

    @staticmethod
    def _show_active(
        painter: QPainter, view: VariablesList, option: QStyleOptionViewItem, index: Index
    ) -> None:
        """A bar before the variables that clusters are formed from."""
        plan, table = view.table.focus.shelf.plan, view.table
        if plan is not None and role_of(plan, table.summaries[index.row()].name) == "active":
            box = QRectF(option.rect)
            box.setWidth(_ACTIVE)
            painter.fillRect(box.adjusted(0, 1, 0, -1), QColor(current().focus))


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
        room.setTop(max(room.top(), room.bottom() - _TALLEST))
        wide = min(room.width() / len(summary.shape), 12.0)
        theme = current()
        plan = view.table.focus.shelf.plan
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
        box.setFont(font("table"))
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
    """Select rows; a key gives all of them a role or a level. A search hides the others.

    Signals: sought_off(), when a row that a search hides is to be shown.
    """

    sought_off = Signal()

    def __init__(self, focus: Focus, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.table = VariablesModel(focus, self)
        self.setModel(self.table)
        self._sought = ""
        self.setItemDelegateForColumn(0, _Name(self))
        dress(self, "Variables", (150, 66, 64, 72, 60, 76, 120), row=_ROW)
        self.setItemDelegateForColumn(ROLE, _Picker(ROLES, self))
        self.setItemDelegateForColumn(LEVEL, _Picker(LEVELS, self))
        self.setItemDelegateForColumn(SHAPE, _Shape(self))

        self.table.modelReset.connect(self._lay_out)
        focus.shelf.plan_changed.connect(self._lay_out)

    def seek(self, words: str) -> int:
        """Show only the rows that hold all words; returns how many there are."""
        self._sought = words
        self._lay_out()
        if words:
            for row in self._rows():
                if self.isRowHidden(row):
                    self.selectionModel().select(
                        self.table.index(row, 0),
                        QItemSelectionModel.SelectionFlag.Deselect
                        | QItemSelectionModel.SelectionFlag.Rows,
                    )
        return sum(not self.isRowHidden(row) for row in self._rows())

    def _rows(self) -> range:
        return range(self.table.rowCount())

    def _lay_out(self) -> None:
        """Room for a second line where there are questions, and rows hidden by a search."""
        asked = any(self.table.question(row) for row in self._rows())
        height = _ROW_WITH_QUESTION if asked else _ROW
        if self.verticalHeader().defaultSectionSize() != height:
            self.verticalHeader().setDefaultSectionSize(height)
        for row in self._rows():
            self.setRowHidden(row, not self.table.matches(row, self._sought))

    def selectAll(self) -> None:
        """All rows in sight; what a search hides is left alone."""
        self.clearSelection()
        for row in self._rows():
            if not self.isRowHidden(row):
                self.selectionModel().select(
                    self.table.index(row, 0),
                    QItemSelectionModel.SelectionFlag.Select
                    | QItemSelectionModel.SelectionFlag.Rows,
                )

    def show_variables(self, names: set[str]) -> None:
        """Select the rows of some variables and bring them into sight."""
        if any(
            self.isRowHidden(row) for row in self._rows() if self.table.summaries[row].name in names
        ):
            self.sought_off.emit()
        rows = QItemSelectionModel.SelectionFlag.Rows
        self.clearSelection()
        for row, summary in enumerate(self.table.summaries):
            if summary.name in names:
                index = self.table.index(row, 0)
                chosen = QItemSelectionModel.SelectionFlag.Select | rows
                self.selectionModel().select(index, chosen)
                self.scrollTo(index)

    def chosen_rows(self) -> list[int]:
        """The selected rows in sight, from the top."""
        rows = (index.row() for index in self.selectionModel().selectedRows())
        return sorted(row for row in rows if not self.isRowHidden(row))

    def keyPressEvent(self, event: QKeyEvent) -> None:
        key = Qt.Key(event.key())
        plain = not event.modifiers() & Qt.KeyboardModifier.ControlModifier
        if plain and key in ROLE_KEYS:
            self.table.set_role(self.chosen_rows(), ROLE_KEYS[key])
        elif plain and key in LEVEL_KEYS:
            self.table.set_level(self.chosen_rows(), LEVEL_KEYS[key])
        else:
            super().keyPressEvent(event)
