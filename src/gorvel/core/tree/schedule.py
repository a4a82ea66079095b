"""The agglomeration schedule: one row for each join, with what it costs."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from gorvel.core.base.progress import Phase, Progress, silent
from gorvel.core.kernels import upward
from gorvel.core.tree.tree import Tree

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]

_BETWEEN = 1 << 20  # answers passed between two reports


@dataclass(frozen=True, eq=False)
class WithinSS:
    """Sums of squares along the joins, each (n-1,); see `chi_square_spread` for cross tables.

    within : total within-cluster sum of squares after the join; r2 : 1 - within / total;
    semipartial_r2 : the drop in r2 by the join. NaN where total is 0.
    """

    within: Floats
    r2: Floats
    semipartial_r2: Floats


@dataclass(frozen=True, eq=False)
class Schedule:
    """Columns of the schedule, each (n-1,), in order of joining.

    join : from 1; left, right : nodes of the tree; size : cases; mass : their weight;
    height; jump : height minus the one before (NaN for the first); clusters : left afterwards;
    left_made_at, right_made_at, used_at : joins from 1, 0 for none; tied, tie_matters, inverted;
    spread : sums of squares, None where there are no complete numeric variables.
    """

    join: Ints
    left: Ints
    right: Ints
    size: Ints
    mass: Floats
    height: Floats
    jump: Floats
    clusters: Ints
    left_made_at: Ints
    right_made_at: Ints
    used_at: Ints
    tied: NDArray[np.bool_]
    tie_matters: NDArray[np.bool_]
    inverted: NDArray[np.bool_]
    spread: WithinSS | None


def within_spread(
    tree: Tree, values: Floats, importance: Floats, masses: Floats, progress: Progress = silent
) -> WithinSS:
    """Follow the within-cluster sum of squares through the joins.

    Joining clusters of mass a, b with means m, q adds a b / (a + b) sum_j v_j (m_j - q_j)^2.

    Parameters
    ----------
    values : (n, p), complete; importance : (p,); masses : (n,); progress : told "schedule"; may
        stop the work by raising.

    References
    ----------
    Ward 1963, Hierarchical grouping to optimize an objective function.
    """
    n, p = values.shape
    mean = np.empty((2 * n - 1, p))
    mean[:n] = values
    mass = upward.masses(tree.left, tree.right, masses)
    growth, step = np.zeros(tree.joins), max(_BETWEEN // p, 1)
    for begin in range(0, tree.joins, step):
        progress(Phase.SCHEDULE, begin / tree.joins)
        end = min(begin + step, tree.joins)
        upward.growths(tree.left, tree.right, begin, end, mean, mass, importance, growth)
    within = np.cumsum(growth)
    total = within[-1] if tree.joins else 0.0
    if total <= 0:
        nothing = np.full(tree.joins, np.nan)
        return WithinSS(within, nothing, nothing)
    return WithinSS(within, 1.0 - within / total, growth / total)


def chi_square_spread(tree: Tree, total: float) -> WithinSS:
    """The same of a cross table, whose heights are what its chi-square loses by each join.

    within : chi-square lost so far; r2 : the share kept; total : the table's chi-square.
    """
    lost = np.cumsum(tree.heights)
    if total <= 0:
        nothing = np.full(tree.joins, np.nan)
        return WithinSS(lost, nothing, nothing)
    kept = np.append(np.cumsum(tree.heights[::-1])[::-1][1:], np.zeros(min(tree.joins, 1)))
    return WithinSS(lost, kept / total, tree.heights / total)


def make_schedule(tree: Tree, masses: Floats, spread: WithinSS | None) -> Schedule:
    """Lay the joins out as a schedule. masses : (n,) case weights."""
    node_mass = upward.masses(tree.left, tree.right, masses)
    made = np.concatenate([np.zeros(tree.n, dtype=np.int64), np.arange(1, tree.joins + 1)])
    return Schedule(
        join=np.arange(1, tree.joins + 1),
        left=tree.left,
        right=tree.right,
        size=tree.sizes[tree.n :],
        mass=node_mass[tree.n :],
        height=tree.heights,
        jump=np.diff(tree.heights, prepend=np.nan),
        clusters=tree.n - np.arange(1, tree.joins + 1),
        left_made_at=made[tree.left],
        right_made_at=made[tree.right],
        used_at=tree.used_at[tree.n :] + 1,
        tied=tree.tied,
        tie_matters=tree.tie_matters,
        inverted=tree.inversions,
        spread=spread,
    )
