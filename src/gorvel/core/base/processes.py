"""Which process on which machine a file belongs to, by its name."""

from __future__ import annotations

import os
import socket
from hashlib import sha256
from pathlib import Path

_BOOT = Path("/proc/sys/kernel/random/boot_id")
_STARTED = 19  # of the words behind a process's name: when it was started, since the machine was


def host() -> str:
    """The machine, in letters and digits."""
    return "".join(sign for sign in socket.gethostname() if sign.isalnum()) or "here"


def own_sign() -> str:
    """This process as no other one ever was: a number is given again, if only by the next boot."""
    number = os.getpid()
    return "-".join(filter(None, (str(number), _begun(number))))


def _begun(number: int) -> str:
    """When a process was started, in eight signs; "" where that is not to be had."""
    try:
        words = Path(f"/proc/{number}/stat").read_bytes().rpartition(b")")[2].split()
        return sha256(_BOOT.read_bytes() + words[_STARTED]).hexdigest()[:8]
    except (OSError, IndexError):
        return ""


def at_work(sign: str) -> bool:
    """Is another process of this machine still at work? This one itself is none.

    sign : see `own_sign`; the number alone says it, too, as far as it does.
    """
    digits, _, begun = sign.partition("-")
    if not digits.isdecimal() or sign == own_sign() or int(digits) == os.getpid():
        return False
    number = int(digits)
    try:
        os.kill(number, 0)
    except (ProcessLookupError, OverflowError):
        return False
    except PermissionError:
        pass
    return not begun or _begun(number) in ("", begun)


def own_mark() -> str:
    """The end of a name that says whose it is."""
    return f"{host()}-{own_sign()}"


def owner_is_gone(mark: str) -> bool:
    """Was it a process of this machine that is no more? mark : see `own_mark`."""
    where, _, sign = mark.partition("-")
    if where != host() or not sign.partition("-")[0].isdecimal():
        return False
    return sign not in (own_sign(), str(os.getpid())) and not at_work(sign)
