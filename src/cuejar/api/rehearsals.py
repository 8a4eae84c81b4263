"""Rehearsals: nights of an audience or a saved one, with one book or two, or one setting at several values."""

from __future__ import annotations

import asyncio
from bisect import bisect_left
from typing import Annotated, Any, Literal

from fastapi import APIRouter, Path, Query
from pydantic import AfterValidator, Field

from cuejar.api.book import Edited, edited
from cuejar.api.errors import Refused
from cuejar.api.found import Done
from cuejar.api.need import TheStudio
from cuejar.api.nights import kept_at
from cuejar.api.shapes import Shape
from cuejar.core.book.book import Book
from cuejar.core.book.files import book_from, book_json
from cuejar.core.carry.differences import differences
from cuejar.core.facts import orders as o
from cuejar.core.facts.gate import Version, sound_json
from cuejar.core.kinds.table import is_spoken
from cuejar.core.nights.assumed import of_audience, of_kept
from cuejar.core.nights.compare import FIGURES, MOST_VALUES, with_setting
from cuejar.core.nights.recorded import recording_of
from cuejar.core.nights.timeline import Timeline
from cuejar.core.parts.base import Id
from cuejar.live.messages import HideTold, OthersTold, ShowTold
from cuejar.nightfiles import NoSuchNight, opened
from cuejar.nights import Entries, Task
from cuejar.rehearsals import Rehearsal, State
from cuejar.store.draft import NothingThere
from cuejar.store.nights import pasts
from cuejar.studio import Studio

router = APIRouter(prefix="/api", tags=["rehearsals"])
MOST_NIGHTS = 200
MOST_STAGE_MS = 900_000
"""How much of a night a stage gets at once."""
Small = Annotated[dict[str, Any], AfterValidator(lambda value: sound_json(value, 500_000, 40))]


class BookChoice(Shape):
    """Which book: the current one, a revision, one from a file, or the one that a saved night was played with."""

    kind: Literal["now", "revision", "file", "own"] = "now"
    version: Version | None = None
    book: Small | None = None


class Sweep(Shape):
    """One setting (`lanes.yard.width`) at several values."""

    setting: Annotated[str, Field(min_length=3, max_length=200)]
    values: Annotated[list[int | float | bool | str], Field(min_length=1, max_length=MOST_VALUES)]


class RehearsalIn(Shape):
    """Whose night: an ``audience`` of the current book, or a saved ``night``. ``books``: one, or two to compare."""

    audience: Id | None = None
    night: Annotated[int, Field(ge=1, le=2**53)] | None = None
    books: Annotated[list[BookChoice], Field(min_length=1, max_length=2)] = [BookChoice()]
    nights: Annotated[int, Field(ge=1, le=MOST_NIGHTS)] = 1
    seed: Annotated[int, Field(ge=0, le=2**31)] = 1
    sweep: Sweep | None = None


class SpreadOut(Shape):
    """A figure over the finished nights: median, lowest, highest."""

    median: float
    low: float
    high: float


class ShiftOut(Shape):
    """A figure with two books; ``by`` is the difference, night by night."""

    before: SpreadOut
    after: SpreadOut
    by: SpreadOut


class StandoutOut(Shape):
    """Something that stands out, with what would help; ``of``: the part of the book (``rewards/tea``)."""

    rule: str
    what: str
    mend: str
    of: str


class NightOut(Shape):
    """A book's first night: all its totals, and what stands out."""

    result: dict[str, Any]
    standouts: list[StandoutOut]
    figures: dict[str, SpreadOut]
    nights: int


class ValueOut(Shape):
    """A value of the setting, with the figures over the finished nights."""

    value: int | float | bool | str
    nights: int
    figures: dict[str, SpreadOut]


class RehearsalRow(Shape):
    """The progress of a rehearsal, in nights."""

    id: str
    what: str
    state: State
    problem: str
    done: int
    total: int


class RehearsalOut(RehearsalRow):
    """``words``: what each figure is called; ``differ``: what differs in the second book; ``assumed``: what couldn't be
    known.
    """

    told: list[str]
    seed: int
    night: int | None
    words: dict[str, str]
    books: list[NightOut]
    shifts: dict[str, ShiftOut]
    differ: list[str]
    assumed: list[str]
    setting: str
    points: list[ValueOut]


def _out(one: Rehearsal) -> RehearsalOut:
    books = [
        NightOut(
            result=drawn.result.json(),
            standouts=[StandoutOut(**found._asdict()) for found in drawn.standouts],
            figures={name: SpreadOut(**spread._asdict()) for name, spread in one.figures(number).items()},
            nights=len(one.of(number)),
        )
        for number, drawn in enumerate(list(one.drawn))
    ]
    shifts = {
        name: ShiftOut(**{part: SpreadOut(**spread._asdict()) for part, spread in shift._asdict().items()})
        for name, shift in (one.differences() if len(one.told) == 2 and not one.values else {}).items()
    }
    points = [
        ValueOut(
            value=value,
            nights=len(one.of(number)),
            figures={name: SpreadOut(**spread._asdict()) for name, spread in one.figures(number).items()},
        )
        for number, value in enumerate(one.values, 1)
    ]
    return RehearsalOut(
        **_row(one), told=one.told, seed=one.seeds[0], night=one.night, words=FIGURES, books=books, shifts=shifts,
        differ=one.differ, assumed=one.assumed, setting=one.setting, points=points,
    )  # fmt: skip


def _row(one: Rehearsal) -> dict[str, Any]:
    row = {"id": one.id, "what": one.what, "state": one.state, "problem": one.problem}
    return {**row, "done": one.done, "total": one.total}


def _book(studio: Studio, choice: BookChoice, own: bool) -> tuple[Book | None, str]:
    """Returns a chosen book and its name. None: the saved night's own."""
    if choice.kind == "own":
        if not own:
            raise Refused(400, "Only a past night has its own book.", "Choose another book.")
        return None, "that night’s book"
    if choice.kind == "revision":
        try:
            return studio.books.at(choice.version or 0), f"revision {choice.version}"
        except NothingThere as error:
            raise Refused(404, f"There is no revision {choice.version}.", "Choose another.") from error
    if choice.kind == "file":
        book = book_from(choice.book or {})
        return book, "the book of the file"
    return studio.books.book, "the current book"


async def _task(studio: Studio, wish: RehearsalIn) -> tuple[Task, list[str], list[str], str]:
    """Returns what to play, the names of the books, what is assumed, and all of it in words."""
    if (wish.audience is None) == (wish.night is None):
        raise Refused(400, "Choose an audience or a past night.", "Choose one.")
    chosen = [_book(studio, choice, wish.night is not None) for choice in wish.books]
    told = [name for _, name in chosen]
    books = [book for book, _ in chosen]
    entries, audience, odd, what = None, None, 0, ""
    if wish.night is not None:
        try:
            piece = await asyncio.to_thread(opened, kept_at(studio), wish.night, False)
        except NoSuchNight as error:
            raise Refused(404, str(error)) from error
        entries = Entries(piece.night.state, piece.night.entries)
        odd = (await asyncio.to_thread(recording_of, *entries)).odd
        what = "a kept night"
    else:
        audience = next((one for one in studio.books.book.audiences if one.id == wish.audience), None)
        if audience is None:
            raise Refused(404, f"There is no audience “{wish.audience}” in the book.", "Choose another.")
        what = audience.name
        known = studio.books.book
        if books[0] is not known and books[0] is not None:
            books[0] = books[0].model_copy(update={"audiences": known.audiences})
    if wish.sweep is not None:
        base = books[0]
        if base is None:
            assert entries is not None
            base = book_from(entries.state["book"])
        books = [base, *(with_setting(base, wish.sweep.setting, value) for value in wish.sweep.values)]
        what = f"{what}, {wish.sweep.setting}"
    past = await asyncio.to_thread(pasts, studio.sessions)
    assumed: dict[str, None] = {}
    for book in books[: len(wish.books)]:
        assumed |= dict.fromkeys(
            of_kept(book, odd) if audience is None or book is None else of_audience(book, audience, bool(past))
        )
    media = studio.facts()
    return Task(books, wish.audience or "", entries, media, past), told, list(assumed), what


@router.post("/rehearsals")
async def begin(studio: TheStudio, body: RehearsalIn) -> RehearsalOut:
    """Starts a rehearsal, which continues in the background. One in progress is stopped."""
    task, told, assumed, what = await _task(studio, body)
    differ: list[str] = []
    if len(body.books) == 2 and body.sweep is None:
        first, second = task.books
        own = Book.model_validate(task.recorded.state["book"]) if task.recorded is not None else None
        if (a := first or own) is not None and (b := second or own) is not None:
            differ = [str(one) for one in differences(a, b) if one.key.kind != "audiences"][:100]
    # A saved night is a single night: another seed wouldn't give another one.
    seeds = [body.seed] if body.night is not None else [body.seed + i for i in range(body.nights)]

    def make(number: str) -> Rehearsal:
        return Rehearsal(
            number, task, told, seeds, what, differ=differ, assumed=assumed, night=body.night,
            setting=body.sweep.setting if body.sweep is not None else "",
            values=body.sweep.values if body.sweep is not None else (),
        )  # fmt: skip

    return _out(studio.rehearsals.begin(make))


@router.get("/rehearsals")
async def list_rehearsals(studio: TheStudio) -> list[RehearsalRow]:
    """Returns the recent ones, newest last."""
    return [RehearsalRow(**_row(one)) for one in studio.rehearsals.kept.values()]


RehearsalId = Annotated[str, Path(max_length=12)]


def _found(studio: Studio, rehearsal: str) -> Rehearsal:
    one = studio.rehearsals.kept.get(rehearsal)
    if one is None:
        raise Refused(404, "That rehearsal no longer exists.", "Run it again.")
    return one


@router.get("/rehearsals/{rehearsal}")
async def look(studio: TheStudio, rehearsal: RehearsalId) -> RehearsalOut:
    """Returns a rehearsal with its figures, or how far it is."""
    return _out(_found(studio, rehearsal))


@router.delete("/rehearsals/{rehearsal}")
async def stop(studio: TheStudio, rehearsal: RehearsalId) -> Done:
    """Stops it; finished nights can still be viewed."""
    studio.rehearsals.stop(_found(studio, rehearsal))
    return Done(what="Rehearsal stopped.")


BookNumber = Annotated[int, Query(ge=0, le=1)]


@router.get("/rehearsals/{rehearsal}/timeline")
async def timeline(studio: TheStudio, rehearsal: RehearsalId, book: BookNumber = 0) -> Timeline:
    """Returns the first night of a book as a timeline."""
    one = _found(studio, rehearsal)
    if book >= len(one.drawn):
        raise Refused(404, "That night isn’t ready yet.", "Wait a moment.")
    return one.drawn[book].timeline


class StageOut(Shape):
    """What an overlay shows: what is ``up`` at the beginning, and what comes ``then`` (ms from the beginning of the
    night).
    """

    up: list[ShowTold]
    then: list[ShowTold | HideTold | OthersTold]


@router.get("/rehearsals/{rehearsal}/stage")
async def stage(
    studio: TheStudio,
    rehearsal: RehearsalId,
    at: Annotated[int, Query(ge=0, le=2**40)],
    for_ms: Annotated[int, Query(ge=0, le=MOST_STAGE_MS)] = 60_000,
    book: BookNumber = 0,
) -> StageOut:
    """Returns what was on the overlay at a moment of a rehearsal."""
    one = _found(studio, rehearsal)
    if book >= len(one.drawn):
        raise Refused(404, "That night isn’t ready yet.", "Wait a moment.")
    shows = one.drawn[book].shows
    begin = bisect_left(shows, at, key=lambda timed: timed[0])
    up: dict[tuple[str, str], tuple[int, o.Order]] = {}
    for when, order in shows[:begin]:
        if isinstance(order, (o.Show, o.Roll)):
            up[order.run, order.beat] = (when, _seen(order))
        elif isinstance(order, o.Hide):
            up.pop((order.run, order.beat), None)
    end = bisect_left(shows, at + for_ms, key=lambda timed: timed[0])
    first: Any = studio.overlays.told(list(up.values()))
    return StageOut(up=first, then=studio.overlays.told([(when, _seen(order)) for when, order in shows[begin:end]]))


def _seen(order: o.Order) -> o.Order:
    """Shows the words of a speech as a caption, as a rehearsal makes no speech."""
    if isinstance(order, o.Show) and is_spoken(order):
        return order._replace(kind="caption")
    return order


class SettingIn(Shape):
    """A setting (`lanes.yard.width`) and its new value."""

    setting: Annotated[str, Field(min_length=3, max_length=200)]
    value: int | float | bool | str


@router.post("/book/setting")
async def put_setting(studio: TheStudio, body: SettingIn) -> Edited:
    """Changes one setting of the book, as an edit that can be undone."""
    book = with_setting(studio.books.book, body.setting, body.value)
    found = differences(studio.books.book, book)
    what = str(found[0]) if found else ""
    await studio.edit(
        lambda draft: draft.become(book_json(with_setting(draft.book, body.setting, body.value))),
        f"from a rehearsal: {what}"[:200],
    )
    return edited(studio, what)
