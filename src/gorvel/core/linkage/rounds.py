"""Trees of thousands of cases by rounds of joins, where no nearest neighbours tie."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray

from gorvel.core.base.progress import Phase, Progress, silent
from gorvel.core.linkage.matrix_chain import Clusters, join_all, mode_of
from gorvel.core.linkage.merges import SLACK, tree_of
from gorvel.core.linkage.rules import LINKAGES
from gorvel.core.tree.tree import Tree

if TYPE_CHECKING:
    from gorvel.core.kernels.histories import History
    from gorvel.core.kernels.rounds import Round

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]

_STEP = 1 << 25  # cells passed between two reports
FEW = 2000  # clusters from which the rest is joined one by one, in the processor's cache
# share of joins in a round below which rounds no longer pay; flexible rules would have to start
# over from the beginning
_SLOW, _SLOW_FLEXIBLE = 0.02, 0.002


@dataclass
class _State:
    """Clusters between two rounds: all arrays have an entry for each.

    rows : where its row is; node : its number in the tree; first : its earliest case; tie : are two
    others equally near?
    """

    rows: Ints
    node: Ints
    first: Ints
    masses: Floats
    near: Ints
    how_far: Floats
    tie: NDArray[np.bool_]
    history: History

    @classmethod
    def of_cases(cls, n: int, masses: Floats) -> _State:
        """Each case alone."""
        alone = np.arange(n)
        from gorvel.core.kernels.histories import History

        nothing = History.of(np.zeros(n + 1, dtype=np.int64), np.empty(0), np.empty(0))
        near = np.zeros(n, dtype=np.int64)
        return cls(alone, alone, alone, masses, near, np.empty(n), np.zeros(n, dtype=bool), nothing)


def grow_in_rounds(
    work: Floats,
    key: str,
    masses: Floats | None = None,
    progress: Progress = silent,
    beta: float = 0.0,
    few: int = FEW,
) -> Tree | None:
    """The tree of n cases; None where proximities tie, or rounds do not pay.

    See `agglomerate.grow`.

    work : (n, n) proximities with infinity on the diagonal; is consumed; key : of a rule
    that `goes_in_rounds`; beta : of flexible rules; few : clusters left to be joined one by one.

    References
    ----------
    Bruynooghe 1977, New methods in automatic classification of numerous taxonomic data.
    """
    from gorvel.core.kernels import rounds

    n = len(work)
    mode, equal, scale, shift = mode_of(key, beta)
    few, too_slow = (1, _SLOW_FLEXIBLE) if shift else (few, _SLOW)
    mass = np.ones(n) if masses is None or equal else np.array(masses, dtype=np.float64)
    left, right = np.zeros((2, n - 1), dtype=np.int64)
    heights = np.zeros(n - 1)
    state = _State.of_cases(n, mass)
    m = n
    for begin, end in _pieces(n, n):
        progress(Phase.JOINS, 0.0)
        rounds.look_all(
            work, state.rows, begin, end, n, state.near, state.how_far, state.tie, SLACK
        )
    while m > few:
        if state.tie.any():
            return None
        play, new_near = _laid_out(state, scale, equal)
        count, made = len(play.ones), n - m
        left[made : made + count] = state.node[play.ones]
        right[made : made + count] = state.node[play.others]
        heights[made : made + count] = play.heights
        after = _after(state, play, new_near, made, n, shift != 0)
        for begin, end in _pieces(m - count, m):
            progress(Phase.JOINS, 1 - (m / n) ** 2)
            rounds.play_round(
                work, m, state.rows, play, mode, shift, state.history, after.history,
                state.how_far, after.near, after.how_far, after.tie, SLACK, begin, end,
            )  # fmt: skip
        slow, m, state = count < too_slow * m, m - count, after
        if slow and m > FEW:
            break
    if m > 1 and (state.tie.any() or shift):
        return None
    if m > 1 and not _joined_one_by_one(work, state, key, left, right, heights, progress):
        return None
    return tree_of(n, left, right, heights)


def _laid_out(state: _State, scale: float, equal: bool) -> tuple[Round, Ints]:
    """The next round, and what each of the new clusters was nearest to or -1."""
    from gorvel.core.kernels import rounds

    m = len(state.rows)
    ones, others, places, sources, targets = np.empty((5, m), dtype=np.uint32)
    first_of, pair_of, new_near = np.empty((3, m), dtype=np.int64)
    heights, one_share, other_share = np.empty((3, m))
    masses = np.ones(m) if equal else state.masses
    count, moves = rounds.pair_up(
        m, state.near, state.how_far, masses, scale, ones, others, places, one_share, other_share,
        heights, sources, targets, first_of, pair_of, new_near,
    )  # fmt: skip
    to = m - count
    play = rounds.Round(
        ones[:count], others[:count], places[:count], one_share[:count], other_share[:count],
        heights[:count],
        sources[:moves], targets[:moves], first_of[:to], pair_of[:to],
    )  # fmt: skip
    return play, new_near[:to]


def _after(
    state: _State, play: Round, new_near: Ints, made: int, cases: int, flexible: bool
) -> _State:
    """The clusters after a round; their nearest are looked for while it is played."""
    from gorvel.core.kernels import histories

    old, to, count = play.first_of, len(play.first_of), len(play.ones)
    node, first, masses = state.node[old], state.first[old], state.masses[old]
    node[play.places] = cases + made + np.arange(count)
    first[play.places] = np.minimum(state.first[play.ones], state.first[play.others])
    masses[play.places] = state.masses[play.ones] + state.masses[play.others]
    history = state.history
    if flexible:
        known = len(history.levels) + count
        joins = (np.empty(to + 1, dtype=np.int64), np.empty(known), np.empty(known))
        histories.merge(state.history, play, *joins)
        history = histories.History.of(*joins)
    return _State(
        state.rows[old], node, first, masses, new_near, np.empty(to), np.zeros(to, dtype=bool),
        history,
    )  # fmt: skip


def _joined_one_by_one(
    work: Floats, state: _State, key: str, left: Ints, right: Ints, heights: Floats,
    progress: Progress,
) -> bool:  # fmt: skip
    """Join the clusters that are left; False where proximities tie."""
    from gorvel.core.kernels import rounds

    order = np.argsort(state.first)
    rounds.put_in_order(work, state.rows, order)
    rest = Clusters(work, state.rows[order], state.masses[order], state.node[order])
    flags = np.zeros((2, len(left)), dtype=bool)
    join_all(rest, key, len(left) + 1 - len(order), left, right, heights, flags, progress)
    return not flags.any()


def goes_in_rounds(key: str, beta: float) -> bool:
    """Is it so that no join of the rule brings others nearer?"""
    linkage = LINKAGES.get(key)
    if linkage is None or linkage.recurrence is None:
        return False
    return linkage.in_rounds and (beta <= 0.0 or not linkage.recurrence.flexible)


def _pieces(rows: int, cells: int) -> Iterator[tuple[int, int]]:
    """Rows in pieces between which progress is told; cells : of a row."""
    step = max(_STEP // cells, 1)
    for begin in range(0, rows, step):
        yield begin, min(begin + step, rows)
