"""The stand-ins' own process: simulated gear and the simulated channel, their windows and the audience page."""

from __future__ import annotations

import asyncio
import contextlib
from collections.abc import AsyncIterator
from pathlib import Path

from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import FileResponse, JSONResponse
from fastapi.staticfiles import StaticFiles
from starlette.exceptions import HTTPException

from cuejar.guard import Guard
from cuejar.headers import Headers
from cuejar.standins.broadcaster import Broadcaster
from cuejar.standins.broadcaster_wire import router as broadcaster_router
from cuejar.standins.channel import Channel, router
from cuejar.standins.halt import (
    AVATAR,
    AVATAR_NAMES,
    COAT_OUTLINES,
    COAT_PADS,
    HOOK_SECRET,
    LAMPS,
    PASSWORD,
    THINGS,
    TOGGLES,
    VOICE,
    VOICE_NAMES,
)
from cuejar.standins.hookbox import Hookbox
from cuejar.standins.hookbox import router as hook_router
from cuejar.standins.keyboard import Keyboard
from cuejar.standins.keyboard import router as keys_router
from cuejar.standins.lamps import Lamp, Lamps
from cuejar.standins.lamps import router as lamps_router
from cuejar.standins.osc_wire import OscServer, Wearable
from cuejar.standins.osc_wire import router as panel_router
from cuejar.standins.panel import Panel
from cuejar.standins.things import Yard
from cuejar.standins.things import router as things_router


def standins(
    port: int, web: Path | None, state: Path | None = None, password: str = PASSWORD, token: str = ""
) -> FastAPI:
    """Returns the stand-ins' app.

    Args:
        port: where it will listen, for the guard.
        web: the folder with the built pages; None serves the wires only.
        state: a file for the channel's state; the gear's are beside it.
        password: the broadcaster's.
        token: that of the channel and of the bridge; empty: none is needed.
    """
    panels = [
        Panel("avatar", dict(AVATAR), AVATAR_NAMES),
        Panel("voice", dict(VOICE), VOICE_NAMES),
        Wearable(COAT_PADS, COAT_OUTLINES),
    ]
    osc = OscServer(panels)
    lamps = Lamps([Lamp(*row) for row in LAMPS])

    @contextlib.asynccontextmanager
    async def wires(_: FastAPI) -> AsyncIterator[None]:
        """Opens the wires over UDP: the port of the web pages for OSC, the next one for the lamps."""
        loop = asyncio.get_running_loop()
        heard = await loop.create_datagram_endpoint(lambda: osc, local_addr=("127.0.0.1", port))
        lit = await loop.create_datagram_endpoint(lambda: lamps, local_addr=("127.0.0.1", port + 1))
        yield
        heard[0].close()
        lit[0].close()

    app = FastAPI(title="Tinwhistle Halt, stand-ins", docs_url=None, redoc_url=None, lifespan=wires)
    app.add_middleware(Guard, port=port)
    app.add_middleware(Headers, port=port)
    app.state.channel = channel = Channel(state.with_suffix(".sqlite") if state else None, token)
    app.include_router(router(channel))
    app.state.broadcaster = broadcaster = Broadcaster(state.with_name("broadcaster.json") if state else None)
    app.include_router(broadcaster_router(broadcaster, password))
    app.state.panels, app.state.lamps = {panel.kind: panel for panel in panels}, lamps
    broadcaster.avatar = lambda: {**panels[0].values(), "face": (panels[0].faces() or [""])[-1]}
    for panel in panels:
        app.include_router(panel_router(panel, osc))
    app.include_router(lamps_router(lamps))
    app.state.keyboard = Keyboard(TOGGLES, state.with_name("keys.json") if state else None)
    app.state.hookbox = Hookbox(HOOK_SECRET, state.with_name("hooks.json") if state else None)
    app.state.yard = Yard(THINGS, state.with_name("things.json") if state else None)
    app.include_router(things_router(app.state.yard, token))
    app.include_router(keys_router(app.state.keyboard))
    app.include_router(hook_router(app.state.hookbox))

    @app.exception_handler(HTTPException)
    async def refused(_: Request, error: HTTPException) -> JSONResponse:
        body = {"what": str(error.detail), "do": "", "problems": []}
        return JSONResponse(body, error.status_code, dict(error.headers or {}))

    @app.exception_handler(RequestValidationError)
    async def wrong(_: Request, error: RequestValidationError) -> JSONResponse:
        problems = [{"path": ".".join(str(s) for s in e["loc"][1:]), "what": e["msg"]} for e in error.errors()]
        what = "; ".join(f"{p['path']}: {p['what']}" for p in problems)
        return JSONResponse({"what": what, "do": "", "problems": problems}, 422)

    if web is not None and web.is_dir():
        app.mount("/assets", StaticFiles(directory=web / "assets"))

        @app.get("/", include_in_schema=False)
        async def audience() -> FileResponse:
            return FileResponse(web / "audience.html")

        @app.get("/window/{gear}", include_in_schema=False)
        async def window(gear: str) -> FileResponse:
            return FileResponse(web / "gear.html")

    return app
