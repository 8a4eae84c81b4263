"""Lines of the ledger by filters: a page of them, how many there are, or all of them for a file."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any, Protocol

from sqlalchemy import CursorResult, select
from sqlalchemy.orm import Session

from cuejar.store.models import LedgerRow
from cuejar.store.search import TABLE, asked_for

LEDGER = "ledger l"
NEAR = 20_000
"""A period with fewer lines than this is searched between its first and its last line."""


class Names(Protocol):
    """Other names in place of viewers' names."""

    def name(self, viewer: str, name: str) -> str: ...

    def id(self, viewer: str) -> str: ...

    def text(self, text: str) -> str: ...


class Where:
    """Which lines: their source (``l`` is the ledger), an SQL condition with its values, and the column of their order.

    In a search for words the index comes first, and each line found is checked for the rest: the other way round the
    index would be searched once for every line.
    """

    def __init__(
        self,
        since: int = 0,
        viewer: str = "",
        cue: str = "",
        verdict: str = "",
        reason: str = "",
        until: int | None = None,
        words: str = "",
        outcome: str = "",
        call: str = "",
        names: Names | None = None,
    ) -> None:
        """Args:
        since, until: ms since 1970, both included.
        words: words anywhere in a line (`store.search`).
        names: other names for viewers, if wanted.
        """
        self.names = names
        self.source, self.key = LEDGER, "l.id"
        parts: list[str] = []
        self.values: list[str | int] = []
        if asked := asked_for(words, viewer):
            self.source, self.key = f"{TABLE} w cross join ledger l on l.id = w.rowid", "w.rowid"
            self._add(parts, f"{TABLE} match ?", asked)
        times = [("l.wall >= ?", since)] if since else []
        times += [("l.wall <= ?", until)] if until is not None else []
        self.timed, self.times = " and ".join(condition for condition, _ in times), tuple(value for _, value in times)
        """The condition about time, alone."""
        for condition, value in times:
            self._add(parts, condition, value)
        for name, told in {"cue": cue, "verdict": verdict, "reason": reason, "outcome": outcome, "call": call}.items():
            if told:
                self._add(parts, f"l.{name} = ?", told)
        self.sql = " and ".join(parts) or "true"

    def _add(self, parts: list[str], condition: str, value: str | int) -> None:
        parts.append(condition)
        self.values.append(value)


@dataclass(frozen=True)
class Page:
    """Lines, newest first, and how many match the same filters (counted up to a limit)."""

    lines: Sequence[LedgerRow]
    total: int


def page_of(session: Session, where: Where, before: int | None, most: int, most_counted: int) -> Page:
    """Returns the newest lines, at most ``most``; ``before``: those older than this one."""
    connection = session.connection()

    def asked(query: str, *values: str | int) -> CursorResult[Any]:
        return connection.exec_driver_sql(query, (*where.values, *values))

    condition = where.sql
    if where.timed and where.source != LEDGER:
        first, last, count = connection.exec_driver_sql(
            f"select min(id), max(id), count(*) from (select l.id from {LEDGER} where {where.timed} limit {NEAR})", where.times
        ).one()  # fmt: skip
        if count < NEAR:
            condition += f" and {where.key} between {first or 0} and {last or 0}"
    older = "" if before is None else f" and {where.key} < {before}"
    ids = asked(f"select l.id from {where.source} where {condition}{older} order by {where.key} desc limit ?", most)
    found = select(LedgerRow).where(LedgerRow.id.in_(ids.scalars().all())).order_by(LedgerRow.id.desc())
    lines = session.scalars(found).all()
    if before is None and len(lines) < most:
        return Page(lines, len(lines))
    # If the index has the whole answer, the ledger itself isn't read.
    source = TABLE if condition == f"{TABLE} match ?" else where.source
    total = asked(f"select count(*) from (select 1 from {source} where {condition} limit ?)", most_counted)
    return Page(lines, total.scalar_one())
