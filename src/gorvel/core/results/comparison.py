"""Tables of trees beside each other."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from gorvel.core.compare.sweep import Swept


def sweep_columns(
    found: Sequence[Swept], rules: Sequence[str], counts: Sequence[int]
) -> dict[str, list[Any]]:
    """A row for each combination. rules : of the cluster count; counts : of the cuts."""
    out: dict[str, list[Any]] = {
        "scale": [one.at.scale or None for one in found],
        "handling": [one.at.handling or None for one in found],
        "measure": [one.at.measure or None for one in found],
        "linkage": [one.at.linkage for one in found],
        "status": [one.why or "ok" for one in found],
    }
    known = [None if one.why else one for one in found]
    for name, key in (
        ("cases", "cases"), ("cophenetic_correlation", "cophenetic"),
        ("agglomerative_coefficient", "agglomerative"), ("inversions", "inversions"),
        ("ties_that_matter", "ties_that_matter"),
    ):  # fmt: skip
        out[name] = [None if one is None else getattr(one, key) for one in known]
    for rule in rules:
        out[f"best_{rule}"] = [None if one is None else one.best.get(rule) for one in known]
    for count in counts:
        out[f"ari_k{count}"] = [None if one is None else one.agreement.get(count) for one in known]
        out[f"smallest_k{count}"] = [None if one is None else one.smallest.get(count)
                                     for one in known]  # fmt: skip
    return out
