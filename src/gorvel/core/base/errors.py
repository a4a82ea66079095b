"""Everything Gorvel raises or warns of on purpose.

    GorvelError
    ├── InputError          the file, the table or the plan is wrong     exit status 2
    ├── TooLargeError       it would not fit in memory                   exit status 3
    ├── NoWindowError       there is no screen, or Qt cannot start        exit status 1
    └── Cancelled           the user stopped the work                    exit status 130
    Caution                 not an error: a frozen note that a result carries with it

An error carries what was found where, not only a text; `str()` puts it in one line.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import ClassVar, Self


class GorvelError(Exception):
    """Base of all errors raised on purpose."""

    exit_status: ClassVar[int] = 1


class InputError(GorvelError):
    """A file, a table or a plan is not as it has to be.

    Parameters
    ----------
    found : what stands there, in words.
    expected : what should stand there, in words; may be empty when `found` says it all.
    place : the row, column, variable or key at fault.
    file : the name of the file; filled in by whoever knows it (see `in_file`).
    said : the same as a sentence for somebody who made a choice and sees no file.
    """

    exit_status = 2

    def __init__(
        self, found: str, expected: str = "", *, place: str = "", file: str = "", said: str = ""
    ) -> None:
        super().__init__(found, expected, place, file)
        self.said = said
        self.found = found
        self.expected = expected
        self.place = place
        self.file = file

    def in_file(self, file: str) -> Self:
        """Name the file, unless a more exact name is already there."""
        self.file = self.file or file
        return self

    def __str__(self) -> str:
        what = f"{self.found}; expected {self.expected}" if self.expected else self.found
        return " ".join(": ".join(p for p in (self.file, self.place, what) if p).split())


class TooLargeError(GorvelError):
    """The work would need more memory than the machine has free.

    Parameters
    ----------
    file : the data file; cases : how many were kept; different : how many of them, where equal
    ones are measured once; needed, free : bytes; ways_out : what would need less, in words.
    """

    exit_status = 3

    def __init__(
        self, file: str, cases: int, different: int, needed: float, free: float,
        ways_out: Sequence[str] = (),
    ) -> None:  # fmt: skip
        super().__init__(file, cases, different, needed, free, ways_out)
        self.file, self.cases, self.different = file, cases, different
        self.needed, self.free, self.ways_out = needed, free, tuple(ways_out)

    def __str__(self) -> str:
        folded = f" ({self.different:,} of them different)" if self.different < self.cases else ""
        ways = ["fewer cases (grow a tree of a sample, or split by a column)", *self.ways_out]
        return (
            f"{self.file}: {self.cases:,} cases{folded} need about {self.needed / 2**30:.1f}"
            f" GiB for their proximities, {self.free / 2**30:.1f} GiB are free; possible "
            f"ways out: {'; or '.join(ways)}"
        )


class NoWindowError(GorvelError):
    """A window was asked for and cannot be had here."""


class Cancelled(GorvelError):
    """The user stopped the work; nothing was kept of it."""

    exit_status = 130

    def __str__(self) -> str:
        return "cancelled"


@dataclass(frozen=True)
class Caution:
    """Something a careful reader of the result has to know.

    code : short and stable, for programs; text : one sentence, for people.
    """

    code: str
    text: str
