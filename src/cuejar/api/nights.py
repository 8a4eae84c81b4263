"""Nights: every saved stream, its files, its note, and how long nights are kept."""

from __future__ import annotations

import asyncio
import secrets
import time
from collections.abc import Iterator
from pathlib import Path
from typing import Annotated

from fastapi import APIRouter, Query, Request
from fastapi import Path as InPath
from fastapi.responses import StreamingResponse
from pydantic import Field

from cuejar.api.apart import while_there
from cuejar.api.errors import Refused
from cuejar.api.found import Done
from cuejar.api.need import TheStudio
from cuejar.api.shapes import Shape
from cuejar.carriage import files_of, media_of
from cuejar.nightfiles import MIMES, Kept, Kind, NoSuchNight, written_into
from cuejar.store import nights
from cuejar.store.zips import CHUNK
from cuejar.studio import Studio

router = APIRouter(prefix="/api", tags=["nights"])
EXPORT_LIMIT_S = 600
NightId = Annotated[int, InPath(ge=1, le=2**53)]


class NightRow(Shape):
    """A stream: begin and end (None: it goes on) in ms since 1970; its calls in 60 even steps; its size on disk in
    bytes.
    """

    id: int
    at: int
    ended: int | None
    category: str
    note: str
    calls: int
    refunds: int
    curve: list[int]
    size: int


class NightsOut(Shape):
    """Nights, newest first; ``before`` asks for older ones."""

    nights: list[NightRow]
    before: int | None


@router.get("/nights")
async def list_nights(
    studio: TheStudio,
    limit: Annotated[int, Query(ge=1, le=200)] = 50,
    before: Annotated[int | None, Query(ge=0, le=2**53)] = None,
) -> NightsOut:
    """Lists kept nights, newest first."""
    rows = await asyncio.to_thread(nights.nights, studio.sessions, limit, before)
    last = rows[-1].id if len(rows) == limit else None
    return NightsOut(nights=[NightRow(**row._asdict()) for row in rows], before=last)


class FreedOut(Shape):
    """What would be freed: nights, lines of the ledger, bytes."""

    nights: int
    calls: int
    bytes: int


@router.get("/nights/freed")
async def freed(
    studio: TheStudio,
    kept: Annotated[int | None, Query(ge=1, le=10_000)] = None,
    days: Annotated[int | None, Query(ge=1, le=36_500)] = None,
) -> FreedOut:
    """Returns what keeping fewer nights would free; asking deletes nothing."""

    def look() -> nights.Freed:
        those = nights.too_old(studio.sessions, kept, days, round(time.time() * 1000))
        return nights.freed(studio.sessions, those)

    return FreedOut(**(await asyncio.to_thread(look))._asdict())


class NoteIn(Shape):
    note: Annotated[str, Field(max_length=5_000)]


def _there(studio: Studio, night: int) -> None:
    if not nights.is_there(studio.sessions, night):
        raise Refused(404, f"There is no night {night}.", "It may have been deleted.")


@router.put("/nights/{night}/note")
async def put_note(studio: TheStudio, night: NightId, body: NoteIn) -> Done:
    """Writes a note on a night."""
    _there(studio, night)
    await studio.writer.do(lambda c: nights.noted(c, night, body.note))
    return Done(what="Note saved.")


@router.delete("/nights/{night}")
async def delete_night(studio: TheStudio, night: NightId) -> Done:
    """Deletes a night, with the lines of its calls."""
    _there(studio, night)
    if nights.goes_on(studio.sessions, night):
        raise Refused(409, "This night is still running.", "End the stream first.")
    await studio.writer.do(lambda c: nights.let_go(c, [night]))
    return Done(what="Night and calls deleted.")


class NightFile(StreamingResponse):
    media_type = "application/octet-stream"


def kept_at(studio: Studio) -> Kept:
    return Kept(studio.sessions, studio.database, studio.runner.journal.installation)


@router.get("/nights/{night}/files/{kind}", response_class=NightFile)
async def night_file(
    request: Request, studio: TheStudio, night: NightId, kind: Kind, made_up: bool = False
) -> NightFile:
    """Returns a night as a file: its calls (``csv``, ``events``), a ``script``, ``vtt``, ``otio`` (``otioz`` with its
    media), or a ``page`` to print.
    """
    _there(studio, night)
    book, library = studio.books.book, studio.library
    target = studio.readers.folder / f"night-{secrets.token_hex(8)}"
    args = (studio.database, studio.runner.journal.installation, night, kind, made_up)
    work = studio.readers.apart(
        "exporting",
        f"night {night}",
        EXPORT_LIMIT_S,
        written_into,
        target,
        *args,
        media_of(book, library),
        files_of(book, library),
    )
    try:
        name = await while_there(request, work)
    except NoSuchNight as error:
        raise Refused(404, str(error)) from error
    except BaseException:
        target.unlink(missing_ok=True)
        raise
    how = "inline" if kind == "page" else "attachment"
    headers = {"Content-Disposition": f'{how}; filename="{name}"'}
    return NightFile(_sent(target), headers=headers, media_type=MIMES[kind])


def _sent(file: Path) -> Iterator[bytes]:
    """Sends a file in pieces, then deletes it."""
    try:
        with file.open("rb") as source:
            while chunk := source.read(CHUNK):
                yield chunk
    finally:
        file.unlink(missing_ok=True)
