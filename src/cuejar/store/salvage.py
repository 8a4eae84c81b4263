"""Copies the readable part of a damaged database into a new one, table by table and row by row.

A row is read by its number. If reading a range of rows fails, its halves are tried, down to a few rows; so a damaged
page costs only what was on it.
"""

from __future__ import annotations

import sqlite3
from collections.abc import Iterator
from contextlib import closing
from pathlib import Path
from typing import NamedTuple

from cuejar.store.search import TABLE

MANY = 50
"""Roughly how many rows a page holds; used if nobody can count."""
FEW = 4
"""An unreadable range of so few rows is given up."""
WORDS = {
    "journal": "entries of the journal",
    "snapshots": "snapshots of the show",
    "nights": "nights",
    "night_parts": "pieces of nights",
    "revisions": "versions of the book",
    "ledger": "lines of the ledger",
    "notes": "notes of the ledger",
    "settlements": "settlements",
    "strikes": "strikes",
    "latches": "latches",
    "heard": "marks of events that were heard",
    "media": "files' facts",
    "links": "links",
    "meta": "marks",
}
"""What is lost with the rows of a table, in words."""


class _Range(NamedTuple):
    low: int
    high: int


def salvaged(damaged: Path, new: Path) -> list[str]:
    """Copies everything readable into the new database, whose tables exist and are empty.

    Returns:
        What couldn't be read, in words; empty if nothing is missing.
    """
    lost = []
    with closing(sqlite3.connect(damaged)) as source, closing(sqlite3.connect(new)) as target:
        source.text_factory = lambda raw: raw.decode("utf-8", "replace")
        tables = [row[0] for row in target.execute("select name from sqlite_master where type = 'table'")]
        for table in tables:
            # The index of words follows from the ledger.
            if table.startswith(("sqlite_", TABLE)) or table == "alembic_version":
                continue
            missing = _copied(source, target, table)
            if missing is None:
                lost.append(f"the {WORDS.get(table, table)} can’t be read at all")
            elif missing:
                lost.append(f"up to {missing} {WORDS.get(table, table)} can’t be read")
        target.commit()
    return lost


def _copied(source: sqlite3.Connection, target: sqlite3.Connection, table: str) -> int | None:
    """Copies a table. Returns how many rows may be missing; None: all of them."""
    wanted = [row[1] for row in target.execute(f"pragma table_info({table})")]
    try:
        there = [row[1] for row in source.execute(f"pragma table_info({table})")]
    except sqlite3.DatabaseError:
        return None
    columns = [name for name in wanted if name in there]
    if not columns:
        return 0 if there else None if _is_named(source, table) is None else 0
    names = ", ".join(f'"{name}"' for name in columns)
    into = f"insert or replace into {table} ({names}) values ({', '.join('?' * len(columns))})"
    missing = read = 0
    for rows in _read(source, table, names):
        if isinstance(rows, int):
            missing += rows
            continue
        read += len(rows)
        for row in rows:
            try:
                target.execute(into, row)
            except sqlite3.DatabaseError:
                missing += 1
    return None if missing and not read else missing


def _is_named(source: sqlite3.Connection, table: str) -> bool | None:
    """Returns whether the damaged file has this table at all; None if not even that can be read."""
    try:
        found = source.execute("select 1 from sqlite_master where name = ?", [table]).fetchone()
    except sqlite3.DatabaseError:
        return None
    return found is not None


def _read(source: sqlite3.Connection, table: str, names: str) -> Iterator[list[tuple[object, ...]] | int]:
    """Yields rows of a table in parts; a number in place of rows that may be lost."""
    keys = _keys(source, table)
    if keys:
        yield from _read_by_key(source, table, names, keys)
        return
    edge = _edge(source, table)
    if edge is None:
        return
    ranges = [edge]
    while ranges:
        low, high = ranges.pop()
        try:
            query = f"select {names} from {table} where rowid between ? and ? order by rowid"
            yield source.execute(query, [low, high]).fetchall()
        except sqlite3.DatabaseError:
            if high - low < FEW:
                yield high - low + 1
                continue
            middle = (low + high) // 2
            ranges += [_Range(middle + 1, high), _Range(low, middle)]


def _keys(source: sqlite3.Connection, table: str) -> list[str]:
    """Returns the columns of the primary key of a table whose rows have no numbers."""
    try:
        row = source.execute("select sql from sqlite_master where name = ?", [table]).fetchone()
        if row is None or "WITHOUT ROWID" not in str(row[0]).upper():
            return []
        info = source.execute(f"pragma table_info({table})").fetchall()
    except sqlite3.DatabaseError:
        return []
    return [str(column[1]) for column in sorted(info, key=lambda column: column[5]) if column[5]]


def _read_by_key(
    source: sqlite3.Connection, table: str, names: str, keys: list[str]
) -> Iterator[list[tuple[object, ...]] | int]:
    """Reads from the front up to the damage, then from the back; everything in between is lost."""
    for way in ("asc", "desc"):
        order = ", ".join(f"{key} {way}" for key in keys)
        try:
            for row in source.execute(f"select {names} from {table} order by {order}"):
                yield [row]
            return
        except sqlite3.DatabaseError:
            continue
    yield MANY


def _edge(source: sqlite3.Connection, table: str) -> _Range | None:
    """Returns the first or last row number of the table; None if it is empty."""
    try:
        low, high = source.execute(f"select min(rowid), max(rowid) from {table}").fetchone()
        return _Range(low, high) if low is not None else None
    except sqlite3.DatabaseError:
        pass
    try:
        row = source.execute("select seq from sqlite_sequence where name = ?", [table]).fetchone()
    except sqlite3.DatabaseError:
        row = None
    return _Range(1, row[0] if row else 1 << 14)
