"""What building a cue asks: where its beats lie, what a try would do, what the checks find. Nothing is saved or done."""

from __future__ import annotations

from typing import Any

from fastapi import APIRouter
from pydantic import BaseModel

from cuejar.api.live import TryIn
from cuejar.api.need import TheStudio
from cuejar.core import happenings as h
from cuejar.core import orders as o
from cuejar.core.book import Book, Cue, book_from, book_json
from cuejar.core.engine import Engine
from cuejar.core.rehearsal import preview
from cuejar.core.score import Lengths, Score, ranges
from cuejar.core.snags import snags
from cuejar.live.drivers.overlay import topic
from cuejar.studio import Studio

router = APIRouter(prefix="/api", tags=["building"])


class SpanOut(BaseModel):
    """Where a beat lies on the score, in ms from the run's start; ``end_latest`` is none while only a hand ends it."""

    beat: str
    start: int
    start_latest: int | None
    end: int
    end_latest: int | None


class SnagOut(BaseModel):
    """Something wrong (``error``) or risky (``warning``) in a cue, with what would mend it."""

    check: str
    grade: str
    cue: str
    beat: str
    what: str
    mend: str


class DraftIn(BaseModel):
    """A cue as it would be, not saved yet."""

    value: dict[str, Any]


class DraftTryIn(TryIn):
    value: dict[str, Any]


class Measured(BaseModel):
    spans: list[SpanOut]
    snags: list[SnagOut]


class ReturnOut(BaseModel):
    """A property that a try would change, when (ms from its start), and what it would go back to."""

    path: str
    value: Any
    at: int
    back_at: int | None
    returns_to: Any


class Preview(BaseModel):
    """A try that is only seen here: messages for the stage in the editor (``at`` in ms), how long it lasts, what failed."""

    messages: list[dict[str, Any]]
    length: int
    failed: list[str]
    returns: list[ReturnOut]


def _drafted(studio: Studio, value: dict[str, Any]) -> tuple[Book, Cue]:
    """The book with the cue as it would be.

    Raises:
        BookError: the cue cannot be taken.
    """
    data = dict(book_json(studio.books.book))
    cue_id = str(value.get("id", ""))
    data["cues"] = [value if cue["id"] == cue_id else cue for cue in data.get("cues", [])]
    if value not in data["cues"]:
        data["cues"] = [*data["cues"], value]
    book = book_from(data)
    return book, next(cue for cue in book.cues if cue.id == cue_id)


def _pages(studio: Studio) -> dict[str, int]:
    return {overlay.id: len(studio.hub.pages(topic(overlay.id))) for overlay in studio.books.book.overlays}


@router.post("/building/measure")
async def measure(studio: TheStudio, body: DraftIn) -> Measured:
    """Where the beats of a cue lie, shortest and longest, and its snags, before it is saved."""
    book, cue = _drafted(studio, body.value)
    spans = [
        SpanOut(
            beat=span.beat,
            start=span.start.shortest,
            start_latest=span.start.longest,
            end=span.end.shortest,
            end_latest=span.end.longest,
        )
        for span in ranges(Score(cue, book), Lengths(book, studio.facts()))
    ]
    found = [SnagOut(**snag._asdict()) for snag in snags(book, studio.facts(), _pages(studio)) if snag.cue == cue.id]
    return Measured(spans=spans, snags=found)


@router.get("/snags")
async def all_snags(studio: TheStudio) -> list[SnagOut]:
    return [SnagOut(**snag._asdict()) for snag in snags(studio.books.book, studio.facts(), _pages(studio))]


@router.post("/building/try")
async def try_here(studio: TheStudio, body: DraftTryIn) -> Preview:
    """What a try would do, for the editor's stage alone: nothing reaches an overlay or any gear."""
    book, cue = _drafted(studio, body.value)
    engine = Engine(book, studio.settings.seed, studio.facts())
    live = studio.show.engine
    engine.run_number = live.run_number
    engine.jars.restore(live.jars.snapshot())
    engine.handle(h.Rest(live.holds.wanted()), 0)
    viewer = h.Viewer("try", body.viewer.name, tuple(body.viewer.roles), body.viewer.tier)
    timed = preview(engine, h.Try(cue.id, viewer, body.text, body.rolled, body.drawn, body.speed))
    returns: dict[str, ReturnOut] = {}
    for at, order in timed:
        if isinstance(order, o.Set) and not order.path.startswith("sound/"):
            if order.path in returns:
                returns[order.path].back_at = at
            else:
                back = live.holds.showing(order.path)
                returns[order.path] = ReturnOut(
                    path=order.path, value=order.value, at=at, back_at=None, returns_to=back
                )
    return Preview(
        messages=studio.overlays.told(timed),
        length=max((at for at, _ in timed), default=0),
        failed=[f"{order.beat}: {order.why}" for _, order in timed if isinstance(order, o.Fail)],
        returns=list(returns.values()),
    )
