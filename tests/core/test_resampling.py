"""Rules that draw again, against slow code from their definitions, on planted data and on noise."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from gorvel.core.base.errors import Cancelled, InputError
from gorvel.core.base.progress import Phase
from gorvel.core.cases.prepared import Prepared
from gorvel.core.count.agreement import adjusted_rand, cross_counts, normalised_information
from gorvel.core.count.indices.index_table import compute_indices
from gorvel.core.count.indices.verdicts import Verdict
from gorvel.core.count.resampling import resampling_engine
from gorvel.core.count.resampling.resampled_rules import resampled
from gorvel.core.count.resampling.resampling_engine import NoiseBox
from gorvel.core.engine.engine import ThreadEngine
from gorvel.core.grow.growing import grown_tree
from gorvel.core.grow.grown import Grown, grow_prepared
from gorvel.core.plan.parts import CountPlan
from gorvel.core.plan.plan import Plan
from gorvel.core.tree.cuts import cut_at_count
from gorvel.core.tree.tree import Tree
from gorvel.core.words.count import verdict_words
from reference import counts as slow
from studies import asked, study


def blobs(seed: int, apart: float, size: int = 30) -> np.ndarray:
    """Four round clouds on the corners of a square."""
    rng = np.random.default_rng(seed)
    corners = np.array([(0, 0), (apart, 0), (0, apart), (apart, apart)], dtype=float)
    return np.concatenate([rng.normal(size=(size, 2)) + corner for corner in corners])


def told(grown: Grown, count: CountPlan, **how: int) -> dict[str, Verdict]:
    return {verdict.key: verdict for verdict in resampled(grown, count, **how)}


groups = st.lists(st.tuples(st.integers(0, 3), st.integers(0, 2)), min_size=2, max_size=12)


@given(groups)
def test_agreement_is_as_defined_on_pairs(both: list[tuple[int, int]]) -> None:
    one, other = np.array(both).T
    table = cross_counts(one, other)
    assert table.sum() == len(both)
    rand = slow.adjusted_rand(one.tolist(), other.tolist())
    assert adjusted_rand(table) == pytest.approx(1.0 if rand is None else rand)
    shared = slow.normalised_mutual_information(one.tolist(), other.tolist())
    assert normalised_information(table) == pytest.approx(1.0 if shared is None else shared)
    assert adjusted_rand(cross_counts(one, one)) == 1.0


def part(grown: Grown, rows: np.ndarray) -> tuple[Tree, np.ndarray]:
    """The tree of some rows grown like a study of its own, repeated rows and all."""
    own = grown.prepared
    x = own.answers.values[rows]  # type: ignore[union-attr]
    w = None if own.weights is None else own.weights[rows]
    again = study(x, grown.method.measure, grown.method.linkage, w=w)
    return again.tree, x


def grown_of(grown: Grown, rows: np.ndarray) -> Tree:
    """The tree of some cases by the proximities that they have among all."""
    matrix = grown.pairs.matrix
    assert matrix is not None
    weights = grown.prepared.weights
    some = replace(
        grown.prepared, labels=tuple(map(str, rows)), answers=None,
        proximities=matrix[np.ix_(rows, rows)], weights=None if weights is None else weights[rows],
    )  # fmt: skip
    return (
        part(grown, rows)[0]
        if grown.pairs.key == "euclidean"
        else grown_tree(some, grown.method)[0]
    )


@pytest.mark.parametrize("linkage", ["ward", "average", "single", "median", "flexible", "minimax"])
@pytest.mark.parametrize(
    ("measure", "weighted"),
    [("euclidean", False), ("euclidean", True), ("city-block", False), ("mahalanobis", False)],
)
def test_rounds_are_those_of_the_definitions(linkage: str, measure: str, weighted: bool) -> None:
    """Bootstrap and halves, from trees of repeated rows and sets of cases."""
    rng = np.random.default_rng(3)
    x, seed, rounds = rng.normal(size=(40, 2)), 7, 4
    w = rng.uniform(0.5, 2, 40) if weighted else None
    grown = study(x, measure, linkage, w=w)
    whole = grown.pairs.matrix
    assert whole is not None
    verdicts = told(grown, asked(to=4, seed=seed, resamples=rounds))
    counts = (2, 3, 4)
    original = {k: cut_at_count(grown.tree, k).membership for k in counts}
    best: dict[tuple[int, int], list[float]] = {}
    strength: dict[int, list[float]] = {k: [] for k in counts}
    rand: dict[int, list[float]] = {k: [] for k in counts}
    for number in range(rounds):
        rows = np.sort(np.random.default_rng([seed, number, 1]).integers(0, 40, 40))
        tree = grown_of(grown, rows)
        for k in counts:
            again = cut_at_count(tree, k).membership
            parts = [{int(r) for r in rows[again == c]} for c in set(again.tolist())]
            for c in range(1, k + 1):
                mine = {int(r) for r in np.flatnonzero(original[k] == c)} & set(rows.tolist())
                if mine:
                    best.setdefault((k, c), []).append(
                        max(len(mine & p) / len(mine | p) for p in parts)
                    )
        mixed = np.random.default_rng([seed, number, 2]).permutation(40)
        halves = np.sort(mixed[:20]), np.sort(mixed[20:])
        trees = [(grown_of(grown, half), x[half]) for half in halves]
        for k in counts:
            for side in range(2):
                (judge, a), (judged, b) = trees[side], trees[1 - side]
                mass = np.ones(20) if w is None else w[halves[side]]
                own = cut_at_count(judge, k).membership
                if measure == "euclidean":
                    centroids = [np.average(a[own == c], axis=0, weights=mass[own == c])
                                 for c in range(1, k + 1)]  # fmt: skip
                    far = [[((row - c) ** 2).sum() for c in centroids] for row in b]
                elif measure == "mahalanobis":
                    inverse = np.linalg.inv(np.cov(x.T))
                    away = [b - a[own == c].mean(axis=0) for c in range(1, k + 1)]
                    far = np.array([((d @ inverse) * d).sum(axis=1) for d in away]).T.tolist()
                else:
                    block = whole[np.ix_(halves[1 - side], halves[side])]
                    far = [[row[own == c].mean() for c in range(1, k + 1)] for row in block]
                given = [int(np.argmin(row)) for row in far]
                test = cut_at_count(judged, k).membership.tolist()
                rand[k].append(slow.adjusted_rand(test, given))  # type: ignore[arg-type]
                kept = []
                for c in set(test):
                    inside = [i for i in range(20) if test[i] == c]
                    pairs = [(i, j) for i in inside for j in inside if i != j]
                    same = [given[i] == given[j] for i, j in pairs]
                    kept.append(np.mean(same) if same else 0.0)  # one case predicts nothing
                strength[k].append(min(kept))
    for k in counts:
        of_clusters = [np.mean(best[k, c]) for c in range(1, k + 1)]
        assert verdicts["bootstrap-jaccard"].at(k) == pytest.approx(np.mean(of_clusters))
        lowest = verdicts["bootstrap-jaccard"].lowest
        assert lowest is not None
        assert lowest[k - 2] == pytest.approx(min(of_clusters))
        assert verdicts["prediction-strength"].at(k) == pytest.approx(np.mean(strength[k]))
        assert verdicts["split-half"].at(k) == pytest.approx(np.mean(rand[k]))


@pytest.mark.parametrize("box", ["axes", "straight"])
def test_the_gap_is_that_of_noise_in_the_box(box: str) -> None:
    x = blobs(2, 6.0, 12)
    v, w = np.array([1.0, 2.0]), np.random.default_rng(1).uniform(0.5, 2, len(x))
    grown = study(x, "euclidean", "ward", v, w)
    verdict = told(grown, asked(to=5, seed=3, resamples=6, box=box))["gap"]
    logs = []
    for number in range(6):
        random = np.random.default_rng([3, number, 0])
        noise = NoiseBox.of(x * np.sqrt(v), box).draw(random, len(x))
        tree = study(noise / np.sqrt(v), "euclidean", "ward", v, w).tree
        logs.append([np.log(slow.within((noise / np.sqrt(v)).tolist(), v.tolist(), w.tolist(),
                                        cut_at_count(tree, k).membership.tolist()))
                     for k in range(1, 7)])  # fmt: skip
    cuts = [cut_at_count(grown.tree, k).membership.tolist() for k in range(1, 7)]
    own = [slow.within(x.tolist(), v.tolist(), w.tolist(), cut) for cut in cuts]
    gaps = np.mean(logs, axis=0) - np.log(own)
    errors = np.std(logs, axis=0) * np.sqrt(1 + 1 / 6)
    np.testing.assert_allclose(verdict.values, gaps[1:5])
    assert verdict.error is not None
    np.testing.assert_allclose(verdict.error, errors[1:5])
    keeps = [k for k in range(2, 6) if gaps[k - 1] >= gaps[k] - errors[k]]
    assert verdict.best == min(keeps)
    published = [k for k in range(1, 6) if gaps[k - 1] >= gaps[k] - errors[k]]
    assert verdict.published == ("one" if published[0] == 1 else published[0])


def test_the_published_rule_is_told_where_ours_beside_it_answers_otherwise() -> None:
    """Skewed amounts without groups: our rule takes them for clusters, the paper’s does not."""
    found = []
    for seed in range(4):
        skewed = np.exp(0.8 * np.random.default_rng(seed).normal(size=(150, 6)))
        values = (skewed - skewed.mean(axis=0)) / skewed.std(axis=0)
        found.append(told(study(values), asked(resamples=10, rules=["gap"], to=10))["gap"])
    assert all(verdict.published == "one" for verdict in found)
    apart = [verdict for verdict in found if isinstance(verdict.answer, int)]
    assert len(apart) >= 4
    said = verdict_words(apart[0])
    assert said.endswith("The published rule alone answers one cluster.")
    alike = replace(apart[0], published=apart[0].answer)
    assert "published" not in verdict_words(alike)


def test_a_straight_box_holds_the_cases_and_no_more() -> None:
    x = np.random.default_rng(1).uniform(size=(300, 6))
    noise = NoiseBox.of(x, "straight").draw(np.random.default_rng(3), 5000)
    np.testing.assert_allclose(noise.min(axis=0), x.min(axis=0), atol=0.01)
    np.testing.assert_allclose(noise.max(axis=0), x.max(axis=0), atol=0.01)
    turned = NoiseBox.of(x).draw(np.random.default_rng(3), 5000)
    assert (turned.max(axis=0) - turned.min(axis=0)).mean() > 1.5  # of axes that mean nothing


def test_noise_fills_the_box_along_the_axes_of_the_cases() -> None:
    x = np.random.default_rng(1).normal(size=(200, 3)) @ np.diag([5.0, 1.0, 0.2])
    turn = np.linalg.qr(np.random.default_rng(2).normal(size=(3, 3)))[0]
    noise = NoiseBox.of(x @ turn + 9).draw(np.random.default_rng(3), 5000)
    along = (noise - 9) @ turn.T
    ends = np.abs(along).max(axis=0)
    np.testing.assert_allclose(ends, np.abs(x).max(axis=0), rtol=0.25)
    assert np.corrcoef(np.abs(along).T)[0, 1] < 0.1  # even, not round


@pytest.mark.slow
@pytest.mark.parametrize("seed", range(3))
def test_planted_counts_are_found_and_noise_is_not_taken_for_them(seed: int) -> None:
    planted, count = study(blobs(seed, 9.0), "euclidean"), asked(to=8, resamples=20)
    board = compute_indices(planted, count).with_verdicts(resampled(planted, count))
    for key in (
        "calinski-harabasz", "silhouette", "davies-bouldin", "dunn", "c-index", "gamma",
        "point-biserial", "gap", "prediction-strength", "split-half",
    ):  # fmt: skip
        assert board.verdicts[key].best == 4, key
    for key in ("duda-hart", "pseudo-t2"):  # two of four corners are as far apart as all of them
        assert str(board.verdicts[key].why).startswith("one cluster"), key
    stable = board.verdicts["bootstrap-jaccard"].lowest
    assert stable is not None
    assert stable[2] == stable.max() > 0.99
    kinds = board.family_votes()
    assert max(kinds, key=lambda count: sum(kinds[count].values())) == 4
    noise = np.random.default_rng(seed).uniform(size=(150, 4))
    verdicts = told(study(noise, "euclidean", "average"), asked(to=8, resamples=20))
    for key in ("gap", "bootstrap-jaccard", "prediction-strength"):
        assert verdicts[key].best is None, key
        assert verdicts[key].why
    assert "one cluster" in str(verdicts["gap"].why)
    count = asked(**{"from": 1, "to": 8, "resamples": 20})
    assert told(study(noise, "euclidean", "average"), count)["gap"].best == 1


def test_workers_change_nothing_and_what_is_finished_is_what_fewer_rounds_give() -> None:
    x = blobs(1, 3.0, 15)
    grown, count = study(x, "euclidean"), asked(to=5, resamples=9)
    one, several = (
        told(grown, count, engine=ThreadEngine(1)),
        told(grown, count, engine=ThreadEngine(3)),
    )
    seen: list[tuple[int, list[Verdict]]] = []

    def stop(phase: Phase, share: float) -> None:
        if share > 0.5:
            raise Cancelled

    with pytest.raises(Cancelled):
        resampled(grown, count, None, stop, lambda done, found: seen.append((done, found())))
    fewer = told(grown, asked(to=5, resamples=seen[-1][0]))
    kept = {verdict.key: verdict for verdict in seen[-1][1]}
    for key, verdict in one.items():
        assert verdict.values.tolist() == several[key].values.tolist()
        assert kept[key].values.tolist() == fewer[key].values.tolist()
        assert kept[key].best == fewer[key].best


def test_large_studies_are_resampled_like_small_ones(monkeypatch: pytest.MonkeyPatch) -> None:
    """One tree after the other by kernels that use all cores, or several side by side."""
    for measure, linkage in (("euclidean", "ward"), ("city-block", "complete"),
                             ("euclidean", "minimax")):  # fmt: skip
        grown = study(blobs(5, 2.0, 12), measure, linkage)
        count = asked(to=5, resamples=4)
        small = told(grown, count)
        with monkeypatch.context() as patch:
            patch.setattr(resampling_engine, "SMALL", 1)
            large = told(grown, count)
        for key, verdict in small.items():
            np.testing.assert_allclose(large[key].values, verdict.values, rtol=1e-9)


def test_a_matrix_is_resampled_by_proximities() -> None:
    x = blobs(4, 9.0, 10)
    d = np.sqrt(((x[:, None] - x[None]) ** 2).sum(axis=2))
    own, count = study(x, "euclidean", "average"), asked(resamples=10)
    bare = Prepared(
        "m.csv", len(x), own.prepared.numbers, own.prepared.labels, None, (), None, None, d,
        "cases", (), (),
    )  # fmt: skip
    source = {"file": "m.csv", "kind": "proximities"}
    rule = {"linkage": "average"}
    grown = grow_prepared(bare, Plan.model_validate({"source": source, "tree": rule}), {})
    verdicts = told(grown, count)
    assert verdicts["gap"].why == "it needs variables, and a proximity matrix has none"
    for key in ("bootstrap-jaccard", "prediction-strength", "split-half"):
        assert verdicts[key].best == 4, key
    alike = told(own, count)["bootstrap-jaccard"]
    assert verdicts["bootstrap-jaccard"].values.tolist() == alike.values.tolist()


def test_noise_that_cannot_be_measured_silences_the_gap_alone(
    monkeypatch: pytest.MonkeyPatch,
) -> None:
    def refuse(*_: object) -> None:
        raise InputError("a case without any answer", "something to compare")

    grown, count = study(blobs(3, 9.0, 12), "euclidean"), asked(to=5, resamples=4)
    plain = told(grown, count)
    monkeypatch.setattr(resampling_engine.TreeResampler, "of_values", refuse)
    verdicts = told(grown, count)
    assert verdicts["gap"].best is None
    assert "a case without any answer" in str(verdicts["gap"].why)
    for key in ("bootstrap-jaccard", "prediction-strength", "split-half"):
        assert verdicts[key].values.tolist() == plain[key].values.tolist()
