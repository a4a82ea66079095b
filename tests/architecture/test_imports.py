"""The one-way rule, enforced three ways, and each of them shown to bite."""

from __future__ import annotations

import ast
import re
import shutil
import subprocess
import sys
from collections.abc import Iterator
from pathlib import Path

import pytest

ROOT = Path(__file__).parents[2]
SOURCE = ROOT / "src" / "gorvel"
ALLOWED = {  # what the program may stand on, by the name it is imported under
    "fastexcel", "fontpkg_source_sans_3", "numba", "numpy", "platformdirs", "polars", "pydantic",
    "PySide6", "scipy.special", "tomlkit", "xlsxwriter",
}  # fmt: skip
FOR_TESTS = {
    "driving", "effort", "limits", "looks", "plans", "runs", "studies",
    "hypothesis", "pytest", "pytestqt", "reference",
    "scipy.optimize",  # linear programmes, for slow definitions
    "shiboken6",
}  # fmt: skip

NAMES = {
    "one-way": "desk and cli stand on core",
    "core-order": "inside core each layer",
    "desk-order": "inside desk each layer",
    "core-without-qt": "core and cli know nothing of Qt",
    "pages-apart": "pages never import each other",
    "panels-apart": "a page imports its panels",
    "no-knots": "no two siblings import each other",
}
PLANTED = [
    ("core-without-qt", "core/tree/tree.py", "import PySide6.QtCore"),
    ("core-without-qt", "cli/main.py", "from PySide6 import QtGui"),
    ("one-way", "core/tree/tree.py", "import gorvel.desk"),
    ("one-way", "core/scene/axis.py", "import gorvel.paint.theme"),
    ("one-way", "cli/main.py", "import gorvel.desk"),
    ("one-way", "paint/frame.py", "import gorvel.desk.state.marks"),
    ("one-way", "new_package/__init__.py", ""),
    ("core-order", "core/tree/tree.py", "import gorvel.core.plan"),
    ("core-order", "core/table/table.py", "import gorvel.core.tree.tree"),
    ("core-order", "core/new_layer.py", ""),
    ("desk-order", "desk/controls/reading.py", "import gorvel.desk.pages.plan"),
    ("desk-order", "desk/state/shelf.py", "import gorvel.desk.work.jobs"),
    ("pages-apart", "desk/pages/tree/desk.py", "import gorvel.desk.pages.plan"),
    ("panels-apart", "desk/pages/cases/answers.py", "import gorvel.desk.pages.cases.variables"),
    ("panels-apart", "desk/pages/count/new_card.py", ""),
    ("no-knots", "core/table/table.py", "import gorvel.core.table.reading"),
]


def lint(source: Path) -> subprocess.CompletedProcess[str]:
    command = [Path(sys.executable).with_name("lint-imports"), "--no-cache", "--config"]
    return subprocess.run(
        [*command, ROOT / "pyproject.toml"],
        cwd=source, env={"PYTHONPATH": str(source)}, capture_output=True, text=True, check=False,
    )  # fmt: skip


def planted(folder: Path, *violations: tuple[str, str]) -> subprocess.CompletedProcess[str]:
    """What is said of a copy of the program with these lines added to its modules."""
    shutil.copytree(SOURCE, folder / "gorvel", ignore=shutil.ignore_patterns("__pycache__"))
    for place, line in violations:
        file = folder / "gorvel" / place
        file.parent.mkdir(exist_ok=True)
        text = file.read_text() if file.exists() else ""
        file.write_text(f"{text}\n{line}\n")
    return lint(folder)


@pytest.fixture(scope="module")
def broken(tmp_path_factory: pytest.TempPathFactory) -> dict[str, str]:
    """What is said below the name of each contract when all imports are planted together."""
    lines = [(place, line) for _, place, line in PLANTED if line]
    result = planted(tmp_path_factory.mktemp("planted"), *lines)
    assert result.returncode != 0
    said = result.stdout.partition("Broken contracts")[2]
    parts = re.split(r"\n\n(?=[^\n]+\n-{5,}\n)", said)
    return {key: part for key, name in NAMES.items() for part in parts if part.startswith(name)}


@pytest.mark.parametrize(("contract", "place", "line"), [one for one in PLANTED if one[2]])
def test_a_planted_import_breaks_its_contract(
    broken: dict[str, str], contract: str, place: str, line: str
) -> None:
    words = line.split()
    imported = words[1] if words[1].startswith("gorvel") else "PySide6"
    importer = "gorvel." + place.removesuffix(".py").replace("/", ".")
    edge = f"{importer} -> {imported} (l."
    if contract == "no-knots":
        edge = f"- .{importer.rpartition('.')[2]} -> .{imported.rpartition('.')[2]} (1 import)"
    assert edge in broken[contract]


@pytest.mark.parametrize("place", [place for _, place, line in PLANTED if not line])
def test_a_module_that_no_layer_names_stops_the_check(tmp_path: Path, place: str) -> None:
    result = planted(tmp_path, (place, ""))
    assert result.returncode != 0
    assert Path(place).parent.name in result.stdout


def test_the_contracts_hold_and_each_has_a_planted_violation() -> None:
    result = lint(ROOT / "src")
    assert result.returncode == 0, result.stdout
    assert f"Contracts: {len(NAMES)} kept" in result.stdout
    assert {contract for contract, _, _ in PLANTED} == set(NAMES)


def imported(file: Path) -> Iterator[str]:
    """Every module a file imports, inside functions and under TYPE_CHECKING too."""
    for node in ast.walk(ast.parse(file.read_text(encoding="utf-8"))):
        if isinstance(node, ast.Import):
            yield from (alias.name for alias in node.names)
        elif isinstance(node, ast.ImportFrom) and node.module in ("scipy", "PySide6"):
            yield from (f"{node.module}.{alias.name}" for alias in node.names)
        elif isinstance(node, ast.ImportFrom):
            yield node.module or ""


def forbidden(file: Path, package: str, allowed: set[str]) -> list[str]:
    """Imports that are neither ours, nor Python's, nor on the list.

    No Qt below the window, and no widgets in what draws on any device.

    Of SciPy only the functions of distributions: what clusters, links or measures pairs is ours.
    """
    known = {"gorvel", *sys.stdlib_module_names, *allowed}
    if package in ("core", "cli"):
        known -= {"PySide6"}
    found = set(imported(file))
    above = {
        "core": ("gorvel.cli", "gorvel.paint", "gorvel.desk"),
        "cli": ("gorvel.paint", "gorvel.desk"),
        "paint": ("gorvel.cli", "gorvel.desk", "PySide6.QtWidgets"),
    }.get(package, ())
    return sorted(
        name for name in found if not {name, name.split(".")[0]} & known or name.startswith(above)
    )


@pytest.mark.slow
def test_no_hidden_import_breaks_the_rule(tmp_path: Path) -> None:
    hidden = tmp_path / "hidden.py"
    hidden.write_text(
        "def f():\n    from PySide6 import QtCore\n    import scipy.spatial\n    import scipy\n"
        "from scipy import cluster, special\nfrom scipy.stats import chi2\n"
        "from scipy.special import chdtri\n"
    )
    assert forbidden(hidden, "core", ALLOWED) == [
        "PySide6.QtCore", "scipy", "scipy.cluster", "scipy.spatial", "scipy.stats",
    ]  # fmt: skip
    hidden.write_text(
        "def f():\n    from PySide6 import QtGui, QtWidgets\n    import gorvel.desk\n"
    )
    assert forbidden(hidden, "paint", ALLOWED) == ["PySide6.QtWidgets", "gorvel.desk"]
    for file in SOURCE.rglob("*.py"):
        assert forbidden(file, file.relative_to(SOURCE).parts[0], ALLOWED) == [], file
    for folder in ("tests", "demo", "tools", "bench"):
        for file in (ROOT / folder).rglob("*.py"):
            beside = set()
            if folder in ("bench", "tools"):
                beside = {path.stem for path in file.parent.glob("*.py")}
            assert forbidden(file, folder, ALLOWED | FOR_TESTS | beside) == [], file


LOAD = """
import importlib, pkgutil, sys
for name in {packages}:
    package = importlib.import_module(name)
    for module in pkgutil.walk_packages(package.__path__, name + "."):
        importlib.import_module(module.name)
print([name for name in sys.modules if name.startswith({unwanted})], len(sys.modules) > 300)
"""


@pytest.mark.slow
@pytest.mark.parametrize(
    ("packages", "unwanted"),
    [
        (("gorvel.core", "gorvel.cli"), ("PySide6", "shiboken6", "gorvel.desk", "gorvel.paint")),
        (("gorvel.paint",), ("PySide6.QtWidgets", "gorvel.desk")),
    ],
)
def test_what_stands_below_loads_nothing_of_what_stands_above(
    packages: tuple[str, ...], unwanted: tuple[str, ...]
) -> None:
    code = LOAD.format(packages=packages, unwanted=unwanted)
    told = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True)
    assert told.stdout.strip() == "[] True"


def private_imports(body: list[ast.stmt]) -> list[str]:
    """Names that begin with a line and are taken from another module of the program."""
    return [
        f"{node.module}.{name.name}"
        for node in body
        if isinstance(node, ast.ImportFrom) and (node.module or "").startswith("gorvel")
        for name in node.names
        if name.name.startswith("_") and not name.name.startswith("__")
    ]


def test_what_begins_with_a_line_stays_in_its_module() -> None:
    for file in SOURCE.rglob("*.py"):
        body = ast.parse(file.read_text(encoding="utf-8")).body
        assert private_imports(body) == [], file


def test_a_private_name_that_is_imported_is_seen() -> None:
    body = ast.parse("from gorvel.core.a import _b, c\nfrom os import _exit\nimport d").body
    assert private_imports(body) == ["gorvel.core.a._b"]
