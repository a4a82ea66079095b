"""Collects every text that the program shows or writes for people, so that it can be read whole.

python tools/words.py [FILE]    writes them to a file, tests/words.txt where none is named
"""

from __future__ import annotations

import ast
import re
import sys
from collections.abc import Iterator
from pathlib import Path

ROOT = Path(__file__).parents[1]
SOURCE = ROOT / "src" / "gorvel"
FILE = ROOT / "tests" / "words.txt"
_WORDS = re.compile(r"[A-Za-z]{2,}")
_OF_PROGRAMS = re.compile(  # names of keys, files and styles
    r"[a-z0-9_\-]+|[a-z_]+\.[a-z]+|[A-Z]\w*[a-z][A-Z]\w*|[\w./*-]+\.\w+|#\w+|[a-z]+/[a-z-]+|--\w+"
    r"|\[[a-z ]+\].*|Ctrl.*|utf.*|%.*"
)
_INSIDE = ("setProperty", "property", "setObjectName", "setStyleSheet", "fromhex", "Sub", "compile",
           "getLogger", "setattr", "getattr", "TypeVar", "match", "fullmatch", "sub")  # fmt: skip


def texts_of(path: Path) -> Iterator[tuple[int, str]]:
    """The texts of a module for people, each with its line; what is put in later is "…"."""
    tree = ast.parse(path.read_text(encoding="utf-8"))
    passed_over: set[int] = set()
    for node in ast.walk(tree):
        body = getattr(node, "body", None)
        if isinstance(body, list) and body and isinstance(body[0], ast.Expr):
            passed_over |= {id(one) for one in ast.walk(body[0])}  # a docstring
        if isinstance(node, ast.Call) and _name(node.func) in _INSIDE:
            passed_over |= {id(one) for one in ast.walk(node)}
        if isinstance(node, ast.Assign) and _name(node.targets[0]) == "__all__":
            passed_over |= {id(one) for one in ast.walk(node)}
        if isinstance(node, ast.arg | ast.AnnAssign) and node.annotation is not None:
            passed_over |= {id(one) for one in ast.walk(node.annotation)}
        if isinstance(node, ast.Subscript):
            passed_over |= {id(one) for one in ast.walk(node.slice)}
    for node in ast.walk(tree):
        if id(node) in passed_over:
            continue
        if isinstance(node, ast.JoinedStr):
            passed_over |= {id(part) for part in node.values if isinstance(part, ast.Constant)}
            yield (
                node.lineno,
                "".join(
                    str(part.value) if isinstance(part, ast.Constant) else "…"
                    for part in node.values
                ),
            )
        elif isinstance(node, ast.Constant) and isinstance(node.value, str):
            yield node.lineno, node.value


def _name(node: ast.expr) -> str:
    return node.id if isinstance(node, ast.Name) else getattr(node, "attr", "")


def for_people(text: str) -> bool:
    """Is it read by people, and no name of a key, a file or a style?"""
    return bool(_WORDS.search(text)) and not _OF_PROGRAMS.fullmatch(text.strip())


def all_texts() -> str:
    """By module, in the order in which they stand there."""
    out = []
    for path in sorted(SOURCE.rglob("*.py")):
        if "kernels" in path.parts:
            continue
        found = sorted((line, text) for line, text in texts_of(path) if for_people(text))
        words = list(dict.fromkeys(text.replace("\n", "⏎").replace("\0", "") for _, text in found))
        if words:
            out.append(f"{path.relative_to(SOURCE)}\n" + "".join(f"  {one}\n" for one in words))
    return "\n".join(out)


if __name__ == "__main__":
    (Path(sys.argv[1]) if len(sys.argv) > 1 else FILE).write_text(all_texts(), encoding="utf-8")
