"""What is said of cases in a plane: how far a map or two components are to be trusted."""

from __future__ import annotations

import numpy as np

from gorvel.core.base.numbers import fixed, unit
from gorvel.core.profile.components import Components
from gorvel.core.profile.map import CaseMap
from gorvel.core.profile.planes import ARROWS

_FAIR, _POOR = 0.1, 0.2  # of stress-1: beyond these a map is read with care, or hardly (Kruskal)


def fits_badly(found: CaseMap) -> bool:
    """Do the distances of a map hardly show similarity?"""
    return found.stress1 > _POOR


def map_words(found: CaseMap, least: bool, of: str) -> str:
    """How far the map is to be trusted."""
    if least:
        how = "distances show similarity well"
        if found.stress1 > _POOR:
            how = "distances only roughly show similarity: two dimensions fit poorly"
        elif found.stress1 > _FAIR:
            how = "distances roughly show similarity"
        words = f"Stress {fixed(found.stress1, 2)}: {how}."
    elif np.isfinite(found.explained):
        words = (
            f"The two axes account for {found.explained:.0%} of the sum of the positive "
            "eigenvalues."
        )
    else:
        words = "All distances are 0."
    if found.landmarks:
        words += (
            f" Map of {found.landmarks:,} sampled {unit(of, found.landmarks).split()[-1]}; "
            "the others placed afterwards."
        )
    return words


def components_words(found: Components, one: int, other: int) -> str:
    """How much two components (from 0) account for, and what the arrows are."""
    both = found.explained[one] + (found.explained[other] if other != one else 0.0)
    words = (
        f"From the correlations of {len(found.names)} variables; these two account for "
        f"{both:.0%} of the variance. Arrows point to higher answers."
    )
    if len(found.names) > ARROWS:
        words += f" The {ARROWS} longest of {len(found.names)} are shown."
    if found.gaps:
        words += " Missing answers are set to the mean."
    if found.left_out:
        names = ", ".join(found.left_out[:4]) + (" …" if len(found.left_out) > 4 else "")
        words += f" Excluded: {names}."
    return words
