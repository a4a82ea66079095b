"""What the program remembers between starts: only what differs from the defaults.

Several windows share one file. What one of them changed goes into what stands there by then, under
a lock, so that none takes anything from another.
"""

from __future__ import annotations

import fcntl
import json
import math
import os
import re
from collections.abc import Callable, Iterator
from contextlib import contextmanager, suppress
from copy import deepcopy
from dataclasses import asdict, dataclass, field, fields
from pathlib import Path
from typing import Any

import platformdirs

from gorvel.core.base.errors import InputError
from gorvel.core.base.reading import bytes_of
from gorvel.core.base.writing import replacing

SCALE_RANGE = (0.8, 1.6)  # of the text
_FORMAT = 1
_MOST_RECENT = 8
_LISTS = ("recent", "places")
_MOST_DESKS = 30
_MOST_BYTES = 1 << 22
_DESK: dict[str, Callable[[Any], bool]] = {
    "order": lambda value: _are(str, value), "seen": lambda value: _are(str, value),
    "upright": lambda value: isinstance(value, bool), "scale": lambda value: isinstance(value, str),
    "widths": lambda value: _are(int, value) and all(0 <= wide < 1 << 20 for wide in value),
}  # fmt: skip


@dataclass
class Settings:
    """What is remembered from one start to the next.

    theme : "light" or "dark"; text_scale; recent, places : files, and folders, newest first;
    geometry : where the window was, as Qt writes it, in hexadecimal figures;
    desks : for each data file how its tree was last looked at, see `Desk.state`;
    before : all this when it was last read or written, at first the defaults.
    """

    theme: str = "light"
    text_scale: float = 1.0
    geometry: str = ""
    recent: list[str] = field(default_factory=list)
    places: list[str] = field(default_factory=list)
    desks: dict[str, Any] = field(default_factory=dict)
    before: dict[str, Any] = field(default_factory=dict, compare=False, repr=False)

    def __post_init__(self) -> None:
        if not self.before:
            self.before = Settings(before={"none": True}).kept()

    def kept(self) -> dict[str, Any]:
        """What is remembered, by name."""
        return deepcopy({key: value for key, value in vars(self).items() if key != "before"})

    def remember_desk(self, file: Path, state: dict[str, Any]) -> None:
        """Keep how the tree of a data file is looked at, for the files looked at last."""
        name = str(file.absolute())
        self.desks.pop(name, None)
        self.desks[name] = state
        for old in list(self.desks)[:-_MOST_DESKS]:
            del self.desks[old]

    def remember(self, path: Path) -> None:
        """Put a file at the head of the recent ones."""
        self.recent = _at_head(path, self.recent)
        self.remember_place(path.parent)

    def remember_place(self, folder: Path) -> None:
        """Put a folder at the head of those used last."""
        self.places = _at_head(folder, self.places)


def _at_head(path: Path, others: list[str]) -> list[str]:
    return list(dict.fromkeys([str(path.absolute()), *others]))[:_MOST_RECENT]


def settings_file() -> Path:
    """Where settings are kept; the variable GORVEL_SETTINGS names another place."""
    named = os.environ.get("GORVEL_SETTINGS")
    return Path(named) if named else platformdirs.user_config_path("gorvel") / "settings.json"


def load_settings() -> Settings:
    """Settings as saved; what is missing or makes no sense is as by default, entry by entry."""
    data = _read()
    found = Settings(**(_sound(data) if data.get("format") == _FORMAT else {}))
    found.before = found.kept()
    return found


def save_settings(settings: Settings) -> None:
    """Write what this window changed into what is there.

    A place that cannot be written is no error; a file that a later version wrote is left alone.
    """
    path = settings_file()
    with suppress(OSError, InputError):
        path.parent.mkdir(parents=True, exist_ok=True)
        with _locked(path):
            data = _read()
            if isinstance(data.get("format"), int) and data["format"] > _FORMAT:
                return
            merged = _merged(settings, Settings(**_sound(data)))
            default = asdict(Settings())
            told = {key: value for key, value in merged.items() if value != default[key]}
            with replacing(path) as part:
                part.write_text(json.dumps({"format": _FORMAT, **told}, indent=1), "utf-8")
        vars(settings).update(deepcopy(merged), before=merged)


@contextmanager
def _locked(path: Path) -> Iterator[None]:
    """Nobody else writes settings in the meantime."""
    handle = os.open(path.with_name(f".{path.name}.lock"), os.O_RDWR | os.O_CREAT, 0o600)
    try:
        fcntl.flock(handle, fcntl.LOCK_EX)
        yield
    finally:
        os.close(handle)


def _read() -> dict[str, Any]:
    """What stands in the file, whatever it is; nothing where it cannot be read."""
    try:
        path = settings_file()
        if path.stat().st_size > _MOST_BYTES:
            return {}
        data = json.loads(bytes_of(path))
    except (OSError, ValueError, RecursionError, InputError):
        return {}
    return data if isinstance(data, dict) else {}


def _sound(data: dict[str, Any]) -> dict[str, Any]:
    """The entries that make sense, each by itself."""
    out: dict[str, Any] = {}
    if data.get("theme") in ("light", "dark"):
        out["theme"] = data["theme"]
    scale = data.get("text_scale")
    if isinstance(scale, int | float) and not isinstance(scale, bool) and math.isfinite(scale):
        out["text_scale"] = min(max(float(scale), SCALE_RANGE[0]), SCALE_RANGE[1])
    geometry = data.get("geometry")
    if isinstance(geometry, str) and re.fullmatch("([0-9a-f]{2})*", geometry):
        out["geometry"] = geometry
    for key in _LISTS:
        listed = data.get(key)
        if isinstance(listed, list):
            names = [name for name in listed if isinstance(name, str) and name and "\0" not in name]
            out[key] = list(dict.fromkeys(names))[:_MOST_RECENT]
    desks = data.get("desks")
    if isinstance(desks, dict):
        known = {name: _sound_desk(state) for name, state in desks.items()}
        out["desks"] = dict(list(known.items())[-_MOST_DESKS:])
    return out


def _sound_desk(state: Any) -> dict[str, Any]:
    if not isinstance(state, dict):
        return {}
    return {key: value for key, value in state.items() if key in _DESK and _DESK[key](value)}


def _are(kind: type, value: Any) -> bool:
    """Is it a list of such values?"""
    return isinstance(value, list) and all(type(one) is kind for one in value)


def _merged(mine: Settings, there: Settings) -> dict[str, Any]:
    """What stands in the file, with what this window changed since it last read or wrote it."""
    out, now, before = there.kept(), mine.kept(), mine.before
    for item in fields(Settings):
        key = item.name
        if key == "before" or now[key] == before[key]:
            continue
        if key in _LISTS:
            new = [name for name in now[key] if name not in before[key] or name == now[key][0]]
            out[key] = list(dict.fromkeys([*new, *out[key]]))[:_MOST_RECENT]
        elif key == "desks":
            changed = {k: v for k, v in now[key].items() if before[key].get(k) != v}
            kept = {k: v for k, v in out[key].items() if k not in changed}
            out[key] = dict(list((kept | changed).items())[-_MOST_DESKS:])
        else:
            out[key] = now[key]
    return out
