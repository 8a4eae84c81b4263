"""Files on their way into the book, uploaded or from this computer."""

from __future__ import annotations

from collections.abc import AsyncIterator
from pathlib import Path

from cuejar.core.parts.slugs import slug
from cuejar.media.library import shown_name
from cuejar.media.probe import NotTaken
from cuejar.store.models import MediaRow
from cuejar.studio import Studio

CHUNK = 1 << 20


async def _contents(path: Path) -> AsyncIterator[bytes]:
    with path.open("rb") as file:
        while chunk := file.read(CHUNK):
            yield chunk


async def entry_for(studio: Studio, row: MediaRow, name: str) -> str:
    """Returns the id of a file's media entry; a missing one is added to the book."""
    book = studio.books.book
    known = next((entry.id for entry in book.media if entry.file == row.hash), None)
    if known is not None:
        return known
    media_id = slug(name, {entry.id for entry in book.media}, "file")
    value = {"id": media_id, "name": name, "file": row.hash}
    await studio.books.put("media", media_id, value, None, f"added the file {name}")
    return media_id


async def take_path(studio: Studio, path: Path) -> str:
    """Imports a file of this computer and returns its media entry's id.

    Raises:
        NotTaken: it was refused, and why.
    """
    try:
        row = await studio.library.add(_contents(path), path.name)
    except OSError as error:
        raise NotTaken(f"The file can’t be read: {error.strerror}.") from error
    return await entry_for(studio, row, shown_name(path.name))
