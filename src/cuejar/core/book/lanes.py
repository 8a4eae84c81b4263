"""Adds a lane to a book or deletes one, moving its cues."""

from __future__ import annotations

from cuejar.core.book.book import Book
from cuejar.core.book.files import book_json
from cuejar.core.parts.base import BookError, JsonObject, Problem
from cuejar.core.parts.slugs import slug


def with_lane(book: Book, name: str) -> tuple[JsonObject, str]:
    """Returns the book as JSON with a new lane after the others, and its id. A book without lanes keeps its implied
    one.
    """
    lane = slug(name, {one.id for one in book.all_lanes}, "lane")
    there = [one.model_dump(mode="json", exclude_defaults=True) for one in book.all_lanes]
    return {**book_json(book), "lanes": [*there, {"id": lane, "name": name}]}, lane


def without_lane(book: Book, lane_id: str, to: str | None) -> JsonObject:
    """Returns the book as JSON without a lane; its cues are moved to another one.

    Args:
        to: where they go; None: it has no cues.

    Raises:
        BookError: there is no such lane, it is the only one, or its cues have no lane to go to.
    """
    lane = next((one for one in book.lanes if one.id == lane_id), None)
    if lane is None:
        raise BookError([Problem("lanes", f"there is no lane “{lane_id}”")])
    left = [one.id for one in book.lanes if one.id != lane_id]
    if not left:
        raise BookError([Problem("lanes", f"{lane.name} is the only lane; add another one first")])
    inside = {cue.id for cue in book.cues if book.lane_of(cue) == lane_id}
    if inside and to not in left:
        count = f"{len(inside)} cue{'s are' if len(inside) > 1 else ' is'}"
        raise BookError([Problem("lanes", f"{count} in {lane.name}; choose the lane to move to")])
    data = book_json(book)
    cues = [{**cue, "lane": to} if cue["id"] in inside else cue for cue in data.get("cues", [])]
    return {**data, "lanes": [one for one in data["lanes"] if one["id"] != lane_id], "cues": cues}
