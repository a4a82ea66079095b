"""Trees grown from arrays, without files."""

from __future__ import annotations

import numpy as np

from gorvel.core.cases.prepared import Prepared, Variable, measurable
from gorvel.core.grow.grown import Grown, grow_prepared
from gorvel.core.linkage.agglomerate import grow
from gorvel.core.plan.parts import CountPlan
from gorvel.core.plan.plan import Plan
from gorvel.core.proximity.answers import Answers
from gorvel.core.proximity.measures import MEASURES
from gorvel.core.proximity.pairs import Proximities
from gorvel.core.tree.cuts import cut_at_count
from gorvel.core.tree.tree import Tree


def study(
    x: np.ndarray, measure: str = "squared-euclidean", linkage: str = "ward",
    v: np.ndarray | None = None, w: np.ndarray | None = None,
) -> Grown:  # fmt: skip
    """A tree grown from complete numbers."""
    n, p = x.shape
    v = np.ones(p) if v is None else v
    prepared = Prepared(
        "t.csv", n, np.arange(1, n + 1), tuple(map(str, range(n))), w,
        tuple(Variable(f"v{j}", "interval", float(v[j])) for j in range(p)), x,
        Answers.of(x, v, ("interval",) * p, (False,) * p), None, "cases", (), (),
    )  # fmt: skip
    plan = {
        "source": {"file": "t.csv"},
        "variables": {"use": [f"v{j}" for j in range(p)]},
        "proximity": {"measure": measure},
        "tree": {"linkage": linkage},
    }
    if measure == "mahalanobis":
        prepared = measurable(prepared, measure)
    return grow_prepared(prepared, Plan.model_validate(plan), {})


def clusters(grown: Grown, count: int) -> list[int]:
    """The cluster of each case, from 1."""
    return cut_at_count(grown.tree, count).membership.tolist()


def distances(grown: Grown) -> list[list[float]]:
    """Those that rules for the count are made of."""
    whole = grown.pairs.matrix
    return (np.sqrt(whole) if grown.pairs.key == "squared-euclidean" else whole).tolist()


def asked(**count: object) -> CountPlan:
    """Keys of [count]; up to 6 clusters."""
    return CountPlan.model_validate({"to": 6} | count)


def prepared(x: np.ndarray, v: np.ndarray, weights: np.ndarray | None = None) -> Prepared:
    """Complete numbers as they come out of a table. v : importances."""
    n, p = x.shape
    return Prepared(
        "t.csv", n, np.arange(1, n + 1), tuple(map(str, range(n))), weights,
        tuple(Variable(f"v{j}", "interval", float(v[j])) for j in range(p)), x,
        Answers.of(x, v, ("interval",) * p, (False,) * p), None, "cases", (), (),
    )  # fmt: skip


def plan(measure: str, linkage: str, p: int) -> Plan:
    """A plan of p variables."""
    return Plan.model_validate(
        {
            "source": {"file": "t.csv"},
            "variables": {"use": tuple(f"v{j}" for j in range(p))},
            "proximity": {"measure": measure},
            "tree": {"linkage": linkage},
        }
    )


def random_tree(seed: int, n: int, key: str = "average") -> Tree:
    """Of points in a plane."""
    x = np.random.default_rng(seed).normal(size=(n, 2))
    return grow(((x[:, None] - x[None]) ** 2).sum(axis=2), key)


def whole_correlation(tree: Tree, pairs: Proximities) -> float | None:
    """The cophenetic correlation from all pairs at once."""
    matrix, n = pairs.block(np.arange(tree.n), np.arange(tree.n)), tree.n
    met = np.zeros((n, n))
    for k in range(tree.joins):
        one, other = tree.members(int(tree.left[k])), tree.members(int(tree.right[k]))
        met[np.ix_(one, other)] = met[np.ix_(other, one)] = tree.heights[k]
    upper = np.triu_indices(n, 1)
    d, h = matrix[upper], met[upper]
    if n < 2 or np.ptp(d) <= 1e-13 * abs(d.mean()) or np.ptp(h) <= 1e-13 * abs(h.mean()):
        return None
    return float(np.corrcoef(d, h)[0, 1])


def answers_for(measure: str, rng: np.random.Generator, n: int, p: int) -> Answers:
    """Answers that a measure takes, with ties, repeated cases and gaps."""
    kind = MEASURES[measure].kind
    x = {"binary": rng.integers(0, 2, (n, p)), "counts": rng.integers(0, 6, (n, p))}.get(
        kind, rng.choice([rng.normal(size=(n, p)).round(1), rng.integers(0, 4, (n, p))])
    ).astype(float)  # fmt: skip
    x = x[rng.integers(0, max(n // 2, 1), n)] if rng.random() < 0.4 else x
    if MEASURES[measure].gaps and rng.random() < 0.3:
        x[rng.random((n, p)) < 0.1] = np.nan
    levels = tuple(rng.choice(["interval", "nominal", "binary"], p)) if kind == "mixed" else None
    asymmetric = tuple(level == "binary" for level in levels or ("",) * p)
    v = rng.choice([1.0, 2.0], p) if MEASURES[measure].importances else np.ones(p)
    return Answers.of(x, v, levels or ("interval",) * p, asymmetric, 3.0)
