"""How kernels are compiled: once, kept on disk, without the interpreter's lock."""

from __future__ import annotations

import hashlib
import os
import shutil
from pathlib import Path
from typing import Any

# Before the first shared loop: threads that wait, sleep. Where they spin, and something else runs
# on the machine, they take the time that those need on which they wait (docs/numerics.md).
os.environ.setdefault("OMP_WAIT_POLICY", "PASSIVE")

import numba
import platformdirs

__all__ = ["kept_in", "kernel", "parallel", "prange", "summing"]


def kept_in(sources: Path) -> Path:
    """The directory for what is compiled from these sources, and from no others.

    A kernel holds those that it calls, but is by itself only compiled anew when its own file
    changes. So each state of the sources has a directory; those of other states are removed.
    """
    state = hashlib.sha256()
    for source in sorted(sources.glob("*.py")):
        state.update(source.read_bytes())
    parent = sources / "__pycache__"
    if not os.access(parent if parent.exists() else sources, os.W_OK):
        parent = platformdirs.user_cache_path("gorvel")
    here = parent / f"kernels-{state.hexdigest()[:16]}"
    for other in parent.glob("kernels-*"):
        if other != here:
            shutil.rmtree(other, ignore_errors=True)
    return here


if not numba.config.CACHE_DIR:  # someone who set one, knows why
    numba.config.CACHE_DIR = str(kept_in(Path(__file__).parent))

prange: Any = numba.prange
_KEPT: dict[str, Any] = {"cache": True, "nogil": True, "error_model": "numpy"}

kernel: Any = numba.njit(**_KEPT)
parallel: Any = numba.njit(parallel=True, **_KEPT)
# sums may be taken in another order, which is always the same one, so that they are vectorised
summing: Any = numba.njit(fastmath={"reassoc"}, **_KEPT)
