"""What a reader of the results should know of the cases and answers they were made from."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

import numpy as np
from numpy.typing import NDArray

from gorvel.core.base.errors import Caution
from gorvel.core.base.numbers import counted, fixed
from gorvel.core.cases.prepared import Variable
from gorvel.core.plan.plan import Plan
from gorvel.core.proximity.measures import MEASURES
from gorvel.core.proximity.scaling import SCALINGS

Floats = NDArray[np.float64]

_MANY = 0.05  # share of the cases dropped
_SKEWED = 1.5  # skewness; that of an exponential distribution is 2
_NAMED = 4


def answer_cautions(
    plan: Plan, variables: Sequence[Variable], values: Floats, looked_at: int, dropped: int
) -> Iterator[Caution]:
    """Many cases dropped for gaps, skewed amounts, yes/no answers that are not scaled.

    values : (n, p) as they are measured; looked_at : cases before any was dropped.
    """
    if looked_at and dropped > _MANY * looked_at:
        yield Caution(
            "dropped",
            f"{dropped:,} of {looked_at:,} cases ({dropped / looked_at:.0%}) are excluded for a"
            " missing answer. Those used may differ from them: compare the two, impute, or use"
            " Gower distance.",
        )
    if MEASURES[plan.proximity.measure].kind != "numbers":
        return
    skewed = [
        (variable.name, skewness)
        for j, variable in enumerate(variables)
        if variable.level in ("interval", "count")
        and abs(skewness := _skewness(values[:, j])) > _SKEWED
    ]
    if skewed:
        yield Caution("skewed-margins", _skewed_words(skewed))
    yield from _unscaled(plan, variables, values)


def _skewed_words(skewed: Sequence[tuple[str, float]]) -> str:
    """What long tails do, and what helps, which differs by the side on which they lie."""
    names = [f"{name} ({fixed(skewness, 1)})" for name, skewness in skewed[:_NAMED]]
    more = f" and {len(skewed) - _NAMED} more" if len(skewed) > _NAMED else ""
    left, right = (any(sign * skewness > 0 for _, skewness in skewed) for sign in (-1, 1))
    few = "small" if left and not right else "large" if right and not left else "extreme"
    helps = "use ranks, or cap" if left else "use ranks or logarithms, or cap"
    if left and right:
        helps = "use ranks, or cap; logarithms only help where the skewness is above 0"
    return (
        f"Skewed variables (skewness): {', '.join(names)}{more}; symmetric variables have 0. A few"
        f" {few} answers dominate distances, and rules based on uniform noise find too many"
        f" clusters: {helps}."
    )


def _skewness(values: Floats) -> float:
    """The third standardised moment of the known values, with its sign; 0 for constant ones."""
    known = values[~np.isnan(values)]
    spread = known.std() if known.size else 0.0
    if known.size < 3 or spread <= 1e-12 * np.abs(known).max():
        return 0.0
    return float((((known - known.mean()) / spread) ** 3).mean())


def _unscaled(plan: Plan, variables: Sequence[Variable], values: Floats) -> Iterator[Caution]:
    yes_no = [j for j, variable in enumerate(variables) if variable.level == "binary"]
    if (
        plan.scale.method == "none"
        or plan.scales("binary")
        or not yes_no
        or len(yes_no) == len(variables)
    ):
        return
    importance = np.array([variable.importance for variable in variables])
    spread = importance * np.nansum((values - np.nanmean(values, axis=0)) ** 2, axis=0)
    if spread.sum() <= 0:
        return
    share = spread[yes_no].sum() / spread.sum()
    yield Caution(
        "yes-no-unscaled",
        f"{counted(len(yes_no), 'yes/no variable')} of {len(variables)} stay 0 and 1 beside"
        f" {SCALINGS[plan.scale.method].name} and make up {fixed(100 * share, 1)}% of the total sum"
        " of squares. They can be scaled like the others.",
    )
