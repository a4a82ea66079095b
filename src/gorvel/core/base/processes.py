"""Which process on which machine a file belongs to, by its name."""

from __future__ import annotations

import os
import socket

__all__ = ["alive", "host", "own_mark", "owner_is_gone"]


def host() -> str:
    """The machine, in letters and digits."""
    return "".join(sign for sign in socket.gethostname() if sign.isalnum()) or "here"


def alive(process: int) -> bool:
    """Is another process of this number at work on this machine? This one itself is none."""
    try:
        os.kill(process, 0)
    except (ProcessLookupError, OverflowError):
        return False
    except PermissionError:
        return True
    return process != os.getpid()


def own_mark() -> str:
    """The end of a name that says whose it is."""
    return f"{host()}-{os.getpid()}"


def owner_is_gone(mark: str) -> bool:
    """Was it a process of this machine that is no more? mark : see `own_mark`."""
    where, _, process = mark.rpartition("-")
    if where != host() or not process.isdigit():
        return False
    return int(process) != os.getpid() and not alive(int(process))
