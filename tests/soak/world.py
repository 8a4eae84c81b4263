"""The soak's world: the server, the channel and the gear as three real processes on one data folder, and their possible
faults.
"""

from __future__ import annotations

import contextlib
import os
import signal
import sqlite3
import subprocess
import time
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import httpx
import psutil

from cuejar.standins.halt import HOOK_SECRET, PASSWORD
from tests import copies
from tests.running import client, free_ports

DISK_MB = 48
ASKED_S = 0.4
"""How long the storm waits for an answer: a process may be frozen."""
QUIET_S = 90.0
"""How long everything may take to recover after the last fault."""


def until(check: Callable[[], Any], what: Callable[[], Any], within_s: float = QUIET_S) -> Any:
    """Waits until ``check`` returns something true; ``what`` describes the state otherwise."""
    end = time.monotonic() + within_s
    while True:
        with contextlib.suppress(httpx.HTTPError, KeyError, ValueError):
            if value := check():
                return value
        if time.monotonic() > end:
            raise AssertionError(f"not right again within {within_s:.0f} s: {what()}")
        time.sleep(0.1)


class World:
    """Three processes, and a disk that can be full."""

    def __init__(self, folder: Path) -> None:
        self.folder, self.data = folder, folder / "data"
        self.data.mkdir()
        self.small = _mounted(self.data)
        self.ports = {name: free_ports() for name in ("server", "channel", "gear")}
        self.running: dict[str, psutil.Process] = {}
        self.http = {name: client(f"http://127.0.0.1:{port}", 5) for name, port in self.ports.items()}
        self._lock: sqlite3.Connection | None = None

    @property
    def database(self) -> Path:
        return self.data / "cue-jar.sqlite"

    def start(self, name: str) -> None:
        """Starts a process that isn't running, without waiting."""
        if self.is_up(name):
            return
        if name == "server":
            order = ["serve", "--port", str(self.ports["server"]), "--data", str(self.data),
                     "--channel", f"http://127.0.0.1:{self.ports['channel']}",
                     "--standins", f"127.0.0.1:{self.ports['gear']}"]  # fmt: skip
        else:
            state = self.folder / name
            state.mkdir(exist_ok=True)
            order = ["standins", "--port", str(self.ports[name]), "--state", str(state / "state.json")]
        os.environ["CUEJAR_KEY_STORE"] = "false"
        os.environ["CUEJAR_SNAPSHOT_EVERY"] = "60"
        self.running[name] = copies.start(order, self.folder / f"{name}.log")

    def is_up(self, name: str) -> bool:
        process = self.running.get(name)
        return process is not None and process.is_running() and process.status() != psutil.STATUS_ZOMBIE

    def answers(self, name: str) -> bool:
        try:
            self.http[name].get("/api/health" if name == "server" else "/channel/stream", timeout=2)
        except httpx.HTTPError:
            return False
        return True

    def kill(self, name: str) -> None:
        """Kills it."""
        if self.is_up(name):
            with contextlib.suppress(psutil.NoSuchProcess):
                os.kill(self.running[name].pid, signal.SIGKILL)
                self.running[name].wait(10)

    def freeze(self, name: str) -> None:
        if self.is_up(name):
            self.running[name].suspend()

    def thaw(self, name: str) -> None:
        if self.is_up(name):
            self.running[name].resume()

    def fill(self) -> None:
        """Fills the data folder's disk to the last byte, if it is one of its own."""
        if not self.small:
            return
        with contextlib.suppress(OSError), (self.data / "filler").open("ab", buffering=0) as filler:
            while True:
                filler.write(b"\0" * 65_536)
        with contextlib.suppress(OSError), (self.data / "filler").open("ab", buffering=0) as filler:
            while True:
                filler.write(b"\0" * 512)

    def empty(self) -> None:
        (self.data / "filler").unlink(missing_ok=True)

    def lock(self) -> None:
        """Holds the database's write lock, as another program would."""
        self.unlock()
        with contextlib.suppress(sqlite3.Error):
            self._lock = sqlite3.connect(self.database, timeout=1, isolation_level=None, check_same_thread=False)
            self._lock.execute("begin immediate")

    def unlock(self) -> None:
        if self._lock is not None:
            with contextlib.suppress(sqlite3.Error):
                self._lock.rollback()
            self._lock.close()
            self._lock = None

    def ask(self, name: str, method: str, path: str, **more: Any) -> httpx.Response | None:
        """Asks, and accepts no answer as one."""
        try:
            return self.http[name].request(method, path, timeout=ASKED_S, **more)
        except httpx.HTTPError:
            return None

    def book(self, **lists: list[dict[str, Any]]) -> None:
        for kind, entries in lists.items():
            if kind == "house":
                self.http["server"].put("/api/book/house", json={"value": entries[0]}).raise_for_status()
                continue
            for entry in entries:
                path = f"/api/book/{kind}/{entry['id']}"
                self.http["server"].put(path, json={"value": entry}).raise_for_status()

    def secrets(self) -> None:
        for gear, secret in (("broadcast", PASSWORD), ("box", HOOK_SECRET)):
            self.http["server"].put(f"/api/gear/{gear}/secret", json={"secret": secret}).raise_for_status()

    def rows(self, query: str) -> list[tuple[Any, ...]]:
        """Reads the server's database."""
        with contextlib.closing(sqlite3.connect(f"file:{self.database}?mode=ro", uri=True)) as base:
            return base.execute(query).fetchall()

    def stop(self) -> None:
        self.unlock()
        for name in list(self.running):
            self.thaw(name)
            self.kill(name)
        for one in self.http.values():
            one.close()
        if self.small:
            subprocess.run(["umount", "-l", str(self.data)], check=False)


def _mounted(folder: Path) -> bool:
    """Mounts a small disk under the data folder, if permitted."""
    done = subprocess.run(
        ["mount", "-t", "tmpfs", "-o", f"size={DISK_MB}m", "tmpfs", str(folder)], capture_output=True, check=False
    )
    return done.returncode == 0


@contextlib.contextmanager
def world(folder: Path) -> Iterator[World]:
    made = World(folder)
    try:
        yield made
    finally:
        made.stop()
