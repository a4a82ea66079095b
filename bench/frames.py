"""How smoothly the reading desk moves: times of frames over a walk through a large tree.

    python bench/frames.py [--cases N]

A window of 1280 x 800 without a screen zooms in, scrolls and zooms out; then the pointer wanders.
"""

from __future__ import annotations

import argparse
import math
import os
import tempfile
import time
from pathlib import Path

import numpy as np
import polars as pl

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
os.environ["GORVEL_SETTINGS"] = str(Path(tempfile.gettempdir()) / "gorvel-frames.json")

from PySide6.QtCore import QSize
from PySide6.QtWidgets import QApplication

from gorvel.core.plan.file import save_plan
from gorvel.core.plan.parts import SourcePlan, VariablesPlan
from gorvel.core.plan.plan import Plan
from gorvel.desk.window.pictures import grown_window
from gorvel.desk.window.window import Window

COLUMNS = 12
STEP = 1.18


def study(cases: int, directory: Path) -> Path:
    """A plan and a table of random numbers without structure, the hardest to draw."""
    rng = np.random.default_rng(3)
    names = [f"v{k}" for k in range(COLUMNS)]
    pl.DataFrame(dict(zip(names, rng.normal(size=(COLUMNS, cases)), strict=True))).write_csv(
        directory / "many.csv"
    )
    plan = Plan(source=SourcePlan(file="many.csv"), variables=VariablesPlan(use=tuple(names)))
    save_plan(plan, directory / "many.toml")
    return directory / "many.toml"


def walk(window: Window) -> np.ndarray:
    """Milliseconds of each frame of all columns while the desk zooms and scrolls."""
    desk, times = window.tree.desk, []

    def frame() -> None:
        begin = time.perf_counter()
        for column in desk.seen:
            column.repaint()
        times.append(time.perf_counter() - begin)

    for k in range(60):
        desk.axis.zoom(STEP, 200 + 100 * math.sin(k / 5))
        frame()
    for k in range(40):
        desk.axis.scroll_to(desk.axis.scrolled + (-1) ** (k // 10) * 45)
        frame()
    for _ in range(60):
        desk.axis.zoom(1 / STEP, 300)
        frame()
    return np.array(times) * 1e3


def wander(window: Window) -> np.ndarray:
    """Milliseconds from a move of the pointer until all columns show it."""
    desk, times = window.tree.desk, []
    desk.axis.zoom_to_fit()
    QApplication.processEvents()
    for k in range(80):
        begin = time.perf_counter()
        window.focus.hover(desk.dendrogram.mark_at(40 + k * 4, 80 + k * 3))
        for column in desk.seen:
            column.repaint()
        times.append(time.perf_counter() - begin)
    return np.array(times) * 1e3


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__.splitlines()[0] if __doc__ else "")
    parser.add_argument("--cases", type=int, default=20_000)
    cases = parser.parse_args().cases
    with tempfile.TemporaryDirectory() as directory:
        window = grown_window(study(cases, Path(directory)), QSize(1280, 800))
        begin = time.perf_counter()
        window.go_to(2)
        QApplication.processEvents()
        window.grab()
        print(f"opening the page on {cases:,} cases: {time.perf_counter() - begin:.2f} s")
        for name, times in (("a frame", walk(window)), ("hover", wander(window))):
            median, late = np.median(times), np.quantile(times, 0.95)
            print(
                f"{name}: median {median:.1f} ms, 95 % within {late:.1f}, worst {times.max():.0f}"
            )
        window.acts.finish()


if __name__ == "__main__":
    main()
