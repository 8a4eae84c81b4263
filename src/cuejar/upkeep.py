"""What is done behind the show, day by day: copies of the data, and nights that are kept no longer."""

from __future__ import annotations

import asyncio
import contextlib
import sqlite3
import time
from datetime import date
from pathlib import Path
from typing import Any

from sqlalchemy.orm import Session, sessionmaker

from cuejar.core.parts.base import JsonObject
from cuejar.live.troubles import Troubles
from cuejar.live.watch import Watch
from cuejar.store.books import Books
from cuejar.store.copies import make_copy
from cuejar.store.nights import let_go, too_old
from cuejar.store.writer import CannotWrite, Writer

COPY_S, COPY_AGAIN_S = 900, 30
"""How often to check for today's copy of the data, and how soon again after a failure."""
COPIES = "copies"
NIGHTS_S, NIGHTS_AT_ONCE = 60, 5
"""How often to check for expired nights, and how many are deleted together."""
UNDO_MS = 3_600_000
"""Nothing is deleted until the setting that asks for it is this old, so that undo can stop it."""


def _retention(book: JsonObject) -> Any:
    """Returns how long nights are kept, from a book as JSON."""
    house = book.get("house", {})
    return house.get("nights_kept"), house.get("nights_days")


class Upkeep:
    """Looks after the data folder while Cue Jar runs."""

    def __init__(
        self, database: Path, sessions: sessionmaker[Session], writer: Writer, books: Books, troubles: Troubles
    ) -> None:
        self._database, self._sessions, self._writer = database, sessions, writer
        self._books, self._troubles = books, troubles

    def start(self, watch: Watch) -> None:
        watch.keep("copies of the data", self._keep_copies)
        watch.keep("how long nights are kept", self._keep_nights)

    async def _keep_copies(self) -> None:
        """Makes a copy of the data every day; a failure is reported, and retried."""
        while True:
            try:
                await asyncio.to_thread(make_copy, self._database, date.today())
                self._troubles.gone(COPIES)
            except (OSError, sqlite3.Error) as error:
                what = f"Today’s copy of the data could not be made: {error}."
                self._troubles.has(COPIES, what, "The show is not touched by it; it is tried again.")
            await asyncio.sleep(COPY_AGAIN_S if COPIES in self._troubles else COPY_S)

    async def _keep_nights(self) -> None:
        """Deletes nights that are older than the house keeps them."""
        while True:
            house = self._books.book.house
            if house.nights_kept is not None or house.nights_days is not None:
                now = round(time.time() * 1000)
                old = []
                if await asyncio.to_thread(self._books.since, _retention, now - UNDO_MS) <= now - UNDO_MS:
                    old = await asyncio.to_thread(too_old, self._sessions, house.nights_kept, house.nights_days, now)
                with contextlib.suppress(CannotWrite):  # It is checked again.
                    for i in range(0, len(old), NIGHTS_AT_ONCE):
                        those = old[i : i + NIGHTS_AT_ONCE]
                        await self._writer.do(lambda c, those=those: let_go(c, those))  # type: ignore[misc]
            await asyncio.sleep(NIGHTS_S)
