"""Colours, spaces and fonts: every token of the looks stands here, for screen and paper."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cache
from pathlib import Path

import fontpkg_source_sans_3
from PySide6.QtGui import QColor, QFont, QFontDatabase

from gorvel.core.tree.cluster_names import Identity

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
        whole = QColor(who.colour) if who.colour else self.cluster(who.hue)
        return whole.lighter(self.shades[who.shade % len(self.shades)])


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


_in_force = LIGHT


@cache
def _family() -> str:
    folder = Path(fontpkg_source_sans_3.__file__).parent / "files"
    number = QFontDatabase.addApplicationFont(str(folder / "SourceSans3[wght].ttf"))
    families = QFontDatabase.applicationFontFamilies(number)
    return families[0] if families else QFont().family()


def font(size: float = 1.0, weight: int = 400) -> QFont:
    """The one font family, with figures of equal width.

    size : as a multiple of the text size; weight : 400 plain, 600 strong. It goes to the font's
    weight axis, since Qt knows only the lightest cut of a variable font by name.
    """
    return QFont(_made(max(8, round(_TEXT * size * _scale)), weight))


@cache
def _made(pixels: int, weight: int) -> QFont:
    out = QFont(_family())
    out.setPixelSize(pixels)
    out.setVariableAxis(QFont.Tag("wght"), weight)
    out.setFeature(QFont.Tag("tnum"), 1)
    out.setHintingPreference(QFont.HintingPreference.PreferNoHinting)
    return out


def text_scale() -> float:
    """Of all letters; what is as wide as words follows."""
    return _scale


def current() -> Theme:
    """The theme in force."""
    return _in_force


def put_in_force(theme: Theme, text_scale: float = 1.0) -> None:
    """Draw in this theme from now on. text_scale : of all letters."""
    global _in_force, _scale
    _in_force, _scale = theme, text_scale
