"""Are there groups: silhouettes against data without any, and what is concluded from them."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from gorvel.core.base.errors import Cancelled
from gorvel.core.base.numbers import number
from gorvel.core.base.progress import Phase
from gorvel.core.count.indices.index_table import compute_indices
from gorvel.core.count.null import evidence as module
from gorvel.core.count.null.conclusion import RIVALS, concluded
from gorvel.core.count.null.evidence import Evidence, Peaks, evidence_of_groups
from gorvel.core.count.null.null_comparison import IndexComparison
from gorvel.core.count.resampling.null_model import NullModel
from gorvel.core.export.count import choice, evidence_told
from gorvel.core.plan.parts import CountPlan
from gorvel.core.tree.cuts import cut_at_count
from gorvel.core.words.conclusion import against, beside_words, conclusion_sentence, headline
from gorvel.core.words.count import draft_reasons
from studies import asked, study

FOUND = st.builds(
    lambda seed, draws, counts: Evidence(
        tuple(range(2, 2 + counts)),
        np.random.default_rng(seed).uniform(-0.2, 0.8, counts),
        np.full(counts, 0.3),
        np.round(np.random.default_rng(seed + 1).uniform(-0.2, 0.8, (draws, counts)), 1),
    ),
    st.integers(0, 10**6), st.integers(2, 9), st.integers(1, 5),
)  # fmt: skip


def three(n: int, apart: float, seed: int = 1) -> np.ndarray:
    rng = np.random.default_rng(seed)
    corners = apart * np.array([[0, 0, 0], [1, 0, 1], [0, 1, 1]])
    return rng.normal(size=(n, 3)) + corners[np.arange(n) % 3]


@given(FOUND)
def test_p_is_as_defined(found: Evidence) -> None:
    draws, counts = found.drawn.shape
    mean = [sum(found.drawn[:, k]) / draws for k in range(counts)]
    sd = [np.sqrt(sum((d - mean[k]) ** 2 for d in found.drawn[:, k]) / (draws - 1))
          for k in range(counts)]  # fmt: skip

    def highest(row: np.ndarray) -> float:
        return max((row[k] - mean[k]) / sd[k] if sd[k] > 0 else 0.0 for k in range(counts))

    own = highest(found.values)
    reached = sum(highest(row) >= own for row in found.drawn)
    assert found.p == pytest.approx((1 + reached) / (1 + draws))
    for k in range(counts):
        reached = sum(row[k] >= found.values[k] for row in found.drawn)
        assert found.by_count[k] == pytest.approx((1 + reached) / (1 + draws))
    assert found.standing[found.counts.index(found.highest)] == pytest.approx(own)


@given(
    st.integers(0, 10**6), st.sampled_from(["squared-euclidean", "city-block", "mahalanobis"]),
    st.sampled_from(["ward", "average"]), st.booleans(),
)  # fmt: skip
@settings(max_examples=12)
def test_values_are_those_of_the_board(
    seed: int, measure: str, linkage: str, weighted: bool
) -> None:
    rng = np.random.default_rng(seed)
    weights = rng.uniform(0.5, 2, 24) if weighted else None
    grown = study(rng.normal(size=(24, 3)), measure, linkage, w=weights)
    found = evidence_of_groups(grown, asked(resamples=3))
    board = compute_indices(grown, asked(rules=["silhouette"]))
    np.testing.assert_allclose(found.values, board.verdicts["silhouette"].values)
    for count, share in zip(found.counts, found.second, strict=True):
        sizes = np.sort(np.bincount(cut_at_count(grown.tree, count).membership)[1:])
        assert share == pytest.approx(sizes[-2] / 24)
    assert found.draws == 3
    assert found.mean.shape == found.sd.shape == found.by_count.shape == (len(found.counts),)


def test_workers_change_nothing_and_fewer_draws_are_the_first_ones(
    monkeypatch: pytest.MonkeyPatch,
) -> None:
    grown = study(three(600, 3), "squared-euclidean")
    sights: list[Evidence] = []
    whole = evidence_of_groups(grown, asked(resamples=6), report=sights.append)
    monkeypatch.setattr("gorvel.core.count.resampling.resampling_engine.cpu_count", lambda: 1)
    alone = evidence_of_groups(grown, asked(resamples=4))
    np.testing.assert_array_equal(whole.drawn[:4], alone.drawn)
    assert [seen.draws for seen in sights] == [1, 2, 3, 4, 5, 6]
    np.testing.assert_array_equal(sights[-1].drawn, whole.drawn)
    other = evidence_of_groups(grown, asked(resamples=4, seed=2))
    assert not np.array_equal(other.drawn, alone.drawn)


def test_it_can_be_stopped() -> None:
    told: list[float] = []

    def stop(phase: Phase, share: float) -> None:
        assert phase is Phase.GROUPS
        told.append(share)
        if share > 0.3:
            raise Cancelled

    with pytest.raises(Cancelled):
        evidence_of_groups(study(three(30, 3), "squared-euclidean"), asked(resamples=10), stop)
    assert told == [0.1, 0.2, 0.3, pytest.approx(0.4)]


@pytest.mark.parametrize("n", [1, 2, 3, 9])
def test_few_cases_are_told(n: int) -> None:
    found = evidence_of_groups(study(np.arange(2.0 * n).reshape(n, 2), "euclidean"), asked())
    assert found.p is None
    assert found.highest is None
    assert "too few" in found.why
    assert (
        concluded(compute_indices(study(three(30, 3), "euclidean"), asked()), found).groups is None
    )


def test_of_large_studies_a_part_is_drawn(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(module, "MOST", 60)
    grown = study(three(300, 6), "squared-euclidean")
    found = evidence_of_groups(grown, asked(resamples=30))
    assert found.part == 60
    assert found.highest == 3
    told = concluded(compute_indices(grown, asked()), found)
    assert (told.groups, told.count) == ("yes", 3)
    assert "in a subsample of 60 cases" in conclusion_sentence(told, found)


@pytest.mark.slow
def test_groups_are_found_and_their_absence_is_said() -> None:
    """Three groups 5 sd apart, and three kinds of data without: 6 studies of 50 cases each."""
    plan = CountPlan(resamples=25, to=6)

    def groups(make: object, seed: int) -> str | None:
        grown = study(make(np.random.default_rng(seed)), "squared-euclidean")  # type: ignore[operator]
        return concluded(compute_indices(grown, plan), evidence_of_groups(grown, plan)).groups

    def skewed(rng: np.random.Generator) -> np.ndarray:
        return np.exp(0.8 * rng.normal(size=(50, 5)))

    def factor(rng: np.random.Generator) -> np.ndarray:
        return 0.8 * rng.normal(size=(50, 1)) + 0.6 * rng.normal(size=(50, 5))

    def ratings(rng: np.random.Generator) -> np.ndarray:
        return rng.integers(1, 6, (50, 6)).astype(float)

    def planted(rng: np.random.Generator) -> np.ndarray:
        return three(50, 3.6, int(rng.integers(10**6)))

    for make in (skewed, factor, ratings):
        said = [groups(make, seed) for seed in range(6)]
        assert said.count("yes") <= 2, make  # .05 a study: three or more once in 450 such tests
        assert said.count("no") >= 3, make
    assert [groups(planted, seed) for seed in range(6)].count("yes") >= 5


def test_a_p_at_the_end_of_the_table_is_told_as_at_most() -> None:
    rng = np.random.default_rng(1)
    x = np.column_stack([rng.normal(0, 0.3, 80) + 9 * (np.arange(80) % 2), rng.normal(size=80)])
    found = evidence_of_groups(study(x, "euclidean"), asked(resamples=3))
    assert found.peaks is not None
    assert found.peaks.at_most
    told = concluded(compute_indices(study(x, "euclidean"), asked()), found)
    assert "(dip test, p ≤ 0.0" in conclusion_sentence(told, found)
    cloud = evidence_of_groups(study(rng.normal(size=(80, 2)), "euclidean"), asked(resamples=3))
    assert cloud.peaks is not None
    assert not cloud.peaks.at_most


def test_a_small_p_alone_is_not_enough() -> None:
    board = compute_indices(study(three(90, 5), "euclidean"), asked())
    drawn = np.random.default_rng(1).normal(0.2, 0.01, (99, 5))
    high = np.array([0.3, 0.5, 0.4, 0.4, 0.3])
    counts, second = board.counts, np.full(5, 0.3)

    def told(values: np.ndarray, second: np.ndarray, peaks: Peaks | None = None) -> tuple[str, str]:
        found = Evidence(counts, values, second, drawn, peaks=peaks)
        conclusion = concluded(board, found)
        assert conclusion_sentence(conclusion, found).endswith(".")
        return str(conclusion.groups), conclusion.reserve

    assert told(high, second) == ("yes", "")
    assert told(high, np.full(5, 0.04)) == ("unsure", "few")
    assert told(np.array([0.2, 0.24, 0.2, 0.2, 0.2]), second) == ("unsure", "little")
    assert told(np.full(5, 0.2), second) == ("no", "")
    assert told(np.full(5, 0.2), second, Peaks("age", 0.002)) == ("yes", "")
    assert told(high, np.full(5, 0.04), Peaks("age", 0.002)) == ("yes", "")
    assert told(np.full(5, 0.2), second, Peaks("age", 0.02)) == ("no", "")


def test_the_count_is_one_that_voices_answer_and_that_stands_high() -> None:
    board = compute_indices(study(three(90, 5), "euclidean"), asked())
    votes = board.votes()
    assert max((v, k) for k, v in votes.items() if isinstance(k, int))[1] == 3
    assert concluded(board, None).count == 3
    assert concluded(board, None).groups is None
    drawn = np.random.default_rng(1).normal(0.2, 0.01, (99, 5))
    lure = Evidence(board.counts, np.array([0.3, 0.5, 0.4, 0.9, 0.3]), np.full(5, 0.3), drawn)
    assert votes.get(5, 0) < RIVALS * votes[3]
    assert concluded(board, lure).count == 3  # 5 stands higher, and has too few voices
    silent = concluded(board, lure, list(board.verdicts))
    assert (silent.count, silent.heard, silent.groups) == (None, 0, "yes")
    assert "how many is unclear" in headline(silent)


def test_what_is_said_is_what_was_found() -> None:
    grown = study(three(60, 5), "squared-euclidean")
    board, found = compute_indices(grown, asked()), evidence_of_groups(grown, asked(resamples=19))
    told = concluded(board, found)
    assert headline(told) == "There are groups; the rules favour three."
    said = conclusion_sentence(told, found)
    assert said.startswith("There are groups: of 19 simulated data sets with the same")
    assert "none had silhouettes this large (p = 0.050)" in said
    assert f"{told.voices} of {told.heard} votes are for 3 clusters." in said
    assert draft_reasons(board, 3, (), found).startswith("There are groups: ")
    file = choice(board, asked(), found)["verdict"]
    assert (file["groups"], file["p"], file["count"]) == ("yes", found.p, 3)
    assert file["sentence"] == said
    written = evidence_told(found)
    assert written["draws"] == 19
    assert set(written["by_count"]["3"]) == {"value", "mean", "sd", "p", "standing"}
    assert any("smallest" in line for line in against(told, board, found, 6))
    cloud = study(np.random.default_rng(3).normal(size=(60, 4)), "squared-euclidean")
    board, found = compute_indices(cloud, asked()), evidence_of_groups(cloud, asked(resamples=19))
    told = concluded(board, found)
    assert (told.groups, told.count) == ("no", None)
    assert headline(told) == "No evidence of groups in these data."
    for words in (conclusion_sentence(told, found), draft_reasons(board, 3, (), found)):
        assert words.startswith("No evidence of groups in these data: of 19 simulated data sets")
        assert f"(p = {number(found.p)})" in words


@pytest.mark.parametrize("kind", ["heaped", "many zeros", "whole numbers"])
def test_heaps_of_answers_are_no_peaks(kind: str) -> None:
    """Amounts as people tell them, of independent variables: none may be called groups for it."""
    rng = np.random.default_rng(7)
    age = rng.uniform(18, 80, (400, 3))
    x = {
        "heaped": np.where(rng.uniform(size=age.shape) < 0.4, 10 * np.round(age / 10), age),
        "many zeros": np.where(rng.uniform(size=age.shape) < 0.4, 0.0, age),
        "whole numbers": np.round(age),
    }[kind]  # fmt: skip
    found = evidence_of_groups(study(x), asked(resamples=19))
    assert found.peaks is None or found.peaks.p > 0.05
    assert concluded(compute_indices(study(x), asked()), found).by == "silhouette"


def test_two_peaks_of_measured_amounts_are_seen_though_they_are_rounded() -> None:
    rng = np.random.default_rng(7)
    x = np.column_stack([rng.normal(size=300) + 5 * rng.integers(0, 2, 300), rng.normal(size=300)])
    found = evidence_of_groups(study(np.round(x, 2)), asked(resamples=19))
    assert found.peaks is not None
    assert found.peaks.variable == "v0"
    assert found.peaks.p <= 0.01


def test_other_indices_are_held_against_the_same_data() -> None:
    grown = study(three(45, 5), "euclidean", "average")
    plan = asked(resamples=5, seed=3, groups_by=["density", "davies-bouldin", "ccc"])
    found = evidence_of_groups(grown, plan)
    plain = evidence_of_groups(grown, asked(resamples=5, seed=3))
    np.testing.assert_array_equal(found.drawn, plain.drawn)
    assert set(found.beside) == {"density", "davies-bouldin", "ccc"}
    answers = grown.prepared.answers
    assert answers is not None
    null = NullModel.of(answers, np.ones(45), 3)
    for k in range(5):
        drawn = null.draw(np.random.default_rng([3, k, 6]))
        board = compute_indices(
            study(drawn, "euclidean", "average"), asked(more=["density", "ccc"])
        )
        for key, index in found.beside.items():
            np.testing.assert_allclose(index.drawn[k], board.verdicts[key].values)
    own = compute_indices(grown, asked(more=["density", "ccc"]))
    for key, index in found.beside.items():
        np.testing.assert_allclose(index.values, own.verdicts[key].values)
        assert index.sign == (-1 if key == "davies-bouldin" else 1)
        away = index.sign * (index.values - index.drawn.mean(axis=0))
        np.testing.assert_allclose(index.standing, away / index.drawn.std(axis=0, ddof=1))
        reach = (index.sign * index.drawn >= index.sign * index.values).sum(axis=0)
        np.testing.assert_allclose(index.by_count, (1 + reach) / 6)
    told = evidence_told(found)["beside"]["davies-bouldin"]
    assert told["by_count"]["3"]["value"] == pytest.approx(own.verdicts["davies-bouldin"].at(3))
    assert told["highest"] == found.beside["davies-bouldin"].highest


def test_an_index_that_cannot_be_worked_out_is_left_out() -> None:
    grown = study(three(30, 5), "city-block", "average")
    found = evidence_of_groups(grown, asked(resamples=3, groups_by=["ccc", "dunn"]))
    assert set(found.beside) == {"dunn"}
    assert "was not compared with" in beside_words(found, "ccc")


def test_what_another_index_says_is_told_beside_the_verdict() -> None:
    board = compute_indices(study(three(90, 5), "euclidean"), asked())
    random = np.random.default_rng(1)
    drawn, second = random.normal(0.2, 0.01, (99, 5)), np.full(5, 0.3)
    high, flat = np.array([0.3, 0.5, 0.4, 0.4, 0.3]), np.full(5, 0.2)
    beside = {"density": IndexComparison(board.counts, flat, drawn)}
    found = Evidence(board.counts, high, second, drawn, beside=beside)
    told = concluded(board, found)
    assert told.groups == "yes"
    assert "Density does not distinguish these data" in beside_words(found, "density")
    said = against(told, board, found, beside=["density"])
    assert any(line.startswith("By Density, these data do not differ from") for line in said)
    assert not any("Density" in line for line in against(told, board, found))
