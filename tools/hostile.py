"""Bad files, made by rule, and what the program makes of them.

    python tools/hostile.py [number] [seed]

Each file is read by `gorvel run` in a process of its own, by a plan that means it well. Whatever
stands in it, the call has to end in time, with 0 or an exit status of the contract, one line that
says why, no trace of the interpreter, nothing left beside, no `nan` or `inf` in any result. Ends
with 1 where one does otherwise, and keeps that file.
"""

from __future__ import annotations

import csv
import gzip
import io
import json
import os
import random
import re
import subprocess
import sys
import tempfile
import zipfile
from collections.abc import Callable, Iterable
from concurrent.futures import ThreadPoolExecutor
from functools import cache
from pathlib import Path
from typing import get_args

ROOT = Path(__file__).parents[1]
sys.path.insert(0, str(ROOT / "src"))
PATIENCE = 60  # seconds
STATUSES = {0, 2, 3}
PLAN = 'gorvel = 1\n[source]\nfile = "{name}"\n{more}[variables]\nuse = ["a", "b"]\n{end}'
GOOD = "id,a,b\n" + "".join(f"r{k},{k % 7},{k * k % 11}\n" for k in range(20))

Rng = random.Random
Made = tuple[str, bytes, str, str]  # name, content, more of [source], what stands at the end


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
    data = bytearray(gzip.compress(GOOD.encode() * rng.choice([1, 50])))
    if rng.random() < 0.5:
        del data[rng.randrange(len(data)) :]
    elif data:
        data[rng.randrange(len(data))] ^= 1 << rng.randrange(8)
    return "t.csv.gz", bytes(data), "", ""


def _book() -> bytes:
    import xlsxwriter

    out = io.BytesIO()
    book = xlsxwriter.Workbook(out, {"in_memory": True})
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
            book.writestr(name, data)
    return "t.xlsx", out.getvalue(), "", ""


def _plan(rng: Rng) -> Made:
    """A plan with keys and values that nobody should write."""
    end = rng.choice(
        [
            "[tree]\nlinkage = 5\n",
            "x = " + "[" * 3_000 + "]" * 3_000 + "\n",
            '[scale]\nmethod = "zscore"\n[proximity]\nmeasure = "cosine"\n',
            "[count]\nresamples = 99999999999999999999\n",
            "[cut]\ncounts = [0, -1, 1000000]\n",
            '[count]\nfrom = 2\nto = 1000000000\nrules = ["gap"]\n',
            '[cases]\nkeep = "' + "(" * 2_000 + '"\n',
            '[cases]\nkeep = "a > 1e999 and b"\n',
            '[[make]]\nname = "c"\nformula = "a / (b - b)"\n',
            '[[make]]\nname = "a"\nformula = "a"\n',
            "[variables.importance]\na = 1e300\n",
            '[proximity]\nmeasure = "minkowski"\npower = 1e9\n',
            '[cases]\nweight = "b"\n',
            '[proximity]\nmeasure = "gower"\n',
            '[proximity]\nmeasure = "correlation"\n',
            '"' + "k" * 100_000 + '" = 1\n',
            '[variables.missing]\na = ["\\u0000"]\n',
        ]
    )
    return "t.csv", GOOD.encode(), "", end


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


@cache
def _study() -> bytes:
    """A study of the good table, with its tree and checks."""
    from gorvel.core.run import keep_study

    with tempfile.TemporaryDirectory() as place:
        folder = Path(place)
        (folder / "t.csv").write_text(GOOD)
        end = "[count]\nresamples = 3\n[cut]\ncounts = [3]\n"
        (folder / "p.toml").write_text(PLAN.format(name="t.csv", more="", end=end))
        keep_study(folder / "p.toml", folder / "t.gorvel")
        return (folder / "t.gorvel").read_bytes()


def _studies(rng: Rng) -> Made:
    """Studies with bytes changed, cut, or members that hold something else."""
    data = bytearray(_study())
    match rng.randrange(3):
        case 0:
            for _ in range(rng.randint(1, 8)):
                data[rng.randrange(len(data))] = rng.randrange(256)
        case 1:
            del data[rng.randrange(len(data)) :]
        case _:
            data = bytearray(_other_members(rng, bytes(data)))
    return "t.gorvel", bytes(data), "", ""


def _other_members(rng: Rng, study: bytes) -> bytes:
    """The study packed again, a value of a member or all of it another."""
    with zipfile.ZipFile(io.BytesIO(study)) as file:
        members = {name: file.read(name) for name in file.namelist()}
    name = rng.choice(sorted(members))
    if name.endswith((".json", ".toml")) and rng.random() < 0.8:
        found = list(re.finditer(rb"-?\d+(\.\d+)?|\"[^\"]*\"|true|false|null", members[name]))
        spot = rng.choice(found)
        value = rng.choice(["-1", "1e999", "99999999999999999999", '""', '"../x"', "null", "[]"])
        text = members[name]
        members[name] = text[: spot.start()] + value.encode() + text[spot.end() :]
    elif rng.random() < 0.5:
        members[name] = members[rng.choice(sorted(members))]
    else:
        del members[name]
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as file:
        for name, held in members.items():
            file.writestr(name, held)
    return out.getvalue()


# any keys of any part, which no plan should have together
_VALUES = (
    "5", "-1", "0", "2", "1e308", "1e-320", "nan", "true", '""', '"a"', '"id"', '"all"', '"ward"',
    '"zscore"', '"drop"', '["a"]', '["a", "a"]', "[]", "[2, 3]", "[0.5]", '{"a" = 1}', '"t.csv"',
    '{"a" = ["1"]}', '"\\u0000"', '"a > 1"',
)  # fmt: skip


def _keys(rng: Rng) -> Made:
    """Any keys of any part of a plan, with values of any kind."""
    from gorvel.core.plan.plan import Plan

    lines = []
    parts = [name for name in Plan.model_fields if name not in ("source", "variables", "gorvel")]
    for name in rng.sample(parts, rng.randint(1, 2)):
        part = Plan.model_fields[name].annotation
        inside = [kind for one in get_args(part) for kind in (one, *get_args(one))]
        kinds = [kind for kind in (part, *inside) if hasattr(kind, "model_fields")]
        if not kinds:
            lines.append(f"{name} = {rng.choice(_VALUES)}")
            continue
        keys = sorted(kinds[0].model_fields)
        lines.append(f"[[{name}]]" if name in ("make", "trees") else f"[{name}]")
        lines += [f"{key} = {rng.choice(_VALUES)}" for key in rng.sample(keys, min(len(keys), 3))]
    return "t.csv", GOOD.encode(), "", "\n".join(lines) + "\n"


def _together(rng: Rng) -> Made:
    """Right parts of a plan, by chance together, for cases that are few, alike or gappy."""
    from gorvel.core.count.checks import CHECKS
    from gorvel.core.linkage.rules import LINKAGES
    from gorvel.core.plan.count_rules import FURTHER, USUAL
    from gorvel.core.plan.kinds import HANDLINGS
    from gorvel.core.proximity.measures import MEASURES
    from gorvel.core.proximity.scaling import SCALINGS

    def some(of: Iterable[str], most: int = 3) -> str:
        names = sorted(of)
        return json.dumps(rng.sample(names, rng.randint(1, min(most, len(names)))))

    def one(of: Iterable[str]) -> str:
        return json.dumps(rng.choice(sorted(of)))

    k, n = rng.randint(2, 5), rng.choice([1, 2, 3, 6, 12, 12, 20, 20])
    parts = {
        "cases": rng.choice(['split = "w"', 'groups = "w"', 'weight = "b"', "set_aside = [1]"]),
        "tree": rng.choice([f"linkage = {one(LINKAGES)}", 'of = "variables"', 'neighbours = "file"',
                            'linkage = "splinter"']),
        "proximity": f"measure = {one(MEASURES)}", "scale": f"method = {one(SCALINGS)}",
        "missing": f"handling = {one(HANDLINGS)}",
        "cut": rng.choice([f"counts = [{k}]", "heights = [0.0, 1.5]", "counts = [1, 2, 3]"]),
        "count": f"resamples = 2\nto = {k + 2}\nrules = {some(USUAL, 9)}\nmore = {some(FURTHER)}"
                 f"\nchecks = {some(CHECKS)}",
        "design": rng.choice(['strata = "w"', 'psu = "w"', 'strata = "w"\npsu = "id"']),
        "profile": f"map = true\ntyping = {rng.randint(1, 2)}", "assign": 'file = "t.csv"',
        "reassign": f"counts = [{k}]", "kmeans": f"from = 2\nto = {k}\nstarts = 2",
        "sweep": f"scales = {some(SCALINGS)}\nlinkages = {some(LINKAGES)}"
                 f"\nmeasures = {some(MEASURES)}",
        "consensus": "",
    }  # fmt: skip
    chosen = rng.sample(sorted(parts), rng.randint(2, 6))
    end = "".join(f"[{name}]\n{parts[name]}\n" for name in chosen)
    if "consensus" in chosen or rng.random() < 0.3:
        end += f'[[trees]]\nname = "x"\nlinkage = {one(LINKAGES)}\n'
    if rng.random() < 0.8:
        end = f'interval = ["a", "b"]\n{end}'
    kinds = [
        lambda: str(rng.randint(0, 9)), lambda: "3", lambda: rng.choice(["", "1", "2"]),
        lambda: rng.choice(["0", "1"]), lambda: repr(rng.gauss(0, 1)), lambda: "",
    ]  # fmt: skip
    columns = [rng.choice(kinds) for _ in range(2)]
    rows = [f"r{case},{columns[0]()},{columns[1]()},{'pqr'[case % 3]}" for case in range(n)]
    return "t.csv", "\n".join(["id,a,b,w", *rows]).encode(), "", end


KINDS: tuple[Callable[[Rng], Made], ...] = (
    _cells,
    _bytes,
    _noise,
    _packed,
    _workbook,
    _plan,
    _way,
    _matrix,
    _typed,
    _lines,
    _names,
    _studies,
    _keys,
    _together,
    _together,
)


def fault_of(made: Made) -> str:
    """What is wrong with what the program makes of a file; "" for nothing."""
    name, data, more, end = made
    with tempfile.TemporaryDirectory() as place:
        folder = Path(place)
        (folder / name).write_bytes(data)
        (folder / "p.toml").write_text(PLAN.format(name=name, more=more, end=end), "utf-8")
        before = sorted(os.listdir(folder))
        asked = name if name.endswith(".gorvel") else "p.toml"
        call = [sys.executable, "-m", "gorvel", "run", asked, "--out", "o"]
        try:
            told = subprocess.run(
                call,
                capture_output=True,
                cwd=folder,
                timeout=PATIENCE,
                check=False,
                env=os.environ | {"PYTHONPATH": str(ROOT / "src")},
            )
        except subprocess.TimeoutExpired:
            return "no end"
        said = told.stderr.decode(errors="replace")
        lines = said.strip().splitlines()
        left = [one for one in sorted(os.listdir(folder)) if one not in before]
        if told.returncode not in STATUSES:
            return f"exit {told.returncode}: {said[-600:]}"
        if "Traceback" in said or "Warning" in said:
            return f"said: {said[-600:]}"
        if told.returncode and (not lines or not lines[-1].startswith("gorvel: error: ")):
            return f"no line says why: {said[-300:]!r}"
        if left != ([] if told.returncode else ["o"]):
            return f"left beside: {left}"
        return _unfinite(folder / "o") if told.returncode == 0 else ""


def _unfinite(folder: Path) -> str:
    for path in folder.rglob("*"):
        if path.suffix in (".csv", ".json", ".nwk") and path.name != "membership.csv":
            found = re.search(
                r"(?<![\w\"'])-?(nan|inf|Infinity)(?![\w\"'])", path.read_text("utf-8"), re.I
            )
            if found is not None:
                return f"{found[0]} in {path.name}"
    return ""


def main(number: int = 300, seed: int = 1) -> int:
    """Try so many files; returns the exit status."""
    rngs = [random.Random(f"{seed}-{k}") for k in range(number)]
    made = [KINDS[k % len(KINDS)](rng) for k, rng in enumerate(rngs)]
    finds = 0
    with ThreadPoolExecutor(os.cpu_count()) as pool:
        for k, fault in enumerate(pool.map(fault_of, made)):
            if fault:
                finds += 1
                kept = Path(tempfile.gettempdir()) / f"hostile-{seed}-{k}"
                kept.mkdir(exist_ok=True)
                name, data, more, end = made[k]
                (kept / name).write_bytes(data)
                (kept / "p.toml").write_text(PLAN.format(name=name, more=more, end=end), "utf-8")
                print(f"{k} ({KINDS[k % len(KINDS)].__name__[1:]}), kept in {kept}: {fault}")
    print(f"{number} files with seed {seed}: {finds} finds")
    return int(finds > 0)


if __name__ == "__main__":
    sys.exit(main(*map(int, sys.argv[1:])))
