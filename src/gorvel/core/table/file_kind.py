"""What is known of a kind of file: its endings, what can be asked of it, and how it is read."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any, Literal, NamedTuple

import polars as pl

from gorvel.core.base.errors import Caution
from gorvel.core.base.progress import Progress
from gorvel.core.table.table import Reading

Option = Literal[
    "delimiter", "decimal", "encoding", "skip", "header", "sheet", "sheets", "table", "query",
    "codebook",
]  # fmt: skip
AUTO = Reading("auto", "auto", "auto")


@dataclass(frozen=True)
class Asked:
    """How a file is to be read; a kind heeds what is among its options.

    reading : "auto" in any part has it found; sheet : of a workbook, the first by default; table,
    query : of a database, one of the two; codebook : name, in `folder`, of a file that gives the
    positions of columns.
    """

    reading: Reading = AUTO
    sheet: str | None = None
    table: str | None = None
    query: str | None = None
    codebook: str | None = None
    folder: Path = field(default_factory=Path)


class Content(NamedTuple):
    """What a file holds. frame : columns of stripped text by name; reading : as it was read."""

    frame: pl.DataFrame
    reading: Reading
    cautions: tuple[Caution, ...] = ()


Rows = tuple[Iterator[list[str]], Reading]
Beginning = tuple[Sequence[Sequence[str]], bool]  # rows of cells, and whether there are no others


@dataclass(frozen=True)
class FileKind:
    """One kind of file.

    name : in lists of files, in the plural; endings : of names, with their dot; options : keys of
    [source] that choose something of it; one_of : those of which exactly one has to be chosen;
    unchosen : what is said where none is, found and expected.

    read : everything; names : sheets or tables of which one is chosen; begun : keys of [source]
    for a file that nobody has described; head : the first rows, without reading all; rows, first :
    all rows and those at the beginning, without a header, of a kind that may hold a matrix.

    packed : may it be compressed, with .gz behind its ending?
    """

    name: str
    endings: tuple[str, ...]
    options: frozenset[Option]
    read: Callable[[Path, Asked, Progress], Content]
    one_of: tuple[Option, ...] = ()
    unchosen: tuple[str, str] = ("", "")
    names: Callable[[Path], list[str]] = field(default=lambda path: [])
    begun: Callable[[Path], dict[str, Any]] = field(default=lambda path: {})
    head: Callable[[Path, Reading, int], Content] | None = None
    rows: Callable[[Path, Asked], Rows] | None = None
    first: Callable[[Path], Beginning] | None = None
    packed: bool = False
