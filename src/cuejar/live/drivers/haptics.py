"""The haptics: patterns played as frames over OSC, with the house's limits on what reaches the skin."""

from __future__ import annotations

import asyncio
from collections.abc import Callable, Sequence

import numpy as np

from cuejar.core.book.book import Book
from cuejar.core.facts import orders as o
from cuejar.core.kinds.gear import GearKind
from cuejar.core.measures.haptics import CELLS, Limit, found, levels_at, merged
from cuejar.live.drivers.base import Greeting
from cuejar.live.drivers.osc import OscDriver
from cuejar.live.watch import background

FRAME_S = 0.02


class HapticsDriver(OscDriver):
    """Plays what is up. A frame carries every cell, so that one that is lost does no harm."""

    def __init__(self, kind: GearKind, address: str, book: Callable[[], Book], now: Callable[[], int]) -> None:
        """Args:
        now: the show's clock in ms, by which beats begin.
        """
        super().__init__(kind, address)
        self._book, self._now = book, now
        self._up: list[o.Show] = []
        self._stirred = asyncio.Event()
        self._playing: asyncio.Task[None] | None = None
        self.limit: Limit | None = None

    async def connect(self) -> Greeting:
        there = await super().connect()
        self._playing = background("haptics", self._play(), self._fell)
        return there

    def up(self, shows: Sequence[o.Show]) -> None:
        """What is up now, all of it."""
        self._up = list(shows)
        self._stirred.set()

    def levels(self, now: int) -> bytes:
        """The frame of this moment, a byte a cell, within the house's limits."""
        book = self._book()
        house = book.house
        wanted = (house.haptics_level, round(house.haptics_most_s * 1000), round(house.haptics_pause_s * 1000))
        if self.limit is None:
            self.limit = Limit(*wanted)
        self.limit.level, self.limit.most_ms, self.limit.pause_ms = wanted
        playing = []
        for show in self._up:
            pattern = found(book.patterns, str(show.value))
            if pattern is not None and show.at <= now and (show.until is None or now < show.until):
                t_s = (now - show.at) / 1000 % pattern.length_s
                playing.append(levels_at(pattern, t_s) * float(show.look.get("strength", 1)))
        return bytes(np.round(self.limit.passed(merged(playing), now) * 255).astype(np.uint8))

    async def _play(self) -> None:
        quiet = bytes(CELLS)
        still = 0
        while True:
            if not self._up and still > 3:
                self._stirred.clear()
                if not self._up:
                    await self._stirred.wait()
            frame = self.levels(self._now())
            still = still + 1 if frame == quiet and not self._up else 0
            self._send("frame", frame)
            await asyncio.sleep(FRAME_S)

    async def close(self) -> None:
        if self._playing is not None:
            self._playing.cancel()
            self._playing = None
        await super().close()
