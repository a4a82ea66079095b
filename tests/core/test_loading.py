"""Kernels are kept for one state of their sources, and compiled by a child that can be stopped."""

from __future__ import annotations

import os
import signal
import subprocess
import sys
import time
from pathlib import Path

import pytest

from gorvel.core.base.errors import Cancelled
from gorvel.core.base.progress import Phase
from gorvel.core.kernels import loading
from gorvel.core.kernels.loading import (
    COMPLETE,
    at_hand,
    compile_apart,
    kept_in,
    on_disk,
    worth_compiling,
)  # fmt: skip

# in the place of the interpreter: tells how far it is, then waits for somebody to say go
CHILD = """#!/bin/sh
trap "" TERM
sleep 60 &
second=$!
echo $second > {at}/second
echo "$@" > {at}/called
echo $$ > {at}/child
echo 0.25 > {at}/share
while [ ! -e {at}/go ]; do sleep 0.02; done
kill -9 $second
{then}
"""


@pytest.fixture
def place(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Path:
    monkeypatch.setattr(loading, "kept_in", lambda: tmp_path)
    monkeypatch.setattr(loading, "loaded", lambda: False)
    return tmp_path


def child(place: Path, monkeypatch: pytest.MonkeyPatch, then: str) -> None:
    script = place / "python"
    script.write_text(CHILD.format(at=place, then=then))
    script.chmod(0o755)
    monkeypatch.setattr(loading.sys, "executable", str(script))


@pytest.mark.parametrize(("gently", "called"), [(True, "gently"), (False, "led")])
def test_it_is_waited_for_and_told_how_far_it_is(
    place: Path, monkeypatch: pytest.MonkeyPatch, gently: bool, called: str
) -> None:
    child(place, monkeypatch, f"touch {place}/{COMPLETE}")
    told = set()

    def progress(phase: Phase, share: float) -> None:
        told.add((phase, share))
        if share > 0:
            (place / "go").touch()

    assert not on_disk()
    compile_apart(progress, gently)
    assert on_disk()
    assert (Phase.KERNELS, 0.25) in told
    assert (place / "called").read_text().split()[-1].endswith(called)
    (place / "called").unlink()
    compile_apart(progress)  # nothing is left to be done
    assert not (place / "called").exists()


def test_stopping_stops_the_child(place: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    child(place, monkeypatch, "exit 0")

    def progress(phase: Phase, share: float) -> None:
        if share > 0:
            raise Cancelled

    with pytest.raises(Cancelled):
        compile_apart(progress)
    for name in ("child", "second"):  # one that hears of nothing milder, and what it has begun
        number = int((place / name).read_text())
        for _ in range(200):
            if not alive(number):
                break
            time.sleep(0.05)
        assert not alive(number), name
    assert not on_disk()


def alive(number: int) -> bool:
    """Is there a process that is more than a name in a list?"""
    try:
        return Path(f"/proc/{number}/stat").read_text().rpartition(")")[2].split()[0] not in "ZX"
    except OSError:
        return False


@pytest.mark.slow
def test_it_ends_with_the_program_that_led_it(tmp_path: Path) -> None:
    """However that ended: nothing is compiled on for nobody."""
    code = "import gorvel.core.warm as warm; warm._follow()"
    with subprocess.Popen(
        [sys.executable, "-c", code], stdin=subprocess.PIPE, process_group=0
    ) as led:
        assert led.stdin is not None
        led.stdin.close()
        assert led.wait(60) == -signal.SIGKILL


def test_a_child_that_fails_is_no_error(place: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    child(place, monkeypatch, "exit 1")
    (place / "go").touch()
    compile_apart(lambda phase, share: None)
    assert not on_disk()


def test_each_state_of_the_sources_has_a_place_of_its_own(tmp_path: Path) -> None:
    (tmp_path / "one.py").write_text("a = 1")
    first = kept_in(tmp_path)
    assert first == kept_in(tmp_path)
    assert first.parent == tmp_path / "__pycache__"
    first.mkdir(parents=True)
    other = first.parent / "unlike"
    other.mkdir()
    (tmp_path / "one.py").write_text("a = 2")
    second = kept_in(tmp_path)
    assert second != first
    assert not first.exists()  # of no use any more
    assert other.exists()
    (tmp_path / "two.py").touch()
    assert kept_in(tmp_path) not in (first, second)


def test_where_the_program_cannot_write_the_users_cache_is_used(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setenv("XDG_CACHE_HOME", str(tmp_path / "cache"))
    monkeypatch.setattr(os, "access", lambda path, mode: False)
    assert kept_in(tmp_path).parent == tmp_path / "cache" / "gorvel"


def test_kernels_are_used_early_only_once_they_are_there(monkeypatch: pytest.MonkeyPatch) -> None:
    for there, answers in ((False, (False, False, True)), (True, (False, True, True))):
        monkeypatch.setattr(loading, "loaded", lambda there=there: there)
        assert tuple(worth_compiling(n) for n in (199, 200, 2501)) == answers
        assert worth_compiling(2500) is there


def test_many_trees_use_kernels_that_are_at_hand(
    place: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    used: list[str] = []
    monkeypatch.setattr(loading, "now_loaded", lambda: used.append("now"))
    child(place, monkeypatch, f"touch {place}/{COMPLETE}")
    with at_hand(199):  # too few for it to matter
        pass
    assert not (place / "called").exists()
    with at_hand(200):  # compiled meanwhile, and used as soon as they are there
        while not (place / "share").exists():
            time.sleep(0.01)
        assert used == []
        (place / "go").touch()
        for _ in range(1000):
            if used:
                break
            time.sleep(0.01)
        assert used == ["now"]
    (place / "called").unlink()
    with at_hand(200):  # they are on the disk
        assert used == ["now", "now"]
    assert not (place / "called").exists()


def test_compiling_ends_with_the_work_it_was_for(
    place: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    child(place, monkeypatch, "exit 0")
    with at_hand(200):
        while not (place / "child").exists() or not (place / "child").read_text():
            time.sleep(0.01)
    assert not Path(f"/proc/{int((place / 'child').read_text())}").exists()
