"""A server that sleeps while nothing happens: uvicorn's own looks ten times a second whether it should end."""

from __future__ import annotations

import asyncio
from contextlib import suppress

import uvicorn

TICK_S = 1.0
"""How often the time in answers' headers is renewed."""


class QuietServer(uvicorn.Server):
    """Ends as soon as ``should_exit`` is set, from this thread, another one, or a signal."""

    _loop: asyncio.AbstractEventLoop | None = None
    _exits = False

    def __init__(self, config: uvicorn.Config) -> None:
        self._ends = asyncio.Event()
        super().__init__(config)

    @property
    def should_exit(self) -> bool:
        return self._exits

    @should_exit.setter
    def should_exit(self, exits: bool) -> None:
        self._exits = exits
        if exits and self._loop is not None:
            with suppress(RuntimeError):  # The loop has ended.
                self._loop.call_soon_threadsafe(self._ends.set)

    async def main_loop(self) -> None:
        self._loop = asyncio.get_running_loop()
        while not await self.on_tick(0):
            with suppress(TimeoutError):
                async with asyncio.timeout(TICK_S):
                    await self._ends.wait()
