"""Incoming hooks, the keys of their inlets, and haptic patterns as files."""

from __future__ import annotations

from typing import Annotated

import numpy as np
from fastapi import APIRouter, Request
from fastapi.responses import JSONResponse, Response
from pydantic import Field

from cuejar.api.book import Edited, edited
from cuejar.api.errors import Refused
from cuejar.api.found import TheInlet, ThePattern
from cuejar.api.need import TheStudio
from cuejar.api.shapes import Shape
from cuejar.core.measures.haptics import Worn, fitted, from_csv, to_csv
from cuejar.core.parts.gear import HapticPattern
from cuejar.live.inlets import MOST_BYTES, NotLetIn, new_key

router = APIRouter(prefix="/api", tags=["inlets"])


def _secret(inlet_id: str) -> str:
    return f"inlet/{inlet_id}"


class TakenOut(Shape):
    """``taken``: whether any of the events was new; ``count``: how many were."""

    taken: bool
    count: int


HOOK = {
    "requestBody": {
        "required": True,
        "description": "Any JSON; or CloudEvents 1.0, one, or several as a list.",
        "content": {
            "application/json": {"schema": {}},
            "application/cloudevents+json": {"schema": {"type": "object"}},
            "application/cloudevents-batch+json": {"schema": {"type": "array", "items": {"type": "object"}}},
        },
    },
    "security": [{"inletKey": []}, {"inletSignature": []}],
}


@router.post("/in/{inlet_id}", status_code=202, response_model=TakenOut, openapi_extra=HOOK)
async def hook_in(studio: TheStudio, inlet: TheInlet, request: Request) -> JSONResponse:
    """Receives a hook. 202 if it is accepted (or came before), 401 if its signature is wrong."""
    body = b""
    async for part in request.stream():
        body += part
        if len(body) > MOST_BYTES:
            raise Refused(413, f"A hook can be at most {MOST_BYTES // 1000} kB long.")
    try:
        calls = studio.inlets.calls(inlet, studio.secrets.get(_secret(inlet.id)), request.headers, body)
    except NotLetIn as error:
        headers = {"Retry-After": str(error.wait_s)} if error.wait_s else None
        told = {"what": str(error), "do": "", "problems": []}
        return JSONResponse(told, error.status, headers)
    for call, event in calls:
        try:
            await studio.runner.post(call, event=event)
        except Exception:
            studio.inlets.forget(call, event)
            raise
    return JSONResponse({"taken": bool(calls), "count": len(calls)}, 202)


class KeyOut(Shape):
    key: str
    path: str


@router.get("/inlets/{inlet_id}/key")
async def key(studio: TheStudio, inlet: TheInlet) -> KeyOut:
    """Returns the inlet's key; empty until one is made. The pages keep it covered."""
    return KeyOut(key=studio.secrets.get(_secret(inlet.id)), path=f"/api/in/{inlet.id}")


@router.post("/inlets/{inlet_id}/key")
async def renew_key(studio: TheStudio, inlet: TheInlet) -> KeyOut:
    """Makes a key; an old one stops working."""
    studio.secrets.put(_secret(inlet.id), new_key())
    return await key(studio, inlet)


# Patterns as files


class CsvFile(Response):
    media_type = "text/csv; charset=utf-8"


@router.get("/patterns/{pattern_id}.csv", response_class=CsvFile)
async def pattern_out(pattern: ThePattern) -> CsvFile:
    """Returns a haptic pattern as CSV."""
    text = to_csv(pattern)
    name = f'attachment; filename="{pattern.id}.csv"'
    return CsvFile(text, headers={"Content-Disposition": name})


PLAY_S = 0.04


class PlayedOut(Shape):
    """A pattern as it is felt: the levels of the wearable's pads, ``every_s`` apart, after the house's limit on the
    level; of its own places while no wearable is known.
    """

    every_s: float
    frames: list[list[float]]


@router.post("/patterns/play")
async def play_pattern(studio: TheStudio, pattern: HapticPattern) -> PlayedOut:
    """Plays a haptic pattern once."""
    count = min(3000, round(pattern.length_s / PLAY_S))
    most = studio.books.book.house.haptics_level
    worn = Worn(studio.runner.view.catalogues.touches or list(pattern.places.values()))
    frames = [np.minimum(worn.felt(pattern, i * PLAY_S), most).round(3).tolist() for i in range(count)]
    return PlayedOut(every_s=PLAY_S, frames=frames)


class FitOut(Shape):
    """Which pads of the wearable play each place of a pattern, by their ids; none while no wearable is known."""

    pads: dict[str, list[str]]


@router.post("/patterns/fit")
async def fit_pattern(studio: TheStudio, pattern: HapticPattern) -> FitOut:
    """Computes how a haptic pattern is felt on a wearable."""
    pads = studio.runner.view.catalogues.touches
    fit = fitted(list(pattern.places.values()), pads)
    return FitOut(pads={place: [pads[i].id for i in felt] for place, felt in zip(pattern.places, fit, strict=True)})


class PatternIn(Shape):
    """A pattern as ``time_ms,side,x,y,size,level``."""

    name: Annotated[str, Field(min_length=1, max_length=200)]
    text: Annotated[str, Field(max_length=2_000_000)]


@router.post("/patterns", status_code=201)
async def pattern_in(studio: TheStudio, body: PatternIn) -> Edited:
    """Adds a haptic pattern from CSV."""
    try:
        pattern = await studio.read_text(body.name, from_csv, body.text, "pattern", body.name)
    except ValueError as error:
        raise Refused(
            422, f"The file can’t be read: {error}.", "It must have the columns time_ms, side, x, y, size and level."
        ) from error
    value = pattern.model_dump(mode="json", exclude_defaults=True)
    what = f"imported the pattern {body.name}"
    await studio.edit(lambda draft: draft.add("patterns", body.name, value, "pattern"), what)
    return edited(studio)
