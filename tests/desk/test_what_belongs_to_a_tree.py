"""Whatever is done in whatever order, a tree has what was given to it, and nothing of another's."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from pathlib import Path
from random import Random
from threading import Event
from typing import Any

import numpy as np
import pytest
from PySide6.QtWidgets import QApplication
from pytestqt.qtbot import QtBot

from driving import LEFT, settled, states
from gorvel.core.count.resampling.null_model import NullModel
from gorvel.core.grow.grown import analyse
from gorvel.core.plan.file import parse_plan
from gorvel.core.plan.kinds import TOLD_OF_CLUSTERS
from gorvel.core.plan.plan import Plan
from gorvel.core.scene.arrangement import laid_out
from gorvel.core.study.file import StudyFile, save_study
from gorvel.core.study.kept import KeptTree
from gorvel.core.study.opening import load_study, rescue_study
from gorvel.core.study.reading import shown_again
from gorvel.core.study.study import study_of
from gorvel.desk.state.focus import Focus
from gorvel.desk.views.layout import Layout
from gorvel.desk.window.window import Window
from gorvel.main import DEMO
from plans import LEAST, table

STEPS = 500  # of each walk
Given = dict[Any, Any]  # what was decided about a tree, its title and note


def silent(phase: object, share: float) -> None:
    """Nobody asks how far it is."""


def given(plan: Plan, title: str, note: str) -> Given:
    out: Given = dict(plan.decided)
    return out | {key: said for key, said in (("title", title), ("note", note)) if said}


class Walk:
    """A study without a window. seen : by id, what each tree has, with the plan it belongs to."""

    def __init__(self, rng: Random, place: Path) -> None:
        self.rng, self.file = rng, place / "walk.gorvel"
        self.focus = Focus()
        self.layout = Layout(self.focus)
        self.shelf = self.focus.shelf
        self.shelf.tree_wanted.connect(self.show_wanted)
        self.number = 0
        plan = parse_plan(LEAST, "p.toml").with_("missing", handling="mean").using(["a", "b", "c"])
        self.focus.open(StudyFile(study_of(table(rng.randint(0, 99)), Path("t.csv"), plan)))
        self.done: list[str] = []

    @property
    def plan(self) -> Plan:
        assert self.shelf.plan is not None
        return self.shelf.plan

    def show_wanted(self) -> None:
        study = self.shelf.study
        assert study is not None
        kept = self.shelf.kept.get((study.in_hand, None))
        if kept is not None:
            shown = shown_again(study.read, study.in_hand, kept, silent)
            self.focus.show_kept(shown.grown, shown.arrangement, shown.number, shown.kept)

    def fresh(self, what: str) -> str:
        """Words that were never said before."""
        self.number += 1
        return f"{what} {self.number}"

    # what is seen

    def trees(self) -> dict[int, tuple[Plan, Given]]:
        """What the study says of each of its trees."""
        study = self.shelf.study
        assert study is not None
        return {e.id: (e.plan, given(e.plan, e.title, e.note)) for e in study.trees}

    def grown(self) -> dict[int, tuple[Plan, Given, Any]]:
        """What is kept of each tree that was grown: what belongs to it, how it is cut and shown."""
        self.focus.remember()
        return {
            number: (kept.plan, given(kept.plan, kept.title, kept.note), seen_of(kept))
            for (number, _), kept in self.shelf.kept.items()
            if self.shelf.study is not None and self.shelf.study.has(number)
        }

    # what can be done; each says which trees of the study may be other than before

    def grow(self) -> set[int]:
        study, plan = self.shelf.study, self.plan
        assert study is not None
        before, here = self.grown().get(study.in_hand), self.focus.grown_as
        grown = analyse(study.source, plan)
        self.focus.set_grown(plan, grown, laid_out(grown.tree, grown.flipped))
        if before is None or here is None or here.id != study.in_hand:
            return {study.in_hand}
        if before[0].grows_as(plan):  # the same tree: all stays
            assert self.grown()[study.in_hand] == before
            return set()
        if not study.entry.kept:  # it was replaced, and can still be kept with all that it had
            (left,) = self.focus.displaced
            assert given(left.plan, left.title, left.note) == before[1]
            assert seen_of(left) == before[2]
        return {study.in_hand}

    def change(self) -> set[int]:
        part, key, value = self.rng.choice(
            [("tree", "linkage", "single"), ("tree", "linkage", "average"),
             ("tree", "linkage", "ward"), ("scale", "method", "zscore"),
             ("scale", "method", "none"), ("variables", "use", ["a", "c"]),
             ("variables", "use", ["a", "b", "c"])]
        )  # fmt: skip
        study, before = self.shelf.study, self.focus.grown_as
        assert study is not None
        entry = study.entry
        self.shelf.change(part, **{key: value})
        if before is not None:
            now = self.focus.grown_as
            assert now is not None
            assert given(now.plan, now.title, now.note) == given(
                before.plan, before.title, before.note
            )
        after = self.shelf.study
        assert after is not None
        if not after.plan.grows_as(entry.plan):  # nothing goes over to another tree
            assert not self.trees()[after.in_hand][1]
        return {after.in_hand}

    def name(self) -> set[int]:
        focus = self.focus
        if focus.cut is None:
            return set()
        key = self.rng.choice(TOLD_OF_CLUSTERS)
        words = self.fresh(key) if key != "colours" else f"#{self.rng.randrange(16**6):06x}"
        cluster, stale = self.rng.randint(1, focus.cut.clusters), focus.out_of_date
        focus.tell_of_cluster(key, cluster, words)
        assert (focus.told_of_cluster(key, cluster) == words) is not stale
        return {focus.grown_id}

    def choose(self) -> set[int]:
        if self.focus.cut is None or self.focus.out_of_date:
            return set()
        self.shelf.change("count", chosen=self.focus.cut.clusters, reasons=self.fresh("since"))
        return {self.focus.grown_id}

    def cut(self) -> set[int]:
        self.focus.set_count(self.rng.randint(2, 6))
        if self.focus.cut is not None and self.rng.random() < 0.4:
            self.focus.split_cluster(self.rng.randint(1, self.focus.cut.clusters))
        if self.rng.random() < 0.3:
            self.focus.letter_anew()
        return set()

    def look(self) -> set[int]:
        axis, grown = self.layout.axis, self.focus.grown
        if grown is not None:
            self.rng.choice(
                [lambda: axis.rotate(self.rng.randrange(grown.tree.joins)),
                 lambda: axis.fold(grown.tree.n + self.rng.randrange(grown.tree.joins - 1)),
                 lambda: axis.sort_by("a")]
            )()  # fmt: skip
        return set()

    def keep(self) -> set[int]:
        study = self.shelf.study
        assert study is not None
        here = self.focus.grown_as
        if here is None or not self.focus.out_of_date:
            self.shelf.keep()
        else:  # as the window does: the one that is shown, not the one that is planned
            kept = self.focus.kept_now
            assert kept is not None
            if not study.entry.kept:
                self.shelf.keep([kept])
        return set()

    def keep_displaced(self) -> set[int]:
        left, before = self.focus.displaced, self.trees()
        self.focus.keep_displaced()
        new = set(self.trees()) - set(before)
        for number in new:
            assert self.trees()[number][1] == given(left[0].plan, left[0].title, left[0].note)
            assert seen_of(self.shelf.kept[number, None]) == seen_of(left[0])
        return new

    def take(self) -> set[int]:
        study = self.shelf.study
        assert study is not None
        number = self.rng.choice(study.trees).id
        before = self.grown().get(number)
        self.shelf.take(number)
        if before is not None:
            assert self.grown()[number] == before
            assert self.focus.grown_id == number
        return set()

    def call(self) -> set[int]:
        study = self.shelf.study
        assert study is not None
        number = self.rng.choice(study.trees).id
        self.shelf.call(number, self.fresh("title"), self.fresh("note"))
        return {number}

    def remove(self) -> set[int]:
        study = self.shelf.study
        assert study is not None
        number = self.rng.choice(study.trees).id
        self.shelf.remove(number)
        return {number} - set(self.trees())

    def undo(self) -> set[int]:
        before = self.shelf.study
        if self.shelf.to_undo:
            self.shelf.undo()
            if self.rng.random() < 0.5:
                self.shelf.redo()
                assert self.shelf.study is before
                return set()
        return set(self.trees())

    def save_and_open(self) -> set[int]:
        content = self.focus.content()
        assert content is not None
        trees, grown = self.trees(), self.grown()
        save_study(content, self.file)
        read = self.rng.choice([load_study, rescue_study])(self.file)
        self.focus.open(read, self.file)
        self.show_wanted()
        assert {n: (p.understood(), g) for n, (p, g) in self.trees().items()} == {
            n: (p.understood(), g) for n, (p, g) in trees.items()
        }
        assert {n: (g, seen) for n, (_, g, seen) in self.grown().items()} == {
            n: (g, seen) for n, (_, g, seen) in grown.items()
        }
        return set(trees)

    # what has to be so

    def check(self, before: dict[int, tuple[Plan, Given]], touched: set[int]) -> None:
        now = self.trees()
        for number, (plan, has) in before.items():
            if number in touched or number not in now:
                continue
            assert now[number][1] == has, (self.done[-9:], number)
            assert now[number][0].grows_as(plan)
        for number, (plan, has, _) in self.grown().items():
            planned, told = now.get(number, (None, {}))
            if planned is not None and plan.grows_as(planned):  # else removed, or undone
                assert has == told, (self.done[-9:], number)
        focus = self.focus
        if focus.grown is not None and not focus.out_of_date:
            wanted = {key: said for key in TOLD_OF_CLUSTERS if (said := focus.told_of.get(key))}
            assert wanted == focus._planned_titles


def seen_of(kept: KeptTree) -> Any:
    """How a tree is cut and shown."""
    looked, turned = kept.looked, kept.looked.flipped
    flipped = () if turned is None else tuple(np.flatnonzero(turned).tolist())
    cut = kept.cut and (kept.cut.cut(kept.tree).roots.tolist(),
                        kept.cut.lettered_cut(kept.tree).roots.tolist())  # fmt: skip
    return cut, flipped, looked.folded, looked.sorted_by


@pytest.mark.slow
@pytest.mark.parametrize("seed", range(4))
def test_in_any_order(qapp: QApplication, tmp_path: Path, seed: int) -> None:
    walk = Walk(Random(seed), tmp_path)
    acts = [
        (walk.grow, 6), (walk.change, 5), (walk.name, 6), (walk.choose, 3), (walk.cut, 3),
        (walk.look, 2), (walk.keep, 2), (walk.keep_displaced, 3), (walk.take, 3), (walk.call, 2),
        (walk.remove, 1), (walk.undo, 3), (walk.save_and_open, 1),
    ]  # fmt: skip
    each, weights = zip(*acts, strict=True)
    for _ in range(STEPS):
        before = walk.trees()
        act = walk.rng.choices(each, weights)[0]
        walk.done.append(act.__name__)
        walk.check(before, act())


def test_a_plan_for_another_tree_decides_nothing() -> None:
    plan = parse_plan(LEAST, "p.toml").with_parts(
        {
            "cut": {"names": {"2": ["x", "y"]}, "counts": [2, 3],
                    "branches": [{"clusters": 2, "split": [3]}]},
            "count": {"chosen": 2, "reasons": "so", "resamples": 7},
        }
    )  # fmt: skip
    assert len(plan.decided) == 4
    other = plan.without_decisions()
    assert not other.decided
    assert other.cut.counts == (2, 3)
    assert other.counting.resamples == 7
    again = plan.with_("count", reasons="other")
    assert again.without_decisions(plan).decided == {("count", "reasons"): "other"}
    study = study_of(table(1), Path("t.csv"), plan)
    entry = replace(study.entry, title="T", note="N")
    changed = study.with_entry(entry).planned(plan.with_("tree", linkage="single"))
    assert (changed.entry.title, changed.entry.note) == ("", "")
    assert not changed.plan.decided


@pytest.mark.slow
def test_a_tree_that_was_replaced_is_kept_with_all_that_it_had(
    counted: Window, qtbot: QtBot, tmp_path: Path
) -> None:
    """Its plan is changed and grown, and then it is put on the shelf; so the file has it, too."""
    window, focus = counted, counted.focus
    for cluster, name in enumerate(("Browsers", "Regulars"), 1):
        focus.name_cluster(cluster, name)
    choice = window.count.choice
    choice.reasons.setPlainText("Four can be told apart at the desk.")
    qtbot.mouseClick(choice.take, LEFT)
    focus.shelf.call(focus.grown_id, "The first", "Shown to the librarians")
    choice.reasons.setPlainText("A thought about Ward’s tree")
    named = focus.shelf.plan.cut.names  # type: ignore[union-attr]
    focus.shelf.change("tree", linkage="average")
    plan = focus.shelf.plan
    assert plan is not None
    assert not plan.decided
    assert not choice.take.isEnabled()  # the tree that is shown is not the one that is planned
    with qtbot.waitSignal(focus.tree_changed):
        window.acts.grow()
    settled(window, qtbot)
    assert choice.reasons.toPlainText() == ""
    assert "chosen" not in states(window)["Count"]
    focus.keep_displaced()
    assert window.acts.files.save_study(tmp_path / "s.gorvel")
    assert window.acts.files.written()
    study = load_study(tmp_path / "s.gorvel").study
    one, other = study.trees
    assert (one.title, one.note) == ("The first", "Shown to the librarians")
    assert one.plan.cut.names == named
    assert one.plan.counting.chosen == 4
    assert one.plan.counting.reasons == "Four can be told apart at the desk."
    assert other.plan.counting.chosen is None
    assert other.plan.counting.reasons == ""
    focus.shelf.take(one.id)
    settled(window, qtbot)
    assert [who.title for who in focus.identities][:2] == ["Browsers", "Regulars"]
    assert choice.reasons.toPlainText() == "A thought about Ward’s tree"  # typed, not chosen yet


@pytest.mark.slow
def test_a_draft_says_what_is_known_in_the_end(
    opened: Callable[[Path], Window], qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Before enough data sets are drawn, the verdict says how many; a draft follows the rest."""
    held = Event()
    draw, so_far = NullModel.draw, iter(range(10_000))

    def drawn(self: NullModel, random: np.random.Generator) -> Any:
        if next(so_far) >= 5:
            held.wait(60)
        return draw(self, random)

    monkeypatch.setattr(NullModel, "draw", drawn)
    window = opened(DEMO / "readers.toml")  # which draws more than a verdict needs
    with qtbot.waitSignal(window.focus.tree_changed):
        window.acts.grow()
    window.go_to(3)
    try:
        qtbot.waitUntil(lambda: window.counting.at_work("groups"))
        qtbot.waitUntil(lambda: window.counting.board is not None)
        bar, choice = window.count.verdict, window.count.choice
        qtbot.waitUntil(lambda: "data sets without groups simulated" in bar.words.text())
        assert bar.copy.isHidden()
        assert not choice.draft.isEnabled()
        assert "evidence" not in bar.words.text()
    finally:
        held.set()
    qtbot.waitUntil(lambda: choice.draft.isEnabled())
    choice.draft_it()
    qtbot.waitUntil(lambda: not window.counting.at_work("groups"))
    QApplication.processEvents()
    assert "of 100 " in choice.reasons.toPlainText()
    assert not bar.copy.isHidden()
