"""Two trees beside each other."""

from __future__ import annotations

import numpy as np
import pytest
from pytestqt.qtbot import QtBot

from driving import LEFT, grown_once, press, settled, shown
from gorvel.core.study.reading import Opened
from gorvel.desk.window.window import Window


@pytest.fixture(scope="session")
def sixty(tmp_path_factory: pytest.TempPathFactory) -> Opened:
    """Sixty cases in four groups, some gaps, and their tree."""
    folder = tmp_path_factory.mktemp("sixty")
    rng = np.random.default_rng(6)
    lines = ["id,stop,a,b,c,d,uses_app"]
    for k in range(60):
        cells = [f"{v:.3f}" for v in rng.normal(size=4) + 3 * np.eye(4)[k % 4]]
        if k in (7, 21, 33):
            cells[k % 3] = ""
        app = "yes" if rng.random() < 0.5 else "no"
        lines.append(",".join([f"p{k}", f"stop {k % 5}", *cells, app]))
    (folder / "t.csv").write_text("\n".join(lines), encoding="utf-8")
    (folder / "p.toml").write_text(
        'gorvel = 1\n[source]\nfile = "t.csv"\n[cases]\nlabel = "id"\n[variables]\n'
        'use = ["a", "b", "c", "d"]\n[scale]\nmethod = "zscore"\n',
        encoding="utf-8",
    )
    return grown_once(folder / "p.toml")


@pytest.fixture
def grown(window: Window, qtbot: QtBot, sixty: Opened) -> Window:
    """These cases and their tree on the screen."""
    shown(window, qtbot, sixty)
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
