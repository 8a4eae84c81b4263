"""Jars as files: M3U8 play lists, CSV with weights, plain lists, and GIMP palettes for jars of colours.

M3U8: one path or name a line, ``#`` lines are comments except ``#EXTM3U``. CSV: ``value,weight`` with or without that
heading. A palette (``.gpl``) has ``R G B name`` lines after its heading.
"""

from __future__ import annotations

import csv
import io
import re
from collections.abc import Sequence

from cuejar.core.base import BookError, Problem
from cuejar.core.plain import listed

Entries = list[tuple[str, float]]
FORMS = ("m3u8", "csv", "list", "gpl")


def read_jar(form: str, text: str) -> Entries:
    """The entries of a file with their weights, in order, without doubles.

    Raises:
        BookError: which line is wrong, and why.
    """
    text = text.removeprefix("\ufeff")
    readers = {"m3u8": _m3u8, "csv": _csv, "list": lambda t: [(entry, 1.0) for entry in listed(t)], "gpl": _gpl}
    found: dict[str, float] = {}
    for value, weight in readers[form](text):
        found.setdefault(value, weight)
    return list(found.items())


def _m3u8(text: str) -> Entries:
    return [(line, 1.0) for line in listed(text) if not line.startswith("#")]


def _csv(text: str) -> Entries:
    entries: Entries = []
    for number, row in enumerate(csv.reader(io.StringIO(text)), 1):
        cells = [cell.strip() for cell in row]
        if not any(cells) or (number == 1 and [c.casefold() for c in cells[:2]] in (["value"], ["value", "weight"])):
            continue
        try:
            weight = float(cells[1].replace(",", ".")) if len(cells) > 1 and cells[1] else 1.0
        except ValueError as error:
            raise BookError([Problem(f"line {number}", f"“{cells[1]}” is no weight")]) from error
        if not 0 <= weight <= 1_000_000:
            raise BookError([Problem(f"line {number}", f"a weight of {cells[1]} is not from 0 to 1,000,000")])
        if cells[0]:
            entries.append((cells[0], weight))
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
            raise BookError([Problem(f"line {number}", f"“{row.strip()}” is no colour (three numbers from 0 to 255)")])
        entries.append(("#{:02x}{:02x}{:02x}".format(*values), 1.0))
    return entries


def write_jar(form: str, name: str, entries: Sequence[tuple[str, float]]) -> str:
    """The entries as a file of this form; what `read_jar` reads back (M3U8, lists and palettes keep no weights)."""
    if form == "m3u8":
        return "\n".join(["#EXTM3U", *(value for value, _ in entries)]) + "\n"
    if form == "csv":
        out = io.StringIO()
        writer = csv.writer(out, lineterminator="\n")
        writer.writerow(["value", "weight"])
        writer.writerows([value, f"{weight:g}"] for value, weight in entries)
        return out.getvalue()
    if form == "gpl":
        rows = [
            " ".join(f"{int(value[i : i + 2], 16):3d}" for i in (1, 3, 5)) + f"\t{value}"
            for value, _ in entries
            if re.fullmatch(r"#[0-9a-fA-F]{6}", value)
        ]
        return "\n".join(["GIMP Palette", f"Name: {name}", "#", *rows]) + "\n"
    return "".join(f'"{value}"\n' if value[:1] in "\"'“„«‘" else f"{value}\n" for value, _ in entries)
