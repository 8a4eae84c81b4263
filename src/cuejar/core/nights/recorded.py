"""A past night: the show's state right before it and its happenings, played again with its own book or another one.

With its own book it is the same night, to the millisecond. With another one runs get other numbers, so happenings that
name a run by its number (its speech is ready, it was released by hand) are left out.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import NamedTuple

from cuejar.core.book.book import Book
from cuejar.core.book.files import book_from, book_json
from cuejar.core.engine.engine import Engine
from cuejar.core.engine.state import SPEECH_GRACE_MS, engine_from
from cuejar.core.facts import happenings as h
from cuejar.core.facts.happenings import Happening, happening_from
from cuejar.core.parts.base import BookError, JsonObject

OF_RUNS = (h.SpeechReady, h.Release, h.DropCall, h.Move, h.StrikeFailed)
"""Happenings that name a run by its number."""


class Recording(NamedTuple):
    """A night, past or written down: the engine's state right before it (`core.engine.state`), and its happenings with
    their instants (ms of the show's clock).

    Attributes:
        odd: how many entries couldn't be read.
        begins: when it begins; none: with its first happening.
        until: when it ends, as in `core.engine.rehearsal.play`.
    """

    state: JsonObject
    happenings: list[tuple[int, Happening]]
    odd: int = 0
    begins: int | None = None
    until: int | None = None

    @property
    def begin(self) -> int:
        if self.begins is not None:
            return self.begins
        return self.happenings[0][0] if self.happenings else 0

    @property
    def book(self) -> Book:
        """Returns the book at its beginning."""
        return book_from(self.state["book"])


def recording_of(state: JsonObject, entries: Sequence[tuple[int, int, object]]) -> Recording:
    """Returns a night from its entries (number, instant, happening as JSON)."""
    rows: list[tuple[int, Happening]] = []
    odd = 0
    for _, at, told in entries:
        try:
            rows.append((at, happening_from(told)))
        except BookError:
            odd += 1
    return Recording(state, rows, odd)


def engine_of(recording: Recording, against: Book | None = None) -> Engine:
    """Returns the engine right before the night.

    Args:
        against: another book, used from the beginning.
    """
    if against is None:
        return engine_from(recording.state, speech_grace=SPEECH_GRACE_MS)
    engine = engine_from(recording.state)
    engine.handle(h.NewBook(book_json(against)), engine.now)
    return engine


def happenings_of(recording: Recording, against: Book | None = None) -> Iterator[tuple[int, Happening]]:
    """Returns what happens; with another book, without edits of the book and without happenings that name runs by
    number.
    """
    for at, happening in recording.happenings:
        if against is None or not isinstance(happening, (h.NewBook, *OF_RUNS)):
            yield at, happening
