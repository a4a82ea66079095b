"""How long a survey in words takes, as ratios to the table library's own reading of the same file.

python bench/answers.py
"""

from __future__ import annotations

import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path
from statistics import median

import numpy as np
import polars as pl

sys.path.insert(0, str(Path(__file__).parents[1] / "src"))

from gorvel.core.column_detection.first_plan import propose_plan
from gorvel.core.column_detection.proposals import proposed
from gorvel.core.derive.making import completed
from gorvel.core.language.formula import parse_formula
from gorvel.core.plan.plan import validated
from gorvel.core.sources.reading import read_source
from gorvel.core.table.source import Source
from gorvel.core.table.table import Table

_TURNS = 7
_AGREE = ("Strongly disagree", "Disagree", "Neither", "Agree", "Strongly agree")
_OFTEN = ("Never", "Rarely", "Sometimes", "Often", "Always")
_FORMULA = "log1p(abs(x1)) * 2 + max(x2, x3) / (1 + x4^2) + (x5 > 0)"


def _took(work: Callable[[], object]) -> float:
    begin = time.perf_counter()
    work()
    return time.perf_counter() - begin


def _drawn(rng: np.random.Generator, words: tuple[str, ...], n: int) -> np.ndarray:
    return np.array(words)[rng.integers(0, len(words), n)]


def long_survey(folder: Path, n: int = 1_000_000) -> Path:
    """Ten columns: eight of numbers, one of words, one of amounts with signs."""
    rng = np.random.default_rng(1)
    columns: dict[str, object] = {f"x{k}": rng.normal(size=n).round(3) for k in range(8)}
    columns["often"] = _drawn(rng, _OFTEN, n)
    columns["income"] = [f"€{amount:,}" for amount in rng.integers(1_000, 99_999, n)]
    path = folder / "long.csv"
    pl.DataFrame(columns).write_csv(path)
    return path


def wide_survey(folder: Path, n: int = 2_000, p: int = 300) -> Path:
    """Columns of six kinds in turn: agreement, ratings, numbers, amounts, bands, ticks."""
    rng = np.random.default_rng(1)
    makers: tuple[Callable[[], object], ...] = (
        lambda: _drawn(rng, _AGREE, n), lambda: rng.integers(1, 6, n),
        lambda: rng.normal(50, 10, n).round(2),
        lambda: [f"€{amount:,}" for amount in rng.integers(1_000, 90_000, n)],
        lambda: _drawn(rng, ("18-24", "25-34", "35-44", "45+"), n),
        lambda: _drawn(rng, ("a; b", "b", "a; c", "c"), n),
    )  # fmt: skip
    path = folder / "wide.csv"
    pl.DataFrame({f"q{k}": makers[k % len(makers)]() for k in range(p)}).write_csv(path)
    return path


def main() -> None:
    """Print the figures; each is the median of turns taken one after the other."""
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        path = long_survey(folder)
        order = {"name": "a", "from": "often", "order": list(_OFTEN)}
        number = {"name": "b", "from": "income", "number": True}
        plan = validated({"source": {"file": path.name}, "make": [order, number]}, "bench")
        told = []
        for _ in range(_TURNS):
            own = _took(lambda: pl.read_csv(path))
            told.append(_took(lambda: completed(read_source(plan, path), plan)) / own)
        print(
            f"1,000,000 x 10 with two made columns: {median(told):.1f} x polars' reading (limit 6)"
        )
        source: Source = read_source(plan, path)
        assert isinstance(source, Table)
        part = Table("part", source.frame.head(100_000))
        times = [_took(lambda: parse_formula(_FORMULA).values(part)) for _ in range(_TURNS)]
        first, later = 1_000 * times[0], 1_000 * median(times[1:])
        print(f"formula at 100,000 rows: {first:.0f} ms at first, then {later:.0f} (limit 100)")
        path = wide_survey(folder)
        plan = validated({"source": {"file": path.name}}, "bench")
        told, reading = [], []
        for _ in range(_TURNS):
            own = _took(lambda: pl.read_csv(path))
            reading.append(_took(lambda: read_source(plan, path)) / own)

            def looked_at() -> None:
                table = read_source(plan, path)
                assert isinstance(table, Table)
                proposed(table, propose_plan(table))

            told.append(_took(looked_at) / own)
        print(
            f"2,000 x 300 opened and recognised: {median(told):.1f} x polars' reading (limit 3),"
            f" of which reading {median(reading):.1f}"
        )


if __name__ == "__main__":
    main()
