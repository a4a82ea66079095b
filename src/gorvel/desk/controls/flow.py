"""A layout that sets widgets like words: in lines, broken where the width ends."""

from __future__ import annotations

from PySide6.QtCore import QPoint, QRect, QSize, Qt
from PySide6.QtWidgets import QLabel, QLayout, QLayoutItem, QSizePolicy, QWidget


def flowing(*widgets: QWidget, gap: int = 12) -> QWidget:
    """Widgets in a row that goes on in the next line where it is too narrow. gap : between them."""
    box = QWidget()
    layout = FlowLayout(box, gap=gap)
    layout.setContentsMargins(0, 0, 0, 0)
    policy = QSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
    policy.setHeightForWidth(True)
    box.setSizePolicy(policy)
    for widget in widgets:
        if isinstance(widget, QLabel):
            widget.setContentsMargins(0, 4, 0, 4)  # level with the words of buttons
        layout.addWidget(widget)
    return box


def _is_mark(item: QLayoutItem) -> bool:
    """Is it a mark of punctuation, which stays with the word before it?"""
    widget = item.widget()
    return isinstance(widget, QLabel) and widget.text()[:1] in (",", ";", ".", ":")


class FlowLayout(QLayout):
    """Left to right, top to bottom. gap : pixels between; words of a sentence bring their own."""

    def __init__(self, parent: QWidget | None = None, line_gap: int = 2, gap: int = 0) -> None:
        super().__init__(parent)
        self._items: list[QLayoutItem] = []
        self._line_gap, self._gap = line_gap, gap

    def addItem(self, item: QLayoutItem) -> None:
        self._items.append(item)

    def count(self) -> int:
        return len(self._items)

    def itemAt(self, index: int) -> QLayoutItem | None:
        return self._items[index] if 0 <= index < len(self._items) else None

    def takeAt(self, index: int) -> QLayoutItem | None:
        return self._items.pop(index) if 0 <= index < len(self._items) else None

    def expandingDirections(self) -> Qt.Orientation:
        return Qt.Orientation(0)

    def hasHeightForWidth(self) -> bool:
        return True

    def heightForWidth(self, width: int) -> int:
        return self._arrange(QRect(0, 0, width, 0), only_measure=True)

    def setGeometry(self, rect: QRect) -> None:
        super().setGeometry(rect)
        self._arrange(rect)

    def sizeHint(self) -> QSize:
        return self.minimumSize()

    def minimumSize(self) -> QSize:
        size = QSize()
        for item in self._items:
            size = size.expandedTo(item.minimumSize())
        return size

    def _arrange(self, rect: QRect, only_measure: bool = False) -> int:
        margins = self.contentsMargins()
        left, right = rect.left() + margins.left(), rect.right() - margins.right()
        x, y, high = left, rect.top() + margins.top(), 0
        shown = [item for item in self._items if not item.isEmpty()]
        hints, marks = [item.sizeHint() for item in shown], [_is_mark(item) for item in shown]
        for place, (item, hint) in enumerate(zip(shown, hints, strict=True)):
            wide = hint.width()
            if any(marks[place + 1 : place + 2]):  # which must find room too
                wide += hints[place + 1].width()
            if x + wide > right and x > left and not marks[place]:
                x, y, high = left, y + high + self._line_gap, 0
            if not only_measure:
                item.setGeometry(QRect(QPoint(x, y), hint))
            x += hint.width() + self._gap
            high = max(high, hint.height())
        return y + high + margins.bottom() - rect.top()
