"""The value of every rule that does not resample, at every count."""

from __future__ import annotations

from collections.abc import Callable, Collection
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from gorvel.core.base.progress import Progress
from gorvel.core.count.density import density_values
from gorvel.core.count.neighbours import neighbour_values
from gorvel.core.count.nested import Nested
from gorvel.core.count.pairsums import Distances, PairSums, silhouette_values
from gorvel.core.count.ranks import Ranked
from gorvel.core.count.scatter import Scatters, cubic_criterion, normal_bic
from gorvel.core.count.within_ss import Spreads, davies_bouldin
from gorvel.core.proximity.answers import Answers
from gorvel.core.tree.tree import Tree

Floats = NDArray[np.float64]


@dataclass(frozen=True, eq=False)
class Material:
    """What rules are worked out from; None where it cannot be had or was not asked for.

    counts : rising, from 2 on at the earliest where pairs are compared.
    """

    tree: Tree
    nested: Nested
    counts: tuple[int, ...]
    answers: Answers | None = None
    masses: Floats | None = None
    spreads: Spreads | None = None
    scatters: Scatters | None = None
    sums: PairSums | None = None
    ranked: Ranked | None = None

    @property
    def n(self) -> int:
        return self.tree.n

    @property
    def mass(self) -> float:
        """Sum of the case weights."""
        return float(self.n) if self.masses is None else float(self.masses.sum())

    @property
    def p(self) -> int:
        assert self.answers is not None
        return int(self.answers.values.shape[1])

    @property
    def spread(self) -> Spreads:
        assert self.spreads is not None
        return self.spreads

    @property
    def scatter(self) -> Scatters:
        assert self.scatters is not None
        return self.scatters

    @property
    def pairs(self) -> PairSums:
        assert self.sums is not None
        return self.sums

    def sum_within(self, count: int) -> float:
        """The sum of the distances of these pairs."""
        totals = self.pairs.to_clusters(count)
        own = np.repeat(np.arange(count), self.nested.cluster_sizes(count))
        return float(totals[np.arange(self.n), own].sum()) / 2


Value = Callable[[Material, int], float]
Curve = Callable[[Material, Distances, Progress], Floats]  # at all counts at once
_NONE = float("nan")


def _ratio(above: float, below: float) -> float:
    return above / below if below > 0 else _NONE


def _calinski_harabasz(m: Material, k: int) -> float:
    if k < 2 or k >= m.n:
        return _NONE
    return _ratio(m.spread.between[k] / (k - 1), m.spread.within[k] / (m.n - k))


def _w(m: Material, k: int) -> float:
    """W; 0 where every case is alone, NaN where there is no such count."""
    if k < 1 or k > m.n:
        return _NONE
    return 0.0 if k == m.n else float(m.spread.within[k])


def _hartigan(m: Material, k: int) -> float:
    below = _w(m, k + 1)
    return (_w(m, k) / below - 1) * (m.n - k - 1) if below > 0 else _NONE


def _diff(m: Material, k: int) -> float:
    return float((k - 1) ** (2 / m.p) * _w(m, k - 1) - k ** (2 / m.p) * _w(m, k))


def _krzanowski_lai(m: Material, k: int) -> float:
    return abs(_ratio_signed(_diff(m, k), _diff(m, k + 1))) if k > 1 else _NONE


def _ratio_signed(above: float, below: float) -> float:
    return above / below if below != 0 else _NONE


def _ball_hall(m: Material, k: int) -> float:
    return _w(m, k) / k


def _ratkowsky_lance(m: Material, k: int) -> float:
    varies = m.spread.total > 0
    if not varies.any():
        return _NONE
    shares = m.spread.by_variable[k, varies] / m.spread.total[varies]
    return float(np.mean(np.sqrt(shares)) / np.sqrt(k))


def duda_bound(p: int, size: int) -> float:
    """The Je(2) / Je(1) that a split of one normal cloud stays above (Duda & Hart 1973).

    p : variables; size : cases of the cluster.
    """
    spread = np.sqrt(2 * (1 - 8 / (np.pi**2 * p)) / (size * p))
    return float(1 - 2 / (np.pi * p) - 3.2 * spread)


def _duda_hart(m: Material, k: int) -> float:
    if k >= m.n:
        return _NONE
    return _ratio(float(m.spread.two[k]), float(m.spread.one[k]))


def _pseudo_t2(m: Material, k: int) -> float:
    if k >= m.n:
        return _NONE
    one, two, size = m.spread.one[k], m.spread.two[k], m.spread.split_size[k]
    return _ratio(float(one - two), float(two / (size - 2))) if size > 2 else _NONE


def _beale(m: Material, k: int) -> float:
    if k >= m.n:
        return _NONE
    one, two, size = m.spread.one[k], m.spread.two[k], int(m.spread.split_size[k])
    if size <= 2:
        return _NONE
    chance = (size - 1) / (size - 2) * 2 ** (2 / m.p) - 1
    return _ratio(float(one - two), float(two)) / chance


def beale_bound(p: int, size: int) -> float:
    """The quantile of F at .05 that a split not needed stays below (Beale 1969).

    p : variables; size : cases of the cluster; NaN for two cases or fewer.
    """
    from scipy.special import fdtri

    return float(fdtri(p, (size - 2) * p, 0.95)) if size > 2 else _NONE


def _jump(m: Material, k: int) -> float:
    below = m.mass * m.p

    def raised(count: int) -> float:
        w = _w(m, count)
        return float((w / below) ** (-m.p / 2)) if w > 0 else _NONE

    with np.errstate(over="ignore", invalid="ignore"):
        rise = raised(k) - (raised(k - 1) if k > 1 else 0.0)
    return rise if np.isfinite(rise) else _NONE


def _marriott(m: Material, k: int) -> float:
    return k * k * m.scatter.of_total(k) if k < m.n else _NONE


def _scott_symons(m: Material, k: int) -> float:
    share = m.scatter.of_total(k) if k < m.n else _NONE
    return float(-m.scatter.mass * np.log(share)) if share > 0 else _NONE


def _cubic(m: Material, k: int) -> float:
    return cubic_criterion(m.scatter, k) if k < m.n else _NONE


def _bic(m: Material, k: int) -> float:
    return normal_bic(m.scatter, k) if k < m.n else _NONE


def _davies_bouldin(m: Material, k: int) -> float:
    assert m.answers is not None
    if k < 2:
        return _NONE
    return davies_bouldin(m.nested.clusters(k), m.answers.values, m.answers.importance)


def _silhouette(m: Material, k: int) -> float:
    return float(silhouette_values(m.pairs, k)[0].mean()) if k > 1 else _NONE


def _dunn(m: Material, k: int) -> float:
    inside = m.nested.together >= k
    if k < 2:
        return _NONE
    return _ratio(float(m.pairs.nearest[~inside].min()), float(m.pairs.farthest[inside].max()))


def _point_biserial(m: Material, k: int) -> float:
    pairs = m.n * (m.n - 1) / 2
    within = m.nested.pairs_within(k)
    between = pairs - within
    if within == 0 or between == 0:
        return _NONE
    total, inside = m.pairs.total, m.sum_within(k)
    mean = total / pairs
    spread = m.pairs.squares / pairs - mean * mean
    if spread <= 1e-24 * mean * mean:
        return _NONE
    apart = (total - inside) / between - inside / within
    return float(apart * np.sqrt(within * between) / pairs / np.sqrt(spread))


def _mcclain_rao(m: Material, k: int) -> float:
    within = m.nested.pairs_within(k)
    between = m.n * (m.n - 1) / 2 - within
    if within == 0 or between == 0:
        return _NONE
    inside = m.sum_within(k)
    return _ratio(inside / within, (m.pairs.total - inside) / between)


def _c_index(m: Material, k: int) -> float:
    assert m.ranked is not None
    place = m.counts.index(k)
    low, high = float(m.ranked.smallest[place]), float(m.ranked.largest[place])
    inside = m.sum_within(k)
    if high - low <= 1e-12 * high:
        return _NONE
    return 0.0 if abs(inside - low) <= 1e-12 * low else max((inside - low) / (high - low), 0.0)


def _gamma(m: Material, k: int) -> float:
    assert m.ranked is not None
    place = m.counts.index(k)
    agree, against = m.ranked.agree[place], m.ranked.against[place]
    return _ratio_signed(float(agree - against), float(agree + against))


def _tau(m: Material, k: int) -> float:
    assert m.ranked is not None
    place, within = m.counts.index(k), m.nested.pairs_within(k)
    agree, against = int(m.ranked.agree[place]), int(m.ranked.against[place])
    pairs = m.n * (m.n - 1) // 2
    compared = within * (pairs - within)  # of all pairs of pairs less t
    every = pairs * (pairs - 1) // 2
    return _ratio_signed(float(agree - against), float(np.sqrt(compared) * np.sqrt(every)))


def _g_plus(m: Material, k: int) -> float:
    assert m.ranked is not None
    within, pairs = m.nested.pairs_within(k), m.n * (m.n - 1) // 2
    if within in (0, pairs):
        return _NONE
    return 2 * float(m.ranked.against[m.counts.index(k)]) / (pairs * (pairs - 1))


def _cop(m: Material, k: int) -> float:
    assert m.answers is not None
    if k < 2:
        return _NONE
    points = m.answers.points[m.nested.order]
    sizes, starts = m.nested.cluster_sizes(k), m.nested.starts(k)
    own, begins = np.repeat(np.arange(k), sizes), np.append(0, np.cumsum(sizes)[:-1])
    first = points[begins][own]  # about a case of each, so that equal ones have no width
    centroids = first[begins] + np.add.reduceat(points - first, begins) / sizes[:, None]
    wide = np.add.reduceat(np.sqrt(((points - centroids[own]) ** 2).sum(axis=1)), begins) / sizes
    highs = np.maximum.reduceat(m.pairs.highs, starts, axis=1)
    highs[np.arange(m.n), own] = np.inf
    apart = highs.min(axis=0)
    if not apart.min() > 0:
        return _NONE
    return float((sizes * wide / apart).sum() / m.n)


def _largest_jump(m: Material, k: int) -> float:
    if not 2 <= k < m.n:
        return _NONE
    return float(m.tree.heights[m.n - k] - m.tree.heights[m.n - k - 1])


def _mojena(m: Material, k: int) -> float:
    if k < 2 or m.tree.joins < 2:
        return _NONE
    heights = m.tree.heights
    sd = float(heights.std(ddof=1))
    return _ratio(float(heights[m.n - k] - heights.mean()), sd)


SPREAD_RULES: dict[str, Value] = {
    "calinski-harabasz": _calinski_harabasz,
    "hartigan": _hartigan,
    "krzanowski-lai": _krzanowski_lai,
    "ball-hall": _ball_hall,
    "trace-w": _w,
    "ratkowsky-lance": _ratkowsky_lance,
    "duda-hart": _duda_hart,
    "pseudo-t2": _pseudo_t2,
    "davies-bouldin": _davies_bouldin,
    "beale": _beale,
    "jump": _jump,
}
SCATTER_RULES: dict[str, Value] = {
    "ccc": _cubic,
    "marriott": _marriott,
    "scott-symons": _scott_symons,
    "bic": _bic,
}
PAIR_RULES: dict[str, Value] = {
    "silhouette": _silhouette,
    "dunn": _dunn,
    "point-biserial": _point_biserial,
    "mcclain-rao": _mcclain_rao,
    "cop": _cop,
}
RANK_RULES: dict[str, Value] = {
    "c-index": _c_index,
    "gamma": _gamma,
    "tau": _tau,
    "g-plus": _g_plus,
}
HEIGHT_RULES: dict[str, Value] = {"largest-jump": _largest_jump, "mojena": _mojena}
CURVE_RULES: dict[str, Curve] = {
    "cvnn": lambda m, distances, progress: neighbour_values(
        m.pairs, distances, m.counts, progress=progress
    ),
    "density": lambda m, distances, progress: density_values(
        m.nested, distances, m.counts, m.p, progress
    ),
}


def table(rules: dict[str, Value], keys: Collection[str], material: Material) -> dict[str, Floats]:
    """(counts,) values of those of the rules that are asked for."""
    return {
        key: np.array([rules[key](material, count) for count in material.counts])
        for key in rules
        if key in keys
    }
