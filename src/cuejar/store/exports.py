"""The ledger as lines: CSV and CloudEvents, produced by the database itself, so that nothing else waits for them.

One query, read a few hundred rows at a time; memory stays constant however long the ledger is.
"""

from __future__ import annotations

import sqlite3
from collections.abc import Iterator, Sequence
from contextlib import closing
from pathlib import Path
from typing import Any

from cuejar.core.parts.tables import FORMULA, SPACES
from cuejar.store.ledger import Names, Where

ROWS = 300
CSV_COLUMNS = (
    "at",
    "call",
    "kind",
    "viewer",
    "viewer_name",
    "text",
    "reward",
    "cost",
    "cue",
    "verdict",
    "reason",
    "detail",
    "run",
    "outcome",
)
OUTSIDE = frozenset({"call", "viewer", "viewer_name", "text", "reward", "detail"})
"""The columns with text from outside."""


def _text(value: str) -> str:
    """Returns a text as an SQL literal."""
    return "'" + value.replace("'", "''") + "'"


def _column(column: str, names: Names | None) -> str:
    """Returns a column, with other names of viewers if wanted."""
    if names is None:
        return f"l.{column}"
    others = {"viewer": "other_id(l.viewer)", "viewer_name": "other_name(l.viewer, l.viewer_name)"}
    texts = dict.fromkeys(("text", "detail", "trace", "call"), f"other_text(l.{column})")
    return {**others, **texts}.get(column, f"l.{column}")


def _cell(column: str, names: Names | None) -> str:
    """Returns the content of a cell that no spreadsheet takes for a formula."""
    there = _column(column, names)
    if column not in OUTSIDE:
        return there
    # Only texts that begin with a sign or a space are checked closely.
    near = f"instr({_text(FORMULA + SPACES)}, substr({there}, 1, 1)) and {there} != ''"
    close = f"instr({_text(FORMULA)}, substr(ltrim({there}, {_text(SPACES)}), 1, 1)) > 0"
    return f"case when {near} and {close} then char(39) || {there} else {there} end"


_WHEN = "strftime('%Y-%m-%dT%H:%M:%f', l.wall / 1000.0, 'unixepoch') || '+00:00'"
_NOTES = """(select json_group_array(json(said)) from (
  select json_patch(json_object('what', n.what, 'at', n.at + l.wall - l.at), {data}) as said from notes n
  where n.run = l.run and l.run != '' order by n.at))"""


def csv_lines(file: Path, where: Where) -> Iterator[str]:
    """Yields the ledger as CSV, oldest first, in pieces."""
    cells = [
        _WHEN if name == "at" else f"l.{name}" if name == "cost" else _cell(name, where.names) for name in CSV_COLUMNS
    ]
    # ``%w`` doubles the quotes in a cell (RFC 4180).
    pattern = ",".join("%s" if name == "at" else "%d" if name == "cost" else '"%w"' for name in CSV_COLUMNS)
    yield ",".join(CSV_COLUMNS) + "\r\n"
    yield from _streamed(file, f"select printf('{pattern}', {', '.join(cells)})", where, "\r\n")


def event_lines(file: Path, where: Where, source: str) -> Iterator[str]:
    """Yields the ledger as CloudEvents 1.0, one per line, oldest first, in pieces. ``trace`` is in its stored form
    (`core.traces`).
    """
    names = ("id", "call", "kind", "viewer", "viewer_name", "text", "reward", "cost", "cue", "verdict", "reason", "detail",
             "run", "outcome")  # fmt: skip
    data = ", ".join(f"'{name}', {_column(name, where.names)}" for name in names)
    notes = _NOTES.format(data="n.data" if where.names is None else "other_text(n.data)")
    trace = _column("trace", where.names)
    line = f"""json_object('specversion', '1.0', 'id', 'ledger-' || l.id, 'source', {_text(source)}, 'type', 'cue-jar.call',
      'time', {_WHEN}, 'datacontenttype', 'application/json',
      'data', json_object({data}, 'at', l.wall, 'trace', json({trace}), 'notes', json({notes})))"""
    yield from _streamed(file, f"select {line}", where, "\n")


def _streamed(file: Path, select: str, where: Where, end: str) -> Iterator[str]:
    connection = sqlite3.connect(f"file:{file}?mode=ro", uri=True, check_same_thread=False)
    with closing(connection):
        names = where.names
        if names is not None:
            connection.create_function("other_id", 1, names.id, deterministic=True)
            connection.create_function("other_name", 2, names.name, deterministic=True)
            connection.create_function("other_text", 1, names.text, deterministic=True)
        cursor = connection.execute(
            f"{select} from {where.source} where {where.sql} order by {where.key}", where.values
        )
        cursor.arraysize = ROWS
        while rows := _some(cursor):
            yield end.join(row[0] for row in rows) + end


def _some(cursor: sqlite3.Cursor) -> Sequence[tuple[Any, ...]]:
    return cursor.fetchmany()
