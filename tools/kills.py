"""Kills and full disks while files are saved: nothing torn, nothing left after the next save.

    python tools/kills.py [kills of each kind] [seed]

A child saves two contents in turn into one place and is killed (SIGKILL) at a random moment. What
the place then holds has to be one of the two, whole. Then the disk is full (a limit on the size of
files) at a random place of the file: the content before has to stand there. Ends with 1 at the
first fault.
"""

from __future__ import annotations

import os
import random
import re
import resource
import select
import shutil
import signal
import sys
import tempfile
import time
import zipfile
from collections.abc import Callable
from contextlib import suppress
from functools import partial
from pathlib import Path

sys.path.insert(0, str(Path(__file__).parents[1] / "src"))

import polars as pl

from gorvel.core.base.errors import InputError
from gorvel.core.codebook.codebook import codebook_of, save_codebook
from gorvel.core.export.membership import write_frame
from gorvel.core.plan.file import load_plan, save_plan
from gorvel.core.table.table import Table

DEMO = Path(__file__).parents[1] / "demo"
PATIENCE = 20.0  # seconds
_DATED = re.compile(rb"/(Creation|Mod)Date.*|<xmp:.*|<rdf:.*|/ID .*|.*uuid.*")  # in a PDF
Save = Callable[[Path], object]


def _studies() -> tuple[Save, Save]:
    from gorvel.core.run import keep_study
    from gorvel.core.study.file import save_study
    from gorvel.core.study.opening import load_study

    saves = []
    for name in ("readers", "stops"):
        path = Path(tempfile.gettempdir()) / f"kills-{os.getppid()}-{name}.gorvel"
        if not path.exists():
            keep_study(DEMO / f"{name}.toml", path)
        saves.append(partial(save_study, load_study(path)))
    return saves[0], saves[1]


def _plans() -> tuple[Save, Save]:
    plans = [load_plan(DEMO / f"{name}.toml") for name in ("readers", "stops")]
    return partial(save_plan, plans[0]), partial(save_plan, plans[1])


def _tables() -> tuple[Save, Save]:
    frames = [pl.DataFrame({"a": range(300), "b": ["one"] * 300}), pl.DataFrame({"c": [1.5] * 500})]
    return partial(write_frame, frames[0]), partial(write_frame, frames[1])


def _books() -> tuple[Save, Save]:
    table = Table("t", pl.DataFrame({"a": ["1", "2"], "b": ["x", "y"]}))
    plans = [load_plan(DEMO / f"{name}.toml") for name in ("readers", "stops")]
    books = [codebook_of(plan, table) for plan in plans]
    return partial(save_codebook, books[0]), partial(save_codebook, books[1])


def _figures(kind: str) -> tuple[Save, Save]:
    from gorvel.desk.window.application import make_application
    from gorvel.paint.figure import Sheet, drawn

    application = make_application()
    figures = [
        drawn(Sheet(lambda canvas, *_, said=said: canvas.painter.drawText(20, 40, said)), kind)
        for said in ("one", "another")
    ]
    del application
    return figures[0], figures[1]


def _settings() -> tuple[Save, Save]:
    from gorvel.desk.state.settings import Settings, save_settings

    def save(geometry: str, path: Path) -> None:
        os.environ["GORVEL_SETTINGS"] = str(path)
        save_settings(Settings(theme="dark", geometry=geometry))

    return partial(save, "00" * 2_000), partial(save, "11" * 9)


def _results() -> tuple[Save, Save]:
    from gorvel.core.run import run_plan

    return partial(run_plan, DEMO / "stops.toml"), partial(run_plan, DEMO / "services.toml")


# what is saved is made in the children: threads of a library do not outlive a fork
KINDS: dict[str, Callable[[], tuple[Save, Save]]] = {
    "study.gorvel": _studies, "plan.toml": _plans, "table.csv": _tables, "table.xlsx": _tables,
    "book.json": _books, "book.xml": _books, "figure.svg": partial(_figures, "svg"),
    "figure.pdf": partial(_figures, "pdf"), "figure.png": partial(_figures, "png"),
    "settings.json": _settings, "results": _results,
}  # fmt: skip


def held(place: Path) -> dict[str, bytes]:
    """What stands in a file, or in the files of a directory, without dates and times taken."""
    if place.suffix == ".xlsx":
        with zipfile.ZipFile(place) as book:
            return {name: book.read(name) for name in book.namelist() if "docProps" not in name}
    if place.is_file():
        data = place.read_bytes()
        return {"": _DATED.sub(b"", data) if place.suffix == ".pdf" else data}
    files = [path for path in place.rglob("*") if path.is_file() and path.name != "summary.json"]
    return {str(path.relative_to(place)): path.read_bytes() for path in files}


def _beside(place: Path) -> list[str]:
    locks = f".{place.name}.lock"
    return sorted(n for n in os.listdir(place.parent) if n not in (place.name, locks))


def in_a_child(work: Callable[[], int]) -> int:
    """Fork; returns the child. Its exit status is what the work returns."""
    child = os.fork()
    if child == 0:
        status = 1
        with suppress(BaseException):
            status = work()
        os._exit(status)
    return child


def outcome(work: Callable[[], int]) -> int:
    """What a child returns. One that stands still was born while a lock was held: another is."""
    while True:
        child, end = in_a_child(work), time.monotonic() + PATIENCE
        while time.monotonic() < end:
            found, status = os.waitpid(child, os.WNOHANG)
            if found:
                return os.waitstatus_to_exitcode(status)
            time.sleep(0.002)
        os.kill(child, signal.SIGKILL)
        os.waitpid(child, 0)


def killed(make: Callable[[], tuple[Save, Save]], place: Path, wait: float) -> None:
    """A child saves one and the other until it is killed."""
    heard, says = os.pipe()

    def work() -> int:
        saves = make()
        for save in saves:  # what is slow for the first time
            save(place)
        os.write(says, b"x")
        while True:
            for save in saves:
                save(place)

    ready = False
    while not ready:  # see `outcome`
        child = in_a_child(work)
        ready = bool(select.select([heard], [], [], PATIENCE)[0])
        time.sleep(wait)
        os.kill(child, signal.SIGKILL)
        os.waitpid(child, 0)
    os.close(says)
    os.close(heard)


def full(make: Callable[[], tuple[Save, Save]], place: Path, limit: int) -> bool:
    """A child saves where there is no room beyond so many bytes; does it say so?"""

    def work() -> int:
        save = make()[1]
        signal.signal(signal.SIGXFSZ, signal.SIG_IGN)
        resource.setrlimit(resource.RLIMIT_FSIZE, (limit, limit))
        try:
            save(place)
        except InputError as error:
            return 3 if place.name in str(error) else 4
        return 0

    return outcome(work) == 3


def saved(make: Callable[[], tuple[Save, Save]], which: int, place: Path) -> float:
    """A child saves one of the two; returns the seconds that it takes."""
    heard, says = os.pipe()

    def work() -> int:
        save = make()[which]
        save(place)
        begin = time.monotonic()
        save(place)
        os.write(says, f"{time.monotonic() - begin}".encode())
        return 0

    assert outcome(work) == 0, f"{place.name} cannot be saved"
    os.close(says)
    took = float(os.read(heard, 100))
    os.close(heard)
    return took


def tried(
    make: Callable[[], tuple[Save, Save]], place: Path, kills: int, rng: random.Random
) -> str:
    """What is wrong with one kind, "" for nothing; prints figures."""
    whole, took = [], 0.0
    for which in (0, 1):
        took = max(took, saved(make, which, place))
        whole.append(held(place))
        shutil.rmtree(place) if place.is_dir() else place.unlink()
    saved(make, 0, place)
    middle = mixed = 0
    for kill in range(kills):
        killed(make, place, rng.uniform(0, 2.2 * took + 0.002))
        found = held(place)
        torn = [name for name, data in found.items() if data not in [w.get(name) for w in whole]]
        # results go into a directory that is there file by file
        parts = [whole[0] | whole[1], whole[1] | whole[0]]
        mixed += found not in (whole if place.is_file() else parts)
        if torn or (mixed and place.is_file()):
            return f"{place.name}: kill {kill + 1} left {torn} torn"
        middle += bool(_beside(place))
    saved(make, 0, place)
    if _beside(place):
        return f"{place.name}: {_beside(place)} left after the next save"
    faults = 0
    size = max(len(data) for data in whole[1].values())
    for _ in range(0 if place.name == "settings.json" else max(kills // 10, 1)):
        before, faults = held(place), faults + 1
        said = full(make, place, rng.randrange(1, max(size - 1, 2)))
        if not said or held(place) != before or _beside(place):
            return f"{place.name}: a full disk left {_beside(place)}, said {said}"
    told = f", {mixed} with files of both" if mixed else ""
    print(
        f"{place.name}: {kills} kills, {middle} of them in the middle of writing{told},"
        f" {faults} full disks: none torn, none left",
        flush=True,
    )
    return ""


def main(kills: int = 200, seed: int = 1) -> int:
    """Try every kind of file; returns the exit status."""
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    rng = random.Random(seed)
    with tempfile.TemporaryDirectory() as folder:
        tempfile.tempdir = folder
        for name, make in KINDS.items():
            place = Path(folder) / name.replace(".", "-") / name
            place.parent.mkdir()
            fault = tried(make, place, kills, rng)
            if fault:
                print(fault)
                return 1
    return 0


if __name__ == "__main__":
    sys.exit(main(*(int(word) for word in sys.argv[1:])))
