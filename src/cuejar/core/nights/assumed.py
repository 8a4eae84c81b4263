"""What a rehearsal cannot know, as far as it matters in a book, and what it takes in its place."""

from __future__ import annotations

from cuejar.core.book.audience import Audience
from cuejar.core.book.book import Book

SPEECH = "Speeches last as long as they are reckoned to, which may be a little off."
LENGTHS = "How long {} {} last is not known here: each counts as a picture of {:g} s."
FOLDERS = "What is in followed folders is not known here: jars that draw from them draw nothing."
REST = "What lies at rest on the gear is not known here: it is taken as it is in the book."
RUNS = "What was done by hand with one run (released, moved, dropped) is left out, as runs are others here."
PAST = "No past night is known here: this audience likes all alike."
ODD = "{} entries of that night could not be read; they are left out."
_RESTING = ("scene", "source", "filter", "light")


def of_audience(book: Book, audience: Audience, past: bool, unknown: int = 0) -> list[str]:
    """For nights of an audience.

    Args:
        past: whether it is known how often each thing was called on past nights.
        unknown: of how many files that cues use it is not known how long they are.
    """
    kinds = {beat.kind for cue in book.cues for beat in cue.beats}
    return [
        line
        for line, matters in (
            (LENGTHS.format(unknown, "file" if unknown == 1 else "files", book.house.still_s), unknown > 0),
            (PAST, audience.likes == "past" and not past),
            (SPEECH, "speech" in kinds),
            (FOLDERS, any(getattr(jar, "folder", None) for jar in book.jars)),
            (REST, bool(kinds & set(_RESTING))),
        )
        if matters
    ]


def of_kept(book: Book | None, odd: int) -> list[str]:
    """For a night that is kept; under its own book (None) all is known. ``odd``: how many of its entries could not be read."""
    spoken = book is not None and any(beat.kind == "speech" for cue in book.cues for beat in cue.beats)
    lines = ((SPEECH, spoken), (RUNS, book is not None), (ODD.format(odd), odd > 0))
    return [line for line, matters in lines if matters]
