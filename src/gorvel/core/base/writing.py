"""The one way in which single files are written: whole or not at all."""

from __future__ import annotations

import os
import shutil
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import polars as pl

from gorvel.core.base.errors import InputError

__all__ = ["replacing"]


@contextmanager
def replacing(target: Path) -> Iterator[Path]:
    """A temporary neighbour to write to; put in place of `target` when all went well.

    At every moment the target is what it was or what it is to be. A link stays one, and what it
    leads to is replaced; a file keeps its mode.

    Raises
    ------
    InputError : the place cannot be written.
    """
    target = Path(os.path.realpath(target))
    part = target.with_name(f".{target.stem}.part{target.suffix}")
    try:
        yield part
        with part.open("rb") as file:
            os.fsync(file.fileno())
        if target.exists():
            shutil.copymode(target, part)
        os.replace(part, target)
        _flush(target.parent)
    except (OSError, pl.exceptions.PolarsError) as error:
        reason = getattr(error, "strerror", None) or "cannot be written"
        raise InputError(reason, "a place that can be written", file=str(target)) from error
    finally:
        part.unlink(missing_ok=True)


def _flush(directory: Path) -> None:
    """Have the new name on the disk, too."""
    handle = os.open(directory, os.O_RDONLY)
    try:
        os.fsync(handle)
    finally:
        os.close(handle)
