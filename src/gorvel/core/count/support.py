"""How well supported each branch is: does it come back when variables are drawn anew?"""

from __future__ import annotations

from dataclasses import dataclass
from statistics import NormalDist

import numpy as np
from numpy.typing import NDArray

from gorvel.core.base.errors import InputError
from gorvel.core.base.progress import Phase, Progress, silent
from gorvel.core.count.regrow import Pulse, Regrower, in_order
from gorvel.core.grow.grown import Grown
from gorvel.core.tree.tree import Tree

__all__ = ["SCALES", "Support", "branch_support", "unbiased"]

Floats = NDArray[np.float64]

SCALES = tuple(round(0.5 + 0.1 * k, 1) for k in range(10))  # of the number of variables
_NORMAL = NormalDist()


@dataclass(frozen=True, eq=False)
class Support:
    """Of each join, (n-1,): NaN for the last, which is always there.

    unbiased : approximately unbiased support, 0 to 1; plain : how often the same cases make a
    cluster when as many variables are drawn as there are; why : in words, where none could be had.
    """

    unbiased: Floats
    plain: Floats
    rounds: int
    why: str = ""


def branch_support(grown: Grown, rounds: int, seed: int, progress: Progress = silent) -> Support:
    """Multiscale bootstrap of the branches.

    What is drawn are the variables (the cases, in a tree of variables), at ten scales, `rounds`
    times each.

    progress : told "support"; may stop the work by raising.

    References
    ----------
    Shimodaira 2004, Approximately unbiased tests of regions using multistep-multiscale bootstrap
    resampling.
    """
    answers, tree = grown.prepared.answers, grown.tree
    nothing = np.full(tree.joins, np.nan)
    why = ""
    if answers is None:
        why = "a proximity matrix has no variables to draw from"
    elif answers.values.shape[1] < 3:
        why = f"{answers.values.shape[1]} variables are too few to draw from"
    elif answers.whitening is not None:
        why = "the Mahalanobis distance is tied to the variables as they are"
    if why or answers is None:
        return Support(nothing, nothing, 0, why)
    pulse, p = Pulse(progress, Phase.SUPPORT), answers.values.shape[1]
    regrower = Regrower(grown, pulse)
    keys = np.random.default_rng(0).integers(0, 2**64, tree.n, dtype=np.uint64)
    own = _branches(tree, keys)
    counts = np.zeros((len(SCALES), tree.joins))
    sizes = [max(round(scale * p), 1) for scale in SCALES]

    def again(number: int) -> NDArray[np.bool_] | None:
        scale, draw = divmod(number, rounds)
        random = np.random.default_rng([seed, draw, 6, scale])
        try:
            other = regrower.of_columns(random.integers(0, p, sizes[scale]))
        except InputError:  # no proximity by these variables
            return None
        return np.isin(own, _branches(other, keys))

    done = np.zeros(len(SCALES))
    for number, found in enumerate(in_order(again, rounds * len(SCALES), regrower.workers)):
        pulse.tell((number + 1) / (rounds * len(SCALES)))
        if found is not None:
            counts[number // rounds] += found
            done[number // rounds] += 1
    shares = counts / np.maximum(done, 1)[:, None]
    ratios = np.array(sizes) / p
    support = np.array([unbiased(shares[:, join], ratios, done) for join in range(tree.joins)])
    plain = shares[SCALES.index(1.0)].copy()
    support[-1:], plain[-1:] = np.nan, np.nan
    return Support(support, plain, rounds)


def _branches(tree: Tree, keys: NDArray[np.uint64]) -> NDArray[np.uint64]:
    """(n-1,) a number for the set of cases below each join: the sum of theirs, which wraps."""
    sums = np.concatenate([np.zeros(1, dtype=np.uint64), np.cumsum(keys[tree.order])])
    starts = tree.starts[tree.n :]
    return np.asarray(sums[starts + tree.sizes[tree.n :]] - sums[starts])


def unbiased(shares: Floats, ratios: Floats, draws: Floats) -> float:
    """Approximately unbiased support from how often a branch comes back at several scales.

    z = inverse normal of 1 - share is fitted by v sqrt(r) + c / sqrt(r), weighted by its precision;
    the support is 1 - normal(v - c). Where a branch always or never comes back at all scales but
    one, it is the share at the scale nearest to 1.

    shares, ratios, draws : (scales,).
    """
    usable = (shares > 0) & (shares < 1)
    if usable.sum() < 2 or len(np.unique(ratios[usable])) < 2:
        return float(shares[np.abs(ratios - 1).argmin()])
    share, ratio = shares[usable], ratios[usable]
    z = np.array([_NORMAL.inv_cdf(1 - s) for s in share])
    density = np.array([_NORMAL.pdf(q) for q in z])
    weight = draws[usable] * density**2 / (share * (1 - share))
    design = np.stack([np.sqrt(ratio), 1 / np.sqrt(ratio)], axis=1)
    root = np.sqrt(weight)
    v, c = np.linalg.lstsq(design * root[:, None], z * root, rcond=None)[0]
    return 1 - _NORMAL.cdf(float(v - c))
