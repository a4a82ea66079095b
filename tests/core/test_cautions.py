"""What a reader is warned of: cases dropped, skew, yes/no answers, ends, small clusters."""

from __future__ import annotations

import numpy as np
import polars as pl
import pytest
from hypothesis import given
from hypothesis import strategies as st

from gorvel.core.cases.cautions import answer_cautions
from gorvel.core.cases.prepared import Variable
from gorvel.core.count.indices.index_table import compute_indices
from gorvel.core.grow.grown import Grown, analyse
from gorvel.core.plan.plan import Plan
from gorvel.core.table.table import Table
from gorvel.core.words.conclusion import count_cautions
from studies import asked, study


def told(columns: dict[str, np.ndarray], **parts: dict[str, object]) -> Grown:
    cells = {
        name: [None if np.isnan(v) else repr(v) for v in values.tolist()]
        for name, values in columns.items()
    }
    frame = pl.DataFrame(cells, schema=dict.fromkeys(cells, pl.String))
    variables = {"use": tuple(columns)} | parts.pop("variables", {})
    made = {"source": {"file": "t.csv"}, "variables": variables, **parts}
    return analyse(Table("t.csv", frame), Plan.model_validate(made))


def codes(grown: Grown) -> dict[str, str]:
    return {caution.code: caution.text for caution in grown.cautions}


@pytest.mark.parametrize(("gaps", "cautioned"), [(0, False), (5, False), (6, True), (40, True)])
def test_many_cases_dropped_are_told(gaps: int, cautioned: bool) -> None:
    x = np.random.default_rng(1).normal(size=(100, 2))
    x[:gaps, 0] = np.nan
    found = codes(told({"a": x[:, 0], "b": x[:, 1]}))
    assert ("dropped" in found) is cautioned
    if cautioned:
        assert found["dropped"].startswith(f"{gaps} of 100 cases ({gaps} %)".replace(" %", "%"))
    set_aside = {"set_aside": tuple(range(1, gaps + 1))}
    assert "dropped" not in codes(told({"a": x[:, 0], "b": x[:, 1]}, cases=set_aside))
    filled = told({"a": x[:, 0], "b": x[:, 1]}, missing={"handling": "mean"})
    assert "dropped" not in codes(filled)


@given(st.integers(0, 10**6), st.sampled_from(["none", "zscore", "rank"]))
def test_skewness_is_the_third_standardised_moment(seed: int, scale: str) -> None:
    rng = np.random.default_rng(seed)
    values = np.exp(rng.uniform(0.2, 1.6) * rng.normal(size=(40, 2)))
    plan = Plan.model_validate(
        {"source": {"file": "t"}, "variables": {"use": ("a", "b")}, "scale": {"method": scale}}
    )
    variables = [Variable("a", "interval"), Variable("b", "ordinal")]
    found = list(answer_cautions(plan, variables, values, 40, 0))
    a = values[:, 0].tolist()
    mean = sum(a) / 40
    spread = (sum((v - mean) ** 2 for v in a) / 40) ** 0.5
    skewness = sum(((v - mean) / spread) ** 3 for v in a) / 40
    assert [c.code for c in found] == (["skewed-margins"] if skewness > 1.5 else [])
    assert all(f"a ({skewness:.1f})" in c.text and "b (" not in c.text for c in found)


def test_yes_no_answers_are_scaled_when_asked_and_told_of_when_not() -> None:
    rng = np.random.default_rng(2)
    columns = {"a": rng.normal(size=60), "yes": (rng.uniform(size=60) < 0.3).astype(float)}
    binary = {"binary": ("yes",)}
    kept = told(columns, variables=binary, scale={"method": "zscore"})
    scaled = told(columns, variables=binary, scale={"method": "zscore", "binary": "scale"})
    yes = columns["yes"]
    np.testing.assert_array_equal(kept.prepared.answers.values[:, 1], yes)
    np.testing.assert_allclose(
        scaled.prepared.answers.values[:, 1], (yes - yes.mean()) / yes.std(ddof=1)
    )
    share = ((yes - yes.mean()) ** 2).sum() / (((yes - yes.mean()) ** 2).sum() + 59)
    assert (
        f"make up {100 * share:.1f}% of the total sum of squares" in codes(kept)["yes-no-unscaled"]
    )
    assert "yes-no-unscaled" not in codes(scaled)
    assert kept.key != scaled.key
    within = {"method": "zscore", "by": "cases"}
    both = {**columns, "b": rng.normal(size=60)}
    assert "yes-no-unscaled" in codes(told(both, variables=binary, scale=within))
    assert "yes-no-unscaled" not in codes(told(both, variables=binary))
    for measure in ("gower", "simple-matching"):
        use = ("a", "yes") if measure == "gower" else ("yes",)
        some = {name: columns[name] for name in use}
        one, other = (
            told(some, variables=binary, proximity={"measure": measure},
                 scale={"method": "zscore", "binary": how}) for how in ("keep", "scale")
        )  # fmt: skip
        np.testing.assert_array_equal(one.prepared.answers.values, other.prepared.answers.values)
        assert one.key == other.key


def test_rules_at_the_end_and_small_clusters_are_told() -> None:
    rng = np.random.default_rng(3)
    centres = 20 * np.eye(6)
    many = np.concatenate([rng.normal(size=(10, 6)) + centre for centre in centres])
    board = compute_indices(study(many), asked(to=4))
    found = {c.code: c.text for c in count_cautions(board, None, asked(to=4))}
    assert "best at 4, the largest number examined" in found["best-at-the-end"]
    assert "Silhouette" in found["best-at-the-end"]
    assert "McClain" not in found["best-at-the-end"]
    wide = compute_indices(study(many), asked(to=9))
    assert "best-at-the-end" not in {c.code for c in count_cautions(wide, None, asked(to=9))}
    lone = np.vstack([rng.normal(size=(60, 2)), [[30.0, 30.0]]])
    board = compute_indices(study(lone), asked())
    found = {c.code: c.text for c in count_cautions(board, None, asked(chosen=2))}
    assert found["small-cluster"].startswith("The smallest of 2 clusters has 1 case (1.6%)")
    even = compute_indices(study(many), asked())
    assert "small-cluster" not in {c.code for c in count_cautions(even, None, asked(chosen=6))}


@pytest.mark.parametrize(
    ("linkage", "weights", "code"),
    [
        ("ward", [1.0, 2.0, 3.0], None),
        ("ward", [0.5, 1.5, 1.0], "weights-as-frequencies"),
        ("average", [0.5, 1.5, 1.0], "weights-as-frequencies"),
        ("single", [0.5, 1.5, 1.0], "weights-ignored"),
    ],
)
def test_weights_that_count_no_cases_are_told_of(
    linkage: str, weights: list[float], code: str | None
) -> None:
    x = np.random.default_rng(1).normal(size=(12, 2))
    found = {c.code for c in study(x, linkage=linkage, w=np.array(weights * 4)).cautions}
    assert found & {"weights-as-frequencies", "weights-ignored"} == ({code} if code else set())
