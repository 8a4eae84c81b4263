"""The page shown instead of everything else while the database is damaged and the streamer chooses: a copy, or what can
be read.
"""

from __future__ import annotations

import asyncio
from collections.abc import Callable
from datetime import date
from importlib.resources import files
from pathlib import Path
from typing import Annotated

import pystache
from fastapi import FastAPI, Form
from fastapi.responses import HTMLResponse, JSONResponse
from starlette.requests import Request
from starlette.responses import Response

from cuejar.guard import Guard
from cuejar.headers import Headers
from cuejar.settings import CannotStart
from cuejar.store.copies import copies, restore
from cuejar.store.database import Damaged

GO_ON = "go-on"


def _page(**values: object) -> HTMLResponse:
    template = files("cuejar.api").joinpath("mending.mustache").read_text("utf-8")
    return HTMLResponse(
        pystache.Renderer(missing_tags="ignore").render(template, values), headers={"Cache-Control": "no-store"}
    )


def mending_app(folder: Path, damaged: Damaged, port: int, chosen: Callable[[bool], None]) -> FastAPI:
    """Returns the app.

    Args:
        chosen: called once the choice is carried out: with True if a copy was restored, with False if the readable part
        of the
        damaged file is to be used.
    """
    app = FastAPI(openapi_url=None, docs_url=None, redoc_url=None)
    app.add_middleware(Guard, port=port)
    app.add_middleware(Headers, port=port)

    def offered(problem: str = "") -> HTMLResponse:
        rows = [
            {
                "day": f"{date.fromisoformat(one.day):%A, %d %B %Y}",
                "value": one.day,
                "cues": one.cues,
                "calls": f"{one.calls:,}",
                "size": f"{one.size / 1e6:.1f}",
                "last": one.what,
            }
            for one in copies(folder)
        ]
        return _page(
            title="The data is damaged",
            what=f"Cue Jar can’t read all of {damaged.path.name} ({damaged.problem}).",
            problem=problem,
            copies=rows,
            lost=[f"{one[0].upper()}{one[1:]}." for one in damaged.lost],
        )

    @app.get("/api/health")
    async def health() -> JSONResponse:
        return JSONResponse({"ok": False, "what": str(damaged)}, 503)

    @app.post("/mend")
    async def mend(choice: Annotated[str, Form(max_length=20)]) -> HTMLResponse:
        done = "Everything readable was kept."
        if choice != GO_ON:
            try:
                await asyncio.to_thread(restore, damaged.path, choice)
            except CannotStart as error:
                return offered(str(error))
            done = f"Restored from the copy of {choice}."
        chosen(choice != GO_ON)
        return _page(title="Starting", again=True, done=done)

    @app.get("/mend.js")
    async def script() -> Response:
        return Response(files("cuejar.api").joinpath("mending.js").read_text("utf-8"), media_type="text/javascript")

    @app.get("/{rest:path}")
    async def anything(request: Request, rest: str) -> Response:
        if "text/html" in request.headers.get("accept", ""):
            return offered()
        return JSONResponse({"what": str(damaged), "do": "Open the page and choose.", "problems": []}, 503)

    return app
