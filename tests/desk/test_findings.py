"""What is known of the tree in hand is about that tree and its cut, whatever was shown before."""

from __future__ import annotations

from pytestqt.qtbot import QtBot

from gorvel.desk.window.window import Window

PROFILES, TREE = 4, 2
MAP, COMPONENTS, SHORT_FORM = 2, 3, 6


def at_rest(window: Window, qtbot: QtBot) -> None:
    qtbot.waitUntil(lambda: not any(
        one.job for one in (window.profiling.portraits, window.profiling.form,
                            window.profiling.components)
    ))  # fmt: skip


def test_nothing_of_another_cut_is_handed_over(grown: Window, qtbot: QtBot) -> None:
    grown.focus.set_count(4)
    grown.go_to(PROFILES)
    grown.profiles.show_tab(SHORT_FORM)
    qtbot.waitUntil(lambda: grown.profiling.short_form is not None)
    grown.profiles.show_tab(COMPONENTS)
    qtbot.waitUntil(lambda: grown.profiling.components.found is not None)
    grown.profiles.show_tab(0)
    at_rest(grown, qtbot)
    before = grown.acts.findings()
    assert before is not None
    assert before.profiles is not None
    assert len(before.profiles.lanes[0].values) == 4
    assert before.forms is not None
    assert before.components is not None
    grown.focus.set_count(3)
    qtbot.waitUntil(lambda: grown.profiling.portrayed is not None)
    grown.focus.set_count(4)  # as many clusters as before, of the same tree: as it was
    qtbot.waitUntil(lambda: grown.profiling.portrayed is not None)
    grown.go_to(TREE)
    grown.focus.set_count(6)
    other = grown.acts.findings()
    assert other is not None
    assert other.cut.clusters == 6
    assert other.profiles is None or len(other.profiles.lanes[0].values) == 6
    assert other.forms is None
    assert other.form is None


def test_nothing_of_another_tree_is_handed_over(grown: Window, qtbot: QtBot) -> None:
    grown.focus.set_count(4)
    grown.go_to(PROFILES)
    for tab in (SHORT_FORM, COMPONENTS, 0):
        grown.profiles.show_tab(tab)
        at_rest(grown, qtbot)
    qtbot.waitUntil(lambda: grown.profiling.short_form is not None)
    assert grown.focus.grown is not None
    tree, form = grown.focus.grown.tree, grown.profiling.form.found
    grown.focus.shelf.change("tree", linkage="complete")
    with qtbot.waitSignal(grown.focus.tree_changed):
        grown.acts.grow()
    qtbot.waitUntil(lambda: grown.focus.grown.tree is not tree)
    grown.focus.set_count(4)
    qtbot.waitUntil(lambda: grown.profiling.portrayed is not None)
    at_rest(grown, qtbot)
    found = grown.acts.findings()
    assert found is not None
    assert found.forms is not form
    assert found.components is None
    assert found.profiles is not None
    assert found.portrayed is not None
    assert found.profiles.lanes[0].values.tolist() == next(
        lane.values.tolist() for lane in found.portrayed.lanes
        if lane.title == found.profiles.lanes[0].title
    )  # fmt: skip
