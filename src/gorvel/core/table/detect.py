"""Finding out how a text table was written: encoding, delimiter, decimal mark."""

from __future__ import annotations

import codecs
import csv
import io
import re

import polars as pl

from gorvel.core.base.errors import InputError

DELIMITERS = {",": ",", ";": ";", "tab": "\t", "|": "|", "space": " "}  # as in plan files

csv.field_size_limit(1 << 30)  # a long answer is no error

_MARKS = [
    (codecs.BOM_UTF8, "utf-8"),
    (codecs.BOM_UTF32_LE, "utf-32"),
    (codecs.BOM_UTF32_BE, "utf-32"),
    (codecs.BOM_UTF16_LE, "utf-16"),
    (codecs.BOM_UTF16_BE, "utf-16"),
]
_START = 1 << 14  # bytes of which the first 4,096 characters are made
_HEAD = 1 << 18  # bytes that a guess is made from
_PIECE = 1 << 24  # bytes, and the rest of a line, looked at together
_LONGEST = 1 << 16  # characters of the lines that a delimiter is found from
_LOOKED_AT = 200  # lines or cells that a guess is made from
_BY_CHANCE = 0.1  # of letters in another encoding, that may look like those of UTF-8
_COMMA_NUMBER = r"^[+-]?\d+,\d+([eE][+-]?\d+)?$"
_POINT_NUMBER = r"^[+-]?\d*\.\d+([eE][+-]?\d+)?$"
_BEYOND_ASCII = bytes(range(128, 256))
_TRAILING = re.compile(r" +$", re.MULTILINE)
_CONTROLS = re.compile(r"[\x00-\x08\x0e-\x1a\x1c-\x1f\x7f]")


def _guess_encoding(data: bytes) -> str:
    for mark, name in _MARKS:
        if data.startswith(mark):
            return name
    start = data[:4096]
    if start[1::2].count(0) > len(start) // 4 and not start[0::2].count(0):
        return "utf-16-le"
    if start[0::2].count(0) > len(start) // 4 and not start[1::2].count(0):
        return "utf-16-be"
    return "utf-8" if _is_utf8(data) else "cp1252"


def _is_utf8(data: bytes) -> bool:
    """Are all bytes beyond ASCII parts of characters? The table library looks fastest."""
    at = 0
    while at < len(data):
        end = data.find(b"\n", at + _PIECE) + 1 or len(data)
        try:
            pl.Series([data[at:end]], dtype=pl.Binary).cast(pl.String)
        except pl.exceptions.PolarsError:
            return False
        at = end
    return True


def as_utf8(data: bytes, encoding: str = "auto") -> tuple[bytes, str]:
    """Turn the bytes of a text file into UTF-8 with plain line ends and no byte order mark.

    Returns
    -------
    The bytes, and the name of the encoding they had.

    Raises
    ------
    InputError : the encoding is unknown or does not fit, or the bytes are not text at all.
    """
    name = _guess_encoding(data) if encoding == "auto" else encoding
    if name == "utf-8" and encoding == "auto" and not data.startswith(codecs.BOM_UTF8):
        return _checked(data, data[:_START].decode("utf-8", "ignore")), name
    try:
        text = data.decode(name)
    except LookupError as error:
        raise _no_encoding(encoding) from error
    except UnicodeDecodeError as error:
        if encoding != "auto" or name != "cp1252":
            line = data.count(b"\n", 0, error.start) + 1
            raise InputError(
                f"bytes that are not {name}", "another encoding", place=f"line {line}"
            ) from error
        name, text = "latin-1", data.decode("latin-1")
    except ValueError as error:  # such as of encodings of names, or a name with a zero in it
        raise _no_encoding(encoding) from error
    if name != "utf-8" or text.startswith("\ufeff"):
        data = text.removeprefix("\ufeff").encode("utf-8", "surrogatepass")
    return _checked(data, text), name


def stray_line(data: bytes) -> int | None:
    """The first line with bytes that are no UTF-8 in a text of which other letters are UTF-8.

    None where there is none such. In a text in another encoding two letters look like one of UTF-8
    now and then (a capital with an accent before a quotation mark): few among many are none.
    """
    text = data.decode("utf-8", "replace")
    strange = text.count("\ufffd")
    ascii_ones = len(data.translate(None, _BEYOND_ASCII))
    good = len(text) - ascii_ones - strange
    if not strange or good <= strange * _BY_CHANCE:
        return None
    return text.count("\n", 0, text.index("\ufffd")) + 1


def _no_encoding(name: str) -> InputError:
    return InputError(f'unknown encoding "{name}"', "a name such as utf-8, utf-16 or latin-1")


def _checked(data: bytes, text: str) -> bytes:
    """The bytes with plain line ends. text : what they begin with; no text is full of controls."""
    if len(_CONTROLS.findall(text[:4096])) > len(text[:4096]) // 50:
        raise InputError("binary data", "a text table (CSV or TSV)")
    if b"\r" in data:
        data = data.replace(b"\r\n", b"\n").replace(b"\r", b"\n")
    return data.replace(b"\0", b"") if b"\0" in data else data


def head(data: bytes) -> str:
    """The first lines of a text, whole ones, to make guesses from."""
    if len(data) <= _HEAD:
        return data.decode("utf-8", "replace")
    end = data.rfind(b"\n", 0, _HEAD)
    if end <= 0:  # the first line is longer
        end = data.find(b"\n", _HEAD)
    return data[: end if end > 0 else len(data)].decode("utf-8", "replace")


def find_delimiter(text: str) -> str:
    """The character between the cells: the one that cuts all first lines into equally many.

    A file of one column has none; a comma is returned for it.
    """
    sample = "".join(text[:_LONGEST].splitlines(keepends=True)[:_LOOKED_AT])
    best, best_fit = ",", 0.0
    for delimiter in ("\t", ";", "|", ",", " "):
        lines = io.StringIO(trimmed(sample) if delimiter == " " else sample)
        found = csv.reader(lines, delimiter=delimiter, skipinitialspace=delimiter == " ")
        first = next(filter(None, found), [])
        if len(first) < 2:
            continue
        rows = [first, *filter(None, found)]
        fit = sum(len(row) == len(first) for row in rows) / len(rows)
        # spaces also stand inside names, so they must fit everywhere
        if fit > best_fit and (delimiter != " " or (fit == 1.0 and len(rows) > 1)):
            best, best_fit = delimiter, fit
    return best


def trimmed(text: str) -> str:
    """Lines without spaces at their ends: where spaces delimit, they are no cells."""
    return _TRAILING.sub("", text)


def find_decimal(cells: pl.Series) -> str:
    """`,` when more of the cells are numbers with a decimal comma than with a point."""
    commas = cells.str.contains(_COMMA_NUMBER).sum()
    return "," if commas > cells.str.contains(_POINT_NUMBER).sum() else "."
