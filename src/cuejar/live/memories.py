"""Which memory of ids each piece of gear named last, saved across restarts.

What may have been done is sent again only to the memory that it was sent to: another one doesn't know of it. So each is
saved with the time at which it was first met: what fell due earlier may have been sent to the one before.
"""

from __future__ import annotations

from sqlalchemy import select
from sqlalchemy.dialects.sqlite import insert
from sqlalchemy.orm import Session, sessionmaker

from cuejar.live.later import KeepLater
from cuejar.store.models import LinkRow

MEMORY_LINK = "memory"
ALWAYS = "always"
"""The memory of a side that remembers ids by its standard."""


class Memories:
    """The memories of all gear."""

    def __init__(self, sessions: sessionmaker[Session], keep_later: KeepLater) -> None:
        self._keep_later = keep_later
        with sessions() as session:
            rows = session.scalars(select(LinkRow).where(LinkRow.kind == MEMORY_LINK))
            self._now = {row.thing: _read(row.value) for row in rows}
        self._before = dict(self._now)

    def before(self, gear: str, at: int) -> str:
        """Returns the memory to which an earlier process may have sent what fell due then; empty: unknown, or none.

        Args:
            at: ms of the show's clock.
        """
        met, memory = self._before.get(gear, (0, ""))
        return memory if at >= met else ""

    async def note(self, gear: str, memory: str, now: int) -> None:
        """Takes the memory that gear names now."""
        if self._now.get(gear, (0, ""))[1] == memory:
            return
        self._now[gear] = now, memory
        row = {"kind": MEMORY_LINK, "thing": gear, "value": f"{now} {memory}"}
        query = insert(LinkRow).values(row).on_conflict_do_update(index_elements=["kind", "thing"], set_=row)
        await self._keep_later("what gear remembers", lambda c: c.execute(query))


def _read(value: str) -> tuple[int, str]:
    met, _, memory = value.partition(" ")
    return int(met), memory
