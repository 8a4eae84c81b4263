"""Saved nights: the show's state before each, and its entries of the journal, so that it can be played again.

The entries of a night in progress are in the journal; those that a snapshot makes unnecessary there are packed.
Everything that writes takes a connection and is called by the `Writer`.
"""

from __future__ import annotations

import json
import sqlite3
import zlib
from collections.abc import Callable, Sequence
from datetime import UTC, datetime
from pathlib import Path
from typing import Any, NamedTuple
from urllib.parse import quote

from sqlalchemy import Connection, bindparam, create_engine, delete, func, or_, select, text, update
from sqlalchemy.dialects.sqlite import insert
from sqlalchemy.orm import Session, sessionmaker

from cuejar.store.models import JournalRow, LedgerRow, NightPartRow, NightRow, ViewerRow

A_PART = 1_000
"""How many entries are packed into one piece."""
STEPS = 60
"""The number of steps of a night's small curve."""
DAY_MS = 86_400_000

Entry = tuple[int, int, Any]
"""An entry of the journal: its number, its instant (ms of the show's clock), and the happening as JSON."""


class Night(NamedTuple):
    """A stream; times in ms since 1970. ``calls`` and ``refunds`` are counted in the ledger, ``curve`` counts calls by
    `STEPS` even steps; ``size`` is its size on disk, in bytes.
    """

    id: int
    at: int
    ended: int | None
    category: str
    note: str
    calls: int
    refunds: int
    curve: list[int]
    size: int


class Recorded(NamedTuple):
    """A night to be played again: the state right before it, and its entries in order."""

    id: int
    at: int
    wall: int
    ended: int | None
    ended_wall: int | None
    note: str
    state: dict[str, Any]
    entries: list[Entry]


class Freed(NamedTuple):
    """What fewer nights would free: nights, lines of the ledger, bytes."""

    nights: int
    calls: int
    bytes: int


def packed(data: Any) -> bytes:
    return zlib.compress(json.dumps(data, ensure_ascii=False, separators=(",", ":")).encode("utf-8"))


def unpacked(data: bytes) -> Any:
    return json.loads(zlib.decompress(data))


# Writing


_END = "update nights set last = ?, ended = ?, ended_wall = ? where last is null and first < ?"


def begins(
    connection: sqlite3.Connection, first: int, at: int, wall: int, category: str, state: dict[str, Any]
) -> None:
    """Notes that a stream begins with this entry. Writing it twice changes nothing."""
    connection.execute(_END, (first - 1, at, wall, first))  # One without an end ends here.
    connection.execute(
        "insert into nights (first, at, wall, category, note, state) values (?, ?, ?, ?, '', ?) on conflict do nothing",
        (first, at, wall, category, packed(state)),
    )


def ends(connection: sqlite3.Connection, last: int, at: int, wall: int) -> None:
    """Notes that the current stream ends with this entry."""
    connection.execute(_END, (last, at, wall, last))


def categorised(connection: sqlite3.Connection, number: int, category: str) -> None:
    connection.execute("update nights set category = ? where last is null and first < ?", (category, number))


_OF_NIGHT = (JournalRow.id >= bindparam("first"), JournalRow.id <= bindparam("last"))


def pack_away(connection: Connection, upto: int) -> None:
    """Removes journal entries up to a number, and packs those of nights."""
    oldest = connection.execute(select(func.min(JournalRow.id))).scalar()
    reaches = NightRow.first <= upto, or_(NightRow.last.is_(None), NightRow.last >= (oldest or 0))
    for first, last in connection.execute(select(NightRow.first, NightRow.last).where(*reaches)).all():
        span = {"first": first, "last": min(upto, last) if last is not None else upto}
        rows = connection.execute(
            select(JournalRow.id, JournalRow.at, JournalRow.happening).where(*_OF_NIGHT).order_by(JournalRow.id), span
        ).all()
        for i in range(0, len(rows), A_PART):
            piece = [list(row) for row in rows[i : i + A_PART]]
            row = {"night": first, "first": piece[0][0], "last": piece[-1][0], "entries": len(piece)}
            connection.execute(insert(NightPartRow).values(**row, packed=packed(piece)).on_conflict_do_nothing())
    connection.execute(text("delete from journal where id <= :id"), {"id": upto})


def noted(connection: Connection, night: int, note: str) -> None:
    connection.execute(update(NightRow).where(NightRow.first == night).values(note=note))


def let_go(connection: Connection, nights: Sequence[int]) -> None:
    """Deletes nights and the lines of their calls. Their redemptions are still remembered."""
    spans = connection.execute(
        select(NightRow.wall, NightRow.ended_wall).where(NightRow.first.in_(nights), NightRow.ended_wall.is_not(None))
    ).all()
    for begin, end in spans:
        # Imported calls from elsewhere stay.
        those = LedgerRow.wall >= begin, LedgerRow.wall <= end, LedgerRow.at >= 0
        runs = "run in (select run from ledger where wall >= :b and wall <= :e and at >= 0 and run != '')"
        connection.execute(text(f"delete from notes where {runs}"), {"b": begin, "e": end})
        connection.execute(delete(LedgerRow).where(*those))
    connection.execute(delete(NightPartRow).where(NightPartRow.night.in_(nights)))
    connection.execute(delete(NightRow).where(NightRow.first.in_(nights)))


# Reading


def nights(sessions: sessionmaker[Session], most: int = 500, before: int | None = None) -> list[Night]:
    """Returns the nights, newest first; ``before``: those older than this one."""
    columns = (
        NightRow.first, NightRow.wall, NightRow.ended_wall, NightRow.category, NightRow.note,
        func.length(NightRow.state),
    )  # fmt: skip
    query = select(*columns).order_by(NightRow.first.desc()).limit(most)
    if before is not None:
        query = query.where(NightRow.first < before)
    with sessions() as session:
        rows = session.execute(query).all()
        parts = select(NightPartRow.night, func.sum(func.length(NightPartRow.packed))).group_by(NightPartRow.night)
        sizes = {row[0]: int(row[1]) for row in session.execute(parts)}
        found = []
        for first, wall, ended, category, note, state in rows:
            curve, refunds = _curve(session, wall, ended)
            size = state + sizes.get(first, 0)
            found.append(Night(first, wall, ended, category, note, sum(curve), refunds, curve, size))
    return found


def _curve(session: Session, begin: int, end: int | None) -> tuple[list[int], int]:
    """Returns the calls of a period by even steps, and how many were refunded."""
    until = end if end is not None else round(datetime.now(UTC).timestamp() * 1000)
    step = max(1, (until - begin) / STEPS)
    curve, refunds = [0] * STEPS, 0
    # One line counts per call: a call at several doors is one.
    rows = session.execute(
        select(func.min(LedgerRow.wall), func.max(LedgerRow.outcome == "refunded"))
        .where(LedgerRow.wall >= begin, LedgerRow.wall <= until, LedgerRow.at >= 0, LedgerRow.verdict != "ignored")
        .group_by(LedgerRow.call)
    )
    for wall, refunded in rows:
        curve[min(STEPS - 1, int((wall - begin) / step))] += 1
        refunds += bool(refunded)
    return curve, refunds


def is_there(sessions: sessionmaker[Session], night: int) -> bool:
    with sessions() as session:
        return session.scalar(select(NightRow.first).where(NightRow.first == night)) is not None


def goes_on(sessions: sessionmaker[Session], night: int) -> bool:
    """Returns whether a night is still in progress."""
    with sessions() as session:
        row = session.execute(select(NightRow.last).where(NightRow.first == night)).one_or_none()
    return row is not None and row[0] is None


def recorded(sessions: sessionmaker[Session], night: int) -> Recorded | None:
    """Returns a night with all its entries; None: there is no such night (any more)."""
    with sessions() as session:
        row = session.get(NightRow, night)
        if row is None:
            return None
        entries: list[Entry] = []
        for piece in session.scalars(
            select(NightPartRow.packed).where(NightPartRow.night == night).order_by(NightPartRow.first)
        ):
            entries += [(number, at, written) for number, at, written in unpacked(piece)]
        after = entries[-1][0] if entries else row.first - 1
        query = select(JournalRow.id, JournalRow.at, JournalRow.happening).where(JournalRow.id > after)
        if row.last is not None:
            query = query.where(JournalRow.id <= row.last)
        entries += [(number, at, written) for number, at, written in session.execute(query.order_by(JournalRow.id))]
        return Recorded(night, row.at, row.wall, row.ended, row.ended_wall, row.note, unpacked(row.state), entries)


# Retention


def too_old(sessions: sessionmaker[Session], most: int | None, days: int | None, now: int) -> list[int]:
    """Returns finished nights beyond ``most``, or that ended more than ``days`` ago (``now`` is ms since 1970)."""
    query = (
        select(NightRow.first, NightRow.ended_wall).where(NightRow.last.is_not(None)).order_by(NightRow.first.desc())
    )
    with sessions() as session:
        rows = session.execute(query).all()
    return [
        first
        for number, (first, ended) in enumerate(rows)
        if (most is not None and number >= most) or (days is not None and (ended or 0) < now - days * DAY_MS)
    ]


def freed(sessions: sessionmaker[Session], those: Sequence[int]) -> Freed:
    """Returns what deleting these nights would free."""
    with sessions() as session:
        rows = session.execute(
            select(NightRow.wall, NightRow.ended_wall, func.length(NightRow.state)).where(NightRow.first.in_(those))
        ).all()
        parts = session.scalar(
            select(func.coalesce(func.sum(func.length(NightPartRow.packed)), 0)).where(NightPartRow.night.in_(those))
        )
        calls = sum(
            session.scalar(
                select(func.count())
                .select_from(LedgerRow)
                .where(LedgerRow.wall >= begin, LedgerRow.wall <= end, LedgerRow.at >= 0)
            )
            or 0
            for begin, end, _ in rows
        )
    return Freed(len(rows), calls, (parts or 0) + sum(size for _, _, size in rows))


# Forgetting a viewer


class Blanked(NamedTuple):
    """Replacements for nights' states and pieces without a forgotten viewer; and which pieces were read."""

    viewer: str
    states: list[tuple[int, bytes]]
    parts: list[tuple[int, int, bytes]]
    read: set[tuple[int, int]]


def blanked(
    sessions: sessionmaker[Session], viewer: str, forget: Callable[[dict[str, Any]], dict[str, Any]]
) -> Blanked:
    """Returns every night without a viewer's name and words. Reads and computes; writes nothing.

    Args:
        forget: returns a state without them.
    """
    with sessions() as session:
        nights = session.execute(select(NightRow.first)).scalars().all()
    states: list[tuple[int, bytes]] = []
    parts: list[tuple[int, int, bytes]] = []
    read: set[tuple[int, int]] = set()
    for night in nights:
        with sessions() as session:
            state = session.scalar(select(NightRow.state).where(NightRow.first == night))
            pieces = session.execute(
                select(NightPartRow.first, NightPartRow.packed).where(NightPartRow.night == night)
            ).all()
        if state is not None and _names(whole := zlib.decompress(state), viewer):
            states.append((night, packed(forget(json.loads(whole)))))
        for first, piece in pieces:
            read.add((night, first))
            if (other := _piece_without(piece, viewer)) is not None:
                parts.append((night, first, other))
    return Blanked(viewer, states, parts, read)


def _piece_without(piece: bytes, viewer: str) -> bytes | None:
    """Returns a piece without a viewer; None if they aren't in it."""
    whole = zlib.decompress(piece)
    if not _names(whole, viewer):
        return None
    return packed([[number, at, without(told, viewer)] for number, at, told in json.loads(whole)])


def _names(whole: bytes, viewer: str) -> bool:
    return json.dumps(viewer, ensure_ascii=False).encode("utf-8") in whole


def without(happening: Any, viewer: str) -> Any:
    """Returns a happening as JSON without this viewer's name and words."""
    told = happening
    if not isinstance(told, dict):
        return told
    own = told.get("viewer")
    if isinstance(own, dict) and own.get("id") == viewer:
        told = {**told, "viewer": {**own, "name": "", "roles": []}}
        for field in ("text", "login"):
            if told.get(field):
                told[field] = ""
    if isinstance(told.get("viewers"), list):
        told = {
            **told,
            "viewers": [
                {**one, "name": ""} if isinstance(one, dict) and one.get("id") == viewer else one
                for one in told["viewers"]
            ],
        }
    return told


def keep_blanked(connection: Connection, there: Blanked) -> None:
    for night, state in there.states:
        connection.execute(update(NightRow).where(NightRow.first == night).values(state=state))
    others = list(there.parts)
    # Pieces packed since they were read.
    for night, first in connection.execute(select(NightPartRow.night, NightPartRow.first)).all():
        if (night, first) not in there.read:
            where = NightPartRow.night == night, NightPartRow.first == first
            other = _piece_without(
                connection.execute(select(NightPartRow.packed).where(*where)).scalar_one(), there.viewer
            )
            others += [(night, first, other)] if other is not None else []
    for night, first, piece in others:
        connection.execute(
            update(NightPartRow).where(NightPartRow.night == night, NightPartRow.first == first).values(packed=piece)
        )


def pasts_in(database: Path) -> dict[str, float]:
    """Returns the same as `pasts`, from the database of a data folder that a Cue Jar may have open; it is only read.

    Raises:
        sqlalchemy.exc.DBAPIError: it can't be read.
    """
    engine = create_engine(f"sqlite:///file:{quote(str(database.absolute()))}?mode=ro&uri=true")
    try:
        return pasts(sessionmaker(engine))
    finally:
        engine.dispose()


def pasts(sessions: sessionmaker[Session], nights_back: int = 20) -> dict[str, float]:
    """Returns how often each reward (by id) and each chat cue (``cue/ID``) was called on the last nights."""
    with sessions() as session:
        since = session.scalars(select(NightRow.wall).order_by(NightRow.first.desc()).limit(nights_back)).all()
        if not since:
            return {}
        where = (LedgerRow.wall >= min(since), LedgerRow.verdict != "ignored")
        rewards = session.execute(
            select(LedgerRow.reward, func.count(LedgerRow.call.distinct()))
            .where(*where, LedgerRow.reward != "")
            .group_by(LedgerRow.reward)
        ).all()
        chats = session.execute(
            select(LedgerRow.cue, func.count(LedgerRow.call.distinct()))
            .where(*where, LedgerRow.kind == "chat", LedgerRow.cue != "")
            .group_by(LedgerRow.cue)
        ).all()
    return {reward: float(count) for reward, count in rewards} | {f"cue/{cue}": float(n) for cue, n in chats}


def everybody(sessions: sessionmaker[Session]) -> list[tuple[str, str]]:
    """Returns ids and names of all viewers of the data folder, with every name they ever had."""
    ledger = select(LedgerRow.viewer, LedgerRow.viewer_name).distinct().where(LedgerRow.viewer_name != "")
    with sessions() as session:
        seen = [(row.id, row.name) for row in session.execute(select(ViewerRow.id, ViewerRow.name))]
        return seen + [(viewer, name) for viewer, name in session.execute(ledger)]
