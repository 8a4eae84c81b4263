"""The media library: drop files in, look at them, take them out."""

from __future__ import annotations

import asyncio
from collections.abc import AsyncIterator
from pathlib import Path
from typing import Annotated, Any

from fastapi import APIRouter, UploadFile
from fastapi.responses import FileResponse
from pydantic import Field

from cuejar.api.errors import Refused
from cuejar.api.found import Done, TheMedia, media_of
from cuejar.api.intake import CHUNK, File, entry_for, take_path
from cuejar.api.need import TheStudio
from cuejar.api.shapes import Shape
from cuejar.core.book.book import Book, MediaEntry, Trim
from cuejar.core.measures.loudness import gain_db
from cuejar.core.rules.score import Lengths, Score, ranges
from cuejar.live.messages import JobRow
from cuejar.media.convert import Plays, plays
from cuejar.media.library import shown_name
from cuejar.media.probe import NotTaken
from cuejar.platform import PATHS_BEGIN, path_in
from cuejar.store.models import MediaRow
from cuejar.studio import Studio

router = APIRouter(tags=["media"])
MOST_PATHS = 2_000


class FlashOut(Shape):
    from_s: float
    to_s: float
    flashes: float


class MediaOut(Shape):
    """A media entry with what is in its file. ``missing`` files keep their place in the book until they are back.

    ``plays``: where browsers can play it. ``lufs``, ``peak_dbtp`` as measured; ``gain_db`` is what levelling adds.
    ``flashes``: it flashes more than is safe. ``length_s`` is the file's, ``trimmed_s`` what is left of it.
    """

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
    codecs: list[str] = []
    alpha: bool = False
    plays: Plays = "everywhere"
    lufs: float | None = None
    peak_dbtp: float | None = None
    gain_db: float = 0
    flashes: list[FlashOut] = []
    trim: Trim | None = None
    trimmed_s: float = 0
    poster: str | None = None
    strip: str | None = None
    url: str | None = None
    used_by: list[str] = []


class TurnedAwayFile(Shape):
    name: str
    what: str


class Added(Shape):
    """What became of the dropped files: those now in the library, and those refused, with the reason."""

    media: list[MediaOut]
    refused: list[TurnedAwayFile]
    version: int


def users_of(book: Book) -> dict[str, list[str]]:
    """Returns the names of the cues, jars and rewards that use each media entry."""
    users: dict[str, dict[tuple[str, str], str]] = {}

    def use(media: str, kind: str, user: str, name: str) -> None:
        users.setdefault(media, {})[kind, user] = name

    for cue in book.cues:
        for file in [getattr(getattr(beat, "media", None), "file", None) for beat in cue.beats]:
            if file is not None:
                use(file, "cue", cue.id, cue.name)
    for jar in book.jars:
        for entry in jar.entries if jar.kind == "media" else ():
            use(entry.value, "jar", jar.id, jar.name or jar.id)
    for reward in book.rewards:
        if reward.picture is not None:
            use(reward.picture.media, "reward", reward.id, reward.title)
    return {media: list(those.values()) for media, those in users.items()}


def media_rows(studio: Studio) -> list[MediaOut]:
    users = users_of(studio.books.book)
    return [_out(studio, entry, users) for entry in studio.books.book.media]


def _out(studio: Studio, entry: MediaEntry, used: dict[str, list[str]]) -> MediaOut:
    row: MediaRow | None = studio.library.row(entry.file or "")
    users = used.get(entry.id, [])
    if row is None or studio.library.file(row.hash) is None:
        return MediaOut(id=entry.id, name=entry.name, missing=True, trim=entry.trim, used_by=users)
    fields: dict[str, Any] = {name: getattr(row, name) for name in MediaOut.model_fields if hasattr(row, name)}
    beside = {
        what: f"/media/{row.hash}/{what}" if studio.library.beside(row.hash, what) else None
        for what in ("poster", "strip")
    }
    trim = entry.trim or Trim()
    end = min(trim.to_s, row.length_s) if trim.to_s is not None and row.length_s else row.length_s
    return MediaOut(
        id=entry.id,
        name=entry.name,
        missing=False,
        plays=plays(row.format, list(row.codecs)),
        gain_db=gain_db(row.lufs, row.peak_dbtp, studio.books.book.house.loudness_lufs),
        trim=entry.trim,
        trimmed_s=round(max(0.0, end - trim.from_s), 3),
        url=f"/media/{row.hash}",
        used_by=users,
        **beside,
        **fields,
    )


@router.get("/api/media")
async def media(studio: TheStudio) -> list[MediaOut]:
    """Lists the media of the library."""
    return media_rows(studio)


async def chunks_of(upload: UploadFile) -> AsyncIterator[bytes]:
    while chunk := await upload.read(CHUNK):
        yield chunk


async def _added(studio: Studio, files: list[File], refused: list[TurnedAwayFile]) -> Added:
    """Puts files of the library into the book, all in one edit."""
    media: list[str] = []
    if files:
        what = f"added the file {files[0].name}" if len(files) == 1 else f"added {len(files)} files"
        media = await studio.edit(lambda draft: [entry_for(draft, file) for file in files], what)
    return _there(studio, media, refused)


def _there(studio: Studio, media: list[str], refused: list[TurnedAwayFile]) -> Added:
    rows = {row.id: row for row in media_rows(studio)}
    return Added(
        media=[rows[media_id] for media_id in dict.fromkeys(media)],
        refused=refused,
        version=studio.books.version,
    )


@router.post("/api/media", status_code=201)
async def add_media(studio: TheStudio, files: list[UploadFile]) -> Added:
    """Adds files to the library. A file that is there already isn't added twice."""

    async def take(upload: UploadFile) -> MediaRow | TurnedAwayFile:
        try:
            return await studio.library.add(chunks_of(upload), upload.filename or "a file")
        except NotTaken as error:
            return TurnedAwayFile(name=upload.filename or "a file", what=str(error))

    taken = await asyncio.gather(*(take(upload) for upload in files))
    added = [
        File(row.hash, shown_name(upload.filename or ""))
        for upload, row in zip(files, taken, strict=True)
        if isinstance(row, MediaRow)
    ]
    return await _added(studio, added, [row for row in taken if isinstance(row, TurnedAwayFile)])


class PathsIn(Shape):
    """Paths of files or folders on this computer, one a line, with or without quotes."""

    text: Annotated[str, Field(max_length=1_000_000)]


def _listed(text: str) -> tuple[list[Path], list[TurnedAwayFile]]:
    """Returns the files that a pasted list names, with those of its folders; and the lines that name nothing."""
    paths: list[Path] = []
    lost: list[TurnedAwayFile] = []
    for line in text.splitlines():
        if not line.strip() or line.startswith("#"):
            continue
        path = path_in(line)
        if path is None:
            lost.append(
                TurnedAwayFile(name=line.strip(), what=f"This is not a whole path; it should begin with {PATHS_BEGIN}.")
            )
        elif path.is_dir():
            inside = sorted(p for p in path.iterdir() if p.is_file() and not p.name.startswith("."))
            paths += inside
            if not inside:
                lost.append(TurnedAwayFile(name=str(path), what="This folder has no files."))
        elif path.is_file():
            paths.append(path)
        else:
            lost.append(TurnedAwayFile(name=str(path), what="This file doesn’t exist on this computer."))
    return paths, lost


@router.post("/api/media/paths", status_code=201)
async def add_paths(studio: TheStudio, body: PathsIn) -> Added:
    """Imports every file that a pasted list of paths names, and says which are missing."""
    paths, refused = _listed(body.text)
    if len(paths) > MOST_PATHS:
        raise Refused(422, f"These are {len(paths)} files; at most {MOST_PATHS} are taken at once.")

    async def take(path: Path) -> File | TurnedAwayFile:
        try:
            return await take_path(studio, path)
        except NotTaken as error:
            return TurnedAwayFile(name=str(path), what=str(error))

    taken = await asyncio.gather(*(take(path) for path in paths))
    refused += [one for one in taken if isinstance(one, TurnedAwayFile)]
    return await _added(studio, [one for one in taken if isinstance(one, File)], refused)


async def _becomes(studio: Studio, entry: MediaEntry, row: MediaRow, what: str) -> Added:
    """Replaces an entry's file with another one, wherever the entry is used. Undo restores the old one."""
    value = entry.model_dump(mode="json", exclude_defaults=True) | {"id": entry.id, "name": entry.name}
    value["file"] = row.hash
    if entry.trim is not None and row.length_s <= entry.trim.from_s:
        value.pop("trim", None)
    await studio.edit(lambda draft: draft.put("media", entry.id, value), what)
    return _there(studio, [entry.id], [])


@router.post("/api/media/{media_id}/replace")
async def replace_media(studio: TheStudio, entry: TheMedia, file: UploadFile) -> Added:
    """Replaces this file with another one, in every cue and jar at once."""
    try:
        row = await studio.library.add(chunks_of(file), file.filename or "a file")
    except NotTaken as error:
        raise Refused(422, str(error), "The old file stays.") from error
    old = studio.library.row(entry.file or "")
    if old is not None and old.kind != row.kind and users_of(studio.books.book).get(entry.id):
        what = f"This is a {row.kind}, and “{entry.name}” is used as a {old.kind}."
        raise Refused(422, what, f"Choose another {old.kind}. The old file stays.")
    return await _becomes(studio, entry, row, f"replaced the file {entry.name}")


@router.post("/api/media/{media_id}/convert")
async def convert_media(studio: TheStudio, entry: TheMedia) -> Added:
    """Converts a sound or clip into a form that every browser plays, replacing the old one."""
    old = studio.library.row(entry.file or "")
    if old is None or old.kind == "picture":
        raise Refused(422, "Only sounds and clips can be converted.", "Pictures play as they are.")
    try:
        row = await studio.library.convert(old.hash, entry.name)
    except NotTaken as error:
        raise Refused(422, str(error)) from error
    return await _becomes(studio, media_of(studio, entry.id), row, f"converted the file {entry.name}")


class TrimUse(Shape):
    """How a trim changes a cue that uses the file: its longest length before and after, in s; none: open."""

    cue: str
    before_s: float | None
    after_s: float | None


def _cue_s(book: Book, cue_id: str, studio: Studio) -> float | None:
    cue = next(cue for cue in book.cues if cue.id == cue_id)
    ends = [span.end.longest for span in ranges(Score(cue, book), Lengths(book, studio.facts()))]
    return None if any(end is None for end in ends) else max((end or 0 for end in ends), default=0) / 1000


@router.post("/api/media/{media_id}/trim-use")
async def trim_use(studio: TheStudio, entry: TheMedia, body: Trim) -> list[TrimUse]:
    """Returns how another trim would change the cues that use the file. Nothing is changed."""
    book = studio.books.book
    other = book.model_copy(
        update={
            "media": [e if e.id != entry.id else entry.model_copy(update={"trim": body}) for e in book.media],
        }
    )
    jars = {jar.id for jar in book.jars if any(e.value == entry.id for e in jar.entries)}
    out = []
    for cue in book.cues:
        sources = [getattr(beat, "media", None) for beat in cue.beats]
        if any(getattr(s, "file", None) == entry.id or getattr(s, "jar", None) in jars for s in sources if s):
            before, after = _cue_s(book, cue.id, studio), _cue_s(other, cue.id, studio)
            out.append(TrimUse(cue=cue.name, before_s=before, after_s=after))
    return out


@router.get("/api/jobs")
async def jobs(studio: TheStudio) -> list[JobRow]:
    """Lists conversions of media."""
    return [JobRow(**job._asdict()) for job in studio.jobs]


@router.delete("/api/jobs/{job_id}")
async def stop_job(studio: TheStudio, job_id: int) -> Done:
    """Stops a job; what it worked on stays as it was."""
    if not studio.stop_job(job_id):
        raise Refused(404, "This job has already finished.")
    return Done(what="Stopped.")


@router.delete("/api/media/{media_id}")
async def remove_media(studio: TheStudio, media_id: str, anyway: bool = False) -> dict[str, int]:
    """Removes an entry from the book, unless something uses it. The file stays for undo."""
    users = users_of(studio.books.book).get(media_id, [])
    if users and not anyway:
        what = f"“{media_id}” is used by {', '.join(users)}."
        raise Refused(409, what, "Remove it from them first, or remove it anyway.")
    await studio.edit(lambda draft: draft.remove("media", media_id))
    return {"version": studio.books.version}


@router.get("/media/{file_hash}", include_in_schema=False)
async def file(studio: TheStudio, file_hash: str) -> FileResponse:
    path, row = studio.library.file(file_hash), studio.library.row(file_hash)
    if path is None or row is None:
        raise Refused(404, "This file doesn’t exist.")
    kept = {"Cache-Control": "private, max-age=31536000, immutable", "X-Content-Type-Options": "nosniff"}
    return FileResponse(path, media_type=row.mime, headers=kept)


@router.get("/media/{file_hash}/{what}", include_in_schema=False)
async def beside(studio: TheStudio, file_hash: str, what: str) -> FileResponse:
    path = studio.library.beside(file_hash, what)
    if path is None:
        raise Refused(404, "This file has no such picture.")
    return FileResponse(path, media_type="image/png", headers={"Cache-Control": "private, max-age=31536000"})
