"""What changed in the book and its media since a page last looked: only that travels, however large they are."""

from __future__ import annotations

import asyncio
import hashlib
from collections import OrderedDict
from typing import Annotated, Any
from weakref import WeakKeyDictionary

from fastapi import APIRouter, Query

from cuejar.api.media import MediaOut, media_rows
from cuejar.api.need import TheStudio
from cuejar.api.shapes import Shape
from cuejar.core.book.book import LISTS, Book
from cuejar.core.carry.differences import PARTS
from cuejar.core.facts.gate import Version
from cuejar.core.parts.base import JsonObject
from cuejar.store.books import changes
from cuejar.studio import Studio

router = APIRouter(prefix="/api", tags=["book"])
MOST_LOOKS = 8
"""How many states of the media are remembered: that many pages may each have looked at another one."""
Digests = dict[str, bytes]
_looks: WeakKeyDictionary[Studio, OrderedDict[str, Digests]] = WeakKeyDictionary()


class MediaSince(Shape):
    """Rows that are new or changed; ``order`` has the ids of all. Without a known ``mark``, all are new."""

    mark: str
    rows: list[MediaOut]
    order: list[str]


class Since(Shape):
    """What changed since a version: single parts, entries that are new or changed, and the ids of every list in which
    entries came, went, or moved. ``book`` is the whole, if that version is unknown. ``undoes`` and ``redoes`` say what
    the next step would be.
    """

    version: int
    undo: int
    redo: int
    undoes: str
    redoes: str
    book: Book | None = None
    parts: dict[str, Any] = {}
    entries: dict[str, list[dict[str, Any]]] = {}
    order: dict[str, list[str]] = {}
    media: MediaSince


@router.get("/book/since/{version}")
async def since(studio: TheStudio, version: Version, media: Annotated[str, Query(max_length=64)] = "") -> Since:
    """Args:
    media: the mark of the media last seen.
    """
    books = studio.books
    back, on = books.can_step()
    undoes, redoes = (books.step_told(one) for one in (True, False))
    before, book, data = books.known(version), books.book, books.data
    found = Since(
        version=books.version,
        undo=back,
        redo=on,
        undoes=undoes,
        redoes=redoes,
        media=await _media_since(studio, media),
    )
    if before is None:
        return found.model_copy(update={"book": book})
    return found.model_copy(update=_changed(before, data, book))


def _changed(before: JsonObject, data: JsonObject, book: Book) -> dict[str, Any]:
    """Returns what changed, by the names of `Since`."""
    parts: dict[str, Any] = {}
    entries: dict[str, list[dict[str, Any]]] = {}
    named = set(changes(before, data))
    for part in PARTS:
        if part in named:
            parts[part] = getattr(book, part).model_dump(mode="json")
    order: dict[str, list[str]] = {}
    for kind in LISTS:
        new = [entry for entry in getattr(book, kind) if f"{kind}/{entry.id}" in named]
        if new:
            entries[kind] = [entry.model_dump(mode="json") for entry in new]
        ids = [entry["id"] for entry in data.get(kind, [])]
        if ids != [entry["id"] for entry in before.get(kind, [])]:
            order[kind] = ids
    return {"parts": parts, "entries": entries, "order": order}


async def _media_since(studio: Studio, mark: str) -> MediaSince:
    rows = media_rows(studio)
    digests = await asyncio.to_thread(_digests, rows)
    looks = _looks.setdefault(studio, OrderedDict())
    known = looks.get(mark, {})
    now = hashlib.blake2b(b"".join(digests.values()), digest_size=16).hexdigest()
    looks[now] = digests
    looks.move_to_end(now)
    while len(looks) > MOST_LOOKS:
        looks.popitem(last=False)
    return MediaSince(
        mark=now, rows=[row for row in rows if known.get(row.id) != digests[row.id]], order=[row.id for row in rows]
    )


def _digests(rows: list[MediaOut]) -> Digests:
    return {
        row.id: hashlib.blake2b(row.model_dump_json().encode("utf-8", "replace"), digest_size=16).digest()
        for row in rows
    }
