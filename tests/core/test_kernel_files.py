"""Kernels give their numbers whatever became of what was compiled before, and wherever they run."""

from __future__ import annotations

import os
import signal
from collections.abc import Callable
from pathlib import Path
from typing import Any

import numba
import numpy as np
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from gorvel.core import warm as warming
from gorvel.core.kernels import keeping
from gorvel.core.kernels.keeping import KernelFiles, all_kept
from gorvel.core.kernels.loading import COMPLETE
from limits import file_size

VALUES = np.arange(5.0)


def total(values: Any, first: Any) -> Any:
    found = first
    for value in values:
        found += value
    return found


def fresh(folder: Path) -> Any:
    """The kernel as another process has it."""
    made = numba.njit(total)
    made._cache = KernelFiles(total, folder)
    return made


def found_in(folder: Path) -> tuple[int, int]:
    """How often what was kept is used, and how often it is compiled; the number is always right."""
    kernel = fresh(folder)
    assert kernel(VALUES, 1.0) == 11.0
    return sum(kernel.stats.cache_hits.values()), sum(kernel.stats.cache_misses.values())


@pytest.fixture
def kept(tmp_path: Path) -> Path:
    """The one file of the kernel."""
    assert found_in(tmp_path / "kernels") == (0, 1)
    (path,) = (tmp_path / "kernels").iterdir()
    return path


def test_what_was_compiled_is_used_for_arguments_of_its_kind(kept: Path) -> None:
    assert found_in(kept.parent) == (1, 0)
    kernel = fresh(kept.parent)
    assert kernel(np.arange(5), 1) == 11
    assert sum(kernel.stats.cache_misses.values()) == 1  # whole numbers
    assert len(list(kept.parent.iterdir())) == 2
    assert found_in(kept.parent) == (1, 0)


@pytest.mark.slow
@settings(max_examples=12, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(
    way=st.sampled_from(["empty", "cut", "changed", "longer"]),
    share=st.floats(0.0, 1.0, exclude_max=True), bits=st.integers(1, 255),
)  # fmt: skip
def test_what_is_damaged_is_compiled_once_more(
    kept: Path, way: str, share: float, bits: int
) -> None:
    whole = kept.read_bytes()
    at = int(share * len(whole))
    damaged = {
        "empty": b"", "cut": whole[:at], "longer": whole + b"\0",
        "changed": whole[:at] + bytes([whole[at] ^ bits]) + whole[at + 1 :],
    }  # fmt: skip
    kept.write_bytes(damaged[way])
    assert found_in(kept.parent) == (0, 1)
    assert found_in(kept.parent) == (1, 0)


def _nowhere(folder: Path) -> None:
    folder.write_text("no directory")


def _in_the_way(folder: Path) -> None:
    assert found_in(folder) == (0, 1)
    (path,) = folder.iterdir()
    path.unlink()
    path.mkdir()


@pytest.mark.parametrize("hinder", [_nowhere, _in_the_way, None])
def test_without_a_place_or_room_they_work_all_the_same(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch, hinder: Callable[[Path], None] | None
) -> None:
    folder = tmp_path / "kernels"
    if hinder is not None:
        hinder(folder)
    monkeypatch.setattr(keeping, "_lost", [])
    assert all_kept()
    if hinder is None:
        with file_size(100):
            assert found_in(folder) == (0, 1)
        assert os.listdir(folder) == []
    else:
        before = sorted(tmp_path.rglob("*"))
        assert found_in(folder) == (0, 1)
        assert sorted(tmp_path.rglob("*")) == before
    assert not all_kept()


@pytest.mark.parametrize("lost", [False, True])
def test_all_is_said_to_be_compiled_only_where_all_could_be_kept(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch, lost: bool
) -> None:
    monkeypatch.setattr(warming, "kept_in", lambda: tmp_path)
    steps: list[int] = []
    monkeypatch.setattr(warming, "_on_matrices", lambda: (steps.append(k) for k in range(5)))
    monkeypatch.setattr(warming, "warm", lambda: None)
    monkeypatch.setattr(warming.sys, "executable", "true")
    monkeypatch.setattr(keeping, "_lost", [tmp_path / "x"] if lost else [])
    warming._compile()
    assert (tmp_path / COMPLETE).exists() is not lost
    assert len(steps) == (1 if lost else 5)  # not gone on with for nobody


def test_the_limit_is_a_limit(tmp_path: Path) -> None:
    with file_size(100), pytest.raises(OSError, match="File too large"):
        (tmp_path / "x").write_bytes(bytes(101))
    assert signal.getsignal(signal.SIGXFSZ) == signal.SIG_IGN  # as Python has it
    (tmp_path / "x").write_bytes(bytes(101))
