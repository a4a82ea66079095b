"""Windows and menus that are closed are done away with: none is made in another way."""

from __future__ import annotations

import ast
from collections.abc import Iterator
from pathlib import Path

import pytest

DESK = Path(__file__).parents[2] / "src" / "gorvel" / "desk"
MADE = {"QDialog", "QMenu", "QMessageBox"}


def _called(node: ast.AST) -> str:
    return node.func.id if isinstance(node, ast.Call) and isinstance(node.func, ast.Name) else ""


def kept(tree: ast.AST) -> Iterator[str]:
    """Windows and menus that are made in a module and stay when they are closed.

    A menu of a button stays with its button; a class of dialogs says of itself that it passes.
    """
    passed = {id(node.args[0]) for node in ast.walk(tree) if _called(node) == "delete_on_close"
              and isinstance(node, ast.Call) and node.args}  # fmt: skip
    for outer in ast.walk(tree):
        bases = map(ast.unparse, outer.bases) if isinstance(outer, ast.ClassDef) else ()
        if isinstance(outer, ast.ClassDef) and MADE & set(bases):
            yield from [outer.name] if "delete_on_close(self)" not in ast.unparse(outer) else []
        if not isinstance(outer, ast.FunctionDef):
            continue
        words = ast.unparse(outer)
        for node in ast.walk(outer):
            own = ".setMenu(" in words or ".deleteLater()" in words
            if _called(node) in MADE and id(node) not in passed and not own:
                yield f"{outer.name}: {ast.unparse(node)}"


@pytest.mark.slow
def test_whatever_is_closed_is_done_away_with() -> None:
    found = {
        path.name: names
        for path in DESK.rglob("*.py")
        if (names := list(kept(ast.parse(path.read_text("utf-8")))))
    }
    assert found == {"rule_menus.py": ["_StayingMenu"]}  # which belongs to a button


@pytest.mark.parametrize(
    "code",
    [
        "def f(self):\n    QMenu(self).popup(at)",
        "def f(self):\n    dialog = QDialog(self)\n    dialog.show()",
        "class Asks(QDialog):\n    def __init__(self):\n        super().__init__()",
    ],
)
def test_one_that_stays_is_found(code: str) -> None:
    assert list(kept(ast.parse(code)))


def test_whoever_may_be_done_away_with_is_named_where_work_is_asked_for() -> None:
    """Else what was worked out is handed to something that is no more: pages are made anew."""
    found = 0
    for room in ("pages", "views", "controls"):
        for file in (DESK / room).rglob("*.py"):
            for call in ast.walk(ast.parse(file.read_text())):
                if isinstance(call, ast.Call) and ast.unparse(call.func).endswith("jobs.start"):
                    found += 1
                    assert "asker" in {key.arg for key in call.keywords}, (file, call.lineno)
    assert found > 10
