"""Components, drivers, spreads, one case and corrected tests, against slow code."""

from __future__ import annotations

import math
from pathlib import Path

import numpy as np
import pytest
from hypothesis import example, given
from hypothesis import strategies as st

from gorvel.core.grow.grown import analyse
from gorvel.core.plan.plan import Plan
from gorvel.core.profile.components import components_of
from gorvel.core.profile.differences import holm
from gorvel.core.profile.leave_one_variable_out import Driver, drivers, only_noise
from gorvel.core.profile.one_case import likeness, membership_shares, one_case
from gorvel.core.profile.raw_answers import Question
from gorvel.core.profile.spread import MOST_STACKED, spread_of
from gorvel.core.sources.reading import read_source
from gorvel.core.tree.cuts import cut_at_count
from reference.counts import adjusted_rand, silhouettes
from studies import clusters, distances, study

seeds = st.integers(0, 10**6)


@given(seeds, st.integers(2, 14), st.integers(2, 5), st.booleans())
def test_components_are_those_of_the_weighted_correlations(
    seed: int, n: int, p: int, weighted: bool
) -> None:
    rng = np.random.default_rng(seed)
    x = rng.normal(size=(n, p)) @ rng.normal(size=(p, p)) * rng.uniform(0.1, 50, p)
    w = rng.uniform(0.5, 3, n) if weighted else None
    found = components_of(study(x, v=rng.uniform(0.5, 2, p), w=w))
    mass = np.ones(n) if w is None else w
    assert found is not None
    c = len(found.explained)
    mean = [math.fsum(mass * x[:, j]) / mass.sum() for j in range(p)]
    sd = [math.sqrt(math.fsum(mass * (x[:, j] - mean[j]) ** 2) / mass.sum()) for j in range(p)]
    z = (x - mean) / sd
    r = np.array([[math.fsum(mass * z[:, i] * z[:, j]) / mass.sum() for j in range(p)]
                  for i in range(p)])  # fmt: skip
    values = np.sort(np.linalg.eigvalsh(r))[::-1]
    assert found.explained == pytest.approx(values[:c] / p, abs=1e-9)
    assert found.explained.sum() == pytest.approx(1)
    cross = (found.places * mass[:, None]).T @ found.places / mass.sum()
    assert cross == pytest.approx(np.diag(values[:c]), abs=1e-8)  # uncorrelated
    assert found.places @ (found.loadings / np.sqrt(values[:c])).T == pytest.approx(z, abs=1e-6)
    for j in range(p):
        for k in range(c):
            own = math.fsum(mass * z[:, j] * found.places[:, k]) / mass.sum()
            assert found.loadings[j, k] == pytest.approx(own / math.sqrt(values[k]), abs=1e-6)
    size = np.abs(found.loadings)
    largest = (size >= size.max(axis=0) * (1 - 1e-7)).argmax(axis=0)
    assert (found.loadings[largest, np.arange(c)] > 0).all()


def test_components_leave_out_what_does_not_vary() -> None:
    x = np.random.default_rng(1).normal(size=(9, 3))
    x[:, 1] = 0.3
    found = components_of(study(x))
    assert found is not None
    assert found.names == ("v0", "v2")
    assert found.left_out == ("v1",)
    assert components_of(study(x[:, :2])) is None


@example([0.02, 0.011, math.nan, 0.01])  # twice .011 is less than three times .01
@given(st.lists(st.one_of(st.just(math.nan), st.floats(0, 1)), max_size=9))
def test_holm_rejects_what_stepping_down_rejects(p: list[float]) -> None:
    found = holm(np.array(p, dtype=np.float64))
    known = [value for value in p if not math.isnan(value)]
    edges = {0.0, *(times * value for value in known for times in range(1, len(known) + 1))}
    for level in {0.05, *(edge + 1e-6 for edge in edges if edge < 1 - 1e-6)}:
        rejected, left = [], sorted(known)
        while left and left[0] <= level / len(left):
            rejected.append(left.pop(0))
        edge = rejected[-1] if rejected else -1.0
        for value, corrected in zip(p, found.tolist(), strict=True):
            if math.isnan(value):
                assert math.isnan(corrected)
            elif abs(corrected - level) > 1e-7:
                assert (corrected <= level) == (value <= edge)


@given(seeds, st.integers(2, 15), st.integers(1, 4))
def test_a_case_is_where_slow_code_says(seed: int, n: int, count: int) -> None:
    rng = np.random.default_rng(seed)
    grown = study(rng.integers(0, 4, (n, 2)).astype(float))  # with ties
    count = min(count, n)
    own = np.array(clusters(grown, count)) - 1
    d, case = distances(grown), int(rng.integers(n))
    found = one_case(grown, own, case, 5)
    assert found.cluster == own[case] + 1
    plain = grown.pairs.matrix
    rest = sorted((plain[case, k], k) for k in range(n) if k != case)
    assert [k for k, _ in found.nearest] == [k for _, k in rest[:5]]
    assert [far for _, far in found.nearest] == [far for far, _ in rest[:5]]
    if count == 1:
        assert found.silhouette is None
        return
    assert found.silhouette == pytest.approx(silhouettes(d, own.tolist())[case], abs=1e-9)
    means = {
        k: math.fsum(d[case][i] for i in range(n) if own[i] == k) / int((own == k).sum())
        for k in range(count)
        if k != own[case]
    }
    assert means[found.leans - 1] == pytest.approx(min(means.values()))


def test_likeness_names_what_differs_most_first() -> None:
    told = [
        Question("a", "interval", "active", np.array([1.0, 1.0, 5.0, 9.0])),
        Question("b", "interval", "active", np.array([0.0, 50.0, 100.0, 0.0])),
        Question("c", "nominal", "active", np.array([0.0, 1.0, 0.0, 0.0]), ("x", "y")),
        Question("d", "interval", "active", np.array([np.nan, 1.0, 2.0, 3.0])),
        Question("e", "interval", "profile", np.array([0.0, 9.0, 9.0, 9.0])),
    ]
    found = likeness(told, 0, 1)
    assert found.alike == ("a",)
    assert [name for name, _ in found.differ] == ["c", "b"]
    assert found.differ[1][1] == pytest.approx(50 / np.std([0, 50, 100, 0]))


def test_cases_inside_come_back_and_cases_between_do_not() -> None:
    rng = np.random.default_rng(3)
    apart = np.vstack([rng.normal(0, 1, (30, 2)), rng.normal(20, 1, (30, 2)), [[10.0, 10.0]]])
    grown = study(apart)
    own = cut_at_count(grown.tree, 2).membership - 1
    shares = membership_shares(grown, own, 60)
    assert (shares[:60] == 1).all()
    assert 0.2 < shares[60] < 0.95
    again = membership_shares(grown, own, 60)
    np.testing.assert_array_equal(shares, again)
    one = membership_shares(grown, np.zeros(61, dtype=np.int64), 5)
    assert set(one[~np.isnan(one)]) == {1.0}


@given(seeds, st.integers(1, 30), st.booleans())
def test_spreads_are_those_of_the_definitions(seed: int, n: int, few: bool) -> None:
    rng = np.random.default_rng(seed)
    x = rng.integers(1, 6, n).astype(float) if few else rng.normal(size=n)
    x[rng.random(n) < 0.2] = np.nan
    own, w = rng.integers(0, 3, n), rng.uniform(0.5, 2, n)
    found = spread_of(Question("v", "interval", "active", x), own, 3, w)
    for k in range(4):
        rows = [i for i in range(n) if (k == 3 or own[i] == k) and not math.isnan(x[i])]
        if not rows:
            assert np.isnan(found.five[k]).all()
            continue
        values = sorted(x[i] for i in rows)
        for place, share in enumerate((0, 0.25, 0.5, 0.75, 1)):
            at = share * (len(values) - 1)  # the seventh definition of a quantile
            low = math.floor(at)
            high = min(low + 1, len(values) - 1)
            wanted = values[low] + (at - low) * (values[high] - values[low])
            assert found.five[k, place] == pytest.approx(wanted)
        step = found.at[1] - found.at[0]
        assert found.density[k].sum() * step == pytest.approx(1) or step == 0
        different = np.unique(x[~np.isnan(x)])
        for answer, share in zip(different[: len(found.answers)], found.shares[k], strict=True):
            own_mass = math.fsum(w[i] for i in rows if x[i] == answer)
            assert share == pytest.approx(own_mass / math.fsum(w[i] for i in rows))
    known = len(set(x[~np.isnan(x)]))
    assert len(found.answers) == (known if known <= MOST_STACKED else 0)


def test_a_density_is_a_sum_of_normal_curves() -> None:
    x, w = np.array([0.0, 1.0, 4.0, 4.5, 9.0]), np.array([1.0, 2.0, 1.0, 1.0, 3.0])
    found = spread_of(Question("v", "interval", "active", x), np.zeros(5, dtype=np.int64), 1, w)
    mean = np.average(x, weights=w)
    sd = math.sqrt(np.average((x - mean) ** 2, weights=w))
    width = 0.9 * min(sd, (4.5 - 1.0) / 1.349) * 5**-0.2
    curve = [
        math.fsum(w[i] * math.exp(-((at - x[i]) ** 2) / (2 * width**2)) for i in range(5))
        for at in found.at
    ]
    shape = np.array(curve) / max(curve)
    assert found.density[0] / found.density[0].max() == pytest.approx(shape, rel=1e-9)


def test_drivers_compare_with_the_tree_of_the_other_variables(tmp_path: Path) -> None:
    rng = np.random.default_rng(4)
    group = rng.integers(0, 3, 60)
    x = rng.normal(size=(60, 4))
    x[:, 0] += 6 * (group == 0)
    x[:, 1] += 6 * (group == 1)
    names = list("abcd")
    lines = [",".join(f"{value:.4f}" for value in row) for row in x]
    lines[5] = lines[5].replace(lines[5].split(",")[2], "")
    data = tmp_path / "t.csv"
    data.write_text(",".join(names) + "\n" + "\n".join(lines), encoding="utf-8")
    keys = {
        "source": {"file": "t.csv"}, "variables": {"use": names}, "scale": {"method": "zscore"},
        "tree": {"linkage": "ward"},
    }  # fmt: skip
    plan = Plan.model_validate(keys)
    table = read_source(plan, data)
    grown = analyse(table, plan)
    assert 5 not in grown.prepared.numbers - 1  # dropped, and stays so without "c"
    own = cut_at_count(grown.tree, 3).membership - 1
    parts: list[int] = []
    found = drivers(
        table, plan, grown, own, [0.8, 0.8, 0.02, 0.02],
        report=lambda some: parts.append(len(some)),
    )  # fmt: skip
    assert parts == [1, 2, 3, 4]
    assert [one.name for one in found] == names
    rest = np.delete(x, 5, axis=0)
    for j, one in enumerate(found):
        kept = np.delete(rest, j, axis=1)
        other = study((kept - kept.mean(axis=0)) / kept.std(axis=0, ddof=1))
        its = clusters(other, 3)
        assert one.agreement == pytest.approx(adjusted_rand(own.tolist(), its))
        before = np.mean(silhouettes(distances(grown), own.tolist()))
        after = np.mean(silhouettes(distances(other), [k - 1 for k in its]))
        assert one.gain == pytest.approx(after - before, abs=1e-5)
    assert only_noise(found) == []  # of half of them clusters explain little
    more = [*found, Driver("e", 0.9, 0.5, 0.1)]
    assert only_noise(more) == ["c", "d"]
    alone = Plan.model_validate(keys | {"variables": {"use": ["a"]}})
    single = analyse(table, alone)
    only = drivers(table, alone, single, cut_at_count(single.tree, 2).membership - 1, [0.9])
    assert only[0].why == "It is the only active variable."
    assert math.isnan(only[0].agreement)
