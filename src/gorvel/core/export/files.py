"""Writing files whole or not at all."""

from __future__ import annotations

import json
import os
import shutil
from collections.abc import Iterable, Iterator, Mapping
from contextlib import contextmanager, suppress
from pathlib import Path
from typing import Any

import polars as pl

from gorvel.core.base.errors import InputError
from gorvel.core.base.writing import check_apart, neighbour, replacing, writing_to


@contextmanager
def results_directory(target: Path, read: Iterable[Path] = ()) -> Iterator[Path]:
    """A new directory beside `target`, moved in whole when the work ends well.

    An existing target keeps its other files; files of the same name are replaced, and keep their
    mode, and a link stays one. read : what the
    results are made from, which is not.

    Raises
    ------
    InputError : the target is a file, or cannot be made; there is no room for the results.
    """
    expected = "a directory that can be written"
    with writing_to(target, expected):
        target = target.absolute()
        if target.exists() and not target.is_dir():
            raise InputError("a file", "a directory for the results", file=str(target))
        made = [parent for parent in target.parents if not parent.exists()]
        beside = neighbour(target)
    finished = False
    try:  # from here on: a signal may come as soon as the first directory is there
        with writing_to(target, expected):
            target.parent.mkdir(parents=True, exist_ok=True)
            shutil.rmtree(beside, ignore_errors=True)  # of one that had our number before
            beside.mkdir()
            usual = beside.stat().st_mode
            beside.chmod(0o700)
        with _room_for(target):  # what is read has its own errors
            yield beside
        with writing_to(target, expected):
            beside.chmod(usual)
            _move_in(beside, target, read)
        finished = True
    finally:
        shutil.rmtree(beside, ignore_errors=True)
        if not finished:
            for parent in made:  # innermost first; not all need have been made
                with suppress(OSError):
                    parent.rmdir()


@contextmanager
def _room_for(target: Path) -> Iterator[None]:
    try:
        yield
    except (OSError, pl.exceptions.PolarsError) as error:
        reason = getattr(error, "strerror", None) or f"results that cannot be written ({error})"
        raise InputError(reason, "room for the results", file=str(target)) from error


def _move_in(beside: Path, target: Path, read: Iterable[Path]) -> None:
    """Put results in their place. Whether all can go there is seen before the first one goes."""
    if not target.exists():
        os.replace(beside, target)
        return
    found = sorted(beside.rglob("*"))
    for path in found:
        place = target / path.relative_to(beside)
        if place.exists() and place.is_dir() != path.is_dir():
            what = ("a directory", "a file") if place.is_dir() else ("a file", "a directory")
            raise InputError(what[0], f"{what[1]}, or nothing", file=str(place))
        if path.is_file():
            check_apart(place, read)
            if place.exists():
                shutil.copymode(place, path)
    for path in found:
        place = target / path.relative_to(beside)
        if path.is_dir():
            place.mkdir(exist_ok=True)
        elif place.is_symlink():  # it stays one, wherever it leads to
            with replacing(place) as part:
                shutil.copyfile(path, part)
                shutil.copymode(path, part)
        else:
            os.replace(path, place)


def write_json(told: Mapping[str, Any], path: Path) -> None:
    """UTF-8, two blanks of indent; a number that is not finite is an error of the caller."""
    text = json.dumps(told, indent=2, ensure_ascii=False, allow_nan=False)
    path.write_text(text + "\n", encoding="utf-8")


def write_csv(columns: Mapping[str, Any], path: Path) -> None:
    """UTF-8, comma, point decimal; NaN and None become empty; numbers read back exactly."""
    frame = pl.DataFrame(dict(columns), strict=False).with_columns(
        pl.selectors.float().fill_nan(None)
    )
    with path.open("wb") as file:  # of which the name need not be text
        frame.write_csv(file)
