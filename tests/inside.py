"""A show with its rig in this process, without the server: for tests and benches that look at parts of it."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Any

from cuejar.core.book.book import Book
from cuejar.live.journal import Journal
from cuejar.live.latches import Latches
from cuejar.live.rig import Rig
from cuejar.live.show import Show
from cuejar.live.strikes import Strikes
from cuejar.live.troubles import Troubles
from cuejar.live.watch import Watch
from cuejar.settings import Settings
from cuejar.store.database import open_database
from cuejar.store.writer import Writer


class Inside:
    """Everything of a data folder that needs no web."""

    def __init__(
        self, folder: Path, book: Book, standins: str | None = None, secret: Callable[[str], str] = lambda gear: ""
    ) -> None:
        self.book = book
        self.database = open_database(folder)
        self.writer, self.watch, self.troubles = Writer(self.database.writing), Watch(), Troubles()
        self.journal = Journal(self.database.sessions)
        self.show = Show(Settings(data=folder), self.journal, self.writer, self.watch, self.troubles)
        self.show.load(book)
        self.latches = Latches(self.database.sessions, self.show.keep_later, self.journal.installation)
        self.rig = Rig(self.show, secret, standins, self.latches)
        self.show.ears = [self.rig]
        self.strikes = Strikes(
            self.rig.striker,
            lambda: self.show.clock.now(),
            self.watch.once,
            self.show.recorder.struck,
            lambda failed: self.show.post(failed, patient=True),
        )

    def start(self, **media: Any) -> None:
        self.show.start(self.book, media)
        self.strikes.owe(self.journal.owed_strikes(), again=True)
        self.show.recorder.on_decided = lambda settled, strikes: self.strikes.owe(strikes)

    async def stop(self) -> None:
        await self.rig.stop()
        await self.show.stop()
        await self.watch.stop()
        self.writer.close()
