"""`python -m gorvel`: the command line."""

from __future__ import annotations

import os
import resource
import signal
import sys
from types import FrameType


def _cancelled(number: int, frame: FrameType | None) -> None:
    """While the program is still loaded there is nothing to be undone."""
    os.write(2, b"gorvel: error: cancelled\n")
    os._exit(130)


def _main() -> None:
    for number in (signal.SIGTERM, signal.SIGINT, signal.SIGHUP):
        signal.signal(number, _cancelled)
    if resource.getrlimit(resource.RLIMIT_FSIZE)[0] != resource.RLIM_INFINITY:
        sys.dont_write_bytecode = True  # half of it would be left, for all that start later
    from gorvel.main import entry

    entry()


if __name__ == "__main__":
    _main()
