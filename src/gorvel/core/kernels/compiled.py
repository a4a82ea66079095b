"""How kernels are compiled: once, kept on disk, without the interpreter's lock.

A variable that begins as 0 or -1 and is handed to another kernel begins as np.int64(0): the other
one would be compiled for that number too, and thrown away.
"""

from __future__ import annotations

import os
from typing import Any

# Before the first shared loop: threads that wait, sleep. Where they spin, and something else runs
# on the machine, they take the time that those need on which they wait (docs/numerics.md).
os.environ.setdefault("OMP_WAIT_POLICY", "PASSIVE")

import numba

from gorvel.core.kernels.loading import kept_in

__all__ = ["inner", "kernel", "parallel", "prange", "summing"]

if not numba.config.CACHE_DIR:  # who has set one, knows why
    numba.config.CACHE_DIR = str(kept_in())

prange: Any = numba.prange
_KEPT: dict[str, Any] = {
    "cache": True, "nogil": True, "error_model": "numpy", "no_cfunc_wrapper": True,
}  # fmt: skip
_INNER = {**_KEPT, "no_cpython_wrapper": True}  # called by others that are compiled, and only so

kernel: Any = numba.njit(**_KEPT)
inner: Any = numba.njit(**_INNER)
parallel: Any = numba.njit(parallel=True, **_KEPT)
# sums may be taken in another order, which is always the same one, so that they are vectorised
summing: Any = numba.njit(fastmath={"reassoc"}, **_INNER)
