"""Tables of one form below each other, and columns of another one beside them."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import polars as pl
from polars.selectors import by_name

from gorvel.core.base.errors import Caution, InputError
from gorvel.core.base.numbers import counted
from gorvel.core.table.table import Table

_NAMED = 6  # columns that a caution names


def stacked(parts: Sequence[tuple[str, Table]], marker: str) -> Table:
    """The rows of all parts in their order; the last column, `marker`, says where one is from.

    A column that not all parts have is empty elsewhere, with a caution.

    parts : each with its name; marker : "sheet" or "file".

    Raises
    ------
    InputError : no column in common, a column called like the marker, other decimal marks.
    """
    (first, table), *others = parts
    common = set(table.names).intersection(*(other.names for _, other in others))
    for name, other in others:
        if not set(table.names) & set(other.names):
            raise InputError(
                f"no column in common with {first}", f"columns such as {table.names[0]}",
                place=f"{marker} {name}",
            )  # fmt: skip
        if other.reading.decimal != table.reading.decimal:
            raise InputError(
                f'the decimal mark "{other.reading.decimal}"',
                f'"{table.reading.decimal}", as in {first} (or [source] decimal)',
                place=f"{marker} {name}",
            )
    for name, part in parts:
        if marker in part.names:
            found = f'a column "{marker}"'
            expected = f'another name: "{marker}" will say where a row is from'
            raise InputError(found, expected, place=f"{marker} {name}")
    frames = [
        part.frame.with_columns(pl.lit(name, dtype=pl.String).alias(marker)) for name, part in parts
    ]
    whole = pl.concat(frames, how="diagonal")
    names = [name for name in whole.columns if name != marker]
    partial = [name for name in names if name not in common]
    return replace(
        table, frame=whole[[*names, marker]],
        cautions=(*_told_of(parts), *_partial(partial, len(parts), marker)),
    )  # fmt: skip


def _told_of(parts: Sequence[tuple[str, Table]]) -> list[Caution]:
    """What was to be known of each part, with its name."""
    return [
        Caution(caution.code, f"{name}: {caution.text}")
        for name, part in parts
        for caution in part.cautions
    ]


def _partial(names: Sequence[str], parts: int, marker: str) -> list[Caution]:
    if not names:
        return []
    shown = ", ".join(names[:_NAMED]) + (" and others" if len(names) > _NAMED else "")
    have = "is" if len(names) == 1 else "are"
    text = (
        f"{counted(len(names), 'column')} {have} not in all {parts} {marker}s, and empty in the"
        f" others: {shown}."
    )
    return [Caution("stacked-gaps", text)]


def joined(table: Table, other: Table, by: str, name: str) -> Table:
    """The table with the columns of another one beside, where a key is the same in both.

    Rows stay as they are; one without partner has gaps there, counted in a caution.

    by : the key column of both; name : of the other file.

    Raises
    ------
    InputError : a key column that is not there, a key that stands twice in the other table, a
        column that the first one has, too.
    """
    place = f"[[source.join]] {name}"
    for whose, names in ((table.name, table.names), (name, other.names)):
        if by not in names:
            raise InputError(f'no column "{by}" in {whose}', "a key column of both", place=place)
    key = other.series(by)
    keys = key.drop_nulls()
    twice = keys.filter(keys.is_duplicated())
    if len(twice):
        rows = (key == twice[0]).fill_null(False).arg_true().to_list()
        found = f'the key "{twice[0]}" in rows {", ".join(str(row + 1) for row in rows[:5])}'
        raise InputError(found, f"each {by} once", place=place)
    taken = [column for column in other.names if column in table.names and column != by]
    if taken:
        raise InputError(f'the column "{taken[0]}", which is there already', "another name",
                         place=place)  # fmt: skip
    beside = other.frame.filter(key.is_not_null())
    frame = table.frame.join(beside, on=by_name(by), how="left", maintain_order="left")
    alone = int((~table.series(by).is_in(keys.implode())).fill_null(True).sum())
    cautions = (*table.cautions, *_told_of([(name, other)]))
    if alone:
        words = "case has" if alone == 1 else "cases have"
        text = f"{alone:,} {words} no partner in {name} (by {by}): missing answers in its columns."
        cautions = (*cautions, Caution("joined-gaps", text))
    return replace(table, frame=frame, cautions=cautions)
