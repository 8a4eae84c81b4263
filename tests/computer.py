"""The other computer, with its keys, in a thread: `cuejar hands` with a keyboard that only notes."""

from __future__ import annotations

import asyncio
import threading
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from pathlib import Path
from typing import Any

from cuejar.hands import Hands, Lost, Memory, Over
from tests.running import PATIENCE_S, until


class Keyboard:
    """A keyboard that only notes. ``stuck``: the next press never ends."""

    def __init__(self) -> None:
        self.taps: list[str] = []
        self.stuck = False

    async def tap(self, codes: list[str], tap_id: str) -> None:
        self.taps.append("+".join(codes))
        if self.stuck:
            await asyncio.Event().wait()


class Computer(Hands):
    """The other computer, in a thread. ``cut``: the connection breaks before or after the next press."""

    def __init__(self, path: Path, keyboard: Keyboard, code: str = "") -> None:
        self.said: list[str] = []
        super().__init__(Memory(path), keyboard, self.said.append, code)
        self.cut = ""
        self.end = ""
        self._loop: asyncio.AbstractEventLoop | None = None
        self._task: asyncio.Task[None] | None = None

    async def do(self, body: str) -> dict[str, Any]:
        cut, self.cut = (self.cut, "") if '"tap"' in body else ("", self.cut)
        if cut == "before":
            raise Lost("cut before the press")
        answer = await super().do(body)
        if cut == "after":
            raise Lost("cut after the press")
        return answer

    @contextmanager
    def runs(self, address: str) -> Iterator[Computer]:
        async def run() -> None:
            self._loop, self._task = asyncio.get_running_loop(), asyncio.current_task()
            try:
                await self.serve(address)
            except Over as over:
                self.end = str(over)

        def thread() -> None:
            with suppress(asyncio.CancelledError):
                asyncio.run(run())

        there = threading.Thread(target=thread)
        there.start()
        try:
            yield self
        finally:
            until(lambda: self._task)
            assert self._loop is not None and self._task is not None
            if there.is_alive():
                self._loop.call_soon_threadsafe(self._task.cancel)
            there.join(PATIENCE_S)
