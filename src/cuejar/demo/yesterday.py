"""Yesterday's night at Tinwhistle Halt, made from the demo's audience as if it had been on air."""

from __future__ import annotations

import json
import time
from collections.abc import Iterator, Mapping
from datetime import datetime, timedelta

from cuejar.core.book.book import Book
from cuejar.core.book.files import book_json
from cuejar.core.facts import happenings as h
from cuejar.core.nights.generator import night_of

AUDIENCE = "friday"
SEED = 7
BEGINS_AT = 19
REST: dict[str, h.PropertyValue] = {"broadcast/scene": "Workbench"}
"""Rest values of the gear."""


def yesterday(book: Book, media: Mapping[str, h.MediaFacts]) -> Iterator[tuple[int, h.Happening]]:
    """Returns the happenings of that night with their instants (ms since 1970)."""
    evening = datetime.now().replace(hour=BEGINS_AT, minute=0, second=0, microsecond=0) - timedelta(days=1)
    begin = round(time.mktime(evening.timetuple())) * 1000
    audience = next(one for one in book.audiences if one.id == AUDIENCE)
    yield begin - 60_000, h.NewBook(json.loads(json.dumps(book_json(book))))
    yield begin - 60_000, h.MediaKnown(dict(media))
    yield begin - 60_000, h.Rest(REST)
    for at, happening in night_of(audience, book, SEED):
        yield begin + at, happening
    yield begin + round(audience.length_min * 60_000) + 300_000, h.AllToRest()
