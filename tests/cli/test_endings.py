"""A run that cannot be ended well leaves nothing behind, and says why in one line."""

from __future__ import annotations

import os
import resource
import signal
import subprocess
import sys
import time
from pathlib import Path

import pytest

from gorvel.main import DEMO, error_line, status_of

# a limit on the size of files would leave half of what is compiled, for all that start later
ENV = os.environ | {"PYTHONPATH": str(DEMO.parent / "src"), "PYTHONDONTWRITEBYTECODE": "1"}


def call(out: Path) -> list[str]:
    return [sys.executable, "-m", "gorvel", "run", str(DEMO / "stops.toml"), "--out", str(out)]


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
