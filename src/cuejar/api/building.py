"""Questions of the cue editor: where beats lie, what a try would do, what the checks find. Nothing is saved or done."""

from __future__ import annotations

import contextlib
from typing import Annotated, Any

from fastapi import APIRouter
from pydantic import Field

from cuejar.api.errors import Refused
from cuejar.api.live import TryIn, ViewerIn
from cuejar.api.need import TheStudio
from cuejar.api.shapes import Shape
from cuejar.api.snags import SnagOut, snags_of
from cuejar.api.told import CueTold, Teller
from cuejar.core.book.book import Book, Cue
from cuejar.core.book.files import book_from, book_json
from cuejar.core.engine.asking import Asked
from cuejar.core.engine.night import Timed
from cuejar.core.engine.rehearsal import preview
from cuejar.core.engine.state import engine_from, snapshot_of
from cuejar.core.facts import happenings as h
from cuejar.core.facts import orders as o
from cuejar.core.facts.gate import Key
from cuejar.core.facts.paths import Family, read_path
from cuejar.core.kinds.table import KINDS, UNION_TAGS, is_spoken
from cuejar.core.kinds.throw import ThrowBeat
from cuejar.core.measures.catalogue import NotThere
from cuejar.core.measures.throw import Thing
from cuejar.core.parts.base import Name, parsed
from cuejar.core.parts.steps import FromFile
from cuejar.core.rules.door import REASONS
from cuejar.core.rules.score import Lengths, Score, ranges
from cuejar.core.words.properties import property_said
from cuejar.live.messages import CheckTold, HideTold, OthersTold, ShowTold, Source
from cuejar.live.reader import Piece
from cuejar.studio import Studio

router = APIRouter(prefix="/api", tags=["building"])


class SpanOut(Shape):
    """Where a beat lies on the score, in ms from the start of the run. ``end_latest`` is none if only the streamer can
    end it; ``returns_to`` is what a hold returns to as things are now.
    """

    beat: str
    start: int
    start_latest: int | None
    end: int
    end_latest: int | None
    returns_to: str | None = None


class DraftIn(Shape):
    """A cue that isn't saved yet."""

    value: dict[str, Any]


class DraftTryIn(TryIn):
    value: dict[str, Any]


class Measured(Shape):
    spans: list[SpanOut]
    snags: list[SnagOut]
    told: CueTold


class ReturnOut(Shape):
    """A property that a try would change, when (ms from its start), and what it would return to."""

    path: str
    name: str
    value: Any
    at: int
    back_at: int | None
    returns_to: Any


class Preview(Shape):
    """A try that only the editor sees: messages for its stage (``at`` in ms), how long it lasts, and what failed."""

    messages: list[Annotated[ShowTold | HideTold | OthersTold, Field(discriminator="t")]]
    length: int
    failed: list[str]
    returns: list[ReturnOut]


def _drafted(studio: Studio, value: dict[str, Any]) -> tuple[Book, Cue]:
    """Returns the book with the draft of a cue.

    Raises:
        BookError: the cue is invalid.
    """
    data = dict(book_json(studio.books.book))
    cue_id = str(value.get("id", ""))
    data["cues"] = [value if cue["id"] == cue_id else cue for cue in data.get("cues", [])]
    if value not in data["cues"]:
        data["cues"] = [*data["cues"], value]
    book = book_from(data)
    return book, next(cue for cue in book.cues if cue.id == cue_id)


def _in_words(value: Any) -> str:
    return {True: "on", False: "off"}.get(value, str(value)) if isinstance(value, bool) else str(value)


def _returns(studio: Studio, book: Book, cue: Cue) -> dict[str, str]:
    """Returns what each hold of a cue returns to, as far as that is known before it runs."""
    view, lengths = studio.runner.view, Lengths(book, None)
    out = {}
    for beat in cue.beats:
        path = None
        with contextlib.suppress(NotThere):
            path = KINDS[beat.kind].holds(beat, lengths, view.catalogues, book.gear)
        there = view.known(path) if path is not None else None
        if there is not None and there.rest is not None:
            out[beat.id] = "stays" if getattr(beat, "length", None) == "keep" else _in_words(there.rest)
    return out


@router.post("/building/measure")
async def measure(studio: TheStudio, body: DraftIn) -> Measured:
    """Returns when a cue's beats run (earliest and latest), its snags, and the cue in words, before it is saved."""
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
    back = _returns(studio, book, cue)
    for span in spans:
        span.returns_to = back.get(span.beat)
    found = [snag for snag in snags_of(studio, book) if snag.cue == cue.id]
    return Measured(spans=spans, snags=found, told=Teller(book).told(cue))


class ThrowIn(Shape):
    """A throw to look at while tuning it; the same ``luck`` throws the same way."""

    beat: dict[str, Any]
    luck: int = 0


class ThrownOut(Shape):
    things: list[Thing]
    media: list[Source | None]


@router.post("/throws")
async def throws(studio: TheStudio, body: ThrowIn) -> ThrownOut:
    """Computes where thrown pieces fly, for a preview."""
    beat = parsed(ThrowBeat, body.beat, UNION_TAGS)
    media: list[str] = []
    if isinstance(beat.media, FromFile):
        media = [beat.media.file]
    elif beat.media is not None:
        wanted = beat.media.jar
        media = [e.value for jar in studio.books.book.jars if jar.id == wanted for e in jar.entries if e.on][:6]
    thrown = studio.overlays.thrown(beat, str(body.luck))
    return ThrownOut(things=thrown, media=studio.overlays.sources(media))


Pieces = dict[tuple[str, str], Piece | None]


async def _said(studio: Studio, book: Book, viewer: h.Viewer, timed: list[Timed]) -> Pieces:
    """Returns the speeches of a try, made now; None if the text can't be spoken."""
    pieces: Pieces = {}
    for _, order in timed:
        if isinstance(order, o.Show) and is_spoken(order):
            script = studio.reader.script(book, str(order.value), order.look.get("part"), viewer)
            try:
                pieces[order.run, order.beat] = await studio.reader.make(book, script) if script else None
            except Exception:
                pieces[order.run, order.beat] = None
    return pieces


def _heard(studio: Studio, timed: list[Timed], pieces: Pieces) -> list[ShowTold | HideTold | OthersTold]:
    """Returns the messages for the editor's stage, with the speeches made for it alone."""
    made = {key: piece.json(studio.runner.view.book) for key, piece in pieces.items() if piece is not None}
    return studio.overlays.told(timed, lambda run, beat: made.get((run, beat)))


class DoorIn(Shape):
    """Who would call a cue (or the draft of one), and under which conditions; none: as things are. ``viewer_id`` is a
    known viewer.
    """

    value: dict[str, Any]
    viewer: ViewerIn = ViewerIn()
    viewer_id: Key | None = None
    text: Annotated[str, Field(max_length=10_000)] = ""
    live: bool | None = None
    category: Name | None = None
    scene: Name | None = None
    in_min: Annotated[float, Field(ge=0, le=1440)] = 0


class DoorOut(Shape):
    """Whether the call would be let in, otherwise the reason; and the result of every check of the door, in order."""

    let_in: bool
    reason: str
    note: str
    trace: list[CheckTold]


@router.post("/building/door")
async def door(studio: TheStudio, body: DoorIn) -> DoorOut:
    """Would they get in? Nothing is called, and nothing counts."""
    cue = parsed(Cue, body.value, UNION_TAGS)
    if cue.lane is not None and not any(lane.id == cue.lane for lane in studio.books.book.all_lanes):
        raise Refused(422, f"There is no lane “{cue.lane}”.", "Choose another lane.")
    viewer = h.Viewer(body.viewer_id or "try", body.viewer.name, tuple(body.viewer.roles), body.viewer.tier)
    asked = Asked(viewer, body.text, body.live, body.category, body.scene, body.in_min * 60)
    answer = studio.runner.view.would_get_in(cue, asked)
    reason = REASONS[answer.failed.reason] if answer.failed is not None else ""
    trace = [CheckTold(**check._asdict()) for check in answer.checks]
    return DoorOut(let_in=answer.failed is None, reason=reason, note=answer.note, trace=trace)


@router.post("/building/try", response_model_exclude_unset=True)
async def try_here(studio: TheStudio, body: DraftTryIn) -> Preview:
    """Plays a try on the editor's stage alone: nothing reaches an overlay or any gear."""
    book, cue = _drafted(studio, body.value)
    live = studio.runner.view
    engine = live.draft(book, studio.facts())
    viewer = h.Viewer("try", body.viewer.name, tuple(body.viewer.roles), body.viewer.tier)
    attempt = h.Try(cue.id, viewer, body.text, body.rolled, body.drawn, body.speed)
    snapshot = snapshot_of(engine)
    timed = preview(engine, attempt)
    pieces = await _said(studio, book, viewer, timed)
    if pieces:
        ready = [
            h.SpeechReady(run, beat, piece.length_s / body.speed if piece else 0, piece is None)
            for (run, beat), piece in pieces.items()
        ]
        timed = preview(engine_from(snapshot), attempt, ready)
    returns: dict[str, ReturnOut] = {}
    for at, order in timed:
        if isinstance(order, o.Set) and read_path(order.path).known is not Family.SOUND:
            if order.path in returns:
                returns[order.path].back_at = at
            else:
                back = live.showing(order.path)
                returns[order.path] = ReturnOut(
                    path=order.path,
                    name=property_said(order.path, book.rewards),
                    value=order.value,
                    at=at,
                    back_at=None,
                    returns_to=back,
                )
    return Preview(
        messages=_heard(studio, timed, pieces),
        length=max((at for at, _ in timed), default=0),
        failed=[f"{order.beat}: {order.why}" for _, order in timed if isinstance(order, o.Fail)],
        returns=list(returns.values()),
    )
