"""Files are written off the interface thread, which goes on meanwhile."""

from __future__ import annotations

import threading
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path

import pytest
from PySide6.QtWidgets import QApplication, QWidget
from pytestqt.qtbot import QtBot

from gorvel.core.base import writing
from gorvel.core.study.opening import load_study
from gorvel.desk.controls.notice import Notice
from gorvel.desk.window.window import Window

WRITERS: dict[str, Callable[[Window, Path], object]] = {
    "plan.toml": lambda window, path: window.acts.files.save_plan(path),
    "study.gorvel": lambda window, path: window.acts.files.save_study(path),
    "members.csv": lambda window, path: window.acts.files.save_memberships(path),
    "members.xlsx": lambda window, path: window.acts.files.save_memberships(path),
    "book.json": lambda window, path: window.acts.files.save_codebook(path),
    "tree.svg": lambda window, path: figure(window, path),
    "tree.png": lambda window, path: figure(window, path),
    "tree.pdf": lambda window, path: figure(window, path),
    "rules.svg": lambda window, path: window.count.take_away.save_to(path),
}


def figure(window: Window, path: Path) -> None:
    """The dialog, as a user has it."""
    dialog = window.tree.open_figure([window.tree.desk.dendrogram])
    assert dialog is not None
    dialog.save_to(path)


@pytest.mark.slow
def test_the_disk_holds_up_nobody(
    grown: Window, qtbot: QtBot, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    qtbot.waitUntil(lambda: grown.counting.complete)
    threads: list[int] = []
    slow, replacing = threading.Event(), writing.replacing

    @contextmanager
    def held_up(target: Path) -> Iterator[Path]:
        threads.append(threading.get_ident())
        slow.wait(30)  # a disk that takes its time
        with replacing(target) as part:
            yield part

    for place in ("plan.file", "study.file", "export.membership", "codebook.codebook"):
        monkeypatch.setattr(f"gorvel.core.{place}.replacing", held_up)
    monkeypatch.setattr("gorvel.paint.figure.replacing", held_up)
    for count, (name, write) in enumerate(WRITERS.items(), 2):
        grown.focus.set_count(count)
        path = tmp_path / name
        slow.clear()
        threads.clear()
        write(grown, path)
        qtbot.waitUntil(lambda: len(threads) == 1)
        assert threads[0] != threading.get_ident(), name
        grown.focus.set_count(20)  # the hand goes on
        QApplication.processEvents()
        assert grown.focus.cut is not None
        assert grown.focus.cut.clusters == 20
        assert grown.acts.jobs.writing
        assert not path.exists()
        slow.set()
        assert grown.acts.files.written()
        assert path.stat().st_size > 500
        if name == "study.gorvel":  # as it was when it was asked for, and not saved since
            kept = load_study(path).kept[1, None].cut
            assert kept is not None
            assert kept.clusters == count
            assert grown.focus.shelf.study_unsaved
        if name == "members.csv":
            assert f"cluster_k{count}" in path.read_text().splitlines()[0]
            assert grown.focus.saved_to is None


def test_a_notice_stays_until_an_offer_is_taken(qtbot: QtBot) -> None:
    ground, taken = QWidget(), []
    notice = Notice(ground)
    qtbot.addWidget(ground)
    notice.say("Something happened.", ("mend it", lambda: taken.append("mended")))
    assert notice.isVisibleTo(ground)
    assert notice.words.text() == "Something happened."
    assert notice.offer("leave it") is None
    mend = notice.offer("mend it")
    assert mend is not None
    mend()
    assert taken == ["mended"]
    notice.say("")
    assert not notice.isVisibleTo(ground)
