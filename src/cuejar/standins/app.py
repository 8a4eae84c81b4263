"""The stand-ins' own process: simulated gear and the simulated channel, their windows and the audience page."""

from __future__ import annotations

from pathlib import Path

from fastapi import FastAPI, HTTPException, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import FileResponse, JSONResponse
from fastapi.staticfiles import StaticFiles

from cuejar.guard import Guard
from cuejar.standins.channel import Channel, router


def standins(port: int, web: Path | None, state: Path | None = None) -> FastAPI:
    """The stand-ins' app.

    Args:
        port: where it will listen, for the guard.
        web: the folder with the built pages; None serves the wires only.
        state: a file in which the channel keeps what it knows.
    """
    app = FastAPI(title="Tinwhistle Halt, stand-ins", docs_url=None, redoc_url=None)
    app.add_middleware(Guard, port=port)
    app.state.channel = channel = Channel(state)
    app.include_router(router(channel))

    @app.exception_handler(HTTPException)
    async def refused(_: Request, error: HTTPException) -> JSONResponse:
        return JSONResponse({"what": str(error.detail), "do": "", "problems": []}, error.status_code)

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

    return app
