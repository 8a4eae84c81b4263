"""What the pads' port serves: their page, its files, and the connection of a device. No API, no feed, no media."""

from __future__ import annotations

import asyncio
import contextlib
import json
from collections.abc import Iterable
from pathlib import Path

from starlette.applications import Starlette
from starlette.middleware import Middleware
from starlette.requests import Request
from starlette.responses import FileResponse, JSONResponse, Response
from starlette.routing import BaseRoute, Route, WebSocketRoute
from starlette.websockets import WebSocket, WebSocketDisconnect

from cuejar.guard import Guard
from cuejar.headers import Headers
from cuejar.live.hands import Hands, HandsLine
from cuejar.live.pads import Pads, PadsLine
from cuejar.live.proving import ProvenLine

PAGE = "pads.html"
BESIDE = {
    "manifest.webmanifest": "application/manifest+json",
    "sw.js": "text/javascript",
    "pads-192.png": "image/png",
    "pads-512.png": "image/png",
}
"""The files beside the page, and their types."""
MOST_MESSAGE = 4_000
PROVE_S = 5.0
"""How long a connection may take to authenticate."""


def files_of(web: Path, page: str = PAGE) -> frozenset[str]:
    """Returns the names of all built files that a page needs, in ``assets/``; those of other pages aren't among them."""
    manifest = web / ".vite" / "manifest.json"
    if not manifest.is_file():
        return frozenset()
    entries = json.loads(manifest.read_text("utf-8"))
    found: set[str] = set()
    waiting, seen = [page], set()
    while waiting:
        name = waiting.pop()
        if name in seen or name not in entries:
            continue
        seen.add(name)
        entry = entries[name]
        found.update(entry.get("css", []), entry.get("assets", []), [entry["file"]])
        waiting += entry.get("imports", []) + entry.get("dynamicImports", [])
    return frozenset(file.removeprefix("assets/") for file in found if file.startswith("assets/"))


def _nothing() -> Response:
    return JSONResponse({"what": "Nothing is at this address.", "do": "", "problems": []}, 404)


def pads_app(pads: Pads, hands: Hands, web: Path, port: int, names: Iterable[str], scheme: str = "http") -> Starlette:
    """Args:
    names: the host names under which others may connect; the first is shown.
    scheme: ``http`` or ``https``.
    """

    async def page(_: Request) -> Response:
        if not (web / PAGE).is_file():
            return JSONResponse({"what": "The pages haven’t been built.", "do": "Run make setup.", "problems": []}, 503)
        return FileResponse(web / PAGE, headers={"Cache-Control": "no-cache"})

    async def beside(request: Request) -> Response:
        name = request.url.path.removeprefix("/")
        return FileResponse(web / "pads" / name, media_type=BESIDE[name], headers={"Cache-Control": "no-cache"})

    async def feed(socket: WebSocket) -> None:
        await socket.accept()
        await _serve(socket, PadsLine(pads, _sender(socket)))

    async def pressed(socket: WebSocket) -> None:
        await socket.accept()
        line = HandsLine(hands, _sender(socket))
        try:
            await _serve(socket, line)
        finally:
            line.end()

    routes = [
        Route("/", page),
        *[Route(f"/{name}", beside) for name in BESIDE],
        WebSocketRoute("/feed", feed),
        WebSocketRoute("/hands", pressed),
    ]
    return outer_app(routes, web, PAGE, port, names, scheme)


def outer_app(routes: list[BaseRoute], web: Path, page: str, port: int, names: Iterable[str], scheme: str) -> Starlette:
    """Returns what a port serves that others may reach: these routes and the built files of one page; nothing else.

    Args:
        names: the host names under which others may connect; the first is shown.
        scheme: ``http`` or ``https``.
    """
    from cuejar.api.errors import Refused

    names, files = list(names), files_of(web, page)

    async def asset(request: Request) -> Response:
        name = request.path_params["name"]
        return FileResponse(web / "assets" / name) if name in files else _nothing()

    async def missing(_: Request, __: Exception) -> Response:
        return _nothing()

    async def refused(_: Request, error: Exception) -> Response:
        assert isinstance(error, Refused)
        return JSONResponse({"what": error.what, "do": error.do, "problems": []}, error.status)

    sockets = "wss" if scheme == "https" else "ws"
    return Starlette(
        routes=[*routes, Route("/assets/{name}", asset)],
        middleware=[
            Middleware(Headers, port=port, names=names, scheme=sockets),
            Middleware(Guard, port=port, names=names, scheme=scheme),
        ],
        exception_handlers={404: missing, 405: missing, Refused: refused},
    )


def _sender(socket: WebSocket) -> str:
    return socket.client.host if socket.client is not None else ""


async def _serve(socket: WebSocket, line: ProvenLine) -> None:
    """Serves both directions of a device's connection until one of them ends."""
    line.entry.lines.add(line)
    loop = asyncio.get_running_loop()
    ways = [asyncio.create_task(_speak(socket, line)), asyncio.create_task(_listen(socket, line))]
    late = loop.call_later(PROVE_S, lambda: line.listener.put(None) if line.device is None else None)
    try:
        await asyncio.wait(ways, return_when=asyncio.FIRST_COMPLETED)
        if ways[1].done():
            # The last message is still sent.
            line.listener.put(None)
            await asyncio.wait(ways, timeout=2)
    finally:
        late.cancel()
        for way in ways:
            way.cancel()
        with contextlib.suppress(WebSocketDisconnect, RuntimeError, ValueError):
            await asyncio.gather(*ways, return_exceptions=True)
        line.entry.lines.discard(line)
        line.entry.on_change()


async def _speak(socket: WebSocket, line: ProvenLine) -> None:
    while (text := await line.listener.line.get()) is not None:
        await socket.send_text(text)
    await socket.close(4001)


async def _listen(socket: WebSocket, line: ProvenLine) -> None:
    while True:
        message = await socket.receive()
        if message["type"] == "websocket.disconnect":
            return
        text = message.get("text") or ""
        if len(text) > MOST_MESSAGE or not await line.hear(text):
            return
