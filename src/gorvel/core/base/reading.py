"""The one way in which files are opened to be read, and what becomes of a reader's faults."""

from __future__ import annotations

import stat
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import BinaryIO

from gorvel.core.base.errors import GorvelError, InputError

_LONGEST = 200  # characters of what a library says


@contextmanager
def guarded(file: str, expected: str) -> Iterator[None]:
    """Whatever goes wrong with what is read here becomes one error that names the file.

    That holds for what no reader foresees, too: too deep a nesting, a number too long, a panic of a
    compiled library, which is no `Exception`.

    Raises
    ------
    InputError : the file is not there, cannot be read, or is not `expected`.
    """
    try:
        yield
    except (GorvelError, MemoryError, KeyboardInterrupt, SystemExit, GeneratorExit):
        raise
    except FileNotFoundError as error:
        raise InputError("file not found", expected, file=file) from error
    except OSError as error:
        raise InputError(error.strerror or "unreadable", expected, file=file) from error
    except RecursionError as error:
        raise InputError("nested too deeply to be read", expected, file=file) from error
    except BaseException as error:
        said = " ".join(str(error).split())[:_LONGEST]
        found = f"something unreadable ({type(error).__name__}: {said})"
        raise InputError(found, expected, file=file) from error


@contextmanager
def open_to_read(path: Path) -> Iterator[BinaryIO]:
    """A file on the disk, opened for its bytes. A pipe or a device is none: it may never end.

    Raises
    ------
    OSError : it is not there, or cannot be read.
    InputError : no file on a disk.
    """
    kind = path.stat().st_mode
    if not stat.S_ISREG(kind):
        found = "a directory" if stat.S_ISDIR(kind) else "a pipe or a device"
        raise InputError(found, "a file on the disk", file=path.name)
    with path.open("rb") as file:
        yield file


def bytes_of(path: Path) -> bytes:
    """All of a file on the disk; see `open_to_read`."""
    with open_to_read(path) as file:
        return file.read()


def text_of(path: Path, expected: str) -> str:
    """A text in UTF-8.

    Raises
    ------
    InputError : the file is not there, cannot be read, or holds something else.
    """
    with guarded(path.name, expected):
        try:
            return bytes_of(path).decode("utf-8")
        except UnicodeDecodeError as error:
            raise InputError("not UTF-8 text", expected, file=path.name) from error
