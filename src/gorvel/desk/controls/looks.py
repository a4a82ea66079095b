"""The looks of standard widgets, and putting looks in force for all windows."""

from __future__ import annotations

from functools import cache
from pathlib import Path
from string import Template

from PySide6.QtGui import QColor, QPalette
from PySide6.QtWidgets import QApplication, QWidget

from gorvel.paint.theme import Theme, current, font, put_in_force

_LOOKS = "looks"  # those that the application has
_HERE = Path(__file__).parent


def apply_theme(app: QApplication, theme: Theme, text_scale: float = 1.0) -> None:
    """Put a theme in force for all windows; those that stand get their sheet by `dress_window`."""
    put_in_force(theme, text_scale)
    looks = f"{theme.paper} {theme.ink} {text_scale}"
    if app.property(_LOOKS) == looks:  # else every widget that lives is dressed once more
        return
    app.setProperty(_LOOKS, looks)
    app.setStyle("Fusion")
    app.setFont(font())
    app.setPalette(_palette(theme))


def dress_window(window: QWidget) -> None:
    """The looks in force, for a window and all that opens from it.

    The sheet is the window's and not the application's: widgets that are not yet in a window have
    none, and get theirs once, together, when they are put there. One after the other, each time
    that it is put into something, takes five times as long.
    """
    window.setStyleSheet(_style_sheet(current()))


def _palette(theme: Theme) -> QPalette:
    palette = QPalette()
    roles = {
        QPalette.ColorRole.Window: theme.paper,
        QPalette.ColorRole.Base: theme.panel,
        QPalette.ColorRole.AlternateBase: theme.paper,
        QPalette.ColorRole.Button: theme.panel,
        QPalette.ColorRole.Text: theme.ink,
        QPalette.ColorRole.WindowText: theme.ink,
        QPalette.ColorRole.ButtonText: theme.ink,
        QPalette.ColorRole.ToolTipBase: theme.panel,
        QPalette.ColorRole.ToolTipText: theme.ink,
        QPalette.ColorRole.PlaceholderText: theme.soft,
        QPalette.ColorRole.Highlight: theme.tint,
        QPalette.ColorRole.HighlightedText: theme.ink,
        QPalette.ColorRole.Link: theme.focus,
        QPalette.ColorRole.Mid: theme.line,
    }
    for role, colour in roles.items():
        palette.setColor(role, QColor(colour))
    for role in (QPalette.ColorRole.Text, QPalette.ColorRole.ButtonText):
        palette.setColor(QPalette.ColorGroup.Disabled, role, QColor(theme.soft))
    return palette


def _style_sheet(theme: Theme) -> str:
    """The look of standard widgets, as `looks.qss` has it."""
    colours = {name: told for name, told in vars(theme).items() if isinstance(told, str)}
    return _sheet().substitute(colours, marks=(_HERE / "marks").as_posix())


@cache
def _sheet() -> Template:
    return Template((_HERE / "looks.qss").read_text(encoding="utf-8"))
