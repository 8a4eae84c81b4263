"""The book on disk: every edit is a revision; undo and redo walk along them.

An edit says on which version it was made. If the same part of the book was changed since, it is refused with what
changed; if only other parts were, it goes in beside them.
"""

from __future__ import annotations

import time
from collections.abc import Callable
from typing import Any

from sqlalchemy import delete, func, select
from sqlalchemy.orm import Session, sessionmaker

from cuejar.core.base import BookError, Problem
from cuejar.core.book import Book, book_from, book_json
from cuejar.core.whole import LISTS
from cuejar.store.models import MetaRow, RevisionRow

KEPT = 300
PLACE = "book"


class Stale(Exception):
    """The part was changed since the version the edit was made on. ``changed`` names what."""

    def __init__(self, version: int, changed: list[str]) -> None:
        self.version, self.changed = version, changed
        super().__init__("changed meanwhile: " + ", ".join(changed))


class NothingThere(Exception):
    """There is no such thing in the book, or nothing to undo or redo."""


def part_of(data: dict[str, Any], kind: str, thing: str | None) -> Any:
    """A part of a book in JSON: ``house``, or an entry of one of its lists; None when it is not there."""
    if thing is None:
        return data.get(kind)
    return next((entry for entry in data.get(kind, []) if entry["id"] == thing), None)


def changes(before: dict[str, Any], after: dict[str, Any]) -> list[str]:
    """The parts in which two books differ, as ``house`` or ``cues/steam-whistle``."""
    found = [] if before.get("house") == after.get("house") else ["house"]
    for kind in LISTS:
        old = {entry["id"]: entry for entry in before.get(kind, [])}
        new = {entry["id"]: entry for entry in after.get(kind, [])}
        found += [f"{kind}/{thing}" for thing in {**old, **new} if old.get(thing) != new.get(thing)]
        if not found and list(old) != list(new):
            found.append(kind)
    return found


class Books:
    """The book of a data folder, with its revisions."""

    def __init__(self, sessions: sessionmaker[Session]) -> None:
        self._sessions = sessions
        self.version = 0
        self.data: dict[str, Any] = {}
        self.book = Book()

    def load(self, first: Callable[[], dict[str, Any]]) -> None:
        """Reads the book; a new data folder gets ``first()``."""
        with self._sessions() as session:
            place = session.get(MetaRow, PLACE)
            row = session.get(RevisionRow, int(place.value)) if place else None
        if row is None:
            self._write(book_from(first()), "the first book")
        else:
            self.version, self.data, self.book = row.id, row.book, book_from(row.book)

    def _write(self, book: Book, what: str) -> None:
        data = book_json(book)
        with self._sessions.begin() as session:
            session.execute(delete(RevisionRow).where(RevisionRow.id > self.version))
            row = RevisionRow(what=what[:200], at=time.time_ns() // 1_000_000, book=data)
            session.add(row)
            session.flush()
            self._move(session, row.id)
            session.execute(delete(RevisionRow).where(RevisionRow.id <= row.id - KEPT))
        self.version, self.data, self.book = row.id, data, book

    def _move(self, session: Session, version: int) -> None:
        session.merge(MetaRow(key=PLACE, value=str(version)))

    def _since(self, version: int | None) -> list[str]:
        if version is None or version == self.version:
            return []
        with self._sessions() as session:
            row = session.get(RevisionRow, version)
        return changes(row.book, self.data) if row is not None else ["everything"]

    def put(self, kind: str, thing: str | None, value: Any, version: int | None, what: str = "") -> Book:
        """Puts a part into the book (a new one last), or takes it out when ``value`` is None.

        Args:
            kind: ``house`` or one of the lists.
            version: the version the edit was made on; None puts it in whatever happened.

        Raises:
            BookError, Stale, NothingThere.
        """
        name = kind if thing is None else f"{kind}/{thing}"
        changed = self._since(version)
        if name in changed or "everything" in changed:
            raise Stale(self.version, changed)
        data = dict(self.data)
        if thing is None:
            data[kind] = value
        else:
            entries = list(data.get(kind, []))
            index = next((i for i, entry in enumerate(entries) if entry["id"] == thing), None)
            if value is None:
                if index is None:
                    raise NothingThere(f"There is no “{thing}” among the {kind}.")
                del entries[index]
            elif not isinstance(value, dict) or value.get("id") != thing:
                raise BookError([Problem("id", f"must be “{thing}”, as in the address")])
            elif index is None:
                entries.append(value)
            else:
                entries[index] = value
            data[kind] = entries
        return self.replace(data, what or f"{'removed' if value is None else 'changed'} {name}")

    def replace(self, data: dict[str, Any], what: str) -> Book:
        """A whole new book as a revision; the same book as before makes none."""
        book = book_from(data)
        if book_json(book) != self.data:
            self._write(book, what)
        return self.book

    def step(self, back: bool) -> tuple[Book, str]:
        """One revision back (undo) or on (redo).

        Returns:
            The book, and what was undone or redone.
        """
        with self._sessions.begin() as session:
            if back:
                query = select(RevisionRow).where(RevisionRow.id < self.version).order_by(RevisionRow.id.desc())
            else:
                query = select(RevisionRow).where(RevisionRow.id > self.version).order_by(RevisionRow.id)
            row = session.scalars(query.limit(1)).first()
            if row is None:
                raise NothingThere("There is nothing to undo." if back else "There is nothing to redo.")
            current = session.get(RevisionRow, self.version)
            what = (current.what if current else "") if back else row.what
            self._move(session, row.id)
        self.version, self.data, self.book = row.id, row.book, book_from(row.book)
        return self.book, what

    def can_step(self) -> tuple[int, int]:
        """How many steps back and on there are."""
        with self._sessions() as session:
            back = session.scalar(select(func.count()).where(RevisionRow.id < self.version)) or 0
            on = session.scalar(select(func.count()).where(RevisionRow.id > self.version)) or 0
        return back, on
