"""Letters and titles that stay with clusters when the count changes."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from gorvel.core.base.numbers import letters
from gorvel.core.tree.cuts import Cut, cut_at_count
from gorvel.core.tree.tree import Tree

Ints = NDArray[np.int64]

_SPELT = 3  # lettered clusters named one by one in a cluster that holds several


@dataclass(frozen=True)
class Identity:
    """What a cluster is called and coloured by.

    name : its letter; B1, B21 for parts of B; B+C for what holds both; hue : number (from 1) of the
    lettered cluster whose colour it has, the largest it holds; shade : 0 for that colour, from 1
    for parts of it; title, colour : given by the analyst, "" for none.
    """

    name: str
    hue: int
    shade: int = 0
    title: str = ""
    colour: str = ""

    @property
    def told(self) -> str:
        """What it is called in a sentence."""
        return f"{self.name} “{self.title}”" if self.title else self.name


def by_letter(names: Sequence[Identity]) -> list[int]:
    """Numbers (from 0) of clusters in the order of their letters: Z before AA, B before B1."""

    def rank(number: int) -> tuple[int, str]:
        name = names[number].name
        return len(name.split("+")[0].rstrip("0123456789")), name

    return sorted(range(len(names)), key=rank)


def titled_nodes(tree: Tree, names: Mapping[str, Sequence[str]]) -> dict[int, str]:
    """Titles by node of the tree, so that a cluster has its title at every count.

    names : by count, in the order of cluster numbers, "" for one without.
    """
    out: dict[int, str] = {}
    for count, titles in names.items():
        if int(count) <= tree.n:
            roots = cut_at_count(tree, int(count)).roots.tolist()
            out |= {node: title for node, title in zip(roots, titles, strict=False) if title}
    return out


def retitled(
    tree: Tree, names: Mapping[str, Sequence[str]], cut: Cut, cluster: int, title: str
) -> dict[str, list[str]]:
    """Names by count once a cluster (from 1) of a cut has another title; "" for none any more."""
    node = int(cut.roots[cluster - 1])
    count = cut.clusters
    if node not in cut_at_count(tree, count).roots.tolist():  # branches cut lower, inversions
        count = first_count(tree, node)
    out = {key: list(titles) for key, titles in names.items()}
    for key, titles in out.items():
        if int(key) <= tree.n:
            roots = cut_at_count(tree, int(key)).roots.tolist()
            out[key] = ["" if r == node else t for r, t in zip(roots, titles, strict=False)]
    own = out.setdefault(str(count), [""] * count)
    own[cut_at_count(tree, count).roots.tolist().index(node)] = title
    return {key: titles for key, titles in out.items() if any(titles)}


def first_count(tree: Tree, node: int) -> int:
    """The smallest count of a cut by joins at which a node is a cluster."""
    used = int(tree.used_at[node])
    return 1 if used < 0 else tree.n - used


def same_nodes(
    one: Tree, numbers: Ints, other: Tree, its_numbers: Ints, nodes: Sequence[int]
) -> dict[int, int]:
    """For nodes of one tree those of another that hold the same cases, where there are such.

    numbers, its_numbers : (n,) of the cases, rising.
    """
    out = {}
    for node in nodes:
        held = np.sort(numbers[one.members(node)])
        at = int(np.searchsorted(its_numbers, held[0]))
        if at == other.n or its_numbers[at] != held[0]:
            continue
        while other.sizes[at] < len(held) and other.used_at[at] >= 0:
            at = other.n + int(other.used_at[at])
        if np.array_equal(np.sort(its_numbers[other.members(at)]), held):
            out[node] = at
    return out


def identities(
    tree: Tree, lettered: Cut, cut: Cut, titles: Mapping[int, str] | None = None,
    colours: Mapping[int, str] | None = None,
) -> list[Identity]:  # fmt: skip
    """The identities of a cut's clusters, in its order.

    lettered : the cut at which clusters got their letters, in order of earliest case; titles,
    colours : by node; parts of a cluster with a colour have shades of it, and one that holds
    several lettered clusters has the colour of the largest.
    """
    out = _lettered(tree, lettered, cut)
    if colours:
        out = _coloured(tree, lettered, cut, out, colours)
    if not titles:
        return out
    roots = cut.roots.tolist()
    return [replace(who, title=titles.get(r, "")) for who, r in zip(out, roots, strict=True)]


def _lettered(tree: Tree, lettered: Cut, cut: Cut) -> list[Identity]:
    number_of = {int(root): k for k, root in enumerate(lettered.roots, 1)}
    shades = dict.fromkeys(number_of.values(), 0)
    out = []
    for root in cut.roots.tolist():
        number, path = _inside(tree, number_of, root)
        if not number:
            out.append(_of_whole(tree, lettered, root))
            continue
        if path:
            shades[number] += 1
        out.append(Identity(letters(number) + path, number, shades[number]))
    return out


def _coloured(
    tree: Tree, lettered: Cut, cut: Cut, whos: list[Identity], colours: Mapping[int, str]
) -> list[Identity]:
    parts: dict[int, int] = {}
    out = []
    for root, who in zip(cut.roots.tolist(), whos, strict=True):
        above = root
        while above not in colours and tree.used_at[above] >= 0:
            above = tree.n + int(tree.used_at[above])
        if above in colours:
            shade = 0
            if above != root:
                shade = parts[above] = parts.get(above, 0) + 1
            out.append(replace(who, colour=colours[above], shade=shade))
            continue
        of_letter = colours.get(int(lettered.roots[who.hue - 1]), "")
        out.append(replace(who, colour=of_letter) if of_letter else who)
    return out


def _inside(tree: Tree, number_of: dict[int, int], node: int) -> tuple[int, str]:
    """The lettered cluster that a node is part of, 0 for none, and the way down to the node."""
    path = ""
    while node not in number_of:
        join = int(tree.used_at[node])
        if join < 0:
            return 0, ""
        path = ("1" if tree.left[join] == node else "2") + path
        node = tree.n + join
    return number_of[node], path


def _of_whole(tree: Tree, lettered: Cut, root: int) -> Identity:
    numbers = np.unique(lettered.membership[tree.members(root)])
    sizes = tree.sizes[lettered.roots[numbers - 1]]
    names = [letters(int(number)) for number in numbers]
    if len(names) > _SPELT:
        names = [names[0], "…", names[-1]]
    return Identity("+".join(names), int(numbers[sizes.argmax()]))
