"""From a viewer's call to the broadcaster's change, next to a bare WebSocket round trip of the same run."""

from __future__ import annotations

import errno
import socket
import subprocess
import sys
import time
from pathlib import Path
from statistics import median, quantiles
from typing import Any

from websockets.sync.client import connect

from cuejar.standins.halt import PASSWORD
from tests.bench.overlay import Channel
from tests.running import Running, free_ports, until

TIMES = 300
BACK_TIMES = 7
ECHO = """
import asyncio, sys, websockets
async def echo(socket):
    async for text in socket:
        await socket.send(text)
async def main():
    async with websockets.serve(echo, "127.0.0.1", int(sys.argv[1])):
        await asyncio.Future()
asyncio.run(main())
"""


def _figures(times: list[float]) -> dict[str, float]:
    return {"median": round(median(times), 2), "99th": round(quantiles(times, n=100)[98], 2)}


def _round_trip() -> list[float]:
    port = free_ports()
    server = subprocess.Popen([sys.executable, "-c", ECHO, str(port)])
    try:
        with socket.socket() as probe:
            until(lambda: probe.connect_ex(("127.0.0.1", port)) in (0, errno.EISCONN))
        times = []
        with connect(f"ws://127.0.0.1:{port}", proxy=None) as echo:
            for _ in range(TIMES):
                begun = time.perf_counter()
                echo.send("x" * 120)
                echo.recv(timeout=5)
                times.append((time.perf_counter() - begun) * 1000)
                time.sleep(0.004)
    finally:
        server.terminate()
        server.wait()
    return times[20:]


def put_right(folder: Path) -> dict[str, Any]:
    """Kills the broadcaster in the middle of a hold and restarts it with another scene: measures from its first
    listening until it shows what it should, next to the first answer that a bare client gets from it.
    """
    running = Running(folder / "back" / "data", free_ports())
    running.data.mkdir(parents=True)
    kept = running.data.parent / "broadcaster.json"
    bare, ours = [], []
    try:
        running.start()
        running.book(gear=[{"id": "broadcast", "kind": "broadcaster", "name": "Broadcaster"}])
        running.api.put("/api/gear/broadcast/secret", json={"secret": PASSWORD}).raise_for_status()
        until(lambda: running.api.get("/api/gear").json()[0]["state"] == "in_step")
        beats = [{"id": "b", "kind": "scene", "scene": "Yard cam", "length": {"s": 600}}]
        running.book(cues=[{"id": "yard", "name": "Yard", "beats": beats}])
        running.api.post("/api/cues/yard/fire").raise_for_status()
        for _ in range(BACK_TIMES):
            until(lambda: _scene(running) == "Yard cam")
            running.kill_standins()
            until(lambda: running.api.get("/api/gear").json()[0]["state"] == "away")
            kept.write_text(kept.read_text().replace('"scene": "Yard cam"', '"scene": "Signal box"', 1))
            running.launch_standins()
            until(lambda: socket.create_connection(("127.0.0.1", running.port + 10), 1).close() or True, 0.001)
            listens = time.perf_counter()
            until(lambda: _scene(running), 0.001)
            bare.append((time.perf_counter() - listens) * 1000)
            until(lambda: _scene(running) == "Yard cam", 0.002)
            ours.append((time.perf_counter() - listens) * 1000)
    finally:
        running.stop()
    mine, floor = round(median(ours), 1), round(median(bare), 1)
    return {"put right": mine, "at most": round(max(ours), 1), "a bare answer": floor, "ratio": round(mine / floor, 1)}


def _scene(running: Running) -> str:
    scene: str = running.broadcaster.get("/state").json()["scene"]
    return scene


def to_broadcaster(folder: Path) -> dict[str, Any]:
    running = Running(folder / "gear" / "data", free_ports())
    running.data.mkdir(parents=True)
    channel = Channel(running.port + 10)
    changed: list[float] = []
    channel.app.state.broadcaster.listeners.add(lambda message: changed.append(time.perf_counter()))
    try:
        running.start_server()
        running.in_step()
        running.book(gear=[{"id": "broadcast", "kind": "broadcaster", "name": "Broadcaster"}])
        running.api.put("/api/gear/broadcast/secret", json={"secret": PASSWORD}).raise_for_status()
        until(lambda: running.api.get("/api/gear").json()[0]["state"] == "in_step")
        path = {"kind": "filter", "sources": ["Bench cam"], "filter": "Fog", "setting": "amount"}
        beats = [{**path, "id": "fog", "value": 50.0, "length": {"s": 0.02}}]
        calls = [{"kind": "chat", "match": "is", "text": "!go"}]
        running.book(cues=[{"id": "go", "name": "Go", "calls": calls, "entry": "overlap", "beats": beats}])
        times = []
        for _ in range(TIMES):
            changed.clear()
            begun = channel.say("!go")
            until(lambda: changed, 0.0002)
            times.append((changed[0] - begun) * 1000)
            until(lambda: len(changed) >= 2, 0.001)
            time.sleep(0.004)
    finally:
        running.stop()
    ours, bare = _figures(times[20:]), _figures(_round_trip())
    ratio = {key: round(ours[key] / bare[key], 1) for key in ours}
    return {"Cue Jar": ours, "bare round trip": bare, "ratio": ratio}
