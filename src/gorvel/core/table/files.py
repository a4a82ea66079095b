"""Files on the disk: what they hold, unpacked."""

from __future__ import annotations

import gzip
import zlib
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import replace
from pathlib import Path
from typing import BinaryIO, cast

from gorvel.core.base.errors import InputError
from gorvel.core.base.progress import Phase, Progress, silent
from gorvel.core.base.reading import bytes_of, guarded, open_to_read
from gorvel.core.table.detect import as_utf8
from gorvel.core.table.table import Reading

_MOST_UNPACKED = 4 << 30  # bytes of a compressed text
_PIECE = 1 << 24  # bytes read between two reports
_SWELLS = 4  # times that a packed text is expected to grow
_GOT = 0.2  # share of the work of reading


def file_bytes(path: Path, asked: Reading) -> tuple[bytes, Reading]:
    """A text as UTF-8 with plain line ends, and how it was read.

    Raises
    ------
    InputError : no such file, or not text in the encoding asked for.
    """
    try:
        with guarded(path.name, f"a text at {path}"):
            data, encoding = as_utf8(bytes_of(path), asked.encoding)
    except InputError as error:
        raise error.in_file(path.name) from None
    return data, replace(asked, delimiter="", encoding=encoding)


def is_packed(path: Path) -> bool:
    """Is it compressed, by its name?"""
    return path.suffix.lower() == ".gz"


def contents(path: Path, progress: Progress = silent) -> bytes:
    """What the file holds, unpacked.

    Raises
    ------
    InputError : no such file, or none that can be read.
    """
    try:
        with unpacked(path) as file:
            return _all_of(file, path.stat().st_size, is_packed(path), progress)
    except FileNotFoundError:
        raise InputError("file not found", f"expected a table at {path}") from None
    except (OSError, EOFError, zlib.error) as error:
        reason = getattr(error, "strerror", None) or "an unreadable file"
        raise InputError(reason, "a readable file") from error


@contextmanager
def unpacked(path: Path) -> Iterator[BinaryIO]:
    """A file to read from, through its packing where it has one."""
    with open_to_read(path) as file:
        if not is_packed(path):
            yield file
            return
        with gzip.open(file) as text:
            yield cast(BinaryIO, text)


def _all_of(file: BinaryIO, size: int, packed: bool, progress: Progress) -> bytes:
    """Everything a file holds, piece by piece; size : bytes on the disk."""
    pieces, total = [], 0
    while piece := file.read(_PIECE):
        pieces.append(piece)
        total += len(piece)
        if packed and total > _MOST_UNPACKED:
            raise InputError("a file that unpacks to more than 4 GiB", "a smaller one")
        share = min(total / max(size * (_SWELLS if packed else 1), 1), 1.0)
        progress(Phase.READING, _GOT * share)
    return b"".join(pieces)
