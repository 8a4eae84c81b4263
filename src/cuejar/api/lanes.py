"""Adds and deletes lanes in one step each, cues included."""

from __future__ import annotations

from fastapi import APIRouter

from cuejar.api.book import Edited, edited
from cuejar.api.need import TheStudio
from cuejar.api.shapes import Shape
from cuejar.core.book.lanes import with_lane, without_lane
from cuejar.core.parts.base import Id, Name
from cuejar.store.draft import Draft

router = APIRouter(prefix="/api/lanes", tags=["lanes"])


class NewLane(Shape):
    name: Name


class LaneMade(Edited):
    """``lane`` is the new one's id."""

    lane: str


@router.post("", status_code=201)
async def new_lane(studio: TheStudio, body: NewLane) -> LaneMade:
    """Adds a lane after the others. A book without lanes keeps its implied one."""

    def add(draft: Draft) -> str:
        data, lane = with_lane(draft.book, body.name)
        draft.become(data)
        return lane

    lane = await studio.edit(add, f"added the lane {body.name}")
    return LaneMade(**edited(studio).model_dump(), lane=lane)


class DeleteLane(Shape):
    """Where the lane's cues move; none: it has none."""

    to: Id | None = None


@router.post("/{lane_id}/delete")
async def delete_lane(studio: TheStudio, lane_id: Id, body: DeleteLane) -> Edited:
    """Deletes a lane; its cues move to another one in the same revision."""
    names = {one.id: one.name for one in studio.books.book.lanes}
    what = f"deleted the lane {names.get(lane_id, lane_id)}"
    await studio.edit(lambda draft: draft.become(without_lane(draft.book, lane_id, body.to)), what)
    return edited(studio)
