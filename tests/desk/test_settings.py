"""Settings: checked entry by entry, merged between windows, of a later version left alone."""

from __future__ import annotations

import json
import math
import os
from pathlib import Path
from typing import Any

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from gorvel.desk.state.settings import Settings, load_settings, save_settings, settings_file
from gorvel.desk.window.window import Window
from gorvel.main import DEMO


@pytest.fixture(autouse=True)
def file(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Path:
    monkeypatch.setenv("GORVEL_SETTINGS", str(tmp_path / "deep" / "s.json"))
    return settings_file()


def put(text: str | bytes) -> None:
    settings_file().parent.mkdir(exist_ok=True)
    settings_file().write_bytes(text if isinstance(text, bytes) else text.encode())


def test_what_differs_is_kept(tmp_path: Path) -> None:
    assert load_settings() == Settings()
    mine = Settings(theme="dark")
    for k in range(12):
        mine.remember(tmp_path / f"{k % 10}.csv")
    save_settings(mine)
    assert load_settings() == Settings(theme="dark", recent=mine.recent, places=mine.places)
    assert mine.places == [str(tmp_path)]
    assert [Path(name).stem for name in mine.recent[:3]] == ["1", "0", "9"]
    assert "text_scale" not in settings_file().read_text()


VALUES = st.recursive(
    st.none() | st.booleans() | st.floats() | st.integers() | st.text(max_size=5)
    | st.sampled_from(["light", "dark", "0a", "/a.csv"]),
    lambda inner: st.lists(inner, max_size=3)
    | st.dictionaries(st.text(max_size=4), inner, max_size=3),
    max_leaves=8,
)  # fmt: skip
GOOD: dict[str, Any] = {
    "theme": "dark", "text_scale": 1.25, "geometry": "0aff", "recent": ["/a.csv"], "places": ["/a"],
    "desks": {"/a.csv": {"upright": True, "scale": "root"}},
}  # fmt: skip


@settings(suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(wrong=st.dictionaries(st.sampled_from([*GOOD]), VALUES, min_size=1))
def test_what_makes_no_sense_falls_back_alone(wrong: dict[str, Any]) -> None:
    put(json.dumps({"format": 1, **GOOD, **wrong}))
    found = load_settings()
    for key in GOOD.keys() - wrong.keys():
        assert getattr(found, key) == GOOD[key]
    assert found.theme in ("light", "dark")
    assert 0.8 <= found.text_scale <= 1.6
    bytes.fromhex(found.geometry)
    assert all(isinstance(name, str) for name in (*found.recent, *found.places))
    assert all(isinstance(desk, dict) for desk in found.desks.values())
    save_settings(found)
    assert load_settings() == found


@pytest.mark.parametrize(
    "text",
    ["{", "[]", "3", "", b"\xff\xfe", '{"format": 99, "theme": "dark"}', "[" * 100_000,
     '{"format": 1, "text_scale": NaN}', '{"format": 1, "text_scale": 1e999}',
     '{"format": 1, "recent": [5]}', '{"format": 1, "desks": {"a": [1], "b": {"seen": [[]]}}}'],
)  # fmt: skip
def test_a_damaged_file_is_as_none(text: str | bytes) -> None:
    put(text)
    found = load_settings()
    assert (found.theme, found.recent) == ("light", [])
    assert math.isfinite(found.text_scale)
    assert found.desks in ({}, {"a": {}, "b": {}})


def test_a_window_opens_on_damaged_settings(qtbot: object) -> None:
    data = str((DEMO / "readers.csv").absolute())
    desk = {"order": [1, {}], "seen": [[]], "scale": [], "widths": ["a", -5], "upright": 3}
    put(json.dumps({"format": 1, "text_scale": "x", "geometry": "00", "recent": [5, "\0"],
                    "desks": {data: desk, "b": 4}}))  # fmt: skip
    window = Window(load_settings(), DEMO / "readers.toml")
    assert load_settings().desks == {data: {}, "b": {}}
    window.acts.finish()
    window.deleteLater()


def test_a_file_of_a_later_version_is_left_alone() -> None:
    later = '{"format": 2, "theme": {"name": "dusk"}}'
    put(later)
    mine = load_settings()
    assert mine == Settings()
    mine.theme = "dark"
    save_settings(mine)
    assert settings_file().read_text() == later


def test_two_windows_take_nothing_from_each_other(tmp_path: Path) -> None:
    one, other = load_settings(), load_settings()
    one.remember(tmp_path / "a" / "a.csv")
    one.theme = "dark"
    save_settings(one)
    other.remember(tmp_path / "b.csv")
    other.remember_desk(tmp_path / "b.csv", {"upright": True})
    save_settings(other)
    one.remember_desk(tmp_path / "a.csv", {"upright": False})
    save_settings(one)
    found = load_settings()
    assert [Path(name).name for name in found.recent] == ["b.csv", "a.csv"]
    assert found.places == [str(tmp_path), str(tmp_path / "a")]
    assert found.theme == "dark"
    assert [Path(name).name for name in found.desks] == ["b.csv", "a.csv"]
    assert one == found
    one.theme = "light"
    save_settings(one)
    assert load_settings().theme == "light"


def test_a_place_that_cannot_be_written_is_no_error(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setenv("GORVEL_SETTINGS", "/proc/none/s.json")
    save_settings(Settings(theme="dark"))
    monkeypatch.setenv("GORVEL_SETTINGS", os.devnull)
    assert load_settings() == Settings()
