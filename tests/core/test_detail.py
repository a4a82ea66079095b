"""What the charts show, against the definitions."""

from __future__ import annotations

import statistics

import numpy as np
import polars as pl
import pytest
from hypothesis import given
from hypothesis import strategies as st

from gorvel.core.detail import bars_of, box_of, histogram_of, scatter_of
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
