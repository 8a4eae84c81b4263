"""Latches: the last state of every latched key, saved across restarts of either side.

Nobody can read what a latch toggles in another program. So each tap is counted: it has an id made from the latch and
its number, and gear that remembers ids reports on connecting which of the next ones it did. Gear that can't remember is
asked at most once; if that may or may not have been done, the latch is in doubt until a person decides.
"""

from __future__ import annotations

import hashlib
from collections.abc import Iterable
from dataclasses import dataclass

from sqlalchemy import Connection, select
from sqlalchemy.dialects.sqlite import insert
from sqlalchemy.orm import Session, sessionmaker

from cuejar.live.later import KeepLater
from cuejar.store.models import LatchRow

DOUBT = "doubt"
NO_MEMORY = "none"
"""Stands for the memory of gear without one."""


@dataclass
class Latch:
    """``value`` is its state after ``taps``; ``asked`` names the memory that was asked for one more tap, not confirmed
    yet.
    """

    value: str = "off"
    taps: int = 0
    asked: str = ""

    def turned(self) -> None:
        """Notes one more tap."""
        self.value = "off" if self.value == "on" else "on"
        self.taps, self.asked = self.taps + 1, ""


class Latches:
    """All latches of the data folder."""

    def __init__(self, sessions: sessionmaker[Session], keep_later: KeepLater, installation: str) -> None:
        """Args:
        keep_later: writes something small now, or as soon as possible.
        """
        self._keep_later, self._installation = keep_later, installation
        with sessions() as session:
            rows = session.scalars(select(LatchRow)).all()
        self.rows = {row.path: Latch(row.value, row.taps, row.asked) for row in rows}

    def of(self, path: str) -> Latch:
        return self.rows.setdefault(path, Latch())

    def value(self, path: str) -> str:
        """Returns ``on``, ``off``, or `DOUBT`."""
        latch = self.rows.get(path)
        return latch.value if latch is not None else "off"

    def tap_id(self, path: str, number: int) -> str:
        """Returns the id of a latch's tap, by its number."""
        told = f"{self._installation}/{path}/{number}"
        return "latch_" + hashlib.sha256(told.encode()).hexdigest()[:28]

    def in_doubt(self) -> Iterable[str]:
        return [path for path, latch in self.rows.items() if latch.value == DOUBT]

    async def keep(self, path: str) -> None:
        """Saves a latch. If that can't be done now it is done later; taps go on meanwhile."""

        def write(connection: Connection) -> None:
            latch = self.of(path)
            row = {"path": path, "value": latch.value, "taps": latch.taps, "asked": latch.asked}
            query = insert(LatchRow).values(row)
            connection.execute(query.on_conflict_do_update(index_elements=["path"], set_=row))

        await self._keep_later("what a latch was left at", write)
