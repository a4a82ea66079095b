"""A study of many trees: what is kept stays, each step can be taken back, one file holds it all."""

from __future__ import annotations

import zipfile
from collections.abc import Callable
from itertools import pairwise
from pathlib import Path

import numpy as np
import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st
from hypothesis.stateful import RuleBasedStateMachine, invariant, precondition, rule

from effort import examples
from gorvel.core.base.errors import GorvelError, InputError
from gorvel.core.count.checks import CHECKS, Checks
from gorvel.core.count.resampling.resampled_rules import resampled
from gorvel.core.grow.grown import analyse
from gorvel.core.linkage.rules import LINKAGES
from gorvel.core.plan.file import parse_plan
from gorvel.core.plan.growth import columns_looked_at
from gorvel.core.plan.plan import Plan
from gorvel.core.proximity.measures import MEASURES
from gorvel.core.study.file import StudyFile, save_study
from gorvel.core.study.history import History
from gorvel.core.study.kept import Drawn, KeptCut, KeptTree, Looked, grown_again
from gorvel.core.study.opening import holds_study, load_study, picture_of, rescue_study
from gorvel.core.study.study import Study, TreeEntry, study_of
from gorvel.core.table.table import Table
from gorvel.core.tree.cophenetic import Faithful, cophenetic_correlation
from gorvel.core.tree.cuts import cut_at_count, cut_at_height, cut_branches
from gorvel.core.words.differences import differences
from plans import LEAST, NAMES, change, table

PLAN = parse_plan(LEAST, "p.toml")


def said_alike(one: Plan, other: Plan) -> None:
    """What is said of columns is the same in two plans of a study, but for what makes the trees."""
    assert (one.cases.label, one.cases.groups) == (other.cases.label, other.cases.groups)
    assert one.variables.labels == other.variables.labels
    assert one.variables.values == other.variables.values
    for column in {*NAMES} - columns_looked_at(one) - columns_looked_at(other):
        assert one.variables.level(column) == other.variables.level(column)
        assert one.variables.missing.get(column) == other.variables.missing.get(column)
        assert (column in one.variables.profile) == (column in other.variables.profile)


class Shelf(RuleBasedStateMachine):
    """Plans change, trees are kept, taken, called, moved, removed; a step back is a step back."""

    def __init__(self) -> None:
        super().__init__()
        self.history = History(study_of(table(1), Path("t.csv"), PLAN))
        self.before = [self.history.now]  # all states in turn, as they were
        self.place, self.ids = 0, {1}

    @property
    def study(self) -> Study:
        return self.history.now

    def go(self, study: Study, words: str) -> None:
        self.history.step(study, words)
        self.before = [*self.before[: self.place + 1], study]
        self.place += 1

    @rule(changed=change)
    def plan_changes(self, changed: tuple[str, str, object]) -> None:
        part, key, value = changed
        try:
            plan = self.study.plan.with_(part, **{key: value})
        except InputError:
            return
        new_id = max(self.ids) + 1
        was = self.study
        study = was.planned(plan, new_id)
        assert study.plan == plan or study.plan.grows_as(plan)
        for entry in study.trees:
            old = was.tree(entry.id).plan if was.has(entry.id) else plan
            assert entry.id == study.in_hand or entry.plan.grows_as(old)
            said_alike(entry.plan, plan)
        begins = was.entry.kept and not plan.grows_as(was.plan)
        assert (study.in_hand == new_id) is begins
        self.ids |= {new_id} if begins else set()
        self.go(study, "plan")

    @rule()
    def keep(self) -> None:
        study = self.study.keep()
        assert study.entry.kept
        self.go(study, "keep")

    @rule(changed=change)
    def keep_the_tree_before(self, changed: tuple[str, str, object]) -> None:
        part, key, value = changed
        try:
            other = self.study.plan.with_(part, **{key: value})
        except InputError:
            return
        new_id, was = max(self.ids) + 1, self.study
        study = was.keep(TreeEntry(0, other), new_id)
        assert study.in_hand == was.in_hand
        if not other.grows_as(was.plan):
            assert study.tree(new_id).plan == other
            assert study.tree(new_id).kept
            self.ids.add(new_id)
        self.go(study, "keep the one before")

    @rule(data=st.data())
    def take(self, data: st.DataObject) -> None:
        number = data.draw(st.sampled_from([entry.id for entry in self.study.trees]))
        study = self.study.take(number)
        assert study.in_hand == number
        assert study.trees == self.study.trees
        self.go(study, "take")

    @rule(data=st.data())
    def remove(self, data: st.DataObject) -> None:
        number = data.draw(st.sampled_from([entry.id for entry in self.study.trees]))
        study = self.study.without(number)
        assert study.in_hand == self.study.in_hand
        assert study.has(number) is (number == study.in_hand)
        assert all(entry.id != number for entry in study.kept)
        self.go(study, "remove")

    @rule(data=st.data(), title=st.text(max_size=5), place=st.integers(-2, 9))
    def call_and_move(self, data: st.DataObject, title: str, place: int) -> None:
        number = data.draw(st.sampled_from([entry.id for entry in self.study.trees]))
        study = self.study.called(number, title, "note").moved(number, place)
        assert study.tree(number).title == title.strip()
        assert sorted(e.id for e in study.trees) == sorted(e.id for e in self.study.trees)
        self.go(study, "call")

    @precondition(lambda self: self.place > 0)
    @rule()
    def undo(self) -> None:
        assert self.history.undo()
        self.place -= 1

    @precondition(lambda self: self.place + 1 < len(self.before))
    @rule()
    def redo(self) -> None:
        assert self.history.redo()
        self.place += 1

    @invariant()
    def a_step_back_is_the_study_before(self) -> None:
        assert self.study is self.before[self.place]
        assert bool(self.history.to_undo) is (self.place > 0)
        assert bool(self.history.to_redo) is (self.place + 1 < len(self.before))

    @invariant()
    def one_tree_is_in_hand_and_at_most_one_is_begun(self) -> None:
        ids = [entry.id for entry in self.study.trees]
        assert len(set(ids)) == len(ids)
        assert self.study.entry.id == self.study.in_hand
        assert sum(not entry.kept for entry in self.study.trees) <= 1

    @invariant()
    def what_is_kept_grows_what_it_grew(self) -> None:
        for one, next_one in pairwise(self.before):
            grew = {entry.id: entry.plan for entry in one.kept}
            for entry in next_one.kept:
                assert entry.plan.grows_as(grew.get(entry.id, entry.plan))


Shelf.TestCase.settings = settings(max_examples=examples(40), stateful_step_count=15)
TestShelf = Shelf.TestCase


def test_a_split_of_a_kept_tree_begins_another() -> None:
    kept = study_of(table(1), Path("t.csv"), PLAN).keep()
    column = PLAN.variables.use[0]
    split = kept.planned(kept.plan.with_("cases", split=column))
    assert [entry.plan.cases.split for entry in split.trees] == [None, column]
    assert split.entry.plan.cases.split == column
    assert differences(kept.plan, split.plan) == [f"split by {column}"]
    assert not split.keep(kept.entry).entry.kept


def test_wordings_reach_all_trees_and_a_tree_that_is_not_there_is_refused() -> None:
    study = study_of(table(1), Path("t.csv"), PLAN).keep()
    other = study.planned(PLAN.with_("tree", linkage="single"))
    worded = other.planned(other.plan.with_("variables", labels={"a": "How often?"}))
    assert [entry.plan.variables.labels for entry in worded.trees] == [{"a": "How often?"}] * 2
    assert worded.tree(1).plan.tree.linkage == "ward"
    for act in (worded.take, worded.without, worded.tree):
        with pytest.raises(KeyError):
            act(9)


def same(one: object, other: object) -> bool:
    """Are two values exactly equal, whatever they are made of?"""
    if isinstance(one, np.ndarray):
        assert isinstance(other, np.ndarray)
        return one.dtype == other.dtype and np.array_equal(one, other, equal_nan=one.dtype == float)
    if hasattr(one, "__dataclass_fields__"):
        return type(one) is type(other) and same(vars(one), vars(other))
    if isinstance(one, dict):
        assert isinstance(other, dict)
        names = [name for name in one if not name.startswith("_") and name in other]
        return all(same(one[name], other[name]) for name in names) and bool(names or not other)
    if isinstance(one, tuple | list):
        return len(one) == len(other) and all(map(same, one, other))  # type: ignore[arg-type]
    return one == other


COUNT = {
    "count": {
        "to": 4, "resamples": 3, "groups_by": ["dunn", "density"],
        "checks": ["structure", "splits", "support", "orders"],
    }
}  # fmt: skip


def found_tree(source: Table, plan: Plan, rng: np.random.Generator) -> KeptTree:
    """A grown tree with everything that can be known of it, some of it at random."""
    grown = analyse(source, plan)
    tree, n = grown.tree, grown.tree.n
    checks = Checks()
    for check in CHECKS.values():
        for part, value in check(grown, plan.counting, lambda phase, share: None).items():
            setattr(checks, part, value)
    k = int(rng.integers(1, n + 1))
    split = [j for j in range(tree.joins) if j < n - k and rng.random() < 0.3]
    cut = cut_branches(tree, k, split) if split else cut_at_count(tree, k)
    return KeptTree.of(
        plan, grown,
        cut=KeptCut.of(cut, None, cut_at_count(tree, int(rng.integers(1, n + 1)))),
        faithful=Faithful(cophenetic_correlation(tree, grown.pairs)),
        drawn=Drawn(plan.counting, tuple(resampled(grown, plan.counting))), checks=checks,
        checked=dict.fromkeys(CHECKS, plan.counting),
        looked=Looked(rng.random(tree.joins) < 0.5, frozenset({n}), "a", "root", frozenset({0, 3})),
    )  # fmt: skip


@pytest.mark.slow
@settings(max_examples=16)
@given(st.integers(0, 10**6), st.sampled_from(sorted(LINKAGES)), st.lists(change, max_size=3))
def test_a_study_reads_back_from_its_file_as_it_was(
    tmp_path_factory: pytest.TempPathFactory, seed: int, linkage: str, changes: list
) -> None:
    source, rng = table(seed), np.random.default_rng(seed)
    plan = PLAN.with_parts(COUNT | {"tree": {"linkage": linkage}, "missing": {"handling": "mean"}})
    for part, key, value in changes:
        if part in ("cases", "variables", "source") and key not in ("split", "use"):
            try:
                plan = plan.with_(part, **{key: value})
                analyse(source, plan)
            except GorvelError:
                assume(False)
    assume(analyse(source, plan).tree.n > 4)
    kept = found_tree(source, plan, rng)
    study = study_of(source, Path("/no/t.csv"), plan).called(1, "first", "a note")
    study = study.keep().planned(plan.using([]), 7)  # still to be completed
    folder = tmp_path_factory.mktemp("s")
    content = StudyFile(study, {(1, None): kept}, None, b"a picture")
    save_study(content, folder / "s.gorvel")
    again = load_study(folder / "s.gorvel")
    assert again.study.trees == study.trees
    assert (again.study.in_hand, again.study.data_file) == (7, Path("/no/t.csv"))
    assert again.picture == picture_of(folder / "s.gorvel") == b"a picture"
    assert isinstance(again.study.source, Table)
    assert again.study.source.frame.equals(source.frame)
    assert again.study.source.reading == source.reading
    back = again.kept[1, None]
    assert same(kept, back)
    assert back.plan.understood() == plan.understood()
    save_study(again, folder / "t.gorvel")
    assert (folder / "t.gorvel").read_bytes() == (folder / "s.gorvel").read_bytes()


@settings(max_examples=examples(60))
@given(st.integers(0, 10**6), st.sampled_from(sorted(MEASURES)), st.sampled_from(sorted(LINKAGES)))
def test_a_kept_tree_is_whole_again_without_growing(seed: int, measure: str, linkage: str) -> None:
    source = table(seed)
    use = ["yes"] if MEASURES[measure].kind == "binary" else ["a", "b", "d"]
    try:
        plan = PLAN.with_parts(
            {
                "variables": {"use": use}, "proximity": {"measure": measure},
                "tree": {"linkage": linkage}, "missing": {"handling": "median"},
                "cases": {"weight": "d", "label": "word"},
            }
        )  # fmt: skip
        grown = analyse(source, plan)
    except GorvelError:
        assume(False)
    again = grown_again(source, KeptTree.of(plan, grown))
    every = np.arange(grown.tree.n)
    assert same(grown.pairs.block(every, every), again.pairs.block(every, every))
    assert same(grown.tree, again.tree)
    assert same(grown.schedule, again.schedule)
    assert grown.cautions == again.cautions
    assert grown.agglomerative == again.agglomerative
    assert grown.prepared.labels == again.prepared.labels


def test_a_tree_of_other_cases_or_of_a_group_that_is_gone_is_refused() -> None:
    source = table(3)
    kept = KeptTree.of(PLAN, analyse(source, PLAN))
    with pytest.raises(InputError, match="a tree of"):
        grown_again(source, kept, PLAN.with_("cases", set_aside=[1]))
    split = PLAN.with_("cases", split="word")
    with pytest.raises(InputError, match='no group "Q"'):
        grown_again(source, KeptTree.of(split, analyse(source, split, group="Q")))


@given(st.integers(0, 10**6), st.data())
def test_a_cut_is_found_again(seed: int, data: st.DataObject) -> None:
    tree = analyse(table(seed), PLAN.with_("missing", handling="mean")).tree
    k = data.draw(st.integers(1, tree.n))
    by_height = cut_at_height(tree, data.draw(st.floats(0, float(tree.heights[-1]))))
    for cut, height in ((cut_at_count(tree, k), None), (by_height, 2.0)):
        kept = KeptCut.of(cut, None if height is None else _between(tree.heights, cut), cut)
        assert same(kept.cut(tree).membership, cut.membership)
        assert same(kept.lettered_cut(tree).roots, cut.roots)
    few = cut_at_count(tree, 1)
    assert KeptCut(tree.n + 5).cut(tree).clusters == tree.n  # a tree of fewer cases
    assert KeptCut.of(few, None, None).lettered_cut(tree).clusters == 1


def _between(heights: np.ndarray, cut: object) -> float:
    joins = cut.joins_kept  # type: ignore[attr-defined]
    return float(heights[joins - 1]) if joins else -1.0


@pytest.fixture
def saved(tmp_path: Path) -> Path:
    source = table(5)
    plan = PLAN.with_parts(COUNT | {"missing": {"handling": "mean"}})
    kept = found_tree(source, plan, np.random.default_rng(5))
    study = study_of(source, tmp_path / "t.csv", plan).keep()
    study = study.planned(plan.with_("tree", linkage="single"))
    path = tmp_path / "s.gorvel"
    save_study(StudyFile(study, {(1, None): kept}), path)
    return path


DAMAGES: dict[str, Callable[[bytes, int], bytes]] = {
    "cut short": lambda data, at: data[:at],
    "a byte turned": lambda data, at: data[:at] + bytes([data[at] ^ 255]) + data[at + 1 :],
    "a gap": lambda data, at: data[:at] + bytes(40) + data[at + 40 :],
    "something before": lambda data, at: data[at:],
}


@settings(max_examples=examples(150))
@given(st.sampled_from(sorted(DAMAGES)), st.floats(0, 1, exclude_max=True))
def test_a_damaged_study_is_refused_in_words_and_what_is_whole_is_rescued(
    tmp_path_factory: pytest.TempPathFactory, damage: str, where: float
) -> None:
    folder = tmp_path_factory.mktemp("d")
    path = _saved_once(folder)
    whole = path.read_bytes()
    broken = DAMAGES[damage](whole, int(where * len(whole)))
    path.write_bytes(broken)
    sound = _read(load_study, path)
    assert sound is None or damage != "cut short"  # a byte may say nothing, such as a date
    found = _read(rescue_study, path)
    if found is None:
        assert sound is None
        return
    assert found.study.plan.variables.use == ("a", "b")
    assert isinstance(found.study.source, Table)
    assert found.study.source.n == 9
    missing = {name for name, _ in _members(whole)} - {name for name, _ in _members(broken)}
    if any(name.startswith("trees/") for name in missing):
        assert found.lost or not found.kept


def _read(read: Callable[[Path], StudyFile], path: Path) -> StudyFile | None:
    """What was read; None where it was refused, in words that name the file."""
    told = ""
    try:
        return read(path)
    except InputError as error:
        told = str(error)
    assert "s.gorvel" in told
    return None


_ONCE: list[bytes] = []


def _saved_once(folder: Path) -> Path:
    path = folder / "s.gorvel"
    if not _ONCE:
        plan = PLAN.with_parts(COUNT | {"missing": {"handling": "mean"}})
        kept = found_tree(table(5), plan, np.random.default_rng(5))
        save_study(StudyFile(study_of(table(5), folder / "t.csv", plan), {(1, None): kept}), path)
        _ONCE.append(path.read_bytes())
    path.write_bytes(_ONCE[0])
    return path


def _members(data: bytes) -> list[tuple[str, int]]:
    names = ("gorvel.json", "study.json", "data/table.parquet", "trees/1.json", "trees/1.parquet")
    return [(name, at) for name in names if (at := data.find(name.encode())) >= 0]


def test_data_that_are_lost_are_read_again_from_where_they_were(saved: Path) -> None:
    whole = saved.read_bytes()
    at = whole.index(b"data/table.parquet") + 60
    saved.write_bytes(whole[:at] + bytes(8) + whole[at + 8 :])
    with pytest.raises(InputError, match=r"s\.gorvel.*data/table"):
        load_study(saved)
    with pytest.raises(InputError, match="there is no"):
        rescue_study(saved)
    table(5).frame.write_csv(saved.with_name("t.csv"))
    found = rescue_study(saved)
    assert found.lost == ("the data in it, which were read from t.csv again",)
    assert found.study.source.n == 9
    assert found.kept


def test_a_newer_study_is_refused_and_what_is_known_of_it_is_rescued(saved: Path) -> None:
    with zipfile.ZipFile(saved) as file:
        members = {name: file.read(name) for name in file.namelist()}
    members["gorvel.json"] = members["gorvel.json"].replace(b'"format": 1', b'"format": 2')
    with zipfile.ZipFile(saved, "w") as file:
        for name, data in members.items():
            file.writestr(name, data)
    with pytest.raises(InputError, match="a newer Gorvel"):
        load_study(saved)
    found = rescue_study(saved)
    assert found.lost == ("what is new in format 2",)
    assert found.study.in_hand == 2


@pytest.mark.parametrize("data", [b"", b"case,a\n1,2\n", b"PK\x03\x04", b"PK\x05\x06" + bytes(18)])
def test_what_is_no_study_is_said_to_be_none(tmp_path: Path, data: bytes) -> None:
    path = tmp_path / "x.gorvel"
    path.write_bytes(data)
    assert not holds_study(path)
    for read in (load_study, rescue_study):
        with pytest.raises(InputError, match=r"x\.gorvel"):
            read(path)
    assert picture_of(path) == b""
    with pytest.raises(InputError, match="file not found"):
        load_study(tmp_path / "y.gorvel")
