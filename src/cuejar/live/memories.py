"""Which memory of ids each piece of gear named last, saved across restarts.

What may have been done is sent again only to the memory that it was sent to: another one doesn't know of it.
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
            self._now = {row.thing: row.value for row in rows}
        self._before = dict(self._now)

    def before(self, gear: str) -> str:
        """Returns the memory that gear named last to an earlier process; empty if none."""
        return self._before.get(gear, "")

    async def note(self, gear: str, memory: str) -> None:
        """Takes the memory that gear names now."""
        if self._now.get(gear, "") == memory:
            return
        self._now[gear] = memory
        row = {"kind": MEMORY_LINK, "thing": gear, "value": memory}
        query = insert(LinkRow).values(row).on_conflict_do_update(index_elements=["kind", "thing"], set_=row)
        await self._keep_later("what gear remembers", lambda c: c.execute(query))
