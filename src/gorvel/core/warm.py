"""Compiles all kernels, or loads them from the disk, so that no click has to wait for it."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from gorvel.core.counting.nested import nested_cuts
from gorvel.core.counting.pairsums import Distances, pair_sums
from gorvel.core.counting.ranks import rank_pairs
from gorvel.core.faithful import cophenetic_correlation
from gorvel.core.linkage.centres import centre_tree
from gorvel.core.linkage.large import grow_square
from gorvel.core.linkage.rounds import grow_in_rounds
from gorvel.core.linkage.spanning import single_tree
from gorvel.core.proximity.answers import Answers
from gorvel.core.proximity.pairs import Proximities, square_pairs

__all__ = ["warm"]

_CASES = 40


def warm() -> None:
    """Grow a few small trees in every compiled way."""
    from gorvel.core.kernels import ONE_AT_A_TIME

    points = np.random.default_rng(1).normal(size=(_CASES, 5))
    names = [str(k) for k in range(_CASES)]
    answers = Answers.of(points, np.ones(5), ("interval",) * 5, (False,) * 5)
    with ONE_AT_A_TIME:
        grow_square(square_pairs(answers, "euclidean", names), "average")
        grow_square(square_pairs(answers, "euclidean", names), "average", alone=True)
        grow_in_rounds(square_pairs(answers, "euclidean", names), "average", few=5)
        grow_in_rounds(square_pairs(answers, "euclidean", names), "flexible", beta=-0.25)
        single_tree(answers, 0, False)
        single_tree(replace(answers, values=np.round(points)), 0, False)
        ratings = replace(answers, values=np.round(points))
        centre_tree(ratings, np.ones(_CASES), "ward")
        tree = centre_tree(answers, np.ones(_CASES), "ward")
    pairs = Proximities(answers, "euclidean", None, names)
    cophenetic_correlation(tree, pairs)
    nested = nested_cuts(tree, 5)
    pair_sums(nested, Distances(pairs))
    rank_pairs(nested, Distances(pairs), range(2, 5), memory=1000.0)
