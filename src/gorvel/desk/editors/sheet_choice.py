"""Which sheets of a workbook are read: one, some below each other, or all."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QCheckBox, QComboBox, QVBoxLayout, QWidget

from gorvel.core.plan.parts import SourcePlan
from gorvel.desk.controls.arranging import fill
from gorvel.desk.controls.flow import flowing
from gorvel.desk.controls.plain_text import PlainTick
from gorvel.desk.controls.texts import clear
from gorvel.paint.theme import SPACE, font

_SOME, _ALL = "\0some", "\0all"  # no sheet is called so


class SheetChoice(QWidget):
    """A list of the sheets; where some of them are wanted, a tick for each.

    Signals: changed().
    """

    changed = Signal()

    def __init__(self, source: SourcePlan, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.names: list[str] = []
        self.ticks: list[QCheckBox] = []
        self.box = QComboBox()
        self.box.setFont(font())
        self.box.currentIndexChanged.connect(self._chosen)
        self._ticks = QVBoxLayout()
        fill(self, self.box, self._ticks)
        self._wanted = [*source.sheets] if source.sheets not in ("all", ()) else []
        self._first = source.sheet or ""
        if source.sheets:
            self._first = _ALL if source.sheets == "all" else _SOME
        self._fill([source.sheet or "the first sheet"], [source.sheet or ""])
        self.setFocusProxy(self.box)

    def setMinimumHeight(self, height: int) -> None:
        """Of the list, as of other fields."""
        self.box.setMinimumHeight(height)

    def setAccessibleName(self, name: str) -> None:
        super().setAccessibleName(name)
        self.box.setAccessibleName(name)

    @property
    def sheet(self) -> str | None:
        """The one sheet; None for the first, and where there are several."""
        chosen = self.box.currentData()
        return None if chosen in ("", _SOME, _ALL) else chosen

    @property
    def sheets(self) -> tuple[str, ...] | str:
        """Those below each other, in the order of the workbook, or "all"; none of one sheet."""
        if self.box.currentData() == _ALL:
            return "all"
        if self.box.currentData() != _SOME:
            return ()
        if not self.ticks:
            return tuple(self._wanted)
        return tuple(tick.text() for tick in self.ticks if tick.isChecked())

    @property
    def is_none(self) -> bool:
        """Are some wanted, and none of them is ticked?"""
        return self.box.currentData() == _SOME and not self.sheets

    def name_sheets(self, names: Sequence[str]) -> None:
        """What the workbook holds."""
        if names and [*names] != self.names:
            self.names = [*names]
            if not self._first:
                self._first = names[0]
            self._fill(names, names)
            self._show_ticks()

    def _fill(self, words: Sequence[str], names: Sequence[str]) -> None:
        now = self.box.currentData() or self._first
        self.box.blockSignals(True)
        self.box.clear()
        for word, name in zip(words, names, strict=True):
            self.box.addItem(word, name)
        if len(names) > 1 or not self.names:
            self.box.addItem("some, below each other", _SOME)
            self.box.addItem("all, stacked", _ALL)
        self.box.setCurrentIndex(max(self.box.findData(now), 0))
        self.box.blockSignals(False)

    def _chosen(self, index: int) -> None:
        self._show_ticks()
        self.changed.emit()

    def _show_ticks(self) -> None:
        clear(self._ticks)
        self.ticks = []
        if self.box.currentData() != _SOME or not self.names:
            return
        for name in self.names:
            tick = PlainTick(name, self)  # in its looks, for its width
            tick.setFont(font("table"))
            tick.setMinimumWidth(tick.sizeHint().width() + 2 * SPACE)
            tick.setChecked(name in self._wanted or not self._wanted)
            tick.toggled.connect(self._ticked)
            self.ticks.append(tick)
        self._ticks.addWidget(flowing(*self.ticks))

    def _ticked(self, on: bool) -> None:
        self._wanted = [*self.sheets]
        self.changed.emit()
