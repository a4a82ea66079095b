"""Every look at the variables of a plan that the Cases page takes."""

from __future__ import annotations

import contextlib

import numpy as np

from gorvel.core.base.errors import InputError
from gorvel.core.cases.prepare import prepare
from gorvel.core.inspect.associations import correlation_map
from gorvel.core.inspect.close_up import close_up
from gorvel.core.inspect.missing_patterns import find_gaps, outcome_words
from gorvel.core.inspect.outliers import find_outliers
from gorvel.core.inspect.screening import screen
from gorvel.core.plan.kinds import HANDLINGS
from gorvel.core.plan.plan import Plan
from gorvel.core.table.summary import describe_column
from gorvel.core.table.table import Table


def take_all(table: Table, plan: Plan) -> None:
    """Each gives what can be, or says in an InputError why it cannot."""
    with contextlib.suppress(InputError):
        gaps = find_gaps(table, plan)
        assert sum(pattern.cases for pattern in gaps.patterns) == gaps.cases
        assert 0 <= gaps.strangers <= gaps.cases * (gaps.cases - 1) // 2
        assert all(outcome_words(gaps, handling) for handling in HANDLINGS)
    with contextlib.suppress(InputError):
        found = correlation_map(table, plan)
        assert sorted(found.names) == sorted(plan.variables.use)
        known = found.values[~np.isnan(found.values)]
        assert np.all(np.abs(known) <= 1 + 1e-12)
    with contextlib.suppress(InputError):
        assert all(flag.column in table.names for flag in screen(table, plan))
    for first in plan.variables.use:
        for second in plan.variables.use:
            with contextlib.suppress(InputError):
                assert close_up(
                    table, plan, list(dict.fromkeys((first, second))), numeric=first != "word"
                ).title
    with contextlib.suppress(InputError):
        prepared = prepare(table, plan)
        assert all(1 <= one.case <= table.n for one in find_outliers(prepared, plan))
    for name in table.names:
        told = describe_column(table, name, plan.codes(name))
        assert told.valid + told.missing == table.n
