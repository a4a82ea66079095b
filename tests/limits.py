"""What the system refuses, for a while."""

from __future__ import annotations

import resource
import signal
from collections.abc import Iterator
from contextlib import contextmanager


@contextmanager
def file_size(most: int) -> Iterator[None]:
    """No file may grow beyond so many bytes, as if the disk were full."""
    soft, hard = resource.getrlimit(resource.RLIMIT_FSIZE)
    before = signal.signal(signal.SIGXFSZ, signal.SIG_IGN)
    resource.setrlimit(resource.RLIMIT_FSIZE, (most, hard))
    try:
        yield
    finally:
        resource.setrlimit(resource.RLIMIT_FSIZE, (soft, hard))
        signal.signal(signal.SIGXFSZ, before)
