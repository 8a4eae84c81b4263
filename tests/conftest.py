"""What all tests share."""

from __future__ import annotations

import os
from collections.abc import Iterator
from pathlib import Path

import pytest
from hypothesis import HealthCheck, settings

from tests.running import Running

settings.register_profile(
    "here",
    deadline=None,
    max_examples=120,
    derandomize=bool(os.environ.get("CI")),
    suppress_health_check=[HealthCheck.too_slow, HealthCheck.data_too_large],
)
settings.load_profile("here")


@pytest.fixture
def running(tmp_path: Path, request: pytest.FixtureRequest) -> Iterator[Running]:
    """A server and its stand-ins on an empty data folder; neither may print a traceback."""
    made = Running(tmp_path / "data")
    try:
        yield made.start()
    finally:
        made.stop()
    if request.node.get_closest_marker("stumbles") is None:
        for log in tmp_path.glob("*.log"):
            assert "Traceback" not in (said := log.read_text("utf-8")), said[said.index("Traceback") :][:6000]
