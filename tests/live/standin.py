"""The stand-ins in a thread of the test's own process."""

from __future__ import annotations

import asyncio
import threading
from collections.abc import Callable, Sequence
from typing import Any

import uvicorn

from cuejar.standins.app import standins
from cuejar.standins.broadcaster import Broadcaster
from tests.running import PATIENCE_S, free_ports, until


class NoPictures:
    """No reward has a picture."""

    def marks(self) -> dict[str, str]:
        return {}

    async def made(self, reward: str, sides: Sequence[int]) -> dict[int, bytes]:
        return {}


class StandIn:
    """The stand-ins' server in a thread of this process, so that a test can change them by hand and cut their wires."""

    def __init__(self, port: int | None = None, token: str = "") -> None:
        self.port = port or free_ports()
        self.app = standins(self.port, None, token=token)
        self.server = uvicorn.Server(uvicorn.Config(self.app, host="127.0.0.1", port=self.port, log_level="warning"))
        self.loop: asyncio.AbstractEventLoop | None = None
        self.thread = threading.Thread(target=self._run, daemon=True)
        self.thread.start()
        until(lambda: self.server.started)
        self.address = f"ws://127.0.0.1:{self.port}/broadcaster"

    def _run(self) -> None:
        self.loop = asyncio.new_event_loop()
        self.loop.run_until_complete(self.server.serve())

    @property
    def broadcaster(self) -> Broadcaster:
        there: Broadcaster = self.app.state.broadcaster
        return there

    def hand(self, path: str, value: Any) -> None:
        async def lay() -> None:
            self.broadcaster.hand(path, value)

        assert self.loop is not None
        asyncio.run_coroutine_threadsafe(lay(), self.loop).result(PATIENCE_S)

    def do(self, name: str, *args: Any) -> None:
        async def lay() -> None:
            getattr(self.broadcaster, name)(*args)

        assert self.loop is not None
        asyncio.run_coroutine_threadsafe(lay(), self.loop).result(PATIENCE_S)

    def call(self, work: Callable[[], Any]) -> Any:
        """Calls something in the stand-ins' own loop."""

        async def lay() -> Any:
            return work()

        assert self.loop is not None
        return asyncio.run_coroutine_threadsafe(lay(), self.loop).result(PATIENCE_S)

    def stop(self) -> None:
        self.server.should_exit = True
        self.thread.join(5)
