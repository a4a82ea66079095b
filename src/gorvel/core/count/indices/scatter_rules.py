"""Rules made of whole matrices of scatter."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from gorvel.core.count.indices.index import NONE, Index, Material
from gorvel.core.count.indices.scatter import cubic_criterion, normal_bic

Floats = NDArray[np.float64]
CUBIC_BOUND = 2.0


def _marriott(m: Material, k: int) -> float:
    return k * k * m.scatter.of_total(k) if k < m.n else NONE


def _scott_symons(m: Material, k: int) -> float:
    share = m.scatter.of_total(k) if k < m.n else NONE
    return float(-m.scatter.mass * np.log(share)) if share > 0 else NONE


def _cubic(m: Material, k: int) -> float:
    return cubic_criterion(m.scatter, k) if k < m.n else NONE


def _bic(m: Material, k: int) -> float:
    return normal_bic(m.scatter, k) if k < m.n else NONE


def _rises(material: Material) -> Floats:
    """By how much Scott and Symons' value rises from one count less; it is 0 for one cluster."""
    return np.array([
        _scott_symons(material, k) - (_scott_symons(material, k - 1) if k > 2 else 0.0)
        if k > 1 else np.nan
        for k in material.counts
    ])  # fmt: skip


SCATTER_RULES: dict[str, Index] = {
    "ccc": Index("scatter", _cubic, alone=lambda material: CUBIC_BOUND),
    "marriott": Index("scatter", _marriott, alone=lambda material: 1.0),
    "scott-symons": Index("scatter", _scott_symons, merit=_rises),
    "bic": Index("scatter", _bic, alone=lambda material: _bic(material, 1)),
}
