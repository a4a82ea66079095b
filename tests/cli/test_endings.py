"""A run that cannot be ended well leaves nothing behind, and says why in one line."""

from __future__ import annotations

import os
import random
import resource
import shlex
import shutil
import signal
import subprocess
import sys
import time
from collections.abc import Callable
from pathlib import Path

import pytest

from gorvel.main import DEMO, error_line, status_of

# a limit on the size of files would leave half of what is compiled, for all that start later
ENV = os.environ | {"PYTHONPATH": str(DEMO.parent / "src"), "PYTHONDONTWRITEBYTECODE": "1"}


def call(out: Path) -> list[str]:
    return [sys.executable, "-m", "gorvel", "run", str(DEMO / "stops.toml"), "--out", str(out)]


@pytest.mark.slow
@pytest.mark.parametrize("there", [False, True])
def test_results_that_find_no_room_leave_the_directory_as_it_was(
    tmp_path: Path, there: bool
) -> None:
    """A limit on the size of files stands in for a full disk."""
    out = tmp_path / "results"
    if there:
        out.mkdir()
        (out / "summary.json").write_text("before")
    told = subprocess.run(
        call(out), capture_output=True, text=True, env=ENV,
        preexec_fn=lambda: resource.setrlimit(resource.RLIMIT_FSIZE, (1_024, 1_024)),
    )  # fmt: skip
    assert told.returncode == 2
    assert "Traceback" not in told.stderr
    last = told.stderr.strip().splitlines()[-1]
    assert last.startswith("gorvel: error: ")
    assert str(out) in last
    assert "too large" in last
    assert [path.name for path in tmp_path.iterdir()] == (["results"] if there else [])
    if there:
        assert [path.read_text() for path in out.iterdir()] == ["before"]


@pytest.mark.slow
@pytest.mark.parametrize("name", ["SIGHUP", "SIGTERM", "SIGINT"])
def test_a_signal_ends_a_run_with_nothing_left(tmp_path: Path, name: str) -> None:
    out = tmp_path / "results"
    with subprocess.Popen(call(out), stderr=subprocess.PIPE, text=True, env=ENV) as run:
        assert run.stderr is not None
        while not list(tmp_path.glob(".results.part-*")) and run.poll() is None:
            time.sleep(0.002)
        run.send_signal(getattr(signal, name))
        told = run.stderr.read()
    assert run.returncode in (130, 0)
    left = [path.name for path in tmp_path.iterdir()]
    assert left == ([] if run.returncode else ["results"])
    assert run.returncode == 0 or told.strip().splitlines()[-1] == "gorvel: error: cancelled"


def _catches(process: int, number: int) -> bool:
    """Does a process of this number handle a signal by now?"""
    try:
        told = Path(f"/proc/{process}/status").read_text()
    except OSError:
        return False
    caught = next(line for line in told.splitlines() if line.startswith("SigCgt"))
    return bool(int(caught.split()[1], 16) >> (number - 1) & 1)


@pytest.mark.slow
def test_at_any_moment_a_run_is_cancelled_or_done(tmp_path: Path) -> None:
    """From the first lines of the program to the last."""
    rng, ends = random.Random(1), set()
    for k in range(8):
        out = tmp_path / f"o{k}"
        arguments = [sys.executable, "-m", "gorvel", "run", str(DEMO / "services.toml"), "--out"]
        with subprocess.Popen(
            [*arguments, str(out)], stderr=subprocess.PIPE, stdout=subprocess.DEVNULL, env=ENV
        ) as run:
            assert run.stderr is not None
            while not _catches(run.pid, signal.SIGTERM) and run.poll() is None:
                time.sleep(0.001)
            time.sleep(0 if k < 3 else rng.uniform(0, 1.0))
            run.send_signal(signal.SIGTERM)
            told = run.stderr.read().decode()
        assert run.returncode in (0, 130), told
        assert told in ("", "gorvel: error: cancelled\n")
        assert os.listdir(tmp_path) == ([out.name] if run.returncode == 0 else [])
        if run.returncode == 0:
            shutil.rmtree(out)
        ends.add(run.returncode)
    assert 130 in ends


def test_the_line_of_an_error_is_short_and_steers_no_terminal(
    tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    path = tmp_path / "t.csv"
    path.write_text('a,b\n1,2\n"\x1b[31m\x07' + "long " * 2_000 + '",3\n4,5\n7,8\n9,1\n')
    plan = tmp_path / "p.toml"
    plan.write_text('gorvel = 1\n[source]\nfile = "t.csv"\n[variables]\nuse = ["a", "b"]\n')
    assert status_of(["run", str(plan), "--out", str(tmp_path / "o")]) == 2
    (line,) = capsys.readouterr().err.splitlines()
    assert len(line) == 2_000
    assert line.startswith('gorvel: error: t.csv: row 2, column "a": "\\x1b[31m\\x07long')
    assert line.isprintable()
    assert error_line("plain — words") == "gorvel: error: plain — words"


@pytest.fixture
def told_of(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str]
) -> Callable[..., tuple[int, str]]:
    """The exit status of a call in a place of its own, and the last line that it says of errors."""
    monkeypatch.chdir(tmp_path)

    def call(*arguments: str) -> tuple[int, str]:
        status = status_of([*arguments])
        return status, (capsys.readouterr().err.strip().splitlines() or [""])[-1]

    return call


@pytest.mark.parametrize(
    ("out", "said"),
    [
        ("", "argument --out: no name"), ("x" * 1_000, "File name too long"),
        ("there.txt", "a file; expected a directory for the results"),
        ("there.txt/below", "File exists"),
    ],
)  # fmt: skip
def test_places_for_results_that_are_none(
    tmp_path: Path, told_of: Callable[..., tuple[int, str]], out: str, said: str
) -> None:
    (tmp_path / "there.txt").write_text("before")
    status, line = told_of("run", str(DEMO / "services.toml"), "--out", out)
    assert status == 2
    assert said in line
    assert (tmp_path / "there.txt").read_text() == "before"
    assert os.listdir(tmp_path) == ["there.txt"]


@pytest.mark.slow
def test_a_name_that_is_no_text_is_one_all_the_same(tmp_path: Path) -> None:
    out = os.fsencode(tmp_path) + b"/no\xffname"
    told = subprocess.run([*call(tmp_path)[:-1], out], capture_output=True, env=ENV)
    assert told.returncode == 0, told.stderr
    assert os.path.exists(out + b"/tree.nwk")


DEEP = "gorvel = 1\nx = " + "[" * 5_000 + "]" * 5_000
USE = '[variables]\nuse = ["a"]\n'
SOURCE = 'gorvel = 1\n[source]\nfile = "t.csv"\n'


@pytest.mark.parametrize(
    ("plan", "data", "said"),
    [
        (DEEP, "", "nested too deeply"),
        ("gorvel = 1\nx = " + "9" * 5_000, "", "Exceeds the limit"),
        *((f'{SOURCE}encoding = "{name}"\n{USE}', "a,b\n1,2\n", f'unknown encoding "{name}"')
          for name in ("punycode", "undefined", "rot13", "nonsense")),
        (SOURCE + USE, "a,b\n1,2\n1e200,3\n4,5\n6,1\n",
         'row 2, column "a": "1e200"; expected a number no larger than 1e100'),
        (SOURCE + USE, 'a,b\n1,2\n3,"4\n5,6\n7,8\n',
         "row 2 (line 3): a quote that is never closed"),
        (SOURCE + USE, 'a,b\n1,2\n"3"4,5\n', "row 2 (line 3): a quote that ends within a cell"),
        (SOURCE + "[count]\nresamples = 9000000000000000000\n", "a,b\n1,2\n", "at most 1e+06"),
    ],
)  # fmt: skip
def test_bad_input_ends_in_one_line(
    tmp_path: Path, told_of: Callable[..., tuple[int, str]], plan: str, data: str, said: str
) -> None:
    (tmp_path / "t.csv").write_text(data)
    (tmp_path / "p.toml").write_text(plan)
    status, line = told_of("run", "p.toml", "--out", "o")
    assert status == 2
    assert line.startswith("gorvel: error: ")
    assert said in line
    assert sorted(os.listdir(tmp_path)) == ["p.toml", "t.csv"]


def test_a_pipe_and_a_device_are_no_data(
    tmp_path: Path, told_of: Callable[..., tuple[int, str]]
) -> None:
    """They may never end."""
    os.mkfifo(tmp_path / "pipe.csv")
    (tmp_path / "zero.csv").symlink_to("/dev/zero")
    (tmp_path / "folder.csv").mkdir()
    plan = tmp_path / "p.toml"
    for name, said in (
        ("pipe.csv", "a pipe or a device"), ("zero.csv", "a pipe or a device"),
        ("folder.csv", "a directory"),
    ):  # fmt: skip
        plan.write_text(SOURCE.replace("t.csv", name) + USE)
        status, line = told_of("run", str(plan), "--out", "o")
        assert (status, f"{name}: {said}; expected a file on the disk" in line) == (2, True)
        plan.unlink()
        os.mkfifo(plan)
        status, line = told_of("run", str(plan), "--out", "o")
        assert (status, "p.toml: a pipe or a device" in line) == (2, True)
        plan.unlink()


@pytest.mark.slow
def test_what_is_told_finds_no_room(tmp_path: Path) -> None:
    with open("/dev/full", "wb") as full:
        told = subprocess.run(
            [*call(tmp_path / "o"), "--json"], stdout=full, stderr=subprocess.PIPE, env=ENV
        )
    assert told.returncode == 2
    (line,) = told.stderr.decode().strip().splitlines()[-1:]
    assert line == "gorvel: error: no space left to write the output"
    assert (tmp_path / "o" / "tree.nwk").exists()


@pytest.mark.slow
@pytest.mark.parametrize("closed", ["0<&-", "1>&-", "2>&-", "0<&- 1>&- 2>&-"])
def test_a_stream_that_the_caller_closed_is_not_missed(tmp_path: Path, closed: str) -> None:
    """Nor does another file get its number, into which what is told would be written."""
    out = tmp_path / "out"
    line = " ".join(["exec", *map(shlex.quote, call(out)), closed])
    ended = subprocess.run(["bash", "-c", line], capture_output=True, text=True, env=ENV)
    assert ended.returncode == 0
    assert "Traceback" not in ended.stderr
    for path in out.rglob("*"):
        assert path.is_dir() or "wrote" not in path.read_text(encoding="utf-8")
    wrong = [*call(out)[:-1], "/dev/null/x"]
    line = " ".join(["exec", *map(shlex.quote, wrong), closed])
    assert subprocess.run(["bash", "-c", line], capture_output=True, env=ENV).returncode == 2
