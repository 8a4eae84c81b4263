"""Would they get in? What a door would say of a call, asked of a copy of the engine: nothing is called, nothing counts."""

from __future__ import annotations

from dataclasses import dataclass

from cuejar.core.book.book import Book
from cuejar.core.book.files import book_json
from cuejar.core.engine.engine import Engine
from cuejar.core.engine.state import engine_from, snapshot_of
from cuejar.core.facts import happenings as h
from cuejar.core.facts.orders import Check
from cuejar.core.rules.door import Failed, Visit


@dataclass(frozen=True)
class Asked:
    """Who would call, and how things would be; None: as they are. ``in_s``: so much later than now."""

    viewer: h.Viewer
    text: str = ""
    live: bool | None = None
    category: str | None = None
    scene: str | None = None
    in_s: float = 0


@dataclass(frozen=True)
class Answer:
    """``failed`` is the first check that fails; ``note`` says what was made of the text."""

    failed: Failed | None
    checks: tuple[Check, ...]
    note: str


def would_get_in(engine: Engine, book: Book, cue_id: str, asked: Asked) -> Answer:
    """What the door of a cue of ``book`` would answer. Raises KeyError: it has no such cue."""
    copy = engine_from(snapshot_of(engine))
    at = copy.now
    if book != copy.book:
        copy.handle(h.NewBook(book_json(book)), at)
    copy.advance(at + round(asked.in_s * 1000))
    if asked.live is not None and asked.live != copy.night.on_air:
        copy.handle(h.Stream("live" if asked.live else "ended"), copy.now)
    if asked.category is not None:
        copy.night.category = asked.category
    if asked.scene is not None:
        copy.handle(h.Hand("broadcast/scene", asked.scene), copy.now)
    reception, score = copy.reception, copy.reception.scores[cue_id]
    reception.before_a_call()
    cost = next((call.cost or 0 for call in score.cue.calls if call.kind == "chat"), 0)
    visit = Visit(reception, score.doorway, reception.tallies.of(cue_id), asked.viewer, asked.text, copy.now, cost)
    failed, checks = score.doorway.answered(visit)
    return Answer(failed, checks, visit.read.note)
