"""The looks of standard widgets, and putting looks in force for all windows."""

from __future__ import annotations

from PySide6.QtGui import QColor, QPalette
from PySide6.QtWidgets import QApplication, QWidget

from gorvel.paint.theme import Theme, current, font, put_in_force

_LOOKS = "looks"  # those that the application has
_EDGED = ("QAbstractSpinBox", "QComboBox")
_DARKER = 140  # per cent, by which the style darkens a window's colour to an edge


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
    for kind in _EDGED:
        app.setPalette(_edged(theme), kind)  # type: ignore[arg-type]  # the stubs want bytes


def dress_window(window: QWidget) -> None:
    """The looks in force, for a window and all that opens from it.

    The sheet is the window's and not the application's: widgets that are not yet in a window have
    none, and get theirs once, together, when they are put there. One after the other, each time
    that it is put into something, takes five times as long.
    """
    window.setStyleSheet(_style_sheet(current()))


def _edged(theme: Theme) -> QPalette:
    """For fields of which the style draws the edge itself, darker than the window is."""
    palette = _palette(theme)
    palette.setColor(QPalette.ColorRole.Window, QColor(theme.line).lighter(_DARKER))
    return palette


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
    """The look of standard widgets. Fonts are never set here: see `font`."""
    t = theme
    return f"""
    QToolTip {{ background: {t.panel}; color: {t.ink}; border: 1px solid {t.line}; padding: 4px; }}
    QFrame[panel="true"] {{
        background: {t.panel}; border: 1px solid {t.line}; border-radius: 6px; }}
    QLabel[soft="true"] {{ color: {t.soft}; }}
    QFrame[row="true"] {{ border-radius: 5px; }}
    QFrame[row="true"][open="true"] {{ background: {t.tint}; }}
    QCheckBox[alarm="true"] {{ color: {t.cut}; }}
    QFrame[inHand="true"] {{ border: 2px solid {t.focus}; }}
    QFrame[inHand="false"]:focus {{ border: 1px solid {t.focus}; }}
    QFrame[inHand="true"]:focus {{ background: {t.tint}; }}
    QLabel[alarm="true"] {{ color: {t.cut}; }}
    QPushButton {{
        background: {t.panel}; color: {t.ink}; border: 1px solid {t.line};
        border-radius: 5px; padding: 5px 12px; }}
    QPushButton:hover {{ border-color: {t.focus}; }}
    QPushButton:focus {{ border: 2px solid {t.focus}; padding: 4px 11px; }}
    QPushButton:pressed, QPushButton:checked {{ background: {t.tint}; }}
    QPushButton:disabled {{ color: {t.soft}; }}
    QPushButton[main="true"] {{
        background: {t.focus}; color: {t.panel}; border: 1px solid {t.focus}; }}
    QPushButton[main="true"]:focus {{ border: 2px solid {t.ink}; }}
    QPushButton[main="true"]:disabled {{
        background: {t.line}; color: {t.soft}; border-color: {t.line}; }}
    QPushButton[tab="true"] {{
        background: transparent; color: {t.soft}; border: 0; border-radius: 0;
        border-bottom: 2px solid transparent; padding: 3px 6px; }}
    QPushButton[tab="true"]:checked {{ color: {t.ink}; border-bottom: 2px solid {t.focus}; }}
    QPushButton[tab="true"]:focus {{ color: {t.focus}; }}
    QPushButton[row="true"] {{ text-align: left; border-color: transparent; }}
    QPushButton[row="true"]:hover, QPushButton[row="true"]:focus {{
        background: {t.tint}; border-color: {t.focus}; }}
    QPushButton[link="true"] {{
        background: transparent; color: {t.focus}; border: 1px solid transparent; padding: 2px 4px;
        text-align: left; }}
    QPushButton[link="true"]:hover {{ border-bottom: 1px solid {t.focus}; border-radius: 0; }}
    QPushButton[link="true"]:focus {{ border: 1px solid {t.focus}; border-radius: 4px; }}
    QPushButton[link="true"]:disabled {{ color: {t.soft}; }}
    QPushButton[phrase="true"] {{
        background: transparent; color: {t.ink}; border: 0; border-bottom: 1px dotted {t.focus};
        border-radius: 0; padding: 2px 0 1px 0; margin: 0; }}
    QPushButton[phrase="true"]:hover {{
        color: {t.focus}; border-bottom: 2px solid {t.focus}; padding-bottom: 0; }}
    QPushButton[phrase="true"]:focus {{ background: {t.tint}; }}
    QLineEdit, QPlainTextEdit {{
        background: {t.panel}; color: {t.ink}; border: 1px solid {t.line};
        border-radius: 4px; padding: 3px 6px; selection-background-color: {t.tint};
        selection-color: {t.ink}; }}
    QLineEdit:focus, QPlainTextEdit:focus {{ border: 1px solid {t.focus}; }}
    QAbstractSpinBox QLineEdit, QAbstractSpinBox QLineEdit:focus {{ border: 0; padding: 0; }}
    QListView::indicator, QTableView::indicator, QCheckBox::indicator {{
        width: 12px; height: 12px; border: 1px solid {t.soft}; border-radius: 3px;
        background: {t.panel};
    }}
    QListView::indicator:checked, QTableView::indicator:checked, QCheckBox::indicator:checked {{
        background: {t.focus}; border-color: {t.focus};
    }}
    QSlider::groove:horizontal {{ height: 5px; border-radius: 2px; background: {t.line}; }}
    QSlider::sub-page:horizontal {{ border-radius: 2px; background: {t.focus}; }}
    QSlider::handle:horizontal {{
        width: 11px; height: 11px; margin: -5px 0; border-radius: 7px;
        background: {t.panel}; border: 1.6px solid {t.focus};
    }}
    QSlider::handle:horizontal:focus {{ background: {t.focus}; }}
    QComboBox QAbstractItemView {{
        background: {t.panel}; color: {t.ink}; border: 1px solid {t.line};
        selection-background-color: {t.tint}; selection-color: {t.ink}; }}
    QTableView {{
        background: {t.panel}; color: {t.ink}; border: 1px solid {t.line}; border-radius: 6px;
        gridline-color: {t.line}; selection-background-color: {t.tint};
        selection-color: {t.ink}; outline: 0; }}
    QTableView::item {{ padding: 0 5px; }}
    QTableView:focus {{ border: 1px solid {t.focus}; }}
    QHeaderView, QHeaderView::section {{ background: {t.panel}; color: {t.soft}; border: 0; }}
    QHeaderView::section {{ border-bottom: 1px solid {t.line}; padding: 4px 6px; }}
    QHeaderView::section:vertical {{ border: 0; }}
    QHeaderView::up-arrow, QHeaderView::down-arrow {{ subcontrol-position: top center;
        subcontrol-origin: padding; width: 8px; height: 5px; }}
    QAbstractScrollArea::corner {{ background: transparent; border: 0; }}
    QTableCornerButton::section {{ background: {t.panel}; border: 0; }}
    QScrollBar {{ background: transparent; border: 0; margin: 0; }}
    QScrollBar:vertical {{ width: 10px; }}
    QScrollBar:horizontal {{ height: 10px; }}
    QScrollBar::handle {{ background: {t.line}; border-radius: 4px; min-height: 28px;
        min-width: 28px; margin: 1px; }}
    QScrollBar::handle:hover {{ background: {t.bar}; }}
    QScrollBar::add-line, QScrollBar::sub-line {{ width: 0; height: 0; }}
    QScrollBar::add-page, QScrollBar::sub-page {{ background: transparent; }}
    QProgressBar {{ background: {t.line}; border: 0; border-radius: 4px; max-height: 8px; }}
    QProgressBar::chunk {{ background: {t.focus}; border-radius: 4px; }}
    QMenu {{ background: {t.panel}; color: {t.ink}; border: 1px solid {t.line}; padding: 4px; }}
    QMenu::item {{ padding: 5px 24px 5px 16px; border-radius: 3px; }}
    QMenu::item:selected {{ background: {t.tint}; }}
    QMenu::item:disabled {{ color: {t.soft}; }}
    QMenu::separator {{ height: 1px; background: {t.line}; margin: 4px 8px; }}
    QSplitter::handle {{ background: transparent; }}
    QScrollArea, QScrollArea > QWidget > QWidget {{ background: transparent; border: 0; }}
    """
