"""Data without groups: margins kept to the last answer, correlations and tails on average."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from gorvel.core.count.resampling.null_model import Margin, NullModel, _latent, _scores_of
from gorvel.core.proximity.answers import Answers
from gorvel.core.table.table import Level

Floats = np.ndarray


def answers(x: Floats, levels: tuple[Level, ...] | None = None) -> Answers:
    p = x.shape[1]
    return Answers.of(x, np.ones(p), levels or ("interval",) * p, (False,) * p)


def fitted(
    x: Floats, masses: Floats | None = None, levels: tuple[Level, ...] | None = None
) -> NullModel:
    return NullModel.of(answers(x, levels), np.ones(len(x)) if masses is None else masses, 1)


def drawn(null: NullModel, number: int = 0) -> Floats:
    return null.draw(np.random.default_rng([3, number]))


def sizes_together(x: Floats) -> float:
    s = np.abs(_scores_of(x, np.ones(len(x))))
    return float(np.corrcoef(s.T)[np.triu_indices(x.shape[1], 1)].mean())


tables = st.builds(
    lambda seed, n, p, steps, gaps: np.where(
        np.random.default_rng(seed + 1).uniform(size=(n, p)) < gaps,
        np.nan,
        np.random.default_rng(seed).integers(0, steps, (n, p)).astype(float)
        if steps
        else np.random.default_rng(seed).normal(size=(n, p)),
    ),
    st.integers(0, 10**6), st.integers(1, 25), st.integers(1, 4), st.sampled_from([0, 0, 1, 2, 5]),
    st.sampled_from([0.0, 0.0, 0.2]),
)  # fmt: skip


@given(tables, st.sampled_from(["interval", "nominal"]), st.integers(0, 99))
def test_margins_and_gaps_stay_as_they_are(x: Floats, level: Level, number: int) -> None:
    x[0] = np.nan_to_num(x[0])  # a variable that nobody answered is none
    null = fitted(x, levels=(level,) * x.shape[1])
    again = drawn(null, number)
    np.testing.assert_array_equal(np.isnan(again), np.isnan(x))
    np.testing.assert_array_equal(np.sort(again, axis=0), np.sort(x, axis=0))


@given(st.integers(0, 10**6), st.integers(2, 30))
def test_margins_are_those_of_the_weighted_cases(seed: int, n: int) -> None:
    rng = np.random.default_rng(seed)
    x, masses = rng.integers(0, 4, (n, 2)).astype(float), rng.uniform(0.5, 2, n)
    again = drawn(fitted(x, masses))
    for j in range(2):
        for level in np.unique(x[:, j]):
            before = masses[x[:, j] == level].sum()
            assert masses[again[:, j] == level].sum() == pytest.approx(before, abs=2 * masses.max())


@given(st.lists(st.integers(1, 9), min_size=2, max_size=6))
def test_the_series_is_that_of_the_integrals(counts: list[int]) -> None:
    """Scores times Hermite polynomials under the normal curve, by sums over a fine grid."""
    values = np.repeat(np.arange(len(counts), dtype=float), counts)
    margin = Margin.of(values, values, np.ones(len(values)))
    z = np.linspace(-9, 9, 90_001)
    curve = np.exp(-z * z / 2) / np.sqrt(2 * np.pi) * (z[1] - z[0])
    score = margin.scores[np.clip(np.searchsorted(margin.bounds[1:-1], z), 0, len(counts) - 1)]
    before, now = np.ones_like(z), z
    for k in range(1, 9):
        assert margin.series[k - 1] == pytest.approx((score * now * curve).sum(), abs=1e-4)
        before, now = now, (z * now - np.sqrt(k) * before) / np.sqrt(k + 1)


@pytest.mark.parametrize("wanted", [-0.4, 0.0, 0.3, 0.55])
def test_curves_hang_together_so_that_scores_do(wanted: float) -> None:
    """A yes/no answer of 30 % and one on four steps, from two million pairs."""
    yes = np.array([0.0] * 70 + [1.0] * 30)
    steps = np.array([0.0] * 10 + [1.0] * 30 + [2.0] * 40 + [3.0] * 20)
    margins = [Margin.of(v, v, np.ones(100)) for v in (yes, steps)]
    rho = _latent(margins, np.array([[1.0, wanted], [wanted, 1.0]]))[0, 1]
    rng = np.random.default_rng(8)
    one = rng.normal(size=2_000_000)
    other = rho * one + np.sqrt(1 - rho**2) * rng.normal(size=len(one))
    scores = [
        margin.scores[np.searchsorted(margin.bounds[1:-1], z)]
        for margin, z in zip(margins, (one, other), strict=True)
    ]
    assert np.corrcoef(scores)[0, 1] == pytest.approx(wanted, abs=0.005)


@pytest.mark.parametrize("kind", ["numbers", "ratings", "yes or no", "skewed", "gaps"])
def test_correlations_of_scores_come_back_on_average(kind: str) -> None:
    """Over 60 draws of 300 cases; four standard errors of a mean of 60 are .03."""
    rng = np.random.default_rng(2)
    x = 0.8 * rng.normal(size=(300, 1)) + 0.6 * rng.normal(size=(300, 4))
    x = {
        "numbers": x, "ratings": np.digitize(x, [-1.5, -0.5, 0.3, 0.8]).astype(float),
        "yes or no": (x > 0.7).astype(float), "skewed": np.exp(2 * x),
        "gaps": np.where(rng.uniform(size=x.shape) < 0.1, np.nan, x),
    }[kind]  # fmt: skip
    null, ones = fitted(x), np.ones(300)
    above = np.triu_indices(4, 1)

    def hang_together(values: Floats) -> Floats:
        s = _scores_of(values, ones)
        known = ~np.isnan(s)
        pairs = [(i, j) for i, j in zip(*above, strict=True)]
        return np.array([
            np.corrcoef(s[known[:, i] & known[:, j]][:, [i, j]].T)[0, 1] for i, j in pairs
        ])  # fmt: skip

    mean = np.mean([hang_together(drawn(null, k)) for k in range(60)], axis=0)
    np.testing.assert_allclose(mean, hang_together(x), atol=0.04)


def test_heavy_tails_come_together_again_and_light_ones_do_not() -> None:
    rng = np.random.default_rng(1)
    normal = rng.normal(size=(400, 6))
    heavy = normal / np.sqrt(rng.chisquare(3, 400) / 3)[:, None]
    assert np.isinf(fitted(normal).tails.freedom)
    assert np.isinf(fitted(np.exp(normal)).tails.freedom)  # skewed, yet no case is large in all
    null = fitted(heavy)
    assert 3 <= null.tails.freedom < 5
    again = np.mean([sizes_together(drawn(null, k)) for k in range(20)])
    assert again == pytest.approx(sizes_together(heavy), abs=0.05)
    assert sizes_together(normal) < 0.1 < sizes_together(heavy)


def test_levels_of_their_own_and_extremity_are_told_from_heavy_tails() -> None:
    rng = np.random.default_rng(6)
    shift, extremity = rng.normal(0, 0.7, (600, 1)), np.exp(rng.normal(0, 0.5, (600, 1)))
    style = np.digitize(shift + extremity * rng.normal(size=(600, 8)), [-1.5, -0.5, 0.5, 1.5])
    assert fitted(style.astype(float)).tails.of_rest
    factor = 0.7 * rng.normal(size=(600, 1)) + 0.7 * rng.normal(size=(600, 8))
    stretched = factor / np.sqrt(rng.chisquare(3, 600) / 3)[:, None]
    assert not fitted(stretched).tails.of_rest


def test_words_keep_how_they_go_with_numbers() -> None:
    """A nominal variable that goes with a factor: its levels are put in the order that shows it."""
    rng = np.random.default_rng(3)
    factor = rng.normal(size=400)
    words = np.array([2.0, 0.0, 3.0, 1.0])[np.digitize(factor, [-0.7, 0.0, 0.7])]  # in no order
    x = np.column_stack([words, *(factor + 0.5 * rng.normal(size=400) for _ in range(3))])
    null = fitted(x, levels=("nominal", "interval", "interval", "interval"))

    def explained(values: Floats) -> float:
        means = {w: values[values[:, 0] == w, 1].mean() for w in np.unique(values[:, 0])}
        return float(np.var([means[w] for w in values[:, 0]]) / values[:, 1].var())

    again = np.mean([explained(drawn(null, k)) for k in range(20)])
    assert again == pytest.approx(explained(x), abs=0.08)
    assert explained(x) > 0.5


def test_the_same_seed_draws_the_same_and_constants_are_no_error() -> None:
    x = np.column_stack([np.ones(30), np.arange(30.0), np.arange(30.0) ** 2])
    one, other = fitted(x), fitted(x)
    np.testing.assert_array_equal(drawn(one, 5), drawn(other, 5))
    assert not np.array_equal(drawn(one, 5), drawn(one, 6))
    np.testing.assert_array_equal(drawn(one)[:, 0], 1.0)
