"""Speeches that can be heard from their beginning on while their rest is made: sent to a page as a WAV that has no length yet."""

from __future__ import annotations

import asyncio
from collections.abc import AsyncIterator
from pathlib import Path

from cuejar.speech.work import Ahead

SOON_S, LATER_S, SOON = 0.002, 0.02, 50
"""How often one looks whether there is a beginning: so many times soon, and then less often."""
HEAD = 44
OPEN = b"\xff\xff\xff\xff"


class Beginning:
    """One sound that is being made, whose worker puts its beginning at ``path`` when it is ``length_s`` long."""

    def __init__(self, path: Path, length_s: float) -> None:
        self._path, self._length_s = path, length_s
        self._wav = b""
        self._rest = b""
        self._has_ended = asyncio.Event()

    @property
    def ahead(self) -> Ahead:
        """What its worker is asked for; one that comes after another that came down begins as that one began."""
        there = self._path.read_bytes() if self._path.is_file() else b""
        return Ahead(self._path, self._length_s, there[HEAD:])

    async def comes(self) -> None:
        """Returns as soon as the beginning is there."""
        looks = 0
        while not self._path.is_file():
            looks += 1
            await asyncio.sleep(SOON_S if looks < SOON else LATER_S)
        self._wav = self._path.read_bytes()

    def made(self, wav: bytes) -> None:
        """The whole, which begins with this."""
        self._rest = wav[len(self._wav) :]

    def ends(self) -> None:
        """There is no more of it than what was made."""
        self._has_ended.set()
        self._path.unlink(missing_ok=True)

    async def parts(self) -> AsyncIterator[bytes]:
        """The sound as it comes. Its head says that it goes on as long as it goes on (RIFF: the greatest length)."""
        yield self._wav[:4] + OPEN + self._wav[8 : HEAD - 4] + OPEN + self._wav[HEAD:]
        await self._has_ended.wait()
        if self._rest:
            yield self._rest
