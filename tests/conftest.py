"""What all tests share."""

from __future__ import annotations

import os
from collections.abc import Iterator
from pathlib import Path

import pytest
from hypothesis import HealthCheck, Phase, settings

from tests.running import Running, until

EXAMPLES = int(os.environ.get("EXAMPLES", 40 if os.environ.get("CI") else 100))
"""How many are drawn for a property: `make soak` draws many more. With SHRINK=0 what fails stays as large as it was drawn."""
settings.register_profile(
    "here",
    deadline=None,
    max_examples=EXAMPLES,
    phases=[phase for phase in Phase if phase is not Phase.shrink or os.environ.get("SHRINK") != "0"],
    derandomize=bool(os.environ.get("CI")),
    suppress_health_check=[HealthCheck.too_slow, HealthCheck.data_too_large],
)
settings.load_profile("here")


def pytest_collection_modifyitems(items: list[pytest.Item]) -> None:
    """Retries tests with whole servers once, which `-rR` lists; a rule's test never."""
    for item in items:
        if {"running", "alone", "driver"} & set(getattr(item, "fixturenames", ())):
            item.add_marker(pytest.mark.flaky(reruns=1))


@pytest.fixture(autouse=True, scope="session")
def used_last(tmp_path_factory: pytest.TempPathFactory) -> None:
    """What servers write down for the commands stays out of the home of whoever runs the tests."""
    home = tmp_path_factory.mktemp("home")
    os.environ["CUEJAR_LAST"] = str(home / "last-folder")
    os.environ["XDG_CONFIG_HOME"] = str(home)


@pytest.fixture
def microphone(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Path:
    """A file that is heard from its beginning whenever the microphone is opened."""
    from tests.voices import heard, silence, write

    path = tmp_path / "microphone.wav"
    write(path, heard([silence(1)]))
    monkeypatch.setenv("CUEJAR_RECORDING", str(path))
    return path


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


@pytest.fixture
def alone(tmp_path: Path, request: pytest.FixtureRequest) -> Iterator[Running]:
    """A server on an empty folder, with nothing beside it; it may not print a traceback."""
    made = Running(tmp_path / "data")
    made.server = made._start("serve", "--port", str(made.port), "--data", str(made.data))
    until(lambda: made.api.get("/api/health").is_success)
    try:
        yield made
    finally:
        made.stop()
    if request.node.get_closest_marker("stumbles") is None:
        assert "Traceback" not in (said := (tmp_path / "serve.log").read_text("utf-8")), said[:6000]
