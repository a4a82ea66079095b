"""Rules made of the distances of all pairs: their sums, their ranks, and what is around a case."""

from __future__ import annotations

import numpy as np

from gorvel.core.count.indices.density import density_values
from gorvel.core.count.indices.index import NONE, Index, Material, ratio, signed_ratio
from gorvel.core.count.indices.neighbours import neighbour_values
from gorvel.core.count.indices.pairsums import silhouette_values


def _silhouette(m: Material, k: int) -> float:
    return float(silhouette_values(m.pairs, k)[0].mean()) if k > 1 else NONE


def _dunn(m: Material, k: int) -> float:
    inside = m.nested.together >= k
    if k < 2:
        return NONE
    return ratio(float(m.pairs.nearest[~inside].min()), float(m.pairs.farthest[inside].max()))


def _point_biserial(m: Material, k: int) -> float:
    pairs = m.n * (m.n - 1) / 2
    within = m.nested.pairs_within(k)
    between = pairs - within
    if within == 0 or between == 0:
        return NONE
    total, inside = m.pairs.total, m.sum_within(k)
    mean = total / pairs
    spread = m.pairs.squares / pairs - mean * mean
    if spread <= 1e-24 * mean * mean:
        return NONE
    apart = (total - inside) / between - inside / within
    return float(apart * np.sqrt(within * between) / pairs / np.sqrt(spread))


def _mcclain_rao(m: Material, k: int) -> float:
    within = m.nested.pairs_within(k)
    between = m.n * (m.n - 1) / 2 - within
    if within == 0 or between == 0:
        return NONE
    inside = m.sum_within(k)
    return ratio(inside / within, (m.pairs.total - inside) / between)


def _cop(m: Material, k: int) -> float:
    assert m.answers is not None
    if k < 2:
        return NONE
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
        return NONE
    return float((sizes * wide / apart).sum() / m.n)


def _c_index(m: Material, k: int) -> float:
    assert m.ranked is not None
    place = m.counts.index(k)
    low, high = float(m.ranked.smallest[place]), float(m.ranked.largest[place])
    inside = m.sum_within(k)
    if high - low <= 1e-12 * high:
        return NONE
    return 0.0 if abs(inside - low) <= 1e-12 * low else max((inside - low) / (high - low), 0.0)


def _gamma(m: Material, k: int) -> float:
    assert m.ranked is not None
    place = m.counts.index(k)
    agree, against = m.ranked.agree[place], m.ranked.against[place]
    return signed_ratio(float(agree - against), float(agree + against))


def _tau(m: Material, k: int) -> float:
    assert m.ranked is not None
    place, within = m.counts.index(k), m.nested.pairs_within(k)
    agree, against = int(m.ranked.agree[place]), int(m.ranked.against[place])
    pairs = m.n * (m.n - 1) // 2
    compared = within * (pairs - within)  # of all pairs of pairs less t
    every = pairs * (pairs - 1) // 2
    return signed_ratio(float(agree - against), float(np.sqrt(compared) * np.sqrt(every)))


def _g_plus(m: Material, k: int) -> float:
    assert m.ranked is not None
    within, pairs = m.nested.pairs_within(k), m.n * (m.n - 1) // 2
    if within in (0, pairs):
        return NONE
    return 2 * float(m.ranked.against[m.counts.index(k)]) / (pairs * (pairs - 1))


PAIR_RULES: dict[str, Index] = {
    "silhouette": Index("pairs", _silhouette),
    "dunn": Index("pairs", _dunn),
    "point-biserial": Index("pairs", _point_biserial),
    "mcclain-rao": Index("pairs", _mcclain_rao),
    "cop": Index("pairs", _cop),
    "c-index": Index("ranks", _c_index),
    "gamma": Index("ranks", _gamma),
    "tau": Index("ranks", _tau),
    "g-plus": Index("ranks", _g_plus),
    "cvnn": Index("cases", curve=lambda material, distances, progress: neighbour_values(
        material.pairs, distances, material.counts, progress=progress
    )),
    "density": Index("cases", curve=lambda material, distances, progress: density_values(
        material.nested, distances, material.counts, material.p, progress
    )),
}  # fmt: skip
