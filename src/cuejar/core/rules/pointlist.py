"""Balances of our own points as a table (CSV), exported and imported: the viewer's id, their name, their balance.

A row is matched by the id if there is one, otherwise by the name in any case; a name that two viewers have is refused.
"""

from __future__ import annotations

import csv
import io
from collections.abc import Iterable, Mapping
from typing import Literal, NamedTuple

from cuejar.core.measures.jarfiles import delimiter
from cuejar.core.parts.base import BookError, Problem
from cuejar.core.parts.folding import folded
from cuejar.core.parts.tables import table, unguarded

COLUMNS = ("viewer", "name", "points")
MOST_ROWS = 100_000
MOST_POINTS = 10**9


class Balance(NamedTuple):
    """An imported row: whose balance becomes what, or why not. ``was`` is none for an unknown viewer."""

    line: int
    viewer: str
    name: str
    held: int
    was: int | None
    what: Literal["new", "changed", "same", "refused"]
    problem: str = ""


def written(rows: Iterable[tuple[str, str, int]]) -> str:
    """Returns viewers with their names and whole points as CSV (RFC 4180)."""
    return table(COLUMNS, rows)


def read(text: str, names: Mapping[str, str], held: Mapping[str, int]) -> list[Balance]:
    """Returns what a table would change; nothing is done.

    Args:
        names: every known viewer, by id.
        held: whole points by viewer id, of those with an account.

    Raises:
        BookError: it isn't a table of points.
    """
    by_name: dict[str, list[str]] = {}
    for viewer, name in names.items():
        by_name.setdefault(folded(name), []).append(viewer)
    return [_row(line, cells, names, by_name, held) for line, cells in _table(text.removeprefix("\ufeff"))]


def _table(text: str) -> list[tuple[int, dict[str, str]]]:
    reader = csv.reader(io.StringIO(text, newline=""), delimiter=delimiter(text, COLUMNS))
    heading: list[str] = []
    rows: list[tuple[int, dict[str, str]]] = []
    try:
        for cells in reader:
            bare = [unguarded(cell.strip()) for cell in cells]
            if not any(bare):
                continue
            if not heading:
                heading = [folded(cell) for cell in bare]
                if "points" not in heading or not {"viewer", "name"} & set(heading):
                    raise BookError([Problem("line 1", "has no columns “viewer” or “name”, and “points”")])
                continue
            rows.append((reader.line_num, dict(zip(heading, bare, strict=False))))
            if len(rows) > MOST_ROWS:
                raise BookError([Problem("", f"has more than {MOST_ROWS:,} viewers")])
    except csv.Error as error:
        raise BookError([Problem(f"line {reader.line_num}", str(error))]) from error
    if not heading:
        raise BookError([Problem("", "is empty")])
    return rows


def _row(
    line: int,
    cells: Mapping[str, str],
    names: Mapping[str, str],
    by_name: Mapping[str, list[str]],
    held: Mapping[str, int],
) -> Balance:
    viewer, name, points = cells.get("viewer", ""), cells.get("name", ""), cells.get("points", "")

    def refused(why: str) -> Balance:
        return Balance(line, viewer, name, 0, None, "refused", why)

    if not viewer:
        found = by_name.get(folded(name), [])
        if len(found) != 1:
            return refused(
                "This viewer doesn’t exist."
                if not found
                else "Two viewers have that name. Use the id of the one you mean."
            )
        viewer = found[0]
    if len(viewer) > 200:
        return refused("That isn’t a viewer id.")
    bare = points.replace("\u00a0", "").replace(" ", "").removesuffix(".0").removesuffix(",0")
    if not bare.isdecimal() or int(bare) > MOST_POINTS:
        return refused(f"“{points}” isn’t a number of points.")
    was, now = held.get(viewer), int(bare)
    what: Literal["new", "changed", "same"] = "new" if was is None else "same" if was == now else "changed"
    return Balance(line, viewer, name or names.get(viewer, ""), now, was, what)
