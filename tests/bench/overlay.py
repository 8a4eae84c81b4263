"""From the channel's event to the overlay's message: Cue Jar next to a bare app that receives, commits and broadcasts."""

from __future__ import annotations

import asyncio
import contextlib
import json
import subprocess
import sys
import threading
import time
from pathlib import Path
from statistics import median, quantiles
from typing import Any

import httpx
import uvicorn
from websockets.sync.client import ClientConnection, connect

from cuejar.standins.app import standins
from tests.running import Running, free_ports, until

EVENTS = 600


class Channel:
    """The simulated channel in this process, so that the instant of sending is known."""

    def __init__(self, port: int) -> None:
        self.app = standins(port, None)
        self.server = uvicorn.Server(uvicorn.Config(self.app, host="127.0.0.1", port=port, log_level="warning"))
        self.loop: asyncio.AbstractEventLoop | None = None
        threading.Thread(target=self._run, daemon=True).start()
        until(lambda: self.server.started)

    def _run(self) -> None:
        self.loop = asyncio.new_event_loop()
        self.loop.run_until_complete(self.server.serve())

    def say(self, text: str) -> float:
        channel, sent = self.app.state.channel, []
        viewer = {"id": "v1", "name": "bramble_jo", "roles": [], "tier": 1}

        def tell() -> None:
            sent.append(time.perf_counter())
            channel.tell("chat", {"id": f"m-{text}-{time.monotonic_ns()}", "viewer": viewer, "text": text})

        assert self.loop is not None
        self.loop.call_soon_threadsafe(tell)
        while not sent:
            time.sleep(0)
        return float(sent[0])


def measured(channel: Channel, feed: ClientConnection) -> list[float]:
    times = []
    for _ in range(EVENTS):
        begun = channel.say("!go")
        while json.loads(feed.recv(timeout=5)).get("t") != "show":
            pass
        times.append((time.perf_counter() - begun) * 1000)
        time.sleep(0.004)
    return times[50:]


def figures_of(times: list[float]) -> dict[str, float]:
    return {"median": round(median(times), 2), "99th": round(quantiles(times, n=100)[98], 2)}


def to_overlay(folder: Path) -> dict[str, Any]:
    running = Running(folder / "overlay" / "data", free_ports())
    running.data.mkdir(parents=True)
    channel = Channel(running.port + 10)
    floor_port = free_ports()
    command = [sys.executable, str(Path(__file__).with_name("floor.py")), str(floor_port)]
    floor = subprocess.Popen([*command, f"ws://127.0.0.1:{running.port + 10}", str(folder / "floor.sqlite")])
    try:
        running.start_server()
        running.in_step()
        beat = {"id": "card", "kind": "caption", "text": "go", "length": {"s": 60}}
        calls = [{"kind": "chat", "match": "is", "text": "!go"}]
        running.book(cues=[{"id": "go", "name": "Go", "calls": calls, "entry": "overlap", "beats": [beat]}])
        until(lambda: len(channel.app.state.channel.listeners) == 2)
        until(lambda: httpx.get(f"http://127.0.0.1:{floor_port}/openapi.json", trust_env=False).is_success)
        with connect(f"ws://127.0.0.1:{floor_port}/feed", proxy=None) as bare:
            base = measured(channel, bare)
        with connect(running.overlay_feed(), proxy=None) as ours:
            with contextlib.suppress(TimeoutError):
                while True:  # Effects of the floor's calls here.
                    ours.recv(timeout=1)
            mine = measured(channel, ours)
    finally:
        running.stop()
        floor.terminate()
        floor.wait()
    one, other = figures_of(mine), figures_of(base)
    ratio = {key: round(one[key] / other[key], 2) for key in one}
    return {"Cue Jar": one, "bare app": other, "ratio": ratio}
