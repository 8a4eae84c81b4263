"""What is served first: the show and the pages, while the API is still being imported.

A page is on its way to the browser meanwhile, and after a crash what is held returns half a second earlier. Requests
for anything else wait until the API is there.
"""

from __future__ import annotations

import asyncio
import gc
from collections.abc import AsyncIterator, Callable, Sequence
from contextlib import asynccontextmanager

from starlette.applications import Starlette
from starlette.middleware import Middleware
from starlette.requests import Request
from starlette.responses import FileResponse, JSONResponse, Response
from starlette.routing import Mount, Route
from starlette.staticfiles import StaticFiles
from starlette.types import ASGIApp, Receive, Scope, Send

from cuejar.guard import Guard
from cuejar.headers import Headers
from cuejar.pads.server import PadsServer
from cuejar.settings import WEB
from cuejar.studio import Studio

NO_PAGES, FILES = frozenset({"api", "assets", "overlay"}), frozenset({"media", "speech"})
"""How addresses begin that aren't pages; and below which files lie. The pages themselves know their addresses
(``web/src/router.ts``).
"""
LISTENING_S = 2.0
"""How long the API waits for the other ports."""


def is_page(address: str) -> bool:
    """Returns whether an address is a page's, known or not: then the pages say so."""
    first, *more = address.strip("/").split("/")
    return first not in NO_PAGES and not (first in FILES and more) and "." not in (more or [first])[-1]


def index(address: str) -> Response:
    """Returns what is at an address that is neither the API's nor a file's."""
    if not is_page(address):
        return JSONResponse({"what": "Nothing is at this address.", "do": "", "problems": []}, 404)
    if not (WEB / "index.html").is_file():
        return JSONResponse({"what": "The pages haven’t been built.", "do": "Run make setup.", "problems": []}, 503)
    return FileResponse(WEB / "index.html", headers={"Cache-Control": "no-cache"})


@asynccontextmanager
async def life(studio: Studio, beside: Sequence[PadsServer]) -> AsyncIterator[None]:
    """Runs the show, and the servers of other ports."""
    await studio.start()
    for server in beside:
        server.start()
    yield
    for server in beside:
        await server.stop()
    await studio.stop()


class First:
    """The app until the whole one is there, and then that one."""

    def __init__(self, studio: Studio, port: int, beside: Sequence[PadsServer], make: Callable[[], ASGIApp]) -> None:
        """Args:
        make: imports and makes the whole app, in another thread.
        """
        self._beside, self._make = beside, make
        self._whole: asyncio.Future[ASGIApp] | None = None

        async def page(request: Request) -> Response:
            return index(request.url.path)

        @asynccontextmanager
        async def lives(_: Starlette) -> AsyncIterator[None]:
            self._whole = asyncio.get_running_loop().create_future()
            async with life(studio, ()):
                studio.watch.once("the API", self._load, self._failed)
                yield
                for server in beside:
                    await server.stop()

        assets = [Mount("/assets", StaticFiles(directory=WEB / "assets"))] if (WEB / "assets").is_dir() else []
        self._pages = Starlette(
            routes=[*assets, Route("/{path:path}", page)],
            middleware=[Middleware(Headers, port=port), Middleware(Guard, port=port, token=studio.token)],
            lifespan=lives,
        )

    async def _load(self) -> None:
        whole = await asyncio.to_thread(self._make)
        # Existing objects stay: searching them for cycles would hold everything up for a tenth of a second.
        gc.freeze()
        gc.enable()
        for server in self._beside:
            server.start()
        await asyncio.gather(*(server.listening(LISTENING_S) for server in self._beside))
        assert self._whole is not None
        self._whole.set_result(whole)

    def _failed(self, problem: str) -> None:
        assert self._whole is not None
        if not self._whole.done():
            self._whole.set_exception(RuntimeError(problem))

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] == "lifespan" or (self._whole is not None and not self._whole.done() and _is_first(scope)):
            await self._pages(scope, receive, send)
            return
        assert self._whole is not None
        whole = await asyncio.shield(self._whole)
        await whole(scope, receive, send)


def _is_first(scope: Scope) -> bool:
    """Returns whether a request is for a page or its files."""
    if scope["type"] != "http" or scope["method"] not in ("GET", "HEAD"):
        return False
    path = str(scope["path"])
    return is_page(path) or path.startswith("/assets/")
