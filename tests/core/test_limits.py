"""Memory that is to be had: limits of the process and of its control groups count."""

from __future__ import annotations

import subprocess
import sys
from pathlib import Path

import pytest

from gorvel.core.base.limits import free_memory, free_of_groups
from gorvel.main import DEMO


def put(place: Path, **files: str) -> None:
    place.mkdir(parents=True, exist_ok=True)
    for name, words in files.items():
        (place / name.replace("__", ".")).write_text(words)


@pytest.mark.parametrize(
    ("version", "limit", "usage", "idle"),
    [(2, "memory__max", "memory__current", "inactive_file"),
     (1, "memory__limit_in_bytes", "memory__usage_in_bytes", "total_inactive_file")],
)  # fmt: skip
def test_the_least_that_any_group_leaves(
    tmp_path: Path, version: int, limit: str, usage: str, idle: str
) -> None:
    root = tmp_path if version == 2 else tmp_path / "memory"
    own = tmp_path / "own"
    own.write_text("0::/a/b\n" if version == 2 else "9:name=x:/a\n4:memory:/a/b\n0::/\n")
    put(root / "a", **{limit: "1000000", usage: "700000", "memory__stat": f"x 1\n{idle} 200000\n"})
    put(root / "a" / "b", **{limit: "800000", usage: "100000"})
    assert free_of_groups(tmp_path, own) == 500_000
    put(root / "a" / "b", **{limit: "150000"})
    assert free_of_groups(tmp_path, own) == 50_000
    put(root / "a" / "b", **{usage: "900000"})
    assert free_of_groups(tmp_path, own) == 0
    for none in ("max", "9223372036854771712"):
        put(root / "a", **{limit: none})
        put(root / "a" / "b", **{limit: none})
        assert free_of_groups(tmp_path, own) == float("inf")


def test_what_is_not_told_is_no_limit(tmp_path: Path) -> None:
    assert free_of_groups(tmp_path, tmp_path / "none") == float("inf")
    (tmp_path / "own").write_text("0::/\n")
    assert free_of_groups(tmp_path, tmp_path / "own") == float("inf")
    assert 0 < free_memory() < 1 << 60


def test_a_limit_of_the_process_is_one(tmp_path: Path) -> None:
    code = (
        "import resource; resource.setrlimit(resource.RLIMIT_AS, (1 << 30, 1 << 30));"
        "from gorvel.core.base.limits import free_memory; print(free_memory())"
    )
    told = subprocess.run(
        [sys.executable, "-c", code], capture_output=True, text=True, check=True,
        env={"PYTHONPATH": str(DEMO.parent / "src")},
    )  # fmt: skip
    assert 0 < float(told.stdout) < 1 << 30
