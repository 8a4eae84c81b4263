"""Lamps as a table (CSV, RFC 4180), exported and imported: where each listens, and which groups it is in.

A lamp is known by its id. Lamps missing from the table stay as they are; a missing or empty cell keeps its field.
"""

from __future__ import annotations

import csv
import io
from typing import Any

from cuejar.core.measures.jarfiles import delimiter
from cuejar.core.parts.base import BookError, JsonObject, Problem, parsed
from cuejar.core.parts.folding import folded
from cuejar.core.parts.gear import Fixture, Gear
from cuejar.core.parts.slugs import slug
from cuejar.core.parts.tables import lines_within, table, unguarded

COLUMNS = ("lamp", "name", "profile", "universe", "address", "gamma", "spared", "groups")
MOST_ROWS = 2_000
_YES = frozenset({"yes", "true", "1", "on", "x", "y"})


def written(gear: Gear) -> str:
    """Returns all lamps of a piece of gear, in order."""

    def row(lamp: Fixture) -> list[str | float]:
        groups = "|".join(group.id for group in gear.groups if lamp.id in group.fixtures)
        spared = "yes" if lamp.spared else "no"
        return [lamp.id, lamp.name, lamp.profile, lamp.universe, lamp.address or "", lamp.gamma, spared, groups]

    return table(COLUMNS, map(row, gear.fixtures))


def read(text: str, gear: Gear) -> JsonObject:
    """Returns the gear's JSON with the lamps of a table.

    Raises:
        BookError: which line is wrong, and why.
    """
    data = gear.model_dump(mode="json", by_alias=True, exclude_defaults=True)
    lamps: dict[str, JsonObject] = {lamp["id"]: dict(lamp) for lamp in data.get("fixtures", [])}
    groups: dict[str, JsonObject] = {
        group["id"]: {**group, "fixtures": list(group.get("fixtures", []))} for group in data.get("groups", [])
    }
    lines_within(text, 2 * MOST_ROWS)
    for line, cells in _rows(text.removeprefix("\ufeff")):
        lamp = _lamp(line, cells, lamps, groups)
        if "groups" in cells:
            _put(lamp, [name for name in (one.strip() for one in cells["groups"].split("|")) if name], groups, lamps)
    out = {**data, "fixtures": list(lamps.values()), "groups": list(groups.values())}
    return {key: value for key, value in out.items() if value != []}


def _rows(text: str) -> list[tuple[int, dict[str, str]]]:
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
                if not {"lamp", "name"} & set(heading):
                    raise BookError([Problem("line 1", "has no column “lamp” or “name”")])
                continue
            rows.append((reader.line_num, dict(zip(heading, bare, strict=False))))
    except csv.Error as error:
        raise BookError([Problem(f"line {reader.line_num}", str(error))]) from error
    if not heading or len(rows) > MOST_ROWS:
        raise BookError([Problem("", "is empty" if not heading else f"has more than {MOST_ROWS:,} lamps")])
    return rows


def _lamp(line: int, cells: dict[str, str], lamps: dict[str, JsonObject], groups: dict[str, JsonObject]) -> str:
    """Updates or adds a row's lamp. Returns its id."""
    name, lamp_id = cells.get("name", ""), cells.get("lamp", "")
    if not lamp_id:
        same = next((one["id"] for one in lamps.values() if folded(one.get("name", "")) == folded(name)), None)
        lamp_id = same or slug(name, {**lamps, **groups}, "lamp")
    lamp: dict[str, Any] = {**lamps.get(lamp_id, {}), "id": lamp_id}
    if name:
        lamp["name"] = name
    if cells.get("profile"):
        lamp["profile"] = cells["profile"].lower()
    for key, kind in (("universe", int), ("address", int), ("gamma", float)):
        if cells.get(key):
            try:
                lamp[key] = kind(cells[key].replace(",", "."))
            except ValueError as error:
                raise BookError([Problem(f"line {line}", f"{key}: “{cells[key]}” isn’t a number")]) from error
    if cells.get("spared"):
        lamp["spared"] = folded(cells["spared"]) in _YES
    try:
        checked = parsed(Fixture, lamp)
    except BookError as error:
        raise BookError([Problem(f"line {line}", str(problem)) for problem in error.problems]) from error
    lamps[lamp_id] = checked.model_dump(mode="json", exclude_defaults=True) | {"id": lamp_id}
    return lamp_id


def _put(lamp: str, wanted: list[str], groups: dict[str, JsonObject], lamps: dict[str, JsonObject]) -> None:
    meant = set()
    for name in wanted:
        known = next((key for key, one in groups.items() if folded(name) in (key, folded(one["name"]))), None)
        if known is None:
            known = slug(name, {**lamps, **groups}, "group")
            groups[known] = {"id": known, "name": name, "fixtures": []}
        meant.add(known)
    for key, group in groups.items():
        others = [one for one in group["fixtures"] if one != lamp]
        if key in meant and lamp not in group["fixtures"]:
            group["fixtures"].append(lamp)
        elif key not in meant:
            group["fixtures"] = others
