"""Counts: their values, and setting them by hand. Their setup is in the book."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter
from pydantic import Field

from cuejar.api.errors import Refused
from cuejar.api.need import TheStudio
from cuejar.api.shapes import Shape
from cuejar.core.facts import happenings as h
from cuejar.core.parts.base import Id

router = APIRouter(prefix="/api/counts", tags=["counts"])


class CountNow(Shape):
    """The value of a count."""

    id: str
    now: int


class SetTo(Shape):
    value: Annotated[int, Field(ge=0, le=10**9)]


@router.get("")
async def counts(studio: TheStudio) -> list[CountNow]:
    """Returns all counts with their values."""
    return [CountNow(id=name, now=now) for name, now in studio.runner.view.counts().items()]


@router.post("/{count_id}")
async def set_count(studio: TheStudio, count_id: Id, body: SetTo) -> CountNow:
    """Sets the value of a count; this calls nothing."""
    if count_id not in studio.runner.view.counts():
        raise Refused(404, "This count doesn’t exist.", "Add it on the Counts page.")
    await studio.runner.post(h.SetCount(count_id, body.value))
    return CountNow(id=count_id, now=studio.runner.view.counts()[count_id])
