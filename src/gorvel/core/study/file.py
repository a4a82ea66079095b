"""The file that keeps a study, `docs/study-file.md`: a ZIP of JSON, TOML and Parquet."""

from __future__ import annotations

import io
import json
import zipfile
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field
from pathlib import Path

import numpy as np
import polars as pl
from pydantic import BaseModel

from gorvel import __version__
from gorvel.core.base.writing import check_room, replacing
from gorvel.core.plan.file import plan_text
from gorvel.core.study.document import (
    GrownDocument,
    SourceDocument,
    StudyDocument,
    TreeDocument,
    found_of,
)
from gorvel.core.study.kept import KeptTree
from gorvel.core.study.mark import mark_of
from gorvel.core.study.study import Study
from gorvel.core.table.matrix import ProximityTable
from gorvel.core.table.source import Source
from gorvel.core.table.table import Table

FORMAT = 1
SUFFIX = ".gorvel"
MARKER = "gorvel.json"  # the first member: what the file is
_EPOCH = (1980, 1, 1, 0, 0, 0)  # the same study gives the same bytes


@dataclass(frozen=True, eq=False)
class StudyFile:
    """A study with what is known of its trees, as a file keeps it.

    kept : by id and group; group : of the tree in hand that is looked at; picture : a small PNG,
    b"" for none; lost : what could not be read of a damaged file, or goes with other data than are
    there now, in words.
    """

    study: Study
    kept: Mapping[tuple[int, str | None], KeptTree] = field(default_factory=dict)
    group: str | None = None
    picture: bytes = b""
    lost: tuple[str, ...] = ()


def save_study(content: StudyFile, path: Path, data_in: Path | None = None) -> None:
    """Write a study to a file, whole or not at all.

    data_in : the study or data file that has the data, where they are not to be written again.

    Raises
    ------
    InputError : the place cannot be written.
    """
    with replacing(path) as part, zipfile.ZipFile(part, "w") as file:
        for name, data in study_members(content, path.absolute().parent, data_in):
            check_room(part.parent, len(data))
            info = zipfile.ZipInfo(name, _EPOCH)
            packed = name.endswith((".json", ".toml"))
            info.compress_type = zipfile.ZIP_DEFLATED if packed else zipfile.ZIP_STORED
            info.external_attr = 0o644 << 16
            file.writestr(info, data)


def study_members(
    content: StudyFile, folder: Path, data_in: Path | None = None
) -> Iterator[tuple[str, bytes]]:
    """The members of the file in their order: what cannot be made again stands first.

    folder : where the file will stand; files in it are told by their name; data_in : see
    `save_study`.
    """
    study = content.study
    marker = {"gorvel": "study", "format": FORMAT, "written_by": __version__}
    yield MARKER, json.dumps(marker).encode()
    grown: dict[int, list[GrownDocument]] = {entry.id: [] for entry in study.trees}
    plans, late = [], []
    for (number, group), kept in content.kept.items():
        if number not in grown:
            continue
        stem = f"{number}" if group is None else f"{number}-{len(grown[number]) + 1}"
        told = GrownDocument(
            group=group, plan=f"plans/{stem}-grown.toml", joins=f"trees/{stem}.parquet",
            found=f"trees/{stem}.json",
            **{key: said for key in ("title", "note") if (said := getattr(kept, key))},
        )  # fmt: skip
        grown[number].append(told)
        plans.append((told.plan, plan_text(kept.plan).encode()))
        late.append((told.found, _json(found_of(kept))))
        late.append((told.joins, _parquet(_joins(kept))))
    trees = []
    for entry in study.trees:
        trees.append(
            TreeDocument(
                id=entry.id, plan=f"plans/{entry.id}.toml", title=entry.title, note=entry.note,
                kept=entry.kept, grown=tuple(grown[entry.id]),
            )
        )  # fmt: skip
        plans.append((f"plans/{entry.id}.toml", plan_text(entry.plan).encode()))
    document = StudyDocument(
        source=_source(study.read, _near(study.data_file, folder)), trees=tuple(trees),
        plan_file=None if study.plan_file is None else _near(study.plan_file, folder),
        in_hand=study.in_hand, group=content.group,
        data_in=None if data_in is None else _near(data_in, folder),
        data_mark=None if data_in is None else mark_of(study.read),
    )  # fmt: skip
    yield "study.json", _json(document)
    yield from sorted(plans)
    if content.picture:
        yield "picture.png", content.picture
    if data_in is None:
        yield from _data(study.read)
    yield from late


def _near(path: Path, folder: Path) -> str:
    path = path.absolute()
    return path.name if path.parent == folder else str(path)


def _json(document: BaseModel) -> bytes:
    return document.model_dump_json(by_alias=True, indent=1, exclude_unset=True).encode()


def _parquet(frame: pl.DataFrame) -> bytes:
    out = io.BytesIO()
    frame.write_parquet(out)
    return out.getvalue()


def _source(source: Source, data_file: str) -> SourceDocument:
    reading = source.reading
    table = isinstance(source, Table)
    return SourceDocument(
        kind="table" if table else "proximities", name=source.name,
        data_file=data_file, delimiter=reading.delimiter,
        decimal=reading.decimal, encoding=reading.encoding, header=reading.header,
        skip=reading.skip,
        cautions=tuple((caution.code, caution.text) for caution in source.cautions)
        if isinstance(source, Table) else (),
        similarity=isinstance(source, ProximityTable) and source.similarity,
    )  # fmt: skip


def _data(source: Source) -> Iterator[tuple[str, bytes]]:
    """The cells of a table as text, or the lower triangle of a matrix, row by row."""
    if isinstance(source, Table):
        yield "data/table.parquet", _parquet(source.frame)
        return
    labels = pl.DataFrame({"label": pl.Series(source.labels, dtype=pl.String)})
    yield "data/labels.parquet", _parquet(labels)
    below = source.values[np.tril_indices(source.n, -1)]
    yield "data/proximities.parquet", _parquet(pl.DataFrame({"proximity": below}))


def _joins(kept: KeptTree) -> pl.DataFrame:
    """A row for each join."""
    tree, spread, support = kept.tree, kept.spread, kept.checks.support
    columns = {
        "left": tree.left, "right": tree.right, "height": tree.heights, "tied": tree.tied,
        "tie_matters": tree.tie_matters,
    }  # fmt: skip
    if spread is not None:
        columns |= {
            "within_ss": spread.within, "r2": spread.r2, "semipartial_r2": spread.semipartial_r2,
        }  # fmt: skip
    if kept.looked.flipped is not None:
        columns["flipped"] = kept.looked.flipped
    if support is not None and len(support.unbiased) == tree.joins:
        columns |= {"support_unbiased": support.unbiased, "support_plain": support.plain}
    return pl.DataFrame(columns)
