"""Whether kernels are there: compiled on the disk, loaded into this process.

They are compiled once for each state of their sources, by a child process, since nothing up to a
few thousand cases needs them: the window does not wait.
"""

from __future__ import annotations

import hashlib
import os
import platform
import shutil
import signal
import subprocess
import sys
import threading
import time
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from importlib.metadata import version
from pathlib import Path

import platformdirs

from gorvel.core.base.errors import Cancelled
from gorvel.core.base.progress import Phase, Progress

MANY = 2500  # cases from which kernels pay, though they have to be compiled or loaded first
_SOME = 200  # cases from which they pay once they are there
_BETWEEN = 0.1  # seconds between two looks at a child
COMPLETE, SHARE = "complete", "share"  # files: all is compiled; how far that is

_there = threading.Event()


def now_loaded() -> None:
    """From here on nothing in this process waits for kernels."""
    _there.set()


def loaded() -> bool:
    """Are the kernels loaded into this process?"""
    return _there.is_set()


def worth_compiling(cases: int) -> bool:
    """Are kernels faster for so many cases, the time counted in that it takes until they are there?

    Wherever this decides, they give the same numbers to the last bit.
    """
    return cases > MANY or (cases >= _SOME and loaded())


def _machine() -> str:
    """What kernels are compiled for, beside their sources."""
    flags = ""
    with suppress(OSError):
        for line in Path("/proc/cpuinfo").read_text().splitlines():
            if line.startswith(("model name", "flags")):
                flags += line
            elif not line:
                break
    return f"{version('numba')} {version('llvmlite')} {platform.python_version()} {flags}"


def kept_in(sources: Path = Path(__file__).parent) -> Path:
    """The directory for what is compiled from these sources on this machine, and from no others.

    A kernel holds those that it calls, but is by itself only compiled anew when its own file
    changes. So each state of the sources has a directory; those of other states are removed.
    """
    state = hashlib.sha256(_machine().encode())
    for source in sorted(sources.glob("*.py")):
        if source.name == Path(__file__).name:
            continue  # holds no kernels
        state.update(source.name.encode() + source.read_bytes())
    parent = sources / "__pycache__"
    if not os.access(parent if parent.exists() else sources, os.W_OK):
        parent = platformdirs.user_cache_path("gorvel")
    here = parent / f"kernels-{state.hexdigest()[:16]}"
    if not here.exists():
        for other in parent.glob("kernels-*"):
            shutil.rmtree(other, ignore_errors=True)
    return here


def on_disk() -> bool:
    """Are all kernels compiled, so that they only have to be loaded?"""
    return loaded() or (kept_in() / COMPLETE).exists()


def compile_apart(progress: Progress, gently: bool = False) -> None:
    """Have all kernels compiled by a child process, and wait for it; at once where that was done.

    Several may ask at a time: one child compiles, the others wait for it. Where it fails, kernels
    are compiled as they are needed.

    progress : told "kernels"; may stop the wait by raising, and the child with it; gently : the
    child yields to whatever else wants to run.
    """
    if on_disk():
        return
    known = (str(Path(__file__).parents[3]), os.environ.get("PYTHONPATH"))
    child = subprocess.Popen(
        [sys.executable, "-m", "gorvel.core.warm", "led", *(["gently"] if gently else [])],
        stdin=subprocess.PIPE, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL,
        env=os.environ | {"PYTHONPATH": os.pathsep.join(filter(None, known))}, process_group=0,
    )  # fmt: skip
    told, share = kept_in() / SHARE, 0.0
    try:
        while child.poll() is None:
            with suppress(OSError, ValueError):
                share = max(share, float(told.read_text()))
            progress(Phase.KERNELS, min(share, 1.0))
            time.sleep(_BETWEEN)
    finally:
        if child.poll() is None:
            # in the middle of compiling it would hear of nothing milder for many seconds; what it
            # has compiled by now is kept
            os.killpg(child.pid, signal.SIGKILL)
            child.wait()
        assert child.stdin is not None
        child.stdin.close()


@contextmanager
def at_hand(cases: int) -> Iterator[None]:
    """Use kernels for many trees of so many cases.

    Kernels are used from now on where they are on the disk, and loaded one by one; else they are
    compiled meanwhile, as far as there is time.
    """
    if cases < _SOME or on_disk():
        if cases >= _SOME:
            now_loaded()
        yield
        return
    ended = threading.Event()

    def go_on(phase: Phase, share: float) -> None:
        if ended.is_set():
            raise Cancelled

    def compiling() -> None:
        with suppress(Cancelled):
            compile_apart(go_on, gently=True)
            if on_disk():
                now_loaded()

    thread = threading.Thread(target=compiling, name="kernels")
    thread.start()
    try:
        yield
    finally:
        ended.set()
        thread.join()
