"""How much memory is to be had: what the machine has left, and what limits leave of it."""

from __future__ import annotations

import resource
from contextlib import suppress
from pathlib import Path

_NO_LIMIT = 1 << 60  # bytes, beyond which a limit is none
# by the kinds of a group: the files with its limit and its usage, and what of that is remembered
_FILES = {
    "": ("memory.max", "memory.current", "inactive_file"),
    "memory": ("memory.limit_in_bytes", "memory.usage_in_bytes", "total_inactive_file"),
}
_GROUPS = Path("/proc/self/cgroup")


def free_memory() -> float:
    """Bytes that this process can have without swapping; infinity where the system does not tell.

    The limits of the process (`ulimit -v`) and of its control groups count as well.
    """
    return min(_free_of_machine(), _free_of_process(), free_of_groups())


def _free_of_machine() -> float:
    try:
        for line in Path("/proc/meminfo").read_text().splitlines():
            if line.startswith("MemAvailable:"):
                return float(line.split()[1]) * 1024
    except OSError:
        pass
    return float("inf")


def _free_of_process() -> float:
    limit = resource.getrlimit(resource.RLIMIT_AS)[0]
    if limit == resource.RLIM_INFINITY:
        return float("inf")
    taken = _number(Path("/proc/self/statm"), 0.0) * resource.getpagesize()
    return max(limit - taken, 0.0)


def free_of_groups(root: Path = Path("/sys/fs/cgroup"), own: Path = _GROUPS) -> float:
    """Bytes that the control groups of this process leave, of either version.

    Files that are only remembered do not count as taken. root, own : where they are, and which are
    this process's.
    """
    free = float("inf")
    with suppress(OSError, ValueError):
        for line in own.read_text().splitlines():
            _, kinds, place = line.split(":", 2)
            if kinds in _FILES:
                free = min(free, _free_along(root / kinds, place.strip("/"), _FILES[kinds]))
    return free


def _free_along(root: Path, place: str, files: tuple[str, str, str]) -> float:
    """The least that is left from a group up to the root."""
    free = float("inf")
    limit, usage, idle = files
    groups = [root, *(root.joinpath(*place.split("/")[:k]) for k in range(1, place.count("/") + 2))]
    for group in groups:
        most = _number(group / limit, float("inf"))
        if most < _NO_LIMIT:
            taken = _number(group / usage, 0.0) - _of_table(group / "memory.stat", idle)
            free = min(free, max(most - taken, 0.0))
    return free


def _number(path: Path, otherwise: float) -> float:
    """The first number in a file; `otherwise` where there is none, such as "max"."""
    try:
        return float(path.read_text().split()[0])
    except (OSError, ValueError, IndexError):
        return otherwise


def _of_table(path: Path, name: str) -> float:
    with suppress(OSError, ValueError):
        for line in path.read_text().splitlines():
            if line.startswith(f"{name} "):
                return float(line.split()[1])
    return 0.0
