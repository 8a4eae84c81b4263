"""Lanes: added and deleted in one step each, cues and all."""

from __future__ import annotations

from fastapi import APIRouter
from pydantic import BaseModel

from cuejar.api.book import Edited, edited
from cuejar.api.errors import Refused
from cuejar.api.need import TheStudio
from cuejar.core.book.files import book_json
from cuejar.core.parts.base import Id, Name
from cuejar.core.parts.slugs import slug

router = APIRouter(prefix="/api/lanes", tags=["lanes"])


class NewLane(BaseModel):
    name: Name


class LaneMade(Edited):
    """``lane`` is the new one's id."""

    lane: str


@router.post("", status_code=201)
async def new_lane(studio: TheStudio, body: NewLane) -> LaneMade:
    """Adds a lane behind the others. A book that had none keeps the one that it came with."""
    book = studio.books.book
    lane = slug(body.name, {one.id for one in book.all_lanes}, "lane")
    there = [one.model_dump(mode="json", exclude_defaults=True) for one in book.all_lanes]
    lanes = [*there, {"id": lane, "name": body.name}]
    await studio.books.replace({**book_json(book), "lanes": lanes}, f"added the lane {body.name}")
    await studio.book_changed()
    return LaneMade(**edited(studio).model_dump(), lane=lane)


class DeleteLane(BaseModel):
    """Where its cues go; none: it has none."""

    to: Id | None = None


@router.post("/{lane_id}/delete")
async def delete_lane(studio: TheStudio, lane_id: Id, body: DeleteLane) -> Edited:
    """Deletes a lane; its cues go to another, in the same revision."""
    book = studio.books.book
    lane = next((one for one in book.lanes if one.id == lane_id), None)
    if lane is None:
        raise Refused(404, f"There is no lane “{lane_id}”.")
    if len(book.lanes) == 1:
        raise Refused(409, "This is the only lane.", "Add another one first.")
    inside = {cue.id for cue in book.cues if book.lane_of(cue) == lane_id}
    if inside and (body.to is None or body.to == lane_id or all(one.id != body.to for one in book.lanes)):
        raise Refused(422, f"{len(inside)} cues are in {lane.name}.", "Choose the lane they go to.")
    data = book_json(book)
    lanes = [one for one in data["lanes"] if one["id"] != lane_id]
    cues = [{**cue, "lane": body.to} if cue["id"] in inside else cue for cue in data.get("cues", [])]
    await studio.books.replace({**data, "lanes": lanes, "cues": cues}, f"deleted the lane {lane.name}")
    await studio.book_changed()
    return edited(studio)
