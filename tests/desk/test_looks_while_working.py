"""What is worked out while the window is built anew is shown in it, and nothing else is."""

from __future__ import annotations

import threading
import time
from collections.abc import Callable, Iterable
from typing import Any

import pytest
from PySide6.QtWidgets import QApplication, QLabel
from pytestqt.qtbot import QtBot

from gorvel.core.base.progress import Progress
from gorvel.desk.window.pages import NAMES
from gorvel.desk.window.window import Window
from gorvel.desk.work.faults import FAULTS
from gorvel.desk.work.jobs import Job, JobKind, Jobs

Work = Callable[[Progress], Any]


def words(window: Window, page: int) -> list[str]:
    """All that can be read on a page, but for the times that things took."""
    window.go_to(page)  # what is hidden follows when it is seen
    QApplication.processEvents()
    seen = getattr(window, NAMES[page].lower())
    shown = [label.text() for label in seen.findChildren(QLabel) if label.isVisibleTo(seen)]
    return sorted(text for text in shown if " s." not in text and " s," not in text)


def in_other_looks(window: Window, pages: Iterable[int]) -> None:
    """Change the looks, and have some pages made in them."""
    window.other_theme()
    for page in pages:
        window.go_to(page)
        QApplication.processEvents()


@pytest.mark.slow
@pytest.mark.parametrize("waits", [False, True], ids=["done before", "done after"])
def test_what_is_done_after_other_looks_is_shown(
    grown: Window, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch, waits: bool
) -> None:
    """waits : until the window was built anew; else its results are on their way meanwhile."""
    jobs, gate = grown.acts.jobs, threading.Event()
    begun: list[JobKind] = []
    met = FAULTS.last  # of tests before
    start = Jobs.start

    def held(self: Jobs, kind: JobKind, work: Work, *more: Any, **keys: Any) -> Job:
        def later(progress: Progress) -> Any:
            gate.wait(60)
            return work(progress)

        begun.append(kind)
        return start(self, kind, later, *more, **keys)

    monkeypatch.setattr(Jobs, "start", held)
    pages = (0, 3, 4)
    for page in pages:
        grown.go_to(page)
        grown.focus.set_count(6)
        QApplication.processEvents()
    grown.counting.questions.ask()
    assert begun
    if not waits:
        gate.set()
        while jobs.threads:
            time.sleep(0.01)
    in_other_looks(grown, pages)
    gate.set()
    qtbot.waitUntil(lambda: jobs.idle)
    QApplication.processEvents()
    assert FAULTS.last == met
    found = [words(grown, page) for page in pages]
    assert all(found)
    monkeypatch.undo()
    in_other_looks(grown, pages)  # once more, with nothing at work
    qtbot.waitUntil(lambda: jobs.idle)
    QApplication.processEvents()
    assert [words(grown, page) for page in pages] == found
