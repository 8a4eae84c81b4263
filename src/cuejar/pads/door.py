"""Connections at the pads' port: how many, and how long without a request.

They are counted from the moment they are accepted, before anything is read: in total, and by sender. One without
a request within a few seconds is ended. A paired device's address always has room.
"""

from __future__ import annotations

import asyncio
import contextlib
import socket
import ssl
import time
from collections import Counter
from collections.abc import Callable
from typing import Any

from cuejar.core.rules.pairing import Known
from cuejar.live.watch import background

MOST, MOST_EACH = 120, 16
"""The maximum number of open connections, and per address; pages and sockets of devices alike."""
MOST_PAIRED_EACH = 40
SILENT_S, HANDSHAKE_S, LOOK_S = 5.0, 5.0, 0.5


class Door:
    """Accepts connections from a bound socket and gives each a protocol."""

    def __init__(
        self, bound: socket.socket, make: Callable[[], asyncio.Protocol], tls: ssl.SSLContext | None, known: Known
    ) -> None:
        self._bound, self._make, self._tls, self._known = bound, make, tls, known
        self._open: dict[asyncio.BaseTransport, tuple[str, float]] = {}
        self._coming: Counter[str] = Counter()
        """How many are accepted and not ready yet, by address."""
        self._tasks: list[asyncio.Task[None]] = []

    def start(self) -> None:
        self._bound.setblocking(False)
        self._bound.listen(100)
        self._tasks = [
            background("pads: taking connections", self._take(), lambda problem: None),
            background("pads: silent connections", self._sweep(), lambda problem: None),
        ]

    # The interface that uvicorn expects of a server.

    def close(self) -> None:
        for task in self._tasks:
            task.cancel()

    async def wait_closed(self) -> None:
        await asyncio.gather(*self._tasks, return_exceptions=True)

    @property
    def sockets(self) -> list[socket.socket]:
        return [self._bound]

    def _is_full(self, address: str) -> bool:
        self._open = {transport: row for transport, row in self._open.items() if not transport.is_closing()}
        there = Counter(one for one, _ in self._open.values()) + self._coming
        if address in self._known:
            return there[address] >= MOST_PAIRED_EACH
        return there[address] >= MOST_EACH or there.total() >= MOST

    async def _take(self) -> None:
        loop = asyncio.get_running_loop()
        while True:
            try:
                came, peer = await loop.sock_accept(self._bound)
            except OSError:
                await asyncio.sleep(LOOK_S)  # No file descriptors left, or the connection is already gone.
                continue
            address = str(peer[0])
            if self._is_full(address):
                came.close()
                continue
            self._coming[address] += 1
            background("pads: a connection", self._begin(came, address), lambda problem: None)

    async def _begin(self, came: socket.socket, address: str) -> None:
        loop = asyncio.get_running_loop()
        more: dict[str, Any] = {"ssl": self._tls, "ssl_handshake_timeout": HANDSHAKE_S} if self._tls is not None else {}
        try:
            transport, _ = await loop.connect_accepted_socket(self._make, came, **more)
            self._open[transport] = (address, time.monotonic())
        except (OSError, ssl.SSLError, TimeoutError):
            with contextlib.suppress(OSError):
                came.close()
        finally:
            self._coming[address] -= 1

    async def _sweep(self) -> None:
        while True:
            await asyncio.sleep(LOOK_S)
            now = time.monotonic()
            for transport, (_, since) in list(self._open.items()):
                if now - since > SILENT_S and not transport.is_closing() and _is_silent(transport):
                    transport.abort()  # type: ignore[attr-defined]


def _is_silent(transport: asyncio.BaseTransport) -> bool:
    """Returns whether nothing was requested on it yet."""
    protocol = transport.get_protocol()
    return hasattr(protocol, "cycle") and protocol.cycle is None
