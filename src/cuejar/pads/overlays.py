"""What the overlays' port serves on the house's network: an overlay behind its secret link, with its files; nothing else."""

from __future__ import annotations

from collections.abc import Iterable
from pathlib import Path

from starlette.applications import Starlette
from starlette.requests import Request
from starlette.responses import Response
from starlette.routing import Route, WebSocketRoute
from starlette.types import ASGIApp
from starlette.websockets import WebSocket

from cuejar.core.rules.pairing import Known
from cuejar.pads.app import outer_app
from cuejar.pads.server import Certificate, PadsServer
from cuejar.studio import Studio

PAGE = "overlay.html"


def overlays_app(studio: Studio, web: Path, port: int, names: Iterable[str], scheme: str = "http") -> Starlette:
    """Args: as `outer_app`."""
    # Not before the show runs: the API takes its time.
    from cuejar.api.faces import face_response
    from cuejar.api.feeds import overlay_feed, overlay_page
    from cuejar.api.media import file as media_file
    from cuejar.api.speech import sound

    async def page(request: Request) -> Response:
        return await overlay_page(studio, request.path_params["token"])

    async def media(request: Request) -> Response:
        return await media_file(studio, request.path_params["file_hash"])

    async def face(request: Request) -> Response:
        return face_response(studio, request.path_params["viewer"])

    async def speech(request: Request) -> Response:
        return await sound(studio, request.path_params["key"])

    async def feed(socket: WebSocket) -> None:
        await overlay_feed(socket, studio, socket.path_params["token"])

    routes = [
        Route("/overlay/{token}", page),
        WebSocketRoute("/overlay/{token}/feed", feed),
        Route("/media/{file_hash}", media),
        Route("/faces/{viewer:path}", face),
        Route("/speech/{key}.wav", speech),
    ]
    return outer_app(routes, web, PAGE, port, names, scheme)


class OverlaysServer(PadsServer):
    """Serves overlays to other computers, on the address that the streamer chose; here the main port has them."""

    key, name, title = "overlays_address", "overlays", "Overlays"
    mend = "Other computers can’t show the overlay; look at the Rig page."
    here = False

    def __init__(self, studio: Studio, port: int, certificate: Certificate | None = None) -> None:
        super().__init__(studio, port, certificate)
        self.known = Known()
        studio.beyond = lambda: self.beyond

    async def listen_beyond(self, address: str) -> None:
        """Lets others connect on an address of this computer, or on none; the desk says so. Raises CannotWrite."""
        await super().listen_beyond(address)
        self._studio.hub.changed()

    def app(self, names: list[str], scheme: str, web: Path) -> ASGIApp:
        return overlays_app(self._studio, web, self.port, names, scheme)
