"""White space around cells."""

from __future__ import annotations

import numpy as np
import polars as pl
from polars.selectors import by_name

_PIECE = 1 << 16  # bytes looked at together, so that they stay in a cache
_WHITE = b"\t\n\v\f\r\x1c\x1d\x1e\x1f "
# how the spaces beyond ASCII begin, which some punctuation shares
_WIDE = ((b"\xc2", b"\x85\xa0"), (b"\xe1", b"\x9a"), (b"\xe2", b"\x80\x81"), (b"\xe3", b"\x80"))


def stripped(frame: pl.DataFrame) -> pl.DataFrame:
    """Cells without white space around them, null where nothing is left.

    The columns that have any are made anew.
    """
    plain = pl.all().str.len_bytes()
    edges = ((pl.all().str.strip_chars().str.len_bytes() != plain) | (plain == 0)).any()
    touched = [name for name, found in frame.select(edges).row(0, named=True).items() if found]
    if not touched:
        return frame
    cells = by_name(touched).str.strip_chars()
    return frame.with_columns(pl.when(cells == "").then(None).otherwise(cells).name.keep())


def may_need_stripping(data: bytes, delimiter: str) -> bool:
    """Could there be white space around a cell, or nothing within quotes? False is certain.

    data : of a text, in UTF-8, its lines parted by line feeds, of which none is in quotes.
    """
    if delimiter.isspace() and b'"' in data:
        return True
    between = f'{delimiter}\n"'.encode()
    white = bytes(char for char in _WHITE if char not in between)
    left, right = _marked([(between, white), (white, between), (b'"', b'"'), *_WIDE])
    for at in range(-1, len(data), _PIECE):
        piece = data[max(at, 0) : at + _PIECE + 1]
        if at < 0:
            piece = b"\n" + piece
        if at + _PIECE >= len(data):
            piece += b"\n"
        first = np.frombuffer(piece.translate(left), dtype=np.uint8)[:-1]
        second = np.frombuffer(piece.translate(right), dtype=np.uint8)[1:]
        if bool((first & second).any()):
            return True
    return False


def _marked(pairs: list[tuple[bytes, bytes]]) -> tuple[bytes, bytes]:
    """Two tables of bits, one for each pair: two characters that make a pair have it in common."""
    left, right = bytearray(256), bytearray(256)
    for k, (firsts, seconds) in enumerate(pairs):
        for char in firsts:
            left[char] |= 1 << k
        for char in seconds:
            right[char] |= 1 << k
    return bytes(left), bytes(right)
