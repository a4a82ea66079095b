"""Letters that stay with clusters when the count changes: splitting B gives B1 and B2."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from gorvel.core.tree.cuts import Cut, letters
from gorvel.core.tree.tree import Tree

__all__ = ["Identity", "identities"]

_SPELT = 3  # lettered clusters named one by one in a cluster that holds several


@dataclass(frozen=True)
class Identity:
    """What a cluster is called and coloured by.

    name : its letter; B1, B21 for parts of B; B+C for what holds both; hue : number (from 1) of the
    lettered cluster whose colour it has, the largest it holds; shade : 0 for that colour, from 1
    for parts of it.
    """

    name: str
    hue: int
    shade: int = 0


def identities(tree: Tree, lettered: Cut, cut: Cut) -> list[Identity]:
    """The identities of a cut's clusters, in its order.

    lettered : the cut at which clusters got their letters, in order of earliest case.
    """
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
