"""How often variables are pointed out as noise: those that are, and those that tell groups apart.

python bench/noise.py [studies]
"""

from __future__ import annotations

import sys
import tempfile
from pathlib import Path

import numpy as np

sys.path.insert(0, str(Path(__file__).parents[1] / "src"))

from gorvel.core.grow.grown import analyse
from gorvel.core.plan.plan import Plan
from gorvel.core.profile.leave_one_variable_out import drivers, only_noise
from gorvel.core.profile.moments import numbers_of
from gorvel.core.profile.raw_answers import read_answers
from gorvel.core.sources.reading import read_source
from gorvel.core.tree.cuts import cut_at_count

_CASES, _GROUPS, _REAL, _NOISE = 200, 3, 5, 2


def pointed_out(number: int, apart: float, linkage: str) -> tuple[int, int]:
    """Of one made-up study: noise variables that are pointed out, and others."""
    rng = np.random.default_rng(number)
    group = rng.integers(0, _GROUPS, _CASES)
    centres = rng.normal(size=(_GROUPS, _REAL)) * apart
    real = centres[group] + rng.normal(size=(_CASES, _REAL))
    x = np.hstack([real, rng.normal(size=(_CASES, _NOISE))])
    names = [f"v{j}" for j in range(_REAL + _NOISE)]
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "t.csv"
        lines = [",".join(names), *(",".join(f"{value:.6f}" for value in row) for row in x)]
        path.write_text("\n".join(lines), encoding="utf-8")
        plan = Plan.model_validate(
            {
                "source": {"file": "t.csv"}, "variables": {"use": names},
                "scale": {"method": "zscore"}, "tree": {"linkage": linkage},
            }
        )  # fmt: skip
        table = read_source(plan, path)
        grown = analyse(table, plan)
        own = cut_at_count(grown.tree, _GROUPS).membership - 1
        told = read_answers(table, plan, grown.prepared)
        explained = [numbers_of(one, own, _GROUPS, np.ones(_CASES)).eta2 for one in told]
        found = only_noise(drivers(table, plan, grown, own, explained))  # type: ignore[arg-type]
    noise = sum(name in names[_REAL:] for name in found)
    return noise, len(found) - noise


def main() -> None:
    """Print shares by linkage and by how far groups lie apart."""
    studies = int(sys.argv[1]) if len(sys.argv) > 1 else 100
    for linkage in ("ward", "average"):
        for apart in (1.0, 1.5, 2.5):
            found = np.array([pointed_out(k, apart, linkage) for k in range(studies)]).sum(axis=0)
            print(f"{linkage:8} {apart}: noise {found[0] / studies / _NOISE:.2f},"
                  f" others {found[1] / studies / _REAL:.2f}")  # fmt: skip


if __name__ == "__main__":
    main()
