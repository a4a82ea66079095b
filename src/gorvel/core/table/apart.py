"""Reading in a process of its own, where a library can bring down the one that it runs in.

python -m gorvel.core.table.apart TASK ARGUMENTS    reads a file from stdin, for `read_apart`
"""

from __future__ import annotations

import hashlib
import io
import json
import os
import resource
import subprocess
import sys
from pathlib import Path
from typing import Any, NamedTuple

import polars as pl

from gorvel.core.base.errors import InputError
from gorvel.core.base.limits import free_memory
from gorvel.core.table.error_cells import ErrorCell
from gorvel.core.table.sheets import read_sheet, sheet_names, typed_frame

_REFUSED = 3  # exit status of the child: the error is told on stdout
_OWN = 4 << 30  # bytes of addresses that the libraries take for themselves
_REMEMBERED = 64 << 20  # bytes of a frame up to which the last one is kept
_TOLD = 3  # cells with an error that are told of, beside their number


class ReadApart(NamedTuple):
    """What a child made of a file."""

    frame: pl.DataFrame
    errors: int = 0  # cells that hold an error of the workbook, or columns that are left out
    first: tuple[ErrorCell, ...] = ()  # of these: place and error, or name and type


_last: dict[str, ReadApart] = {}


def read_apart(data: bytes, task: str, *arguments: Any) -> ReadApart:
    """What a function of `sheets` makes of a file, made by a child.

    The last one is remembered: files are looked at more than once while they are opened.

    task : "sheet" with a name or None, or "typed" with a kind.

    Raises
    ------
    InputError : as that function; a file that brings its reader down.
    """
    key = hashlib.sha256(data).hexdigest() + json.dumps([task, *arguments])
    if key not in _last:
        told = io.BytesIO(_child(data, task, *arguments))
        errors, first = json.loads(told.readline())
        read = ReadApart(pl.read_ipc_stream(told), errors, tuple(ErrorCell(*one) for one in first))
        _last.clear()
        if read.frame.estimated_size() > _REMEMBERED:
            return read
        _last[key] = read
    return _last[key]


def sheets_apart(data: bytes) -> list[str]:
    """The sheets of a workbook, in order; see `read_apart`."""
    return read_apart(data, "names").frame["name"].to_list()


def _child(data: bytes, task: str, *arguments: Any) -> bytes:
    known = (str(Path(__file__).parents[3]), os.environ.get("PYTHONPATH"))
    told = subprocess.run(
        [sys.executable, "-m", "gorvel.core.table.apart", task, json.dumps(arguments)],
        input=data, stdout=subprocess.PIPE, stderr=subprocess.DEVNULL, check=False,
        env=os.environ | {"PYTHONPATH": os.pathsep.join(filter(None, known))},
    )  # fmt: skip
    if told.returncode == _REFUSED:
        found, expected, place = json.loads(told.stdout)
        raise InputError(found, expected, place=place)
    if told.returncode != 0:
        raise InputError("a file that its reader breaks down on", "one that is whole; or its cells "
                         "as CSV")  # fmt: skip
    return told.stdout


def _read(data: bytes, task: str, *arguments: Any) -> ReadApart:
    if task == "names":
        return ReadApart(pl.DataFrame({"name": sheet_names(data)}, schema={"name": pl.String}))
    if task == "typed":
        typed, unusable = typed_frame(data, *arguments)
        return ReadApart(typed, len(unusable), tuple(ErrorCell(*one) for one in unusable.items()))
    frame, errors = read_sheet(data, *arguments)
    return ReadApart(frame, len(errors), tuple(errors[:_TOLD]))


def _main(task: str, arguments: str) -> int:
    """Not more memory than is free: a file that claims a trillion cells ends here at once."""
    free, (_, hard) = free_memory(), resource.getrlimit(resource.RLIMIT_AS)
    if free < float("inf"):
        most = int(free) + _OWN
        most = most if hard == resource.RLIM_INFINITY else min(most, hard)
        resource.setrlimit(resource.RLIMIT_AS, (most, hard))
    try:
        read = _read(sys.stdin.buffer.read(), task, *json.loads(arguments))
    except InputError as error:
        sys.stdout.write(json.dumps([error.found, error.expected, error.place]))
        return _REFUSED
    sys.stdout.buffer.write(json.dumps([read.errors, read.first]).encode() + b"\n")
    read.frame.write_ipc_stream(sys.stdout.buffer)
    return 0


if __name__ == "__main__":
    sys.exit(_main(*sys.argv[1:]))
