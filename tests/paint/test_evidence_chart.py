"""The chart of groups: the band of data without them, the curve, and where a pointer is."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from PySide6.QtGui import QColor, QImage, QPainter

from gorvel.core.base.numbers import number
from gorvel.core.count.null.evidence import Evidence
from gorvel.core.count.null.null_comparison import IndexComparison
from gorvel.paint.canvas import Canvas
from gorvel.paint.charts.curve import EvidenceChart
from gorvel.paint.theme import DARK, LIGHT, Theme


def found(seed: int, counts: int, draws: int) -> Evidence:
    rng = np.random.default_rng(seed)
    return Evidence(
        tuple(range(2, 2 + counts)), rng.uniform(0.3, 0.6, counts), np.full(counts, 0.3),
        rng.uniform(0.05, 0.25, (draws, counts)),
    )  # fmt: skip


def painted(painter: EvidenceChart, theme: Theme) -> QImage:
    image = QImage(int(painter.width), int(painter.height), QImage.Format.Format_RGB32)
    image.fill(QColor(theme.panel))
    ground = QPainter(image)
    painter.paint(Canvas(ground))
    ground.end()
    return image


@given(st.integers(0, 10**6), st.integers(1, 12), st.sampled_from([0, 1, 2, 30]))
def test_any_evidence_can_be_drawn(seed: int, counts: int, draws: int) -> None:
    painter = EvidenceChart(LIGHT, 400.0, 180.0, 3, found(seed, counts, draws), hovered=2)
    blank = painted(EvidenceChart(LIGHT, 400.0, 180.0, 3, found(seed, counts, draws)), LIGHT)
    assert painted(painter, LIGHT) != QImage()
    assert (painter.band is None) is (draws < 2)
    for place, count in enumerate(painter.counts):
        assert painter.at(painter.x(place), 9) == count
        told = painter.tip(count)
        value = number(float(painter.evidence.values[place]))
        assert told.startswith(f"{count} clusters: silhouette {value}")
        assert ("without groups" in told) is (draws >= 2)
    assert painter.tip(99) == ""
    assert blank.size() == painted(painter, LIGHT).size()


@pytest.mark.parametrize("theme", [LIGHT, DARK])
def test_the_band_lies_below_the_curve_and_the_highest_has_a_ring(theme: Theme) -> None:
    evidence = found(4, 6, 50)
    painter = EvidenceChart(theme, 400.0, 180.0, 3, evidence)
    image, band, curve = painted(painter, theme), QColor(theme.line), QColor(theme.focus)
    assert painter.band is not None
    low, high = painter.band
    assert (low < high).all()
    for k in range(6):
        inside = [(evidence.drawn[:, k] >= low[k]) & (evidence.drawn[:, k] <= high[k])]
        assert 0.86 <= np.mean(inside) <= 0.94
    place = evidence.counts.index(evidence.highest)
    x = round(painter.x(place))
    column = [image.pixelColor(x, y) for y in range(image.height() - 30)]
    first_curve = next(y for y, colour in enumerate(column) if colour == curve)
    first_band = next(
        y for y, colour in enumerate(column) if colour == band and y > first_curve + 14
    )
    assert first_curve < first_band
    alone = painted(EvidenceChart(theme, 400.0, 180.0, 99, evidence), theme)
    assert alone != image  # the count in hand is marked


def test_an_index_without_a_value_at_some_count_is_drawn_where_it_has_one() -> None:
    drawn = np.random.default_rng(1).uniform(1, 2, (30, 5))
    drawn[3, 0] = np.nan
    values = np.array([1.5, 3.0, 0.5, np.nan, 1.0])
    index = IndexComparison((2, 3, 4, 5, 6), values, drawn, -1.0)
    assert index.highest == 4
    assert np.isnan(index.standing[[0, 3]]).all()
    painter = EvidenceChart(LIGHT, 400.0, 180.0, 3, index, name="Density")
    painted(painter, LIGHT)
    assert painter.tip(2) == "2 clusters: density 1.50"
    assert painter.tip(4).startswith("4 clusters: density 0.500; without groups")
    nothing = IndexComparison((2, 3), np.full(2, np.nan), np.full((3, 2), np.nan))
    assert (nothing.p, nothing.highest, nothing.told) == (None, None, False)
    painted(EvidenceChart(LIGHT, 400.0, 180.0, 3, nothing), LIGHT)
