"""The small picture of a tree: clusters in their colours and places, the cut at its height."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from PySide6.QtGui import QColor, QImage
from pytestqt.qtbot import QtBot

from gorvel.core.linkage.rules import TREE_RULES
from gorvel.core.study.kept import KeptCut, KeptTree
from gorvel.core.tree.cluster_names import identities
from gorvel.core.tree.cuts import cut_at_count, cut_branches
from gorvel.desk.window.application import make_application
from gorvel.paint.charts.small_tree import as_png, small_tree
from gorvel.paint.theme import DARK, LIGHT, Theme
from studies import plan, study

WIDE, HIGH = 240, 76
_BARS = HIGH - 15  # a pixel row of the bars of clusters, above their letters


def tree(n: int, seed: int = 1, linkage: str = "ward") -> KeptTree:
    """A tree of random cases."""
    x = np.random.default_rng(seed).normal(size=(n, 2))
    return KeptTree.of(plan("euclidean", linkage, 2), study(x, "euclidean", linkage))


def colours(image: QImage, row: int) -> list[str]:
    """What stands in a row of pixels, by name."""
    return [image.pixelColor(x, row).name() for x in range(image.width())]


@settings(max_examples=40)
@given(st.integers(2, 60), st.integers(0, 10**6), st.sampled_from(sorted(TREE_RULES)), st.data())
def test_every_cluster_has_its_bar_in_its_colour(
    n: int, seed: int, linkage: str, data: st.DataObject
) -> None:
    make_application()
    kept = tree(n, seed, linkage)
    count = data.draw(st.integers(1, min(n, 6)))
    cut = cut_at_count(kept.tree, count)
    image = small_tree(kept.with_(cut=KeptCut.of(cut, None, cut)), LIGHT, WIDE, HIGH)
    seen = colours(image, _BARS)
    whos = identities(kept.tree, cut, cut)
    for root, who in zip(cut.roots.tolist(), whos, strict=True):
        begin = kept.tree.starts[root] / n
        end = (kept.tree.starts[root] + kept.tree.sizes[root]) / n
        left, right = 6 + begin * (WIDE - 12), 6 + end * (WIDE - 12)
        if right - left > 8:  # broad enough for pixels that are not edges, or letters
            inside = seen[round(left) + 2 : round(right) - 2]
            assert LIGHT.identity(who).name() in inside


@pytest.mark.parametrize("theme", [LIGHT, DARK], ids=lambda theme: theme.name)
def test_the_cut_is_a_line_between_the_joins_that_it_parts(qtbot: QtBot, theme: Theme) -> None:
    kept = tree(40)
    rows = []
    for count in (2, 4, 8):
        cut = cut_at_count(kept.tree, count)
        image = small_tree(kept.with_(cut=KeptCut.of(cut, None, cut)), theme, WIDE, HIGH)
        inked = [image.pixelColor(3, y).alpha() for y in range(HIGH - 20)]
        rows.append(int(np.argmax(inked)))
        ink = image.pixelColor(3, rows[-1])
        cut_ink = QColor(theme.cut)
        assert abs(ink.red() - cut_ink.red()) + abs(ink.blue() - cut_ink.blue()) < 12
    assert rows == sorted(rows)  # more clusters, a lower line
    assert len(set(rows)) == 3


@pytest.mark.parametrize("cases", [1, 2, 3])
def test_the_smallest_trees_have_a_picture_too(qtbot: QtBot, cases: int) -> None:
    kept = tree(cases)
    for count in range(1, cases + 1):
        cut = cut_at_count(kept.tree, count)
        image = small_tree(kept.with_(cut=KeptCut.of(cut, None, cut)), LIGHT, WIDE, HIGH)
        assert QColor(LIGHT.cluster(1)).name() in colours(image, _BARS)
    assert not small_tree(kept, DARK, WIDE, HIGH).isNull()  # a tree that was never cut


def test_branches_cut_lower_are_shades_and_a_finer_screen_has_more_pixels(qtbot: QtBot) -> None:
    kept = tree(30)
    whole = cut_at_count(kept.tree, 3)
    lower = cut_branches(kept.tree, 3, [int(whole.roots.max()) - 30])
    image = small_tree(kept.with_(cut=KeptCut.of(lower, None, whole)), LIGHT, WIDE, HIGH, 2.0)
    assert (image.width(), image.height(), image.devicePixelRatio()) == (2 * WIDE, 2 * HIGH, 2.0)
    bars = {name for name in colours(image, 2 * _BARS) if name != "#000000"}
    shades = {LIGHT.identity(who).name() for who in identities(kept.tree, whole, lower)}
    assert len(shades & bars) >= 3


def test_a_png_reads_back_as_the_picture(qtbot: QtBot) -> None:
    image = small_tree(tree(20), LIGHT, WIDE, HIGH)
    back = QImage.fromData(as_png(image), "PNG")
    assert back.size() == image.size()
    assert back.convertToFormat(image.format()) == image


def test_the_picture_is_the_same_whenever_it_is_made(qtbot: QtBot) -> None:
    kept = tree(25, linkage="average")
    assert as_png(small_tree(kept, DARK, WIDE, HIGH)) == as_png(small_tree(kept, DARK, WIDE, HIGH))
    other = small_tree(kept, LIGHT, WIDE, HIGH)
    assert as_png(other) != as_png(small_tree(kept, DARK, WIDE, HIGH))
