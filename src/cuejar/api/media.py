"""The media library: drop files in, look at them, take them out."""

from __future__ import annotations

from collections.abc import AsyncIterator
from typing import Any

from fastapi import APIRouter, UploadFile
from fastapi.responses import FileResponse
from pydantic import BaseModel

from cuejar.api.errors import Refused
from cuejar.api.need import TheStudio
from cuejar.core.book import Book, MediaEntry
from cuejar.media.library import shown_name, slug
from cuejar.media.probe import NotTaken
from cuejar.store.models import MediaRow
from cuejar.studio import Studio

router = APIRouter(tags=["media"])
CHUNK = 1 << 20


class MediaOut(BaseModel):
    """A media entry with what is in its file. ``missing`` files keep their place in the book until they are back."""

    id: str
    name: str
    missing: bool
    hash: str = ""
    kind: str = ""
    format: str = ""
    size: int = 0
    length_s: float = 0
    loops: int = 0
    width: int = 0
    height: int = 0
    has_sound: bool = False
    notes: list[str] = []
    wave: list[float] = []
    poster: str | None = None
    url: str | None = None
    used_by: list[str] = []


class TurnedAwayFile(BaseModel):
    name: str
    what: str


class Added(BaseModel):
    """What became of the dropped files: those in the library now, and those that were not taken, with the reason."""

    media: list[MediaOut]
    refused: list[TurnedAwayFile]
    version: int


def used_by(book: Book, media_id: str) -> list[str]:
    """Names of the cues and jars that use a media entry."""
    names = []
    for cue in book.cues:
        files = [getattr(getattr(beat, "media", None), "file", None) for beat in cue.beats]
        if media_id in files:
            names.append(cue.name)
    for jar in book.jars:
        if jar.kind == "media" and any(entry.value == media_id for entry in jar.entries):
            names.append(jar.name or jar.id)
    return names


def _out(studio: Studio, entry: MediaEntry) -> MediaOut:
    row: MediaRow | None = studio.library.row(entry.file or "")
    users = used_by(studio.books.book, entry.id)
    if row is None or studio.library.file(row.hash) is None:
        return MediaOut(id=entry.id, name=entry.name, missing=True, used_by=users)
    fields: dict[str, Any] = {name: getattr(row, name) for name in MediaOut.model_fields if hasattr(row, name)}
    poster = f"/media/{row.hash}/poster" if studio.library.poster(row.hash) else None
    return MediaOut(
        id=entry.id, name=entry.name, missing=False, poster=poster, url=f"/media/{row.hash}", used_by=users, **fields
    )


@router.get("/api/media")
async def media(studio: TheStudio) -> list[MediaOut]:
    return [_out(studio, entry) for entry in studio.books.book.media]


async def _chunks(upload: UploadFile) -> AsyncIterator[bytes]:
    while chunk := await upload.read(CHUNK):
        yield chunk


@router.post("/api/media", status_code=201)
async def add_media(studio: TheStudio, files: list[UploadFile]) -> Added:
    """Takes files into the library. What is there already is not taken twice."""
    added: list[str] = []
    refused: list[TurnedAwayFile] = []
    for upload in files:
        name = shown_name(upload.filename or "")
        try:
            row = await studio.library.add(_chunks(upload))
        except NotTaken as error:
            refused.append(TurnedAwayFile(name=upload.filename or name, what=str(error)))
            continue
        book = studio.books.book
        entry = next((e for e in book.media if e.file == row.hash), None)
        if entry is None:
            media_id = slug(name, {e.id for e in book.media}, "file")
            value = {"id": media_id, "name": name, "file": row.hash}
            studio.books.put("media", media_id, value, None, f"added the file {name}")
            added.append(media_id)
        else:
            added.append(entry.id)
    if added:
        await studio.book_changed()
    entries = {entry.id: entry for entry in studio.books.book.media}
    return Added(
        media=[_out(studio, entries[media_id]) for media_id in dict.fromkeys(added)],
        refused=refused,
        version=studio.books.version,
    )


@router.delete("/api/media/{media_id}")
async def remove_media(studio: TheStudio, media_id: str, anyway: bool = False) -> dict[str, int]:
    """Takes an entry out of the book; guarded while something uses it. The file stays for undo."""
    users = used_by(studio.books.book, media_id)
    if users and not anyway:
        what = f"“{media_id}” is used by {', '.join(users)}."
        raise Refused(409, what, "Take it out of them first, or remove it anyway.")
    studio.books.put("media", media_id, None, None)
    await studio.book_changed()
    return {"version": studio.books.version}


@router.get("/media/{file_hash}", include_in_schema=False)
async def file(studio: TheStudio, file_hash: str) -> FileResponse:
    path, row = studio.library.file(file_hash), studio.library.row(file_hash)
    if path is None or row is None:
        raise Refused(404, "There is no such file.")
    kept = {"Cache-Control": "private, max-age=31536000, immutable", "X-Content-Type-Options": "nosniff"}
    return FileResponse(path, media_type=row.mime, headers=kept)


@router.get("/media/{file_hash}/poster", include_in_schema=False)
async def poster(studio: TheStudio, file_hash: str) -> FileResponse:
    path = studio.library.poster(file_hash)
    if path is None:
        raise Refused(404, "There is no poster of this file.")
    return FileResponse(path, media_type="image/png", headers={"Cache-Control": "private, max-age=31536000"})
