"""Whatever is done in whatever order, what the window says is so, and every step can be undone."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from random import Random
from typing import Any

import pytest
from hypothesis import strategies as st
from pytestqt.qtbot import QtBot

from driving import states
from gorvel.core.base.errors import GorvelError
from gorvel.core.grow.grown import analyse
from gorvel.core.plan.changing_made import with_entry, without_entry
from gorvel.core.plan.making import MakePlan
from gorvel.core.plan.plan import Plan
from gorvel.core.study.groups import grow_groups
from gorvel.core.study.opening import load_study
from gorvel.core.table.table import Table
from gorvel.desk.window.window import Window
from plans import CHANGES, table

STEPS = 50
PARTS = [(part, key) for part, keys in CHANGES.items() if part != "source" for key in keys]
GROWABLE: list[tuple[str, str, Any]] = [
    *(("tree", "linkage", key) for key in ("single", "complete", "average", "ward")),
    *(("proximity", "measure", key) for key in ("euclidean", "city-block", "squared-euclidean")),
    *(("scale", "method", key) for key in ("none", "zscore")),
    *(("cases", "split", column) for column in (None, "word", "word")),
    *(("variables", "use", names) for names in (["a", "b", "c"], ["b", "d"])),
    ("cases", "keep", None),
]


MADE: list[dict[str, Any]] = [
    {"formula": "a + b"}, {"formula": "m1 * 2"}, {"formula": "log(c)"}, {"formula": "a / (c - 2)"},
    {"mean": ["a", "m1"]}, {"sum": ["a", "b", "d"], "at_least": 1},
    {"from": "word", "order": ["x", "y", "z"]}, {"from": "word", "order": ["z", "y"]},
    {"from": "word", "separator": ";"}, {"from": "m2", "number": True, "reverse": [0, 9]},
]  # fmt: skip


class Walk:
    """Acts at random on a window, and knows what has to be so afterwards."""

    def __init__(self, window: Window, qtbot: QtBot, rng: Random, place: Path) -> None:
        self.window, self.qtbot, self.rng = window, qtbot, rng
        self.focus, self.file = window.focus, place / "walk.gorvel"
        self.done: list[str] = []

    @property
    def plan(self) -> Plan:
        assert self.focus.shelf.plan is not None
        return self.focus.shelf.plan

    def settle(self) -> None:
        """Until nothing is under way, the short waits of the actions included."""
        acts = self.window.acts
        timers = (acts._settle, acts._shown)
        self.qtbot.waitUntil(
            lambda: acts.jobs.idle and not any(timer.isActive() for timer in timers)
        )

    # what can be done

    def change(self) -> None:
        part, key = self.rng.choice(PARTS)
        value = self.drawn(CHANGES[part][key])
        before = self.plan
        why = self.focus.shelf.attempt(lambda plan: plan.with_(part, **{key: value}))
        assert (self.plan == before) or not why
        if self.plan != before:
            assert self.focus.shelf.to_undo

    def another_tree(self) -> None:
        """Something that as a rule can be grown."""
        part, key, value = self.rng.choice(GROWABLE)
        self.focus.shelf.change(part, **{key: value})
        self.grow()

    def make(self) -> None:
        """A variable of others, new, in the place of another, or called otherwise."""
        old = self.rng.choice([None, *self.plan.make])
        entry = dict(self.rng.choice(MADE), name=self.rng.choice(["m1", "m2", "a"]))
        new = MakePlan.model_validate(entry)
        if old is not None and self.rng.random() < 0.4:
            new = old.model_copy(update={"name": new.name})
        before = self.plan
        why = self.focus.shelf.attempt(lambda plan: with_entry(plan, old, new))
        assert not why or self.plan == before

    def unmake(self) -> None:
        if self.plan.make:
            make, before = self.rng.choice(self.plan.make), self.plan
            why = self.focus.shelf.attempt(lambda plan: without_entry(plan, make))
            assert (make in self.plan.make) is bool(why), self.done
            assert not why or self.plan == before

    def turn_answers(self) -> None:
        """Some of the proposals, and back."""
        turning = self.window.turning
        self.window.turn_answers()
        self.settle()
        for place, _ in enumerate(turning.proposals):
            turning.take(place, self.rng.random() < 0.5)
        self.settle()
        if self.window.cases.turn.go.isEnabled() and self.rng.random() < 0.5:
            self.window.cases.turn._make()
        self.window.cases.show_turning(False)

    def drawn(self, strategy: st.SearchStrategy[Any]) -> Any:
        """A value of a strategy, by our own seed."""
        values = _EXAMPLES.setdefault(id(strategy), _examples(strategy))
        return self.rng.choice(values)

    def grow(self) -> None:
        self.window.acts.grow()
        self.settle()

    def cut(self) -> None:
        self.focus.set_count(self.rng.randint(1, 9))
        if self.focus.cut is not None and self.rng.random() < 0.3:
            self.focus.split_cluster(self.rng.randint(1, self.focus.cut.clusters))

    def keep(self) -> None:
        self.window.keep_tree()

    def keep_the_one_before(self) -> None:
        self.focus.keep_displaced()

    def take(self) -> None:
        assert self.focus.shelf.study is not None
        self.focus.shelf.take(self.rng.choice(self.focus.shelf.study.trees).id)
        self.settle()

    def remove(self) -> None:
        assert self.focus.shelf.study is not None
        self.focus.shelf.remove(self.rng.choice(self.focus.shelf.study.trees).id)

    def call_and_move(self) -> None:
        assert self.focus.shelf.study is not None
        number = self.rng.choice(self.focus.shelf.study.trees).id
        self.focus.shelf.call(number, self.rng.choice(["", "one", "another"]))
        self.focus.shelf.move(number, self.rng.choice([-1, 1]))

    def turn(self) -> None:
        if self.focus.groups:
            self.focus.turn_to(self.rng.choice(self.focus.groups))
            self.settle()

    def back_and_forth(self) -> None:
        """A step back and the same again is no step at all."""
        study = self.focus.shelf.study
        if self.focus.shelf.to_undo:
            words = self.focus.shelf.to_undo
            self.focus.shelf.undo()
            self.settle()
            assert self.focus.shelf.to_redo == words
            self.focus.shelf.redo()
            self.settle()
            assert self.focus.shelf.study is study

    def back(self) -> None:
        self.focus.shelf.undo()
        self.settle()

    def page(self) -> None:
        self.window.go_to(self.rng.randint(0, 3))

    def looks(self) -> None:
        self.window.other_theme()

    def save_and_open(self) -> None:
        """What was saved is what is there when it is opened."""
        assert self.window.acts.files.save_study(self.file)
        assert self.window.acts.files.written()
        assert not self.focus.shelf.study_unsaved
        before, cut = self.plan, self.focus.cut
        trees = [(e.id, e.title, e.kept) for e in self.focus.shelf.study.trees]  # type: ignore[union-attr]
        with self.qtbot.waitSignal(self.window.acts.opened):
            self.window.acts.open(self.file)
        self.settle()
        assert self.plan.understood() == before.understood()
        assert [(e.id, e.title, e.kept) for e in self.focus.shelf.study.trees] == trees  # type: ignore[union-attr]
        if cut is not None and self.focus.cut is not None and not self.focus.out_of_date:
            assert self.focus.cut.clusters == cut.clusters

    # what has to be so

    def check(self) -> None:
        focus = self.focus
        study, grown = focus.shelf.study, focus.grown
        assert study is not None
        assert sum(not entry.kept for entry in study.trees) <= 1
        if grown is None:
            assert focus.cut is None
            return
        assert focus.cut is not None
        assert 1 <= focus.cut.clusters <= grown.tree.n
        assert len(focus.identities) == focus.cut.clusters
        assert focus.grown_by is not None
        by = focus.grown_by.growth(focus.grown_group)
        assert grown.key == by
        stale = by != self.plan.growth(focus.shelf.group_in_force)
        assert focus.out_of_date is stale
        assert ("out of date" in states(self.window)["Tree"]) is stale
        self.check_tree()
        content = focus.content()
        assert content is not None
        for (number, _), kept in content.kept.items():
            entry = study.tree(number)
            if entry.kept and number != study.in_hand:
                assert kept.grows_as(entry.plan)

    def check_tree(self) -> None:
        """The tree on the screen is the one its plan grows, whatever way it came there."""
        source, grown = self.focus.shelf.study.source, self.focus.grown  # type: ignore[union-attr]
        plan = self.focus.grown_by
        assert isinstance(source, Table)
        assert grown is not None
        assert plan is not None
        try:
            if self.focus.grown_group is None:
                fresh = analyse(source, plan).tree
            else:
                group = self.focus.grown_group
                fresh = grow_groups(source, plan, group).kept[group].tree
        except GorvelError as error:  # pragma: no cover - it was grown before
            raise AssertionError(self.done) from error
        assert fresh.heights.tolist() == grown.tree.heights.tolist(), self.done


_EXAMPLES: dict[int, list[Any]] = {}


def _examples(strategy: st.SearchStrategy[Any]) -> list[Any]:
    """Some values of a strategy, always the same."""
    from hypothesis import HealthCheck, given, seed, settings

    found: list[Any] = []

    @seed(7)
    @settings(max_examples=25, database=None, suppress_health_check=list(HealthCheck))
    @given(strategy)
    def collect(value: Any) -> None:
        found.append(value)

    collect()
    return found


@pytest.mark.slow
@pytest.mark.parametrize("seed", range(3))
def test_anything_in_any_order(window: Window, qtbot: QtBot, tmp_path: Path, seed: int) -> None:
    data = tmp_path / "t.csv"
    table(seed).frame.write_csv(data)
    with qtbot.waitSignal(window.acts.opened):
        window.acts.open(data)
    walk = Walk(window, qtbot, Random(seed), tmp_path)
    walk.focus.shelf.change_by(
        lambda plan: plan.with_parts(
            {"variables": {"use": ["a", "b", "c"]}, "missing": {"handling": "mean"}}
        )
    )
    walk.grow()
    acts: list[tuple[Callable[[], None], int]] = [
        (walk.change, 5), (walk.another_tree, 9), (walk.grow, 3), (walk.cut, 4), (walk.keep, 3),
        (walk.take, 4),
        (walk.keep_the_one_before, 2), (walk.remove, 1), (walk.call_and_move, 1), (walk.turn, 3),
        (walk.back_and_forth, 3), (walk.back, 3), (walk.page, 2), (walk.looks, 1),
        (walk.save_and_open, 2), (walk.make, 6), (walk.unmake, 2), (walk.turn_answers, 2),
    ]  # fmt: skip
    each, weights = zip(*acts, strict=True)
    for _ in range(STEPS):
        act = walk.rng.choices(each, weights)[0]
        walk.done.append(act.__name__)
        act()
        walk.settle()
        walk.check()
    if walk.file.exists():
        assert load_study(walk.file).study.source.n == 9
