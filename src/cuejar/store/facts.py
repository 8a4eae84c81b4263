"""What the engine needs to know of the files of a library."""

from __future__ import annotations

import re
from collections.abc import Mapping
from pathlib import Path
from typing import Any
from urllib.parse import quote

from sqlalchemy import create_engine, select
from sqlalchemy.orm import Session

from cuejar.core.book.book import Book, MediaEntry
from cuejar.core.facts.happenings import MediaFacts
from cuejar.store.models import MediaRow

FOLDER = "media"
"""Where a data folder's files are, by their hashes."""


def file_in(files: Path, file_hash: str) -> Path | None:
    """Returns a file by its hash; None if it doesn't exist."""
    path = files / file_hash
    return path if re.fullmatch(r"[0-9a-f]{64}", file_hash) and path.is_file() else None


def facts_of(book: Book, rows: Mapping[str, MediaRow], files: Path) -> dict[str, MediaFacts]:
    """Returns the facts of every media entry of the book with an existing file.

    Args:
        rows: what was read of the library's files, by their hashes.
    """
    known = {}
    for entry in book.media:
        row = rows.get(entry.file or "")
        if row is not None and file_in(files, row.hash) is not None:
            kind: Any = row.kind
            known[entry.id] = MediaFacts(kind, row.length_s, row.loops, flashes=_flashes(row, entry))
    return known


def facts_in(database: Path, book: Book) -> dict[str, MediaFacts]:
    """Returns the same, from the database of a data folder that a Cue Jar may have open; it is only read.

    Raises:
        sqlalchemy.exc.DBAPIError: it can't be read.
    """
    engine = create_engine(f"sqlite:///file:{quote(str(database.absolute()))}?mode=ro&uri=true")
    try:
        with Session(engine) as session:
            rows = {row.hash: row for row in session.scalars(select(MediaRow))}
            return facts_of(book, rows, database.parent / FOLDER)
    finally:
        engine.dispose()


def _flashes(row: MediaRow, entry: MediaEntry) -> bool:
    """Returns whether the part of a file that is left after trimming flashes too often."""
    begin, end = (entry.trim.from_s, entry.trim.to_s) if entry.trim else (0, None)
    return any(flash["to_s"] > begin and (end is None or flash["from_s"] < end) for flash in row.flashes)
