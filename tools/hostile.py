"""Bad files, made by rule, and what the program makes of them.

    python tools/hostile.py [number] [seed]

Each file is read by `gorvel run` in a process of its own, by a plan that means it well. Whatever
stands in it, the call has to end in time, with 0 or an exit status of the contract, one line that
says why, no trace of the interpreter, nothing left beside, no `nan` or `inf` in any result. Ends
with 1 where one does otherwise, and keeps that file.
"""

from __future__ import annotations

import os
import random
import re
import subprocess
import sys
import tempfile
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

from bad_files import FILES, PLAN, Made
from bad_plans import PLANS

ROOT = Path(__file__).parents[1]
sys.path.insert(0, str(ROOT / "src"))
PATIENCE = 60  # seconds
STATUSES = {0, 2, 3}
KINDS = (*FILES, *PLANS)


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
