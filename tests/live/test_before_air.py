"""Before going on air: the output and exit status of ``cuejar check``, and the simulated channel with obstacles."""

from __future__ import annotations

import contextlib
import os
import signal
import socket
import subprocess
import sys

import httpx
import psutil
import pytest
from websockets.sync.client import connect

from tests.running import Running, free_ports, until


def check(port: int) -> tuple[int, str]:
    """Returns the exit status of ``cuejar check``, and its output."""
    ran = subprocess.run(
        [sys.executable, "-m", "cuejar.cli", "check", "--port", str(port)], capture_output=True, text=True, timeout=120
    )
    return ran.returncode, ran.stdout + ran.stderr


def test_check_ends_with_what_it_found(running: Running) -> None:
    status, said = check(running.port)
    assert status == 1
    assert said.startswith("wrong No overlay is connected")
    with connect(running.overlay_feed(), proxy=None):
        until(lambda: running.api.get("/api/readiness").json() == [])
        assert check(running.port) == (0, "Everything is ready.\n")
        running.book(house={"volume": 0})
        status, said = check(running.port)
        assert status == 0 and said.startswith("look  The volume is 0")
    status, said = check(free_ports())
    assert status == 2 and "No Cue Jar answers" in said


@pytest.mark.stumbles
def test_the_simulated_channel_says_what_is_in_its_way_and_comes_back(alone: Running) -> None:
    with socket.socket() as other:
        other.bind(("127.0.0.1", alone.port + 10))
        other.listen()
        refused = alone.api.post("/api/simulated")
        assert refused.status_code == 409 and "didn’t start" in refused.json()["what"]
    assert alone.api.get("/api/simulated").json()["address"] is None
    where = until(lambda: alone.api.post("/api/simulated").json()["address"])
    assert alone.server is not None

    def beside() -> list[psutil.Process]:
        found = []
        for child in alone.server.children(recursive=True):  # type: ignore[union-attr]
            with contextlib.suppress(psutil.NoSuchProcess):  # it may have ended since, as a zombie
                found += [child] if "standins" in child.cmdline() else []
        return found

    first = until(beside)[0]
    os.kill(first.pid, signal.SIGKILL)
    until(lambda: [child.pid for child in beside() if child.pid != first.pid])
    until(lambda: httpx.get(f"{where}/channel/stream", trust_env=False).is_success)
