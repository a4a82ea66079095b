"""Trees grown from arrays, without files."""

from __future__ import annotations

import numpy as np

from gorvel.core.analysis import Grown, grow_prepared
from gorvel.core.plan import Plan
from gorvel.core.prepared import Prepared, Variable
from gorvel.core.proximity.answers import Answers


def study(
    x: np.ndarray, measure: str = "squared-euclidean", linkage: str = "ward",
    v: np.ndarray | None = None, w: np.ndarray | None = None, **count: object,
) -> Grown:  # fmt: skip
    """A tree grown from complete numbers; count : keys of [count]."""
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
        "count": {"to": 6} | count,
    }
    return grow_prepared(prepared, Plan.model_validate(plan), {})
