"""How it is known whether data that stand elsewhere are still those that a tree was grown of."""

from __future__ import annotations

from hashlib import sha256
from weakref import WeakKeyDictionary

import polars as pl

from gorvel.core.table.source import Source
from gorvel.core.table.table import Table

_marks: WeakKeyDictionary[Source, str] = WeakKeyDictionary()


def mark_of(source: Source) -> str:
    """Another one as soon as a name, an answer or the order of the cases is.

    With the version of the library that made it, which makes others of the same data in another
    version.
    """
    if source not in _marks:
        mark = sha256()
        if isinstance(source, Table):
            mark.update(repr(source.names).encode("utf-8", "surrogatepass"))
            mark.update(source.frame.hash_rows(seed=0).to_numpy().tobytes())
        else:
            mark.update(repr(source.labels).encode("utf-8", "surrogatepass"))
            mark.update(source.values.tobytes())
        _marks[source] = f"{pl.__version__}-{mark.hexdigest()[:32]}"
    return _marks[source]


def are_others(source: Source, mark: str | None) -> bool:
    """Are these other data than those of a mark? As far as that can be known."""
    if mark is None or mark.rpartition("-")[0] != pl.__version__:
        return False
    return mark != mark_of(source)
