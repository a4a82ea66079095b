"""Pictures of the Count page: what is pointed at is what is drawn there."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from PySide6.QtCore import QPointF, QRectF
from PySide6.QtGui import QColor, QImage, QPainter
from pytestqt.qtbot import QtBot

from gorvel.core.count.indices.index_table import IndexTable, compute_indices
from gorvel.core.count.indices.silhouettes import silhouettes_of
from gorvel.core.count.indices.verdicts import Verdict
from gorvel.core.count.resampling.resampled_rules import resampled
from gorvel.core.plan.count_rules import COUNT_RULES, FAMILIES
from gorvel.core.tree.cluster_names import Identity
from gorvel.paint.canvas import Canvas
from gorvel.paint.charts.board import FEET, BoardChart, BoardPlace, short
from gorvel.paint.charts.curve import CurveChart
from gorvel.paint.charts.silhouettes import SilhouettesPanel
from gorvel.paint.theme import DARK, LIGHT, Theme, font
from studies import asked, study


@pytest.fixture(scope="module")
def board() -> IndexTable:
    grown = study(np.random.default_rng(8).normal(size=(60, 3)), "euclidean")
    return compute_indices(grown, asked()).with_verdicts(resampled(grown, asked(resamples=3)))


def drawn(width: int, height: int, theme: Theme) -> tuple[QImage, QPainter]:
    image = QImage(width, height, QImage.Format.Format_RGB32)
    image.fill(QColor(theme.panel))
    return image, QPainter(image)


def colours(image: QImage, box: QRectF) -> set[str]:
    """All colours in a box."""
    area = box.toRect().intersected(image.rect())
    return {
        QColor(image.pixel(x, y)).name()
        for x in range(area.left(), area.right() + 1)
        for y in range(area.top(), area.bottom() + 1)
    }


@pytest.mark.parametrize("theme", [LIGHT, DARK])
@pytest.mark.parametrize("size", [(760, 640), (520, 500), (1400, 900)])
def test_a_point_on_the_board_is_the_cell_drawn_there(
    qtbot: QtBot, board: IndexTable, theme: Theme, size: tuple[int, int]
) -> None:
    painter = BoardChart(theme, *map(float, size), board, 4, 60, ("dunn",), 3, "silhouette")
    image, ground = drawn(*size, theme)
    painter.paint(Canvas(ground))
    ground.end()
    assert painter.rows[0] in FAMILIES
    for place, key in enumerate(painter.rows):
        middle = painter.top(place) + painter.row / 2
        assert painter.row_at(middle) == key
        if key in FAMILIES:
            continue
        assert painter.row_at(painter.box_of(key).center().y()) == key
        filled = QColor(theme.focus).name() in colours(image, painter.box_of(key))
        assert filled == (key != "dunn")  # without a vote the box is empty
        verdict = board.verdicts[key]
        heard = board.voices(("dunn",))[key].votes
        strength = theme.focus if heard else theme.soft
        for column, count in enumerate(board.counts):
            left = painter.left(column)
            assert painter.count_at(left + painter.column / 2) == count
            cell = QRectF(left, painter.top(place), painter.column, painter.row)
            if count == verdict.best:  # its dot is full
                assert QColor(strength).name() in colours(image, cell)
    bottom = painter.foot + (painter.row * 4)
    assert painter.row_at(bottom) == ""
    assert painter.count_at(10) == 0
    seen = {painter.foot_at(painter.foot + share * painter.row * 3.9) for share in
            np.linspace(0.02, 0.98, 30)}  # fmt: skip
    assert seen == set(FEET)
    for key in FEET:
        assert painter.tip(BoardPlace(foot=key))
        assert painter.tip(BoardPlace(count=5, foot=key)).startswith("5 clusters")
    smallest = board.smallest[board.counts.index(5)]
    assert f"the smallest has {smallest} cases" in painter.tip(BoardPlace(count=5, foot="smallest"))


@given(st.floats(-1e12, 1e12))
def test_values_are_short_and_close(value: float) -> None:
    told = short(value)
    assert len(told) <= 7
    near = max(abs(value) * 0.06, 0.006)
    assert float(told) == pytest.approx(value, abs=near)


values = st.lists(st.one_of(st.none(), st.floats(-1e6, 1e6)), min_size=1, max_size=12)


@given(values, st.booleans(), st.booleans())
def test_any_curve_can_be_drawn(found: list[float | None], bounded: bool, erring: bool) -> None:
    numbers = np.array([np.nan if value is None else value for value in found])
    counts = tuple(range(2, 2 + len(found)))
    known = [k for k, value in zip(counts, found, strict=True) if value is not None]
    verdict = Verdict(
        "gap", counts, numbers, known[0] if known else None, None, None, numbers,
        np.full(len(found), 3.0) if bounded else None,
        np.abs(numbers) / 10 if erring else None,
    )  # fmt: skip
    painter = CurveChart(LIGHT, 400, 160, counts[0], verdict, hovered=counts[-1])
    image, ground = drawn(400, 160, LIGHT)
    painter.paint(Canvas(ground))
    ground.end()
    for place, count in enumerate(counts):
        assert painter.at(painter.x(place), 9) == count
    if known:
        x = painter.x(counts.index(known[0]))
        column = colours(image, QRectF(x - 6, 0, 12, 160))
        assert QColor(LIGHT.cut if known[0] == counts[0] else LIGHT.focus).name() in column


@pytest.mark.parametrize("count", [2, 5])
def test_a_point_on_a_silhouette_is_its_case(qtbot: QtBot, board: IndexTable, count: int) -> None:
    assert board.sums is not None
    found = silhouettes_of(board.sums, count)
    names = [Identity(chr(64 + k), k) for k in range(1, count + 1)]
    box = QRectF(20, 10, 300, 400)
    painter = SilhouettesPanel(found, names, LIGHT, box, [3])
    image, ground = drawn(340, 420, LIGHT)
    painter.paint(Canvas(ground))
    ground.end()
    for row in range(len(found.cases)):
        y = painter.y(row) + (painter.y(1) - painter.y(0)) / 2
        assert painter.row_at(y) == row
        value, x = float(found.values[row]), painter.zero
        if abs(value) < 0.05:
            continue
        inside = QPointF(x + 4 * np.sign(value), y)
        own = LIGHT.warn if value < 0 else LIGHT.identity(names[int(found.own[row]) - 1]).name()
        there = colours(image, QRectF(inside.x() - 1, y - 4, 2, 8))
        assert QColor(own).name() in there
    assert painter.row_at(5) == -1
    assert {COUNT_RULES[key].family for key in board.verdicts} == set(FAMILIES)


@pytest.mark.parametrize("words", ["4 clusters", "A", "tjäk", "0123456789"])
def test_letters_as_shapes_are_whole(qtbot: QtBot, words: str) -> None:
    """Strokes of a letter overlap; where they do, print must not show a hole."""
    ink, large = [], font("result")
    large.setPixelSize(70)
    for outlines in (False, True):
        image, painter = drawn(700, 120, LIGHT)
        Canvas(painter, outlines=outlines).write(QRectF(0, 0, 700, 120), words, "#000000", large)
        painter.end()
        dark = (image.pixelColor(x, y).lightness() < 128 for x in range(700) for y in range(120))
        ink.append(sum(dark))
    assert ink[0] > 500
    assert ink[1] == pytest.approx(ink[0], rel=0.02)
