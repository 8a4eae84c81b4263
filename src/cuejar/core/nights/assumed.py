"""What a rehearsal can't know, as far as it matters in a book, and what it assumes instead."""

from __future__ import annotations

from typing import Any

from cuejar.core.book.audience import Audience
from cuejar.core.book.book import Book
from cuejar.core.kinds.base import Kind
from cuejar.core.kinds.table import KINDS

SPEECH = "Speech durations are estimates."
LENGTHS = "How long {} {} last is not known here: each counts as a picture of {:g} s."
FOLDERS = "Followed folders aren’t known here, so jars that use them draw nothing."
REST = "Rest values come from the book, not from the gear."
RUNS = "Changes by hand to single runs (released, moved, dropped) are left out."
PAST = "No past nights are known, so this audience likes everything equally."
ODD = "{} entries of that night could not be read; they are left out."


def of_audience(book: Book, audience: Audience, past: bool, unknown: int = 0) -> list[str]:
    """Returns the assumptions for nights of an audience.

    Args:
        past: whether the calls of past nights are known.
        unknown: how many files in use have an unknown length.
    """
    kinds = _kinds(book)
    return [
        line
        for line, matters in (
            (LENGTHS.format(unknown, "file" if unknown == 1 else "files", book.house.still_s), unknown > 0),
            (PAST, audience.likes == "past" and not past),
            (SPEECH, any(kind.speaks for kind in kinds)),
            (FOLDERS, any(getattr(jar, "folder", None) for jar in book.jars)),
            (REST, any(kind.way == "hold" and kind.gear is not None for kind in kinds)),
        )
        if matters
    ]


def of_kept(book: Book | None, odd: int) -> list[str]:
    """Returns the assumptions for a saved night; with its own book (None) all is known. ``odd``: how many of its
    entries couldn't be read.
    """
    spoken = book is not None and any(kind.speaks for kind in _kinds(book))
    lines = ((SPEECH, spoken), (RUNS, book is not None), (ODD.format(odd), odd > 0))
    return [line for line, matters in lines if matters]


def _kinds(book: Book) -> list[Kind[Any]]:
    return [KINDS[name] for name in {beat.kind for cue in book.cues for beat in cue.beats}]
