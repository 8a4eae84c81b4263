"""An endless happening doesn't stop the show for good: it is set aside at the next start, and a stop ends in time
whatever runs.
"""

from __future__ import annotations

import signal
import subprocess
import sys
import time
from pathlib import Path
from typing import Any

import psutil
import pytest

from tests.live.test_nights import FRIDAY
from tests.running import Running, until

POISON = """
import sys
from cuejar.core.engine import engine
plain = engine.Engine.handle
def handle(self, happening, at):
    if getattr(happening, "text", "") == "!poison":
        while True: pass
    return plain(self, happening, at)
engine.Engine.handle = handle
from cuejar.cli import app
app()
"""


def _poisoned(running: Running) -> subprocess.Popen[bytes]:
    """Starts a server that never finishes a certain chat line."""
    log = (running.data.parent / "poisoned.log").open("ab")
    command = ["serve", "--port", str(running.port), "--data", str(running.data)]
    command += ["--channel", f"http://127.0.0.1:{running.port + 10}", "--standins", f"127.0.0.1:{running.port + 10}"]
    made = subprocess.Popen(
        [sys.executable, "-c", POISON, *command],
        stdout=log,
        stderr=log,
        env={"CUEJAR_INTERPRETED": "1", "PATH": "/usr/bin:/bin", "HOME": str(running.data.parent)},
    )
    log.close()
    return made


@pytest.mark.stumbles
@pytest.mark.parametrize("killed", [False, True], ids=["by-itself", "killed-in-it"])
def test_what_never_ends_is_set_aside_at_the_next_start(running: Running, killed: bool) -> None:
    cue = {"id": "tea", "name": "Tea", "calls": [{"kind": "chat", "match": "starts", "text": "!tea"}]}
    running.book(cues=[{**cue, "beats": [{"id": "n", "kind": "count", "name": "tea"}]}])
    running.kill_server()
    poisoned = _poisoned(running)
    try:
        until(lambda: running.api.get("/api/health").json()["channel"] == "in_step")
        for text in ("!tea", "!poison"):
            running.channel.post("/chat", json={"viewer": "owlpost", "text": text}).raise_for_status()
            time.sleep(1)
        # It hangs now. A stop ends it all the same.
        begun = time.monotonic()
        poisoned.send_signal(signal.SIGTERM)
        poisoned.wait(20)
        assert time.monotonic() - begun < 8
        poisoned = _poisoned(running)
        if killed:
            # Somebody kills it instead: the next start knows the entry being handled.
            until(lambda: '"slow": true' in _marker(running))
            poisoned.kill()
            poisoned.wait(20)
            poisoned = _poisoned(running)
        until(lambda: running.api.get("/api/health").is_success)
        said = [trouble["what"] for trouble in running.api.get("/api/health").json()["troubles"]]
        assert any("skipped" in what for what in said), said
        running.channel.post("/chat", json={"viewer": "owlpost", "text": "!tea"}).raise_for_status()
        lines = until(lambda: _twice(running))
        assert [line["verdict"] for line in lines] == ["let_in", "let_in"], "what was called before it is still there"
    finally:
        poisoned.kill()
        poisoned.wait(20)
    # And at the next start, silently: it is known.
    poisoned = _poisoned(running)
    try:
        begun = time.monotonic()
        until(lambda: running.api.get("/api/health").is_success)
        assert not any("skipped" in one["what"] for one in running.api.get("/api/health").json()["troubles"])
        poisoned.terminate()
        poisoned.wait(20)
    finally:
        poisoned.kill()


def _marker(running: Running) -> str:
    marker = running.data / ".replaying"
    return marker.read_text("utf-8") if marker.is_file() else ""


def _twice(running: Running) -> Any:
    lines = [line for line in running.api.get("/api/ledger").json()["lines"] if line["cue"] == "tea"]
    return lines if len(lines) == 2 else None


def test_workers_end_with_a_stop_and_with_their_parent(running: Running) -> None:
    running.book(cues=[KETTLE], audiences=[{**FRIDAY, "calls": 20_000, "length_min": 600}])
    for end in (signal.SIGTERM, signal.SIGKILL):
        asked = running.api.post("/api/rehearsals", json={"audience": "friday", "nights": 50})
        asked.raise_for_status()
        assert running.server is not None
        server = psutil.Process(running.server.pid)
        workers = until(lambda server=server: _busy(server))
        server.send_signal(end)
        server.wait(10)
        until(lambda workers=workers: not any(_works(worker) for worker in workers), patience_s=10)
        running.start_server()


KETTLE = {
    "id": "kettle", "name": "Kettle", "calls": [{"kind": "chat", "text": "!kettle"}],
    "beats": [{"id": "c", "kind": "caption", "text": "tea", "length": {"s": 2}}],
}  # fmt: skip
"""What an audience can call, so that a night is work."""


def _workers(server: psutil.Process) -> list[psutil.Process]:
    return [one for one in server.children(recursive=True) if "spawn_main" in " ".join(one.cmdline())]


def _busy(server: psutil.Process) -> list[psutil.Process]:
    found = _workers(server)
    return found if any(one.cpu_times().user > 1 for one in found) else []


def _works(process: psutil.Process) -> bool:
    try:
        return process.is_running() and process.status() != psutil.STATUS_ZOMBIE
    except psutil.NoSuchProcess:
        return False


def test_a_rehearsal_stops_at_once(running: Running, tmp_path: Path) -> None:
    running.book(cues=[KETTLE], audiences=[{**FRIDAY, "calls": 20_000, "length_min": 600}])
    assert running.server is not None
    server = psutil.Process(running.server.pid)
    others = _workers(server)
    one = running.api.post("/api/rehearsals", json={"audience": "friday", "nights": 50}).json()["id"]
    workers = until(lambda: [one for one in _busy(server) if one not in others])
    running.api.delete(f"/api/rehearsals/{one}").raise_for_status()
    until(lambda: not any(_works(worker) for worker in workers), patience_s=10)
    until(lambda: running.api.get(f"/api/rehearsals/{one}").json()["state"] == "stopped")
    again = running.api.post("/api/rehearsals", json={"audience": "friday", "nights": 1, "seed": 2})
    assert again.is_success
