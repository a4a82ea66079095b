"""How kernels are compiled: once, kept on disk, without the interpreter's lock.

A variable that begins as 0 or -1 and is handed to another kernel begins as np.int64(0): the other
one would be compiled for that number too, and thrown away.
"""

from __future__ import annotations

import os
from collections.abc import Callable
from typing import Any

# Before the first shared loop: threads that wait, sleep. Where they spin, and something else runs
# on the machine, they take the time that those need on which they wait (docs/numerics.md).
os.environ.setdefault("OMP_WAIT_POLICY", "PASSIVE")

import numba

from gorvel.core.kernels.keeping import KernelFiles
from gorvel.core.kernels.loading import kept_in

prange: Any = numba.prange
_FOLDER = kept_in()
_LOOP: dict[str, Any] = {"nogil": True, "error_model": "numpy", "no_cfunc_wrapper": True}
_INNER = {**_LOOP, "no_cpython_wrapper": True}  # called by others that are compiled, and only so


def _compiled(**options: Any) -> Any:
    """Makes kernels of functions: compiled when they are first called, and kept."""

    def kernel_of(function: Callable[..., Any]) -> Any:
        made = numba.njit(**options)(function)
        made._cache = KernelFiles(function, _FOLDER)
        return made

    return kernel_of


kernel = _compiled(**_LOOP)
inner = _compiled(**_INNER)
parallel = _compiled(parallel=True, **_LOOP)
# sums may be taken in another order, which is always the same one, so that they are vectorised
summing = _compiled(fastmath={"reassoc"}, **_INNER)
