"""Overlays on other computers of the house: the address on which they are let in."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Depends, Request

from cuejar.api.errors import Refused
from cuejar.api.pads import BeyondIn, let_in
from cuejar.api.shapes import Shape
from cuejar.pads.server import PadsServer, addresses

router = APIRouter(prefix="/api/overlays-beyond", tags=["overlays"])


def _server(request: Request) -> PadsServer:
    server: PadsServer | None = request.app.state.beside.get("overlays")
    if server is None:
        raise Refused(409, "Overlays for other computers are switched off in this Cue Jar.")
    return server


TheServer = Annotated[PadsServer, Depends(_server)]


class OverlaysBeyond(Shape):
    """The network address on which other computers may show overlays (empty: none) and the ones available, whether that
    uses HTTPS, whether it is listening now, and what their links begin with.
    """

    beyond: str
    addresses: list[str]
    secure: bool
    listens: bool
    begins: str


def _out(server: PadsServer) -> OverlaysBeyond:
    return OverlaysBeyond(
        beyond=server.beyond,
        addresses=addresses(),
        secure=server.certificate is not None,
        listens=not server.beyond or server.beyond in server.listens,
        begins=server.link().rstrip("/") if server.beyond else "",
    )


@router.get("")
async def overlays_beyond(server: TheServer) -> OverlaysBeyond:
    """Returns where overlays on other computers connect."""
    return _out(server)


@router.put("")
async def set_overlays_beyond(server: TheServer, body: BeyondIn) -> OverlaysBeyond:
    """Lets other computers show overlays by one address of this computer, or by none."""
    await let_in(server, body.address)
    return _out(server)
