"""Which rows of a table a plan looks at: its condition, and the cases set aside."""

from __future__ import annotations

import numpy as np

from gorvel.core.errors import InputError
from gorvel.core.plan import Plan
from gorvel.core.table.condition import parse_condition
from gorvel.core.table.table import Table

__all__ = ["left_out"]


def left_out(table: Table, plan: Plan) -> dict[int, str]:
    """The rows (from 0) that are not looked at, each with the reason in words.

    Raises
    ------
    InputError : the condition does not fit the table, or a case set aside is not in it.
    """
    cases = plan.cases
    reasons: dict[int, str] = {}
    if cases.keep is not None:
        try:
            chosen = parse_condition(cases.keep).rows(table, plan.codes)
        except InputError as error:
            error.place = "[cases] keep"
            raise error.in_file(table.name) from None
        reasons = {int(row): f"not chosen by {cases.keep}" for row in np.flatnonzero(~chosen)}
    for case in cases.set_aside:
        if case > table.n:
            place = "[cases] set_aside"
            raise InputError(f"case {case}", f"1 to {table.n}", place=place, file=table.name)
        reasons[case - 1] = "set aside"
    return reasons
