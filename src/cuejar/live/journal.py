"""The journal: happenings, written down before anything acts on them; and what follows from them: ledger, settlements,
strikes.

A happening is journalled, then handled; so after a crash the same happenings give the same orders. At start-up the
last readable snapshot is loaded and the later entries are handled again; what they mean for the ledger, for settlements
and strikes is written again too, which changes nothing that was written before.

Everything that writes takes a connection and is called by the `Writer`; everything that reads can run anywhere.
"""

from __future__ import annotations

import hashlib
import json
import logging
import sqlite3
from collections.abc import Callable, Iterable, Sequence
from dataclasses import replace
from pathlib import Path
from typing import Any, NamedTuple

from sqlalchemy import Connection, select, text
from sqlalchemy.dialects.sqlite import insert
from sqlalchemy.orm import Session, sessionmaker

from cuejar.core.book.book import Book
from cuejar.core.engine.engine import Engine
from cuejar.core.engine.night import RULES, Timed
from cuejar.core.engine.state import SPEECH_GRACE_MS, engine_from, snapshot_of
from cuejar.core.facts import happenings as h
from cuejar.core.facts import orders as o
from cuejar.live import rows
from cuejar.live.replay import Replay, TookTooLong
from cuejar.live.strikes import Owed, is_outward, strike_id
from cuejar.store import nights
from cuejar.store.models import HeardRow, MetaRow, SettlementRow, SnapshotRow, StrikeRow
from cuejar.store.search import wiped

log = logging.getLogger(__name__)
KEPT_SNAPSHOTS = 2
HEARD_FOR_MS = 3 * 86_400_000
"""How long an event is remembered, so that it counts once."""


class Acted(NamedTuple):
    """A happening (none: something fell due) with its orders, the offset of the wall clock from the show's, its instant
    (ms), its number in the journal, and, if a stream begins with it, the engine's state right before.
    """

    happening: h.Happening | None
    timed: list[Timed]
    wall_off: int
    at: int = 0
    number: int = 0
    before: dict[str, Any] | None = None

    def viewers(self) -> Sequence[h.Viewer]:
        """Yields the viewers in what happened."""
        if isinstance(self.happening, h.Present):
            return self.happening.viewers
        viewer: h.Viewer | None = getattr(self.happening, "viewer", None)
        return [viewer] if isinstance(viewer, h.Viewer) and not isinstance(self.happening, h.Try) else []


class Unjournalled(NamedTuple):
    """Something that was acted on while nothing could be written: its text for the journal, and its instant."""

    written: str
    at: int


class Journal:
    """Writes happenings, snapshots, ledger, settlements and strikes; reads the engine back."""

    def __init__(self, sessions: sessionmaker[Session]) -> None:
        self.sessions = sessions
        self.last_id = 0
        self.last_at = 0
        self.since_snapshot = 0
        self.said: list[str] = []
        with sessions() as session:
            meta = {row.key: row.value for row in session.scalars(select(MetaRow))}
        self.installation = meta.get("installation", "")
        self.strikes_from = int(meta.get("strikes_from", 0))
        self.aside: set[int] = set(json.loads(meta.get(ASIDE, "[]")))

    # At start-up

    def load(self, book: Book, seed: int, marker: Path | None = None) -> tuple[Engine, list[Acted]]:
        """Returns the engine as it was when Cue Jar last ran, or a new one over ``book``, and what was handled again.

        Afterwards ``said`` has the problems (an unreadable snapshot, an entry that was set aside), and ``aside`` the
        entries that are never handled again.

        Args:
            marker: a file for the entry being handled; none: nothing watches over it.
        """
        if marker is None:
            return self._again(book, seed, None)
        while True:
            replay = Replay(marker)
            if (died := replay.died_in()) is not None:
                self._set_aside(died, "the last start ended in it")
            try:
                with replay:
                    return self._again(book, seed, replay)
            except TookTooLong:
                self._set_aside(replay.late, "it took longer than 5 s")

    def _set_aside(self, entry: int, why: str) -> None:
        if entry not in self.aside:
            self.aside.add(entry)
            self.said.append(f"Entry {entry} of the journal was set aside: {why}.")
            log.error(self.said[-1])

    def _again(self, book: Book, seed: int, replay: Replay | None) -> tuple[Engine, list[Acted]]:
        with self.sessions() as session:
            engine, after = self._snapshot(session, book)
            if engine is None:
                engine = Engine(book, seed, media={}, tracing=True, speech_grace=SPEECH_GRACE_MS)
            entries = session.execute(_ENTRIES, {"after": after}).all()
        self.last_id = after
        batch: list[Acted] = []
        for number, at, wall, written in entries:
            self.last_id, self.last_at = number, at
            if number in self.aside:
                continue
            if replay is not None:
                replay.handling(number)
            try:
                happening = h.happening_from(json.loads(written))
                before = state_before(engine, happening)
                batch.append(Acted(happening, engine.handle(happening, at), (wall or at) - at, at, number, before))
            except Exception as error:
                self.said.append(f"Entry {number} of the journal can’t be handled ({error}); it is left out.")
                log.exception(self.said[-1])
        self.since_snapshot = len(entries)
        engine.night.rules = RULES
        return engine, batch

    def _snapshot(self, session: Session, book: Book) -> tuple[Engine | None, int]:
        for number, entry in session.execute(
            select(SnapshotRow.id, SnapshotRow.journal_id).order_by(SnapshotRow.id.desc())
        ).all():
            try:
                state = session.scalar(select(SnapshotRow.state).where(SnapshotRow.id == number))
                return engine_from(json.loads(state or ""), True, SPEECH_GRACE_MS), entry
            except Exception as error:
                self.said.append(f"The snapshot of entry {entry} can’t be read ({error}); the one before it is used.")
                log.warning(self.said[-1])
        return None, 0

    def hooks_before(self, most: int) -> list[str]:
        """Returns the ids of the last hooks that called something, oldest first."""
        with self.sessions() as session:
            ids = session.execute(_HOOKS, {"most": most}).scalars().all()
        return [str(one) for one in reversed(ids)]

    def has_heard(self, event: str) -> bool:
        """Returns whether an event was received before."""
        with self.sessions() as session:
            return session.get(HeardRow, number_of(event)) is not None

    def knows(self, redemption: str) -> bool:
        """Returns whether this redemption was written before."""
        with self.sessions() as session:
            return session.get(SettlementRow, redemption) is not None

    # Debts

    def unconfirmed(self) -> list[tuple[str, str]]:
        """Returns settlements that the channel hasn't confirmed, oldest first."""
        with self.sessions() as session:
            return [(redemption, outcome) for redemption, outcome in session.execute(_UNCONFIRMED)]

    def owed_strikes(self) -> list[Owed]:
        """Returns strikes that aren't confirmed or weren't sent yet; oldest first."""
        with self.sessions() as session:
            owed = session.scalars(select(StrikeRow).where(StrikeRow.state == "owed").order_by(StrikeRow.at)).all()
        return [Owed(row.id, row.at, o.Strike(row.run, row.beat, row.kind, row.value)) for row in owed]

    # Writing

    def keep_aside(self, connection: sqlite3.Connection) -> None:
        """Saves which entries are never handled again."""
        connection.execute(_KEEP_ASIDE, (ASIDE, json.dumps(sorted(self.aside))))

    def append(
        self,
        connection: sqlite3.Connection,
        entries: Sequence[tuple[h.Happening, str, str | None]],
        stamp: Callable[[], int],
        wall: Callable[[int], int],
        before: Sequence[Unjournalled] = (),
    ) -> tuple[list[h.Happening | None], int, int]:
        """Writes happenings, each with its text for the journal and its event's identity, in one transaction.

        Args:
            stamp: returns their instant, once the transaction has the lock.
            wall: returns the wall clock at that instant.
            before: what was acted on earlier without being written.

        Returns:
            The same happenings, with repeated redemptions marked as such, and None for a repeated event;
            their instant; the last entry's number.
        """
        at = stamp()
        out: list[h.Happening | None] = []
        last = self.last_id
        for acted in before:
            last = connection.execute(_WRITE, (acted.at, wall(acted.at), acted.written)).lastrowid or last
        told = wall(at)
        for happening, written, event in entries:
            if event is not None and connection.execute(_HEAR, (number_of(event), at)).rowcount == 0:
                out.append(None)
                continue
            if isinstance(happening, h.Redemption):
                done = connection.execute(_REMEMBER, (happening.id, at))
                if done.rowcount == 0:
                    happening = replace(happening, repeat=True)
                    written = written_of(happening)
            out.append(happening)
            last = connection.execute(_WRITE, (at, told, written)).lastrowid or last
        return out, at, last

    def remember(self, connection: sqlite3.Connection, past: Sequence[tuple[int, h.Happening]]) -> None:
        """Writes what happened before the very first start, with its instants (ms since 1970); does nothing if there is
        a journal. Its redemptions were settled long ago.
        """
        if self.last_id or connection.execute("select 1 from journal union select 1 from snapshots").fetchone():
            return
        for at, happening in past:
            if isinstance(happening, h.Redemption):
                connection.execute(_REMEMBER_SETTLED, (happening.id, at))
            connection.execute(_WRITE, (at, at, written_of(happening)))

    def decide(self, connection: sqlite3.Connection, batch: Sequence[Acted]) -> None:
        """Writes which settlements and strikes these orders ask for. Writing them twice changes nothing."""
        rows.decide(connection, settles(batch), self.strikes(batch))

    def strikes(self, batch: Iterable[Acted]) -> list[Owed]:
        """Yields the strikes at gear and channel among the orders, each under its id."""
        return [
            Owed(strike_id(self.installation, order, at), at, order)
            for acted in batch
            for at, order in acted.timed
            if isinstance(order, o.Strike) and is_outward(order.kind) and at >= self.strikes_from
        ]

    def record(self, connection: sqlite3.Connection, batch: Iterable[Acted]) -> list[str]:
        """Writes the ledger lines of orders.

        Returns:
            The calls whose ledger lines are new or changed.
        """
        lines = rows.Lines()
        for acted in batch:
            _happening, timed, wall_off, came = acted[:4]
            _night(connection, acted)
            for viewer in acted.viewers():
                lines.see(viewer, came + wall_off)
            for at, order in timed:
                lines.add(at, at + wall_off, order)
        return lines.write(connection)

    def keep_snapshot(self, connection: Connection, state: str, journal_id: int, at: int) -> None:
        """Writes the engine's state after an entry, and prunes what is no longer needed."""
        connection.execute(insert(SnapshotRow).values(journal_id=journal_id, at=at, state=state))
        kept = connection.execute(
            select(SnapshotRow.id, SnapshotRow.journal_id, SnapshotRow.at)
            .order_by(SnapshotRow.id.desc())
            .limit(KEPT_SNAPSHOTS)
        ).all()
        connection.execute(text("delete from snapshots where id < :id"), {"id": kept[-1].id})
        if len(kept) == KEPT_SNAPSHOTS:
            nights.pack_away(connection, kept[-1].journal_id)
            connection.execute(text("delete from heard where at < :at"), {"at": at - HEARD_FOR_MS})
            connection.execute(text("delete from strikes where state != 'owed' and at < :at"), {"at": kept[-1].at})

    def forget(
        self, connection: Connection, viewer: str, state: str, journal_id: int, at: int, there: nights.Blanked
    ) -> None:
        """Blanks a viewer's name and texts everywhere. The current state, which has already forgotten them, replaces
        every earlier snapshot and journal entry.

        Args:
            there: the nights without them. It includes what was packed of a night in progress; the rest is packed here.
        """
        connection.execute(text("pragma secure_delete = on"))
        nights.keep_blanked(connection, there)
        _blank_entries(connection, viewer, journal_id)
        connection.execute(text("delete from snapshots"))
        for _ in range(KEPT_SNAPSHOTS):
            connection.execute(insert(SnapshotRow).values(journal_id=journal_id, at=at, state=state))
        nights.pack_away(connection, journal_id)
        runs = "run in (select run from ledger where viewer = :v and run != '')"
        connection.execute(text(f"update notes set data = '{{}}' where {runs}"), {"v": viewer})
        connection.execute(text(f"delete from strikes where state != 'owed' and {runs}"), {"v": viewer})
        connection.execute(
            text("update ledger set viewer_name = '', text = '', detail = '' where viewer = :v"), {"v": viewer}
        )
        wiped(connection)
        connection.execute(text("update viewers set name = '', roles = '[]' where id = :v"), {"v": viewer})
        connection.execute(text("update paid set why = '' where viewer = :v"), {"v": viewer})
        won = "what = 'won' and json_extract(data, '$.viewer') = :v"
        connection.execute(text(f"update notes set data = '{{}}' where {won}"), {"v": viewer})
        connection.execute(
            text("update winners set what = replace(what, name, ''), name = '' where viewer = :v and name != ''"),
            {"v": viewer},
        )


def state_before(engine: Engine, happening: h.Happening) -> dict[str, Any] | None:
    """Returns the engine's state, if a stream is about to begin."""
    begins = isinstance(happening, h.Stream) and happening.state == "live" and not engine.night.on_air
    return snapshot_of(engine) if begins else None


def _night(connection: sqlite3.Connection, acted: Acted) -> None:
    """Notes that a stream begins, ends, or changes its category."""
    happening, number, wall = acted.happening, acted.number, acted.at + acted.wall_off
    if not isinstance(happening, h.Stream) or not number:
        return
    if acted.before is not None:
        nights.begins(connection, number, acted.at, wall, happening.category or "", acted.before)
    elif happening.state == "ended":
        nights.ends(connection, number, acted.at, wall)
    elif happening.category is not None:
        nights.categorised(connection, number, happening.category)


def _blank_entries(connection: Connection, viewer: str, upto: int) -> None:
    """Blanks a viewer's name and words in every entry of the journal."""
    theirs = connection.execute(
        text("select id, happening from journal where id <= :id and instr(happening, :v)"),
        {"id": upto, "v": json.dumps(viewer, ensure_ascii=False)},
    ).all()
    for number, told in theirs:
        written = json.dumps(nights.without(json.loads(told), viewer), ensure_ascii=False, separators=(",", ":"))
        connection.execute(text("update journal set happening = :h where id = :id"), {"h": written, "id": number})


def written_of(happening: h.Happening) -> str:
    """Returns a happening as its text in the journal.

    Raises:
        ValueError, TypeError: it can't be written as text.
    """
    written = json.dumps(h.happening_json(happening), ensure_ascii=False, separators=(",", ":"), allow_nan=False)
    written.encode("utf-8")
    return written


def number_of(event: str) -> int:
    """Returns a 63-bit number that identifies an event."""
    return int.from_bytes(hashlib.blake2b(event.encode("utf-8", "replace"), digest_size=8).digest(), "big") >> 1


def settles(batch: Iterable[Acted]) -> list[tuple[int, o.Settle]]:
    """Returns the settlements among the orders."""
    return [(at, order) for acted in batch for at, order in acted.timed if isinstance(order, o.Settle)]


ASIDE = "set_aside"
_KEEP_ASIDE = "insert into meta (key, value) values (?, ?) on conflict (key) do update set value = excluded.value"
_ENTRIES = text("select id, at, wall, happening from journal where id > :after order by id")
_UNCONFIRMED = text(
    "select redemption, outcome from settlements where confirmed = 0 and outcome != '' order by at, redemption"
)
_HOOKS = text("select call from ledger where call like 'hook:%' group by call order by max(id) desc limit :most")
_WRITE = "insert into journal (at, wall, happening) values (?, ?, ?)"
_HEAR = "insert into heard (event, at) values (?, ?) on conflict do nothing"
_REMEMBER_SETTLED = "insert into settlements (redemption, at, outcome, confirmed, problem) values (?, ?, '', 1, '') on conflict do nothing"
_REMEMBER = "insert into settlements (redemption, at, outcome, confirmed, problem) values (?, ?, '', 0, '') on conflict do nothing"
