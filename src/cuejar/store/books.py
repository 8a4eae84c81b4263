"""The book on disk: every edit is a revision; undo and redo walk along them.

An edit names the version it was based on. If the same part of the book was changed since, it is refused with what
changed; if only other parts were, it is applied.
"""

from __future__ import annotations

import asyncio
import json
import logging
import time
from collections import OrderedDict
from collections.abc import Callable
from pathlib import Path
from typing import Any, Literal, NamedTuple, TypeVar

from sqlalchemy import Connection, Select, delete, func, select, text, update
from sqlalchemy.dialects.sqlite import insert
from sqlalchemy.orm import Session, sessionmaker

from cuejar.core.book.book import LISTS, Book
from cuejar.core.book.files import book_from, book_json
from cuejar.core.carry.differences import PARTS, differences, in_words
from cuejar.core.parts.base import BookError
from cuejar.platform import open_private, put
from cuejar.store.draft import EVERYTHING, Draft, NothingThere
from cuejar.store.models import MetaRow, RevisionRow
from cuejar.store.writer import Writer

KEPT = 300
AT_HAND = 8
"""How many earlier versions are kept in memory, for pages that fetch what changed."""
PLACE = "book"
_REVISIONS = text("select id, book from revisions where id <= :id and not aside order by id desc")
Origin = Literal["page", "import", "before", "channel", "gear", "pads", "first", "mended"]
"""The origin of a revision: a page, an imported file, an earlier book, a change by hand at a channel or on gear, a pad;
the first book, and one made from the readable part of a damaged one.
"""
T = TypeVar("T")
log = logging.getLogger(__name__)


class Stale(Exception):
    """The part was changed since the version the edit was based on. ``changed`` names what."""

    def __init__(self, version: int, changed: list[str]) -> None:
        self.version, self.changed = version, changed
        super().__init__("changed in the meantime: " + ", ".join(changed))


class Revision(NamedTuple):
    """A version of the book: its number, what was done, when (ms since 1970), from where, and whether it was undone
    since.
    """

    id: int
    what: str
    at: int
    origin: str
    undone: bool


def changes(before: dict[str, Any], after: dict[str, Any]) -> list[str]:
    """Returns the parts in which two books differ, as ``house`` or ``cues/steam-whistle``."""
    found: list[str] = [part for part in PARTS if before.get(part) != after.get(part)]
    for kind in LISTS:
        old = {entry["id"]: entry for entry in before.get(kind, [])}
        new = {entry["id"]: entry for entry in after.get(kind, [])}
        found += [f"{kind}/{thing}" for thing in {**old, **new} if old.get(thing) != new.get(thing)]
        if not found and list(old) != list(new):
            found.append(kind)
    return found


class Books:
    """The book of a data folder, with its revisions."""

    def __init__(self, sessions: sessionmaker[Session], writer: Writer, copy: Path) -> None:
        """Args:
        copy: where the newest book is kept beside the database, in case that becomes unreadable.
        """
        self._sessions, self._writer, self._copy = sessions, writer, copy
        self._lock = asyncio.Lock()
        self.version = 0
        self.data: dict[str, Any] = {}
        self.book = Book()
        self._at_hand: OrderedDict[int, dict[str, Any]] = OrderedDict()

    def load(self, first: Callable[[], dict[str, Any]], aside: Callable[[], str]) -> list[str]:
        """Reads the book; a new data folder gets ``first()``. If its newest revision can't be read, the one before it
        is used, or the copy beside the database.

        Args:
            aside: copies the database unchanged and returns the copy's name, before any repair.

        Returns:
            The problems, in words.
        """
        with self._sessions() as session:
            place = session.get(MetaRow, PLACE)
            rows = session.execute(_REVISIONS, {"id": int(place.value) if place else 0}).all()
        said: list[str] = []
        for number, written in rows:
            try:
                self._take(number, book_from(json.loads(written)))
                break
            except (ValueError, BookError) as error:
                said.append(f"Version {number} of the book can’t be read ({error}); the one before it is taken.")
        else:
            if place is not None and not rows:
                said.append("The book’s history can’t be read.")
            data = self._copied()
            if data is not None:
                said.append("The database held no book; the book was taken from its copy, book-copy.json.")
            self.book = book_from(data or first())
        if said and rows:
            said.append(f"The old database is kept as {aside()}.")
        if not rows or said:
            what, origin = ("taken from what could be read", "mended") if said else ("the first book", "first")
            self.version = max([self.version, *(row.id for row in rows)])
            self._take(self._writer.now(lambda c: self._write(c, book_json(self.book), what, origin)), self.book)
        self._keep_copy()
        return said

    def since(self, of: Callable[[dict[str, Any]], Any], enough: int) -> int:
        """Returns since when (ms since 1970) something in the book has been as it is now, as far as revisions go back.

        Args:
            of: returns it from a book as JSON.
            enough: looks no further back than this instant.
        """
        now = of(self.data)
        held = select(RevisionRow.at, RevisionRow.book).where(
            RevisionRow.id <= self.version, RevisionRow.aside.is_(False)
        )
        at = time.time_ns() // 1_000_000
        with self._sessions() as session:
            for when, book in session.execute(held.order_by(RevisionRow.id.desc()).execution_options(yield_per=10)):
                if of(book) != now:
                    break
                at = min(at, when)
                if at <= enough:
                    break
        return at

    def _copied(self) -> dict[str, Any] | None:
        """Returns the book from the copy beside the database."""
        try:
            data: dict[str, Any] = json.loads(self._copy.read_text("utf-8"))
            book_from(data)
        except (OSError, ValueError, BookError):
            return None
        return data

    def _write(self, connection: Connection, data: dict[str, Any], what: str, origin: str) -> int:
        """Writes a revision. Returns its number."""
        connection.execute(update(RevisionRow).where(RevisionRow.id > self.version).values(aside=True))
        values = {"what": what[:200], "at": time.time_ns() // 1_000_000, "whence": origin, "book": data}
        version = int(connection.execute(insert(RevisionRow).values(values)).lastrowid)
        self._move(connection, version)
        connection.execute(delete(RevisionRow).where(RevisionRow.id <= version - KEPT))
        return version

    def _take(self, version: int, book: Book) -> None:
        self.version, self.data, self.book = version, book_json(book), book
        self._at_hand[version] = self.data
        self._at_hand.move_to_end(version)
        while len(self._at_hand) > AT_HAND:
            self._at_hand.popitem(last=False)

    def _move(self, connection: Connection, version: int) -> None:
        row = {"key": PLACE, "value": str(version)}
        connection.execute(insert(MetaRow).values(row).on_conflict_do_update(index_elements=["key"], set_=row))

    def _keep_copy(self) -> None:
        draft = self._copy.with_suffix(".new")
        try:
            with open_private(draft) as file:
                json.dump(self.data, file, ensure_ascii=False)
            put(draft, self._copy)
        except OSError as error:
            log.warning("The copy of the book could not be written: %s", error)

    def _since(self, version: int | None) -> list[str]:
        if version is None or version == self.version:
            return []
        before = self.known(version)
        return changes(before, self.data) if before is not None else [EVERYTHING]

    def known(self, version: int) -> dict[str, Any] | None:
        """Returns the book of a version, as JSON; None if it is no longer kept."""
        if version in self._at_hand:
            return self._at_hand[version]
        with self._sessions() as session:
            row = session.get(RevisionRow, version)
        return row.book if row is not None else None

    async def edit(
        self, change: Callable[[Draft], T], what: str = "", origin: Origin = "page", version: int | None = None
    ) -> T:
        """Changes the book as one revision; an edit that changes nothing makes none.

        Args:
            change: changes the draft, which is the newest book; nobody else edits meanwhile.
            what: what is done, in words; empty: what the draft says, or the differences.
            version: the version that the edit was based on: it is refused if a part that it touches was changed since.
            None always applies it.

        Returns:
            What ``change`` returns.

        Raises:
            BookError, Stale, NothingThere, CannotWrite, and whatever ``change`` raises.
        """
        async with self._lock:
            draft = Draft(self.book, self.data, what)
            made = change(draft)
            changed = self._since(version)
            if draft.is_stale(changed):
                raise Stale(self.version, changed)
            # Checking a large book takes a while, and the show goes on meanwhile.
            book = await asyncio.to_thread(book_from, draft.data)
            told = book_json(book)
            if told != self.data:
                said = draft.what or in_words(differences(self.book, book))
                self._take(await self._writer.do(lambda c: self._write(c, told, said, origin)), book)
                await asyncio.to_thread(self._keep_copy)
        return made

    async def step(self, back: bool) -> str:
        """Moves one revision back (undo) or forward (redo).

        Returns:
            What was undone or redone.

        Raises:
            NothingThere, CannotWrite.
        """
        async with self._lock:
            with self._sessions() as session:
                row = session.scalars(_stepped(select(RevisionRow), self.version, back).limit(1)).first()
                if row is None:
                    raise NothingThere("There is nothing to undo." if back else "There is nothing to redo.")
                current = session.get(RevisionRow, self.version)
                what = (current.what if current else "") if back else row.what
            await self._writer.do(lambda c: self._move(c, row.id))
            self._take(row.id, book_from(row.book))
            await asyncio.to_thread(self._keep_copy)
        return what

    def can_step(self) -> tuple[int, int]:
        """Returns how many steps back and forward there are."""
        with self._sessions() as session:
            back, on = (session.scalar(_stepped(select(func.count()), self.version, one)) or 0 for one in (True, False))
        return back, on

    def before(self) -> list[Revision]:
        """Returns every saved revision, newest first."""
        columns = (RevisionRow.id, RevisionRow.what, RevisionRow.at, RevisionRow.origin, RevisionRow.aside)
        with self._sessions() as session:
            rows = session.execute(select(*columns).order_by(RevisionRow.id.desc())).all()
        return [Revision(row.id, row.what, row.at, row.origin, row.aside or row.id > self.version) for row in rows]

    def of_cue(self, cue: str) -> list[tuple[Revision, dict[str, Any] | None]]:
        """Returns the states of a cue in every saved revision, newest first; None if it didn't exist. Unchanged
        states are left out.
        """
        inside = text(
            "(select value from json_each(case when json_valid(book) then book else '{}' end, '$.cues')"
            " where json_extract(value, '$.id') = :cue) as cue"
        )
        columns = (RevisionRow.id, RevisionRow.what, RevisionRow.at, RevisionRow.origin, RevisionRow.aside)
        query = select(*columns, inside).order_by(RevisionRow.id.desc())
        with self._sessions() as session:
            rows = session.execute(query, {"cue": cue}).all()
        states: list[tuple[Revision, dict[str, Any] | None]] = []
        for row, older in zip(rows, [*rows[1:], None], strict=True):
            if older is not None and row[5] == older[5]:
                continue
            revision = Revision(row.id, row.what, row.at, row.origin, row.aside or row.id > self.version)
            states.append((revision, json.loads(row[5]) if row[5] is not None else None))
        return states

    def step_told(self, back: bool) -> str:
        """Returns what undo, or redo, would change; empty: nothing."""
        with self._sessions() as session:
            there = session.scalars(_stepped(select(RevisionRow.what), self.version, back).limit(1)).first()
            now = session.scalars(select(RevisionRow.what).where(RevisionRow.id == self.version)).first()
        return "" if there is None else (now or "") if back else there

    @property
    def is_untouched(self) -> bool:
        """Returns whether nothing was changed since the data folder was made."""
        with self._sessions() as session:
            rows = session.scalars(select(RevisionRow.origin).limit(2)).all()
        return list(rows) == ["first"]

    def at(self, version: int) -> Book:
        """Returns the book of a revision.

        Raises:
            NothingThere: that revision is no longer kept.
            BookError: it can't be read.
        """
        with self._sessions() as session:
            row = session.get(RevisionRow, version)
        if row is None:
            raise NothingThere("That version is no longer kept.")
        return book_from(row.book)


def _stepped(query: Select[Any], version: int, back: bool) -> Select[Any]:
    """Returns the revisions of a query to which undo (``back``) or redo would lead, the next first."""
    query = query.where(RevisionRow.id < version if back else RevisionRow.id > version, RevisionRow.aside.is_(False))
    return query.order_by(RevisionRow.id.desc() if back else RevisionRow.id)
