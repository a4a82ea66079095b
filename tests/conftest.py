"""Settings of all tests."""

from __future__ import annotations

import os

from hypothesis import HealthCheck, settings

from effort import FULL

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

settings.register_profile(
    "gorvel", max_examples=20 if FULL else 8, deadline=None, database=None,
    suppress_health_check=[HealthCheck.too_slow],
)  # fmt: skip
settings.load_profile("gorvel")
