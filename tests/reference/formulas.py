"""The formulas of a spreadsheet, worked out one by one from the file as it was written."""

from __future__ import annotations

import re
import zipfile
from collections.abc import Callable
from pathlib import Path
from xml.etree import ElementTree

import numpy as np

Values = dict[tuple[str, str], object]  # by sheet and cell, such as ("Rule", "B3")
Formulas = dict[tuple[str, str], str]


def read_book(path: Path) -> tuple[Values, Formulas]:
    """What stands in the cells, and their formulas as XLSX writes them."""
    return _read_ods(path) if path.suffix == ".ods" else _read_xlsx(path)


def _read_xlsx(path: Path) -> tuple[Values, Formulas]:
    main = "{http://schemas.openxmlformats.org/spreadsheetml/2006/main}"
    values: Values = {}
    formulas: Formulas = {}
    with zipfile.ZipFile(path) as book:
        shared = [
            "".join(part.itertext())
            for part in ElementTree.fromstring(book.read("xl/sharedStrings.xml"))
        ]
        sheets = ElementTree.fromstring(book.read("xl/workbook.xml")).find(f"{main}sheets")
        assert sheets is not None
        for number, sheet in enumerate(sheets, 1):
            name = sheet.attrib["name"]
            inside = ElementTree.fromstring(book.read(f"xl/worksheets/sheet{number}.xml"))
            for cell in inside.iter(f"{main}c"):
                key = name, cell.attrib["r"]
                formula, value = cell.find(f"{main}f"), cell.find(f"{main}v")
                words = "" if value is None or value.text is None else value.text
                kind = cell.attrib.get("t")
                values[key] = shared[int(words)] if kind == "s" else (
                    words if kind == "str" else float(words) if words else None
                )  # fmt: skip
                if formula is not None:
                    formulas[key] = str(formula.text)
    return values, formulas


def _read_ods(path: Path) -> tuple[Values, Formulas]:
    table = "{urn:oasis:names:tc:opendocument:xmlns:table:1.0}"
    office = "{urn:oasis:names:tc:opendocument:xmlns:office:1.0}"
    values: Values = {}
    formulas: Formulas = {}
    with zipfile.ZipFile(path) as book:
        assert book.namelist()[0] == "mimetype"
        content = ElementTree.fromstring(book.read("content.xml"))
    for sheet in content.iter(f"{table}table"):
        name = sheet.attrib[f"{table}name"]
        for row, cells in enumerate(sheet.iter(f"{table}table-row"), 1):
            for column, cell in enumerate(cells):
                key = name, f"{_letters(column)}{row}"
                number = cell.attrib.get(f"{office}value")
                words = "".join(cell.itertext())
                values[key] = float(number) if number is not None else words or None
                formula = cell.attrib.get(f"{table}formula")
                if formula is not None:
                    assert formula.startswith("of:=")
                    formulas[key] = _plain(formula[4:])
    return values, formulas


def _plain(formula: str) -> str:
    """As XLSX writes it."""

    def reference(found: re.Match[str]) -> str:
        first, _, last = found.group(1).partition(":")
        sheet, _, place = first.rpartition(".")
        start = f"{sheet.lstrip('$')}!{place}" if sheet else place
        return start + (f":{last.lstrip('.')}" if last else "")

    return re.sub(r"\[([^\]]+)\]", reference, formula).replace(";", ",")


def _letters(column: int) -> str:
    out = ""
    while column >= 0:
        out, column = chr(65 + column % 26) + out, column // 26 - 1
    return out


class _Blank:
    """An empty cell: the empty text, and no number, which both branches of a choice may ask for."""

    __hash__ = None  # type: ignore[assignment]

    def __eq__(self, other: object) -> bool:
        return other == "" or isinstance(other, _Blank)

    def __sub__(self, other: float) -> float:
        return float("nan")


def worked_out(values: Values, formulas: Formulas, sheet: str, cell: str) -> object:
    """What the formula of a cell comes to, from the cells that it names and theirs."""
    formula = formulas.get((sheet, cell))
    if formula is None:
        return values.get((sheet, cell))

    def one(name: str) -> object:
        place, _, at = name.rpartition("!")
        found = worked_out(values, formulas, place or sheet, at.replace("$", ""))
        return _Blank() if found is None else found

    def some(first: str, last: str) -> np.ndarray:
        place, _, start = first.rpartition("!")
        low, high = (re.sub(r"\d", "", at.replace("$", "")) for at in (start, last))
        row = re.sub(r"\D", "", start)
        columns = [_letters(k) for k in range(_number(low), _number(high) + 1)]
        found = [worked_out(values, formulas, place or sheet, f"{at}{row}") for at in columns]
        return np.array(found, dtype=object)

    words = re.findall(r'"(?:[^"]|"")*"', formula)
    bare = re.sub(r'"(?:[^"]|"")*"', "\0", formula)
    bare = re.sub(
        r"((?:\w+!)?\$?[A-Z]{1,2}\$?\d+)(?::(\$?[A-Z]{1,2}\$?\d+))?",
        lambda m: f"some({m[1]!r}, {m[2]!r})" if m[2] else f"one({m[1]!r})",
        bare,
    )
    bare = bare.replace("=", "==").replace("\0", "{}")
    texts = [repr(word[1:-1].replace('""', '"')) for word in words]
    return eval(bare.format(*texts), {"one": one, "some": some} | _FUNCTIONS)


def _number(name: str) -> int:
    out = 0
    for letter in name:
        out = out * 26 + ord(letter) - 64
    return out - 1


_FUNCTIONS: dict[str, Callable[..., object]] = {
    "IF": lambda test, yes, no: yes if test else no,
    "ISNUMBER": lambda cell: isinstance(cell, float | int),
    "LOWER": lambda cell: "" if cell == "" else str(cell).lower(),
    "COUNTA": lambda cells: sum(cell is not None for cell in cells),
    "INDEX": lambda cells, row, column: cells[int(column) - 1],
    "MATCH": lambda value, cells, kind: list(cells).index(value) + 1,
    "MAX": lambda cells: max(cells),
    "EXP": lambda cells: np.exp(np.asarray(cells, dtype=np.float64)),
    "SUMPRODUCT": lambda cells: float(np.sum(cells)),
}
