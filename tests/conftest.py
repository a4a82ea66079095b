"""Settings of all tests."""

from __future__ import annotations

import gc
import os
from collections.abc import Iterator

import pytest
from hypothesis import HealthCheck, settings

from effort import FULL

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

settings.register_profile(
    "gorvel", max_examples=20 if FULL else 6, deadline=None, database=None,
    suppress_health_check=[HealthCheck.too_slow],
)  # fmt: skip
settings.load_profile("gorvel")


def pytest_collection_modifyitems(config: pytest.Config, items: list[pytest.Item]) -> None:
    """Who names a file, a test or a mark means all of it."""
    whole = config.args == config.getini("testpaths") and not config.option.markexpr
    if whole and not FULL:
        slow = [item for item in items if item.get_closest_marker("slow")]
        config.hook.pytest_deselected(items=slow)
        items[:] = [item for item in items if not item.get_closest_marker("slow")]


def pytest_collection_finish() -> None:
    """What was imported stays: it need not be looked through again and again."""
    gc.collect()
    gc.freeze()
    gc.set_threshold(20_000, 20, 20)


@pytest.fixture(autouse=True, scope="session")
def settings_of_their_own(tmp_path_factory: pytest.TempPathFactory) -> Iterator[None]:
    """Nothing that a test opens or saves shows up in what a user opened last."""
    with pytest.MonkeyPatch.context() as patch:
        file = tmp_path_factory.mktemp("settings") / "settings.json"
        patch.setenv("GORVEL_SETTINGS", str(file))
        yield
