"""Cells of a workbook that hold an error (`#N/A`, `#DIV/0!`) in the place of a value."""

from __future__ import annotations

import io
import posixpath
import xml.etree.ElementTree as xml
import zipfile
from collections.abc import Iterator
from typing import NamedTuple

from gorvel.core.base.errors import InputError
from gorvel.core.base.numbers import letters
from gorvel.core.base.reading import guarded

_PIECE = 1 << 20  # bytes of a part that are looked at before it is read
_LONGEST = 64  # characters of an error


class ErrorCell(NamedTuple):
    """One cell: where it stands, as in "D17", and what stands there."""

    place: str
    error: str


def error_cells(data: bytes, sheet: str) -> list[ErrorCell]:
    """The cells of one sheet that hold an error, from the top, each row from the left.

    data : an XLSX or ODS file. Files that are not as the formats say have none that are found.
    """
    try:
        with guarded("", "a workbook"), zipfile.ZipFile(io.BytesIO(data)) as archive:
            if "content.xml" in archive.namelist():
                return list(_of_ods(archive, sheet))
            return list(_of_xlsx(archive, sheet))
    except InputError:
        return []


def _local(tag: str) -> str:
    """A name without its name space."""
    return tag.rpartition("}")[2]


def _named(element: xml.Element, name: str) -> str | None:
    """An attribute, whichever name space it is of."""
    return next((value for key, value in element.items() if _local(key) == name), None)


def _holds(archive: zipfile.ZipFile, part: str, *sought: bytes) -> bool:
    """Whether a part holds one of some short words: far faster than to read it."""
    with archive.open(part) as file:
        end = b""
        while piece := file.read(_PIECE):
            if any(word in end + piece for word in sought):
                return True
            end = piece[-max(map(len, sought)) :]
    return False


def _of_xlsx(archive: zipfile.ZipFile, sheet: str) -> Iterator[ErrorCell]:
    part = _part_of(archive, sheet)
    if not _holds(archive, part, b't="e"', b"t='e'"):
        return
    with archive.open(part) as file:
        for _, element in xml.iterparse(file):
            name = _local(element.tag)
            if name == "c" and element.get("t") == "e":
                value = next((one.text for one in element if _local(one.tag) == "v"), None)
                yield ErrorCell(element.get("r") or "?", (value or "?")[:_LONGEST])
            if name == "row":
                element.clear()


def _part_of(archive: zipfile.ZipFile, sheet: str) -> str:
    """Where the cells of a sheet are kept.

    Raises
    ------
    KeyError : nowhere.
    """
    book = xml.fromstring(archive.read("xl/workbook.xml"))
    known = {
        _named(element, "name"): _named(element, "id")
        for element in book.iter()
        if _local(element.tag) == "sheet"
    }
    parts = xml.fromstring(archive.read("xl/_rels/workbook.xml.rels"))
    targets = {_named(element, "Id"): _named(element, "Target") for element in parts.iter()}
    target = targets[known[sheet]] or ""
    return posixpath.normpath(posixpath.join("/xl", target)).lstrip("/")


def _of_ods(archive: zipfile.ZipFile, sheet: str) -> Iterator[ErrorCell]:
    if not _holds(archive, "content.xml", b'value-type="error"', b"value-type='error'"):
        return
    row, here = 0, False
    with archive.open("content.xml") as file:
        for event, element in xml.iterparse(file, ("start", "end")):
            name = _local(element.tag)
            if name == "table":
                row, here = 0, event == "start" and _named(element, "name") == sheet
            elif name == "table-row" and event == "end":
                if here:
                    yield from _of_row(element, row)
                row += int(_named(element, "number-rows-repeated") or 1)
                element.clear()


def _of_row(cells: xml.Element, row: int) -> Iterator[ErrorCell]:
    column = 0
    for cell in cells:
        if "error" in (value for key, value in cell.items() if _local(key) == "value-type"):
            said = "".join(cell.itertext()).strip()
            yield ErrorCell(f"{letters(column + 1)}{row + 1}", (said or "?")[:_LONGEST])
        column += int(_named(cell, "number-columns-repeated") or 1)
