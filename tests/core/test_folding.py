"""Equal rows count once, memory is judged by what is left, and kernels change no bit."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from effort import examples
from gorvel.core.base.errors import InputError, TooLargeError
from gorvel.core.grow import algorithm, growing
from gorvel.core.grow.algorithm import bytes_needed, check_memory, different_rows
from gorvel.core.grow.growing import grown_tree
from gorvel.core.linkage.folding import fold
from gorvel.core.linkage.rules import LINKAGES
from gorvel.core.proximity.measures import MEASURES
from studies import answers_for, plan, prepared


def test_what_does_not_fit_is_refused_with_the_ways_out(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(algorithm, "free_memory", lambda: 50e6)
    smooth = np.random.default_rng(3).normal(size=(20_000, 2))
    cases = prepared(smooth, np.ones(2))
    with pytest.raises(TooLargeError, match="squared Euclidean distances with Ward’s rule") as told:
        check_memory(cases, plan("euclidean", "average", 2).method)
    assert "or answers rounded, so that more rows are equal" in str(told.value)
    assert "different" not in str(told.value)
    check_memory(cases, plan("euclidean", "ward", 2).method)
    ratings = np.random.default_rng(2).integers(1, 9, (20_000, 6)).astype(float)
    different = len(np.unique(ratings, axis=0))
    monkeypatch.setattr("gorvel.core.linkage.spanning._MOST_NEAR", 0)
    with pytest.raises(TooLargeError, match="fewer pairs are equally far") as told:
        grown_tree(prepared(ratings, np.ones(6)), plan("euclidean", "single", 6).method)
    assert told.value.different == different < 20_000
    assert f"20,000 cases ({different:,} of them different) need about" in str(told.value)


def test_equal_rows_are_folded_before_memory_is_judged(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(algorithm, "free_memory", lambda: 60e6)
    ratings = np.random.default_rng(2).integers(1, 5, (40_000, 5)).astype(float)
    cases = prepared(ratings, np.ones(5))
    for linkage in ("complete", "average", "centroid"):
        asked = plan("euclidean", linkage, 5)
        assert different_rows(cases, asked.method) == 4**5
        assert bytes_needed(cases, asked.method) < 60e6
        check_memory(cases, asked.method)
    tree, _ = grown_tree(cases, plan("euclidean", "complete", 5).method)
    assert (tree.n, tree.heights[-(4**5)], tree.heights[-(4**5) + 1]) == (40_000, 0.0, 1.0)
    # rules for which equal rows are no single case are told the way out
    with pytest.raises(TooLargeError, match=r"under which equal rows count once \(1,024 are"):
        check_memory(cases, plan("euclidean", "flexible", 5).method)
    # different cases at distance 0 have to be joined one by one: then the whole has to fit
    lines = np.repeat(np.arange(1.0, 3000.0), 4)[:, None] * [1.0, 2.0]
    with pytest.raises(TooLargeError, match="only equal cases are at distance 0"):
        grown_tree(prepared(lines, np.ones(2)), plan("cosine", "complete", 2).method)


@settings(max_examples=examples(60))
@given(seed=st.integers(0, 10**6), n=st.integers(1, 60), p=st.integers(1, 4), clash=st.booleans())
def test_equal_rows_are_found(seed: int, n: int, p: int, clash: bool) -> None:
    rng = np.random.default_rng(seed)
    values = rng.choice([0.0, -0.0, 1.0, 1.5, -1e-300], (n, p))
    weights = rng.uniform(0.5, 2, n) if rng.random() < 0.5 else None
    with pytest.MonkeyPatch.context() as patch:
        if clash:  # all rows have the same number, and have to be compared in full
            patch.setattr("gorvel.core.linkage.folding._ODD", np.uint64(0))
        folded = fold(values, weights)
    rows = [tuple(row) for row in (values + 0.0).tolist()]
    firsts = sorted({rows.index(row) for row in rows})
    if len(firsts) == n:
        assert folded is None
        return
    assert folded is not None
    assert folded.firsts.tolist() == firsts
    assert [firsts[g] for g in folded.groups] == [rows.index(row) for row in rows]
    masses = np.ones(n) if weights is None else weights
    for group, mass in enumerate(folded.masses):
        assert mass == pytest.approx(masses[folded.groups == group].sum())


@pytest.mark.parametrize("measure", sorted(MEASURES))
def test_loaded_kernels_change_no_bit_of_a_small_study(
    measure: str, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Matrix and tree by NumPy, and by kernels once they are there: it must not matter when."""
    for seed in range(12):
        rng = np.random.default_rng(seed)
        answers = answers_for(measure, rng, int(rng.integers(3, 90)), int(rng.integers(1, 14)))
        n, p = answers.values.shape
        weights = rng.uniform(0.5, 3, n) if rng.random() < 0.4 else None
        cases = replace(prepared(answers.values, answers.importance, weights), answers=answers)
        asked = plan(measure, str(rng.choice(sorted(LINKAGES))), p)
        told = []
        for kernels in (False, True):
            monkeypatch.setattr(growing, "worth_compiling", lambda cases, there=kernels: there)
            try:
                tree, pairs = grown_tree(cases, asked.method)
            except InputError as error:
                told.append([str(error)])
                continue
            assert pairs.matrix is not None
            arrays = (tree.left, tree.right, tree.heights, tree.tied, tree.tie_matters)
            told.append([array.tobytes() for array in (*arrays, pairs.matrix)])
        assert told[0] == told[1]
