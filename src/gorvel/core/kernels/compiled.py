"""How kernels are compiled: once, kept on disk, without the interpreter's lock."""

from __future__ import annotations

from typing import Any

import numba

__all__ = ["kernel", "parallel", "prange"]

prange: Any = numba.prange
_KEPT: dict[str, Any] = {"cache": True, "nogil": True, "error_model": "numpy"}

kernel: Any = numba.njit(**_KEPT)
parallel: Any = numba.njit(parallel=True, **_KEPT)
