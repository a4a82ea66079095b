"""Columns are painted without a window: the same everywhere, within their cases, and true."""

from __future__ import annotations

import re
import subprocess
import sys
from collections.abc import Callable
from dataclasses import replace
from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from PySide6.QtCore import QRectF
from PySide6.QtGui import QColor, QImage, QPainter

from gorvel.core.grow.grown import Grown
from gorvel.core.linkage.rules import TREE_RULES
from gorvel.core.scene.arrangement import Arrangement, arrange
from gorvel.core.scene.axis import axis_of
from gorvel.core.scene.dendrogram import DendrogramScene
from gorvel.core.scene.standardised import standing
from gorvel.core.tree.cluster_names import identities
from gorvel.core.tree.cuts import cut_at_count
from gorvel.desk.window.application import make_application
from gorvel.paint.axes import Frame
from gorvel.paint.canvas import Canvas
from gorvel.paint.columns.answers import AnswersPicture
from gorvel.paint.columns.column import CaseSpan, ColumnPicture
from gorvel.paint.columns.dendrogram import DendrogramPicture
from gorvel.paint.columns.icicle import IciclePicture
from gorvel.paint.columns.labels import LabelsPicture
from gorvel.paint.columns.proximities import ProximitiesPicture
from gorvel.paint.columns.stays import StaysPicture
from gorvel.paint.figure import Figure, column_ends, image_of_figure, svg_of_figure
from gorvel.paint.theme import DARK, LIGHT, Theme
from gorvel.paint.tree_style import TreeLook
from studies import study

WIDE = 200.0

Made = Callable[[Grown, TreeLook], ColumnPicture]


def dendrogram(grown: Grown, look: TreeLook) -> DendrogramPicture:
    scene = DendrogramScene(look.arrangement, axis_of(look.tree, "plain", grown.schedule.spread))
    return DendrogramPicture(scene, look, frozenset({0}))


def answers(grown: Grown, look: TreeLook) -> AnswersPicture:
    raw = grown.prepared.raw
    assert raw is not None
    return AnswersPicture(look, standing(raw, look.arrangement), ["one", "two"], raw)


COLUMNS: dict[str, Made] = {
    "dendrogram": dendrogram,
    "labels": lambda grown, look: LabelsPicture(look),
    "icicle": lambda grown, look: IciclePicture(look, 1, min(8, look.tree.n)),
    "proximities": lambda grown, look: ProximitiesPicture(look, grown.pairs, 2.0),
    "answers": answers,
    "stays": lambda grown, look: StaysPicture(look, np.linspace(0, 1, look.tree.n)),
}


@pytest.fixture(autouse=True)
def application() -> None:
    make_application()


def seen(
    seed: int, n: int, linkage: str = "average", clusters: int = 3, theme: Theme = LIGHT
) -> tuple[Grown, TreeLook]:
    """A tree of random cases, some of its joins turned and some branches folded."""
    rng = np.random.default_rng(seed)
    grown = study(rng.normal(size=(n, 2)), "euclidean", linkage)
    tree = grown.tree
    folded = (
        {n + int(join) for join in rng.integers(0, tree.joins, 2)} if rng.random() < 0.4 else ()
    )
    at: Arrangement = arrange(tree, rng.random(tree.joins) < 0.5, folded)
    cut = cut_at_count(tree, min(clusters, n))
    names = identities(tree, cut, cut)
    return grown, TreeLook(at, cut, names, grown.prepared.labels, theme)


def painted(picture: ColumnPicture, span: CaseSpan, high: int, wide: float = WIDE) -> QImage:
    """One column on an image."""
    size = (high, round(wide)) if span.upright else (round(wide), high)
    image = QImage(*size, QImage.Format.Format_RGB32)
    image.fill(QColor(picture.look.theme.panel))
    before, after = picture.margin
    with QPainter(image) as painter:
        canvas = Canvas(painter, span.upright)
        picture.paint_whole(canvas, span.frame(before, wide - after), wide)
    return image


def span_of(look: TreeLook, body: float, upright: bool = False) -> CaseSpan:
    length = look.arrangement.length
    return CaseSpan(length, body, body / length, 0.0, upright)


@settings(max_examples=25, deadline=None)
@given(
    st.sampled_from(sorted(COLUMNS)), st.integers(0, 10**6), st.integers(2, 60),
    st.sampled_from(sorted(TREE_RULES)), st.booleans(), st.sampled_from([LIGHT, DARK]),
)  # fmt: skip
def test_a_figure_of_one_column_is_that_column(
    key: str, seed: int, n: int, linkage: str, upright: bool, theme: Theme
) -> None:
    """At the size of the screen, the paper has the pixels of the screen, whatever is in sight."""
    grown, look = seen(seed, n, linkage, theme=theme)
    picture, span = COLUMNS[key](grown, look), span_of(look, 240.0, upright)
    high = round(240 + span.head + span.foot)
    inch = 25.4 / 96
    size = (high, WIDE) if upright else (WIDE, high)
    figure = Figure(
        [picture], [1.0], span, size[0] * inch, size[1] * inch, 96.0, bool(seed % 2), outlines=False
    )
    assert image_of_figure(figure) == painted(picture, span, high)


@settings(max_examples=25, deadline=None)
@given(st.sampled_from(sorted(COLUMNS)), st.integers(0, 10**6), st.integers(4, 60), st.data())
def test_cases_out_of_sight_leave_no_mark(key: str, seed: int, n: int, data: st.DataObject) -> None:
    """Above the head there is nothing but the title, wherever the cases are scrolled to."""
    grown, look = seen(seed, n)
    row = data.draw(st.sampled_from([4.0, 30.0, 90.0]))
    most = max(look.arrangement.length * row - 200, 0.0)
    span = CaseSpan(look.arrangement.length, 200.0, row, data.draw(st.floats(0, most)))
    picture = COLUMNS[key](grown, look)
    image = painted(picture, span, round(200 + span.head + span.foot))
    # between the title and the cases only the handle of the cut may stand, and its line
    ground = QColor(look.theme.panel).rgb()
    if key != "dendrogram":
        for y in range(20, round(span.head) - 2):
            assert all(image.pixel(x, y) == ground for x in range(image.width())), (key, y)
    below = CaseSpan(look.arrangement.length, 200.0, row, most + 10_000.0)  # all are above
    bare = painted(picture, below, round(200 + span.head + span.foot))
    rows = range(round(span.head) + 1, round(span.head) + 198)
    if key != "dendrogram":  # whose cut line runs along all cases
        assert all(bare.pixel(x, y) == ground for y in rows for x in range(0, 200, 3)), key


@settings(max_examples=40, deadline=None)
@given(st.integers(0, 10**6), st.integers(2, 60), st.floats(0.0, 1.0), st.floats(0.0, 1.0))
def test_what_stands_at_a_point_is_found_there(
    seed: int, n: int, down: float, across: float
) -> None:
    """The place of a thing and the thing at a place are inverse."""
    grown, look = seen(seed, n)
    span = span_of(look, 240.0)
    frame = span.frame(6.0, 194.0)
    at = look.arrangement
    y = frame.top + down * 239.9
    position = at.position(frame.place(y))
    node = at.unit(position)
    top, bottom = look.extent(frame, node)
    assert top - 1e-6 <= y <= bottom + 1e-6
    x = frame.left + across * (frame.right - frame.left - 0.01)
    icicle = IciclePicture(look, 1, min(8, n))
    count = icicle.count_at(frame, x)
    assert icicle.x(frame, count) - 1e-6 <= x <= icicle.x(frame, count + 1) + 1e-6
    pairs = ProximitiesPicture(look, grown.pairs, 2.0)
    assert pairs.x(frame, pairs.place_across(frame, x)) == pytest.approx(x)
    column = answers(grown, look).column_at(frame, x)
    assert column == int((x - frame.left) / (frame.right - frame.left) * 2)


@settings(max_examples=20, deadline=None)
@given(st.integers(0, 10**6), st.integers(2, 24))
def test_a_pair_has_the_colour_of_its_proximity(seed: int, n: int) -> None:
    """Each cell, where it is large enough to be seen, is the shade of what the pair measures."""
    grown, look = seen(seed, n)
    look = TreeLook(
        arrange(look.tree, look.arrangement.flipped), look.cut, look.names, look.labels, LIGHT
    )
    side = float(n * 9)  # cells of nine pixels have neither numbers nor shared pixels
    picture = ProximitiesPicture(look, grown.pairs, 2.0)
    frame = Frame(0.0, side, 0.0, side, 9.0)
    image, patch = picture.measured(frame)
    order = look.arrangement.order
    shades = picture.image(patch)
    assert (image.width(), image.height()) == (round(side), round(side))
    rng = np.random.default_rng(seed)
    for _ in range(20):
        i, j = (int(k) for k in rng.integers(0, n, 2))
        far = float(grown.pairs.block(order[[i]], order[[j]])[0, 0])
        assert patch.values[patch.down[i * 9 + 4], patch.across[j * 9 + 4]] == far
        same = [k for k in range(n) if k != j]
        for k in same[:3]:
            other = float(grown.pairs.block(order[[i]], order[[k]])[0, 0])
            lighter = QColor(shades.pixel(k * 9 + 4, i * 9 + 4)).lightness()
            own = QColor(shades.pixel(j * 9 + 4, i * 9 + 4)).lightness()
            if abs(other - far) > 0.2 and max(other, far) < 2.0:
                assert (lighter > own) == (other > far)


ALONE = """
import sys
import numpy as np
from PySide6.QtGui import QGuiApplication
app = QGuiApplication(["figure", "-platform", "offscreen"])
sys.path.insert(0, sys.argv[1])
from studies import study
from gorvel.core.scene.arrangement import arrange
from gorvel.core.scene.axis import axis_of
from gorvel.core.scene.dendrogram import DendrogramScene
from gorvel.core.tree.cluster_names import identities
from gorvel.core.tree.cuts import cut_at_count
from gorvel.paint.columns.column import CaseSpan
from gorvel.paint.columns.dendrogram import DendrogramPicture
from gorvel.paint.columns.labels import LabelsPicture
from gorvel.paint.figure import Figure, svg_of_figure
from gorvel.paint.tree_style import TreeLook
from gorvel.paint.theme import LIGHT
grown = study(np.random.default_rng(4).normal(size=(30, 2)))
cut = cut_at_count(grown.tree, 3)
at = arrange(grown.tree)
look = TreeLook(at, cut, identities(grown.tree, cut, cut), grown.prepared.labels, LIGHT)
scene = DendrogramScene(at, axis_of(at.tree, "plain", None))
figure = Figure([DendrogramPicture(scene, look), LabelsPicture(look)], [1, 1],
                CaseSpan.whole(at.length))
sys.stdout.buffer.write(svg_of_figure(figure))
assert not [name for name in sys.modules if name in ("PySide6.QtWidgets", "gorvel.desk")]
"""


@pytest.mark.slow
def test_a_figure_is_drawn_by_a_process_without_widgets(request: pytest.FixtureRequest) -> None:
    tests = request.config.rootpath / "tests"
    told = subprocess.run(
        [sys.executable, "-c", ALONE, str(tests)], capture_output=True, check=False
    )
    assert told.returncode == 0, told.stderr.decode()
    assert told.stdout.startswith(b"<?xml")
    grown = study(np.random.default_rng(4).normal(size=(30, 2)))
    cut = cut_at_count(grown.tree, 3)
    at = arrange(grown.tree)
    look = TreeLook(at, cut, identities(grown.tree, cut, cut), grown.prepared.labels, LIGHT)
    pictures = [dendrogram(grown, look), LabelsPicture(look)]
    pictures[0] = DendrogramPicture(pictures[0].scene, look)  # type: ignore[attr-defined]
    here = svg_of_figure(Figure(pictures, [1, 1], CaseSpan.whole(at.length)))
    numbers = re.compile(rb"-?\d+\.?\d*")
    assert numbers.sub(b"", told.stdout) == numbers.sub(b"", here)
    for one, other in zip(numbers.findall(told.stdout), numbers.findall(here), strict=True):
        assert float(one) == pytest.approx(float(other), abs=0.05)  # outlines of letters vary


class Recorded(Canvas):
    """Keeps what is written, and where."""

    def __init__(self, painter: QPainter, upright: bool = False, outlines: bool = False) -> None:
        super().__init__(painter, upright, outlines)
        self.words: list[tuple[QRectF, str]] = []

    def write(self, box: QRectF, words: str, *args: Any, **options: Any) -> None:
        self.words.append((box, words))
        super().write(box, words, *args, **options)


def recorded(picture: ColumnPicture, wide: float, high: float = 400.0) -> Recorded:
    image = QImage(round(wide), round(high), QImage.Format.Format_RGB32)
    with QPainter(image) as painter:
        canvas = Recorded(painter)
        span = CaseSpan.whole(picture.look.arrangement.length).fitted(high, True)
        picture.paint_whole(canvas, span.frame(*column_ends(picture, wide)), wide)
    return canvas


@given(st.integers(1, 12), st.floats(60.0, 500.0), st.integers(4, 40))
def test_names_of_variables_never_run_into_each_other(
    count: int, wide: float, letters: int
) -> None:
    grown, look = seen(3, 9)
    assert grown.prepared.raw is not None
    raw = np.repeat(grown.prepared.raw[:, :1], count, axis=1)
    names = [f"{'question of a survey ' * 2}"[:letters] + str(k) for k in range(count)]
    picture = AnswersPicture(look, standing(raw, look.arrangement), names, raw)
    canvas = recorded(picture, wide)
    feet = [box for box, _ in canvas.words if box.top() > 340]
    assert feet
    for k, box in enumerate(feet):
        for other in feet[:k]:
            both = box.intersected(other)
            steep = box.height() > box.width()
            apart = abs(box.center().x() - other.center().x())
            assert apart >= 11 if steep else both.width() < 0.5 or both.height() < 4.5


@pytest.mark.parametrize("key", [key for key in COLUMNS if key != "labels"])
def test_a_heading_loses_no_word_that_has_room_in_three_lines(key: str) -> None:
    grown, look = seen(3, 9)
    picture = COLUMNS[key](grown, look)
    for wide in (90.0, 110.0, 150.0, 260.0):
        told = " ".join(words for box, words in recorded(picture, wide).words if box.bottom() < 48)
        assert "…" not in told
        if wide >= 150.0 and key != "dendrogram":
            assert set(picture.heading().replace("·", "").split()) <= set(told.split())


def test_labels_that_begin_alike_are_told_apart() -> None:
    """In their own width where there is room, by their ends where there is not."""
    _, look = seen(3, 9)
    labels = tuple(f"The United Valleys of Upper Number {k}" for k in range(9))
    look = replace(look, labels=labels)
    assert LabelsPicture(look).natural(400.0) > LabelsPicture(look).natural(0.0)
    for wide in (130.0, LabelsPicture(look).natural(400.0)):
        told = [words for _, words in recorded(LabelsPicture(look), wide).words]
        leaves = [words for words in told if words.startswith("The")]
        assert len(set(leaves)) == len(leaves) >= 5
    assert any(words in labels for words in leaves)


def test_names_of_clusters_are_told_where_there_is_room() -> None:
    _, look = seen(5, 40, clusters=2)
    whole = arrange(look.tree)
    titles = {int(look.cut.roots[0]): "Evening regulars"}
    names = identities(look.tree, look.cut, look.cut, titles)
    plain = TreeLook(whole, look.cut, identities(look.tree, look.cut, look.cut), look.labels, LIGHT)
    named = TreeLook(whole, look.cut, names, look.labels, LIGHT)
    assert LabelsPicture(named).natural(170.0) > LabelsPicture(plain).natural(170.0)
    size = int(look.tree.sizes[look.cut.roots[0]])
    assert LabelsPicture(named)._cluster_lines(1, 90.0, True) == [
        ("Evening regulars", LIGHT.ink), (f"{size} cases", LIGHT.soft),
    ]  # fmt: skip
    low = LabelsPicture(named)._cluster_lines(1, 12.0, False)
    assert low == [(f"Evening regulars, {size} cases", LIGHT.soft)]
    assert LabelsPicture(plain)._cluster_lines(1, 8.0, False)[0][0].startswith("A  ")
    span = CaseSpan(40.0, 80.0, 2.0)  # rows too low for labels: clusters are told
    assert painted(LabelsPicture(named), span, 186) != painted(LabelsPicture(plain), span, 186)
