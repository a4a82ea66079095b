"""The verdict tried on made-up studies: what is drawn, how it is counted, and that it goes on."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from gorvel.core.base.errors import Cancelled
from gorvel.core.base.progress import Phase
from gorvel.core.count.null import verdict_simulation as module
from gorvel.core.count.null.verdict_simulation import Trial, _Planted, try_verdict
from gorvel.core.tree.cuts import cut_at_count
from gorvel.core.words.conclusion import trial_words
from studies import asked, study


def groups(n: int, apart: float) -> np.ndarray:
    rng = np.random.default_rng(1)
    corners = apart * np.array([[0, 0, 0], [1, 0, 1], [0, 1, 1]])
    return rng.normal(size=(n, 3)) + corners[np.arange(n) % 3]


@given(st.integers(0, 10**6), st.integers(4, 25), st.integers(2, 4))
@settings(max_examples=25)
def test_each_cluster_keeps_the_answers_of_its_cases(seed: int, n: int, count: int) -> None:
    rng = np.random.default_rng(seed)
    grown = study(rng.normal(size=(n, 2)), "euclidean")
    planted = _Planted.of(grown, count, np.ones(n), 1)
    again = planted.draw(np.random.default_rng(seed))
    values, own = grown.prepared.answers.values, cut_at_count(grown.tree, count).membership
    for cluster in range(1, count + 1):
        old, new = values[own == cluster], again[own == cluster]
        if len(old) >= 4:
            np.testing.assert_array_equal(np.sort(new, axis=0), np.sort(old, axis=0))
        else:
            assert all(row in old.tolist() for row in new.tolist())


@pytest.mark.slow
def test_clear_groups_are_found_again_and_their_absence_too(
    monkeypatch: pytest.MonkeyPatch,
) -> None:
    monkeypatch.setattr(module, "TRIALS", 4)
    found = try_verdict(study(groups(48, 5)), 3, asked())
    assert len(found.without) == len(found.planted) == 4
    assert found.kept_quiet >= 3
    assert found.found >= 3
    assert trial_words(found) == (
        "In simulated studies like this one, groups were rightly not declared in"
        f" {found.kept_quiet} of 4 without groups; with these three clusters, three were found in"
        f" {found.found} of 4 (resampling rules excluded)."
    )
    noise = try_verdict(study(np.random.default_rng(2).normal(size=(48, 4))), 3, asked())
    assert noise.found <= 2  # clusters that were cut out of one cloud are not seen as such


@pytest.mark.slow
def test_it_is_gone_on_with_where_it_was_stopped(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(module, "TRIALS", 3)
    monkeypatch.setattr(module, "_DRAWS", 9)
    grown, seen = study(groups(40, 4)), []
    whole = try_verdict(grown, 3, asked(), report=seen.append)
    assert [(len(t.without), len(t.planted)) for t in seen] == [
        (1, 0), (1, 1), (2, 1), (2, 2), (3, 2), (3, 3),
    ]  # fmt: skip
    for k in (1, 2, 4):  # from any point, with the same studies
        monkeypatch.setattr(module, "TRIALS", 3 - len(seen[k].planted))
        assert try_verdict(grown, 3, asked(), seen[k]) == whole
    monkeypatch.setattr(module, "TRIALS", 1)
    more = try_verdict(grown, 3, asked(), whole)
    assert more.without[:3] == whole.without
    assert len(more.planted) == 4
    assert try_verdict(grown, 2, asked(), whole).count == 2  # another count begins anew

    def stop(phase: Phase, share: float) -> None:
        assert phase is Phase.TRIAL
        raise Cancelled

    with pytest.raises(Cancelled):
        try_verdict(grown, 3, asked(), None, stop)


def test_what_cannot_be_tried_is_told() -> None:
    grown = study(groups(12, 4))
    assert "two clusters or more" in try_verdict(grown, 1, asked()).why
    assert try_verdict(grown, 12, asked()).planted == ()
    assert trial_words(Trial(1, why="it is so")) == "Not checked: it is so."
    assert trial_words(Trial(3)) == ""
