"""Titles hang on clusters by what they hold: at every count, and in another tree."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from gorvel.core.base.errors import InputError
from gorvel.core.export.membership import membership_frame
from gorvel.core.grow.grown import analyse
from gorvel.core.linkage.rules import LINKAGES
from gorvel.core.plan.file import parse_plan, plan_text
from gorvel.core.tree.cluster_names import (
    Identity,
    by_letter,
    identities,
    retitled,
    same_nodes,
    titled_nodes,
)
from gorvel.core.tree.cuts import Cut, cut_at_count, cut_at_height, cut_branches
from gorvel.core.tree.tree import Tree
from plans import table
from studies import study

LEAST = 'gorvel = 1\n[source]\nfile = "t.csv"\n[variables]\nuse = ["a", "b", "d"]\n'
PLAN = parse_plan(LEAST, "p.toml")

trees = st.builds(
    lambda seed, n, linkage: study(
        np.random.default_rng(seed).normal(size=(n, 2)), "euclidean", linkage
    ).tree,
    st.integers(0, 10**6), st.integers(2, 30), st.sampled_from(sorted(LINKAGES)),
)  # fmt: skip


def some_cut(tree: Tree, data: st.DataObject) -> Cut:
    """By count, by height (inversions and all), or with branches cut lower."""
    k = data.draw(st.integers(1, tree.n))
    how = data.draw(st.sampled_from(["count", "height", "branches"]))
    if how == "height":
        return cut_at_height(tree, data.draw(st.sampled_from(tree.heights.tolist())))
    below = [j for j in range(tree.joins) if j < tree.n - k]
    if how == "branches" and below:
        return cut_branches(tree, k, data.draw(st.lists(st.sampled_from(below), max_size=3)))
    return cut_at_count(tree, k)


@given(trees, st.data())
def test_titles_are_given_kept_and_taken_back(tree: Tree, data: st.DataObject) -> None:
    """Against sets of cases: whoever holds the same cases has the title, and nobody else."""
    names: dict[str, list[str]] = {}
    given_: dict[frozenset[int], str] = {}
    for number in range(data.draw(st.integers(1, 5))):
        cut = some_cut(tree, data)
        cluster = data.draw(st.integers(1, cut.clusters))
        title = data.draw(st.sampled_from(["", f"name {number}"]))
        names = retitled(tree, names, cut, cluster, title)
        given_[frozenset(tree.members(int(cut.roots[cluster - 1])).tolist())] = title
    wanted = {held: title for held, title in given_.items() if title}
    assert all(len(titles) == int(count) for count, titles in names.items())
    assert all(any(titles) for titles in names.values())
    found = titled_nodes(tree, names)
    assert {frozenset(tree.members(n).tolist()): t for n, t in found.items()} == wanted
    cut = some_cut(tree, data)
    for who, root in zip(identities(tree, cut, cut, found), cut.roots.tolist(), strict=True):
        title = wanted.get(frozenset(tree.members(root).tolist()), "")
        assert who.title == title
        assert who.told == (f"{who.name} “{title}”" if title else who.name)
    assert identities(tree, cut, cut) == identities(tree, cut, cut, {})


@given(st.integers(0, 10**6), st.integers(3, 25), st.data())
def test_the_same_cases_are_found_in_another_tree(seed: int, n: int, data: st.DataObject) -> None:
    rng = np.random.default_rng(seed)
    x, linkages = rng.normal(size=(n, 2)).round(1), st.sampled_from(sorted(LINKAGES))
    rows = np.sort(rng.choice(n, int(rng.integers(2, n + 1)), replace=False))
    one = study(x, "euclidean", data.draw(linkages)).tree
    other = study(x[rows], "euclidean", data.draw(linkages)).tree
    numbers, its = np.arange(1, n + 1), rows + 1
    held = {frozenset(its[other.members(k)].tolist()): k for k in range(other.n + other.joins)}
    nodes = list(range(one.n + one.joins))
    expected = {
        node: held[cases]
        for node in nodes
        if (cases := frozenset(numbers[one.members(node)].tolist())) in held
    }
    assert same_nodes(one, numbers, other, its, nodes) == expected


def test_names_stand_in_the_plan_and_in_saved_memberships() -> None:
    text = LEAST + '[cut]\nnames = { 2 = ["Regulars", ""], 3 = ["", " Families ", ""] }\n'
    plan = parse_plan(text, "p.toml")
    assert plan.cut.names == {"2": ("Regulars", ""), "3": ("", "Families", "")}
    assert parse_plan(plan_text(plan), "q.toml") == plan
    assert plan.understood()["cut"]["names"] == {"2": ["Regulars", ""], "3": ["", "Families", ""]}
    source = table(1)
    asked = PLAN.with_("missing", handling="mean").with_("cut", names=dict(plan.cut.names))
    grown = analyse(source, asked)
    assert grown.key == PLAN.with_("missing", handling="mean").growth()
    cut = cut_at_count(grown.tree, 2)
    frame = membership_frame(source, asked, grown, cut, titles=["Regulars", ""])
    told = dict(zip(frame["cluster_k2"].to_list(), frame["name_k2"].to_list(), strict=True))
    assert {key: told[key] for key in (1, 2)} == {1: "Regulars", 2: "Cluster 2"}
    plain = membership_frame(source, asked, grown, cut, titles=["", ""])
    assert plain.columns == [name for name in frame.columns if name != "name_k2"]


@pytest.mark.parametrize(
    ("key", "said"),
    [
        ('names = { 3 = ["a", "b"] }', r"\[cut\] names.3: 2 names; expected 3, one for each"),
        ('names = { 2 = ["a", "a"] }', "twice"),
        ('names = { x = ["a"] }', "a cluster count, from 1"),
        ('names = { 02 = ["a", ""] }', "a cluster count, from 1"),
        ('names = { 1 = "a" }', "a list"),
    ],
)
def test_names_that_do_not_fit_are_refused(key: str, said: str) -> None:
    with pytest.raises(InputError, match=said):
        parse_plan(f"{LEAST}[cut]\n{key}\n", "p.toml")


@given(st.permutations(["A", "B", "B1", "B12", "C", "Z", "AA", "AB", "AB2"]))
def test_letters_have_an_order(names: list[str]) -> None:
    order = by_letter([Identity(name, 1) for name in names])
    assert [names[k] for k in order] == ["A", "B", "B1", "B12", "C", "Z", "AA", "AB", "AB2"]
    whole = by_letter([Identity(name, 1) for name in ("D", "B+C", "A")])
    assert whole == [2, 1, 0]
