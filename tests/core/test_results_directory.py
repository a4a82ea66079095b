"""Results stand beside their target until they are whole, and nothing is left of them else."""

from __future__ import annotations

from pathlib import Path

import pytest

from gorvel.core.export.files import results_directory


class Ended(BaseException):
    """What a signal makes of a run."""


@pytest.mark.parametrize("deep", [False, True])
def test_a_signal_while_the_directory_is_made_leaves_nothing(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch, deep: bool
) -> None:
    """The signal is told as soon as the system has made the directory, before anybody knows it."""
    made = Path.mkdir

    def mkdir(self: Path, *args: object, **kinds: object) -> None:
        made(self, *args, **kinds)  # type: ignore[arg-type]
        if ".part-" in self.name:
            raise Ended

    monkeypatch.setattr(Path, "mkdir", mkdir)
    target = tmp_path / "a" / "b" / "out" if deep else tmp_path / "out"
    with pytest.raises(Ended), results_directory(target):
        raise AssertionError
    assert list(tmp_path.iterdir()) == []


def test_what_is_there_stays_where_the_work_fails(tmp_path: Path) -> None:
    target = tmp_path / "out"
    with results_directory(target) as beside:
        (beside / "a.txt").write_text("old")

    def fails(beside: Path) -> None:
        (beside / "a.txt").write_text("new")
        raise ValueError("no")

    with pytest.raises(ValueError, match="no"), results_directory(target) as beside:
        fails(beside)
    assert (target / "a.txt").read_text() == "old"
    assert [path.name for path in tmp_path.iterdir()] == ["out"]
