"""What the charts show, against the definitions."""

from __future__ import annotations

import statistics

import numpy as np
import polars as pl
import pytest
from hypothesis import given
from hypothesis import strategies as st

from gorvel.core.inspect.close_up import (
    Bounded,
    bars_of,
    bounded_of,
    box_of,
    close_up,
    histogram_of,
    scatter_of,
)
from gorvel.core.plan.plan import Plan
from gorvel.core.table.table import Table
from reference import proximities as slow
from reference.trees import pearson

CELL = st.none() | st.sampled_from(["0", "1", "2", "2.5", "9", "40"])


def table(**columns: list[str | None]) -> Table:
    return Table("t", pl.DataFrame(columns, schema=dict.fromkeys(columns, pl.String)))


@given(cells=st.lists(CELL, min_size=1, max_size=14))
def test_histogram_box_and_bars_hold_every_answer(cells: list[str | None]) -> None:
    source = table(a=cells)
    known = sorted(float(c) for c in cells if c not in (None, "9"))
    histogram, box = histogram_of(source, "a", ["9"]), box_of(source, "a", ["9"])
    if len(set(known)) < 2:
        assert histogram is None
    else:
        assert histogram is not None
        assert histogram.counts.sum() == len(known)
        widths = np.diff(histogram.edges)
        assert np.allclose(widths, widths[0])
    bars = bars_of(source, "a", ["9"])
    assert bars.missing == len(cells) - len(known)
    assert sum(bars.counts) + bars.others == len(known)
    assert list(bars.counts) == sorted(bars.counts, reverse=True)
    if not known:
        assert box is None
        return
    assert box is not None
    if len(known) > 1:
        quartiles = statistics.quantiles(known, n=4, method="inclusive")
        assert box.quartiles == pytest.approx(tuple(quartiles))
    reach = 1.5 * (box.quartiles[2] - box.quartiles[0])
    outside = [v for v in known if not box.quartiles[0] - reach <= v <= box.quartiles[2] + reach]
    assert sorted(box.outside.tolist()) == outside
    inside = [v for v in known if v not in outside]
    assert (box.low, box.high) == (inside[0], inside[-1])


@given(rows=st.lists(st.tuples(CELL, CELL), min_size=1, max_size=12))
def test_correlations_are_of_the_cases_that_have_both(
    rows: list[tuple[str | None, str | None]],
) -> None:
    source = table(a=[a for a, _ in rows], b=[b for _, b in rows])
    both = [(float(a), float(b)) for a, b in rows if a is not None and b is not None]
    told = scatter_of(source, "a", "b")
    assert told.cases == len(both)
    assert list(zip(told.x.tolist(), told.y.tolist(), strict=True)) == both
    x, y = [a for a, _ in both], [b for _, b in both]
    if len(both) < 3 or len(set(x)) < 2 or len(set(y)) < 2:
        assert told.r is None
        return
    assert told.r == pytest.approx(pearson(x, y))
    assert told.rank_r == pytest.approx(pearson(slow.ranks(x), slow.ranks(y)))


def test_the_ends_of_a_variable_and_what_becomes_of_them() -> None:
    source = table(a=[str(v) for v in range(1, 11)] + ["900"], b=["1"] * 11)
    plan = Plan.model_validate({"source": {"file": "t"}, "variables": {"use": ("a", "b")}})
    told = close_up(source, plan, ["a"], True)
    assert told.bounded == Bounded(
        "a", "keep", (1, 99), (pytest.approx(1.1), pytest.approx(811)), 2
    )
    assert "1 lie more than 3.5 robust standard deviations" in told.title
    capped = plan.with_("variables", cap={"a": [0, 90]})
    assert bounded_of(source, capped, "a") == Bounded("a", "cap", (0, 90), (1, 10), 1)
    trimmed = plan.with_("variables", trim={"a": [10, 100]})
    assert bounded_of(source, trimmed, "a") == Bounded("a", "trim", (10, 100), (2, 900), 1)


def test_many_points_are_thinned_and_whole_numbers_keep_their_classes() -> None:
    rng = np.random.default_rng(3)
    source = table(
        a=[f"{v:.6f}" for v in rng.normal(size=9000)], b=[str(v) for v in rng.integers(1, 6, 9000)]
    )
    told = scatter_of(source, "a", "b")
    assert told.cases == 9000
    assert len(told.x) == 3000
    histogram = histogram_of(source, "b")
    assert histogram is not None
    assert histogram.edges.tolist() == [0.5, 1.5, 2.5, 3.5, 4.5, 5.5]
