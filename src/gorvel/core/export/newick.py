"""The tree in Newick form."""

from __future__ import annotations

from collections.abc import Sequence

from gorvel.core.tree import Tree

__all__ = ["newick"]


def newick(tree: Tree, labels: Sequence[str]) -> str:
    """Newick text with branch lengths and quoted labels.

    A branch is as long as its parent is higher than itself; a case has height 0. With inversions
    lengths may be negative.
    """
    texts = ["'" + label.replace("'", "''") + "'" for label in labels]
    if tree.joins == 0:
        return f"{texts[0]};"
    heights = [0.0] * tree.n + tree.heights.tolist()
    pieces: list[str] = []
    # what is still to be written, last first: text, or a node with the height of its parent
    todo: list[str | tuple[int, float | None]] = [(2 * tree.n - 2, None)]
    while todo:
        item = todo.pop()
        if isinstance(item, str):
            pieces.append(item)
            continue
        node, above = item
        length = "" if above is None else f":{above - heights[node]!r}"
        if node < tree.n:
            pieces.append(texts[node] + length)
        else:
            k = node - tree.n
            own = heights[node]
            left, right = int(tree.left[k]), int(tree.right[k])
            todo += [f"){length}", (right, own), ",", (left, own), "("]
    return "".join(pieces) + ";"
