"""Reading a study's file: whole, or what is left of a damaged one."""

from __future__ import annotations

import io
import json
import struct
import zipfile
import zlib
from contextlib import suppress
from dataclasses import dataclass, field
from pathlib import Path
from typing import TypeVar

import numpy as np
import polars as pl
import pydantic
from pydantic import BaseModel

from gorvel.core.base.errors import Caution, InputError
from gorvel.core.base.reading import bytes_of, guarded, open_to_read
from gorvel.core.plan.file import parse_plan
from gorvel.core.plan.plan import Plan
from gorvel.core.sources.reading import read_source
from gorvel.core.study.document import (
    FoundDocument,
    GrownDocument,
    SourceDocument,
    StudyDocument,
    TreeDocument,
)
from gorvel.core.study.file import FORMAT, MARKER, SUFFIX, StudyFile
from gorvel.core.study.kept import KeptTree, Looked
from gorvel.core.study.mark import are_others
from gorvel.core.study.study import Study, TreeEntry
from gorvel.core.table.matrix import ProximityTable
from gorvel.core.table.source import Source
from gorvel.core.table.table import Reading, Table
from gorvel.core.tree.schedule import WithinSS
from gorvel.core.tree.tree import Tree

_MOST_UNPACKED = 4 << 30  # bytes of a member
_LOCAL = struct.Struct("<4sHHHHHIIIHH")  # what stands before each member
_BEGIN = b"PK\x03\x04"
_STORED, _DEFLATED = 0, 8
# all that comes of reading what only looks like a ZIP
_UNREADABLE = (
    OSError, ValueError, EOFError, OverflowError, RuntimeError, NotImplementedError, struct.error,
    zlib.error, zipfile.BadZipFile,
)  # fmt: skip
_SPREAD = ("within_ss", "r2", "semipartial_r2")

Document = TypeVar("Document", bound=BaseModel)


def is_study(path: Path) -> bool:
    """Is a file called as studies are?"""
    return path.suffix.lower() == SUFFIX


def holds_study(path: Path) -> bool:
    """Does a file begin as a study does, whatever became of the rest?"""
    try:
        with open_to_read(path) as file:
            head = file.read(_LOCAL.size + len(MARKER))
    except (OSError, InputError):
        return False
    return head.startswith(_BEGIN) and head[_LOCAL.size :] == MARKER.encode()


def load_study(path: Path, data: bool = True) -> StudyFile:
    """Read a study.

    data : read them too, where they stand in another file; else there is an empty table.

    Raises
    ------
    InputError : there is no such file, it is no study, is damaged, or a newer program wrote it.
    """
    whole = _bytes(path)
    try:
        with zipfile.ZipFile(io.BytesIO(whole)) as file:
            members = {info.filename: _member(file, info) for info in file.infolist()}
    except _UNREADABLE as error:
        raise _damaged(path, whole, str(error)) from None
    return _Reader(path, members, follow=data).read()


def rescue_study(path: Path) -> StudyFile:
    """Read what is left of a study that is damaged, or that a newer program wrote.

    Raises
    ------
    InputError : there is not enough left: neither plan nor data.
    """
    return _Reader(path, _left_of(_bytes(path)), strict=False).read()


def is_lost(path: Path) -> bool:
    """Is a file there that holds nothing of a study? What a newer program wrote is something."""
    try:
        _Reader(path, _left_of(_bytes(path)), strict=False, follow=False).read()
    except InputError as error:
        return not isinstance(error.__cause__, OSError)
    return False


def picture_of(path: Path) -> bytes:
    """The small picture of a study, b"" where there is none."""
    try:
        with open_to_read(path) as held, zipfile.ZipFile(held) as file:
            return file.read("picture.png")
    except (KeyError, InputError, *_UNREADABLE):
        return b""


def _bytes(path: Path) -> bytes:
    with guarded(str(path), "a study"):
        return bytes_of(path)


def _member(file: zipfile.ZipFile, info: zipfile.ZipInfo) -> bytes:
    if info.file_size > _MOST_UNPACKED:
        raise zipfile.BadZipFile(f"{info.filename} is too large")
    return file.read(info)


def _damaged(path: Path, data: bytes, why: str) -> InputError:
    if not data:
        return InputError("an empty file", "a study", file=path.name)
    if not data.startswith(_BEGIN):
        return InputError("no study", f"a file that Gorvel wrote ({SUFFIX})", file=path.name)
    return InputError(f"damaged or cut short ({why})", "a whole study", file=path.name)


def _left_of(data: bytes) -> dict[str, bytes]:
    """Members that are sound: those that the directory leads to, and others found one by one."""
    members: dict[str, bytes] = {}
    with suppress(*_UNREADABLE), zipfile.ZipFile(io.BytesIO(data)) as file:
        for info in file.infolist():
            with suppress(*_UNREADABLE):
                members[info.filename] = _member(file, info)
    at = data.find(_BEGIN)
    while at >= 0 and at + _LOCAL.size <= len(data):
        head = _LOCAL.unpack_from(data, at)
        method, crc, packed, _, name_length, extra = head[3], *head[6:11]
        begin = at + _LOCAL.size + name_length + extra
        name = data[at + _LOCAL.size : at + _LOCAL.size + name_length].decode("utf-8", "replace")
        piece = data[begin : begin + packed]
        found = _unpacked(piece, method) if len(piece) == packed else None
        sound = found is not None and zlib.crc32(found) == crc
        if sound and found is not None:
            members.setdefault(name, found)
        at = data.find(_BEGIN, begin + packed if sound else at + len(_BEGIN))
    return members


def _unpacked(piece: bytes, method: int) -> bytes | None:
    if method == _STORED:
        return piece
    try:
        return zlib.decompress(piece, -15) if method == _DEFLATED else None
    except zlib.error:
        return None


class _Lost(Exception):
    """A member cannot be had; never leaves this module."""


@dataclass
class _Reader:
    """Makes a study of members; where it is not strict it goes on without what is lost."""

    path: Path
    members: dict[str, bytes]
    lost: list[str] = field(default_factory=list)
    strict: bool = True
    follow: bool = True  # to data that stand in another file

    def read(self) -> StudyFile:
        """The study.

        Raises
        ------
        InputError : see `load_study`, `rescue_study`.
        """
        try:
            self._check_format()
            document = self._document("study.json", StudyDocument)
            trees = [entry for told in document.trees if (entry := self._entry(told)) is not None]
            if not trees:
                raise _Lost("no plan is left")
            source = self._source_of(document, trees[0].plan)
            in_hand = document.in_hand
            if all(entry.id != in_hand for entry in trees):
                in_hand = trees[0].id
            folder = self.path.absolute().parent
            plan_file = folder / document.plan_file if document.plan_file else None
            data_file = folder / document.source.data_file
            study = Study(source, data_file, tuple(trees), in_hand, plan_file)
            kept = self._kept(document, study)
        except _Lost as error:
            raise InputError(f"damaged: {error}", "a whole study", file=self.path.name) from None
        picture = self.members.get("picture.png", b"")
        return StudyFile(study, kept, document.group, picture, tuple(dict.fromkeys(self.lost)))

    def _kept(
        self, document: StudyDocument, study: Study
    ) -> dict[tuple[int, str | None], KeptTree]:
        """The trees that were grown; none of other data."""
        if self.follow and are_others(study.read, document.data_mark):
            self.lost.append("the trees, since the data were changed")
            return {}
        return {
            (told.id, grown.group): tree
            for told in document.trees
            if study.has(told.id)
            for grown in told.grown
            if (tree := self._grown(grown)) is not None
        }

    def _check_format(self) -> None:
        try:
            marker = json.loads(self.members[MARKER])
            number = marker["format"] if marker["gorvel"] == "study" else None
        except (KeyError, TypeError, ValueError):
            number = None
        if not isinstance(number, int):
            if self.strict or "study.json" not in self.members:
                raise InputError(
                    "no study", f"a file that Gorvel wrote ({SUFFIX})", file=self.path.name
                )
        elif number > FORMAT and self.strict:
            found = f"a study of format {number}, which a newer Gorvel wrote"
            raise InputError(found, f"format {FORMAT} or older", file=self.path.name)
        elif number > FORMAT:
            self.lost.append(f"what is new in format {number}")

    def _bytes(self, name: str) -> bytes:
        try:
            return self.members[name]
        except KeyError:
            raise _Lost(f"{name} is missing") from None

    def _document(self, name: str, kind: type[Document]) -> Document:
        try:
            return kind.model_validate_json(self._bytes(name))
        except pydantic.ValidationError as error:
            first = error.errors()[0]
            place = ".".join(map(str, first["loc"]))
            raise _Lost(f"{name}: {place}: {first['msg']}") from None

    def _plan(self, name: str) -> Plan:
        try:
            return parse_plan(self._bytes(name).decode("utf-8"), name, unfinished=True)
        except (InputError, UnicodeDecodeError) as error:
            raise _Lost(str(error)) from None

    def _frame(self, name: str) -> pl.DataFrame:
        try:
            return pl.read_parquet(io.BytesIO(self._bytes(name)))
        except (pl.exceptions.PolarsError, OSError, ValueError) as error:
            raise _Lost(f"{name}: {error}") from None

    def _entry(self, told: TreeDocument) -> TreeEntry | None:
        try:
            return TreeEntry(told.id, self._plan(told.plan), told.title, told.note, told.kept)
        except _Lost as error:
            self._do_without(f"the tree {told.title or told.id}", error)
            return None

    def _do_without(self, what: str, error: _Lost) -> None:
        if self.strict:
            raise error
        self.lost.append(what)

    def _source_of(self, document: StudyDocument, plan: Plan) -> Source:
        told = document.source
        reading = Reading(told.delimiter, told.decimal, told.encoding, told.header, told.skip)
        if document.data_in is not None:
            return self._elsewhere(self.path.absolute().parent / document.data_in, told, plan)
        try:
            if told.kind == "table":
                frame = self._frame("data/table.parquet")
                cautions = tuple(Caution(code, text) for code, text in told.cautions)
                return Table(told.name, frame, reading, cautions=cautions)
            return self._matrix(told, reading)
        except _Lost as error:
            data_file = self.path.absolute().parent / told.data_file
            if self.strict or not data_file.is_file():
                raise _Lost(f"{error}, and there is no {told.data_file}") from None
            self.lost.append(f"the data in it, which were read from {data_file.name} again")
            return read_source(plan, data_file)

    def _elsewhere(self, file: Path, told: SourceDocument, plan: Plan) -> Source:
        if not self.follow:
            return Table(told.name, pl.DataFrame())
        return load_study(file).study.read if is_study(file) else read_source(plan, file)

    def _matrix(self, told: SourceDocument, reading: Reading) -> ProximityTable:
        labels = tuple(self._column(self._frame("data/labels.parquet"), "label").to_list())
        below = self._column(self._frame("data/proximities.parquet"), "proximity").to_numpy()
        n = len(labels)
        if len(below) != n * (n - 1) // 2:
            raise _Lost(f"{len(below):,} proximities of {n:,} cases")
        values = np.zeros((n, n))
        values[np.tril_indices(n, -1)] = below
        return ProximityTable(told.name, labels, values + values.T, reading, told.similarity)

    def _column(self, frame: pl.DataFrame, name: str) -> pl.Series:
        if name not in frame.columns:
            raise _Lost(f"there is no column {name}")
        return frame[name]

    def _grown(self, told: GrownDocument) -> KeptTree | None:
        try:
            frame = self._frame(told.joins)
            kept = self._joins(frame, self._plan(told.plan), told.group)
            kept = kept.with_(title=told.title, note=told.note)
            found = self._document(told.found, FoundDocument)
            names = ("support_unbiased", "support_plain")
            shares = [_floats(frame[name]) for name in names if name in frame.columns]
        except _Lost as error:
            self._do_without("a grown tree, which can be grown again", error)
            return None
        return found.added_to(kept, (shares[0], shares[1]) if len(shares) == 2 else None)

    def _joins(self, frame: pl.DataFrame, plan: Plan, group: str | None) -> KeptTree:
        left, right = (
            self._column(frame, name).cast(pl.Int64).to_numpy().copy() for name in ("left", "right")
        )
        n = len(left) + 1
        taken = np.sort(np.concatenate([left, right]))
        made = n + np.arange(n - 1)
        if (taken != np.arange(2 * n - 2)).any() or (np.maximum(left, right) >= made).any():
            raise _Lost("the joins are those of no tree")
        tied, matters = (_flags(self._column(frame, name)) for name in ("tied", "tie_matters"))
        tree = Tree(n, left, right, _floats(self._column(frame, "height")), tied, matters)
        spread = None
        if "within_ss" in frame.columns:
            spread = WithinSS(*(_floats(self._column(frame, name)) for name in _SPREAD))
        looked = Looked(_flags(frame["flipped"]) if "flipped" in frame.columns else None)
        return KeptTree(plan, group, tree, spread, looked=looked)


def _floats(series: pl.Series) -> np.ndarray:
    return series.cast(pl.Float64).to_numpy().copy()


def _flags(series: pl.Series) -> np.ndarray:
    return series.cast(pl.Boolean).to_numpy().copy()
