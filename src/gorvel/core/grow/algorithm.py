"""Which way a tree is grown: by the size of the study, the rule, and what the memory holds."""

from __future__ import annotations

from dataclasses import replace
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from gorvel.core.base.errors import TooLargeError
from gorvel.core.base.limits import free_memory
from gorvel.core.cases.prepared import Prepared
from gorvel.core.kernels.loading import MANY
from gorvel.core.linkage.centres import centres_bytes
from gorvel.core.linkage.folding import Folded
from gorvel.core.linkage.matrix_chain import square_bytes
from gorvel.core.linkage.rules import TREE_RULES
from gorvel.core.linkage.spanning import spanning_bytes
from gorvel.core.plan.growth import Method
from gorvel.core.proximity.answers import Answers
from gorvel.core.proximity.measures import MEASURES
from gorvel.core.proximity.pairs import plain_kind

Floats = NDArray[np.float64]
Algorithm = Literal["matrix", "square", "direct"]

SMALL = MANY  # cases up to which the matrix is kept, and nothing has to be compiled
_WITHOUT_MATRIX = (
    "squared Euclidean distances with Ward’s rule or average linkage, which need no matrix"
)
_TOGETHER = 64  # equal cases measured at a time


def choose_algorithm(prepared: Prepared, method: Method, small: int | None = None) -> Algorithm:
    """How the tree of a plan is grown.

    small : cases up to which nothing is compiled, where that is not `SMALL`.

    "matrix" : small studies, neighbours in an order, cross tables, and rules that need more than
    the proximities of two parts;
    "square" : compiled, on a matrix that is consumed, in rounds or one by one;
    "direct" : from the answers, without one.
    """
    key = method.linkage
    if prepared.sequence is not None or prepared.chi_square is not None:
        return "matrix"
    if prepared.n <= (SMALL if small is None else small) or TREE_RULES[key].recurrence is None:
        return "matrix"
    if prepared.answers is None:
        return "square"
    measure, rule = method.measure, TREE_RULES[key]
    if plain_kind(prepared.answers, measure) is None:
        return "square"
    if rule.squares and method.squares != (measure == "squared-euclidean"):  # of other squares
        return "square"
    squared = measure == "squared-euclidean" or (rule.of_losses and MEASURES[measure].euclidean)
    return "direct" if rule.spans or (rule.centres and squared) else "square"


def bytes_needed(prepared: Prepared, method: Method, way: Algorithm | None = None) -> float:
    """Peak memory of growing a tree."""
    return _bytes_of(
        prepared,
        method,
        way or choose_algorithm(prepared, method),
        different_rows(prepared, method),
    )


def _bytes_of(prepared: Prepared, method: Method, way: Algorithm, m: int) -> float:
    """m : cases that are grown, equal ones taken as one."""
    n, p = prepared.n, len(prepared.variables)
    if way == "matrix":
        matrices, others = TREE_RULES[method.linkage].memory[n > SMALL]
        return matrices * 8.0 * n * n + others * 2**20
    own = 8.0 * (n - m) * 6  # what cases take that are folded, with their joins
    if way == "square":
        return square_bytes(m) + own
    return own + (spanning_bytes(m, p) if method.linkage == "single" else centres_bytes(m, p))


def different_rows(prepared: Prepared, method: Method) -> int:
    """How many cases a tree is grown of: equal ones are taken as one where that changes nothing."""
    folded = (
        None if choose_algorithm(prepared, method) == "matrix" else folded_rows(prepared, method)
    )
    return prepared.n if folded is None else len(folded.firsts)


def check_memory(
    prepared: Prepared, method: Method, way: Algorithm | None = None, unfolded: bool = False
) -> None:
    """Refuse before any work what would not fit.

    way : another than `choose_algorithm` tells; unfolded : equal cases are not taken as one.

    Raises
    ------
    TooLargeError : more is needed than the memory that is free; names the ways out.
    """
    m = prepared.n if unfolded else different_rows(prepared, method)
    needed = _bytes_of(prepared, method, way or choose_algorithm(prepared, method), m)
    free = free_memory()
    if needed > free:
        ways_out = _ways_out(prepared, method, way, unfolded)
        raise TooLargeError(prepared.file, prepared.n, m, needed, free, ways_out)


def _ways_out(
    prepared: Prepared, method: Method, way: Algorithm | None, unfolded: bool
) -> list[str]:
    """What would need less memory, in words."""
    if prepared.answers is None:
        return []
    if unfolded:
        return ["a measure under which only equal cases are at distance 0"]
    ways = []
    if way == "square":
        ways.append("a linkage or measure under which fewer pairs are equally far apart")
    else:
        ways.append(_WITHOUT_MATRIX)
    known = prepared.equal_rows
    folds = TREE_RULES[method.linkage].folds and MEASURES[method.measure].folds
    if known is not None and not folds:
        ways.append(
            "average or complete linkage, under which equal rows count once"
            f" ({len(known.firsts):,} are different)"
        )
    if not np.isnan(prepared.answers.values).any():
        ways.append("answers rounded, so that more rows are equal")
    return ways


def folded_rows(prepared: Prepared, method: Method) -> Folded | None:
    """Equal rows as one, where that changes nothing."""
    answers, measure = prepared.answers, method.measure
    if answers is None or not TREE_RULES[method.linkage].folds or not MEASURES[measure].folds:
        return None
    folded = prepared.equal_rows
    if folded is None or not _equal_ones_count(answers, measure, folded):
        return None
    return folded


def _equal_ones_count(answers: Answers, measure: str, folded: Folded) -> bool:
    """Can equal cases be measured, which folding passes over? Their pairs are refused otherwise."""
    if MEASURES[measure].undefined is None and not MEASURES[measure].mixed:
        return True
    doubled = folded.firsts[np.bincount(folded.groups) > 1]
    for begin in range(0, len(doubled), _TOGETHER):
        some = answers.values[doubled[begin : begin + _TOGETHER]]
        twice = replace(answers, values=np.concatenate([some, some]))
        with np.errstate(all="ignore"):
            block = MEASURES[measure].function(twice, slice(0, len(some)))
        if not np.isfinite(block[np.arange(len(some)), len(some) + np.arange(len(some))]).all():
            return False
    return True
