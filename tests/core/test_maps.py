"""The map of the cases, and the short form, against slow code and on made-up data."""

from __future__ import annotations

import csv
import json
import math
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from gorvel.core.base.errors import InputError
from gorvel.core.plan.file import parse_plan
from gorvel.core.profile import map as map_module
from gorvel.core.profile import stress as stress_module
from gorvel.core.profile.map import case_map, classical
from gorvel.core.profile.raw_answers import Question
from gorvel.core.profile.short_form import discriminant, short_form
from gorvel.core.profile.stress import least_stress
from gorvel.core.run import run_plan
from studies import study


def distances(x: np.ndarray) -> np.ndarray:
    return np.asarray(np.sqrt(((x[:, None] - x[None]) ** 2).sum(axis=2)))


def raw_stress(d: np.ndarray, places: np.ndarray) -> float:
    n = len(d)
    return math.fsum(
        (d[i, j] - math.dist(places[i], places[j])) ** 2 for i in range(n) for j in range(i)
    )


@given(st.integers(0, 10**6), st.integers(1, 12), st.integers(1, 4), st.booleans())
def test_classical_places_are_those_of_the_definition(
    seed: int, n: int, p: int, curved: bool
) -> None:
    d = distances(np.random.default_rng(seed).normal(size=(n, p)))
    d = d**1.7 if curved else d  # no straight distances: some eigenvalues are below 0
    places, explained, _ = classical(d)
    centring = np.eye(n) - 1 / n
    inner = -0.5 * centring @ (d**2) @ centring
    values, vectors = np.linalg.eigh(inner)
    top = np.maximum(values[::-1][:2], 0)
    found = [float((places[:, axis] ** 2).sum()) for axis in range(2)]
    assert found == pytest.approx([*top, 0.0, 0.0][:2], abs=1e-9)
    positive = values[values > 1e-9 * max(values.max(), 1e-9)].sum()
    if positive > 1e-9:
        assert explained == pytest.approx(top.sum() / positive)
    for axis in range(2):
        along = places[:, axis]
        assert along[np.abs(along).argmax()] >= 0
        if top[axis : axis + 1].sum() > 1e-6 and (len(values) < 3 or np.ptp(top) > 1e-6):
            own = vectors[:, n - 1 - axis] * math.sqrt(top[axis])
            assert min(np.abs(along - own).max(), np.abs(along + own).max()) < 1e-4


@pytest.mark.slow
@given(st.integers(0, 10**6), st.integers(1, 40), st.integers(1, 6))
def test_straight_distances_are_mapped_as_any_are(seed: int, n: int, p: int) -> None:
    d = distances(np.random.default_rng(seed).normal(size=(n, p)) * np.arange(p, 0, -1))
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(map_module, "_FEW", 0)
        places, explained, values = classical(d, straight=True)
    wanted, share, whole = classical(d)
    assert values == pytest.approx(whole, rel=1e-9, abs=1e-9)
    assert explained == pytest.approx(share, nan_ok=True)
    gaps = np.diff(np.append(whole, 0.0))
    if n > 3 and np.abs(gaps).min() > 1e-3 * whole[0]:
        third = np.sort(np.linalg.eigvalsh(_inner(d)))[-3]
        if whole[1] - third > 1e-3 * whole[0]:
            assert places == pytest.approx(wanted, abs=1e-5 * max(float(np.abs(wanted).max()), 1))


def _inner(d: np.ndarray) -> np.ndarray:
    centring = np.eye(len(d)) - 1 / len(d)
    return np.asarray(-0.5 * centring @ (d**2) @ centring)


@given(st.integers(0, 10**6), st.integers(3, 12), st.booleans())
def test_stress_is_that_of_the_places_and_no_step_lowers_it(
    seed: int, n: int, compiled: bool
) -> None:
    d = distances(np.random.default_rng(seed).normal(size=(n, 4)))
    start, _, _ = classical(d)
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(stress_module, "_KERNEL", 2 if compiled else 10**9)
        places, stress1 = least_stress(d, start)
    raw = raw_stress(d, places)
    assert raw <= raw_stress(d, start) + 1e-12
    whole = math.fsum(math.dist(places[i], places[j]) ** 2 for i in range(n) for j in range(i))
    assert stress1 == pytest.approx(math.sqrt(raw / whole), abs=1e-6)
    # one step of majorisation from there, by the definition
    after = np.zeros_like(places)
    for i in range(n):
        for j in range(n):
            far = math.dist(places[i], places[j])
            if i != j and far > 0:
                after[i] += d[i, j] / far * (places[i] - places[j])
    after /= n
    assert raw - raw_stress(d, after) <= 2e-6 * raw + 1e-12


@given(st.integers(0, 10**6), st.integers(1, 150), st.booleans())
def test_compiled_steps_are_those_of_the_definition(seed: int, n: int, tied: bool) -> None:
    rng = np.random.default_rng(seed)
    d = distances(rng.normal(size=(n, 3)))
    now = rng.integers(0, 3, (n, 2)).astype(float) if tied else rng.normal(size=(n, 2))
    after, both = stress_module._Compiled(d)._pulled(now)
    plain, sums = stress_module._Stepper(d)._pulled(now)
    assert after == pytest.approx(plain, abs=1e-10)
    assert both == pytest.approx(sums, rel=1e-10, abs=1e-10)
    for i in range(0, n, 37):
        pull = np.zeros(2)
        for j in range(n):
            far = math.dist(now[i], now[j])
            if far > 0:
                pull += d[i, j] / far * (now[i] - now[j])
        assert after[i] == pytest.approx(pull / n, abs=1e-10)


def test_points_of_the_plane_come_back() -> None:
    x = np.random.default_rng(3).normal(size=(30, 2))
    found = case_map(study(x))
    np.testing.assert_allclose(distances(found.classical), distances(x), atol=1e-8)
    np.testing.assert_allclose(distances(found.least), distances(x), atol=1e-6)
    assert found.explained == pytest.approx(1)
    assert found.stress1 < 1e-6


def test_other_cases_are_put_where_their_distances_to_landmarks_fit(
    monkeypatch: pytest.MonkeyPatch,
) -> None:
    monkeypatch.setattr(map_module, "MOST", 40)
    monkeypatch.setattr(map_module, "LANDMARKS", 25)
    x = np.random.default_rng(3).normal(size=(60, 2))
    found = case_map(study(x))
    assert found.landmarks == 25
    np.testing.assert_allclose(distances(found.classical), distances(x), atol=1e-8)
    np.testing.assert_allclose(distances(found.least), distances(x), atol=0.02)
    deep = np.random.default_rng(3).normal(size=(60, 5))
    mapped = case_map(study(deep)).least
    whole = least_stress(distances(deep), classical(distances(deep))[0])[0]
    assert raw_stress(distances(deep), mapped) < 1.5 * raw_stress(distances(deep), whole)


@pytest.mark.parametrize("n", [1, 2, 3])
def test_few_and_equal_cases_have_a_map(n: int) -> None:
    found = case_map(study(np.ones((n, 2)), linkage="average"))
    assert np.isfinite(found.least).all()
    assert math.isnan(found.explained)
    assert found.stress1 == 0


@given(st.integers(0, 10**6), st.integers(6, 40), st.integers(1, 3), st.integers(2, 4))
def test_the_rule_takes_the_cluster_with_the_largest_chance(
    seed: int, n: int, q: int, k: int
) -> None:
    """By the normal densities of one pooled covariance."""
    rng = np.random.default_rng(seed)
    own = rng.permutation(np.append(np.arange(k), rng.integers(0, k, n - k)))
    x = rng.normal(size=(n, q)) + own[:, None]
    if n - k < q + 2:
        return
    rule = discriminant(x, own, k)
    means = [x[own == c].mean(axis=0) for c in range(k)]
    pooled = sum(np.cov(x[own == c].T, bias=True).reshape(q, q) * (own == c).sum()
                 for c in range(k)) / (n - k)  # fmt: skip
    inverse = np.linalg.inv(pooled)
    scores = np.array([
        [math.log((own == c).mean()) - 0.5 * (row - means[c]) @ inverse @ (row - means[c])
         for c in range(k)] for row in x
    ])  # fmt: skip
    ranked = np.sort(scores, axis=1)
    clear = ranked[:, -1] - ranked[:, -2] > 1e-4
    np.testing.assert_array_equal(rule.clusters(x)[clear], scores.argmax(axis=1)[clear])


def told(*columns: np.ndarray) -> list[Question]:
    return [Question(f"v{j}", "interval", "active", column) for j, column in enumerate(columns)]


def test_the_questions_that_tell_most_are_chosen_first() -> None:
    rng = np.random.default_rng(4)
    own = np.arange(120) % 3
    weak = rng.normal(size=120) + 0.3 * own
    one, other = rng.normal(size=120) + 6 * (own == 1), rng.normal(size=120) + 6 * (own == 2)
    form = short_form(told(weak, one, other, one), own, 3, 9)
    assert form is not None
    assert set(form.questions[:2]) == {"v1", "v2"}
    assert len(form.questions) == 4  # trimmed to as many as there are
    assert form.accuracy[1] > 0.98 > form.accuracy[0] > 0.6
    # accuracy by hand: the rule of nine folds on the tenth
    x = np.column_stack([{"v0": weak, "v1": one, "v2": other, "v3": one}[name]
                         for name in form.questions[:2]])  # fmt: skip
    right = 0
    for fold in range(10):
        test = np.arange(120) % 10 == fold
        right += int((discriminant(x[~test], own[~test], 3).clusters(x[test]) == own[test]).sum())
    assert form.accuracy[1] == pytest.approx(right / 120)
    assert form.confused.sum() == 120
    assert np.trace(form.confused) / 120 == pytest.approx(form.accuracy[-1])


def test_a_question_that_clusters_explain_whole_and_gaps_are_no_error() -> None:
    own = np.repeat([0, 1], 10)
    exact = own.astype(float)
    gaps = np.where(np.arange(20) % 7 == 0, np.nan, np.arange(20.0))
    form = short_form(told(gaps, exact, np.full(20, 3.0), np.full(20, np.nan)), own, 2, 4)
    assert form is not None
    assert form.questions[0] in ("v0", "v1")
    assert form.accuracy[1] == 1
    assert len(form.questions) == 3
    assert short_form([Question("w", "nominal", "active", exact, ("a", "b"))], own, 2, 1) is None


def test_a_run_writes_the_map_and_the_short_form(tmp_path: Path) -> None:
    rng = np.random.default_rng(1)
    x = rng.normal(size=(40, 3)) + 7 * (np.arange(40) % 2)[:, None]
    np.savetxt(tmp_path / "t.csv", x, "%.4f", ",", header="a,b,c", comments="")
    head = 'gorvel = 1\n[source]\nfile = "t.csv"\n'
    (tmp_path / "p.toml").write_text(
        head + '[variables]\nuse = ["a", "b", "c"]\n[cut]\ncounts = [2]\n'
        "[profile]\nmap = true\ntyping = 2\n"
    )
    run_plan(tmp_path / "p.toml", tmp_path / "out")
    with (tmp_path / "out" / "map.csv").open() as file:
        rows = list(csv.DictReader(file))
    assert list(rows[0]) == ["case", "label", "x", "y", "u", "v"]
    summary = json.loads((tmp_path / "out" / "summary.json").read_text())
    places = np.array([[float(row["u"]), float(row["v"])] for row in rows])
    read = np.loadtxt(tmp_path / "t.csv", delimiter=",", skiprows=1)
    raw, d = raw_stress(distances(read), places), distances(places)
    assert summary["map"]["stress1"] == pytest.approx(math.sqrt(raw / ((d**2).sum() / 2)))
    form = json.loads((tmp_path / "out" / "typing.json").read_text())["2"]
    rule = form["rule"]
    scores = np.array(rule["constants"]) + sum(
        np.outer(read[:, "abc".index(name)], coefficients)
        for name, coefficients in rule["coefficients"].items()
    )
    with (tmp_path / "out" / "membership.csv").open() as file:
        own = [int(row["k2"]) for row in csv.DictReader(file)]
    assert (scores.argmax(axis=1) + 1).tolist() == own
    for text, said in (("typing = 0", "typing"), ("mapp = true", "map")):
        with pytest.raises(InputError, match=said):
            parse_plan(head + f'[variables]\nuse = ["a"]\n[profile]\n{text}\n', "p")
    with pytest.raises(InputError, match=r"\[profile\]"):
        parse_plan(head + '[variables]\nuse = ["a"]\n[tree]\nof = "variables"\n[profile]\n', "p")
