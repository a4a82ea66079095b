"""Bad files, made by rule: tables, workbooks, typed columns, matrices, packed and noisy ones."""

from __future__ import annotations

import csv
import gzip
import io
import json
import random
import re
import zipfile
from collections.abc import Callable
from datetime import datetime

PLAN = 'gorvel = 1\n[source]\nfile = "{name}"\n{more}[variables]\nuse = ["a", "b"]\n{end}'
GOOD = "id,a,b\n" + "".join(f"r{k},{k % 7},{k * k % 11}\n" for k in range(20))

Rng = random.Random
Made = tuple[str, bytes, str, str]  # name, content, more of [source], what stands at the end
Maker = Callable[[Rng], Made]


def _cells(rng: Rng) -> Made:
    """Numbers that are large, small, odd, or none, in the place of some."""
    odd = [
        "1e200",
        "-1e308",
        "1e-320",
        "inf",
        "nan",
        "",
        " ",
        "1,5",
        "0x10",
        "1_000",
        "\u0663",
        "-0",
        "9" * 400,
        "1e999",
        "1e100",
        "-1e100",
        "true",
        "=1+1",
        "'",
        '"',
        "\x00",
        "\u202e1",
        "\ufeff",
    ]
    rows = [line.split(",") for line in GOOD.splitlines()]
    for _ in range(rng.randint(1, 12)):
        rows[rng.randrange(1, len(rows))][rng.randrange(1, 3)] = rng.choice(odd)
    return "t.csv", "\n".join(",".join(row) for row in rows).encode(), "", ""


def _bytes(rng: Rng) -> Made:
    """Bytes changed, taken out or put in anywhere."""
    data = bytearray(GOOD.encode())
    for _ in range(rng.randint(1, 20)):
        at = rng.randrange(len(data))
        match rng.randrange(3):
            case 0:
                data[at] = rng.randrange(256)
            case 1:
                del data[at : at + rng.randint(1, 9)]
            case _:
                data[at:at] = bytes(rng.choices([34, 44, 10, 13, 0, 255, 195, 239, 9, 59], k=3))
    return rng.choice(["t.csv", "t.tsv", "t.txt"]), bytes(data), "", ""


def _noise(rng: Rng) -> Made:
    """Anything at all under any name."""
    name = "t" + rng.choice(
        [
            ".csv",
            ".xlsx",
            ".ods",
            ".parquet",
            ".arrow",
            ".jsonl",
            ".sqlite",
            ".gz",
            ".csv.gz",
            ".dat",
            ".feather",
            ".none",
            "",
        ]
    )
    return name, rng.randbytes(rng.choice([0, 1, 10, 1_000, 100_000])), "", ""


def _packed(rng: Rng) -> Made:
    """Packed texts, cut or damaged."""
    data = bytearray(gzip.compress(GOOD.encode() * rng.choice([1, 50]), mtime=0))
    if rng.random() < 0.5:
        del data[rng.randrange(len(data)) :]
    elif data:
        data[rng.randrange(len(data))] ^= 1 << rng.randrange(8)
    return "t.csv.gz", bytes(data), "", ""


def _book() -> bytes:
    import xlsxwriter

    out = io.BytesIO()
    book = xlsxwriter.Workbook(out, {"in_memory": True})
    book.set_properties({"created": datetime(2000, 1, 1)})
    sheet = book.add_worksheet("one")
    for r, line in enumerate(GOOD.splitlines()):
        for c, cell in enumerate(line.split(",")):
            sheet.write(r, c, cell if r == 0 or c == 0 else float(cell))
    book.close()
    return out.getvalue()


def _workbook(rng: Rng) -> Made:
    """A workbook of which a part was changed: references, types, nesting, sizes."""
    members: dict[str, bytes] = {}
    with zipfile.ZipFile(io.BytesIO(_book())) as book:
        members = {name: book.read(name) for name in book.namelist()}
    sheet = members["xl/worksheets/sheet1.xml"].decode()
    cell = rng.choice(re.findall(r'r="[A-C]\d+"', sheet))
    change = rng.choice(
        [
            lambda s: s.replace(
                cell, rng.choice(['r="XFD1048576"', 'r="ZZZZ9"', 'r="A0"', 'r=""', 'r="1"'])
            ),
            lambda s: s.replace("<sheetData>", "<sheetData>" + "<x>" * 5_000),
            lambda s: s.replace('t="s"', rng.choice(['t="e"', 't="b"', 't="str"', 't="d"'])),
            lambda s: s[: rng.randrange(len(s))],
            lambda s: re.sub(
                r"<v>\d+</v>", lambda m: rng.choice(["<v>1e400</v>", "<v/>", m[0]]), s
            ),
            lambda s: '<!DOCTYPE x [<!ENTITY a "' + "b" * 99 + '">]>' + s.replace("<v>", "<v>&a;"),
        ]
    )
    members["xl/worksheets/sheet1.xml"] = change(sheet).encode()
    if rng.random() < 0.2:
        del members[rng.choice([name for name in members if "sheet" not in name])]
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as book:
        for name, data in members.items():
            book.writestr(zipfile.ZipInfo(name), data, zipfile.ZIP_DEFLATED)
    return "t.xlsx", out.getvalue(), "", ""


def _way(rng: Rng) -> Made:
    """A good file read in a way that does not suit it."""
    more = rng.choice(
        [
            'encoding = "utf-16"\n',
            'encoding = "punycode"\n',
            'encoding = "idna"\n',
            "skip = 999999999\n",
            'delimiter = "space"\n',
            'delimiter = "|"\n',
            "header = false\n",
            'kind = "proximities"\n',
            'kind = "counts"\n',
            'sheet = "one"\n',
            'decimal = ","\n',
            'also = ["t.csv"]\n',
            'missing_codes = ["1", "2", "3"]\n',
            'sheets = "all"\n',
            'query = "drop table x"\n',
        ]
    )
    return "t.csv", GOOD.encode(), more, ""


def _matrix(rng: Rng) -> Made:
    """Proximities that are none, too large, or uneven."""
    n = rng.randint(0, 6)
    names = [rng.choice(["A", "B", "x,y", "", "é"]) + str(k) for k in range(n)]
    cells = [
        [rng.choice(["0", "1", "2.5", "1e200", "-1", "", "x", "1e99"]) for _ in names]
        for _ in names
    ]
    for i in range(n):
        for j in range(i):
            cells[i][j] = cells[j][i] if rng.random() < 0.95 else "7"
        cells[i][i] = rng.choice(["0", "0", "0", "1", ""])
    rows = [["", *names], *([name, *row] for name, row in zip(names, cells, strict=True))]
    text = "\n".join(",".join(f'"{cell}"' if "," in cell else cell for cell in row) for row in rows)
    end = rng.choice(["", '[tree]\nlinkage = "ward"\n', '[tree]\nlinkage = "centroid"\n'])
    return "t.csv", text.encode(), 'kind = "proximities"\n', end


def _typed(rng: Rng) -> Made:
    """Columns of types that are no numbers, as a library writes them; some are damaged."""
    import polars as pl

    n = 12
    kinds = {
        "durations": pl.Series([1, 2, 3] * 4, dtype=pl.Int64).cast(pl.Duration("ms")),
        "lists": pl.Series([[1, 2], []] * 6),
        "bytes": pl.Series([b"\xff"] * n),
        "nulls": pl.Series([None] * n),
        "floats": pl.Series([float("nan"), 1e300] * 6),
        "times": pl.Series([1, 2, 3, 4] * 3).cast(pl.Time),
        "words": pl.Series(["x", None] * 6),
        "big": pl.Series([2**62, -(2**62)] * 6),
        "yes": pl.Series([True, False] * 6),
    }
    chosen = rng.choice(sorted(kinds))
    frame = pl.DataFrame({"id": range(n), "a": [k % 5 for k in range(n)], "b": kinds[chosen]})
    out = io.BytesIO()
    name = rng.choice(["t.parquet", "t.arrow", "t.feather"])
    frame.write_parquet(out) if name == "t.parquet" else frame.write_ipc(out)
    data = bytearray(out.getvalue())
    if rng.random() < 0.5:
        for _ in range(rng.randint(1, 8)):
            data[rng.randrange(len(data))] = rng.randrange(256)
    return name, bytes(data), "", ""


def _lines(rng: Rng) -> Made:
    """JSON Lines that are deep, uneven, or no JSON."""
    odd = [
        "[" * 3_000,
        '{"a": {"b": 1}}',
        '{"a": 1e999}',
        "null",
        "5",
        '{"a": "\\ud800"}',
        "{",
        "",
        '{"a": [1]}',
        '{"": 1}',
        json.dumps({"a": "9" * 5_000, "b": 1}),
    ]
    rows = [json.dumps({"id": k, "a": k % 5, "b": k % 3}) for k in range(12)]
    for _ in range(rng.randint(1, 4)):
        rows[rng.randrange(len(rows))] = rng.choice(odd)
    return "t.jsonl", "\n".join(rows).encode(), "", ""


def _names(rng: Rng) -> Made:
    """Columns with names that stand for something elsewhere."""
    odd = [
        "*", "^.*$", "^[a-z]$", "^$", "$", "times", "case", "label", "cluster", "group", "literal",
        "len", "0", "-", "=1+1", "a.b", "a b", "'", '"', "`", "\\", "{}", "%s", "<b>", "é" * 300,
        "null", "true", "__class__", "../x", "\u202e", "a" * 5_000,
    ]  # fmt: skip
    names = rng.sample(odd, 3)
    text = io.StringIO()
    writer = csv.writer(text, lineterminator="\n")
    writer.writerow(["id", "a", "b", *names])
    for k in range(20):
        writer.writerow([f"r{k}", k % 7, k * k % 11, "pqr"[k % 3], k % 4 or "", "xy"[k % 2]])
    told = [json.dumps(name) for name in names]
    end = f"profile = [{told[0]}, {told[1]}]\n[cases]\ngroups = {told[2]}\n"
    if rng.random() < 0.5:
        end += f"label = {told[0]}\n"
    return "t.csv", text.getvalue().encode(), "", end


FILES: tuple[Maker, ...] = (
    _cells, _bytes, _noise, _packed, _workbook, _way, _matrix, _typed, _lines, _names,
)  # fmt: skip
