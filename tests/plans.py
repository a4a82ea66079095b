"""Plans and tables drawn at random, for tests of what holds for any."""

from __future__ import annotations

import tempfile
from pathlib import Path
from typing import Any

import numpy as np
import polars as pl
from hypothesis import strategies as st

from gorvel.core.linkage.rules import LINKAGES
from gorvel.core.plan.kinds import HANDLINGS
from gorvel.core.proximity.measures import MEASURES
from gorvel.core.proximity.scaling import SCALINGS
from gorvel.core.table.levels import LEVELS
from gorvel.core.table.reading import read_table
from gorvel.core.table.table import Table
from gorvel.main import DEMO

NAMES = ("a", "b", "c", "d", "yes", "word")
LEAST = 'gorvel = 1\n[source]\nfile = "t.csv"\n[variables]\nuse = ["a", "b"]\n'
name, names = st.sampled_from(NAMES), st.lists(st.sampled_from(NAMES), unique=True)
percent = st.floats(0, 100, allow_nan=False)

# keys of a part and what they may be changed into
CHANGES: dict[str, dict[str, st.SearchStrategy[Any]]] = {
    "cases": {
        "label": st.none() | name, "weight": st.none() | st.just("d"), "groups": st.none() | name,
        "keep": st.sampled_from([None, "a > 2", "a >", 'word = "x"', "d > 1 and b < 9"]),
        "set_aside": st.lists(st.integers(1, 9), unique=True, max_size=3),
        "place_set_aside": st.booleans(), "split": st.none() | st.just("word"),
    },
    "variables": {
        "use": names, "profile": names, "asymmetric": names,
        **dict.fromkeys(LEVELS, names),
        "importance": st.dictionaries(name, st.sampled_from([1.0, 2.0])),
        "cap": st.dictionaries(name, st.lists(percent, min_size=2, max_size=2)),
        "trim": st.dictionaries(name, st.lists(percent, min_size=2, max_size=2)),
        "missing": st.dictionaries(name, st.lists(st.sampled_from(["9", "x"]), max_size=1)),
        "labels": st.dictionaries(name, st.text("qrs", max_size=3)),
        "values": st.dictionaries(name, st.dictionaries(st.sampled_from("19"), st.just("w"))),
    },
    "missing": {"handling": st.none() | st.sampled_from(HANDLINGS)},
    "scale": {
        "method": st.sampled_from(sorted(SCALINGS)),
        "by": st.sampled_from(["variables", "cases"]),
    },
    "proximity": {
        "measure": st.sampled_from(sorted(MEASURES)),
        "power": st.sampled_from([1.0, 2.0, 3.0]), "root": st.sampled_from([1.0, 2.0]),
    },
    "tree": {
        "of": st.sampled_from(["cases", "variables"]), "linkage": st.sampled_from(sorted(LINKAGES)),
        "beta": st.sampled_from([-0.5, 0.0]),
    },
    "source": {
        "missing_codes": st.lists(st.sampled_from(["7", "8"]), unique=True),
        "similarity": st.booleans(),
    },
    "cut": {"counts": st.none() | st.lists(st.integers(1, 5), max_size=2)},
    "count": {"chosen": st.none() | st.integers(1, 4), "reasons": st.text("xy", max_size=2)},
}  # fmt: skip
change = st.sampled_from(
    [(part, key) for part, keys in CHANGES.items() for key in keys]
).flatmap(lambda at: st.tuples(st.just(at[0]), st.just(at[1]), CHANGES[at[0]][at[1]]))  # fmt: skip


def table(seed: int) -> Table:
    """Nine cases: numbers with gaps and equal answers, a yes/no column, words."""
    rng = np.random.default_rng(seed)
    columns: dict[str, list[Any]] = {
        key: [None if rng.random() < 0.08 else int(k) for k in rng.integers(1, 10, 9)]
        for key in "abc"
    }
    columns["d"] = rng.integers(1, 4, 9).tolist()
    columns["yes"] = [0, 1, *rng.integers(0, 2, 7).tolist()]
    columns["word"] = ["x", "y", *rng.choice(["x", "y", "z"], 7).tolist()]
    with tempfile.TemporaryDirectory() as place:
        path = Path(place) / "t.csv"
        pl.DataFrame(columns).write_csv(path)
        return read_table(path)


def quick_demo(folder: Path, resamples: int = 3) -> Path:
    """The plan of the demo in another place, with few rounds of drawing; its data stay."""
    text = (DEMO / "readers.toml").read_text(encoding="utf-8")
    for old, new in (
        ('file = "readers.csv"', f'file = "{DEMO / "readers.csv"}"'),
        ("[count]\n", f"[count]\nresamples = {resamples}\n"),
    ):
        assert text.count(old) == 1
        text = text.replace(old, new)
    path = folder / "readers.toml"
    path.write_text(text, encoding="utf-8")
    return path
