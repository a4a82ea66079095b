"""Windows and menus that are of no use any more once they are closed."""

from __future__ import annotations

from typing import TypeVar

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QDialog, QWidget

_Passing = TypeVar("_Passing", bound=QWidget)


def delete_on_close(widget: _Passing) -> _Passing:
    """The widget, which is done away with when it is closed; else its parent would keep it."""
    widget.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
    return widget


def brought_up(parent: QWidget, title: str) -> QDialog | None:
    """The dialog of a title that a widget has open, in front of the others; None without one."""
    direct = Qt.FindChildOption.FindDirectChildrenOnly
    for dialog in parent.findChildren(QDialog, options=direct):
        if dialog.isVisible() and dialog.windowTitle() == title:
            dialog.raise_()
            dialog.activateWindow()
            return dialog
    return None
