"""Missing answers: which go missing together, and what each way of handling them would keep."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from gorvel.core.base.errors import InputError
from gorvel.core.base.numbers import counted
from gorvel.core.base.progress import Phase, Progress, silent
from gorvel.core.cases.rows import left_out
from gorvel.core.plan.kinds import HANDLINGS
from gorvel.core.plan.plan import Plan
from gorvel.core.table.table import Table

_CELLS = 1 << 20  # pairs of patterns looked at at once


@dataclass(frozen=True)
class Pattern:
    """A combination of answered and missing variables. answered : p flags; cases : how many."""

    answered: tuple[bool, ...]
    cases: int


@dataclass(frozen=True)
class Gaps:
    """Missing answers of the cases chosen, in the variables in use.

    variables : p names; missing : p counts; cases : chosen; patterns : the most frequent first;
    complete : cases without a gap; cells : missing answers in all;
    strangers : pairs of cases that have no variable in common.
    """

    variables: tuple[str, ...]
    missing: tuple[int, ...]
    cases: int
    patterns: tuple[Pattern, ...]
    complete: int
    cells: int
    strangers: int


def find_gaps(table: Table, plan: Plan, progress: Progress = silent) -> Gaps:
    """Look at the gaps of a table under a plan.

    Raises
    ------
    InputError : the condition or a column of the plan does not fit the table, or none is in use.
    """
    names = plan.variables.use
    if not names:
        raise InputError("no variables", "at least one", place="[variables] use", file=table.name)
    out = left_out(table, plan)
    chosen = np.ones(table.n, dtype=bool)
    chosen[list(out)] = False
    rows = np.flatnonzero(chosen)
    answered = np.column_stack(
        [table.series(name, plan.codes(name)).is_not_null().to_numpy()[rows] for name in names]
    )
    packed = np.packbits(answered, axis=1)
    rows_as_one = np.ascontiguousarray(packed).view(np.dtype((np.void, packed.shape[1])))[:, 0]
    _, first, times = np.unique(rows_as_one, return_index=True, return_counts=True)
    order = np.argsort(-times, kind="stable")
    distinct, times = answered[first[order]], times[order]
    return Gaps(
        variables=tuple(names),
        missing=tuple((~answered).sum(axis=0).tolist()),
        cases=len(rows),
        patterns=tuple(map(Pattern, map(tuple, distinct.tolist()), times.tolist())),
        complete=int(answered.all(axis=1).sum()),
        cells=int((~answered).sum()),
        strangers=_strangers(distinct, times, progress),
    )


def _strangers(patterns: NDArray[np.bool_], times: NDArray[np.int64], progress: Progress) -> int:
    """Pairs of cases without a variable in common. patterns : (u, p) distinct; times : (u,).

    Of two such cases, one has answered at most half of the variables; these few meet all, a block
    at a time.
    """
    flags, weights = patterns.astype(np.float32), times.astype(np.float64)
    counts = patterns.sum(axis=1)
    few = np.flatnonzero(counts <= patterns.shape[1] / 2)
    pairs = -0.5 * float(weights[counts == 0].sum())  # no case is a pair with itself
    block = max(1, _CELLS // max(1, len(patterns)))
    for start in range(0, few.size, block):
        progress(Phase.SCREENING, start / few.size)
        rows = few[start : start + block]
        apart = (flags[rows] @ flags.T == 0).astype(np.float64)
        apart[:, few] *= 0.5  # both of such a pair are among the few: it is met twice
        pairs += float(weights[rows] @ (apart @ weights))
    return round(pairs)


def outcome_words(gaps: Gaps, handling: str) -> str:
    """What would become of the cases under a handling."""
    if not gaps.cases:
        return "no case is used"
    every = "the only case" if gaps.cases == 1 else f"all {gaps.cases:,} cases"
    if not gaps.cells:
        return f"{every} {'is' if gaps.cases == 1 else 'are'} complete"
    if handling == "drop":
        return f"{gaps.complete:,} of {gaps.cases:,} cases used"
    if handling == "stop":
        return f"does not run: {counted(gaps.cases - gaps.complete, 'case')} with a missing answer"
    stay = f"{every} {'stays' if gaps.cases == 1 else 'stay'}"
    if handling == "pairwise":
        if gaps.strangers:
            return f"does not run: {counted(gaps.strangers, 'pair')} without a variable in common"
        return f"{stay}; pairs are based on different variables"
    share = gaps.cells / (gaps.cases * len(gaps.variables))
    filled = "is" if gaps.cells == 1 else "are"
    return f"{stay}; {counted(gaps.cells, 'answer')} ({share:.1%}) {filled} imputed"


def allowed_handlings(plan: Plan) -> list[str]:
    """The handlings that go with the measure."""
    return [key for key in HANDLINGS if not plan.why_not("missing", handling=key)]
