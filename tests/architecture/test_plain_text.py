"""Words reach Qt as they are to be seen: no ampersand is lost, nothing is taken for markup."""

from __future__ import annotations

import ast
from collections.abc import Iterator
from pathlib import Path

import pytest

DESK = Path(__file__).parents[2] / "src" / "gorvel" / "desk"
# calls, and which of their arguments are words
SAID = {
    "addAction": 0, "addMenu": 0, "QAction": 0, "setToolTip": 0, "showText": 1, "QCheckBox": 0,
    "QRadioButton": 0, "QPushButton": 0, "QToolButton": 0, "addButton": 0, "addTab": 1,
    "QGroupBox": 0,
}  # fmt: skip
AS_IS = {"as_item", "as_tip", "as_question"}
OBJECTS = {
    "menu",
    "self",
    "action",
    "alike",
    "tab",
    "self._colour_action(name)",
}  # no words: a parent, or an action made before


def _called(node: ast.AST) -> str:
    if not isinstance(node, ast.Call):
        return ""
    return node.func.id if isinstance(node.func, ast.Name) else getattr(node.func, "attr", "")


def _plain(node: ast.AST) -> bool:
    """Is it known what is seen of these words?"""
    if isinstance(node, ast.IfExp):
        return _plain(node.body) and _plain(node.orelse)
    if isinstance(node, ast.BinOp):  # with the keys that do the same
        return _plain(node.left)
    if isinstance(node, ast.Constant):
        return "&" not in str(node.value)
    return _called(node) in AS_IS


def careless(tree: ast.AST) -> Iterator[str]:
    """Words that Qt may show as others."""
    for node in ast.walk(tree):
        place = SAID.get(_called(node))
        if place is not None and isinstance(node, ast.Call) and len(node.args) > place:
            words = node.args[place]
            if _called(words) == "QIcon":
                words = node.args[place + 1]
            if not _plain(words) and ast.unparse(words) not in OBJECTS:
                yield ast.unparse(node)
        if isinstance(node, ast.FunctionDef):
            told = ast.unparse(node)
            if "ToolTipRole" in told and "as_tip" not in told:
                yield f"{node.name}: ToolTipRole"
        if isinstance(node, ast.Assign) and _called(node.value) == "QLabel":
            args = node.value.args if isinstance(node.value, ast.Call) else []
            if args and not isinstance(args[0], ast.Constant):
                yield ast.unparse(node)


def test_all_words_are_shown_as_they_are() -> None:
    found = {
        path.name: names
        for path in DESK.rglob("*.py")
        if path.name != "plain_text.py"
        and (names := list(careless(ast.parse(path.read_text("utf-8")))))
    }
    assert found == {
        # names of fields, of which some have a key
        "dialog_parts.py": ["label = QLabel(words)"], "page.py": ["label = QLabel(words)"],
    }  # fmt: skip


@pytest.mark.parametrize(
    "code",
    [
        "menu.addAction(name, act)",
        "menu.addAction(f'Hide {name}', act)",
        "widget.setToolTip(name)",
        "widget.setToolTip('' if name is None else name)",
        "QToolTip.showText(at, words, self)",
        "box = QCheckBox(f'{cell}')",
        "QPushButton('Save & close')",
        "QAction(QIcon(x), name, menu)",
        "label = QLabel(name)",
        "def data(self, index, role):\n    if role == Qt.ToolTipRole:\n        return self.name",
    ],
)
def test_words_that_could_be_others_are_found(code: str) -> None:
    assert list(careless(ast.parse(code)))
