"""Sockets and the overlay's page: the desk's feed, and each overlay behind its secret link."""

from __future__ import annotations

import asyncio
import contextlib
from typing import Annotated, Any

from fastapi import APIRouter, WebSocket, WebSocketDisconnect
from fastapi.responses import FileResponse
from pydantic import ConfigDict, Field, ValidationError

from cuejar.api.errors import Refused
from cuejar.api.found import TheOverlay
from cuejar.api.need import TheStudio
from cuejar.api.shapes import Shape
from cuejar.live.desk import TOPIC
from cuejar.live.drivers.overlay import topic
from cuejar.live.hub import Hub, Listener
from cuejar.live.messages import OverlaySetUp, Pong
from cuejar.settings import WEB

router = APIRouter()


class OverlayOut(OverlaySetUp):
    """An overlay with its connected pages; its link has a route of its own."""

    pages: list[dict[str, Any]]


class Link(Shape):
    path: str


class PageSays(Shape):
    """A message from a page: that it is there, how far it lags, how much is up, its size, and whether its sound is
    blocked.
    """

    model_config = ConfigDict(extra="ignore", allow_inf_nan=False)
    t: Annotated[str, Field(max_length=20)] = ""
    sent: Annotated[float, Field(ge=-1e15, le=1e15)] | None = None
    lag_ms: Annotated[float, Field(ge=-1e9, le=1e9)] | None = None
    up: Annotated[int, Field(ge=0, le=100_000)] | None = None
    width: Annotated[int, Field(ge=0, le=100_000)] | None = None
    height: Annotated[int, Field(ge=0, le=100_000)] | None = None
    blocked: bool = False


async def _speak(socket: WebSocket, listener: Listener) -> None:
    while (text := await listener.line.get()) is not None:
        await socket.send_text(text)
    await socket.close(4001)


async def _listen(socket: WebSocket, listener: Listener, hub: Hub) -> None:
    """Reads what a page says. Anything unreadable is ignored and reaches nobody else."""
    while True:
        message = await socket.receive()
        if message["type"] == "websocket.disconnect":
            return
        try:
            told = PageSays.model_validate_json(message.get("text") or "")
        except ValidationError:
            continue
        if told.t == "ping":
            listener.put(Pong(sent=told.sent).text())
        about = told.model_dump(include={"lag_ms", "up", "width", "height", "blocked"}, exclude_unset=True)
        if about:
            listener.about.update(about)
            hub.changed()


async def _serve(socket: WebSocket, hub: Hub, listener: Listener) -> None:
    """Serves both directions of a feed until one of them ends."""
    ways = [asyncio.create_task(_speak(socket, listener)), asyncio.create_task(_listen(socket, listener, hub))]
    try:
        await asyncio.wait(ways, return_when=asyncio.FIRST_COMPLETED)
    finally:
        for way in ways:
            way.cancel()
        with contextlib.suppress(WebSocketDisconnect, RuntimeError, ValueError):
            await asyncio.gather(*ways, return_exceptions=True)
        hub.leave(listener)


@router.websocket("/api/feed")
async def desk_feed(socket: WebSocket, studio: TheStudio) -> None:
    await socket.accept()
    listener = studio.hub.join(TOPIC)
    for message in studio.desk.whole(studio.books.version):
        listener.put(message.text())
    await _serve(socket, studio.hub, listener)


@router.websocket("/overlay/{token}/feed")
async def overlay_feed(socket: WebSocket, studio: TheStudio, token: str, desk: str | None = None) -> None:
    """An overlay's feed. ``desk`` marks one of our own pages that only watches; it doesn't count as connected."""
    overlay = studio.links.overlay(studio.books.book, token)
    if overlay is None:
        await socket.close(4404)
        return
    await socket.accept()
    listener = studio.hub.join(topic(overlay.id))
    listener.looks_on = desk is not None
    studio.hub.changed()
    listener.put(studio.overlays.whole(overlay.id, studio.runner.clock.now()).text())
    await _serve(socket, studio.hub, listener)


@router.get("/overlay/{token}", include_in_schema=False)
async def overlay_page(studio: TheStudio, token: str) -> FileResponse:
    if studio.links.overlay(studio.books.book, token) is None:
        raise Refused(404, "This overlay link doesn’t exist.", "Copy the link again from the Rig page.")
    headers = {"Cache-Control": "no-store", "Referrer-Policy": "no-referrer"}
    return FileResponse(WEB / "overlay.html", headers=headers)


@router.get("/api/overlays", tags=["overlays"])
async def overlays(studio: TheStudio) -> list[OverlayOut]:
    """Lists the overlays, and the pages that are connected to each."""
    return [
        OverlayOut(**overlay.model_dump(), pages=[page.about for page in studio.hub.pages(topic(overlay.id))])
        for overlay in studio.books.book.overlays
    ]


@router.post("/api/overlays/{overlay_id}/link", tags=["overlays"])
async def uncover(studio: TheStudio, overlay: TheOverlay) -> Link:
    """Returns the overlay's secret link. A POST, so that no page of another site can have it fetched."""
    return Link(path=f"/overlay/{studio.links.of(overlay.id)}")


@router.post("/api/overlays/{overlay_id}/renew", tags=["overlays"])
async def renew(studio: TheStudio, overlay: TheOverlay) -> Link:
    """Makes a new link; the old one stops working."""
    return Link(path=f"/overlay/{await studio.links.renew(overlay.id)}")
