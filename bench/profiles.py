"""How long profiles take: a new cut on the page, all counts as files, the map of the cases.

python bench/profiles.py
"""

from __future__ import annotations

import os
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path
from statistics import median

import numpy as np

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
sys.path.insert(0, str(Path(__file__).parents[1] / "src"))

from PySide6.QtCore import QSize
from PySide6.QtWidgets import QApplication

from gorvel.core.export.profile import Portraits, profile_columns, test_columns
from gorvel.core.grow.growing import pairs_of
from gorvel.core.grow.grown import Grown, analyse
from gorvel.core.plan.file import load_plan
from gorvel.core.profile.components import components_of
from gorvel.core.profile.map import case_map
from gorvel.core.profile.raw_answers import read_answers
from gorvel.core.profile.short_form import short_form
from gorvel.core.sources.reading import read_source
from gorvel.core.tree.cuts import cut_at_count
from gorvel.core.warm import warm
from gorvel.desk.window.pictures import grown_window, wait_for

_CUTS = 40  # new cuts on the page
_VARIABLES = 60


def study(cases: int, directory: Path) -> Path:
    """A made-up survey of sixty ratings and amounts in six groups; the path of its plan."""
    rng = np.random.default_rng(1)
    names = [f"q{j}" for j in range(_VARIABLES)]
    centres = rng.normal(size=(6, _VARIABLES)) * 1.5
    x = centres[rng.integers(0, 6, cases)] + rng.normal(size=(cases, _VARIABLES))
    lines = [",".join(names), *(",".join(f"{value:.3f}" for value in row) for row in x)]
    (directory / f"{cases}.csv").write_text("\n".join(lines), encoding="utf-8")
    used, told = ", ".join(f'"{n}"' for n in names[:40]), ", ".join(f'"{n}"' for n in names[40:])
    plan = directory / f"{cases}.toml"
    plan.write_text(
        f'gorvel = 1\n[source]\nfile = "{cases}.csv"\n[variables]\nuse = [{used}]\n'
        f'profile = [{told}]\n[scale]\nmethod = "zscore"\n[tree]\nlinkage = "ward"\n',
        encoding="utf-8",
    )
    return plan


def seconds(act: Callable[[], object]) -> float:
    """One run."""
    begin = time.perf_counter()
    act()
    return time.perf_counter() - begin


def cuts(directory: Path) -> None:
    """A new cut with the page in sight, until it is painted."""
    window = grown_window(study(5_000, directory), QSize(1280, 800))
    window.go_to(4)
    wait_for(lambda: window.acts.jobs.idle, "the page")
    times = []
    for k in range(_CUTS):
        begin = time.perf_counter()
        window.focus.set_count(3 + k % 8)
        QApplication.processEvents()  # which paints it
        times.append(time.perf_counter() - begin)
    window.acts.finish()
    middle, most = np.quantile(times, (0.5, 0.95)) * 1e3
    print(f"new cut, 5,000 x {_VARIABLES}: median {middle:.0f} ms, 95 % within {most:.0f} ms")


def all_counts(directory: Path) -> None:
    """Profiles and tests of the counts 2 to 15 of 20,000 cases, beside growing their tree."""
    path = study(20_000, directory)
    plan = load_plan(path)
    source = read_source(plan, directory / plan.source.file)
    grown: list[Grown] = []
    tree = seconds(lambda: grown.append(analyse(source, plan)))
    told = tuple(read_answers(source, plan, grown[0].prepared))
    found = Portraits(told, np.ones(grown[0].tree.n), None)
    own = {count: cut_at_count(grown[0].tree, count).membership - 1 for count in range(2, 16)}
    profiles = seconds(lambda: profile_columns(found, own))
    tests = seconds(lambda: test_columns(found, own))
    print(f"counts 2 to 15, 20,000 x {_VARIABLES}: profiles {profiles / tree:.2f}, tests"
          f" {tests / tree:.2f} of one tree ({tree:.1f} s)")  # fmt: skip


def pictures(directory: Path) -> None:
    """The map of 2,000 cases beside measuring them; components and the short form too."""
    path = study(2_000, directory)
    plan = load_plan(path)
    grown = analyse(read_source(plan, directory / plan.source.file), plan)
    case_map(grown)
    turns = [  # in turn, as the machine may be faster now and slower then
        (seconds(lambda: pairs_of(grown.prepared, grown.method)), seconds(lambda: case_map(grown)))
        for _ in range(9)
    ]
    measuring = median(one for one, _ in turns)
    times = median(placing / one for one, placing in turns)
    turning = min(seconds(lambda: components_of(grown)) for _ in range(3))
    told = read_answers(read_source(plan, directory / plan.source.file), plan, grown.prepared)
    own = cut_at_count(grown.tree, 6).membership - 1
    active = [one for one in told if one.role == "active"]
    form = seconds(lambda: short_form(active, own, 6, 10))
    print(f"2,000 cases: map {times:.1f} x measuring ({measuring * 1e3:.0f} ms),"
          f" components {turning * 1e3:.0f} ms, short form of ten {form:.1f} s")  # fmt: skip


def main() -> None:
    """Print what takes how long."""
    warm()
    with tempfile.TemporaryDirectory() as folder:
        cuts(Path(folder))
        all_counts(Path(folder))
        pictures(Path(folder))


if __name__ == "__main__":
    main()
