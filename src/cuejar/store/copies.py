"""Copies of the data, one a day: snapshots of the database, in a folder beside it. They don't contain the library's
files, which stay.

A copy is made by ``VACUUM INTO``, which other programs' reading and writing don't disturb (SQLite, "VACUUM with an
INTO clause").
"""

from __future__ import annotations

import re
import sqlite3
from contextlib import closing
from datetime import date, datetime
from pathlib import Path
from typing import NamedTuple

from cuejar.platform import make_private, put, remove
from cuejar.settings import CannotStart

FOLDER, KEPT = "copies", 14
_NAME = re.compile(r"cue-jar-(\d{4}-\d{2}-\d{2})\.sqlite")
_ASIDE = "cue-jar.before-restore-"


class Copy(NamedTuple):
    """A copy: its day, its instant (ms since 1970), its size in bytes, the last change of its book, its number of cues,
    and of calls in its ledger.
    """

    day: str
    path: Path
    at: int
    size: int
    what: str
    cues: int
    calls: int


def make_copy(database: Path, today: date) -> Path | None:
    """Makes today's copy if there is none, and deletes the oldest. Returns it; None if there was one.

    Raises:
        sqlite3.Error, OSError: it couldn't be made; nothing is left of it.
    """
    folder = database.parent / FOLDER
    to = folder / f"cue-jar-{today.isoformat()}.sqlite"
    if to.exists():
        return None
    folder.mkdir(exist_ok=True)
    make_private(folder)
    draft = to.with_name(f"{to.name}.new")
    draft.unlink(missing_ok=True)
    try:
        with closing(sqlite3.connect(f"file:{database}?mode=ro", uri=True, timeout=5)) as source:
            source.execute("VACUUM INTO ?", [str(draft)])
        make_private(draft)
        put(draft, to)
    finally:
        draft.unlink(missing_ok=True)
    for old in sorted(folder.glob("cue-jar-*.sqlite"))[:-KEPT]:
        if _NAME.fullmatch(old.name):
            remove(old)
    return to


def copies(folder: Path) -> list[Copy]:
    """Returns the readable copies of a data folder, newest first."""
    found = []
    for path in sorted((folder / FOLDER).glob("cue-jar-*.sqlite"), reverse=True):
        named = _NAME.fullmatch(path.name)
        told = _told(path) if named is not None else None
        if named is not None and told is not None:
            stat = path.stat()
            found.append(Copy(named[1], path, int(stat.st_mtime * 1000), stat.st_size, *told))
    return found


def _told(path: Path) -> tuple[str, int, int] | None:
    """Returns the last change of a copy's book, its number of cues, and of calls in the ledger; None: it can't be read."""
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
    """Replaces the database with a copy, and keeps the former one. Nobody may have the folder open.

    Returns:
        The path of the former database; None if there was none.

    Raises:
        CannotStart: there is no such copy, or it is damaged, or the disk is full; nothing was changed.
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
        make_private(draft)
        aside = _aside(database)
        put(draft, database)
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
