"""Cue Jar beside a game: its share of a core and its memory, idle and in a busy night, next to a bare app and loop."""

from __future__ import annotations

import json
import subprocess
import sys
import threading
import time
from collections.abc import Iterator
from contextlib import ExitStack, contextmanager, suppress
from pathlib import Path
from typing import Any

import psutil
from websockets.exceptions import ConnectionClosed
from websockets.sync.client import ClientConnection, connect

from tests.running import Running, free_ports

CUES, OVERLAYS, SETTLE_S, MEASURE_S = 10, 3, 10.0, 30.0
PING_S = 2.0
CALLS_S = 0.9
"""Between two calls of a busy night: about 4,000 an hour."""


class _Cost:
    """What a process with its children used since it was made."""

    def __init__(self, pid: int) -> None:
        self._process, self._at = psutil.Process(pid), time.monotonic()
        self._used = self._now()

    def _all(self) -> list[psutil.Process]:
        return [self._process, *self._process.children(recursive=True)]

    def _now(self) -> float:
        return sum(sum(one.cpu_times()[:2]) for one in self._all())

    def figures(self) -> dict[str, float]:
        share = (self._now() - self._used) / (time.monotonic() - self._at)
        memory = sum(one.memory_full_info().uss for one in self._all())
        return {"share of a core, %": round(share * 100, 2), "memory, MB": round(memory / 1e6)}


def _page(feed: ClientConnection) -> None:
    """Reads, and says every few seconds that it is there, as an overlay's page does."""
    with suppress(ConnectionClosed):
        while True:
            feed.send(json.dumps({"t": "ping", "sent": time.time() * 1000, "lag_ms": 1.5, "up": 0, "width": 1920}))
            with suppress(TimeoutError):
                end = time.monotonic() + PING_S
                while True:
                    feed.recv(timeout=max(0.0, end - time.monotonic()))


@contextmanager
def _halt(folder: Path) -> Iterator[Running]:
    """Ten cues with captions and lamps, a broadcaster, and three overlays connected."""
    running = Running(folder / "data", free_ports())
    running.data.mkdir(parents=True)
    running.start()
    try:
        caption = {"id": "c", "kind": "caption", "text": "{{viewer}}", "length": {"s": 3}}
        scene = {"id": "s", "kind": "scene", "scene": "Yard", "length": {"s": 2}}
        running.with_broadcaster(
            overlays=[{"id": f"more{n}", "name": f"More {n}"} for n in range(1, OVERLAYS)],
            cues=[
                {"id": f"c{n}", "name": f"Cue {n}", "entry": "overlap", "beats": [caption, scene][: 1 + n % 2],
                 "calls": [{"kind": "chat", "match": "is", "text": f"!{n}"}]}
                for n in range(CUES)
            ],
        )  # fmt: skip
        with ExitStack() as feeds:
            for overlay in running.api.get("/api/overlays").json()[:OVERLAYS]:
                path = running.api.post(f"/api/overlays/{overlay['id']}/link").json()["path"]
                feed = feeds.enter_context(connect(f"ws://127.0.0.1:{running.port}{path}/feed", proxy=None))
                threading.Thread(target=_page, args=[feed], daemon=True).start()
            time.sleep(SETTLE_S)
            yield running
    finally:
        running.stop()


def _calls(running: Running, seconds: float) -> int:
    """Chat from the channel as in a busy night. Returns how many."""
    end, n = time.monotonic() + seconds, 0
    while time.monotonic() < end:
        body = {"viewer": "bramble_jo", "text": f"!{n % CUES}"}
        running.channel.post("/chat", json=body).raise_for_status()
        n += 1
        time.sleep(max(0.0, CALLS_S * n - (seconds - (end - time.monotonic()))))
    return n


def beside_a_game(folder: Path) -> dict[str, Any]:
    with _halt(folder / "idle") as running:
        assert running.server is not None
        floor = subprocess.Popen(
            [sys.executable, str(Path(__file__).with_name("floor.py")), str(free_ports()),
             f"ws://127.0.0.1:{running.port + 10}", str(folder / "idle" / "floor.sqlite")]
        )  # fmt: skip
        try:
            time.sleep(SETTLE_S)
            figures: dict[str, Any] = {}
            for name, work in (("idle", lambda: time.sleep(MEASURE_S)), ("busy", lambda: _calls(running, MEASURE_S))):
                ours, bare = _Cost(running.server.pid), _Cost(floor.pid)
                work()
                figures[name] = {"Cue Jar": ours.figures(), "bare app": bare.figures()}
        finally:
            floor.terminate()
            floor.wait()
    return figures
