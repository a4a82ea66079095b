"""What clusters are like: moments, shares, tests and figures against slow code."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import example, given
from hypothesis import strategies as st
from scipy.special import chdtrc, fdtrc, stdtrit

from gorvel.core.cases.design import Design
from gorvel.core.inspect.associations import correlation_ratio
from gorvel.core.inspect.items import analyse_items
from gorvel.core.profile.clusters import cluster_figures
from gorvel.core.profile.differences import differences
from gorvel.core.profile.moments import numbers_of, shares_of
from gorvel.core.profile.raw_answers import Question
from gorvel.core.proximity.scaling import pearson
from gorvel.core.tree.cuts import cut_at_count
from reference import counts as slow_counts
from reference import profiles as slow
from studies import study


class Made:
    """A random variable with gaps, clusters and weights."""

    def __init__(self, seed: int, n: int, k: int, gaps: float, weighted: bool, levels: int) -> None:
        rng = np.random.default_rng(seed)
        self.k = min(k, n)
        self.c = rng.permutation(np.append(np.arange(self.k), rng.integers(0, self.k, n - self.k)))
        self.w = rng.uniform(0.5, 3, n) if weighted else np.ones(n)
        numbers = rng.integers(0, 4, n) if levels else np.round(rng.normal(1e3, 5, n), 2)
        codes = rng.integers(0, levels or 1, n) if levels else np.zeros(n)
        missing = rng.random(n) < gaps
        self.numbers = np.where(missing, np.nan, numbers.astype(float))
        self.codes = np.where(missing, np.nan, codes.astype(float))
        self.words = tuple("abcdefg"[: max(levels, 1)])
        # a sample with rows that are not in the tree
        self.rows = n + int(rng.integers(0, 5))
        strata = rng.integers(0, 3, self.rows)
        self.strata = np.unique(strata, return_inverse=True)[1]
        self.units = rng.integers(0, 4, self.rows)
        both = np.column_stack([self.strata, self.units])
        pairs, self.psu = np.unique(both, axis=0, return_inverse=True)
        self.of_unit = pairs[:, 0]
        self.psu = self.psu.ravel()
        self.replicates = rng.uniform(0.2, 2, (n, 5))

    def x(self, codes: bool) -> list[float | None]:
        values = self.codes if codes else self.numbers
        return [None if math.isnan(v) else float(v) for v in values]

    def linearised(self, single: str) -> Design:
        n = len(self.c)
        df = len(self.of_unit) - (int(self.of_unit.max()) + 1)
        return Design(
            self.w, self.psu[:n], self.of_unit, single, None, np.empty(0), df
        )  # fmt: skip

    def replicated(self) -> Design:
        factors = np.full(5, 0.2)
        return Design(self.w, None, np.empty(0, int), "stop", self.replicates, factors, 5)

    def of_rows(self, z: np.ndarray) -> np.ndarray:
        """The same for all rows of the sample."""
        return np.vstack([z, np.zeros((self.rows - len(z), z.shape[1]))])


made = st.builds(
    Made, st.integers(0, 10**6), st.integers(1, 24), st.integers(1, 4),
    st.sampled_from([0.0, 0.3, 1.0]), st.booleans(), st.integers(0, 4),
)  # fmt: skip


def same(found: float, wanted: float | None) -> None:
    if wanted is None:
        assert math.isnan(found)
    else:
        assert found == pytest.approx(wanted, rel=1e-9, abs=1e-9)


@given(made)
def test_moments_are_as_defined(one: Made) -> None:
    found = numbers_of(Question("v", "interval", "active", one.numbers), one.c, one.k, one.w)
    for k in range(one.k):
        wanted = slow.moments(one.x(False), one.c.tolist(), one.w.tolist(), k)
        for key, name in (("min", "least"), ("max", "greatest")):
            wanted[name] = wanted.pop(key)
        for key, value in wanted.items():
            same(float(getattr(found, key)[k]), value)
    between, within, n, _ = slow.spread(one.x(False), one.c.tolist(), one.w.tolist())
    whole = between + within
    if whole > 1e-9:
        assert found.eta2 == pytest.approx(between / whole)
    assert np.isnan(found.se).all()
    assert found.n[-1] == n


@given(made)
def test_shares_are_as_defined(one: Made) -> None:
    found = shares_of(Question("v", "nominal", "active", one.codes, one.words), one.c, one.k, one.w)
    x, c = one.x(True), one.c.tolist()
    for k in range(one.k):
        answered = [i for i in range(len(x)) if c[i] == k and x[i] is not None]
        whole = math.fsum(one.w[i] for i in answered)
        for level in range(len(one.words)):
            rows = [i for i in answered if x[i] == level]
            assert found.n[k, level] == len(rows)
            mass = math.fsum(one.w[i] for i in rows)
            assert found.mass[k, level] == pytest.approx(mass)
            same(float(found.share[k, level]), mass / whole if answered else None)
    p = slow.table(x, c, one.w.tolist())
    if min(p.shape) < 2:
        assert math.isnan(found.cramers_v)
    else:
        v = math.sqrt(slow.chi_square(p, 1) / (min(p.shape) - 1))
        assert found.cramers_v == pytest.approx(v, abs=1e-12)


@given(made, st.sampled_from([3.0, 0.1, 1 / 3, 1000.7]))
def test_equal_answers_differ_in_nothing(one: Made, answer: float) -> None:
    """However the mean of them is rounded."""
    numbers = np.where(np.isnan(one.numbers), np.nan, answer)
    told = Question("v", "interval", "active", numbers)
    found = numbers_of(told, one.c, one.k, one.w)
    (f,) = differences(told, one.c, one.k, one.w)
    assert np.isnan([found.eta2, f.effect, f.statistic, f.p]).all()
    known = ~np.isnan(numbers)
    few, groups = numbers[known], one.c[known].astype(float)
    assert correlation_ratio(groups, few) is None
    assert pearson(few, one.w[known]) is None
    alike = analyse_items([few, np.full(len(few), 0.1), few[::-1]])
    assert np.isnan([alike.alpha, *alike.rest, *alike.without]).all()
    assert not np.nan_to_num(found.sd).any()
    assert set(found.mean[~np.isnan(found.mean)]) <= {answer}


@given(made)
@example(Made(1063, 7, 3, 0.3, True, 2))  # three equal answers in two clusters
def test_tests_are_as_defined(one: Made) -> None:
    c, w = one.c.tolist(), one.w.tolist()
    (f,) = differences(Question("v", "ordinal", "active", one.numbers), one.c, one.k, one.w)
    between, within, n, k = slow.spread(one.x(False), c, w)
    varies = len(set(one.numbers[~np.isnan(one.numbers)])) > 1
    if k >= 2 and n > k and varies and within > 1e-9 * (between + within):
        wanted = (between / (k - 1)) / (within / (n - k))
        assert f.statistic == pytest.approx(wanted, rel=1e-7, abs=1e-9)
        assert f.p == pytest.approx(fdtrc(k - 1, n - k, wanted), rel=1e-6, abs=1e-12)
        assert f.effect == pytest.approx(between / (between + within), abs=1e-9)
    elif k < 2 or n <= k:
        assert math.isnan(f.p)
    (chi,) = differences(
        Question("v", "nominal", "profile", one.codes, one.words), one.c, one.k, one.w
    )
    p = slow.table(one.x(True), c, w)
    if min(p.shape) < 2:
        assert math.isnan(chi.statistic)
    else:
        known = sum(value is not None for value in one.x(True))
        wanted = slow.chi_square(p, known)
        df = (p.shape[0] - 1) * (p.shape[1] - 1)
        assert chi.statistic == pytest.approx(wanted, abs=1e-9)
        assert (chi.df1, chi.p) == (df, pytest.approx(chdtrc(df, wanted), abs=1e-12))


@given(made, st.sampled_from(["centre", "zero"]))
def test_errors_are_those_of_the_design(one: Made, single: str) -> None:
    design, x, c, w = one.linearised(single), one.x(False), one.c.tolist(), one.w.tolist()
    found = numbers_of(
        Question("v", "interval", "active", one.numbers), one.c, one.k, one.w, design
    )
    if design.df < 1:
        assert np.isnan(found.se).all()
        return
    answered = {k for k, value in zip(c, x, strict=True) if value is not None}
    for k in range(one.k):
        if k not in answered:
            assert math.isnan(found.se[k])
            continue
        own = [0 if cluster == k else 1 for cluster in c]
        z = slow.linear_means([v if o == 0 else None for v, o in zip(x, own, strict=True)], own,
                              w, 1)  # fmt: skip
        v = slow.by_units(one.of_rows(z), one.strata.tolist(), one.units.tolist(), single)
        se = math.sqrt(max(float(v[0, 0]), 0.0))
        assert found.se[k] == pytest.approx(se, rel=1e-7, abs=1e-9)
        reach = float(stdtrit(design.df, 0.975)) * se
        assert found.upper[k] - found.mean[k] == pytest.approx(reach, rel=1e-6, abs=1e-7)
        assert found.mean[k] - found.lower[k] == pytest.approx(reach, rel=1e-6, abs=1e-7)


@given(made)
def test_replicates_give_the_spread_of_the_estimate(one: Made) -> None:
    design, x, c = one.replicated(), one.x(True), one.c.tolist()
    told = Question("v", "nominal", "active", one.codes, one.words)
    found = shares_of(told, one.c, one.k, one.w, design)
    for k in range(one.k):
        answered = [i for i in range(len(x)) if c[i] == k and x[i] is not None]
        if not answered:
            assert np.isnan(found.se[k]).all()
            continue
        for level in range(len(one.words)):
            here = [None if i not in answered else float(x[i] == level) for i in range(len(x))]
            means = slow.domain_means(here, [0] * len(x), 1)
            v = slow.by_replicates(means, one.w.tolist(), one.replicates.T.tolist(), [0.2] * 5)
            assert found.se[k, level] == pytest.approx(math.sqrt(v[0, 0]), rel=1e-7, abs=1e-9)


@given(made, st.sampled_from(["units", "replicates"]))
def test_wald_and_rao_scott_are_as_defined(one: Made, kind: str) -> None:
    design = one.linearised("centre") if kind == "units" else one.replicated()
    c, w = one.c.tolist(), one.w.tolist()
    strata, units = one.strata.tolist(), one.units.tolist()
    _, wald = differences(
        Question("v", "interval", "active", one.numbers), one.c, one.k, one.w, design
    )
    x = one.x(False)
    used = sorted({k for k, value in zip(c, x, strict=True) if value is not None})
    again = [used.index(k) if k in used else 0 for k in c]
    if len(used) >= 2 and design.df - len(used) + 2 > 0:
        means = slow.domain_means(x, again, len(used))
        if kind == "units":
            z = slow.linear_means(x, again, w, len(used))
            v = slow.by_units(one.of_rows(z), strata, units, "centre")
        else:
            v = slow.by_replicates(means, w, one.replicates.T.tolist(), [0.2] * 5)
        contrasts = np.hstack([np.eye(len(used) - 1), -np.ones((len(used) - 1, 1))])
        values = np.linalg.eigvalsh(contrasts @ v @ contrasts.T)
        if values[0] > 1e-7 * values[-1] > 0:
            statistic, df1, df2 = slow.wald_f(means(w), v, design.df)
            assert wald.statistic == pytest.approx(statistic, rel=1e-5, abs=1e-9)
            assert (wald.df1, wald.df2) == (df1, df2)
            assert wald.p == pytest.approx(fdtrc(df1, df2, statistic), rel=1e-4, abs=1e-9)
    else:
        assert math.isnan(wald.statistic)
    _rao_scott_agrees(one, design, kind)


def _rao_scott_agrees(one: Made, design: Design, kind: str) -> None:
    c, w, x = one.c.tolist(), one.w.tolist(), one.x(True)
    told = Question("v", "nominal", "active", one.codes, one.words)
    _, rao = differences(told, one.c, one.k, one.w, design)
    p = slow.table(x, c, w)
    if min(p.shape) < 2 or design.df <= 0:
        assert math.isnan(rao.statistic)
        return
    rows = [i for i in range(len(x)) if x[i] is not None]
    clusters, levels = sorted({c[i] for i in rows}), sorted({x[i] for i in rows})

    def h(weights: list[float]) -> np.ndarray:
        shares = np.zeros(p.shape)
        for i in rows:
            shares[clusters.index(c[i]), levels.index(x[i])] += weights[i]
        shares /= shares.sum()
        return (shares - np.outer(shares.sum(axis=1), shares.sum(axis=0)))[:-1, :-1].ravel()

    if kind == "replicates":
        v = slow.by_replicates(h, w, one.replicates.T.tolist(), [0.2] * 5)
    else:
        mass, whole = math.fsum(w[i] for i in rows), h(w).reshape(p.shape[0] - 1, -1)
        z = np.zeros((len(x), whole.size))
        for i in rows:
            for a in range(p.shape[0] - 1):
                for b in range(p.shape[1] - 1):
                    row = (clusters[a] == c[i]) - p[a].sum()
                    column = (levels[b] == x[i]) - p[:, b].sum()
                    place = a * (p.shape[1] - 1) + b
                    z[i, place] = w[i] / mass * (row * column - whole[a, b])
        v = slow.by_units(one.of_rows(z), one.strata.tolist(), one.units.tolist(), "centre")
    values = np.linalg.eigvalsh(v)
    if values[0] > 1e-7 * values[-1] > 0:
        statistic, df1, df2 = slow.rao_scott(p, v, len(rows), design.df)
        assert rao.statistic == pytest.approx(statistic, rel=1e-5, abs=1e-9)
        assert (rao.df1, rao.df2) == (pytest.approx(df1, rel=1e-6), pytest.approx(df2, rel=1e-6))
        assert rao.p == pytest.approx(fdtrc(df1, df2, statistic), rel=1e-4, abs=1e-9)


@given(
    st.integers(0, 10**6), st.integers(1, 16), st.sampled_from(["squared-euclidean", "city-block"]),
    st.sampled_from(["ward", "average"]), st.booleans(), st.booleans(),
)  # fmt: skip
def test_figures_of_clusters_are_as_defined(
    seed: int, n: int, measure: str, linkage: str, weighted: bool, tied: bool
) -> None:
    rng = np.random.default_rng(seed)
    x = rng.integers(0, 3, (n, 2)).astype(float) if tied else rng.normal(size=(n, 2))
    w = rng.uniform(0.5, 2, n) if weighted else None
    grown = study(x, measure, linkage, w=w)
    d = grown.pairs.block(np.arange(n), np.arange(n))
    distances = np.sqrt(d) if measure == "squared-euclidean" else d
    mass = (np.ones(n) if w is None else w).tolist()
    counts = [count for count in (1, 2, 3) if count <= n]
    for count, found in cluster_figures(grown, counts).items():
        own = cut_at_count(grown.tree, count).membership.tolist()
        values = slow_counts.silhouettes(distances.tolist(), own) if count > 1 else []
        assert [one.cluster for one in found] == list(range(1, count + 1))
        for one in found:
            rows = [i for i in range(n) if own[i] == one.cluster]
            assert (one.size, one.medoid) == (len(rows), slow.medoid(d, rows, mass))
            assert one.mass == pytest.approx(math.fsum(mass[i] for i in rows))
            assert one.share == pytest.approx(one.mass / math.fsum(mass))
            ss = slow_counts.sum_of_squares(x.tolist(), [1.0, 1.0], mass, rows)
            assert one.within_ss == pytest.approx(ss, abs=1e-9)
            assert one.diameter == pytest.approx(max(d[i, j] for i in rows for j in rows))
            if count == 1:
                assert one.mean_silhouette is None
                assert (one.nearest_cluster, one.nearest_distance) == (None, None)
                continue
            mean = math.fsum(values[i] for i in rows) / len(rows)
            assert one.mean_silhouette == pytest.approx(mean, abs=1e-9)
            others = {
                k: float(np.mean([d[i, j] for i in rows for j in range(n) if own[j] == k]))
                for k in range(1, count + 1) if k != one.cluster
            }  # fmt: skip
            least = min(others.values())
            assert one.nearest_distance == pytest.approx(least)
            assert one.nearest_cluster is not None
            assert others[one.nearest_cluster] == pytest.approx(least)


def test_intervals_hold_what_they_promise() -> None:
    """Of 500 stratified samples of units about 95 % of the intervals hold the mean of the whole."""
    rng = np.random.default_rng(8)
    strata, units, per_unit = 4, 60, 12
    effect = rng.normal(0, 1, (strata, units)) + np.arange(strata)[:, None]
    x = effect[:, :, None] + rng.normal(0, 2, (strata, units, per_unit))
    own = (rng.random(x.shape) < 0.3 + 0.1 * np.arange(strata)[:, None, None]).astype(int)
    truth = [x[own == k].mean() for k in (0, 1)]
    drawn, held = 10, np.zeros(2)
    for _ in range(500):
        chosen = np.stack([rng.choice(units, drawn, replace=False) for _ in range(strata)])
        values = np.stack([x[h, chosen[h]] for h in range(strata)])
        clusters = np.stack([own[h, chosen[h]] for h in range(strata)])
        psu = np.repeat(np.arange(strata * drawn), per_unit)
        of_unit = np.repeat(np.arange(strata), drawn)
        n = values.size
        design = Design(np.ones(n), psu, of_unit, "stop", None, np.empty(0), strata * (drawn - 1))
        told = Question("v", "interval", "profile", values.ravel())
        found = numbers_of(told, clusters.ravel(), 2, np.ones(n), design)
        held += [found.lower[k] <= truth[k] <= found.upper[k] for k in (0, 1)]
    assert held.min() >= 0.92 * 500
    assert held.max() <= 0.985 * 500
