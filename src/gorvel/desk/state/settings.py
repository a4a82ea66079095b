"""What the program remembers between starts: only what differs from the defaults."""

from __future__ import annotations

import json
import os
import re
from contextlib import suppress
from dataclasses import asdict, dataclass, field, fields
from pathlib import Path
from typing import Any

import platformdirs

from gorvel.core.base.errors import InputError
from gorvel.core.base.writing import replacing

__all__ = ["Settings", "load_settings", "save_settings", "settings_file"]

_FORMAT = 1
_MOST_RECENT = 8
_MOST_DESKS = 30


@dataclass
class Settings:
    """theme : "light" or "dark"; text_scale; recent : files, newest first;
    geometry : where the window was, as Qt writes it, in hexadecimal figures;
    desks : for each data file how its tree was last looked at, see `Desk.state`."""

    theme: str = "light"
    text_scale: float = 1.0
    geometry: str = ""
    recent: list[str] = field(default_factory=list)
    desks: dict[str, Any] = field(default_factory=dict)

    def remember_desk(self, file: Path, state: dict[str, Any]) -> None:
        """Keep how the tree of a data file is looked at, for the files looked at last."""
        name = str(file.absolute())
        self.desks.pop(name, None)
        self.desks[name] = state
        for old in list(self.desks)[:-_MOST_DESKS]:
            del self.desks[old]

    def remember(self, path: Path) -> None:
        """Put a file at the head of the recent ones."""
        name = str(path.absolute())
        self.recent = [name, *(other for other in self.recent if other != name)][:_MOST_RECENT]


def settings_file() -> Path:
    """Where settings are kept; the variable GORVEL_SETTINGS names another place."""
    named = os.environ.get("GORVEL_SETTINGS")
    return Path(named) if named else platformdirs.user_config_path("gorvel") / "settings.json"


def load_settings() -> Settings:
    """Settings as saved; the defaults where there are none, or none that can be read."""
    try:
        data = json.loads(settings_file().read_text(encoding="utf-8"))
    except (OSError, ValueError):
        return Settings()
    out = Settings()
    if isinstance(data, dict) and data.get("format") == _FORMAT:
        for item in fields(Settings):
            value = data.get(item.name)
            if isinstance(value, type(getattr(out, item.name))):
                setattr(out, item.name, value)
        if not re.fullmatch("([0-9a-f]{2})*", out.geometry):
            out.geometry = ""
    return out


def save_settings(settings: Settings) -> None:
    """Write what differs from the defaults; a place that cannot be written is no error."""
    default = asdict(Settings())
    data = {key: value for key, value in asdict(settings).items() if value != default[key]}
    path = settings_file()
    text = json.dumps({"format": _FORMAT, **data}, indent=1)
    with suppress(OSError, InputError):
        path.parent.mkdir(parents=True, exist_ok=True)
        with replacing(path) as part:
            part.write_text(text, encoding="utf-8")
