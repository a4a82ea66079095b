"""Colours, spaces and fonts: every token of the looks stands here, for screen and paper."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cache
from pathlib import Path
from typing import Literal

import fontpkg_source_sans_3
from PySide6.QtGui import QColor, QFont, QFontDatabase

from gorvel.core.tree.cluster_names import Identity
from gorvel.paint.colour import lightness, moved_in_lightness

SPACE = 8  # the grid: margins and gaps are multiples or halves of it
PROSE = 640  # pixels that lines of running text are long, at most
Size = Literal["result", "title", "text", "table", "note", "letter"]
# pixels at a text scale of 1: what a page found, titles of cards, running text, tables and
# controls, notes and axes, letters in bars
_PIXELS: dict[Size, int] = {
    "result": 20, "title": 16, "text": 14, "table": 13, "note": 12, "letter": 11,
}  # fmt: skip
_PART, _PARTS = 9.0, 3  # CIE L* between parts of a cluster, and how many differ
_LIGHT = 70.0  # CIE L* of a colour on dark ground whose parts are darker and not lighter
_scale = 1.0


@dataclass(frozen=True)
class Theme:
    """One set of colours.

    paper, panel : behind pages and behind what lies on them; line : what parts them, and axes;
    edge : of fields, ticks and buttons; ink, soft : text, and text of lesser weight;
    cut : the cut line, and the count in hand; warn : what needs an eye;
    focus : what is marked, and links; tint : behind what is marked; bar : neutral bars;
    proximities : from most alike to least; below, middle, above : answers about their mean;
    clusters : fills and lines of clusters A, B, .., told apart by colour-blind eyes too;
    grey_print : is every second one striped or dashed, so that no colour is needed?
    """

    name: str
    paper: str
    panel: str
    line: str
    edge: str
    ink: str
    soft: str
    cut: str
    on_cut: str
    warn: str
    focus: str
    tint: str
    bar: str
    proximities: tuple[str, ...]
    below: str
    middle: str
    above: str
    clusters: tuple[str, ...]
    grey_print: bool = False

    def cluster(self, number: int) -> QColor:
        """The colour of a cluster number from 1; ink for 0, which is above the cut."""
        return QColor(self.ink if number <= 0 else self.clusters[(number - 1) % len(self.clusters)])

    def identity(self, who: Identity) -> QColor:
        """The colour of a cluster; its parts in shades of it, the first in its own."""
        whole = QColor(who.colour) if who.colour else self.cluster(who.hue)
        step = _PART * ((who.shade - 1) % _PARTS) if who.shade else 0.0
        if not step:
            return whole
        lighter = self.name == "dark" and lightness(whole) <= _LIGHT
        return moved_in_lightness(whole, step if lighter else -step)

    def shade(self, share: float) -> float:
        """How much of a colour a cell has that holds a number in ink, for a share from 0 to 1."""
        return 0.05 + share * (0.5 if self.name == "light" else 0.35)

    def striped(self, who: Identity) -> bool:
        """Has an earlier cluster the same colour, so that it is striped or dashed?"""
        if self.grey_print:
            return who.hue % 2 == 0
        return not who.colour and bool((who.hue - 1) // len(self.clusters) % 2)


LIGHT = Theme(
    "light",
    paper="#F5F4EE", panel="#FFFFFF", line="#D8D6CA", edge="#868477", ink="#1B2530", soft="#5D6B76",
    cut="#B0431A", on_cut="#FFFFFF", warn="#8A5A00", focus="#2247AA", tint="#E3EAFA", bar="#66737D",
    proximities=("#1D3B6F", "#5E7FAE", "#B4C0CC", "#EFEBDD"),
    below="#35807C", middle="#F6F4EC", above="#BA5A2B",
    clusters=(
        "#6285F3", "#C47A1F", "#2F816B", "#6C2F6F", "#0F7F97", "#88474B", "#6D7B49", "#573523",
    ),
)  # fmt: skip
DARK = Theme(
    "dark",
    paper="#141A20", panel="#222B33", line="#46535F", edge="#74828E", ink="#ECE8DE", soft="#98A4AE",
    cut="#F2865A", on_cut="#191107", warn="#E0B84C", focus="#A0B4FF", tint="#27345F", bar="#8C99A3",
    proximities=("#9FBCE0", "#6F8FB5", "#3E5470", "#27313A"),
    below="#4FB3AC", middle="#313A43", above="#DD8355",
    clusters=(
        "#A9CEF4", "#FCB348", "#7DE0BA", "#BA80DB", "#4A949A", "#FB9D90", "#8D961C", "#9C8F86",
    ),
)  # fmt: skip


_in_force = LIGHT


@cache
def _family() -> str:
    folder = Path(fontpkg_source_sans_3.__file__).parent / "files"
    number = QFontDatabase.addApplicationFont(str(folder / "SourceSans3[wght].ttf"))
    families = QFontDatabase.applicationFontFamilies(number)
    return families[0] if families else QFont().family()


def font(size: Size = "text", weight: int = 400) -> QFont:
    """The one font family, with figures of equal width.

    weight : 400 plain, 600 strong. It goes to the font's weight axis, since Qt knows only the
    lightest cut of a variable font by name.
    """
    return QFont(_made(round(_PIXELS[size] * _scale), weight))


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
