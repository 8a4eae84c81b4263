"""Jars as files: M3U8 play lists, CSV with weights, plain lists, and GIMP palettes for jars of colours.

M3U8: one path or name per line; of the lines that begin with ``#`` only ``#EXTINF:length,title`` is written, all others
are ignored. CSV: with ``,``, ``;`` or tabs between cells; columns by their headings (``value``, ``weight``, ``name``)
in any order, or value and weight. A palette (``.gpl``) has ``R G B name`` lines after its heading.
"""

from __future__ import annotations

import csv
import io
import re
from collections.abc import Sequence
from typing import NamedTuple

from cuejar.core.parts.base import BookError, Problem
from cuejar.core.parts.folding import listed
from cuejar.core.parts.tables import lines_within, table, unguarded


class Entry(NamedTuple):
    """A line of a jar's file; ``name`` is its name in a palette or a table."""

    value: str
    weight: float = 1.0
    name: str = ""


Entries = list[Entry]


def read_jar(form: str, text: str) -> Entries:
    """Returns the entries of a file with their weights, in order, without duplicates.

    Raises:
        BookError: which line is wrong, and why.
    """
    text = text.removeprefix("\ufeff")
    lines_within(text, MOST_LINES)
    readers = {"m3u8": _m3u8, "csv": _csv, "list": lambda t: [Entry(entry) for entry in listed(t)], "gpl": _gpl}
    found: dict[str, Entry] = {}
    for entry in readers[form](text):
        found.setdefault(entry.value, entry)
    return list(found.values())


def _m3u8(text: str) -> Entries:
    return [Entry(line) for line in listed(text) if not line.startswith("#")]


def delimiter(text: str, headings: Sequence[str] = ("value", "weight")) -> str:
    """Returns the delimiter of the cells: by the heading if there is one, otherwise the most common one in the first
    lines.
    """
    lines = [line for line in text.splitlines() if line.strip()][:20]
    if not lines:
        return ","
    for sign in ";\t,":
        if set(headings) & {cell.strip(' "').casefold() for cell in lines[0].split(sign)} and sign in lines[0]:
            return sign
    for sign in ";\t":
        if all(sign in line for line in lines):
            return sign
    return max(",;\t", key=lambda sign: sum(line.count(sign) for line in lines))


MOST_CELLS = 1_000
MOST_LINES = 20_000


def _csv(text: str) -> Entries:
    entries: Entries = []
    sign = delimiter(text)
    of_value, of_weight, of_name = 0, 1, MOST_CELLS
    try:
        rows = list(csv.reader(io.StringIO(text, newline=""), delimiter=sign))
    except csv.Error as error:
        raise BookError([Problem("the table", f"can’t be read ({error})")]) from error
    for number, row in enumerate(rows, 1):
        cells = [unguarded(cell.strip()) for cell in row]
        if not any(cells):
            continue
        heading = [cell.casefold() for cell in cells]
        if number == 1 and "value" in heading:
            of_value = heading.index("value")
            of_weight = heading.index("weight") if "weight" in heading else MOST_CELLS
            of_name = heading.index("name") if "name" in heading else MOST_CELLS
            continue
        told = cells[of_weight] if len(cells) > of_weight else ""
        try:
            weight = float(told.replace(",", ".")) if told else 1.0
        except ValueError as error:
            raise BookError([Problem(f"line {number}", f"“{told}” isn’t a weight")]) from error
        if not 0 <= weight <= 1_000_000:
            raise BookError([Problem(f"line {number}", f"a weight of {told} is not from 0 to 1,000,000")])
        if len(cells) > of_value and cells[of_value]:
            entries.append(Entry(cells[of_value], weight, cells[of_name] if len(cells) > of_name else ""))
    return entries


_COLOUR = re.compile(r"\s*(\d{1,3})\s+(\d{1,3})\s+(\d{1,3})(?:\s|$)")


def _gpl(text: str) -> Entries:
    rows = text.splitlines()
    if not rows or not rows[0].strip().startswith("GIMP Palette"):
        raise BookError([Problem("line 1", "a palette begins with “GIMP Palette”")])
    entries: Entries = []
    for number, row in enumerate(rows[1:], 2):
        if not row.strip() or row.lstrip().startswith(("#", "Name:", "Columns:")):
            continue
        found = _COLOUR.match(row)
        values = [int(v) for v in found.groups()] if found else []
        if len(values) != 3 or max(values) > 255:
            raise BookError(
                [Problem(f"line {number}", f"“{row.strip()}” isn’t a colour (three numbers from 0 to 255)")]
            )
        value, name = "#{:02x}{:02x}{:02x}".format(*values), row[found.end() :].strip() if found else ""
        entries.append(Entry(value, 1.0, "" if name.casefold() in (value, "untitled") else name))
    return entries


class Track(NamedTuple):
    """An entry of a play list: its length in s (-1: unknown), its title, and the path from the list to its file."""

    length_s: float
    title: str
    path: str


def write_tracks(tracks: Sequence[Track]) -> str:
    """Returns a play list with paths that players can follow."""
    rows = [
        f"#EXTINF:{round(track.length_s) if track.length_s > 0 else -1},{track.title}\n{track.path}" for track in tracks
    ]
    return "\n".join(["#EXTM3U", *rows]) + "\n"


def write_jar(form: str, name: str, entries: Sequence[Entry]) -> str:
    """Returns the entries as a file of this form, which `read_jar` reads back (M3U8, lists and palettes have no
    weights).
    """
    if form == "m3u8":
        return "\n".join(["#EXTM3U", *(entry.value for entry in entries)]) + "\n"
    if form == "csv":
        shown = 3 if any(entry.name for entry in entries) else 2
        cells = [[entry.value, f"{entry.weight:g}", entry.name][:shown] for entry in entries]
        return table(["value", "weight", "name"][:shown], cells, "\n")
    if form == "gpl":
        rows = [
            " ".join(f"{int(value[i : i + 2], 16):3d}" for i in (1, 3, 5)) + f"\t{name or value}"
            for value, _, name in entries
            if re.fullmatch(r"#[0-9a-fA-F]{6}", value)
        ]
        return "\n".join(["GIMP Palette", f"Name: {name}", "#", *rows]) + "\n"
    return "".join(f'"{value}"\n' if value[:1] in "\"'“„«‘" else f"{value}\n" for value, _, _ in entries)
