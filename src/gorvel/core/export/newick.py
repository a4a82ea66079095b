"""The tree in Newick form."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from gorvel.core.tree.tree import Tree


def _quoted(label: str) -> str:
    """Line ends, and other signs that are no text, become blanks."""
    plain = "".join(sign if sign.isprintable() else " " for sign in label)
    return "'" + plain.replace("'", "''") + "'"


def newick(tree: Tree, labels: Sequence[str]) -> str:
    """Newick text with branch lengths and quoted labels.

    A branch is as long as its parent is higher than itself; a case has height 0. With inversions
    lengths may be negative.
    """
    n = tree.n
    texts = [_quoted(label) for label in labels]
    if tree.joins == 0:
        return f"{texts[0]};"
    heights = np.concatenate([np.zeros(n), tree.heights])
    above = np.append(heights[n + tree.used_at[:-1]], np.nan)
    lengths = [f":{length!r}" for length in (above - heights).tolist()]
    lengths[-1] = ""
    # leaves from left to right, each behind the brackets that open at it, then those that close
    # behind it, from the inside out
    starts = tree.starts
    opening = np.bincount(starts[n:], minlength=n)[starts[:n]].tolist()
    comma = np.where(starts[:n] > 0, 1, 0).tolist()
    pieces = [
        "," * between + "(" * brackets + own + length
        for between, brackets, own, length in zip(comma, opening, texts, lengths[:n], strict=True)
    ]
    pieces += [f"){length}" for length in lengths[n:]]
    places = np.concatenate([starts[:n], starts[n:] + tree.sizes[n:] - 1])
    order = np.lexsort((np.arange(2 * n - 1), places))  # a case before joins, parts before wholes
    return "".join([pieces[k] for k in order.tolist()]) + ";"
