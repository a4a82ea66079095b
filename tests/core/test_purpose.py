"""What clusters are for: characteristics against slow code, random groupings, ranking, files."""

from __future__ import annotations

import csv
import json
import math
from itertools import combinations
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from gorvel.core.base.errors import Cancelled
from gorvel.core.base.progress import Phase
from gorvel.core.count.indices.index_table import compute_indices
from gorvel.core.count.null import validity_profile as purpose_module
from gorvel.core.count.null.validity_profile import (
    MAKINGS,
    TIMES,
    CalibratedIndices,
    Making,
    calibrated,
    characteristics_of,
    random_groupings,
)
from gorvel.core.count.resampling.resampled_rules import resampled
from gorvel.core.export.count import choice
from gorvel.core.plan.purposes import CHARACTERISTICS, PURPOSES
from gorvel.core.results.count import purpose_columns
from gorvel.core.tree.cuts import cut_at_count
from gorvel.core.words.count import purpose_words
from gorvel.main import status_of
from reference import counts as slow
from studies import asked, study

KEYS = list(CHARACTERISTICS)
TEN = np.array(
    [(0, 0), (0, 1), (1, 0), (1, 1), (6, 0), (6, 2), (7, 1), (3, 6), (4, 7), (2, 7)], dtype=float
)


def distances(x: np.ndarray) -> np.ndarray:
    return np.asarray(np.sqrt(((x[:, None] - x[None]) ** 2).sum(axis=2)))


def test_ten_cases_have_the_values_known_of_them() -> None:
    own = np.array([0, 0, 0, 0, 1, 1, 1, 2, 2, 2])
    found = dict(zip(KEYS, characteristics_of(distances(TEN), own, 3), strict=True))
    assert found["inside"] == pytest.approx(1.420914, abs=5e-7)
    assert found["apart"] == pytest.approx(5)
    assert found["gaps"] == pytest.approx(math.sqrt(2))
    assert found["sizes"] == pytest.approx(0.991159, abs=5e-7)
    assert found["faithful"] == pytest.approx(0.947103, abs=5e-7)


@given(st.integers(0, 10**6), st.integers(2, 24), st.integers(2, 5), st.booleans())
def test_characteristics_are_as_defined(seed: int, n: int, k: int, tied: bool) -> None:
    rng = np.random.default_rng(seed)
    x = rng.integers(0, 4, (n, 2)).astype(float) if tied else rng.normal(size=(n, 2))
    k = min(k, n)
    own = np.append(np.arange(k), rng.integers(0, k, n - k))
    d = distances(x)
    found = dict(zip(KEYS, characteristics_of(d, own, k), strict=True))
    members = [np.flatnonzero(own == cluster).tolist() for cluster in range(k)]
    within, near, widest = 0.0, [], 0.0
    for mine in members:
        pairs = [d[i, j] for i, j in combinations(mine, 2)]
        within += len(mine) * (math.fsum(pairs) / len(pairs) if pairs else 0.0)
        others = [i for i in range(n) if i not in mine]
        least = sorted(min(d[i, j] for j in others) for i in mine)
        near += least[: math.ceil(len(mine) / 10)]
        # the widest gap: the least longest step by which all are reached from each other
        levels = sorted(pairs)
        for level in levels:
            reached, todo = {mine[0]}, [mine[0]]
            while todo:
                here = todo.pop()
                new = {j for j in mine if d[here, j] <= level} - reached
                reached |= new
                todo += sorted(new)
            if len(reached) == len(mine):
                widest = max(widest, level)
                break
    assert found["inside"] == pytest.approx(within / n, abs=1e-12)
    assert found["apart"] == pytest.approx(np.mean(near), abs=1e-12)
    assert found["gaps"] == pytest.approx(widest, abs=1e-12)
    shares = [len(mine) / n for mine in members]
    wanted = -math.fsum(s * math.log(s) for s in shares) / math.log(k)
    assert found["sizes"] == pytest.approx(wanted, abs=1e-12)
    biserial = slow.point_biserial(d.tolist(), own.tolist())
    if biserial is None:
        assert math.isnan(found["faithful"])
    else:
        assert found["faithful"] == pytest.approx(biserial)
    assert math.isnan(found["stable"])


@given(st.integers(0, 10**6), st.integers(3, 14), st.integers(2, 4), st.sampled_from(MAKINGS))
def test_random_groupings_are_made_as_told(seed: int, n: int, k: int, making: Making) -> None:
    rng = np.random.default_rng(seed)
    d, k = distances(rng.normal(size=(n, 2))), min(k, n)
    found = random_groupings(d, k, making, 3, np.random.default_rng(seed))
    random = np.random.default_rng(seed)
    for own in found:
        seeds = random.choice(n, k, replace=False).tolist()
        told = {case: cluster for cluster, case in enumerate(seeds)}
        while len(told) < n:
            left = [i for i in range(n) if i not in told]
            if making == "centroids":
                told |= {i: int(np.argmin([d[s, i] for s in seeds])) for i in left}
                continue
            best = (math.inf, -1, -1)
            for i in left:
                for cluster in range(k):
                    far = [d[i, j] for j, c in told.items() if c == cluster]
                    value = {"nearest": min(far), "farthest": max(far),
                             "average": float(np.mean(far))}[making]  # fmt: skip
                    if value < best[0] - 1e-12:
                        best = (value, i, cluster)
            told[best[1]] = best[2]
        assert own.tolist() == [told[i] for i in range(n)]


def test_standings_are_those_among_random_groupings() -> None:
    grown = study(TEN, "euclidean")
    found = calibrated(grown, asked(to=4, seed=3))
    d = distances(TEN)
    for place, count in enumerate((2, 3, 4)):
        random = np.random.default_rng([3, count, 13])
        told = []
        for making in MAKINGS:
            groupings = random_groupings(d, count, making, TIMES, random)
            for one, other in zip(groupings, np.roll(groupings, -1, axis=0), strict=True):
                values = characteristics_of(d, one, count)
                best = []
                for cluster in range(count):
                    mine = set(np.flatnonzero(one == cluster).tolist())
                    theirs = [set(np.flatnonzero(other == c).tolist()) for c in range(count)]
                    best.append(max(len(mine & t) / len(mine | t) for t in theirs))
                told.append([np.mean(best), *values[1:]])
        table = np.array(told)
        np.testing.assert_allclose(found.mean[:, place], table.mean(axis=0))
        np.testing.assert_allclose(found.sd[:, place], table.std(axis=0, ddof=1))
        own = np.unique(cut_at_count(grown.tree, count).membership, return_inverse=True)[1]
        np.testing.assert_allclose(
            found.values[1:, place], characteristics_of(d, own, count)[1:], atol=1e-12
        )
    stable = np.array([0.5, 0.9, 0.4])
    signs = np.array([one.sign for one in CHARACTERISTICS.values()])
    values = np.vstack([stable, found.values[1:]])
    wanted = signs[:, None] * (values - found.mean) / found.sd
    np.testing.assert_allclose(found.standing(stable), wanted)
    weights = {"stable": 1.0, "apart": 3.0}
    ranked = found.ranked(weights, stable)
    np.testing.assert_allclose(ranked, (wanted[0] + 3 * wanted[KEYS.index("apart")]) / 4)
    np.testing.assert_allclose(found.ranked(weights), wanted[KEYS.index("apart")])
    assert np.isnan(found.ranked({})).all()


@pytest.mark.slow
def test_a_purpose_decides_between_counts() -> None:
    """Two pairs of groups: apart they are two, alike inside four."""
    rng = np.random.default_rng(1)
    corners = np.array([(0, 0), (3.5, 0), (30, 0), (33.5, 0)], dtype=float)
    grown = study(rng.normal(size=(160, 2)) * 0.6 + corners[np.arange(160) % 4], "euclidean")
    found = calibrated(grown, asked(to=8))
    best = {
        key: found.counts[int(np.nanargmax(found.ranked(weights)))]
        for key, weights in {"apart": {"apart": 1.0}, "inside": {"inside": 1.0}}.items()
    }
    assert best["apart"] == 2
    assert best["inside"] >= 4
    assert set(PURPOSES) == {"kinds", "segments", "summary"}


@pytest.mark.slow
def test_large_studies_are_measured_on_a_part(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(purpose_module, "MOST", 60)
    rng = np.random.default_rng(2)
    x = rng.normal(size=(90, 2)) + 20 * rng.integers(0, 3, (90, 1))
    found = calibrated(study(x, "euclidean"), asked(to=5))
    assert found.part == 60
    again = calibrated(study(x, "euclidean"), asked(to=5))
    np.testing.assert_array_equal(found.values, again.values)
    assert "a random sample of 60 cases" in purpose_words(found, {"apart": 1.0}, None)
    assert found.counts[int(np.nanargmax(found.ranked({"apart": 1.0})))] == 3


def test_work_that_is_stopped_leaves_the_counts_that_are_done() -> None:
    seen: list[CalibratedIndices] = []

    def stop(phase: Phase, share: float) -> None:
        if len(seen) == 2:
            raise Cancelled

    grown = study(np.random.default_rng(1).normal(size=(30, 2)), "euclidean")
    with pytest.raises(Cancelled):
        calibrated(grown, asked(), stop, seen.append)
    whole = calibrated(grown, asked())
    np.testing.assert_array_equal(seen[-1].mean[:, :2], whole.mean[:, :2])
    ranked = seen[-1].ranked({"inside": 1.0})
    assert np.isfinite(ranked[:2]).all()
    assert np.isnan(ranked[2:]).all()


def test_too_few_cases_and_equal_ones_are_no_error() -> None:
    for n in (1, 2):
        found = calibrated(study(np.arange(n * 2.0).reshape(n, 2), "euclidean"), asked())
        assert found.why
        assert found.ranked({"inside": 1.0}).size == 0
        assert purpose_words(found, {"inside": 1.0}, None).startswith("Not computed")
    found = calibrated(study(np.ones((8, 2)), "euclidean"), asked(to=3))
    assert np.isnan(found.standing()[KEYS.index("inside")]).all()
    assert "Give a characteristic some weight" in purpose_words(found, {"inside": 1.0}, None)


def test_the_ranking_goes_into_files_and_words() -> None:
    grown = study(TEN, "euclidean")
    plan = asked(to=4, resamples=5, purpose={"stable": 2, "apart": 1})
    board = compute_indices(grown, plan)
    found = calibrated(grown, plan)
    told = choice(board, plan, None, found)["purpose"]
    assert told["best"] == 3
    assert told["weights"] == {"stable": 2.0, "apart": 1.0}
    assert "Stability is not included yet" in purpose_words(found, plan.purpose, None)
    drawn = board.with_verdicts(resampled(grown, plan))
    stable = drawn.verdicts["bootstrap-jaccard"].values
    columns = purpose_columns(found, drawn)
    np.testing.assert_array_equal(columns["stable"], stable)
    ranked = found.ranked(plan.purpose, stable)
    words = purpose_words(found, plan.purpose, stable)
    assert words.startswith(f"For this purpose 3 clusters rank first, {ranked[1]:.2f} SD above")
    assert choice(drawn, plan, None, found)["purpose"]["by_count"]["3"] == ranked[1]


def test_a_run_writes_what_clusters_are_for(tmp_path: Path) -> None:
    rows = "\n".join(f"{a},{b}" for a, b in TEN)
    (tmp_path / "t.csv").write_text(f"a,b\n{rows}\n")
    (tmp_path / "p.toml").write_text(
        'gorvel = 1\n[source]\nfile = "t.csv"\n[variables]\nuse = ["a", "b"]\n'
        '[count]\nto = 4\nresamples = 20\nrules = ["silhouette"]\nmore = ["tau", "clest"]\n'
        'groups_by = ["dunn"]\nchecks = ["groups", "purpose"]\npurpose = { apart = 3, sizes = 1 }\n'
    )
    assert status_of(["run", str(tmp_path / "p.toml"), "--out", str(tmp_path / "out")]) == 0
    with (tmp_path / "out" / "purpose.csv").open() as file:
        table = list(csv.DictReader(file))
    assert [row["clusters"] for row in table] == ["2", "3", "4"]
    assert float(table[1]["apart"]) == pytest.approx(5)
    assert table[1]["stable"] == ""  # not drawn
    chosen = json.loads((tmp_path / "out" / "choice.json").read_text())
    assert chosen["purpose"]["best"] == 3
    assert [rule["key"] for rule in chosen["rules"]] == ["silhouette", "tau", "clest"]
    with (tmp_path / "out" / "counts.csv").open() as file:
        heads = next(csv.reader(file))
    assert heads == ["clusters", "silhouette", "tau", "clest"]
    checks = json.loads((tmp_path / "out" / "checks.json").read_text())
    assert set(checks["groups"]["beside"]) == {"dunn"}
