"""Bad plans and studies, made by rule, and good parts of plans by chance together."""

from __future__ import annotations

import io
import json
import re
import tempfile
import zipfile
from collections.abc import Iterable
from functools import cache
from pathlib import Path
from typing import get_args

from bad_files import GOOD, PLAN, Made, Maker, Rng


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
            file.writestr(zipfile.ZipInfo(name), held)
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


PLANS: tuple[Maker, ...] = (_plan, _studies, _keys, _together, _together)
