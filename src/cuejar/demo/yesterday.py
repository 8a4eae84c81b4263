"""Yesterday's night at Tinwhistle Halt, made from the demo's audience as if it had been on air."""

from __future__ import annotations

import json
import random
import time
from collections.abc import Iterable, Iterator, Mapping
from datetime import datetime, timedelta
from heapq import heappop, heappush

from cuejar.core.book.book import Book
from cuejar.core.book.files import book_json
from cuejar.core.engine.engine import Engine
from cuejar.core.engine.night import Timed
from cuejar.core.engine.state import SPEECH_GRACE_MS
from cuejar.core.facts import happenings as h
from cuejar.core.facts import orders as o
from cuejar.core.kinds.table import is_spoken
from cuejar.core.nights.generator import night_of

AUDIENCE = "friday"
SEED = 7
BEGINS_AT = 19
REST: dict[str, h.PropertyValue] = {"broadcast/scene": "Workbench"}
"""Rest values of the gear."""


READY_MS = 600
"""How long after its call a text can be heard."""


def yesterday(book: Book, media: Mapping[str, h.MediaFacts], seed: int) -> Iterator[tuple[int, h.Happening]]:
    """Returns the happenings of that night with their instants (ms since 1970). ``seed``: that of the show."""
    evening = datetime.now().replace(hour=BEGINS_AT, minute=0, second=0, microsecond=0) - timedelta(days=1)
    return _read_aloud(_called(book, media, round(time.mktime(evening.timetuple())) * 1000), seed)


def _called(book: Book, media: Mapping[str, h.MediaFacts], begin: int) -> Iterator[tuple[int, h.Happening]]:
    audience = next(one for one in book.audiences if one.id == AUDIENCE)
    yield begin - 60_000, h.NewBook(json.loads(json.dumps(book_json(book))))
    yield begin - 60_000, h.MediaKnown(dict(media))
    yield begin - 60_000, h.Rest(REST)
    for at, happening in night_of(audience, book, SEED):
        yield begin + at, happening
    yield begin + round(audience.length_min * 60_000) + 300_000, h.AllToRest()


def _read_aloud(happenings: Iterable[tuple[int, h.Happening]], seed: int) -> Iterator[tuple[int, h.Happening]]:
    """Adds the instants at which texts could be heard, and how long they really were, as the reader tells."""
    engine = Engine(Book.model_validate({}), seed, speech_grace=SPEECH_GRACE_MS)
    lengths = random.Random(SEED)
    asked: set[tuple[str, str]] = set()
    ready: list[tuple[int, int, h.SpeechReady]] = []

    def hear(timed: Iterable[Timed]) -> None:
        for at, order in timed:
            match order:
                case o.Prepare(run, beat, text, part):
                    pass
                case o.Show(run=run, beat=beat, value=str(text), look=look) if is_spoken(order):
                    part = look.get("part")
                case _:
                    continue
            if (run, beat) not in asked:
                asked.add((run, beat))
                length_s = engine.resolver.lengths.of_speech(text, part) * lengths.uniform(0.9, 1.15) / 1000
                heappush(ready, (at + READY_MS, len(asked), h.SpeechReady(run, beat, round(length_s, 3))))

    for at, happening in happenings:
        while ready or engine.due() is not None:
            due = engine.due()
            if ready and (due is None or ready[0][0] <= due) and ready[0][0] <= at:
                when, _, told = heappop(ready)
                hear(engine.handle(told, when))
                yield when, told
            elif due is not None and due <= at:
                hear(engine.advance(due))
            else:
                break
        hear(engine.handle(happening, at))
        yield at, happening
