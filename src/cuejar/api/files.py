"""Open formats of single things, exported and imported: scores (OpenTimelineIO), captions (WebVTT), lamps (CSV), past
calls (CloudEvents).
"""

from __future__ import annotations

import asyncio
from typing import Annotated, Any

from fastapi import APIRouter, UploadFile
from fastapi.responses import PlainTextResponse, StreamingResponse
from pydantic import Field

from cuejar.api.book import Edited, edited
from cuejar.api.errors import Refused
from cuejar.api.found import TheCue, TheGear
from cuejar.api.media import chunks_of
from cuejar.api.need import TheStudio
from cuejar.api.shapes import Shape
from cuejar.api.texts import CsvText
from cuejar.carriage import files_of, media_of
from cuejar.core.book.book import Cue
from cuejar.core.files import captions, lamps, timeline
from cuejar.core.files.events import MOST_LINE, event_of
from cuejar.core.files.timeline import Read
from cuejar.core.rules.score import Lengths, Score, Span, ranges
from cuejar.live.past import taken_in
from cuejar.store import otioz
from cuejar.studio import Studio

router = APIRouter(prefix="/api", tags=["files"])
MOST_LEDGER, AT_ONCE = 500_000_000, 2_000
"""Maximum bytes of past calls per import, and calls written together."""


class FileIn(Shape):
    """The text of a file."""

    text: Annotated[str, Field(max_length=5_000_000)]


class FileTaken(Edited):
    """What changed, in words; ``lost``: names in the file that mean nothing here."""

    changes: list[str]
    lost: list[str]


class OtioFile(PlainTextResponse):
    """A timeline. It has no registered media type; the file's ending tells what it is."""

    media_type = "application/octet-stream"


class OtiozFile(StreamingResponse):
    """A timeline with its files."""

    media_type = "application/zip"


class VttFile(PlainTextResponse):
    media_type = "text/vtt"


def _named(name: str) -> dict[str, str]:
    return {"Content-Disposition": f'attachment; filename="{name}"'}


def _spans(studio: Studio, cue: Cue) -> list[Span]:
    return ranges(Score(cue, studio.books.book), Lengths(studio.books.book, studio.facts()))


async def _taken(studio: Studio, cue: Cue, read: Read, what: str) -> FileTaken:
    if read.changes:
        told = f"{what} into {cue.name}: {'; '.join(read.changes)}"
        await studio.edit(lambda draft: draft.put("cues", cue.id, read.cue), told[:200], "import")
    return FileTaken(**edited(studio).model_dump(), changes=read.changes, lost=read.lost)


@router.get("/cues/{cue_id}/score.otio", response_class=OtioFile)
async def score_out(studio: TheStudio, cue: TheCue) -> OtioFile:
    """Returns a score for video editors. Its media have the paths they have in a bundle of the cue."""
    media = {one.id: one for one in media_of(studio.books.book, studio.library)}
    text = timeline.written(cue, studio.books.book, _spans(studio, cue), media)
    return OtioFile(text, headers=_named(f"{cue.id}.otio"))


@router.get("/cues/{cue_id}/score.otioz", response_class=OtiozFile)
async def score_with_media_out(studio: TheStudio, cue: TheCue) -> OtiozFile:
    """Returns a score with the files that it shows and plays."""
    book, library = studio.books.book, studio.library
    media = media_of(book, library)
    text = timeline.written(cue, book, _spans(studio, cue), {one.id: one for one in media})
    paths = files_of(book, library)
    pieces = otioz.written(text, {one.url: paths[one.id] for one in media if one.id in paths})
    return OtiozFile(pieces, headers=_named(f"{cue.id}.otioz"))


@router.post("/cues/{cue_id}/score.otioz")
async def score_with_media_in(studio: TheStudio, cue: TheCue, file: UploadFile) -> FileTaken:
    """Imports the times of a bundle's timeline; its media are ignored."""
    media = media_of(studio.books.book, studio.library)
    text = await asyncio.to_thread(otioz.read, file.file)
    read = await studio.read_text(file.filename or "a timeline", timeline.read, text, cue, media)
    return await _taken(studio, cue, read, "took a timeline")


@router.post("/cues/{cue_id}/score.otio")
async def score_in(studio: TheStudio, cue: TheCue, body: FileIn) -> FileTaken:
    """Imports the times of a timeline into the beats of a cue, in one step that can be undone; clips of known files
    become beats.
    """
    media = media_of(studio.books.book, studio.library)
    read = await studio.read_text("a timeline", timeline.read, body.text, cue, media)
    return await _taken(studio, cue, read, "took a timeline")


@router.get("/cues/{cue_id}/captions.vtt", response_class=VttFile)
async def captions_out(studio: TheStudio, cue: TheCue) -> VttFile:
    """Returns a cue’s captions as WebVTT."""
    return VttFile(captions.written(cue, _spans(studio, cue)), headers=_named(f"{cue.id}.vtt"))


@router.post("/cues/{cue_id}/captions.vtt")
async def captions_in(studio: TheStudio, cue: TheCue, body: FileIn) -> FileTaken:
    """Imports a file's captions into a cue, in one step that can be undone."""
    read = await studio.read_text("captions", captions.read, body.text, cue, _spans(studio, cue))
    return await _taken(studio, cue, read, "took captions")


@router.get("/gear/{gear_id}/lamps.csv", response_class=CsvText)
async def lamps_out(gear: TheGear) -> CsvText:
    """Returns the lamps of a piece of gear as CSV."""
    return CsvText(lamps.written(gear), headers=_named(f"{gear.id}.csv"))


@router.post("/gear/{gear_id}/lamps.csv")
async def lamps_in(studio: TheStudio, gear: TheGear, body: FileIn) -> Edited:
    """Imports the lamps of a table, in one step that can be undone; other lamps stay."""
    if gear.kind != "lights":
        raise Refused(409, f"{gear.name or gear.id} has no lamps.", "Import the table at lamps.")
    read = await studio.read_text("lamps", lamps.read, body.text, gear)
    await studio.edit(lambda draft: draft.put("gear", gear.id, read), origin="import")
    return edited(studio)


class LedgerTaken(Shape):
    """How many calls were imported, how many were there already, and which lines were refused, with the reason."""

    taken: int
    known: int
    refused: list[str]


MOST_REFUSED = 50


@router.post("/ledger/in")
async def ledger_in(studio: TheStudio, file: UploadFile) -> LedgerTaken:
    """Imports past calls, as CloudEvents lines. They are only remembered: nothing fires, and no channel hears of it."""
    refused: list[str] = []
    counts = [0, 0]
    waiting: list[Any] = []

    async def write() -> None:
        taken = await studio.writer.do(lambda connection: taken_in(connection, waiting))
        counts[0] += taken
        counts[1] += len(waiting) - taken
        waiting.clear()

    rest, number, size = b"", 0, 0
    async for chunk in chunks_of(file):
        size += len(chunk)
        if size > MOST_LEDGER:
            raise Refused(
                413, f"The file is larger than {MOST_LEDGER // 1_000_000} MB.", "Split it into several files."
            )
        *lines, rest = (rest + chunk).split(b"\n")
        if len(rest) > MOST_LINE:
            raise Refused(
                422,
                f"Line {number + len(lines) + 1} is longer than {MOST_LINE:,} bytes.",
                "This file has no calls in it.",
            )
        for line in lines:
            number += 1
            _event(line, number, waiting, refused)
        if len(waiting) >= AT_ONCE:
            await write()
    _event(rest, number + 1, waiting, refused)
    if waiting:
        await write()
    return LedgerTaken(taken=counts[0], known=counts[1], refused=refused)


def _event(line: bytes, number: int, waiting: list[Any], refused: list[str]) -> None:
    if not line.strip():
        return
    try:
        waiting.append(event_of(line))
    except ValueError as error:
        if len(refused) < MOST_REFUSED:
            refused.append(f"line {number}: {error}")
