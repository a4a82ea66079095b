"""All rules that do not resample, and the answer of each."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from gorvel.core.count.indices.height_rules import HEIGHT_RULES
from gorvel.core.count.indices.index import Basis, Index, Material
from gorvel.core.count.indices.pair_rules import PAIR_RULES
from gorvel.core.count.indices.scatter_rules import SCATTER_RULES
from gorvel.core.count.indices.spread_rules import SPREAD_RULES
from gorvel.core.count.indices.verdicts import Verdict, abstains, by_bound, by_extreme
from gorvel.core.plan.count_rules import COUNT_RULES

Floats = NDArray[np.float64]

INDICES: dict[str, Index] = {**SPREAD_RULES, **SCATTER_RULES, **HEIGHT_RULES, **PAIR_RULES}


def of_basis(*bases: Basis) -> frozenset[str]:
    """Keys of the rules that are made of these."""
    return frozenset(key for key, index in INDICES.items() if index.basis in bases)


def verdict_of(key: str, found: Floats, material: Material) -> Verdict:
    """The answer of a rule that does not resample.

    found : (counts,) its values at those of the material.
    """
    counts, index, rule = material.counts, INDICES[key], COUNT_RULES[key]
    if not np.isfinite(found).any():
        return _from_one(abstains(key, counts, index.no_value), material)
    if index.decides is not None:
        return index.decides(found, material)
    if index.bound is not None:
        bound = index.bound.of(material, counts)
        holds = index.bound.holds(found, bound)
        return _from_one(by_bound(key, counts, found, holds, bound, index.bound.below), material)
    if index.merit is not None:
        return by_extreme(key, counts, found, index.merit(material))
    return _or_one(by_extreme(key, counts, found, rule.direction.sign * found), material)


def _from_one(verdict: Verdict, material: Material) -> Verdict:
    """One cluster is the answer, which no count looked at may be, where it keeps to the bound."""
    index = INDICES[verdict.key]
    if index.bound is None or index.value is None or 1 in material.counts or material.n < 3:
        return verdict
    value, bound = index.value(material, 1), index.bound.of(material, (1,))
    if not (np.isfinite(value) and index.bound.holds(np.array([value]), bound).all()):
        return verdict
    told = f"{value:.3g} against {bound[0]:.3g}" if np.isfinite(bound[0]) else "any value does"
    why = f"one cluster: undivided, it meets the bound ({told})"
    return replace(verdict, best=None, runner_up=None, why=why, besides="one")


def _or_one(verdict: Verdict, material: Material) -> Verdict:
    """One cluster is the answer, which no count looked at may be, where it does as well."""
    alone, sign = INDICES[verdict.key].alone, COUNT_RULES[verdict.key].direction.sign
    if alone is None or verdict.best is None or 1 in verdict.counts:
        return verdict
    value, best = alone(material), verdict.at(verdict.best)
    if not np.isfinite(value) or sign * best > sign * value:
        return verdict
    why = f"one cluster: no number is better than {value:.3g} (the best is {best:.3g})"
    return replace(verdict, best=None, runner_up=None, why=why, besides="one")
