"""Export and import: bundles out, the review of an import, and the versions of the book."""

from __future__ import annotations

import asyncio
from datetime import datetime
from typing import Annotated

from fastapi import APIRouter, Path, Query, Request, UploadFile
from fastapi.responses import Response, StreamingResponse
from pydantic import Field

from cuejar.api.apart import while_there
from cuejar.api.book import Edited, edited
from cuejar.api.errors import Refused
from cuejar.api.found import Done
from cuejar.api.media import chunks_of
from cuejar.api.need import TheStudio
from cuejar.api.shapes import Shape
from cuejar.carriage import Show
from cuejar.core.carry.differences import differences
from cuejar.core.carry.review import Choices
from cuejar.core.facts import happenings as h
from cuejar.core.facts.gate import Key, Version
from cuejar.core.parts.base import Id
from cuejar.core.parts.slugs import slug
from cuejar.core.rules.purse import ONE
from cuejar.reviews import EntryRow, ReviewOut, review_out, row_out
from cuejar.store.bundle import left_out
from cuejar.store.copies import copies
from cuejar.store.moving import Balances, Part
from cuejar.studio import Studio

router = APIRouter(prefix="/api", tags=["carry"])
MOVED = "from another computer"
"""Why a viewer has points that were imported."""


class ZipFile(StreamingResponse):
    media_type = "application/zip"


def _balances(studio: Studio) -> Balances:
    view = studio.runner.view
    held = {who: (account.name, account.held // ONE) for who, account in view.accounts().items()}
    return Balances({who: one for who, one in held.items() if one[1]}, view.aliases(), view.counts())


def _show(studio: Studio) -> Show:
    return Show(studio.runner.view.catalogues, _balances(studio))


def _zip(studio: Studio, cues: list[str], whole: bool = False) -> ZipFile:
    names = [cue.name for cue in studio.books.book.cues if cue.id in cues]
    stem = slug(names[0] if len(names) == 1 else "cues" if cues else "everything" if whole else "book", ())
    name = f"{stem}-{datetime.now():%Y-%m-%d}.cuejar.zip"
    pieces = studio.carriage.out(cues, _balances(studio) if whole else None)
    return ZipFile(pieces, headers={"Content-Disposition": f'attachment; filename="{name}"'})


@router.get("/carry/book.zip", response_class=ZipFile)
async def carry_book(studio: TheStudio) -> ZipFile:
    """Returns the whole book with its media as one file, without keys."""
    return _zip(studio, [])


@router.get("/carry/everything.zip", response_class=ZipFile)
async def carry_everything(studio: TheStudio) -> ZipFile:
    """Returns all that moves to another computer, as one file: the book with its media, ledger, nights, viewers, points
    and counts.
    """
    await studio.runner.recorder.caught_up()
    return _zip(studio, [], whole=True)


@router.get("/carry/cues.zip", response_class=ZipFile)
async def carry_cues(studio: TheStudio, cue: Annotated[list[Id], Query(min_length=1, max_length=2_000)]) -> ZipFile:
    """Returns some cues with everything they need, as one file."""
    return _zip(studio, cue)


class StaysOut(Shape):
    """What is left out, in words."""

    left_out: list[str]


@router.get("/carry/stays")
async def stays(studio: TheStudio) -> StaysOut:
    """Returns what an export leaves out."""
    return StaysOut(left_out=left_out(studio.books.book))


TheKey = Annotated[str, Path(max_length=40)]
"""The key of a waiting file."""
Keys = Annotated[list[Key], Field(max_length=20_000)]


class ChoicesIn(Shape):
    """What the streamer chose; anything not given stays as offered."""

    take: Keys | None = None
    beside: Keys | None = None
    allowed: Annotated[list[Annotated[str, Field(max_length=5_000)]], Field(max_length=5_000)] = []
    names: Annotated[
        dict[Annotated[str, Field(max_length=1_000)], Annotated[str, Field(max_length=200)]], Field(max_length=5_000)
    ] = {}
    data: Annotated[list[Part], Field(max_length=10)] | None = None

    @property
    def choices(self) -> Choices:
        return Choices(
            frozenset(self.take) if self.take is not None else None,
            frozenset(self.beside) if self.beside is not None else None,
            frozenset(self.allowed),
            self.names,
            frozenset(self.data) if self.data is not None else None,
        )


class TakeIn(ChoicesIn):
    version: Version | None = None


class ReviewJson(Response):
    media_type = "application/json"


@router.post("/carry/in", status_code=201, response_model=ReviewOut)
async def bring_in(request: Request, studio: TheStudio, file: UploadFile) -> Response:
    """Reviews a bundle, or a book as JSON. It waits on the server until it is imported or cancelled."""
    arriving = studio.carriage.arrive(chunks_of(file), file.filename or "a file")
    key = await while_there(request, arriving)
    review = await while_there(request, studio.carriage.review(key, Choices(), _show(studio)))
    return ReviewJson(review, status_code=201)


@router.post("/carry/in/{key}/review", response_model=ReviewOut)
async def review_again(request: Request, studio: TheStudio, key: TheKey, body: ChoicesIn) -> Response:
    """Returns the review with other choices."""
    review = studio.carriage.review(key, body.choices, _show(studio))
    return ReviewJson(await while_there(request, review))


@router.post("/carry/in/{key}/take")
async def take(studio: TheStudio, key: TheKey, body: TakeIn) -> Edited:
    """Imports what was chosen. One undo reverts the book; imported calls, nights, viewers and points stay."""
    told = await studio.carriage.take(key, body.choices, _show(studio), body.version)
    if told.balances is not None:
        now = studio.runner.view.counts()
        await studio.runner.post_all(_said(told.balances, now))
    return edited(studio, told.what)


def _said(balances: Balances, now: dict[str, int]) -> list[h.GivePoints | h.Merge | h.SetCount]:
    """Returns points, accounts and counts from another computer, as the show takes them."""
    return [
        *(h.GivePoints(who, held, name, MOVED) for who, (name, held) in balances.accounts.items()),
        *(h.Merge(who, into) for who, into in balances.aliases.items()),
        *(h.SetCount(name, value) for name, value in balances.counts.items() if now.get(name) == 0),
    ]


@router.delete("/carry/in/{key}")
async def leave(studio: TheStudio, key: TheKey) -> Done:
    """Cancels an import before anything is changed."""
    studio.carriage.leave(key)
    return Done(what="Nothing was imported.")


class BookBefore(Shape):
    """A version of the book: what was done, when (ms since 1970), from where; ``undone``: it has been undone since."""

    id: int
    what: str
    at: int
    origin: str
    undone: bool
    now: bool


@router.get("/books")
async def books(studio: TheStudio) -> list[BookBefore]:
    """Returns every kept version of the book, newest first."""
    now = studio.books.version
    return [BookBefore(**row._asdict(), now=row.id == now) for row in studio.books.before()]


class CopyOut(Shape):
    """A copy of the data: its day, its size in bytes, and how many cues and calls it has."""

    day: str
    size: int
    cues: int
    calls: int


@router.get("/books/copies")
def data_copies(studio: TheStudio) -> list[CopyOut]:
    """Returns the daily copies, newest first."""
    return [CopyOut(day=one.day, size=one.size, cues=one.cues, calls=one.calls) for one in copies(studio.folder)]


@router.get("/books/{version}/changes")
async def changes_of(studio: TheStudio, version: Version, since: Version) -> list[EntryRow]:
    """Returns what changed between an earlier version (``since``) and this one."""
    return await asyncio.to_thread(
        lambda: [row_out(row) for row in differences(studio.books.at(since), studio.books.at(version))]
    )


@router.post("/books/{version}/review")
async def review_before(studio: TheStudio, version: Version, body: ChoicesIn) -> ReviewOut:
    """Returns the review of restoring a version."""
    review = await asyncio.to_thread(studio.carriage.before, version, body.choices)
    return review_out(
        review,
        studio.books.version,
        key="",
        name=_when(studio, version),
        scope="book",
        missing=[],
        left_out=[],
        credits=[],
    )


@router.post("/books/{version}/take")
async def take_back(studio: TheStudio, version: Version, body: TakeIn) -> Edited:
    """Restores a version, or what was chosen of it, in one step that can be undone."""
    what = await studio.carriage.take_back(version, body.choices, body.version, _when(studio, version))
    return edited(studio, what)


def _when(studio: Studio, version: int) -> str:
    row = next((row for row in studio.books.before() if row.id == version), None)
    if row is None:
        raise Refused(404, "That version is no longer kept.")
    return f"{datetime.fromtimestamp(row.at / 1000):%d %b, %H:%M}"
