"""Rules made of sums of squares within clusters."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from gorvel.core.count.indices.index import NONE, Bound, Index, Material, ratio, signed_ratio
from gorvel.core.count.indices.within_ss import davies_bouldin

Floats = NDArray[np.float64]
HARTIGAN_BOUND = 10.0


def _w(m: Material, k: int) -> float:
    """W; 0 where every case is alone, NaN where there is no such count."""
    if k < 1 or k > m.n:
        return NONE
    return 0.0 if k == m.n else float(m.spread.within[k])


def _calinski_harabasz(m: Material, k: int) -> float:
    if k < 2 or k >= m.n:
        return NONE
    return ratio(m.spread.between[k] / (k - 1), m.spread.within[k] / (m.n - k))


def _hartigan(m: Material, k: int) -> float:
    below = _w(m, k + 1)
    return (_w(m, k) / below - 1) * (m.n - k - 1) if below > 0 else NONE


def _diff(m: Material, k: int) -> float:
    return float((k - 1) ** (2 / m.p) * _w(m, k - 1) - k ** (2 / m.p) * _w(m, k))


def _krzanowski_lai(m: Material, k: int) -> float:
    return abs(signed_ratio(_diff(m, k), _diff(m, k + 1))) if k > 1 else NONE


def _ball_hall(m: Material, k: int) -> float:
    return _w(m, k) / k


def _ratkowsky_lance(m: Material, k: int) -> float:
    varies = m.spread.total > 0
    if not varies.any():
        return NONE
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
        return NONE
    return ratio(float(m.spread.two[k]), float(m.spread.one[k]))


def _pseudo_t2(m: Material, k: int) -> float:
    if k >= m.n:
        return NONE
    one, two, size = m.spread.one[k], m.spread.two[k], m.spread.split_size[k]
    return ratio(float(one - two), float(two / (size - 2))) if size > 2 else NONE


def _beale(m: Material, k: int) -> float:
    if k >= m.n:
        return NONE
    one, two, size = m.spread.one[k], m.spread.two[k], int(m.spread.split_size[k])
    if size <= 2:
        return NONE
    chance = (size - 1) / (size - 2) * 2 ** (2 / m.p) - 1
    return ratio(float(one - two), float(two)) / chance


def beale_bound(p: int, size: int) -> float:
    """The quantile of F at .05 that a split not needed stays below (Beale 1969).

    p : variables; size : cases of the cluster; NaN for two cases or fewer.
    """
    from scipy.special import fdtri

    return float(fdtri(p, (size - 2) * p, 0.95)) if size > 2 else NONE


def _jump(m: Material, k: int) -> float:
    below = m.mass * m.p

    def raised(count: int) -> float:
        w = _w(m, count)
        return float((w / below) ** (-m.p / 2)) if w > 0 else NONE

    with np.errstate(over="ignore", invalid="ignore"):
        rise = raised(k) - (raised(k - 1) if k > 1 else 0.0)
    return rise if np.isfinite(rise) else NONE


def _davies_bouldin(m: Material, k: int) -> float:
    assert m.answers is not None
    if k < 2:
        return NONE
    return davies_bouldin(m.nested.clusters(k), m.answers.values, m.answers.importance)


def _duda_bounds(material: Material, counts: tuple[int, ...]) -> Floats:
    sizes = [int(material.spread.split_size[k]) for k in counts]
    return np.array([duda_bound(material.p, size) if size else np.nan for size in sizes])


def _beale_bounds(material: Material, counts: tuple[int, ...]) -> Floats:
    return np.array([beale_bound(material.p, int(material.spread.split_size[k])) for k in counts])


def _restated(material: Material, counts: tuple[int, ...]) -> Floats:
    """The bound of Duda and Hart as one for pseudo t²; where it is 0 or less, all keep to it."""
    bound = _duda_bounds(material, counts)
    sizes = np.array([int(material.spread.split_size[k]) for k in counts])
    with np.errstate(divide="ignore"):
        return np.where(bound > 0, (1 / bound - 1) * (sizes - 2), np.inf)


def _drops(material: Material) -> Floats:
    """By how much Ball and Hall's value falls from one count less."""
    w = material.spread.within
    return np.array([w[k - 1] / (k - 1) - w[k] / k if k >= 3 else np.nan for k in material.counts])


def _bends(material: Material) -> Floats:
    """How sharply W bends."""
    w = material.spread.within
    return np.array([
        w[k - 1] - 2 * w[k] + w[k + 1] if k >= 2 and k + 1 < len(w) else np.nan
        for k in material.counts
    ])  # fmt: skip


SPREAD_RULES: dict[str, Index] = {
    "calinski-harabasz": Index("spread", _calinski_harabasz),
    "hartigan": Index(
        "spread", _hartigan,
        bound=Bound(lambda material, counts: np.full(len(counts), HARTIGAN_BOUND)),
    ),
    "krzanowski-lai": Index("spread", _krzanowski_lai),
    "ball-hall": Index("spread", _ball_hall, merit=_drops),
    "trace-w": Index("spread", _w, merit=_bends),
    "ratkowsky-lance": Index("spread", _ratkowsky_lance),
    "duda-hart": Index("spread", _duda_hart, bound=Bound(_duda_bounds, below=False)),
    "pseudo-t2": Index("spread", _pseudo_t2, bound=Bound(_restated)),
    "davies-bouldin": Index("spread", _davies_bouldin),
    "beale": Index("spread", _beale, bound=Bound(_beale_bounds)),
    "jump": Index("spread", _jump, alone=lambda material: _jump(material, 1)),
}  # fmt: skip
