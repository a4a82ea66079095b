"""The dip test: the statistic from its definition, and how often even noise reaches it."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from gorvel.core.count.null.dip import LEVELS, TABLE, dip, dip_p
from reference import dips as slow

drawn = st.builds(
    lambda seed, n, kind: {
        "even": lambda r: r.uniform(size=n),
        "steps": lambda r: r.integers(0, 5, n).astype(float),
        "peaks": lambda r: r.normal(size=n) + 4 * r.integers(0, 2, n),
        "skewed": lambda r: np.exp(2 * r.normal(size=n)),
    }[kind](np.random.default_rng(seed)),
    st.integers(0, 10**6), st.integers(2, 14),
    st.sampled_from(["even", "steps", "peaks", "skewed"]),
)  # fmt: skip


@given(drawn)
def test_the_dip_is_the_distance_to_the_nearest_unimodal_distribution(x: np.ndarray) -> None:
    wanted = slow.dip(x.tolist()) if len(np.unique(x)) > 1 else 0.0
    assert dip(x) == pytest.approx(wanted, abs=1e-8)


@given(drawn, st.floats(0.1, 9), st.floats(-5, 5))
def test_unit_and_order_do_not_matter(x: np.ndarray, scale: float, shift: float) -> None:
    again = np.random.default_rng(1).permutation(x * scale + shift)
    if len(np.unique(again)) == len(np.unique(x)):
        assert dip(again) == pytest.approx(dip(x), abs=1e-9)
    assert dip(-x) == pytest.approx(dip(x), abs=1e-9)


def test_few_values() -> None:
    assert dip(np.array([3.0])) == dip(np.array([2.0, 2.0, 2.0])) == 0.0
    assert dip(np.array([0.0, 1.0])) == 0.25
    assert dip(np.array([0.0] * 50 + [1.0] * 50)) == pytest.approx(0.25)


@pytest.mark.slow
def test_the_level_holds_for_even_noise_and_for_one_cloud() -> None:
    """1,000 replicates each: a share of .05 lies within .03 and .07 (four standard errors)."""
    rng = np.random.default_rng(5)
    even = [dip_p(dip(rng.uniform(size=80)), 80) for _ in range(1000)]
    assert 0.03 <= np.mean(np.array(even) <= 0.05) <= 0.07
    assert 0.16 <= np.mean(np.array(even) <= 0.2) <= 0.24
    cloud = [dip_p(dip(rng.normal(size=80)), 80) for _ in range(300)]
    assert np.mean(np.array(cloud) <= 0.05) <= 0.02
    peaks = [dip_p(dip(rng.normal(size=80) + 5 * (np.arange(80) % 2)), 80) for _ in range(100)]
    assert np.mean(np.array(peaks) <= 0.01) >= 0.9


def test_the_table_rises_and_p_goes_no_further_than_it() -> None:
    assert all(len(row) == len(LEVELS) and list(row) == sorted(row) for row in TABLE.values())
    assert dip_p(0.25, 1000) == pytest.approx(LEVELS[-1])
    assert dip_p(0.0, 50) == pytest.approx(LEVELS[0])
    assert dip_p(0.05, 10**6) == pytest.approx(LEVELS[-1])
