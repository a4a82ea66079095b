"""The launcher: starts from anywhere, at once, without a network, and says what is wrong."""

from __future__ import annotations

import os
import subprocess
from pathlib import Path

import pytest

from gorvel import __version__

ROOT = Path(__file__).parents[2]


def call(*arguments: str, cwd: Path, **env: str) -> subprocess.CompletedProcess[str]:
    kept = {k: v for k, v in os.environ.items() if k not in ("DISPLAY", "QT_QPA_PLATFORM")}
    return subprocess.run(
        arguments, cwd=cwd, env=kept | env, capture_output=True, text=True, check=False, timeout=60
    )


@pytest.fixture
def no_network(tmp_path: Path) -> dict[str, str]:
    """pip and curl that fail when called, ahead on the path."""
    tools = tmp_path / "tools"
    tools.mkdir()
    for name in ("pip", "pip3", "curl", "wget", "apt-get", "uv"):
        (tools / name).write_text("#!/bin/sh\necho called >&2\nexit 99\n")
        (tools / name).chmod(0o755)
    return {"PATH": f"{tools}:{os.environ['PATH']}", "PIP_INDEX_URL": "http://127.0.0.1:9"}


def test_a_second_start_needs_nothing(tmp_path: Path, no_network: dict[str, str]) -> None:
    link = tmp_path / "g"
    link.symlink_to(ROOT / "gorvel")
    told = call(str(link), "--version", cwd=tmp_path, **no_network)
    assert (told.returncode, told.stdout, told.stderr) == (0, f"gorvel {__version__}\n", "")


def test_demo_without_a_display_writes_results_and_pictures(tmp_path: Path) -> None:
    told = call(str(ROOT / "gorvel"), "demo", cwd=tmp_path)
    assert told.returncode == 0, told.stderr
    assert told.stderr == ""
    written = {p.name: p.stat().st_size for p in (tmp_path / "demo-output").iterdir()}
    assert {"schedule.csv", "membership.csv", "cases.png", "plan.png", "tree.png"} <= set(written)
    assert all(name in told.stdout for name in written)
    assert min(size for name, size in written.items() if name.endswith(".png")) > 40_000


@pytest.mark.parametrize(
    ("arguments", "status", "words"),
    [
        ([], 1, "no display"),
        (["open"], 2, "gorvel open FILE"),
        (["rum"], 2, "'rum'"),
        (["run", "none.toml", "--out", "o"], 2, "none.toml: no such file"),
        (["run", "none.toml"], 2, "--out"),
        (["run", "none.toml", "--out", "o", "--fast"], 2, "--fast"),
    ],
)
def test_a_wrong_call_ends_with_one_line(
    tmp_path: Path, arguments: list[str], status: int, words: str
) -> None:
    told = call(str(ROOT / "gorvel"), *arguments, cwd=tmp_path)
    assert told.returncode == status
    (line,) = told.stderr.splitlines()
    assert line.startswith("gorvel: error: ")
    assert words in line
    assert list(tmp_path.iterdir()) == []
