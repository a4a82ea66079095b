"""Settings of all tests."""

from __future__ import annotations

import os
from collections.abc import Iterator

import pytest
from hypothesis import HealthCheck, settings

from effort import FULL

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

settings.register_profile(
    "gorvel", max_examples=20 if FULL else 8, deadline=None, database=None,
    suppress_health_check=[HealthCheck.too_slow],
)  # fmt: skip
settings.load_profile("gorvel")


@pytest.fixture(autouse=True, scope="session")
def settings_of_their_own(tmp_path_factory: pytest.TempPathFactory) -> Iterator[None]:
    """Nothing that a test opens or saves shows up in what a user opened last."""
    with pytest.MonkeyPatch.context() as patch:
        file = tmp_path_factory.mktemp("settings") / "settings.json"
        patch.setenv("GORVEL_SETTINGS", str(file))
        yield
