"""Every rule for the cluster count against its definition, at every count."""

from __future__ import annotations

import math
from collections.abc import Callable

import numba
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from gorvel.core.count.indices import ranks
from gorvel.core.count.indices.index_table import IndexTable, compute_indices
from gorvel.core.count.indices.nested import nested_cuts
from gorvel.core.count.indices.pairsums import Distances, pair_sums, silhouette_values
from gorvel.core.count.indices.ranks import rank_pairs
from gorvel.core.count.indices.registry import of_basis
from gorvel.core.count.resampling.resampled_rules import resampled
from gorvel.core.grow.grown import Grown
from gorvel.core.plan.count_rules import COUNT_RULES
from gorvel.core.proximity.measures import MEASURES
from gorvel.core.proximity.pairs import Proximities
from reference import counts as slow
from studies import asked, clusters, distances, study

BOUNDED = ("hartigan", "duda-hart", "pseudo-t2")


cases = st.builds(
    lambda seed, n, p, steps: (
        np.random.default_rng(seed).integers(0, steps, (n, p)).astype(float)
        if steps
        else np.random.default_rng(seed).normal(size=(n, p))
    ),
    st.integers(0, 10**6), st.integers(2, 22), st.integers(1, 4), st.sampled_from([0, 0, 2, 4]),
)  # fmt: skip


def agrees(board: IndexTable, key: str, count: int, wanted: float | None) -> None:
    told = board.verdicts[key].at(count)
    if wanted is None:
        assert math.isnan(told), (key, count, told)
    else:
        assert told == pytest.approx(wanted, rel=1e-8, abs=1e-9), (key, count)


@given(
    cases,
    st.sampled_from(["squared-euclidean", "euclidean", "city-block"]),
    st.sampled_from(["ward", "single", "average", "centroid"]),
)
def test_rules_on_pairs_are_as_defined(x: np.ndarray, measure: str, linkage: str) -> None:
    grown = study(x, measure, linkage)
    board, d = compute_indices(grown, asked()), distances(grown)
    assert board.counts == tuple(range(2, min(6, len(x) - 1) + 1))
    rules: dict[str, Callable[..., float | None]] = {
        "silhouette": slow.silhouette, "dunn": slow.dunn, "c-index": slow.c_index,
        "gamma": slow.gamma, "point-biserial": slow.point_biserial,
        "mcclain-rao": slow.mcclain_rao,
    }  # fmt: skip
    for count in board.counts:
        for key, rule in rules.items():
            agrees(board, key, count, rule(d, clusters(grown, count)))


@given(cases, st.booleans(), st.sampled_from(["ward", "average"]), st.integers(0, 10**6))
def test_rules_on_spread_are_as_defined(
    x: np.ndarray, weighted: bool, linkage: str, seed: int
) -> None:
    rng = np.random.default_rng(seed)
    n, p = x.shape
    w = rng.uniform(0.5, 3, n) if weighted else None
    v = rng.choice([0.5, 1.0, 2.0], p)
    grown = study(x, "euclidean", linkage, v, w)
    board, mass = compute_indices(grown, asked()), (np.ones(n) if w is None else w).tolist()
    rows, shares = x.tolist(), v.tolist()
    spread = [math.nan] + [slow.within(rows, shares, mass, clusters(grown, k)) for k in
                           range(1, min(8, n) + 1)]  # fmt: skip
    total = spread[1]
    tiny = 1e-9 * total
    if tiny == 0:
        return  # all cases equal: nothing but 0 / 0
    for k in board.counts:
        c = clusters(grown, k)
        agrees(board, "trace-w", k, spread[k])
        agrees(board, "ball-hall", k, spread[k] / k)
        agrees(board, "davies-bouldin", k, slow.davies_bouldin(rows, shares, c))
        agrees(board, "ratkowsky-lance", k, slow.ratkowsky_lance(rows, shares, mass, c))
        if spread[k] > tiny:
            value = ((total - spread[k]) / (k - 1)) / (spread[k] / (n - k))
            agrees(board, "calinski-harabasz", k, value)
        if spread[k + 1] > tiny:
            agrees(board, "hartigan", k, (spread[k] / spread[k + 1] - 1) * (n - k - 1))
        one = (k - 1) ** (2 / p) * spread[k - 1] - k ** (2 / p) * spread[k]
        two = k ** (2 / p) * spread[k] - (k + 1) ** (2 / p) * spread[k + 1]
        if abs(two) > tiny:
            told = board.verdicts["krzanowski-lai"].at(k)
            assert told == pytest.approx(abs(one / two), rel=1e-5, abs=1e-6)
        _check_split(grown, board, k, (rows, shares, mass), tiny)


def _check_split(
    grown: Grown, board: IndexTable, k: int,
    data: tuple[list[list[float]], list[float], list[float]],
    tiny: float,
) -> None:  # fmt: skip
    before, after = clusters(grown, k), clusters(grown, k + 1)
    split = next(c for c in set(before)
                 if len({after[i] for i in range(len(after)) if before[i] == c}) == 2)  # fmt: skip
    own = [i for i in range(len(before)) if before[i] == split]
    one = slow.sum_of_squares(*data, own)
    two = math.fsum(
        slow.sum_of_squares(*data, [i for i in own if after[i] == c])
        for c in {after[i] for i in own}
    )
    if one > tiny:
        agrees(board, "duda-hart", k, two / one)
    p = len(data[1])
    level = 1 - 2 / (math.pi * p)
    bound = level - 3.2 * math.sqrt(2 * (1 - 8 / (math.pi**2 * p)) / (len(own) * p))
    verdict = board.verdicts["duda-hart"]
    if verdict.bound is not None:
        assert verdict.bound[board.counts.index(k)] == pytest.approx(bound)
    if len(own) == 2:
        agrees(board, "pseudo-t2", k, None)
    elif two > tiny:
        agrees(board, "pseudo-t2", k, (one - two) / (two / (len(own) - 2)))


@given(cases, st.sampled_from(["ward", "single", "centroid", "median"]))
def test_rules_on_heights_are_as_defined(x: np.ndarray, linkage: str) -> None:
    grown = study(x, "euclidean", linkage)
    board, h, n = compute_indices(grown, asked()), grown.tree.heights, len(x)
    for k in board.counts:
        leaves_k, leaves_less = h[n - k - 1], h[n - k]
        agrees(board, "largest-jump", k, leaves_less - leaves_k)
        if h.std(ddof=1) > 1e-12:
            agrees(board, "mojena", k, (leaves_less - h.mean()) / h.std(ddof=1))
    if board.counts and h.std(ddof=1) > 1e-12:
        above = np.flatnonzero((h - h.mean()) / h.std(ddof=1) > 1.25)
        wanted = n - int(above[0]) if above.size else None
        told = board.verdicts["mojena"]
        assert told.best == (wanted if wanted in board.counts else None)
        assert (told.best is None) == (told.why is not None)


@given(cases, st.sampled_from(["ward", "average", "single"]))
def test_the_best_count_follows_from_the_values(x: np.ndarray, linkage: str) -> None:
    grown = study(x, "euclidean", linkage)
    board = compute_indices(grown, asked())
    for key, verdict in board.verdicts.items():
        known = {k: verdict.at(k) for k in board.counts if not math.isnan(verdict.at(k))}
        direction = COUNT_RULES[key].direction.told
        if direction in ("max", "min") and known:
            top = max(known.values()) if direction == "max" else min(known.values())
            wanted = min(k for k, value in known.items() if abs(value - top) <= 1e-12 * abs(top))
            assert verdict.best == wanted
        if key in BOUNDED and str(verdict.why).startswith("one cluster"):
            assert verdict.best is None
            continue
        if key == "hartigan":
            assert verdict.best == min((k for k in known if known[k] <= 10), default=None)
        if key in ("duda-hart", "pseudo-t2") and verdict.bound is not None:
            bound = dict(zip(board.counts, verdict.bound.tolist(), strict=True))
            keeps = [k for k in known if (known[k] >= bound[k]) == (key == "duda-hart")
                     or known[k] == bound[k]]  # fmt: skip
            assert verdict.best == min(keeps, default=None)
        if verdict.best is None:
            assert verdict.why
        elif verdict.runner_up is not None:
            assert verdict.runner_up != verdict.best
            assert verdict.standing[board.counts.index(verdict.best)] > 0


@pytest.mark.parametrize("measure", ["squared-euclidean", "euclidean", "city-block", "canberra"])
@pytest.mark.parametrize("steps", [0, 4])
def test_large_passes_are_those_of_small_ones(
    measure: str, steps: int, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Without a matrix, in ranges of value that fit into little memory, in several chunks."""
    rng = np.random.default_rng(steps)
    x = rng.integers(0, steps, (700, 5)).astype(float) if steps else rng.normal(size=(700, 5))
    grown = study(x, measure, "average")
    answers = grown.prepared.answers
    assert answers is not None
    bare = Proximities(answers, measure, None, grown.prepared.labels)
    nested, counts = nested_cuts(grown.tree, 8), range(2, 8)
    small, large = (pair_sums(nested, Distances(p)) for p in (grown.pairs, bare))
    np.testing.assert_allclose(large.to_pieces, small.to_pieces, rtol=1e-11, atol=1e-9)
    np.testing.assert_allclose(large.nearest, small.nearest, rtol=1e-12)
    np.testing.assert_allclose(large.farthest, small.farthest, rtol=1e-12)
    assert large.squares == pytest.approx(small.squares, rel=1e-12)
    whole = rank_pairs(nested, Distances(grown.pairs), counts, 1e9)
    monkeypatch.setattr(ranks, "_CHUNK", 1 << 12)
    monkeypatch.setattr(ranks, "_CHUNKS", 3)
    monkeypatch.setattr(ranks, "_STEP", 1 << 15)
    some = rank_pairs(nested, Distances(bare), counts, 400_000.0)
    assert some.agree.tolist() == whole.agree.tolist()
    assert some.against.tolist() == whole.against.tolist()
    np.testing.assert_allclose(some.smallest, whole.smallest, rtol=1e-12)
    np.testing.assert_allclose(some.largest, whole.largest, rtol=1e-12)
    sizes = [nested.pairs_within(count) for count in counts]
    ordered = np.sort(Distances(bare).block(nested.order, nested.order)[np.triu_indices(700, 1)])
    np.testing.assert_allclose(whole.smallest, [ordered[:m].sum() for m in sizes], rtol=1e-12)
    np.testing.assert_allclose(whole.largest, [ordered[-m:].sum() for m in sizes], rtol=1e-12)


def test_the_number_of_threads_changes_no_value() -> None:
    x = np.random.default_rng(1).integers(0, 5, (900, 4)).astype(float)
    grown = study(x, "euclidean")
    answers = grown.prepared.answers
    assert answers is not None
    bare = Distances(Proximities(answers, "euclidean", None, grown.prepared.labels))
    nested, told = nested_cuts(grown.tree, 7), []
    before = numba.get_num_threads()
    for threads in (1, numba.config.NUMBA_NUM_THREADS):
        numba.set_num_threads(threads)
        sums = pair_sums(nested, bare)
        ranked = rank_pairs(nested, bare, range(2, 7), 1e9)
        told.append([
            sums.to_pieces.tolist(), sums.squares, ranked.agree.tolist(), ranked.against.tolist(),
            ranked.smallest.tolist(), ranked.largest.tolist(),
        ])  # fmt: skip
    numba.set_num_threads(before)
    assert told[0] == told[1]


def test_silhouettes_of_cases_and_where_they_lean() -> None:
    grown = study(np.random.default_rng(4).normal(size=(40, 2)), "euclidean")
    nested, d = nested_cuts(grown.tree, 5), distances(grown)
    sums = pair_sums(nested, Distances(grown.pairs))
    for count in (2, 4):
        values, leans = silhouette_values(sums, count)
        wanted = slow.silhouettes(d, clusters(grown, count))
        np.testing.assert_allclose(values, np.array(wanted)[nested.order], rtol=1e-10)
        own = nested.clusters(count)
        for row, case in enumerate(nested.order.tolist()):
            means = {c: np.mean([d[case][j] for j in np.flatnonzero(own == c)])
                     for c in range(count) if c != own[case]}  # fmt: skip
            assert leans[row] == min(means, key=lambda c: means[c])


def test_what_is_there_is_told_before_all_pairs_are_in_order() -> None:
    seen: list[IndexTable] = []
    grown = study(np.random.default_rng(6).normal(size=(30, 3)), "euclidean")
    board = compute_indices(grown, asked(), report=seen.append)
    kinds = [{COUNT_RULES[key].needs[0] for key in part.verdicts} for part in seen]
    both = {"variables", "heights", "proximities"}
    assert kinds == [{"variables", "heights"}, both, both]
    for part in seen:
        for key, verdict in part.verdicts.items():
            assert verdict.values.tolist() == board.verdicts[key].values.tolist()
    assert set(board.verdicts) - set(seen[1].verdicts) == {"gamma", "c-index"}


@pytest.mark.parametrize("n", [1, 2, 3])
def test_few_cases_are_no_error(n: int) -> None:
    board = compute_indices(study(np.arange(n * 2.0).reshape(n, 2), "euclidean"), asked())
    assert board.counts == ((2,) if n == 3 else ())
    for verdict in board.verdicts.values():
        assert (verdict.best is None) == (verdict.why is not None)


def test_families_share_a_vote_and_rules_can_be_left_out() -> None:
    x = np.concatenate([np.random.default_rng(1).normal(size=(30, 2)) + shift
                        for shift in ((0, 0), (12, 0), (0, 12))])  # fmt: skip
    board = compute_indices(study(x, "euclidean"), asked())
    votes = board.votes()
    assert sum(votes.values()) == sum(voice.votes for voice in board.voices().values())
    families = board.family_votes()
    for family in ("spread", "separation", "heights"):
        assert sum(f.get(family, 0) for f in families.values()) == pytest.approx(1)
    without = board.votes(("silhouette",))
    assert without[3] == votes[3] - 1


@given(cases, st.sampled_from(["ward", "average"]), st.booleans())
def test_one_cluster_is_an_answer_of_rules_with_a_bound(
    x: np.ndarray, linkage: str, from_one: bool
) -> None:
    """W of one and of two clusters, and the bounds, from their definitions."""
    n, p = x.shape
    grown = study(x, "euclidean", linkage)
    board = compute_indices(grown, asked(**({"from": 1} if from_one else {})))
    ones = np.ones(n).tolist()
    w1, w2 = (slow.within(x.tolist(), [1.0] * p, ones, clusters(grown, k)) for k in (1, 2))
    if w2 <= 1e-9 * w1:
        return
    level = 1 - 2 / (math.pi * p) - 3.2 * math.sqrt(2 * (1 - 8 / (math.pi**2 * p)) / (n * p))
    holds = {
        "hartigan": (w1 / w2 - 1) * (n - 2) <= 10, "duda-hart": w2 / w1 >= level,
        "pseudo-t2": w2 / w1 >= level,
    }  # fmt: skip
    near = abs((w1 / w2 - 1) * (n - 2) - 10) < 1e-6 or abs(w2 / w1 - level) < 1e-9
    for key in BOUNDED:
        verdict = board.verdicts[key]
        if near or n < 4:
            continue
        if holds[key] and not from_one:
            assert verdict.best is None, key
            assert verdict.why is not None
            assert verdict.why.startswith("one cluster"), key
        elif holds[key]:
            assert verdict.best == 1, key
        else:
            assert verdict.best != 1, key
            assert "one cluster" not in str(verdict.why), key


@pytest.mark.parametrize("measure", sorted(MEASURES))
def test_rules_on_sums_of_squares_need_a_euclidean_tree(measure: str) -> None:
    rng = np.random.default_rng(6)
    kind = MEASURES[measure].kind
    x = rng.integers(0, 2, (30, 5)) if kind == "binary" else rng.integers(1, 9, (30, 4))
    grown = study(x.astype(float), measure, "average")
    board = compute_indices(grown, asked(more="all"))
    board = board.with_verdicts(resampled(grown, asked(resamples=2), ["gap"]))
    euclidean = measure in ("euclidean", "squared-euclidean", "mahalanobis")
    for key in (*of_basis("spread", "scatter"), "gap"):
        verdict = board.verdicts[key]
        assert (verdict.why is not None and "Euclidean" in verdict.why) is not euclidean, key
        assert np.isnan(verdict.values).all() is not euclidean or euclidean, key
    assert np.isfinite(board.verdicts["silhouette"].values).all()
