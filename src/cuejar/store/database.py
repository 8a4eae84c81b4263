"""Opens the data folder's database: SQLite in WAL mode, brought up to date by Alembic.

``synchronous=FULL``: what was acted on is on disk, even after a power cut. Every step of a migration is one
transaction, and a copy of the file is made before the first. If a file can't be read completely it is copied aside, and
its readable part goes into a new one; the rest is named.
"""

from __future__ import annotations

import sqlite3
import time
from contextlib import closing
from datetime import datetime
from pathlib import Path
from typing import NamedTuple

from sqlalchemy import Engine, create_engine, event
from sqlalchemy.exc import DatabaseError
from sqlalchemy.orm import Session, sessionmaker
from sqlalchemy.pool import NullPool

from cuejar.platform import make_private, open_private, put
from cuejar.settings import CannotStart
from cuejar.store.copies import copies
from cuejar.store.salvage import salvaged
from cuejar.store.writer import BUSY_MS

FILE = "cue-jar.sqlite"
HEAD = "0010"
"""The newest revision of the tables, as Alembic has it."""
LOCKED_S = 8.0
"""How long a start waits for another program that holds the database."""


class Database(NamedTuple):
    """``sessions`` read; the engine ``writing`` begins every transaction with the write lock. ``said``: the problems."""

    path: Path
    sessions: sessionmaker[Session]
    writing: Engine
    said: list[str]


def _pragmas(connection: object, _: object) -> None:
    cursor = connection.cursor()  # type: ignore[attr-defined]
    for pragma in ("journal_mode=WAL", "synchronous=FULL", "foreign_keys=ON", f"busy_timeout={BUSY_MS}"):
        cursor.execute(f"PRAGMA {pragma}")
    cursor.close()


def writing_engine(url: str, pooled: bool = True) -> Engine:
    """Returns an engine whose transactions begin with the write lock, and include table changes."""
    engine = create_engine(url, connect_args={"timeout": BUSY_MS / 1000}, **({} if pooled else {"poolclass": NullPool}))
    event.listen(engine, "connect", _pragmas)

    @event.listens_for(engine, "connect")
    def _by_hand(connection: sqlite3.Connection, _: object) -> None:
        connection.isolation_level = None

    @event.listens_for(engine, "begin")
    def _lock_first(connection: object) -> None:
        connection.exec_driver_sql("BEGIN IMMEDIATE")  # type: ignore[attr-defined]

    return engine


class Damaged(CannotStart):
    """The database is damaged, some of it would be lost, and there are copies: the streamer chooses. ``lost`` says
    what.
    """

    def __init__(self, path: Path, problem: str, lost: list[str]) -> None:
        self.path, self.problem, self.lost = path, problem, lost
        super().__init__(
            f"{path} is damaged ({problem}). Restore a daily copy with “cuejar restore”, or start “cuejar serve” "
            "and choose one on its page."
        )


def open_database(folder: Path, go_on: bool = False) -> Database:
    """Opens (or makes) the database of a data folder and brings its tables up to date.

    Args:
        go_on: a damaged one is rebuilt from its readable part, even if there are copies to choose from.

    Raises:
        CannotStart: another program holds it, it can't be written, or it was written by a newer Cue Jar.
        Damaged: it is damaged, and the streamer is to choose; nothing was changed.
    """
    path = folder / FILE
    url = f"sqlite:///{path}"
    said: list[str] = []
    problem = _looked_at(path)
    if problem:
        said.append(_renewed(path, problem, go_on or not copies(folder)))
    try:
        _upgrade(url, path)
    except DatabaseError as error:
        raise CannotStart(
            f"{path} cannot be opened ({error.orig}). Nothing in it was changed; see that its disk has room and can be written, "
            "then start again."
        ) from error
    for file in folder.glob(f"{FILE}*"):
        make_private(file)
    engine = create_engine(url, connect_args={"timeout": BUSY_MS / 1000})
    event.listen(engine, "connect", _pragmas)
    return Database(path, sessionmaker(engine, expire_on_commit=False), writing_engine(url), said)


def read_only(path: Path) -> sessionmaker[Session]:
    """Opens a database for reading that another process has open."""
    return sessionmaker(
        create_engine(f"sqlite:///file:{path}?mode=ro&uri=true", connect_args={"timeout": BUSY_MS / 1000})
    )


def _looked_at(path: Path) -> str:
    """Returns what is wrong with the file; empty if it can be read completely, or doesn't exist yet.

    Raises:
        CannotStart: another program holds it.
    """
    if not path.exists():
        return ""
    if path.stat().st_size == 0 and not path.with_name(f"{FILE}-wal").exists():
        return ""
    end = time.monotonic() + LOCKED_S
    while True:
        try:
            with closing(sqlite3.connect(path, timeout=0.5)) as connection:
                rows = [str(row[0]) for row in connection.execute("PRAGMA quick_check(3)")]
            return "" if rows == ["ok"] else "; ".join(rows)
        except sqlite3.DatabaseError as error:
            text = str(error)
            if "locked" not in text and "busy" not in text:
                return text
            if time.monotonic() > end:
                raise CannotStart(f"Another program is using {path}. Close it, then start again.") from error
            time.sleep(0.2)


def copied_aside(path: Path, what: str) -> Path:
    """Copies the file beside itself, byte by byte, with its write-ahead log."""
    stamp = datetime.now().strftime("%Y%m%d-%H%M%S")
    to = path.with_name(f"{path.stem}.{what}-{stamp}{path.suffix}")
    number = 1
    while to.exists():
        number += 1
        to = path.with_name(f"{path.stem}.{what}-{stamp}-{number}{path.suffix}")
    for ending in ("", "-wal"):
        here = path.with_name(path.name + ending)
        if here.exists():
            there = to.with_name(to.name + ending)
            with open_private(there, new=True, binary=True) as out:
                out.write(here.read_bytes())
    return to


def _renewed(path: Path, problem: str, go_on: bool) -> str:
    """Replaces a damaged database with a new one that has its readable part. Returns what to say about it.

    Raises:
        CannotStart: it can't be written.
        Damaged: something would be lost, and ``go_on`` doesn't permit that.
    """
    from cuejar.store import upgrading

    try:
        aside = copied_aside(path, "damaged")
        new = path.with_name(f"{path.stem}.new{path.suffix}")
        for ending in ("", "-wal", "-shm"):
            new.with_name(new.name + ending).unlink(missing_ok=True)
        upgrading.new_tables(new)
        lost = salvaged(aside, new)
        if lost and not go_on:
            for one in (aside, new):
                for ending in ("", "-wal", "-shm"):
                    one.with_name(one.name + ending).unlink(missing_ok=True)
            raise Damaged(path, problem, lost)
        for ending in ("-wal", "-shm"):
            path.with_name(path.name + ending).unlink(missing_ok=True)
        put(new, path)
    except (OSError, DatabaseError, sqlite3.Error) as error:
        raise CannotStart(
            f"{path} is damaged ({problem}), and what can be read of it could not be copied: {error}. See that its disk has "
            "room and can be written, then start again; nothing was changed."
        ) from error
    what = "; ".join(lost) if lost else "nothing is missing"
    return f"The database was damaged and was rebuilt from its readable parts: {what}. The damaged file is kept as {aside.name}."


def _upgrade(url: str, path: Path) -> None:
    """Brings the tables up to date. Raises CannotStart: a newer Cue Jar wrote them."""
    engine = writing_engine(url, pooled=False)
    with engine.connect() as connection:
        there = connection.exec_driver_sql("select 1 from sqlite_master where name = 'alembic_version'").first()
        found = connection.exec_driver_sql("select version_num from alembic_version").first() if there else None
    current = str(found[0]) if found else None
    if current == HEAD:
        return
    from cuejar.store import upgrading

    if current is not None and current not in upgrading.known():
        raise CannotStart(f"{path} was written by a newer Cue Jar. Install that version, or choose another --data.")
    upgrading.upgrade(url, path, current)
