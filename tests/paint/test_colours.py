"""Colours can be read and told apart by all eyes: by the tokens, and as they are painted."""

from __future__ import annotations

import itertools
from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st
from PySide6.QtCore import QPointF, QRectF
from PySide6.QtGui import QColor, QImage, QPainter

from gorvel.core.tree.cluster_names import Identity, letters
from gorvel.paint.canvas import Canvas
from gorvel.paint.cluster_marks import paint_bar, paint_disc
from gorvel.paint.colour import contrast as measured
from gorvel.paint.colour import lightness, moved_in_lightness
from gorvel.paint.shades import ink_on
from gorvel.paint.theme import DARK, LIGHT, Theme
from reference import colours

both = pytest.mark.parametrize("theme", [LIGHT, DARK], ids=lambda theme: theme.name)
parts = st.builds(
    lambda hue, shade: Identity(letters(hue) + str(shade or ""), hue, shade),
    st.integers(1, 20), st.integers(0, 6),
)  # fmt: skip
any_colour = st.builds("#{:02x}{:02x}{:02x}".format, *[st.integers(0, 255)] * 3)


@pytest.mark.parametrize(
    ("one", "other", "apart"),
    [  # Sharma, Wu & Dalal 2005, table 1: hues over the turn, greys, and far ones
        ((50.0, 2.6772, -79.7751), (50.0, 0.0, -82.7485), 2.0425),
        ((50.0, -0.001, 2.49), (50.0, 0.0011, -2.49), 4.7461),
        ((50.0, 2.5, 0.0), (58.0, 24.0, 15.0), 19.4535),
        ((60.2574, -34.0099, 36.2677), (60.4626, -34.1751, 39.4387), 1.2644),
        ((90.9257, -0.5406, -0.9208), (88.6381, -0.8985, -0.7239), 1.5381),
        ((2.0776, 0.0795, -1.135), (0.9033, -0.0636, -0.5514), 0.9082),
    ],
)
def test_the_measure_of_distance_is_that_of_its_authors(
    one: colours.Rgb, other: colours.Rgb, apart: float
) -> None:
    assert colours.ciede2000(one, other) == pytest.approx(apart, abs=5e-5)
    assert colours.ciede2000(other, one) == pytest.approx(apart, abs=5e-5)


@both
def test_words_and_edges_stand_out_on_every_ground(theme: Theme) -> None:
    for ground in (theme.panel, theme.paper, theme.tint):
        for words in (theme.ink, theme.soft, theme.focus, theme.cut, theme.warn):
            assert colours.contrast(words, ground) >= 4.5, (words, ground)
        for shape in (theme.edge, theme.bar):
            assert colours.contrast(shape, ground) >= 3, (shape, ground)
    assert colours.contrast(theme.panel, theme.focus) >= 4.5  # the button of the step that is due
    assert colours.contrast(theme.on_cut, theme.cut) >= 4.5
    assert colours.contrast(theme.proximities[0], theme.proximities[-1]) >= 6


@both
def test_clusters_are_told_apart_in_all_sights(theme: Theme) -> None:
    for one, other in colours.pairs(theme.clusters):
        assert colours.least_distance(one, other) >= 10.4, (one, other)
    for one, other in colours.pairs(theme.clusters[:5]):
        assert colours.least_distance(one, other) >= 13, (one, other)
    for cluster in theme.clusters:
        assert colours.least_distance(cluster, theme.cut) >= 8.9, cluster
        assert colours.least_distance(cluster, theme.focus) >= 8, cluster


@both
@given(parts)
def test_a_cluster_stands_out_and_its_name_on_it(theme: Theme, who: Identity) -> None:
    fill = theme.identity(who)
    assert colours.contrast(fill.name(), theme.panel) >= 3
    assert colours.contrast(fill.name(), ink_on(fill, theme)) >= 4.5
    assert theme.striped(who) == (8 < who.hue <= 16)


@both
@given(parts, any_colour)
def test_neighbouring_parts_differ(theme: Theme, who: Identity, given_: str) -> None:
    for colour in ("", given_):
        one, other, third = (
            theme.identity(Identity("A1", who.hue, shade, colour=colour)) for shade in (1, 2, 3)
        )
        assert one == QColor(colour or theme.clusters[(who.hue - 1) % 8])
        steps = [lightness(two) - lightness(one_) for one_, two in ((one, other), (other, third))]
        if colour:  # whatever it is, as far as it goes
            assert max(steps) <= 0.5 or min(steps) >= -0.5
        else:
            assert all(7 <= abs(step) <= 10 for step in steps)


@given(any_colour, st.floats(-30, 30))
def test_lightness_and_contrast_are_those_of_the_definitions(colour: str, by: float) -> None:
    own = QColor(colour)
    assert lightness(own) == pytest.approx(colours.lab(colours.linear(colour))[0], abs=1e-3)
    assert measured(own, QColor("#ffffff")) == pytest.approx(
        colours.contrast(colour, "#ffffff"), rel=1e-4
    )
    red, green, blue = colours.linear(colour)
    if max(abs(red - green), abs(green - blue)) < 1e-9:  # greys can be shown at every lightness
        wanted = min(max(lightness(own) + by, 0), 100)
        assert lightness(moved_in_lightness(own, by)) == pytest.approx(wanted, abs=0.5)
    assert moved_in_lightness(own, 0.0).name() == own.name()


@both
@pytest.mark.parametrize("shape", ["bar", "disc"])
@pytest.mark.usefixtures("qapp")
def test_names_on_clusters_are_painted_so_that_they_can_be_read(theme: Theme, shape: str) -> None:
    for hue, shade in itertools.product(range(1, 17), range(4)):
        who = Identity(letters(hue), hue, shade)
        image = QImage(160, 160, QImage.Format.Format_RGB32)
        image.fill(QColor(theme.panel))
        with QPainter(image) as painter:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            painter.scale(5, 5)  # strokes are wider than a pixel
            if shape == "bar":
                paint_bar(Canvas(painter), theme, QRectF(4, 4, 24, 24), who)
            else:
                paint_disc(Canvas(painter), theme, QPointF(16, 16), 12, who)
        inside = [image.pixelColor(x, y).name() for x in range(55, 106) for y in range(50, 111)]
        fill = theme.identity(who).name()
        assert fill in inside
        assert max(colours.contrast(fill, seen) for seen in set(inside)) >= 4.5, who


@both
@given(parts)
def test_in_grey_print_neighbours_differ_by_more_than_colour(theme: Theme, who: Identity) -> None:
    grey = replace(theme, grey_print=True)
    after = replace(who, hue=who.hue + 1)
    assert grey.striped(who) != grey.striped(after)
    assert grey.identity(who) == theme.identity(who)
