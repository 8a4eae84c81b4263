"""The writer: one thread through which everything is written, so that no disk and no lock can hold up the show.

Each piece of work is one transaction that begins with the write lock (``BEGIN IMMEDIATE``) and ends on the disk
(``synchronous=FULL``). What cannot be written is a `CannotWrite` in the user's words; nothing of it is there then.
"""

from __future__ import annotations

import asyncio
import random
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from typing import TypeVar

from sqlalchemy import Connection, Engine
from sqlalchemy.exc import DBAPIError

T = TypeVar("T")
Work = Callable[[Connection], T]
FIRST_PAUSE_S, MOST_PAUSE_S = 0.1, 2.0


class CannotWrite(Exception):
    """It could not be written; the text says why."""


def _why(error: Exception) -> str:
    text = str(getattr(error, "orig", None) or error)
    plain = text.casefold()
    if "locked" in plain or "busy" in plain:
        return "another program holds the data folder's database"
    if "full" in plain or "no space" in plain or "disk i/o" in plain:
        return "the disk is full or cannot be written"
    if "readonly" in plain or "read-only" in plain:
        return "the data folder can only be read"
    if "malformed" in plain or "not a database" in plain:
        return "the data folder's database is damaged; start Cue Jar again and it keeps what can be read"
    return text.splitlines()[0][:200] if text else type(error).__name__


class Writer:
    """Writes, one transaction after the other."""

    def __init__(self, engine: Engine) -> None:
        """Args:
        engine: one whose transactions begin with the write lock.
        """
        self.engine = engine
        self._pool = ThreadPoolExecutor(1, thread_name_prefix="writer")

    def now(self, work: Work[T]) -> T:
        """Does a piece of work in this thread. For starting and stopping, when there is no show to be held up.

        Raises:
            CannotWrite.
        """
        try:
            with self.engine.begin() as connection:
                return work(connection)
        except (DBAPIError, OSError) as error:
            raise CannotWrite(_why(error)) from error

    async def do(self, work: Work[T]) -> T:
        """Does a piece of work. Once it has begun it comes to its end, also when the one who waits for it is gone.

        Raises:
            CannotWrite.
        """
        return await asyncio.get_running_loop().run_in_executor(self._pool, self.now, work)

    async def until_done(self, work: Work[T], failed: Callable[[str], None]) -> T:
        """Does a piece of work, again and again with growing pauses until it is done. ``failed`` gets each reason."""
        pause = FIRST_PAUSE_S
        while True:
            try:
                return await self.do(work)
            except CannotWrite as error:
                failed(str(error))
            await asyncio.sleep(pause * random.uniform(0.7, 1.0))
            pause = min(MOST_PAUSE_S, pause * 2)

    def close(self) -> None:
        self._pool.shutdown(wait=False, cancel_futures=True)
