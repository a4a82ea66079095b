"""Who is lost, in a few sentences."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from gorvel.core.base.numbers import number
from gorvel.core.profile.lost import Lost

__all__ = ["lost_words"]

_SMALL = 0.2  # standard deviations below which a difference is not told
_MOST = 4


def lost_words(lost: Sequence[Lost], labels: Mapping[str, str], cases: int) -> list[str]:
    """The largest differences, each in words; one sentence where there is none to tell.

    lost : the largest effects first; labels : questions by column; cases : how many are left out.
    """
    if not cases:
        return []
    told = [one for one in lost if abs(one.effect) >= _SMALL and one.n_lost > 1]
    if not told:
        return ["Those left out are much like those kept in all that both have answered."]
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
                f"{name} {more}, {number(one.lost)} against {number(one.kept)}"
                f" ({abs(one.effect):.1f} sd)"
            )
        if len(out) == _MOST:
            break
    return out
