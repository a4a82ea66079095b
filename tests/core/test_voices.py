"""Which rules are heard: one voice for one piece of evidence, and none that says nothing."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from gorvel.core.count.indices.index_table import IndexTable, compute_indices
from gorvel.core.count.resampling.resampled_rules import resampled
from gorvel.core.plan.count_rules import COUNT_RULES
from studies import asked, study


def _board(x: np.ndarray, measure: str = "squared-euclidean", linkage: str = "ward") -> IndexTable:
    return compute_indices(study(x, measure, linkage), asked())


@given(
    st.integers(0, 10**6), st.integers(1, 25), st.sampled_from(["ward", "average", "single"]),
    st.sampled_from(["squared-euclidean", "city-block"]),
    st.sets(st.sampled_from(sorted(COUNT_RULES)), max_size=3),
)  # fmt: skip
def test_every_rule_is_heard_or_told_why_not(
    seed: int, n: int, linkage: str, measure: str, left_out: set[str]
) -> None:
    board = _board(np.random.default_rng(seed).normal(size=(n, 3)), measure, linkage)
    voices, votes = board.voices(left_out), board.votes(left_out)
    assert list(voices) == list(board.verdicts)
    for key, verdict in board.verdicts.items():
        voice, rule = voices[key], COUNT_RULES[key]
        assert voice.answer == verdict.answer
        assert verdict.best is None or voice.answer == verdict.best
        last = bool(board.counts) and verdict.best == board.counts[-1]
        twin = {"pseudo-t2": "duda-hart"} | (
            {"largest-jump": "trace-w"} if linkage == "ward" else {}
        )
        other = board.verdicts.get(twin.get(key, ""))
        silent = (
            key in left_out
            or voice.answer is None
            or key in ("ball-hall", "mcclain-rao")
            or (rule.direction.told in ("max", "min") and last)
            or (other is not None and other.answer is not None and other.key not in left_out)
        )
        assert voice.votes is not silent
    heard = [voice.answer for voice in voices.values() if voice.votes]
    assert votes == {answer: heard.count(answer) for answer in heard}
    assert all(
        isinstance(v, int) for v in list(votes)[: len(votes) - len({"one", "none"} & {*votes})]
    )


@pytest.mark.parametrize(
    ("key", "why"),
    [
        ("dunn", "left out"),
        ("ball-hall", "whatever the data"),
        ("mcclain-rao", "whatever the data"),
        ("pseudo-t2", "the same evidence as Duda–Hart"),
        ("largest-jump", "the same evidence as Bend of W"),
    ],
)
def test_why_a_rule_is_not_heard_is_told(key: str, why: str) -> None:
    board = _board(np.random.default_rng(1).normal(size=(40, 3)))
    assert why in board.voices(("dunn",))[key].no_vote


def test_a_twin_speaks_where_the_other_cannot() -> None:
    x = np.random.default_rng(1).normal(size=(40, 3)) + 9 * (np.arange(40) % 3)[:, None]
    assert _board(x, "city-block").voices()["largest-jump"].votes
    assert _board(x, linkage="average").voices()["largest-jump"].votes
    assert _board(x).voices(("duda-hart",))["pseudo-t2"].votes
    assert not _board(x).voices()["pseudo-t2"].votes


def test_no_groups_are_heard_too() -> None:
    """In one cloud rules with a bound, the gap and those that resample answer no count."""
    grown = study(np.random.default_rng(4).normal(size=(90, 4)), "squared-euclidean")
    board = compute_indices(grown, asked()).with_verdicts(resampled(grown, asked(resamples=10)))
    voices = board.voices()
    assert voices["duda-hart"].answer == voices["gap"].answer == "one"
    assert voices["prediction-strength"].answer == voices["bootstrap-jaccard"].answer == "none"
    assert board.votes()["one"] >= 2
    assert board.votes()["none"] >= 2
    assert list(board.votes())[-2:] == ["one", "none"]
