"""Colours, spaces and fonts: every token of the looks stands here."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cache
from pathlib import Path

import fontpkg_source_sans_3
from PySide6.QtGui import QColor, QFont, QFontDatabase, QPalette
from PySide6.QtWidgets import QApplication

from gorvel.core.identity import Identity

__all__ = ["DARK", "LIGHT", "SPACE", "Theme", "apply_theme", "current", "font", "style_sheet"]

SPACE = 8  # the grid: margins and gaps are multiples or halves of it
_TEXT = 14  # pixels, at a text scale of 1
_SECOND_TURN = 145  # percent: past the last colour they come again, lighter
_scale = 1.0


@dataclass(frozen=True)
class Theme:
    """One set of colours.

    paper, panel : behind pages and behind what lies on them; line : borders and axes;
    ink, soft : text, and text of lesser weight; cut : the cut line, and what needs an eye;
    focus : what is marked, and links; tint : behind what is marked; bar : neutral bars;
    proximities : from most alike to least; below, middle, above : answers about their mean;
    on_shade : words on those; shades : percent by which parts of a cluster are lighter, in turn;
    clusters : fills and lines of clusters A, B, .., told apart by
    colour-blind eyes too.
    """

    name: str
    paper: str
    panel: str
    line: str
    ink: str
    soft: str
    cut: str
    on_cut: str
    focus: str
    tint: str
    bar: str
    proximities: tuple[str, ...]
    below: str
    middle: str
    above: str
    on_shade: str
    shades: tuple[int, ...]
    clusters: tuple[str, ...]

    def cluster(self, number: int) -> QColor:
        """The colour of a cluster number from 1; ink for 0, which is above the cut."""
        if number <= 0:
            return QColor(self.ink)
        turn, place = divmod(number - 1, len(self.clusters))
        colour = QColor(self.clusters[place])
        return colour if turn % 2 == 0 else colour.lighter(_SECOND_TURN)

    def identity(self, who: Identity) -> QColor:
        """The colour of a cluster; its parts in shades of it."""
        return self.cluster(who.hue).lighter(self.shades[who.shade % len(self.shades)])


LIGHT = Theme(
    "light",
    paper="#F5F4EE", panel="#FFFFFF", line="#D8D6CA", ink="#1B2530", soft="#5D6B76",
    cut="#B0431A", on_cut="#FFFFFF", focus="#2247AA", tint="#E3EAFA", bar="#66737D",
    proximities=("#1D3B6F", "#5E7FAE", "#B4C0CC", "#EFEBDD"),
    below="#35807C", middle="#F6F4EC", above="#BA5A2B", on_shade="#1B2530",
    shades=(100, 128, 78, 148, 64),
    clusters=(
        "#2F66B5", "#B86E12", "#2B855C", "#93459F", "#0E7F97", "#A8433A", "#6F7016", "#54382B",
    ),
)  # fmt: skip
DARK = Theme(
    "dark",
    paper="#141A20", panel="#1B2229", line="#323D47", ink="#ECE8DE", soft="#98A4AE",
    cut="#F2865A", on_cut="#191107", focus="#A0B4FF", tint="#27345F", bar="#8C99A3",
    proximities=("#DCE9F7", "#7FA0C6", "#3E5470", "#20282F"),
    below="#4FB3AC", middle="#2A323A", above="#DD8355", on_shade="#F4F1E8",
    shades=(100, 74, 116, 60, 86),
    clusters=(
        "#7FAAF0", "#E2A54B", "#62BD92", "#CF8FDA", "#2E93A8", "#EE8D82", "#BDBE5C", "#9C8F86",
    ),
)  # fmt: skip


@cache
def _family() -> str:
    folder = Path(fontpkg_source_sans_3.__file__).parent / "files"
    number = QFontDatabase.addApplicationFont(str(folder / "SourceSans3[wght].ttf"))
    families = QFontDatabase.applicationFontFamilies(number)
    return families[0] if families else QApplication.font().family()


def font(size: float = 1.0, weight: int = 400) -> QFont:
    """The one font family, with figures of equal width.

    size : as a multiple of the text size; weight : 400 plain, 600 strong. It goes to the font's
    weight axis, since Qt knows only the lightest cut of a variable font by name.
    """
    out = QFont(_family())
    out.setPixelSize(max(8, round(_TEXT * size * _scale)))
    out.setVariableAxis(QFont.Tag("wght"), weight)
    out.setFeature(QFont.Tag("tnum"), 1)
    out.setHintingPreference(QFont.HintingPreference.PreferNoHinting)
    return out


def current() -> Theme:
    """The theme in force."""
    name = QApplication.instance()
    return DARK if name is not None and name.property("theme") == "dark" else LIGHT


def apply_theme(app: QApplication, theme: Theme, text_scale: float = 1.0) -> None:
    """Put a theme in force for all windows."""
    global _scale
    if app.property("theme") == theme.name and _scale == text_scale:
        return  # every widget there is would be polished for nothing
    _scale = text_scale
    app.setProperty("theme", theme.name)
    app.setStyle("Fusion")
    app.setFont(font())
    app.setPalette(_palette(theme))
    app.setStyleSheet(style_sheet(theme))


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


def style_sheet(theme: Theme) -> str:
    """The look of standard widgets. Fonts are never set here: see `font`."""
    t = theme
    return f"""
    QToolTip {{ background: {t.panel}; color: {t.ink}; border: 1px solid {t.line}; padding: 4px; }}
    QFrame[panel="true"] {{
        background: {t.panel}; border: 1px solid {t.line}; border-radius: 6px; }}
    QLabel[soft="true"] {{ color: {t.soft}; }}
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
    QLineEdit {{
        background: {t.panel}; color: {t.ink}; border: 1px solid {t.line};
        border-radius: 4px; padding: 3px 6px; selection-background-color: {t.tint};
        selection-color: {t.ink}; }}
    QLineEdit:focus {{ border: 1px solid {t.focus}; }}
    QAbstractSpinBox QLineEdit, QAbstractSpinBox QLineEdit:focus {{ border: 0; padding: 0; }}
    QListView::indicator, QCheckBox::indicator {{
        width: 12px; height: 12px; border: 1px solid {t.soft}; border-radius: 3px;
        background: {t.panel};
    }}
    QListView::indicator:checked, QCheckBox::indicator:checked {{
        background: {t.focus}; border-color: {t.focus};
    }}
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
