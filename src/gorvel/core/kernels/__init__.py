"""Compiled loops over arrays: no objects, no errors, no progress; each has a slow twin in tests."""

from __future__ import annotations

import threading

__all__ = ["ONE_AT_A_TIME"]

ONE_AT_A_TIME = threading.Lock()  # held while kernels run: not all their thread pools can be shared
