"""Settings of all tests."""

from __future__ import annotations

import os

from hypothesis import HealthCheck, settings

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

settings.register_profile(
    "gorvel", max_examples=20, deadline=None, database=None,
    suppress_health_check=[HealthCheck.too_slow],
)  # fmt: skip
settings.load_profile("gorvel")
