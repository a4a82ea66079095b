"""Rules that draw again and that a plan asks for by name, against slow code and on planted data."""

from __future__ import annotations

from itertools import combinations

import numpy as np
import pytest

from gorvel.core.count.indices.verdicts import Verdict, agrees_beyond
from gorvel.core.count.resampling.null_model import NullModel
from gorvel.core.count.resampling.resampled_rules import RESAMPLING, resampled
from gorvel.core.count.resampling.resampling_engine import NoiseBox
from gorvel.core.grow.grown import Grown
from gorvel.core.plan.count_rules import FURTHER
from gorvel.core.plan.parts import CountPlan
from gorvel.core.tree.cuts import cut_at_count
from reference import counts as slow
from reference import further_counts as further
from studies import asked, study

DRAWN = tuple(key for key in RESAMPLING if key in FURTHER)


def told(grown: Grown, count: CountPlan, **how: int) -> dict[str, Verdict]:
    return {verdict.key: verdict for verdict in resampled(grown, count, DRAWN, **how)}


def clouds(groups: int, seed: int, n: int = 60) -> np.ndarray:
    rng = np.random.default_rng(seed)
    own = rng.integers(0, groups, n)
    return rng.normal(size=(n, 3)) + 9 * np.eye(4, 3)[own]


def cut(x: np.ndarray, measure: str, linkage: str, k: int) -> list[int]:
    return cut_at_count(study(x, measure, linkage).tree, k).membership.tolist()


def test_the_weighted_gap_is_that_of_noise_in_the_box() -> None:
    x = clouds(3, 2, 30)
    verdicts = told(study(x, "euclidean"), asked(to=5, seed=3, resamples=6, more=DRAWN))
    counts = range(1, 7)
    logs = []
    for number in range(6):
        random = np.random.default_rng([3, number, 0])
        noise = NoiseBox.of(x).draw(random, len(x))
        cuts = [cut(noise, "euclidean", "ward", k) for k in counts]
        logs.append([np.log(further.weighted_spread(noise.tolist(), c)) for c in cuts])
    cuts = [cut(x, "euclidean", "ward", k) for k in counts]
    own = [further.weighted_spread(x.tolist(), c) for c in cuts]
    gaps = np.mean(logs, axis=0) - np.log(own)
    np.testing.assert_allclose(verdicts["weighted-gap"].values, gaps[1:5])
    bends = 2 * gaps[1:5] - gaps[:4] - gaps[2:]
    np.testing.assert_allclose(verdicts["dd-gap"].values, bends)
    assert verdicts["dd-gap"].best == 2 + int(np.argmax(bends))


@pytest.mark.parametrize(
    ("measure", "linkage"),
    [("euclidean", "ward"), ("city-block", "average"), ("city-block", "single"),
     ("euclidean", "median")],
)  # fmt: skip
def test_instability_is_the_share_of_pairs_two_resamples_disagree_on(
    measure: str, linkage: str
) -> None:
    x, n, rounds = clouds(3, 4, 26), 26, 3
    grown = study(x, measure, linkage)
    whole = grown.pairs.matrix
    assert whole is not None
    verdict = told(grown, asked(to=4, seed=9, resamples=rounds, more=DRAWN))["instability"]
    found: dict[int, list[float]] = {2: [], 3: [], 4: []}
    for number in range(rounds):
        random = np.random.default_rng([9, number, 3])
        drawn = [np.sort(random.integers(0, n, n)) for _ in range(2)]
        for k, shares in found.items():
            sides = []
            for rows in drawn:
                own = np.array(cut(x[rows], measure, linkage, k))
                if measure == "euclidean":
                    middles = [x[rows][own == c].mean(axis=0) for c in range(1, k + 1)]
                    far = [[((row - m) ** 2).sum() for m in middles] for row in x]
                else:
                    far = [[row[rows][own == c].mean() for c in range(1, k + 1)] for row in whole]
                sides.append([int(np.argmin(row)) for row in far])
            one, other = sides
            apart = [(one[i] == one[j]) != (other[i] == other[j])
                     for i, j in combinations(range(n), 2)]  # fmt: skip
            shares.append(float(np.mean(apart)))
    np.testing.assert_allclose(verdict.values, [np.mean(found[k]) for k in (2, 3, 4)])


@pytest.mark.slow
def test_halves_are_held_against_those_of_data_without_groups() -> None:
    """Clest, from trees of halves grown like studies of their own."""
    x, n, rounds, counts = clouds(3, 1, 24), 24, 19, (2, 3, 4)
    grown = study(x, "euclidean")
    verdict = told(grown, asked(to=4, seed=5, resamples=rounds, more=DRAWN))["clest"]
    answers = grown.prepared.answers
    assert answers is not None

    def agreement(data: np.ndarray, random: np.random.Generator) -> list[float]:
        mixed = random.permutation(n)
        halves = [data[np.sort(mixed[: n // 2])], data[np.sort(mixed[n // 2 :])]]
        out = []
        for k in counts:
            both = []
            for judge, test in (halves, halves[::-1]):
                own = np.array(cut(judge, "euclidean", "ward", k))
                middles = [judge[own == c].mean(axis=0) for c in range(1, k + 1)]
                given = [int(np.argmin([((r - m) ** 2).sum() for m in middles])) for r in test]
                both.append(slow.adjusted_rand(cut(test, "euclidean", "ward", k), given))
            out.append(float(np.mean([1.0 if rand is None else rand for rand in both])))
        return out

    null = NullModel.of(answers, np.ones(n), 5)
    own, without = [], []
    for number in range(rounds):
        own.append(agreement(x, np.random.default_rng([5, number, 2])))
        random = np.random.default_rng([5, number, 4])
        drawn = null.draw(random)
        without.append(np.mean([agreement(drawn, random) for _ in range(3)], axis=0))
    beyond = np.mean(own, axis=0) - np.mean(without, axis=0)
    np.testing.assert_allclose(verdict.values, beyond)
    p = (1 + (np.array(without) >= np.mean(own, axis=0)).sum(axis=0)) / (1 + rounds)
    clear = [k for k, b, q in zip(counts, beyond, p, strict=True) if b >= 0.05 and q <= 0.05]
    assert verdict.answer == (max(clear, key=lambda k: beyond[k - 2]) if clear else "one")


def test_halves_that_agree_no_better_than_without_groups_are_one_cluster() -> None:
    counts, random = (2, 3), np.random.default_rng(1)
    without = random.uniform(0.3, 0.7, (40, 2))
    assert agrees_beyond(counts, np.array([0.5, 0.52]), without).answer == "one"
    assert agrees_beyond(counts, np.array([0.5, 0.9]), without).answer == 3
    assert agrees_beyond(counts, np.array([0.95, 0.9]), without).answer == 2
    near = np.full((40, 2), 0.6)
    assert agrees_beyond(counts, np.array([0.64, 0.64]), near).answer == "one"  # p alone is small
    assert agrees_beyond(counts, np.array([np.nan, np.nan]), without).answer is None


@pytest.mark.slow
def test_planted_groups_are_counted_and_a_cloud_is_one() -> None:
    for seed in range(2):
        verdicts = told(study(clouds(3, seed, 90)), asked(resamples=20, more=DRAWN))
        for key in DRAWN:
            assert verdicts[key].answer == 3, key
        assert told(study(clouds(1, seed, 90)), asked(resamples=20))["clest"].answer == "one"


def test_what_cannot_be_drawn_says_why() -> None:
    few = told(study(clouds(2, 1)), asked(resamples=18))
    assert "needs 19 resamples" in str(few["clest"].why)
    taxi = told(study(clouds(2, 1), "city-block", "average"), asked(resamples=19))
    for key in ("weighted-gap", "dd-gap"):
        assert "not Euclidean" in str(taxi[key].why)
    assert taxi["clest"].answer is not None
    assert taxi["instability"].answer is not None
