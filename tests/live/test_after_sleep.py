"""After sleep, without a network for a while, or when the clock was set: the show is right again within seconds."""

from __future__ import annotations

import json
import os
import subprocess
import sys
import threading
import time
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from pathlib import Path
from typing import Any

import psutil
import pytest
from websockets.exceptions import ConnectionClosed
from websockets.sync.client import connect

from cuejar.standins.halt import PASSWORD
from tests.computers import GAMING, Computers, fails
from tests.running import PATIENCE_S, Running, free_ports, until

RIGHT_S = 5.0 + 15.0
"""The promised limit, plus what other tests on the same machine may add."""
ASLEEP_S = 16.0
"""Longer than anything waits for a sign of life."""
CUT_S = 13.5
"""Longer than that too; and TCP by itself would try again only 12 s after the end of it."""
CUES: list[dict[str, Any]] = [
    {"id": "yard", "name": "Yard", "entry": "overlap",
     "beats": [{"id": "s", "kind": "scene", "scene": "Yard cam", "length": {"s": 5}},
               {"id": "c", "kind": "caption", "text": "Yard", "length": {"s": 5}}]},
    {"id": "long", "name": "Long", "entry": "overlap",
     "beats": [{"id": "c", "kind": "caption", "text": "Long", "length": {"s": 600}}]},
    {"id": "bell", "name": "Bell", "entry": "overlap", "calls": [{"kind": "reward", "reward": "bell"}],
     "beats": [{"id": "c", "kind": "caption", "text": "Bell", "length": {"s": 0.2}}]},
    {"id": "tea", "name": "Tea", "entry": "overlap", "calls": [{"kind": "chat", "match": "is", "text": "!tea"}],
     "beats": [{"id": "c", "kind": "caption", "text": "Tea", "length": {"s": 0.2}}]},
]  # fmt: skip
REWARDS = [{"id": "bell", "title": "Ring the bell", "cost": 10}]


class Page:
    """An overlay's page, which connects again as the real one does: what is up there."""

    def __init__(self, address: str) -> None:
        self._address, self._over = address, threading.Event()
        self.up: set[str] = set()
        self._thread = threading.Thread(target=self._run)
        self._thread.start()

    def _run(self) -> None:
        while not self._over.is_set():
            with suppress(OSError, ConnectionClosed, TimeoutError), connect(self._address, proxy=None) as feed:
                while not self._over.is_set():
                    with suppress(TimeoutError):
                        self._hear(json.loads(feed.recv(timeout=0.2)))
            time.sleep(0.2)

    def _hear(self, message: dict[str, Any]) -> None:
        if message["t"] == "whole":
            self.up = {one["beat"] + one["run"] for one in message["up"]}
        elif message["t"] == "show":
            self.up.add(message["beat"] + message["run"])
        elif message["t"] == "hide":
            self.up.discard(message["beat"] + message["run"])

    def close(self) -> None:
        self._over.set()
        self._thread.join(PATIENCE_S)


@contextmanager
def page_of(running: Running) -> Iterator[Page]:
    page = Page(running.overlay_feed())
    try:
        yield page
    finally:
        page.close()


def fire(running: Running, cue: str) -> None:
    running.api.post(f"/api/cues/{cue}/fire", json={}).raise_for_status()


def scene(running: Running) -> str:
    told: str = running.broadcaster.get("/state").json()["scene"]
    return told


def at_rest(running: Running, page: Page) -> bool:
    """Whether everything is as it should be while only the long caption is up."""
    health = running.api.get("/api/health").json()
    gear = [one["state"] for one in running.api.get("/api/gear").json()]
    return (
        scene(running) == "Workbench"
        and not running.api.get("/api/holds").json()
        and health["channel"] == "in_step"
        and not any(health["owed"].values())
        and set(gear) == {"in_step"}
        and len(page.up) == 1
    )


def all_of(process: psutil.Process | None) -> list[psutil.Process]:
    return [process, *process.children(recursive=True)] if process is not None else []


@pytest.mark.parametrize("asleep", ["the whole computer", "Cue Jar alone"])
def test_after_sleep_everything_is_right_again(running: Running, asleep: str) -> None:
    running.with_broadcaster(rewards=REWARDS, cues=CUES)
    until(lambda: running.channel.get("/rewards").json())
    with page_of(running) as page:
        fire(running, "long")
        fire(running, "yard")
        until(lambda: scene(running) == "Yard cam" and len(page.up) == 2)
        sleepers = all_of(running.server) + (all_of(running.standins) if asleep == "the whole computer" else [])
        for process in sleepers:
            process.suspend()
        redeemed = ""
        if asleep == "Cue Jar alone":
            redeemed = running.redeem("bramble_jo", "Ring the bell")
            running.channel.post("/chat", json={"viewer": "owlpost", "text": "!tea"}).raise_for_status()
        time.sleep(ASLEEP_S)
        for process in reversed(sleepers):
            process.resume()
        until(lambda: at_rest(running, page), patience_s=RIGHT_S)
        redeemed = redeemed or running.redeem("bramble_jo", "Ring the bell")
        until(lambda: running.state_of(redeemed) == "fulfilled")
        if asleep == "Cue Jar alone":
            lines = until(
                lambda: [one for one in running.api.get("/api/ledger").json()["lines"] if one["cue"] == "tea"]
            )
            assert [one["verdict"] for one in lines] == ["let_in"]


class Clocked(Running):
    """A server whose clock can be set."""

    def __init__(self, data: Path, library: str) -> None:
        super().__init__(data)
        self._library, self.clock = library, data.parent / "clock"
        self.set("+0")

    def set(self, to: str) -> None:
        self.clock.write_text(to)

    def _start(self, *command: str) -> psutil.Process:
        if command[0] != "serve":
            return super()._start(*command)
        env = {
            **os.environ,
            "LD_PRELOAD": self._library,
            "FAKETIME_TIMESTAMP_FILE": str(self.clock),
            "FAKETIME_CACHE_DURATION": "1",
            "FAKETIME_DONT_FAKE_MONOTONIC": "1",
        }
        with (self.data.parent / "serve.log").open("a") as log:
            return psutil.Popen([sys.executable, "-m", "cuejar.cli", *command], env=env, stdout=log, stderr=log)


def test_a_clock_that_is_set_changes_nothing_but_the_time_shown(tmp_path: Path) -> None:
    library = next(iter(Path("/usr/lib").glob("*/faketime/libfaketimeMT.so.1")), None)
    if library is None:
        pytest.skip("there is no faketime here")
    running = Clocked(tmp_path / "data", str(library))
    running.data.mkdir()
    try:
        running.start()
        running.with_broadcaster(rewards=REWARDS, cues=CUES)
        with page_of(running) as page:
            fire(running, "long")
            for to, hours in (("+3h", 3), ("-3h", -3), ("+0", 0)):
                begun = time.monotonic()
                fire(running, "yard")
                until(lambda: scene(running) == "Yard cam" and len(page.up) == 2)
                running.set(to)
                until(lambda: at_rest(running, page), patience_s=5 + RIGHT_S)
                assert time.monotonic() - begun > 4.5, "it lasted as long as it should"
                before = len(running.api.get("/api/ledger").json()["lines"])
                running.channel.post("/chat", json={"viewer": "owlpost", "text": "!tea"}).raise_for_status()
                until(lambda before=before: len(running.api.get("/api/ledger").json()["lines"]) > before)
                line = running.api.get("/api/ledger").json()["lines"][0]
                assert line["verdict"] == "let_in", line["said"]
                assert abs(line["at"] / 1000 - time.time() - hours * 3600) < 120
    finally:
        running.stop()


FORWARD = r"""
import asyncio, sys
HOSTS = b"Host: " + sys.argv[1].encode(), b"Host: 127.0.0.1"
async def way(reader, writer):
    try:
        while some := await reader.read(65536):
            writer.write(some.replace(*HOSTS)); await writer.drain()
    except OSError: pass
    finally: writer.close()
async def main():
    async def come(reader, writer):
        there = await asyncio.open_connection("127.0.0.1", int(sys.argv[2]))
        await asyncio.gather(way(reader, there[1]), way(there[0], writer))
    await (await asyncio.start_server(come, sys.argv[1], int(sys.argv[2]))).serve_forever()
asyncio.run(main())
"""


def test_a_network_that_was_gone(tmp_path: Path) -> None:
    """Channel and broadcaster on another computer; the network card goes in a hold, and comes back after it."""
    if os.geteuid() != 0:
        pytest.skip("only root may lay a cable between two networks")
    port = free_ports()
    there = f"{GAMING}:{port}"
    two = Computers(tmp_path, "--channel", f"http://{there}", "--standins", there)
    inside = ["nsenter", "-t", str(two.second.pid), "-n"]
    others = [
        subprocess.Popen([*inside, sys.executable, "-m", "cuejar.cli", "standins", "--port", str(port)],
                         stdout=two.log, stderr=two.log),
        subprocess.Popen([*inside, sys.executable, "-c", FORWARD, GAMING, str(port)], stdout=two.log, stderr=two.log),
    ]  # fmt: skip

    def beyond(method: str, path: str, told: str = "") -> Any:
        ask = f"import httpx\nprint(httpx.request({method!r}, 'http://127.0.0.1:{port}{path}', trust_env=False, {told}).text)"
        return json.loads(two.at(two.second, sys.executable, "-c", ask))

    def put(path: str, value: Any) -> None:
        two.api("PUT", path, f"json={value!r}")

    def in_step() -> bool:
        gear = [one["state"] for one in two.api("GET", "/api/gear", "")]
        return set(gear) == {"in_step"} and two.api("GET", "/api/health", "")["channel"] == "in_step"

    try:
        until(lambda: not fails(lambda: in_step()) and not fails(lambda: beyond("GET", "/channel/stream")))
        put("/api/book/gear/broadcast", {"value": {"id": "broadcast", "kind": "broadcaster", "name": "Broadcaster"}})
        put("/api/gear/broadcast/secret", {"secret": PASSWORD})
        for cue in CUES[:2]:
            put(f"/api/book/cues/{cue['id']}", {"value": cue})
        until(in_step)
        two.api("POST", "/api/cues/yard/fire", "json={}")
        until(lambda: beyond("GET", "/broadcaster/state")["scene"] == "Yard cam")
        two.cut(True)
        time.sleep(CUT_S)
        assert beyond("GET", "/broadcaster/state")["scene"] == "Yard cam" and not in_step()
        two.cut(False)
        until(lambda: beyond("GET", "/broadcaster/state")["scene"] == "Workbench" and in_step(), patience_s=RIGHT_S)
    finally:
        two.end()
        for other in others:
            other.kill()
            other.wait()
