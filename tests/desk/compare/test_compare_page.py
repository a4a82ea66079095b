"""The Compare page: from one tree to a difference that is named and taken away."""

from __future__ import annotations

import csv
from collections.abc import Callable
from pathlib import Path

import numpy as np
import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtWidgets import QApplication
from pytestqt.qtbot import QtBot

from driving import LEFT, click, moved, press, settled, sides, states
from gorvel.core.compare.pair import Pair, crossed
from gorvel.core.count.agreement import adjusted_rand, cross_counts
from gorvel.core.grow.grown import analyse
from gorvel.core.plan.analyses import OtherTree
from gorvel.core.plan.others import adopted
from gorvel.core.tree.cuts import cut_at_count
from gorvel.desk.window.window import Window


def wanted_pair(window: Window) -> tuple[Pair, Window]:
    """The same two trees, grown once more from the plans."""
    study, mine = window.focus.shelf.study, window.focus.grown
    assert study is not None
    assert mine is not None
    plan = adopted(study.plan, OtherTree(name="-", linkage="complete"))
    return Pair.of(mine, analyse(study.source, plan)), window


def test_from_one_tree_to_two(grown: Window, qtbot: QtBot) -> None:
    press(grown, qtbot, "Alt+6")
    assert states(grown)["Compare"] == "1 tree"
    assert [one.text() for one in grown.compare.offers] == [
        "Average linkage", "Complete linkage", "Single linkage",
    ]  # fmt: skip
    qtbot.mouseClick(grown.compare.offers[0], LEFT)
    settled(grown, qtbot)
    study = grown.focus.shelf.study
    assert study is not None
    assert [(e.plan.tree.linkage, e.kept) for e in study.trees] == [
        ("ward", True), ("average", True),
    ]  # fmt: skip
    assert study.plan.tree.linkage == "ward"  # it stays in hand
    assert states(grown)["Compare"] == "2 trees"
    assert [c.side.text() for c in grown.shelf.cards] == ["left", "right"]
    assert "Adjusted Rand " in grown.shelf.cards[1].says.text()
    press(grown, qtbot, "Ctrl+Z")
    assert [e.plan.tree.linkage for e in grown.focus.shelf.study.trees] == ["ward"]


def test_numbers_are_those_of_the_core(compared: Window) -> None:
    pair, window = wanted_pair(compared)
    met = window.comparing.met
    assert met is not None
    cuts = [cut_at_count(g.tree, 5) for g in (pair.one, pair.other)]
    found = crossed(pair, *cuts)
    assert met.crossed.table.tolist() == found.table.tolist()
    assert met.crossed.agreement == found.agreement
    words = window.compare.reading.sentences()
    assert f"adjusted Rand index {found.agreement.adjusted_rand:.2f}" in words
    assert "On the right: complete linkage." in words
    told = window.compare.faces.says.text()
    assert f"{found.agreement.moved} of {pair.common}" in told
    facing = met.faced.facing
    assert f"{facing.after:,} crossings" in window.compare.faces.crossings.text()
    assert facing.after < facing.before
    own = adjusted_rand(cross_counts(cuts[0].membership - 1, cuts[1].membership - 1))
    assert f"{own:.2f} at 5 clusters" in window.shelf.cards[1].says.text()
    # clusters of the right tree are called after their partners, others have letters of their own
    names = [who.name for who in met.others]
    assert len(set(names)) == 5
    for mine, partner in enumerate(met.crossed.partner.tolist()):
        if partner >= 0:
            assert names[partner] == met.names[mine].name.lower()
            assert met.others[partner].hue == met.names[mine].hue


def test_a_click_on_the_curve_cuts_both_trees(compared: Window, qtbot: QtBot) -> None:
    view = compared.compare.alike.view
    painter = view.chart()
    place = list(painter.counts).index(3)
    click(qtbot, view, painter.x(place), view.height() / 2)
    assert compared.focus.cut is not None
    assert compared.focus.cut.clusters == 3
    met = compared.comparing.met
    assert met is not None
    assert met.crossed.table.shape == (3, 3)
    assert compared.compare.cross.counts.text() == "3 by 3"
    view.setFocus()
    qtbot.keyClick(view, Qt.Key.Key_Right)
    assert compared.focus.cut.clusters == 4
    tip = painter.tip(3)
    assert "adjusted Rand" in tip
    assert "Fowlkes–Mallows" in tip


def test_a_cell_lists_its_cases_which_are_followed_to_the_tree(
    compared: Window, qtbot: QtBot
) -> None:
    met, view, reading = (
        compared.comparing.met,
        compared.compare.cross.view,
        compared.compare.reading,
    )
    assert met is not None
    painter = view.chart()
    assert painter is not None
    wide, high = painter.cell
    click(qtbot, view, 46 + 0.5 * wide, 26 + 0.5 * high)
    cell = painter.rows[0], painter.columns[0]
    assert view.cell == cell
    assert len(reading.list.shown) == met.crossed.table[cell]
    inside = (met.crossed.own == cell[0]) & (met.crossed.its == cell[1])
    assert sorted(reading.list.shown) == np.flatnonzero(inside).tolist()
    first = reading.list.shown[0]
    index = reading.list.view.model().index(0, 0)
    qtbot.mouseClick(reading.list.view.viewport(), LEFT,
                     pos=reading.list.view.visualRect(index).center())  # fmt: skip
    mark = compared.focus.selected
    assert mark is not None
    assert (mark.kind, mark.number) == ("case", int(met.faced.pair.mine[first]))
    assert compared.compare.view.marked() == (first,)
    reading.list.copy_all()
    assert QApplication.clipboard().text().startswith("case\tlabel\tleft\tright")
    view.setFocus()
    qtbot.keyClick(view, Qt.Key.Key_Right)
    assert view.cell == (painter.rows[0], painter.columns[1])
    qtbot.keyClick(view, Qt.Key.Key_Escape)
    assert view.cell is None
    assert reading.pages.currentIndex() == 0


def test_those_that_move_are_listed(compared: Window, qtbot: QtBot) -> None:
    met, reading = compared.comparing.met, compared.compare.reading
    assert met is not None
    qtbot.mouseClick(compared.compare.faces.list, LEFT)
    assert sorted(reading.list.shown) == np.flatnonzero(met.crossed.moved).tolist()
    qtbot.mouseClick(reading.back, LEFT)
    assert reading.pages.currentIndex() == 0


def test_a_line_is_pointed_at_and_marked(compared: Window, qtbot: QtBot) -> None:
    view, met = compared.compare.view, compared.comparing.met
    assert met is not None
    painter = view.chart()
    assert painter is not None
    line = int(np.flatnonzero(met.crossed.moved)[0])
    begin = painter.ends[0]
    y = float(painter.heights[0][line])
    assert painter.line_at(begin + 1, y) >= 0
    view.mouseMoveEvent(moved(view, begin + 1, y, Qt.MouseButton.NoButton))
    over = view.marked()
    assert len(over) == 1
    assert abs(painter.heights[0][over[0]] - y) <= 5
    hovered = compared.focus.hovered
    assert hovered is not None
    assert hovered.number == met.faced.pair.mine[over[0]]
    assert " there" in view.words(painter.at(begin + 1, y))
    click(qtbot, view, begin + 1, y)
    selected = compared.focus.selected
    assert selected is not None
    assert selected.number == met.faced.pair.mine[over[0]]
    cluster = painter.cluster_at(60, view.height() / 2)
    assert cluster is not None
    view.mouseMoveEvent(moved(view, 60, view.height() / 2, Qt.MouseButton.NoButton))
    click(qtbot, view, 60, view.height() / 2)
    selected = compared.focus.selected
    assert selected is not None
    assert (selected.kind, selected.number) == ("cluster", cluster[1])
    assert set(view.marked()) == set(np.flatnonzero(met.crossed.own == cluster[1] - 1).tolist())


def test_keys_zoom_fold_and_walk(compared: Window, qtbot: QtBot) -> None:
    view = compared.compare.view
    view.setFocus()
    before = view.chart()
    assert before is not None
    qtbot.keyClick(view, Qt.Key.Key_Plus)
    assert view.zoom > 1
    qtbot.keyClick(view, Qt.Key.Key_PageDown)
    assert view.scrolled > 0
    qtbot.keyClick(view, Qt.Key.Key_0)
    assert (view.zoom, view.scrolled) == (1.0, 0.0)
    qtbot.keyClick(view, Qt.Key.Key_F)
    after = view.chart()
    assert after is not None
    assert after.left.look.arrangement.length < before.left.look.arrangement.length
    assert compared.compare.faces.folded.isChecked()
    qtbot.keyClick(view, Qt.Key.Key_F)
    order = np.argsort(before.heights[0], kind="stable")
    qtbot.keyClick(view, Qt.Key.Key_Down)
    assert view.marked() == (int(order[0]),)
    qtbot.keyClick(view, Qt.Key.Key_Down)
    assert view.marked() == (int(order[1]),)
    qtbot.keyClick(view, Qt.Key.Key_Return)
    assert compared.pages.seen is compared.tree


@pytest.mark.slow
def test_sides_by_click_and_key(compared: Window, qtbot: QtBot) -> None:
    compared.compare.put_beside("average")
    settled(compared, qtbot)
    left, right = sides(compared)
    ids = [card.entry.id for card in compared.shelf.cards]
    assert (left, right) == (ids[0], ids[2])
    qtbot.mouseClick(compared.shelf.cards[1], LEFT, pos=QPoint(20, 12))
    assert sides(compared) == (ids[0], ids[1])
    assert compared.focus.shelf.study.in_hand == ids[0]
    qtbot.mouseClick(compared.compare.faces.swap, LEFT)
    settled(compared, qtbot)
    assert sides(compared) == (ids[1], ids[0])
    met = compared.comparing.met
    assert met is not None  # the letters of the tree in hand stay its own
    assert [who.name for who in met.others] == [w.name for w in compared.focus.identities]
    qtbot.keyClick(compared.shelf.cards[2], Qt.Key.Key_L)
    settled(compared, qtbot)
    assert sides(compared) == (ids[2], ids[0])
    assert [card.side.text() for card in compared.shelf.cards] == ["right", "", "left"]
    compared.comparing.swap()
    qtbot.mouseClick(compared.compare.reading.hand, LEFT)
    settled(compared, qtbot)
    assert compared.focus.shelf.study.in_hand == ids[2]


def test_a_card_is_dragged(compared: Window, qtbot: QtBot) -> None:
    first, second = compared.shelf.cards[:2]
    ids = [first.entry.id, second.entry.id]
    qtbot.mousePress(second, LEFT, pos=QPoint(30, 20))
    up = first.mapToGlobal(QPoint(30, 2)).y() - second.mapToGlobal(QPoint(0, 0)).y()
    second.mouseMoveEvent(moved(second, 30, up))
    qtbot.mouseRelease(second, LEFT, pos=QPoint(30, up))
    assert [entry.id for entry in compared.focus.shelf.study.trees] == ids[::-1]
    assert sides(compared)[1] == ids[1]


def test_a_difference_is_taken_away_as_figure_and_table(
    compared: Window, qtbot: QtBot, tmp_path: Path
) -> None:
    page, focus = compared.compare, compared.focus
    met = compared.comparing.met
    assert met is not None
    focus.name_cluster(int(np.argmax(np.bincount(met.crossed.own))) + 1, "Regulars")
    QApplication.processEvents()
    assert "Regulars" in page.reading.sentences() or "Regulars" in str(page.cross.take.table())
    qtbot.mouseClick(page.reading.copy, LEFT)
    assert QApplication.clipboard().text() == page.reading.sentences()
    for card, stem in ((page.faces, "faces"), (page.alike, "alike"), (page.cross, "cross")):
        take = card.take if hasattr(card, "take") else None
        table = card.take.table()
        assert table is not None
        if take is not None:
            take.save_table_to(tmp_path / f"{stem}.csv")
            take.save_to(tmp_path / f"{stem}.svg")
    settled(compared, qtbot)
    with (tmp_path / "faces.csv").open(encoding="utf-8") as file:
        rows = list(csv.reader(file))
    assert rows[0] == ["number", "label", *page.comparing.titles, "moved"]
    assert len(rows) == met.faced.pair.common + 1
    assert sum(row[4] == "yes" for row in rows[1:]) == met.crossed.agreement.moved
    svg = (tmp_path / "faces.svg").read_text(encoding="utf-8")
    assert svg.count("<path") > 10


def test_a_tree_of_fewer_cases_beside_one_of_all(compared: Window, qtbot: QtBot) -> None:
    press(compared, qtbot, "Alt+6")
    compared.focus.shelf.change("cases", keep='uses_app = "yes"')
    settled(compared, qtbot)
    assert compared.comparing.met is None
    assert "not grown yet" in compared.compare.faces.says.text()
    compared.acts.grow()
    settled(compared, qtbot)
    met, study = compared.comparing.met, compared.focus.shelf.study
    assert met is not None
    assert met.faced.pair.common == met.faced.pair.one.tree.n < met.faced.pair.other.tree.n
    lone = met.faced.pair.other.tree.n - met.faced.pair.common
    assert f"{lone:,} cases in one tree only" in compared.compare.faces.says.text()
    assert len(study.trees) == 3
    compared.focus.shelf.undo()
    settled(compared, qtbot)
    assert compared.comparing.met is not None
    assert compared.comparing.met.faced.pair.common == met.faced.pair.other.tree.n


def test_other_labels_are_told_everywhere(compared: Window, qtbot: QtBot) -> None:
    qtbot.mouseClick(compared.compare.faces.list, LEFT)
    before = compared.compare.reading.list.table().rows[0][1]
    compared.focus.shelf.change("cases", label="stop")
    settled(compared, qtbot)
    qtbot.mouseClick(compared.compare.faces.list, LEFT)
    after = compared.compare.reading.list.table().rows[0][1]
    assert after != before
    assert after in compared.focus.grown.prepared.labels


def test_from_two_plans_to_a_named_difference_by_keys(
    grown: Window, qtbot: QtBot, tmp_path: Path
) -> None:
    """Keep, change the plan, grow, compare, name a cluster, take figure and table away."""
    grown.focus.set_count(4)
    press(grown, qtbot, "Ctrl+K")
    grown.focus.shelf.change("tree", linkage="average")
    grown.focus.shelf.change("scale", method="range01")
    settled(grown, qtbot)
    press(grown, qtbot, "Ctrl+G")
    settled(grown, qtbot)
    press(grown, qtbot, "Alt+6")
    settled(grown, qtbot)
    page, met = grown.compare, grown.comparing.met
    assert met is not None
    assert [plan.tree.linkage for plan in met.faced.plans] == ["average", "ward"]
    assert "Ward’s rule; z-scores" in page.reading.sentences()
    largest = int(np.argmax(np.bincount(met.crossed.own)))
    grown.focus.name_cluster(largest + 1, "Everybody else")
    settled(grown, qtbot)
    assert "Everybody else" in str(page.cross.take.table())
    take = page.faces.take
    take.save_to(tmp_path / "difference.pdf")
    take.save_table_to(tmp_path / "difference.csv")
    settled(grown, qtbot)
    assert (tmp_path / "difference.pdf").read_bytes().startswith(b"%PDF")
    with (tmp_path / "difference.csv").open(encoding="utf-8") as file:
        rows = list(csv.reader(file))
    assert any("Everybody else" in row[2] for row in rows)


def test_other_trees_of_a_plan_stand_on_the_shelf(
    opened: Callable[[Path], Window], qtbot: QtBot, tmp_path: Path
) -> None:
    rng = np.random.default_rng(1)
    lines = ["a,b,c"] + [",".join(f"{v:.3f}" for v in rng.normal(size=3)) for _ in range(30)]
    (tmp_path / "t.csv").write_text("\n".join(lines), encoding="utf-8")
    (tmp_path / "p.toml").write_text(
        'gorvel = 1\n[source]\nfile = "t.csv"\n[variables]\nuse = ["a", "b", "c"]\n[consensus]\n'
        '[[trees]]\nname = "two alone"\nuse = ["a", "b"]\n[[trees]]\nname = "single"\n'
        'linkage = "single"\n',
        encoding="utf-8",
    )
    window = opened(tmp_path / "p.toml")
    study = window.focus.shelf.study
    assert [(entry.title, entry.kept) for entry in study.trees] == [
        ("two alone", True), ("single", True), ("", False),
    ]  # fmt: skip
    assert study.trees[0].plan.variables.use == ("a", "b")
    window.acts.grow()
    settled(window, qtbot)
    press(window, qtbot, "Alt+6")
    settled(window, qtbot)
    met = window.comparing.met
    assert met is not None
    assert met.faced.pair.common == 30
    assert window.comparing.titles[1] == "two alone"
