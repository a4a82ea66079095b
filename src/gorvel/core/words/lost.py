"""Who is lost, in a few sentences."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from gorvel.core.base.numbers import fixed, number
from gorvel.core.profile.dropped_cases import DropoutComparison

_FEW = 30
_SMALL = 0.2  # standard deviations below which a difference is not told
_CLEAR = 2.6  # standard errors below which many comparisons find differences by chance
_MOST = 4


def lost_words(
    lost: Sequence[DropoutComparison], labels: Mapping[str, str], cases: int
) -> list[str]:
    """The largest differences, each in words; one sentence where there is none to tell.

    lost : the largest effects first; labels : questions by column; cases : how many are left out.
    """
    if not cases:
        return []
    told = [one for one in lost if abs(one.effect) >= _SMALL and _errors(one) >= _CLEAR]
    if not told:
        few = (
            " With so few excluded, only large differences could be detected."
            if cases < _FEW
            else ""
        )
        return [f"No clear difference between excluded and used cases.{few}"]
    out, seen = [], set[str]()
    for one in told:
        if one.variable in seen:
            continue
        seen.add(one.variable)
        name = labels.get(one.variable) or one.variable
        name += "" if name.endswith("?") else ":"
        if one.level:
            out.append(f"{name} “{one.level}” {one.lost:.0%} against {one.kept:.0%}")
        else:
            more = "higher" if one.difference > 0 else "lower"
            out.append(
                f"{name} {more}, {number(one.lost)} against {number(one.kept)} ("
                f"{fixed(abs(one.effect), 1)} SD)"
            )
        if len(out) == _MOST:
            break
    return out


def _errors(one: DropoutComparison) -> float:
    """A difference in standard errors of one between two random parts of the cases."""
    return float(abs(one.effect) / (1 / one.n_kept + 1 / one.n_lost) ** 0.5)
