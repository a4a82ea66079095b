"""Two trees beside each other."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import numpy as np
import pytest
from pytestqt.qtbot import QtBot

from driving import LEFT, press, settled
from gorvel.desk.window.window import Window


@pytest.fixture
def grown(opened: Callable[[Path], Window], qtbot: QtBot, tmp_path: Path) -> Window:
    """Sixty cases in four groups, some gaps, and their tree."""
    rng = np.random.default_rng(6)
    lines = ["id,stop,a,b,c,d,uses_app"]
    for k in range(60):
        cells = [f"{v:.3f}" for v in rng.normal(size=4) + 3 * np.eye(4)[k % 4]]
        if k in (7, 21, 33):
            cells[k % 3] = ""
        app = "yes" if rng.random() < 0.5 else "no"
        lines.append(",".join([f"p{k}", f"stop {k % 5}", *cells, app]))
    (tmp_path / "t.csv").write_text("\n".join(lines), encoding="utf-8")
    (tmp_path / "p.toml").write_text(
        'gorvel = 1\n[source]\nfile = "t.csv"\n[cases]\nlabel = "id"\n[variables]\n'
        'use = ["a", "b", "c", "d"]\n[scale]\nmethod = "zscore"\n',
        encoding="utf-8",
    )
    window = opened(tmp_path / "p.toml")
    with qtbot.waitSignal(window.focus.tree_changed):
        window.acts.grow()
    settled(window, qtbot)
    return window


@pytest.fixture
def compared(grown: Window, qtbot: QtBot) -> Window:
    """That tree beside the one by complete linkage, both cut into five."""
    grown.focus.set_count(5)
    press(grown, qtbot, "Alt+6")
    offer = next(one for one in grown.compare.offers if "Complete" in one.text())
    qtbot.mouseClick(offer, LEFT)
    settled(grown, qtbot)
    return grown
