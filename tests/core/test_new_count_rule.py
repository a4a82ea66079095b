"""A rule for the number of clusters is one record and how it is worked out: added, it is known."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from gorvel.core.count.indices.index import Bound, Index, Material
from gorvel.core.count.indices.index_table import IndexTable, compute_indices
from gorvel.core.count.indices.registry import INDICES
from gorvel.core.grow.grown import Grown
from gorvel.core.plan.count_rule import LARGEST, CountRule
from gorvel.core.plan.count_rules import COUNT_RULES
from gorvel.core.words.count import verdict_words
from gorvel.paint.charts.board import board_rows
from studies import asked, study

KEY = "evenness"
RULE = CountRule(
    KEY, "Evenness", "separation", "1 / (k x largest share)", "Clusters of one size.",
    "Whatever is not so.", "Made up for this test", LARGEST, ("heights",),
)  # fmt: skip


def evenness(material: Material, count: int) -> float:
    return material.n / (count * int(material.nested.cluster_sizes(count).max()))


@pytest.fixture(autouse=True)
def added(monkeypatch: pytest.MonkeyPatch) -> None:
    """In both registries, and nowhere else."""
    monkeypatch.setitem(COUNT_RULES, KEY, RULE)
    monkeypatch.setitem(INDICES, KEY, Index("heights", evenness))


def four(*sizes: int) -> np.ndarray:
    """Groups of some sizes, far from each other."""
    random = np.random.default_rng(2)
    return np.concatenate([random.normal(size=(n, 2)) + 20 * k for k, n in enumerate(sizes)])


def board_of(grown: Grown, to: int = 6) -> IndexTable:
    """Asked for beside the usual rules."""
    count = asked(to=to)
    return compute_indices(grown, count.model_copy(update={"rules": (*count.rules, KEY)}))


@pytest.mark.parametrize("sizes", [(9, 9, 9), (7,) * 5, (12, 12)])
def test_it_is_on_the_board_and_votes(sizes: tuple[int, ...]) -> None:
    board = board_of(study(four(*sizes)))
    verdict = board.verdicts[KEY]
    assert verdict.best == len(sizes)
    assert verdict.at(len(sizes)) == 1.0
    assert board.voices()[KEY].votes
    assert verdict_words(verdict).startswith(f"Best at {len(sizes)} (1")
    assert {KEY, "silhouette"} <= set(board_rows(board))


def test_what_is_said_of_its_vote_is_in_the_record(monkeypatch: pytest.MonkeyPatch) -> None:
    board = board_of(study(four(9, 9, 9)))
    for told, why in (
        ({"never": "it is made up"}, "it is made up"),
        ({"twin": "silhouette"}, "the same evidence as Silhouette"),
        ({"twin": "silhouette", "twin_under": "average"}, ""),
        ({"twin": "silhouette", "twin_under": "ward"}, "the same evidence as Silhouette"),
    ):
        monkeypatch.setitem(COUNT_RULES, KEY, replace(RULE, **told))
        assert board.voices()[KEY].no_vote == why


def test_how_it_decides_is_in_the_index(monkeypatch: pytest.MonkeyPatch) -> None:
    grown = study(four(9, 9, 9))

    def best(index: Index) -> object:
        monkeypatch.setitem(INDICES, KEY, index)
        return board_of(grown, 5).verdicts[KEY].answer

    half = Bound(lambda material, counts: np.full(len(counts), 0.8), below=False)
    assert best(Index("heights", evenness, bound=half)) == "one"  # undivided, all are in one
    below = Bound(lambda material, counts: np.full(len(counts), 0.7))
    assert best(Index("heights", evenness, bound=below)) == 5
    never = Bound(lambda material, counts: np.full(len(counts), 0.0))
    assert best(Index("heights", evenness, bound=never)) == "none"
    fives = Index("heights", evenness, merit=lambda m: np.array([k == 5 for k in m.counts], float))
    assert best(fives) == 5
    assert best(Index("heights", evenness, alone=lambda material: 1.0)) == "one"
    assert best(Index("heights", evenness, alone=lambda material: 0.5)) == 3
