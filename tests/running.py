"""Real processes for tests: the stand-ins and the server, started on free ports and ended by their own ids."""

from __future__ import annotations

import io
import itertools
import json
import os
import random
import signal
import socket
import subprocess
import time
import wave
from collections.abc import Callable, Iterator
from contextlib import suppress
from pathlib import Path
from typing import Any

import httpx
import psutil
from websockets.sync.client import connect

from cuejar.standins.halt import PASSWORD
from tests import copies

FIRST_PORT, PORTS = 12_000, 2_000
"""Below the system's own range; a share for each of the processes in which tests run side by side."""
_next_ports: dict[int, int] = {}


def free_ports() -> int:
    """Returns a port that is free together with those five, six, ten and eleven above it, and isn't given out again soon."""
    worker = int(os.environ.get("PYTEST_XDIST_WORKER", "gw7").removeprefix("gw"))
    first = FIRST_PORT + worker % 8 * PORTS
    for _ in range(PORTS // 20):
        at = _next_ports.get(worker, random.randrange(0, PORTS, 20))
        _next_ports[worker] = (at + 20) % PORTS
        if all(_is_free(first + at + behind) for behind in (0, 5, 6, 10, 11)):
            return first + at
    raise RuntimeError("no free ports")


def _is_free(port: int) -> bool:
    for kind in (socket.SOCK_STREAM, socket.SOCK_DGRAM):
        with socket.socket(socket.AF_INET, kind) as probe:
            try:
                probe.bind(("127.0.0.1", port))
            except OSError:
                return False
    return True


def apart_net() -> list[str]:
    """Returns what starts a command in a net of its own, with the usual ports free; nothing where that isn't allowed."""
    for own in (["unshare", "-n"], ["unshare", "-rn"]):
        command = [*own, "sh", "-c", 'ip link set lo up && exec "$0" "$@"']
        with suppress(OSError):
            if subprocess.run([*command, "true"], capture_output=True).returncode == 0:
                return command
    return []


PATIENCE_S = 120.0
"""How long a test waits for an event: a busy machine is slow, not wrong. The bench measures speed."""


def client(address: str, timeout: float = PATIENCE_S) -> httpx.Client:
    """Returns a client for a server here; it doesn't reuse a connection that the other side may be closing."""
    limits = httpx.Limits(keepalive_expiry=1.0)
    return httpx.Client(base_url=address, timeout=timeout, trust_env=False, limits=limits)


def until(check: Callable[[], Any], every: float | None = None, patience_s: float = PATIENCE_S) -> Any:
    """Waits until ``check`` returns something true, and returns it."""
    end = time.monotonic() + patience_s
    pauses = looks() if every is None else itertools.repeat(every)
    while True:
        try:
            value = check()
        except (httpx.HTTPError, OSError, KeyError, IndexError, AssertionError):
            value = None
        if value:
            return value
        if time.monotonic() > end:
            raise AssertionError(f"not within {patience_s:.0f} s: {check}")
        time.sleep(next(pauses))


def looks() -> Iterator[float]:
    """Yields the pauses between looks at something awaited, in seconds: longer each time, since each look takes time from what
    is looked at.
    """
    pause = 0.02
    while True:
        yield pause
        pause = min(0.16, pause * 1.25)


def wav(seconds: float) -> bytes:
    """Returns a sound of this length."""
    out = io.BytesIO()
    with wave.open(out, "wb") as made:
        made.setnchannels(1)
        made.setsampwidth(2)
        made.setframerate(8_000)
        made.writeframes(b"\x10\x20" * int(8_000 * seconds))
    return out.getvalue()


class Running:
    """A server with its stand-ins on a data folder."""

    def __init__(self, data: Path, port: int | None = None) -> None:
        self.data = data
        self.port = port or free_ports()
        self.server: psutil.Process | None = None
        self.standins: psutil.Process | None = None
        self.api = client(f"http://127.0.0.1:{self.port}")
        self.broadcaster, self.channel, self.things = (
            client(f"http://127.0.0.1:{self.port + 10}/{kind}") for kind in ("broadcaster", "channel", "things")
        )

    def _start(self, *command: str) -> psutil.Process:
        return copies.start(list(command), self.data.parent / f"{command[0]}.log")

    def launch_standins(self) -> None:
        """Starts them without waiting."""
        state = str(self.data.parent / "channel.json")
        self.standins = self._start("standins", "--port", str(self.port + 10), "--state", state)

    def start_standins(self) -> None:
        self.launch_standins()
        until(lambda: self.channel.get("/stream").is_success)

    def start_server(self) -> None:
        channel = f"http://127.0.0.1:{self.port + 10}"
        self.server = self._start(
            "serve", "--port", str(self.port), "--data", str(self.data), "--channel", channel,
            "--standins", f"127.0.0.1:{self.port + 10}",
        )  # fmt: skip
        until(lambda: self.api.get("/api/health").is_success)

    def start(self) -> Running:
        self.start_standins()
        self.start_server()
        self.in_step()
        return self

    def in_step(self) -> None:
        until(lambda: self.api.get("/api/health").json()["channel"] == "in_step")

    def kill_server(self) -> None:
        """Kills it: no chance to write anything."""
        assert self.server is not None
        os.kill(self.server.pid, signal.SIGKILL)
        self.server.wait()

    def kill_standins(self) -> None:
        assert self.standins is not None
        os.kill(self.standins.pid, signal.SIGKILL)
        self.standins.wait()

    def stop(self) -> None:
        if self.server is not None and self.server.is_running():
            self.server.terminate()
            try:
                self.server.wait(8)
            except psutil.TimeoutExpired:
                self.server.kill()
        if self.standins is not None and self.standins.is_running():
            self.standins.kill()
        self.api.close()
        self.channel.close()
        self.broadcaster.close()
        self.things.close()

    def book(self, **lists: Any) -> None:
        """Puts parts into the book over the API."""
        for kind, entries in lists.items():
            if kind == "house":
                self.api.put("/api/book/house", json={"value": entries}).raise_for_status()
                continue
            for entry in entries:
                self.api.put(f"/api/book/{kind}/{entry['id']}", json={"value": entry}).raise_for_status()

    @property
    def now(self) -> dict[str, Any]:
        """The book as it is now."""
        book: dict[str, Any] = self.api.get("/api/book").json()["book"]
        return book

    def add_file(self, name: str, content: bytes) -> str:
        # Reading takes its time: it is measured for flashes, frame by frame.
        answer = self.api.post("/api/media", files={"files": (name, content)}, timeout=4 * PATIENCE_S)
        answer.raise_for_status()
        media_id: str = answer.json()["media"][0]["id"]
        return media_id

    def with_broadcaster(self, **book: Any) -> None:
        """Returns a book with the simulated broadcaster, once it is in step."""
        self.book(gear=[{"id": "broadcast", "kind": "broadcaster", "name": "Broadcaster"}], **book)
        self.api.put("/api/gear/broadcast/secret", json={"secret": PASSWORD}).raise_for_status()
        until(lambda: self.api.get("/api/gear").json()[0]["state"] == "in_step")

    def redeem(self, viewer: str, reward: str, text: str = "") -> str:
        answer = self.channel.post("/redemptions", json={"viewer": viewer, "reward": reward, "text": text})
        assert answer.is_success, answer.text
        redemption: str = answer.json()["id"]
        return redemption

    def standin(self, path: str, body: Any) -> None:
        """Changes one of the stand-ins by hand, by the path of its HTTP."""
        answer = httpx.post(f"http://127.0.0.1:{self.port + 10}{path}", json=body, timeout=PATIENCE_S, trust_env=False)
        answer.raise_for_status()

    def state_of(self, redemption: str) -> str:
        state: str = self.channel.get(f"/redemptions/{redemption}").json()["state"]
        return state

    def state(self) -> dict[str, Any]:
        """Returns what a desk gets when it opens, part by part; every lane under ``lanes``."""
        state: dict[str, Any] = {}
        with connect(f"ws://127.0.0.1:{self.port}/api/feed", proxy=None, max_queue=None) as feed:
            while (message := json.loads(feed.recv(timeout=PATIENCE_S)))["t"] != "ready":
                if message["t"] == "part":
                    lane = f"/{message['value']['id']}" if message["of"] == "lane" else ""
                    state[message["of"] + lane] = message["value"]
        return {**state, "lanes": [state[f"lane/{lane}"] for lane in state["lanes"]]}

    def overlay_feed(self) -> str:
        path = self.api.post("/api/overlays/stream/link").json()["path"]
        return f"ws://127.0.0.1:{self.port}{path}/feed"
