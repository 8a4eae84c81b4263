"""A show with its rig in this process, without the server: for tests and benches that look at parts of it."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Any

from cuejar.core.book.book import Book
from cuejar.live.devices import Devices
from cuejar.live.hands import Hands
from cuejar.live.journal import Journal
from cuejar.live.latches import Latches
from cuejar.live.memories import Memories
from cuejar.live.rig import Rig
from cuejar.live.runner import Runner
from cuejar.live.strikes import Owed, Strikes
from cuejar.live.troubles import Troubles
from cuejar.live.watch import Watch
from cuejar.settings import Settings
from cuejar.store.database import open_database
from cuejar.store.secrets import Secrets
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
        self.runner = Runner(
            Settings(data=folder),
            self.journal,
            self.writer,
            self.watch,
            self.troubles,
            decided=lambda settled, strikes: self.decided(settled, strikes),
        )
        self.runner.load(book)
        self.latches = Latches(self.database.sessions, self.runner.later.keep, self.journal.installation)
        memories = Memories(self.database.sessions, self.runner.later.keep)
        self.rig = Rig(self.runner, secret, standins, self.latches, memories, self._hands())
        self.runner.ears = [self.rig]
        self.strikes = Strikes(
            self.rig.striker,
            lambda: self.runner.clock.now(),
            self.watch.once,
            self.runner.recorder.struck,
            lambda failed: self.runner.post(failed, patient=True),
            lambda strike: "chat" if strike.kind == "reply" else self.rig.where(strike),
        )

    def decided(self, settled: list[tuple[str, str]], strikes: list[Owed]) -> None:
        self.strikes.owe(strikes)

    def _hands(self) -> Hands:
        keys = Secrets(self.database.path.parent, False)
        return Hands(Devices(self.database.sessions, self.writer, keys), lambda: None)

    def start(self, **media: Any) -> None:
        self.runner.start(self.book, media)
        self.strikes.owe(self.journal.owed_strikes(), again=True)

    async def stop(self) -> None:
        await self.rig.stop()
        await self.runner.stop()
        await self.watch.stop()
        self.writer.close()
