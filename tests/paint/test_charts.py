"""Charts are painted without a window, and can be read in both looks."""

from __future__ import annotations

from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from PySide6.QtGui import QColor, QFontMetricsF, QImage, QPainter

from gorvel.core.count.indices.index_table import compute_indices
from gorvel.core.inspect.associations import CorrelationMap
from gorvel.core.inspect.missing_patterns import Gaps, Pattern
from gorvel.desk.window.application import make_application
from gorvel.paint.canvas import Canvas
from gorvel.paint.charts.associations import AssociationsChart
from gorvel.paint.charts.board import BoardChart
from gorvel.paint.charts.gaps import GapsChart
from gorvel.paint.charts.lanes_layout import spread_out
from gorvel.paint.colour import contrast
from gorvel.paint.shades import ink_on
from gorvel.paint.theme import DARK, LIGHT, Theme, font
from studies import asked, study


@pytest.fixture(autouse=True)
def application() -> None:
    make_application()


def test_contrast_is_that_of_the_standard() -> None:
    black, white, grey = QColor("#000000"), QColor("#FFFFFF"), QColor("#767676")
    assert contrast(black, white) == pytest.approx(21)
    assert contrast(white, white) == 1
    assert contrast(grey, white) == contrast(white, grey) == pytest.approx(4.54, abs=0.005)


@pytest.mark.parametrize("theme", [LIGHT, DARK])
def test_figures_stand_out_from_every_shade_of_correlation(theme: Theme) -> None:
    values = np.linspace(-1, 1, 81)
    chart = AssociationsChart(theme, 400, 400, None)
    for value in values:
        ground = chart.colour(float(value))
        assert contrast(QColor(ink_on(ground, theme)), ground) >= 3.4, value
    assert contrast(QColor(ink_on(chart.colour(0.0), theme)), chart.colour(0.0)) > 10


@pytest.mark.parametrize("theme", [LIGHT, DARK])
def test_a_correlation_of_nothing_has_no_sign(theme: Theme) -> None:
    def painted(value: float) -> QImage:
        found = CorrelationMap(
            ("a", "b"), np.array([[1, value], [value, 1]]), (), (("r", "r"), ("r", "r"))
        )
        image = QImage(300, 300, QImage.Format.Format_RGB32)
        image.fill(QColor(theme.panel))
        with QPainter(image) as painter:
            AssociationsChart(theme, 300, 300, found).paint(Canvas(painter))
        return image

    assert painted(-1e-9) == painted(1e-9)
    assert painted(-0.3) != painted(0.3)


@pytest.mark.parametrize("theme", [LIGHT, DARK])
def test_no_line_runs_through_the_words_of_a_rule_that_abstains(theme: Theme) -> None:
    grown = study(np.random.default_rng(1).normal(size=(60, 3)), "city-block", "average")
    board = compute_indices(grown, asked(to=10))

    def reds(count: int) -> list[int]:
        painter = BoardChart(theme, 760.0, 600.0, board, count, 60)
        image = QImage(760, 600, QImage.Format.Format_RGB32)
        image.fill(QColor(theme.panel))
        with QPainter(image) as on:
            painter.paint(Canvas(on))
        y = round(painter.top(painter.rows.index("trace-w")) + painter.row / 2)
        reddish = QColor(theme.cut).hue()
        seen = [image.pixelColor(x, y) for x in range(image.width())]
        return [
            x for x, c in enumerate(seen) if abs(c.hue() - reddish) < 12 and c.saturation() > 60
        ]

    through = reds(2)  # the words begin in this column, and go on
    assert len(through) < len(reds(10))  # where no words are, both sides of the box are seen


@pytest.mark.slow
@given(st.integers(1, 60), st.integers(1, 60), st.floats(200.0, 900.0))
def test_names_of_a_map_of_gaps_have_room_or_take_none(
    count: int, letters: int, width: float
) -> None:
    """On a slant, upright, or none: never so close that they run into each other."""
    names = tuple(f"{'q' * letters}{k}" for k in range(count))
    whole = Pattern((True,) * count, 5)
    gaps = Gaps(names, (0,) * count, 5, (whole,), 5, 0, 0)
    chart = GapsChart(LIGHT, width, 0.0, gaps)
    image = QImage(round(width), round(chart.least[1]) + 1, QImage.Format.Format_RGB32)
    image.fill(QColor("#FFFFFF"))
    with QPainter(image) as painter:
        chart.paint(Canvas(painter))
    high = round(chart.head) - 4
    named = [
        x for x in range(image.width())
        if any(image.pixelColor(x, y).lightness() < 128 for y in range(high))
    ]  # fmt: skip
    places = [x for x in range(image.width()) if chart.at(x, 9) == names[0]]
    assert bool(named) == (chart.head > 8)
    assert len(places) >= 10 if named else len(places) <= 11
    if named:
        assert max(named) < width  # the last one leans over the bars, not out of the picture
        longest = QFontMetricsF(font("note")).horizontalAdvance(max(names, key=len))
        leans = chart.head < min(longest, 150.0) + 13
        if leans and longest >= 60:
            assert len(places) >= 16


@given(
    st.lists(st.floats(0, 100), min_size=1, max_size=8).map(sorted), st.floats(1, 20),
    st.floats(0, 20), st.floats(100, 300),
)  # fmt: skip
def test_letters_that_give_way_keep_their_order_and_move_as_little_as_they_can(
    places: list[float], apart: float, low: float, wide: float
) -> None:
    high = low + max(wide, apart * (len(places) - 1))
    found = spread_out(places, apart, low, high)
    assert len(found) == len(places)
    assert all(b - a >= apart - 1e-9 for a, b in pairwise(found))
    assert min(found) >= low - 1e-9
    assert max(found) <= high + 1e-9
    free = all(b - a >= apart for a, b in pairwise(places))
    inside = low <= places[0] and places[-1] <= high
    if free and inside:
        assert found == pytest.approx(places, abs=1e-9)

    def moved(one: list[float]) -> float:
        return sum((a - b) ** 2 for a, b in zip(one, places, strict=True))

    grid = np.linspace(low, high, 61)
    if len(places) == 2:  # no other pair of places costs less
        costs = [
            moved([a, b]) for a in grid for b in grid if b - a >= apart - 1e-9
        ]  # fmt: skip
        assert not costs or moved(found) <= min(costs) + 1e-6
