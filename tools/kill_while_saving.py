"""Kill a program again and again while it saves a study: nothing may be lost, nothing left beside.

    python tools/kill_while_saving.py [kills] [seed]

A child saves two studies in turn into one file; it is killed (SIGKILL) at a random moment of that.
What the file then holds has to be one of the two, whole. Ends with 1 at the first that is not.
"""

from __future__ import annotations

import random
import signal
import subprocess
import sys
import tempfile
import time
from pathlib import Path

sys.path.insert(0, str(Path(__file__).parents[1] / "src"))

from gorvel.core.run import keep_study
from gorvel.core.study.file import save_study
from gorvel.core.study.opening import load_study

DEMO = Path(__file__).parents[1] / "demo"
PLANS = ("readers", "services")


def save_for_ever(one: Path, other: Path, file: Path) -> None:
    """What the child does."""
    contents = [load_study(one), load_study(other)]
    print("ready", flush=True)
    while True:
        for content in contents:
            save_study(content, file)


def main(kills: int = 200, seed: int = 1) -> int:
    """Kill so many children; returns the exit status."""
    rng = random.Random(seed)
    with tempfile.TemporaryDirectory() as place:
        folder = Path(place)
        kept = [folder / "kept" / f"{plan}.gorvel" for plan in PLANS]
        kept[0].parent.mkdir()
        for plan, path in zip(PLANS, kept, strict=True):
            keep_study(DEMO / f"{plan}.toml", path)
        file = folder / "own" / "study.gorvel"
        file.parent.mkdir()
        contents = [load_study(path) for path in kept]
        whole = set()
        for content in contents:  # paths in it depend on where it stands
            save_study(content, file)
            whole.add(file.read_bytes())
        half_written = 0
        for kill in range(1, kills + 1):
            command = [sys.executable, __file__, "child", *map(str, (*kept, file))]
            child = subprocess.Popen(command, stdout=subprocess.PIPE)
            assert child.stdout is not None
            child.stdout.readline()
            time.sleep(rng.uniform(0, 0.05))
            child.send_signal(signal.SIGKILL)
            child.wait()
            found = file.read_bytes()
            if found not in whole:
                print(f"kill {kill}: {len(found):,} bytes that are neither study")
                return 1
            others = [path for path in file.parent.iterdir() if path != file]
            half_written += bool(others)
            for path in others:  # so that the next kill is counted by itself
                path.unlink()
            load_study(file)
        save_study(contents[0], file)
        left = sorted(path.name for path in file.parent.iterdir())
        print(f"{kills} kills, {half_written} of them in the middle of writing: nothing was lost")
        print(f"beside the file after the next save: {left[1:] or 'nothing'}")
        return int(len(left) > 1)


if __name__ == "__main__":
    if sys.argv[1:2] == ["child"]:
        save_for_ever(*(Path(name) for name in sys.argv[2:5]))
    sys.exit(main(*(int(word) for word in sys.argv[1:])))
