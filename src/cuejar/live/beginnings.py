"""Speeches that can be heard while the rest of them is made: sent to a page as a WAV without a known length."""

from __future__ import annotations

import asyncio
import contextlib
from collections.abc import AsyncIterator
from pathlib import Path

from cuejar.speech.work import Ahead

SOON_S, LATER_S, SOON = 0.002, 0.02, 50
"""How often to look for a beginning: often at first, then less often."""
HEAD = 44
OPEN = b"\xff\xff\xff\xff"


class Beginning:
    """A sound in the making, whose worker puts its beginning at ``path`` once it is ``length_s`` long."""

    def __init__(self, path: Path, length_s: float) -> None:
        self._path, self._length_s = path, length_s
        self._wav = b""
        self._rest = b""
        self._has_ended = asyncio.Event()

    @property
    def ahead(self) -> Ahead:
        """Returns the worker's request; after a crash the new one begins exactly as the lost one."""
        there = self._path.read_bytes() if self._path.is_file() else b""
        return Ahead(self._path, self._length_s, there[HEAD:])

    async def comes(self) -> None:
        """Waits for the beginning."""
        looks = 0
        while not self._path.is_file():
            looks += 1
            await asyncio.sleep(SOON_S if looks < SOON else LATER_S)
        self._wav = self._path.read_bytes()

    def made(self, wav: bytes) -> None:
        """Takes the whole sound, which starts with this beginning."""
        self._rest = wav[len(self._wav) :]

    def ends(self) -> None:
        """Ends it: there will be no more than what was made."""
        self._has_ended.set()
        with contextlib.suppress(OSError):
            self._path.unlink(missing_ok=True)

    async def parts(self) -> AsyncIterator[bytes]:
        """Yields the sound as it arrives. Its header gives the greatest possible length (RIFF)."""
        yield self._wav[:4] + OPEN + self._wav[8 : HEAD - 4] + OPEN + self._wav[HEAD:]
        await self._has_ended.wait()
        if self._rest:
            yield self._rest
