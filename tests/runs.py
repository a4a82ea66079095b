"""A small study for runs from the command line."""

from __future__ import annotations

import csv
from pathlib import Path

TABLE = """id,w,g,a,b,use,kind
r1,1,x,1,2.5,yes,red
r2,2,y,2,1.5,no,blue
r3,1,x,2,1.5,no,red
r4,1,y,9,,yes,red
r5,3,x,7,4,no,blue
r6,1,y,1,2.5,yes,blue
"""

PLAN = """gorvel = 1
[source]
file = "t.csv"
[cases]
label = "id"
[variables]
use = ["a", "b"]
"""


def study(directory: Path, table: str = TABLE, plan: str = PLAN) -> Path:
    """Its plan, beside its table."""
    (directory / "t.csv").write_text(table, encoding="utf-8")
    (directory / "p.toml").write_text(plan, encoding="utf-8")
    return directory / "p.toml"


def rows(path: Path) -> list[dict[str, str]]:
    """A table of results."""
    with path.open(encoding="utf-8", newline="") as file:
        return list(csv.DictReader(file))
