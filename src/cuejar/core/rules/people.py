"""What the streamer says of single viewers: who is blocked, who is exempt, who is read by a voice of their own.

Each is named by their id, or by their name as it is written, in any case and width. A viewer named both ways is meant
by their id: *clerk* for ``v-owl`` counts, although *owlpost* is listed with *pip*.
"""

from __future__ import annotations

from collections.abc import Container, Iterable, Mapping
from typing import TypeVar

from cuejar.core.parts.base import JsonObject
from cuejar.core.parts.folding import folded

T = TypeVar("T")


def listed(entries: Iterable[str]) -> frozenset[str]:
    """Returns entries as they are looked up."""
    there = list(entries)
    return frozenset([*there, *map(folded, there)])


def is_listed(viewer: str, name: str, entries: Container[str]) -> bool:
    """Returns whether a viewer is among `listed` entries."""
    return viewer in entries or (bool(name) and folded(name) in entries)


def own_of(viewer: str, name: str, own: Mapping[str, T]) -> T | None:
    """Returns what is set for a viewer; None: nothing."""
    if viewer in own:
        return own[viewer]
    wanted = folded(name)
    return next((what for one, what in own.items() if wanted and folded(one) == wanted), None)


def with_viewer(data: JsonObject, viewer: str, name: str, asked: Mapping[str, bool], part: str | None) -> JsonObject:
    """Returns the book's JSON with other settings of a viewer, who is named by id from now on.

    Args:
        asked: whether they are among the house's lists (``spared``, ``shut_out``).
        part: who reads their texts; empty: whoever reads everybody's, None: as before.
    """
    house, reading = dict(data.get("house", {})), dict(data.get("reading", {}))

    def others(entries: Iterable[str]) -> list[str]:
        return [one for one in entries if one != viewer and (not name or folded(one) != folded(name))]

    for key, wanted in asked.items():
        house[key] = [*others(house.get(key, [])), *([viewer] if wanted else [])]
    if part is not None:
        own = reading.get("viewers", {})
        reading["viewers"] = {one: own[one] for one in others(own)} | ({viewer: part} if part else {})
    return {**data, "house": house, "reading": reading}
