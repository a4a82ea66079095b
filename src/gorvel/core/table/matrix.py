"""A matrix of proximities read from a file: square or lower-triangular, with labels."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from gorvel.core.base.errors import InputError
from gorvel.core.base.numbers import wanted_number
from gorvel.core.table.reading import read_rows
from gorvel.core.table.table import Reading, parse_number

_SYMMETRY = 1e-9  # relative


@dataclass(frozen=True, eq=False)
class ProximityTable:
    """Proximities as read, already turned into distances.

    name : the file's name; labels : n; values : (n, n), symmetric, zero diagonal, smaller is more
    alike; reading : how the file was read; similarity : the file held similarities.
    """

    name: str
    labels: tuple[str, ...]
    values: NDArray[np.float64]
    reading: Reading
    similarity: bool = False

    @property
    def n(self) -> int:
        return len(self.labels)


def read_matrix(
    path: Path,
    asked: Reading | None = None,
    similarity: bool | None = False,
    sheet: str | None = None,
) -> ProximityTable:
    """Read labels and proximities.

    First row: any cell, then n labels; then n rows of a label and n cells. Cells above the
    diagonal may all be empty; so may the diagonal. Similarities s become M - s, M the largest;
    similarity : None to tell them by a diagonal that holds something else than 0.

    Raises
    ------
    InputError : not square, labels that differ, a cell that is no number or is missing, a matrix
        that is not symmetric (relative 1e-9), a negative distance; names the row and the column.
    """
    rows, reading = read_rows(path, asked, sheet)
    try:
        labels = _labels(rows)
        values = _cells(rows, labels, reading.decimal)
        values = _symmetric(values, labels)
        if similarity is None:
            diagonal = np.diag(values)
            similarity = bool(np.any(diagonal[~np.isnan(diagonal)] != 0))
        values = _distances(values, labels, similarity)
    except InputError as error:
        raise error.in_file(path.name) from None
    return ProximityTable(path.name, labels, values, reading, similarity)


def _labels(rows: list[list[str]]) -> tuple[str, ...]:
    if len(rows) < 2:
        raise InputError("no matrix", "a row of labels, then a row for each case")
    labels = rows[0][1:]
    while labels and not labels[-1]:
        labels = labels[:-1]
    if len(rows) - 1 != len(labels):
        raise InputError(
            f"{len(labels)} labels in the first row and {len(rows) - 1} rows below it",
            "a square matrix",
            place="first row",
        )
    for place, (row, label) in enumerate(zip(rows[1:], labels, strict=True), 1):
        if row[0] != label:
            found = f'the label "{row[0]}"'
            raise InputError(found, f'"{label}", as in the first row', place=f"row {place}")
    return tuple(labels)


def _where(row: int, column: int, labels: tuple[str, ...]) -> str:
    return f'row {row + 1} ("{labels[row]}"), column "{labels[column]}"'


def _cells(rows: list[list[str]], labels: tuple[str, ...], decimal: str) -> NDArray[np.float64]:
    n = len(labels)
    values = np.full((n, n), np.nan)
    for i, row in enumerate(rows[1:]):
        cells = row[1:]
        if any(cells[n:]):
            raise InputError(f"{len(cells)} cells", f"{n}", place=f'row {i + 1} ("{labels[i]}")')
        for j, cell in enumerate(cells[:n]):
            if not cell:
                continue
            value = parse_number(cell, decimal)
            if not np.isfinite(value):
                raise InputError(f'"{cell}"', wanted_number(cell), place=_where(i, j, labels))
            values[i, j] = value
    return values


def _symmetric(values: NDArray[np.float64], labels: tuple[str, ...]) -> NDArray[np.float64]:
    n = len(labels)
    above = np.triu_indices(n, 1)
    if np.isnan(values[above]).all():
        values[above] = values.T[above]
    gaps = np.argwhere(np.isnan(values) & ~np.eye(n, dtype=bool))
    if gaps.size:
        i, j = (int(k) for k in gaps[0])
        raise InputError("an empty cell", "a number", place=_where(i, j, labels))
    gap = np.abs(values - values.T)
    size = np.maximum(np.abs(values), np.abs(values.T))
    uneven = np.argwhere(gap > _SYMMETRY * size)
    if uneven.size:
        i, j = (int(k) for k in uneven[0])
        found = f"{values[i, j]:g}, and {values[j, i]:g} on the other side of the diagonal"
        raise InputError(found, "a symmetric matrix", place=_where(i, j, labels))
    below = np.tril_indices(n, -1)
    values.T[below] = values[below]
    return values


def _distances(
    values: NDArray[np.float64], labels: tuple[str, ...], similarity: bool
) -> NDArray[np.float64]:
    n = len(labels)
    diagonal = np.diag(values).copy()
    if similarity:
        largest = np.nanmax(values) if np.isfinite(values).any() else 0.0
        off = np.flatnonzero(~np.isnan(diagonal) & (diagonal != largest))
        if off.size:
            i = int(off[0])
            found = f"{diagonal[i]:g} on the diagonal"
            expected = f"{largest:g}, the largest similarity, or nothing"
            raise InputError(found, expected, place=_where(i, i, labels))
        values = largest - values
    else:
        off = np.flatnonzero(~np.isnan(diagonal) & (diagonal != 0))
        if off.size:
            i = int(off[0])
            expected = "0 or nothing; similarities need similarity = true"
            found = f"{diagonal[i]:g} on the diagonal"
            raise InputError(found, expected, place=_where(i, i, labels))
    np.fill_diagonal(values, 0.0)
    if n and values.min() < 0:
        i, j = (int(k) for k in np.argwhere(values < 0)[0])
        raise InputError(f"{values[i, j]:g}", "a distance of 0 or more", place=_where(i, j, labels))
    return values
