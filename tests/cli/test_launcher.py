"""The launcher: starts from anywhere, at once, without a network, and says what is wrong."""

from __future__ import annotations

import os
import subprocess
from pathlib import Path

import pytest

from gorvel import __version__
from gorvel.desk.window.pages import NAMES

ROOT = Path(__file__).parents[2]


def call(*arguments: str, cwd: Path, **env: str) -> subprocess.CompletedProcess[str]:
    kept = {k: v for k, v in os.environ.items() if k not in ("DISPLAY", "QT_QPA_PLATFORM")}
    return subprocess.run(
        arguments, cwd=cwd, env=kept | env, capture_output=True, text=True, check=False, timeout=600
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


@pytest.mark.slow
def test_a_second_start_needs_nothing(tmp_path: Path, no_network: dict[str, str]) -> None:
    link = tmp_path / "g"
    link.symlink_to(ROOT / "gorvel")
    told = call(str(link), "--version", cwd=tmp_path, **no_network)
    assert (told.returncode, told.stdout, told.stderr) == (0, f"gorvel {__version__}\n", "")


@pytest.mark.slow
def test_demo_without_a_display_writes_results_and_pictures(tmp_path: Path) -> None:
    told = call(str(ROOT / "gorvel"), "demo", cwd=tmp_path)
    assert told.returncode == 0, told.stderr
    assert told.stderr == ""
    written = {p.name: p.stat().st_size for p in (tmp_path / "demo-output").iterdir()}
    pages = {f"{page.lower()}.png" for page in NAMES}
    assert {"schedule.csv", "membership.csv"} | pages <= set(written)
    assert len(pages) == 7
    assert all(name in told.stdout for name in written)
    assert min(size for name, size in written.items() if name.endswith(".png")) > 40_000


@pytest.mark.slow
@pytest.mark.parametrize(
    ("arguments", "status", "words"),
    [
        ([], 1, "no display"),
        (["open"], 2, "gorvel open FILE"),
        (["rum"], 2, "'rum'"),
        (["run", "none.toml", "--out", "o"], 2, "none.toml: file not found"),
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


# in the place of Python: says what it is asked for, and makes environments that lead to itself
PYTHON = """#!/bin/bash
echo "$*" >> "{log}"
case "$*" in
    *"-m pip"*install*) exit $(cat "{fails}" 2>/dev/null || echo 0) ;;
    "-m venv"*)
        mkdir -p "${{@: -1}}/bin"
        ln -s "$(readlink -f "$0")" "${{@: -1}}/bin/python" ;;
    "-m gorvel"*) echo "this is $(basename "$(readlink -f "$0")")" ;;
esac
"""


class House:
    """A checkout with nothing but the launcher, on a machine with Pythons that can be changed."""

    def __init__(self, place: Path) -> None:
        self.root, self.tools, self.log = place / "house", place / "tools", place / "log"
        self.fails = place / "fails"
        for folder in (self.root, self.tools):
            folder.mkdir()
        for name in ("gorvel", "requirements.lock", "requirements-dev.lock"):
            (self.root / name).write_bytes((ROOT / name).read_bytes())
        (self.root / "gorvel").chmod(0o755)
        for name in ("apt-get", "ldd"):  # the system's libraries are all there
            self._tool(name, "#!/bin/sh\n")
        self.python("python3.11")

    def _tool(self, name: str, text: str) -> None:
        (self.tools / name).write_text(text)
        (self.tools / name).chmod(0o755)

    def python(self, name: str) -> None:
        """From now on this is what the machine has."""
        for old in self.tools.glob("python3*"):
            old.unlink()
        self._tool(name, PYTHON.format(log=self.log, fails=self.fails))
        (self.tools / "python3").symlink_to(self.tools / name)

    def start(self) -> tuple[str, bool]:
        """What a start says, and whether it set up."""
        told = call(
            str(self.root / "gorvel"), "--version", cwd=self.root,
            PATH=f"{self.tools}:{os.environ['PATH']}",
        )  # fmt: skip
        return (told.stdout or told.stderr).strip(), "setting up" in told.stderr


def test_it_sets_up_once_and_again_where_its_python_is_another_one(tmp_path: Path) -> None:
    house = House(tmp_path)
    assert house.start() == ("this is python3.11", True)
    assert house.start() == ("this is python3.11", False)
    house.python("python3.13")  # the one that it was made with is gone
    assert house.start() == ("this is python3.13", True)
    assert house.start() == ("this is python3.13", False)
    (house.tools / "python3.14").write_bytes((house.tools / "python3.13").read_bytes())
    (house.tools / "python3.14").chmod(0o755)
    (house.tools / "python3.13").unlink()
    (house.tools / "python3.13").symlink_to("python3.14")  # its name leads to another one
    assert house.start() == ("this is python3.14", True)
    assert house.start() == ("this is python3.14", False)


def test_one_that_was_set_up_before_this_was_looked_at_is_used_as_it_is(tmp_path: Path) -> None:
    house = House(tmp_path)
    house.start()
    (house.root / ".venv" / "made-with").unlink()
    assert house.start() == ("this is python3.11", False)


def test_setting_up_that_was_broken_off_is_done_again(tmp_path: Path) -> None:
    house = House(tmp_path)
    house.fails.write_text("1")
    said, _ = house.start()
    assert said.splitlines()[-1] == (
        "gorvel: error: the packages of requirements.lock could not be installed"
        " (is a package registry in reach?)"
    )
    house.fails.unlink()
    assert house.start() == ("this is python3.11", True)
    (house.root / "requirements.lock").write_text("other==1\n")
    assert house.start() == ("this is python3.11", True)
    assert house.start() == ("this is python3.11", False)
