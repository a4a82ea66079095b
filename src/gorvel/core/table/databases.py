"""SQLite files: a table, or the answer to a query. Nothing is ever written to them."""

from __future__ import annotations

import difflib
import sqlite3
from pathlib import Path
from urllib.parse import quote

import polars as pl

from gorvel.core.base.errors import InputError
from gorvel.core.base.progress import Phase, Progress, silent
from gorvel.core.base.reading import guarded, open_to_read

_BATCH = 20_000  # rows between two reports
_ALLOWED = {
    sqlite3.SQLITE_SELECT, sqlite3.SQLITE_READ, sqlite3.SQLITE_FUNCTION, sqlite3.SQLITE_RECURSIVE,
}  # fmt: skip
_KINDS: tuple[type, ...] = (str, int, float, type(None))


def _opened(path: Path) -> sqlite3.Connection:
    """A connection that can only read.

    A database that nobody is writing to is opened as unchangeable, so that no file appears beside.
    """
    if not path.exists():
        raise InputError("file not found", f"a database at {path}")
    with guarded(path.name, "an SQLite file"), open_to_read(path):
        pass  # it is a file on the disk
    log = path.with_name(f"{path.name}-wal")
    busy = log.exists() and log.stat().st_size > 0
    place = f"file:{quote(str(path.absolute()))}?mode=ro{'' if busy else '&immutable=1'}"
    try:
        return sqlite3.connect(place, uri=True)
    except sqlite3.Error as error:
        raise InputError(f"a database that cannot be opened ({error})", "an SQLite file") from error


def tables_of(path: Path) -> list[str]:
    """The tables and views of a database, in the order in which they were made.

    Raises
    ------
    InputError : no such file, or no SQLite database.
    """
    connection = _opened(path)
    try:
        found = connection.execute(
            "select name from sqlite_master where type in ('table', 'view')"
            " and name not like 'sqlite_%' order by rowid"
        )
        return [str(name) for (name,) in found]
    except sqlite3.Error as error:
        raise InputError(f"no database that can be read ({error})", "an SQLite file") from error
    finally:
        connection.close()


def database_frame(
    path: Path, table: str | None, query: str | None, progress: Progress = silent
) -> pl.DataFrame:
    """All rows of a table, or of a query's answer, as text by column; no value is null.

    table, query : one of the two.

    Raises
    ------
    InputError : no such file or table, a query that is no single reading statement or fails, a
        cell that is no text or number; names it.
    """
    if table is not None:
        names = tables_of(path)
        if table not in names:
            near = difflib.get_close_matches(table, names, n=1, cutoff=0.0)
            expected = f'a table (nearest: "{near[0]}")' if near else "a database with tables"
            raise InputError(f'no table "{table}"', expected, place="[source] table")
        quoted = table.replace('"', '""')
        query = f'select * from "{quoted}"'
    connection = _opened(path)
    try:
        connection.set_authorizer(
            lambda act, *_: sqlite3.SQLITE_OK if act in _ALLOWED else sqlite3.SQLITE_DENY
        )
        return _answer(connection, query or "", progress)
    except (sqlite3.Error, sqlite3.Warning) as error:
        where = "[source] table" if table is not None else "[source] query"
        found = f"a query that fails ({error})"
        if "not authorized" in str(error) or "authorization" in str(error):
            found = "a query that does more than read"
        raise InputError(found, "one statement that reads", place=where) from error
    finally:
        connection.close()


def _answer(connection: sqlite3.Connection, query: str, progress: Progress) -> pl.DataFrame:
    cursor = connection.execute(query)
    if cursor.description is None:
        place = "[source] query"
        raise InputError("a query that gives no columns", "one statement that reads", place=place)
    names = [str(column[0]) for column in cursor.description]
    columns: list[list[str | None]] = [[] for _ in names]
    while rows := cursor.fetchmany(_BATCH):
        for row in rows:
            for column, cell in zip(columns, row, strict=True):
                if not isinstance(cell, _KINDS):
                    place = f'row {len(column) + 1}, column "{names[columns.index(column)]}"'
                    raise InputError("a cell of bytes", "numbers or text", place=place)
                column.append(_text(cell))
        progress(Phase.READING, 0.5)
    return pl.DataFrame(
        [pl.Series(str(k), cells, dtype=pl.String) for k, cells in enumerate(columns)]
    ).rename(dict(zip(map(str, range(len(names))), _apart(names), strict=True)))


def _apart(names: list[str]) -> list[str]:
    """The names, where each is another."""
    for name in names:
        if names.count(name) > 1:
            found = f'the column name "{name}" more than once'
            raise InputError(found, "a name of its own for each column", place="[source] query")
    return names


def _text(cell: object) -> str | None:
    if cell is None:
        return None
    if isinstance(cell, float) and cell.is_integer() and abs(cell) < 1e15:
        return str(int(cell))
    return str(cell)
