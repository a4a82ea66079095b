"""Spreadsheets with formulas: cells described once, written as XLSX or as ODS.

XLSX by a library; ODS (OpenDocument 1.3, formulas of part 4) by hand, as the few elements it needs.
"""

from __future__ import annotations

import zipfile
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Literal
from xml.sax.saxutils import escape, quoteattr

from gorvel.core.base.errors import InputError
from gorvel.core.base.writing import replacing
from gorvel.core.export.workbooks import workbook

BOOKS = (".xlsx", ".ods")
Look = Literal["plain", "bold", "soft", "share"]


@dataclass(frozen=True)
class Formula:
    """A formula of a spreadsheet.

    words : with references such as {B5:F5} or {Rule!$B$3} in braces and ; between arguments; value
    : what it comes to, as written.
    """

    words: str
    value: str | float = ""


@dataclass(frozen=True)
class Cell:
    """value : None for an empty one."""

    value: str | float | Formula | None = None
    look: Look = "plain"


Sheet = Sequence[Sequence[Cell]]


def write_book(sheets: Mapping[str, Sheet], path: Path, still: tuple[int, int] = (0, 0)) -> None:
    """Write rows of cells by name of sheet, as the type of the file says, whole or not at all.

    still : rows and columns of the first sheet that stay in sight.

    Raises
    ------
    InputError : another file type, or a place that cannot be written.
    """
    kind = path.suffix.lower()
    if kind not in BOOKS:
        raise InputError(f'the file type "{path.suffix}"', " or ".join(BOOKS), file=str(path))
    with replacing(path) as part:
        if kind == ".xlsx":
            _write_xlsx(sheets, part, still)
        else:
            _write_ods(sheets, part)


def _write_xlsx(sheets: Mapping[str, Sheet], part: Path, still: tuple[int, int]) -> None:
    book = workbook(part)
    looks = {
        "bold": book.add_format({"bold": True}),
        "soft": book.add_format({"font_color": "#5D6B76"}),
        "share": book.add_format({"num_format": "0%"}),
        "plain": None,
    }
    for name, rows in sheets.items():
        sheet = book.add_worksheet(name)
        sheet.set_column(0, 0, 22)
        sheet.set_column(1, 60, 13)
        if book.worksheets()[0] is sheet:
            sheet.freeze_panes(*still)
        for r, row in enumerate(rows):
            for c, cell in enumerate(row):
                value, look = cell.value, looks[cell.look]
                if isinstance(value, Formula):
                    words = value.words.replace(";", ",").replace("{", "").replace("}", "")
                    sheet.write_formula(r, c, "=" + words, look, value.value)
                elif isinstance(value, str):
                    sheet.write_string(r, c, value, look)
                elif value is not None:
                    sheet.write_number(r, c, value, look)
    book.close()


_NAMES = {
    "office": "urn:oasis:names:tc:opendocument:xmlns:office:1.0",
    "table": "urn:oasis:names:tc:opendocument:xmlns:table:1.0",
    "text": "urn:oasis:names:tc:opendocument:xmlns:text:1.0",
    "style": "urn:oasis:names:tc:opendocument:xmlns:style:1.0",
    "number": "urn:oasis:names:tc:opendocument:xmlns:datastyle:1.0",
    "fo": "urn:oasis:names:tc:opendocument:xmlns:xsl-fo-compatible:1.0",
    "of": "urn:oasis:names:tc:opendocument:xmlns:of:1.2",
}
_STYLES = (
    '<number:percentage-style style:name="n1"><number:number number:decimal-places="0"'
    ' number:min-integer-digits="1"/><number:text>%</number:text></number:percentage-style>'
    '<style:style style:name="bold" style:family="table-cell"><style:text-properties'
    ' fo:font-weight="bold"/></style:style><style:style style:name="soft"'
    ' style:family="table-cell"><style:text-properties fo:color="#5D6B76"/></style:style>'
    '<style:style style:name="share" style:family="table-cell" style:data-style-name="n1"/>'
)
_KIND = "application/vnd.oasis.opendocument.spreadsheet"


def _write_ods(sheets: Mapping[str, Sheet], part: Path) -> None:
    names = " ".join(f'xmlns:{short}="{long}"' for short, long in _NAMES.items())
    tables = "".join(_ods_table(name, rows) for name, rows in sheets.items())
    content = (
        f'<?xml version="1.0" encoding="UTF-8"?><office:document-content {names}'
        f' office:version="1.3"><office:automatic-styles>{_STYLES}</office:automatic-styles>'
        f"<office:body><office:spreadsheet>{tables}</office:spreadsheet></office:body>"
        "</office:document-content>"
    )
    listed = "urn:oasis:names:tc:opendocument:xmlns:manifest:1.0"
    manifest = (
        f'<?xml version="1.0" encoding="UTF-8"?><manifest:manifest xmlns:manifest="{listed}"'
        f' manifest:version="1.3"><manifest:file-entry manifest:full-path="/"'
        f' manifest:version="1.3" manifest:media-type="{_KIND}"/><manifest:file-entry'
        ' manifest:full-path="content.xml" manifest:media-type="text/xml"/></manifest:manifest>'
    )
    with zipfile.ZipFile(part, "w", zipfile.ZIP_DEFLATED) as book:
        book.writestr("mimetype", _KIND, zipfile.ZIP_STORED)  # first, and as it is
        book.writestr("content.xml", content)
        book.writestr("META-INF/manifest.xml", manifest)


def _ods_table(name: str, rows: Sheet) -> str:
    out = [f"<table:table table:name={quoteattr(name)}>"]
    out += [f"<table:table-row>{''.join(map(_ods_cell, row))}</table:table-row>" for row in rows]
    return "".join(out) + "</table:table>"


def _ods_cell(cell: Cell) -> str:
    value, formula = cell.value, ""
    if value is None:
        return "<table:table-cell/>"
    look = "" if cell.look == "plain" else f' table:style-name="{cell.look}"'
    if isinstance(value, Formula):
        formula, value = f" table:formula={quoteattr('of:=' + _of(value.words))}", value.value
    if isinstance(value, str):
        kind = f' office:value-type="string"><text:p>{escape(value)}</text:p>'
        return f"<table:table-cell{look}{formula}{kind}</table:table-cell>"
    kind = f' office:value-type="float" office:value="{float(value)!r}"/>'
    return f"<table:table-cell{look}{formula}{kind}"


def _of(words: str) -> str:
    """References as OpenFormula writes them: [.B5], [.B5:.C5], [$Rule.$B$3]."""
    out, rest = "", words
    while "{" in rest:
        before, rest = rest.split("{", 1)
        reference, rest = rest.split("}", 1)
        sheet, _, place = reference.rpartition("!")
        first, _, last = place.partition(":")
        start = f"${sheet}.{first}" if sheet else f".{first}"
        out += before + f"[{start}{f':.{last}' if last else ''}]"
    return out + rest
