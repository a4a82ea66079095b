"""Labels, buttons and panels in the house style."""

from __future__ import annotations

from collections.abc import Callable
from typing import Literal

from PySide6.QtCore import QEvent, Qt
from PySide6.QtGui import QHelpEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import (
    QFrame,
    QLabel,
    QLayout,
    QPushButton,
    QScrollArea,
    QSizePolicy,
    QVBoxLayout,
    QWidget,
)

from gorvel.desk.controls.arranging import fill
from gorvel.desk.controls.plain_text import PlainButton, as_tip, show_tip
from gorvel.paint.theme import SPACE, Size, font

ButtonKind = Literal["", "main", "link", "tab", "value", "name", "chip"]
_STRONG = ("main", "tab", "value", "name")


def text(
    words: str = "", size: Size = "text", weight: int = 400, soft: bool = False, wrap: bool = True
) -> QLabel:
    """Running text; can be selected with the mouse."""
    return _dressed(QLabel(words), size, weight, soft, wrap)


def _dressed(
    label: QLabel, size: Size, weight: int = 400, soft: bool = False, wrap: bool = True
) -> QLabel:
    label.setTextFormat(Qt.TextFormat.PlainText)
    label.setFont(font(size, weight))
    label.setWordWrap(wrap)
    label.setProperty("soft", soft)
    label.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
    return label


class _Aside(QLabel):
    """Words that end with … where there is no room for all of them; pointed at, they are there."""

    @property
    def shown(self) -> str:
        """What there is room for."""
        room = self.contentsRect().width()
        return self.fontMetrics().elidedText(self.text(), Qt.TextElideMode.ElideRight, room)

    def paintEvent(self, event: QPaintEvent) -> None:
        self.style().drawItemText(
            QPainter(self), self.contentsRect(), self.alignment(), self.palette(),
            self.isEnabled(), self.shown, self.foregroundRole(),
        )  # fmt: skip

    def event(self, event: QEvent) -> bool:
        if isinstance(event, QHelpEvent) and event.type() == QEvent.Type.ToolTip:
            words = self.text() if self.shown != self.text() else ""
            show_tip(event.globalPos(), words, self)
            return True
        return super().event(event)


def aside(words: str = "", size: Size = "table") -> QLabel:
    """Soft words in a row, which give way where there is no room for them."""
    label = _dressed(_Aside(words), size, soft=True, wrap=False)
    label.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
    return label


def block(words: str, width: int) -> QLabel:
    """A paragraph of a fixed width, as high as it needs."""
    label = text(words)
    label.setFixedSize(width, label.heightForWidth(width))
    return label


def heading(words: str, size: Size = "title") -> QLabel:
    """A title of a panel."""
    return text(words, size, 600, wrap=False)


def button(
    words: str, act: Callable[[], object], kind: ButtonKind = "", tip: str = ""
) -> QPushButton:
    """A button, whose form says what it does.

    kind : "" changes something or takes time; "main" is the step that is due, one a page at most;
    "link" shows something or goes there; "tab"; "value" is one to choose from; "name" one of a case
    or a variable, which is shown; "chip" one of many small things to do.
    """
    out = PlainButton(words)
    out.setFont(font("note" if kind == "chip" else "text", 600 if kind in _STRONG else 400))
    if kind:
        out.setProperty(kind, True)
    out.setToolTip(as_tip(tip))
    out.setAutoDefault(True)
    out.setCursor(Qt.CursorShape.PointingHandCursor)
    out.clicked.connect(lambda: act())
    return out


def mark_due(one: QPushButton, due: bool) -> None:
    """Fill a button while the step that it does is due."""
    if bool(one.property("main")) != due:
        one.setProperty("main", due)
        one.setFont(font("text", 600 if due else 400))
        one.style().unpolish(one)
        one.style().polish(one)


def clear(layout: QLayout) -> None:
    """Take everything out of a layout, and of those inside it."""
    while (item := layout.takeAt(0)) is not None:
        inner = item.layout()
        if inner is not None:
            clear(inner)
        widget = item.widget()
        if widget is not None:
            widget.hide()
            widget.deleteLater()


def counted(number: int, noun: str) -> str:
    """1 case, 2 cases."""
    return f"{number:,} {noun}{'' if number == 1 else 's'}"


def split_codes(words: str) -> tuple[str, ...]:
    """Codes typed with commas or semicolons between them, each once."""
    found = (word.strip() for word in words.replace(";", ",").split(","))
    return tuple(dict.fromkeys(word for word in found if word))


def scrolled(inside: QWidget) -> QScrollArea:
    """A widget that scrolls when it is higher than its place."""
    area = QScrollArea()
    area.setWidgetResizable(True)
    area.setFrameShape(QFrame.Shape.NoFrame)
    area.setWidget(inside)
    return area


def panel(parent: QWidget | None = None) -> QFrame:
    """A bordered ground for things that belong together."""
    frame = QFrame(parent)
    frame.setProperty("panel", True)
    return frame


def card(owner: QWidget) -> QVBoxLayout:
    """A panel that fills a widget; returns the column inside it."""
    box = panel()
    inside = QVBoxLayout(box)
    inside.setContentsMargins(2 * SPACE, SPACE, SPACE, SPACE)
    inside.setSpacing(SPACE // 2)
    fill(owner, box)
    return inside
