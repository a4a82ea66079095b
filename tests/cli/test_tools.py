"""The tools that try to break the program find what is broken."""

from __future__ import annotations

import importlib.util
from contextlib import suppress
from pathlib import Path
from random import Random
from types import ModuleType

import pytest

from gorvel.core.base.errors import InputError
from gorvel.core.plan.file import parse_plan
from gorvel.main import DEMO

TOOLS = DEMO.parent / "tools"


@pytest.fixture(autouse=True)
def beside(monkeypatch: pytest.MonkeyPatch) -> None:
    """Tools find each other, as they do where they are started."""
    monkeypatch.syspath_prepend(str(TOOLS))


def tool(name: str) -> ModuleType:
    found = importlib.util.spec_from_file_location(name, TOOLS / f"{name}.py")
    assert found is not None
    assert found.loader is not None
    module = importlib.util.module_from_spec(found)
    found.loader.exec_module(module)
    return module


@pytest.mark.slow
def test_the_monkey_finds_a_planted_fault_and_makes_it_short(
    monkeypatch: pytest.MonkeyPatch,
) -> None:
    monkey = tool("monkey")
    assert monkey.actions(5, 60) == monkey.actions(5, 60)
    assert monkey.actions(5, 60) != monkey.actions(6, 60)
    found, done, sizes = monkey.carried_out([["page", 1], ["no such thing"], ["page", 2]])
    assert "exit 1" in found
    assert done == 2
    assert sizes

    def carried_out(script: list[list[object]]) -> tuple[str, int, list[int]]:
        bad = [k for k, action in enumerate(script) if action == ["bad"]]
        return ("exit", bad[0] + 1, []) if bad else ("", len(script), [])

    monkeypatch.setattr(monkey, "carried_out", carried_out)
    assert monkey.shorter([["page", k] for k in range(9)] + [["bad"], ["page", 0]]) == [["bad"]]


@pytest.mark.slow
def test_what_a_bad_file_may_not_do_is_seen(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    hostile = tool("hostile")
    assert hostile.fault_of(("t.csv", tool("bad_files").GOOD.encode(), "", "")) == ""
    assert hostile.fault_of(("t.csv", b"id,a,b\n1,2", "", "")) == ""  # refused as it should be
    monkeypatch.setattr(hostile, "STATUSES", {0})
    assert hostile.fault_of(("t.csv", b"id,a,b\n1,2", "", "")).startswith("exit 2")
    (tmp_path / "schedule.csv").write_text("height\n1.0\nnan\n")
    assert hostile._unfinite(tmp_path) == "nan in schedule.csv"
    (tmp_path / "schedule.csv").write_text('label,height\n"nan",1.0\nNancy,2\n')
    assert hostile._unfinite(tmp_path) == ""


def test_bad_files_are_made_by_their_seed_and_good_parts_are_good() -> None:
    hostile, plans = tool("hostile"), tool("bad_plans")
    for make in hostile.KINDS:
        assert make(Random("1")) == make(Random("1")), make
    asked = [plans._together(Random(str(k))) for k in range(40)]
    read = 0
    for name, _, more, end in asked:
        with suppress(InputError):
            parse_plan(hostile.PLAN.format(name=name, more=more, end=end), "p.toml")
            read += 1
    assert read >= 20  # parts that are right, though they may not go together
