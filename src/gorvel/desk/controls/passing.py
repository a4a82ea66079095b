"""Windows and menus that are of no use any more once they are closed."""

from __future__ import annotations

from typing import TypeVar

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QWidget

__all__ = ["passing"]

_Passing = TypeVar("_Passing", bound=QWidget)


def passing(widget: _Passing) -> _Passing:
    """The widget, which is done away with when it is closed; else its parent would keep it."""
    widget.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
    return widget
