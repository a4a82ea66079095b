"""The table of a result: what is shown, copied and saved."""

from __future__ import annotations

import html
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from gorvel.core.base.numbers import number

Cell = str | int | float | None


@dataclass(frozen=True)
class ResultTable:
    """A table with heads.

    Numbers keep all their figures where a spreadsheet takes them from the clipboard; in a file they
    have six, and for word processors as many as on the screen.
    """

    heads: Sequence[str]
    rows: Sequence[Sequence[Cell]]

    @classmethod
    def of(cls, columns: Mapping[str, Any]) -> ResultTable:
        """From columns of one length, by head: lists, arrays or series."""
        plain = [c.tolist() if isinstance(c, np.ndarray) else list(c) for c in columns.values()]
        return cls(tuple(columns), list(zip(*plain, strict=True)))

    def tsv(self) -> str:
        """Tab-separated lines, as spreadsheets take them."""
        lines = [self.heads, *self.rows]
        return "\n".join("\t".join(_plain(cell) for cell in line) for line in lines) + "\n"

    def html(self) -> str:
        """A table for word processors."""

        def line(cells: Iterable[Cell], tag: str) -> str:
            return "".join(f"<{tag}>{html.escape(_read(cell))}</{tag}>" for cell in cells)

        body = "".join(f"<tr>{line(row, 'td')}</tr>" for row in self.rows)
        return f"<table><tr>{line(self.heads, 'th')}</tr>{body}</table>"


def _plain(cell: Cell) -> str:
    if cell is None or (isinstance(cell, float) and np.isnan(cell)):
        return ""
    return str(cell).replace("\t", " ").replace("\n", " ")


def _read(cell: Cell) -> str:
    """As it stands in a text."""
    known = isinstance(cell, float) and not np.isnan(cell)
    return number(float(cell)) if known else _plain(cell)  # type: ignore[arg-type]
