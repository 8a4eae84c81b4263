"""Files on their way into the book, uploaded or from this computer."""

from __future__ import annotations

from collections.abc import AsyncIterator
from pathlib import Path
from typing import NamedTuple

from cuejar.media.library import shown_name
from cuejar.media.probe import NotTaken
from cuejar.store.draft import Draft
from cuejar.studio import Studio

CHUNK = 1 << 20


async def _contents(path: Path) -> AsyncIterator[bytes]:
    with path.open("rb") as file:
        while chunk := file.read(CHUNK):
            yield chunk


class File(NamedTuple):
    """A file of the library that may have no entry in the book yet, and what it is called."""

    hash: str
    name: str


def entry_for(draft: Draft, file: File) -> str:
    """Returns the id of a file's media entry; a missing one is added to the book."""
    known = next((entry["id"] for entry in draft.entries("media") if entry.get("file") == file.hash), None)
    if known is not None:
        return str(known)
    return draft.add("media", file.name, {"name": file.name, "file": file.hash}, "file")


async def take_path(studio: Studio, path: Path) -> File:
    """Adds a file of this computer to the library.

    Raises:
        NotTaken: it was refused, and why.
    """
    try:
        row = await studio.library.add(_contents(path), path.name)
    except OSError as error:
        raise NotTaken(f"The file can’t be read: {error.strerror}.") from error
    return File(row.hash, shown_name(path.name))
