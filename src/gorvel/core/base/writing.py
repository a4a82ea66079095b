"""The one way in which files are written: whole or not at all."""

from __future__ import annotations

import os
import shutil
from collections.abc import Iterable, Iterator
from contextlib import contextmanager, suppress
from dataclasses import dataclass
from hashlib import file_digest, sha256
from pathlib import Path

from gorvel.core.base.errors import GorvelError, InputError
from gorvel.core.base.processes import own_mark, owner_is_gone

_LONGEST = 100  # bytes of a name that a neighbour of it has in its own
_PART = ".part-"


def neighbour(target: Path) -> Path:
    """The place where this process writes what is to be put in the place of `target`.

    Those of processes that are no more are done away with.
    """
    name = target.name
    if len(os.fsencode(name)) > _LONGEST:
        name = sha256(os.fsencode(name)).hexdigest()[:16]
    begin = f".{name}{_PART}"
    with suppress(OSError):
        for path in target.parent.iterdir():
            if path.name.startswith(begin) and owner_is_gone(path.name[len(begin) :].split(".")[0]):
                _remove(path)
    return target.with_name(f"{begin}{own_mark()}{target.suffix[:_LONGEST]}")


def _remove(path: Path) -> None:
    if path.is_dir() and not path.is_symlink():
        shutil.rmtree(path, ignore_errors=True)
    else:
        path.unlink(missing_ok=True)


def check_room(place: Path, needed: float) -> None:
    """Refuse a large file before it is begun. place : a directory; needed : bytes, about.

    Raises
    ------
    InputError : less is free.
    """
    free = shutil.disk_usage(place).free
    if free < needed:
        found = f"{free / 2**30:.1f} GiB free"
        raise InputError(found, f"about {needed / 2**30:.1f} GiB", place="room on the disk")


def check_apart(target: Path, read: Iterable[Path]) -> None:
    """Refuse to write in the place of what is read, by whatever name that is called.

    Raises
    ------
    InputError : the target is one of these files.
    """
    for path in read:
        with suppress(OSError):  # one of them is not there
            if path.samefile(target):
                found = "a file that this is made from"
                raise InputError(found, "another place", file=str(target))


@dataclass(frozen=True)
class FileState:
    """What a file was like.

    stamp : another one where it was written anew, and on some disks by itself; held : the sum of
    what it held, which is asked for where the stamp is another one.
    """

    stamp: tuple[int, ...]
    held: bytes

    @classmethod
    def of(cls, path: Path) -> FileState | None:
        """None where there is no file, or none that can be read."""
        try:
            with path.open("rb") as file:
                return cls(_stamp(path), file_digest(file, "sha256").digest())
        except OSError:
            return None

    def differs(self, path: Path) -> bool:
        """Is what stands there now something else? Nothing at all is not."""
        try:
            if _stamp(path) == self.stamp:
                return False
        except OSError:
            return False
        now = FileState.of(path)
        return now is not None and now.held != self.held


def _stamp(path: Path) -> tuple[int, ...]:
    found = path.stat()
    return found.st_ino, found.st_size, found.st_mtime_ns


@contextmanager
def writing_to(target: Path, expected: str) -> Iterator[None]:
    """Whatever a library makes of a place that cannot be written becomes one error that names it.

    Raises
    ------
    InputError : see above. expected : in its place.
    """
    try:
        yield
    except GorvelError:
        raise
    except Exception as error:
        cause = error.__cause__ or error.__context__ or (error.args[0] if error.args else None)
        known = error if isinstance(error, OSError) else cause
        reason = known.strerror if isinstance(known, OSError) else None
        if reason is None:
            said = " ".join(str(error).split())[:_LONGEST]
            reason = f"cannot be written ({said or type(error).__name__})"
        raise InputError(reason, expected, file=str(target)) from error


@contextmanager
def replacing(target: Path) -> Iterator[Path]:
    """A temporary neighbour to write to; put in place of `target` when all went well.

    At every moment the target is what it was or what it is to be. A link stays one, and what it
    leads to is replaced; a file keeps its mode.

    Raises
    ------
    InputError : the place cannot be written, or what is written cannot.
    """
    with writing_to(target, "a place that can be written"):
        target = Path(os.path.realpath(target))
        part = neighbour(target)
        try:
            yield part
            with part.open("rb") as file:
                os.fsync(file.fileno())
            if target.exists():
                shutil.copymode(target, part)
            os.replace(part, target)
            _flush(target.parent)
        finally:
            part.unlink(missing_ok=True)


def _flush(directory: Path) -> None:
    """Have the new name on the disk, too."""
    handle = os.open(directory, os.O_RDONLY)
    try:
        os.fsync(handle)
    finally:
        os.close(handle)
