"""Copies of the data, one a day: the database as it was, in a folder beside it. Files of the library are in none of them; they stay.

A copy is made by ``VACUUM INTO``, which other programs' reading and writing do not disturb (SQLite, "VACUUM with an INTO clause").
"""

from __future__ import annotations

import os
import re
import sqlite3
from contextlib import closing
from datetime import date, datetime
from pathlib import Path
from typing import NamedTuple

from cuejar.settings import CannotStart

FOLDER, KEPT = "copies", 14
_NAME = re.compile(r"cue-jar-(\d{4}-\d{2}-\d{2})\.sqlite")
_ASIDE = "cue-jar.before-restore-"


class Copy(NamedTuple):
    """A copy: its day, when it was made (ms since 1970), its size in bytes, what its book was changed to last, how many cues that
    has, and how many calls stand in its ledger."""

    day: str
    path: Path
    at: int
    size: int
    what: str
    cues: int
    calls: int


def make_copy(database: Path, today: date) -> Path | None:
    """Makes today's copy where there is none, and lets go of the oldest. Returns it; None where it was there.

    Raises:
        sqlite3.Error, OSError: it could not be made; nothing is left of it.
    """
    folder = database.parent / FOLDER
    to = folder / f"cue-jar-{today.isoformat()}.sqlite"
    if to.exists():
        return None
    folder.mkdir(mode=0o700, exist_ok=True)
    draft = to.with_name(f"{to.name}.new")
    draft.unlink(missing_ok=True)
    try:
        with closing(sqlite3.connect(f"file:{database}?mode=ro", uri=True, timeout=5)) as source:
            source.execute("VACUUM INTO ?", [str(draft)])
        os.chmod(draft, 0o600)
        draft.replace(to)
    finally:
        draft.unlink(missing_ok=True)
    for old in sorted(folder.glob("cue-jar-*.sqlite"))[:-KEPT]:
        if _NAME.fullmatch(old.name):
            old.unlink(missing_ok=True)
    return to


def copies(folder: Path) -> list[Copy]:
    """The copies of a data folder that can be read, the newest first."""
    found = []
    for path in sorted((folder / FOLDER).glob("cue-jar-*.sqlite"), reverse=True):
        named = _NAME.fullmatch(path.name)
        told = _told(path) if named is not None else None
        if named is not None and told is not None:
            stat = path.stat()
            found.append(Copy(named[1], path, int(stat.st_mtime * 1000), stat.st_size, *told))
    return found


def _told(path: Path) -> tuple[str, int, int] | None:
    """What the book of a copy was changed to, how many cues it has, and how many calls the ledger; None: it cannot be read."""
    query = """select what, coalesce(json_array_length(book, '$.cues'), 0) from revisions
      where id = (select cast(value as integer) from meta where key = 'book')"""
    try:
        with closing(sqlite3.connect(f"file:{path}?mode=ro&immutable=1", uri=True)) as source:
            what, cues = source.execute(query).fetchone() or ("", 0)
            calls = source.execute("select count(*) from ledger").fetchone()[0]
    except sqlite3.Error:
        return None
    return str(what), int(cues), int(calls)


def restore(database: Path, day: str) -> Path | None:
    """Puts a copy in the place of the database, which is kept aside. Nobody may have the folder open.

    Returns:
        Where the database of before is kept; None where there was none.

    Raises:
        CannotStart: there is no such copy, or it is damaged, or the disk has no room; nothing was changed.
    """
    there = {one.day: one.path for one in copies(database.parent)}
    if day not in there:
        days = ", ".join(there) or "none"
        raise CannotStart(f"There is no readable copy of {day}. Available: {days}.")
    draft = database.with_name(f"{database.name}.new")
    try:
        draft.unlink(missing_ok=True)
        with closing(sqlite3.connect(f"file:{there[day]}?mode=ro&immutable=1", uri=True)) as source:
            if source.execute("pragma integrity_check(1)").fetchone()[0] != "ok":
                raise CannotStart(f"The copy of {day} is damaged. Choose another.")
            with closing(sqlite3.connect(draft)) as target:
                source.backup(target)
        os.chmod(draft, 0o600)
        aside = _aside(database)
        draft.replace(database)
    except (OSError, sqlite3.Error) as error:
        draft.unlink(missing_ok=True)
        raise CannotStart(f"The copy of {day} could not be restored: {error}. Nothing was changed.") from error
    return aside


def _aside(database: Path) -> Path | None:
    """Moves the database away with its write-ahead log; the name says when."""
    if not database.exists():
        return None
    stem, number = f"{_ASIDE}{datetime.now():%Y%m%d-%H%M%S}", 1
    to = database.with_name(f"{stem}.sqlite")
    while to.exists():
        number += 1
        to = database.with_name(f"{stem}-{number}.sqlite")
    for ending in ("-wal", "-shm", ""):
        here = database.with_name(database.name + ending)
        if here.exists():
            here.replace(to.with_name(to.name + ending))
    return to
