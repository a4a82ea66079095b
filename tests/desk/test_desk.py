"""The reading desk: one case axis, one mark and one cut through all its columns."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from pathlib import Path
from xml.etree import ElementTree

import numpy as np
import polars as pl
import pytest
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtGui import QImage, QWheelEvent
from PySide6.QtWidgets import QApplication, QCheckBox
from pytestqt.qtbot import QtBot

from driving import LEFT, choose_file, click, moved
from gorvel.core.base.numbers import number
from gorvel.core.cases.prepare import prepare
from gorvel.core.cases.prepared import Prepared
from gorvel.core.plan.plan import Plan
from gorvel.core.proximity.extremes import extreme_pairs, rank_of_pair
from gorvel.core.run import run_plan
from gorvel.core.table.source import Source
from gorvel.core.tree.cuts import cut_at_count
from gorvel.desk.controls.file_dialog import FileDialog
from gorvel.desk.state.marks import Mark
from gorvel.desk.views.case_axis import ALIKE
from gorvel.desk.views.column import Column
from gorvel.desk.views.matrix_view import MatrixView
from gorvel.desk.window.window import Window
from gorvel.desk.work import actions as actions_module
from gorvel.main import DEMO

Opener = Callable[[Path], Window]
NO_BUTTON = Qt.MouseButton.NoButton


def point(column: Column, across: float, down: float) -> tuple[float, float]:
    """A pixel of a column from one as cases run down."""
    return (down, across) if column.axis.upright else (across, down)


def hover(column: Column, across: float, down: float) -> None:
    column.mouseMoveEvent(moved(column, *point(column, across, down), NO_BUTTON))


@pytest.mark.parametrize("upright", [False, True])
def test_what_is_pointed_at_is_told_and_marked_everywhere(
    grown: Window, qtbot: QtBot, upright: bool
) -> None:
    page, focus = grown.tree, grown.focus
    desk = page.desk
    desk.stand(upright)
    QApplication.processEvents()
    at = desk.axis.arrangement
    assert at is not None
    assert focus.grown is not None
    tree, labels, matrix = at.tree, focus.grown.prepared.labels, focus.grown.pairs.matrix
    desk.axis.zoom(3.0)
    frame = desk.icicle.frame()
    position = at.position(frame.place(frame.top + 40))
    own, next_ = (int(case) for case in at.order[position : position + 2])
    below = frame.y(position + 0.9)

    look = desk.axis.look()
    assert look is not None
    plot = desk.icicle.picture(look)
    hover(desk.icicle, plot.x(frame, 6.5), below)
    assert focus.hovered == Mark("level", own, next_, 6)
    join = tree.meeting(own, next_)
    together = tree.n - join - 1 >= 6
    said = page.reading.words.text()
    assert said.startswith(f"With 6 clusters, {labels[own]} and {labels[next_]} are ")
    assert ("already together" in said) == together
    assert f"in join {join + 1}, at height" in said

    seen = desk.proximities
    frame = seen.frame()
    other_position = (position + 70) % tree.n
    other = int(at.order[other_position])
    across = seen.picture(look, final=True).x(frame, other_position + 0.5)
    hover(seen, across, frame.y(position + 0.5))
    assert focus.hovered == Mark("pair", own, other)
    assert f"{labels[own]} and {labels[other]} have proximity " in page.reading.words.text()
    nearer = int(np.count_nonzero(np.triu(matrix < matrix[own, other], 1)))
    assert f"{nearer:,} of the" in page.reading.words.text()

    seen.set_file_order(True)
    plot = seen.picture(look, final=True)
    length = look.arrangement.length
    places = (frame.place(frame.top + 40), 0.9 * length)
    row, column = (int(place / length * tree.n) for place in places)
    hover(seen, plot.x(frame, places[1]), frame.top + 40)
    assert focus.hovered == Mark("pair", row, column)
    seen.set_file_order(False)

    answers = desk.answers
    frame = answers.frame()
    hover(answers, frame.left + 3, frame.y(position + 0.5))
    assert focus.hovered == Mark("answer", own, 0)
    first = focus.grown.prepared.variables[0].name
    assert page.reading.words.text().startswith(f"{labels[own]}: {first} is ")

    click(qtbot, desk.labels, *point(desk.labels, 60, frame.y(position + 0.5)))
    assert focus.selected == Mark("case", own)
    bare = desk.dendrogram.grab().toImage()
    hover(desk.labels, 60, frame.y(position + 3.5))
    assert desk.dendrogram.grab().toImage() != bare  # the second case has its dot too
    hover(desk.dendrogram, 30, 5)
    assert focus.hovered is None


def test_a_count_is_chosen_under_the_icicle_and_letters_stay(
    grown: Window, qtbot: QtBot, tmp_path: Path
) -> None:
    desk, focus = grown.tree.desk, grown.focus
    look = desk.axis.look()
    assert look is not None
    frame, plot = desk.icicle.frame(), desk.icicle.picture(look)
    assert [who.name for who in focus.identities] == ["A", "B", "C", "D"]
    colour_of_c = look.colour(3)
    click(qtbot, desk.icicle, plot.x(frame, 6.5), frame.bottom + 8)
    assert focus.cut is not None
    assert focus.cut.clusters == 6
    names = [who.name for who in focus.identities]
    assert len(set(names)) == 6
    assert {"C", "D"} <= set(names)
    assert {"A1", "A2"} <= set(names)
    look = desk.axis.look()
    assert look is not None
    assert look.colour(names.index("C") + 1) == colour_of_c
    assert grown.acts.files.save_memberships(tmp_path / "six.csv")
    assert grown.acts.files.written()
    saved = pl.read_csv(tmp_path / "six.csv")
    assert set(saved["letter_k6"].drop_nulls()) == set(names)
    qtbot.keyClick(desk.icicle, Qt.Key.Key_Left)
    qtbot.keyClick(desk.icicle, Qt.Key.Key_Left)
    assert [who.name for who in focus.identities] == ["A", "B", "C", "D"]
    qtbot.keyClick(desk.icicle, Qt.Key.Key_Left)
    assert any("+" in who.name for who in focus.identities)
    focus.letter_anew()
    assert [who.name for who in focus.identities] == ["A", "B", "C"]


def test_one_cluster_is_split_and_joined_again(
    grown: Window, opened: Callable[[Path], Window], qtbot: QtBot, tmp_path: Path
) -> None:
    desk, focus = grown.tree.desk, grown.focus
    assert focus.grown is not None
    assert focus.cut is not None
    tree, whole = focus.grown.tree, focus.cut
    root = int(whole.roots[2])
    focus.select(Mark("cluster", 3))
    offered = [a.text() for a in desk.column_menu(desk.labels).actions()]
    assert "Split cluster C only" in offered
    qtbot.keyClick(desk.dendrogram, Qt.Key.Key_S)
    assert focus.cut.clusters == 5
    assert [who.name for who in focus.identities if who.name[0] != "C"] == ["A", "B", "D"]
    assert {"C1", "C2"} <= {who.name for who in focus.identities}
    assert focus.cut.split == (root - tree.n,)
    assert "with some branches cut lower" in grown.tree.reading.words.text()
    assert grown.tree.count.value() == 5

    assert grown.acts.files.save_plan(tmp_path / "branches.toml")
    assert grown.acts.files.written()
    assert grown.acts.files.save_memberships(tmp_path / "branches.csv")
    assert grown.acts.files.written()
    saved = pl.read_csv(tmp_path / "branches.csv")
    outcome = run_plan(tmp_path / "branches.toml", tmp_path / "out")
    run = pl.read_csv(outcome.directory / "membership.csv")
    assert run["branches1"].to_list() == saved["cluster_b5"].to_list()

    part = next(k for k, who in enumerate(focus.identities, 1) if who.name == "C1")
    focus.select(Mark("cluster", part))
    qtbot.keyClick(desk.dendrogram, Qt.Key.Key_U)
    np.testing.assert_array_equal(focus.cut.membership, whole.membership)
    focus.select(Mark("cluster", 1))
    offered = [a.text() for a in desk.column_menu(desk.labels).actions()]
    assert not any("again" in words and "Join" in words for words in offered)

    opened(tmp_path / "branches.toml")  # the plan brings its branches back
    grown.acts.grow()
    qtbot.waitUntil(lambda: focus.grown is not None)
    assert focus.cut.split == (root - tree.n,)
    assert {"C1", "C2"} <= {who.name for who in focus.identities}
    before = focus.cut.clusters
    focus.saved_to = tmp_path  # as if saved
    at = focus.grown.tree.heights[-before : -before + 2].mean()
    focus.set_height(float(at))
    assert focus.cut.clusters == before
    assert not focus.cut.split
    assert focus.saved_to is None  # another partition of the same count


def test_branches_fold_turn_and_are_put_in_order(grown: Window, qtbot: QtBot) -> None:
    desk, focus = grown.tree.desk, grown.focus
    axis = desk.axis
    before = axis.arrangement
    assert before is not None
    tree = before.tree
    focus.select(Mark("join", tree.joins - 4))
    qtbot.keyClick(desk.dendrogram, Qt.Key.Key_F)
    node = tree.n + tree.joins - 4
    assert axis.arrangement is not None
    assert axis.arrangement.folded == {node}
    first, last = axis.arrangement.span(node)
    middle = desk.labels.frame().y((first + last) / 2)
    click(qtbot, desk.labels, 60, middle)  # the mark of the branch stands for all its cases
    assert focus.selected == Mark("join", tree.joins - 4)
    qtbot.mouseDClick(desk.labels, LEFT, pos=QPoint(60, round(middle)))
    assert not axis.arrangement.folded

    qtbot.keyClick(desk.dendrogram, Qt.Key.Key_R)
    left, right = int(tree.left[-4]), int(tree.right[-4])
    assert axis.arrangement.starts[right] < axis.arrangement.starts[left]
    axis.sort_by("visits")
    assert focus.grown is not None
    raw = focus.grown.prepared.raw
    assert raw is not None
    at = axis.arrangement
    ends = sorted((int(tree.left[-1]), int(tree.right[-1])), key=lambda v: int(at.starts[v]))
    means = [raw[tree.members(v), 0].mean() for v in ends]
    assert means[0] <= means[1]
    axis.fold_to_cut()
    assert len(axis.arrangement.folded) == 4
    axis.unfold()
    desk.order_alike()
    qtbot.waitUntil(lambda: axis.sorted_by == ALIKE)
    axis.sort_by("")
    np.testing.assert_array_equal(axis.arrangement.order, tree.order)


def test_columns_come_and_go_and_are_remembered(grown: Window, qtbot: QtBot) -> None:
    desk, page = grown.tree.desk, grown.tree
    qtbot.mouseClick(desk.proximities.hide_button, LEFT)
    assert not desk.proximities.isVisible()
    desk.move_column("icicle", -1)
    assert desk.order.index("icicle") < desk.order.index("labels")
    qtbot.keyClick(desk.answers, Qt.Key.Key_Return)
    assert [column.key for column in desk.seen] == ["answers"]
    qtbot.keyClick(desk.answers, Qt.Key.Key_Return)
    assert desk.dendrogram.isVisible()
    desk.splitter.handle(1).moveSplitter(300)
    qtbot.waitUntil(lambda: bool(desk.state()["widths"]))
    widths = desk.splitter.sizes()
    desk.shown.set_scale("clusters")
    data = DEMO / "readers.csv"
    kept = grown.acts.settings.desks[str(data.absolute())]
    assert kept["scale"] == "clusters"
    assert "proximities" not in kept["seen"]

    page._study = None  # as after a new start
    desk.restore({})
    desk.shown.set_scale("plain")
    grown.acts.settings.desks[str(data.absolute())] = kept
    page._study = desk.shown.of = None
    page._follow()
    assert desk.shown.scale == "clusters"
    assert desk.splitter.sizes() == widths
    assert not desk.proximities.isVisible()
    desk.restore({"order": 3, "seen": ["nonsense"], "upright": 0})
    assert desk.dendrogram.isVisible()


def test_a_case_is_found_and_the_overview_goes_there(grown: Window, qtbot: QtBot) -> None:
    page, desk = grown.tree, grown.tree.desk
    assert not desk.overview.isVisible()
    desk.axis.zoom(6.0)
    assert desk.overview.isVisible()
    page.sought.setFocus()
    qtbot.keyClicks(page.sought, "r20")
    found = []
    for _ in range(3):
        qtbot.keyClick(page.sought, Qt.Key.Key_Return)
        assert grown.focus.selected is not None
        found.append(grown.focus.selected.number)
    assert grown.focus.grown is not None
    assert len(set(found)) == 3
    assert all("R20" in grown.focus.grown.prepared.labels[case] for case in found)
    page.sought.setText("nobody")
    qtbot.keyClick(page.sought, Qt.Key.Key_Return)
    assert "No label contains “nobody”" in grown.alarm_words.text()
    click(qtbot, desk.overview, 8, desk.axis.head + desk.axis.body - 2)
    assert desk.axis.scrolled == pytest.approx(desk.axis.whole - desk.axis.body, abs=40)
    before = desk.axis.scrolled
    spot = QPointF(50, 100)
    desk.labels.wheelEvent(
        QWheelEvent(
            spot, desk.labels.mapToGlobal(spot), QPoint(), QPoint(0, 120), NO_BUTTON,
            Qt.KeyboardModifier.NoModifier, Qt.ScrollPhase.NoScrollPhase, False,
        )
    )  # fmt: skip
    assert desk.axis.scrolled < before
    assert desk.bar.value() == round(desk.axis.scrolled)


def test_pairs_are_looked_up_and_listed(grown: Window, qtbot: QtBot) -> None:
    dialog = grown.tree.compare()
    assert dialog is not None
    assert grown.focus.grown is not None
    pairs, labels = grown.focus.grown.pairs, grown.focus.grown.prepared.labels
    matrix, n = pairs.matrix, len(labels)
    flat = sorted((matrix[i, j], i, j) for i in range(n) for j in range(i + 1, n))
    near, far = extreme_pairs(pairs, n, 12)
    assert [(p.proximity, p.one, p.other) for p in near] == flat[:12]
    assert [p.proximity for p in far] == [d for d, _, _ in flat[::-1][:12]]
    assert rank_of_pair(pairs, n, *flat[500][1:]) == (
        flat[500][0], sum(d < flat[500][0] for d, _, _ in flat),
    )  # fmt: skip
    qtbot.waitUntil(lambda: dialog.nearest.count() == 12)
    row = dialog.nearest.visualItemRect(dialog.nearest.item(1)).center()
    qtbot.mouseClick(dialog.nearest.viewport(), LEFT, pos=row)
    assert grown.focus.pair == (near[1].one, near[1].other)
    assert dialog.one.text() == labels[near[1].one]
    assert "1 of the 21,528 pairs are nearer" in dialog.answer.text()
    dialog.one.setText("R0")
    qtbot.keyClick(dialog.one, Qt.Key.Key_Return)
    assert "labels contain “R0”" in dialog.answer.text()
    dialog.close()
    again = grown.tree.compare()  # closed before the pairs are found
    assert again is not None
    again.close()
    qtbot.waitUntil(lambda: not grown.acts.jobs._alive)


def test_the_schedule_is_sorted_and_played(grown: Window, qtbot: QtBot) -> None:
    page, focus = grown.tree, grown.focus
    table = page.schedule
    assert focus.grown is not None
    jumps = focus.grown.schedule.jump
    head = table.horizontalHeader()
    column = [table.table.headerData(k, Qt.Orientation.Horizontal) for k in range(9)].index("jump")
    head.setSortIndicator(column, Qt.SortOrder.DescendingOrder)
    assert table.table.join_of(0) == int(np.nanargmax(jumps))
    assert "sorted by jump" in page.schedule_note.text()
    rect = table.visualRect(table.table.index(0, 1))
    click(qtbot, table.viewport(), rect.center().x(), rect.center().y())
    assert focus.selected == Mark("join", int(np.nanargmax(jumps)))
    table.leaveEvent(moved(table, 0, 0, NO_BUTTON))
    tree = focus.grown.tree
    parts = page.reading.words.text().splitlines()[-2:]
    chosen = int(np.nanargmax(jumps))
    assert [int(line.split()[0]) for line in parts] == [
        tree.sizes[tree.left[chosen]], tree.sizes[tree.right[chosen]],
    ]  # fmt: skip
    qtbot.keyClick(table, Qt.Key.Key_J)
    assert table.table.join_of(0) == tree.joins - 1
    focus.select(Mark("join", tree.joins - 3))
    page.reading._clock.setInterval(1)
    qtbot.mouseClick(page.reading.play, LEFT)
    page.reading._clock.setInterval(1)
    qtbot.waitUntil(lambda: page.reading.play.text() == "Play joins")
    assert focus.selected == Mark("join", tree.joins - 1)


@pytest.mark.slow
def test_views_leave_as_tables_pictures_and_figures(
    grown: Window, qtbot: QtBot, tmp_path: Path
) -> None:
    page, desk, focus = grown.tree, grown.tree.desk, grown.focus
    assert focus.grown is not None
    assert focus.cut is not None
    order, labels = focus.grown.tree.order, focus.grown.prepared.labels

    def copied(column: Column) -> list[list[str]]:
        desk.copy_table(column)
        data = QApplication.clipboard().mimeData()
        assert data.html().count("<tr>") == len(data.text().splitlines())
        return [line.split("\t") for line in data.text().splitlines()]

    rows = copied(desk.proximities)
    assert rows[0][1:] == [labels[case] for case in order]
    matrix = focus.grown.pairs.matrix
    np.testing.assert_array_equal(
        np.array([row[1:] for row in rows[1:]], dtype=float), matrix[np.ix_(order, order)]
    )
    rows = copied(desk.icicle)
    assert [int(row[3]) for row in rows[1:]] == list(
        cut_at_count(focus.grown.tree, 3).membership[order]
    )
    assert [row[3] for row in copied(desk.labels)[1:]] == [
        "ABCD"[focus.cut.membership[case] - 1] for case in order
    ]
    assert len(copied(desk.dendrogram)) == focus.grown.tree.n
    assert copied(desk.answers)[0] == ["label", *focus.shelf.plan.variables.use]

    shown = page.show_matrix()
    assert shown is not None
    table = shown.findChild(MatrixView)
    cell = table.visualRect(table.model().index(2, 1)).center()
    click(qtbot, table.viewport(), cell.x(), cell.y())
    assert focus.selected == Mark("pair", int(order[2]), int(order[1]))
    assert table.model().index(2, 1).data() == number(matrix[order[2], order[1]])
    qtbot.keyClick(table, Qt.Key.Key_C, Qt.KeyboardModifier.ControlModifier)
    told = QApplication.clipboard().text().splitlines()[1].split("\t")
    assert told == [labels[order[2]], str(matrix[order[2], order[1]])]
    view = shown.findChild(QCheckBox)
    view.setChecked(True)
    assert table.model().index(2, 1).data() == number(matrix[2, 1])
    assert table.model().headerData(0, Qt.Orientation.Horizontal, 0) == labels[0]
    shown.close()

    desk.copy_picture(desk.seen)
    data = QApplication.clipboard().mimeData()
    assert data.hasImage()
    assert ElementTree.fromstring(bytes(data.data("image/svg+xml").data())).tag.endswith("svg")

    dialog = page.open_figure(desk.seen)
    assert dialog is not None
    dialog.wide.setValue(120)
    dialog.high.setValue(80)
    dialog.dots.setValue(200)
    qtbot.waitUntil(lambda: not dialog.preview.pixmap().isNull())
    figure = dialog.figure()
    dialog.save_to(tmp_path / "tree.svg")
    assert grown.acts.files.written()
    shapes = ElementTree.parse(tmp_path / "tree.svg").getroot()
    assert shapes.attrib["width"].startswith("120")
    kinds = {element.tag.rsplit("}")[-1] for element in shapes.iter()}
    assert "path" in kinds
    assert "text" not in kinds  # letters are shapes
    for kind in ("pdf", "png"):
        other = page.open_figure([desk.dendrogram])
        assert other is not None
        other.kind.setCurrentIndex(other.kind.findData(kind))
        other.save_to(tmp_path / f"tree.{kind}")
        assert grown.acts.files.written()
    assert (tmp_path / "tree.pdf").read_bytes().startswith(b"%PDF")
    image = QImage(str(tmp_path / "tree.png"))
    assert (image.width(), image.height()) == (round(170 / 25.4 * 300), round(120 / 25.4 * 300))
    assert figure.width == 120
    last = page.open_figure([desk.labels])
    assert last is not None
    last.save_to(tmp_path / "nowhere" / "tree.svg")
    assert not grown.acts.files.written()
    assert "the figure was not saved" in grown.alarm_words.text()
    last.close()


def test_texts_like_formulas_are_guarded_where_it_is_asked(
    opened: Callable[[Path], Window], qtbot: QtBot, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    path, out = tmp_path / "t.csv", tmp_path / "m.csv"
    path.write_text("id,a,b\n=1+1,1,2\n@x,2,1\nc,9,9\nd,8,9\n")
    window = opened(path)
    window.acts.grow()
    qtbot.waitUntil(lambda: window.focus.cut is not None)
    for kinds, first in ((0, "=1+1"), (2, "'=1+1")):
        out.unlink(missing_ok=True)
        asked = partial(choose_file, kind=kinds)
        monkeypatch.setattr(FileDialog, "exec", lambda dialog, asked=asked: asked(dialog, out))
        window.dialogs.save_memberships()
        qtbot.waitUntil(lambda: not window.acts.jobs.writing)
        assert out.read_text().splitlines()[1].split(",")[0] == first


def test_cases_that_are_prepared_are_not_prepared_once_more(
    opened: Opener, qtbot: QtBot, readers: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    window = opened(readers)
    made: list[Plan] = []

    def counted(source: Source, plan: Plan) -> Prepared:
        made.append(plan)
        return prepare(source, plan)

    monkeypatch.setattr(actions_module, "prepare", counted)
    with qtbot.waitSignal(window.focus.tree_changed):
        window.acts.grow()
    assert made == []
    assert window.focus.grown.prepared is window.focus.prepared
    window.focus.shelf.change("scale", method="range01")
    with qtbot.waitSignal(window.focus.tree_changed):
        window.acts.grow()  # before the new plan was looked at
    assert {plan.scale.method for plan in made} == {"range01"}
    core = prepare(window.focus.shelf.study.source, window.focus.shelf.plan)
    np.testing.assert_array_equal(window.focus.grown.prepared.answers.values, core.answers.values)
