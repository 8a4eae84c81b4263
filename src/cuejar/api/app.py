"""The server's app: routes, errors, the guard, and the built pages."""

from __future__ import annotations

from collections.abc import AsyncIterator, Sequence
from contextlib import asynccontextmanager

from fastapi import FastAPI
from fastapi.staticfiles import StaticFiles
from starlette.responses import Response

from cuejar import __version__
from cuejar.api import (
    beyond,
    book,
    building,
    carry,
    computer,
    counts,
    cues,
    errors,
    faces,
    feeds,
    files,
    gear,
    inlets,
    jars,
    lanes,
    ledger,
    live,
    media,
    nights,
    opening,
    pads,
    playbill,
    readiness,
    rehearsals,
    rewards,
    since,
    snags,
    speech,
    tickets,
    viewers,
    voice,
    winners,
)
from cuejar.api.described import described
from cuejar.api.shapes import Shape
from cuejar.first import index, life
from cuejar.guard import Guard
from cuejar.headers import Headers
from cuejar.live.messages import TaskRow, TroubleRow
from cuejar.pads.server import PadsServer
from cuejar.settings import WEB
from cuejar.studio import Studio


class TokenOut(Shape):
    """The token that a browser sends with every change, in the header ``x-cue-jar-token``."""

    token: str


class Health(Shape):
    """``ok``: every task runs and everything can be written. ``owed`` counts what the channel and the gear haven't
    confirmed yet.
    """

    ok: bool
    version: str
    book: int
    channel: str | None
    tasks: list[TaskRow]
    troubles: list[TroubleRow]
    owed: dict[str, int]


def create_app(studio: Studio | None, port: int, beside: Sequence[PadsServer] = ()) -> FastAPI:
    """Returns the app. Without a studio it can only produce its OpenAPI. The servers of other ports run as long as the app does."""

    @asynccontextmanager
    async def lives(_: FastAPI) -> AsyncIterator[None]:
        assert studio is not None
        async with life(studio, beside):
            yield

    app = FastAPI(
        title="Cue Jar",
        version=__version__,
        lifespan=lives,
        openapi_url="/api/openapi.json",
        docs_url=None,
        redoc_url=None,
        generate_unique_id_function=lambda route: f"{route.endpoint.__module__.rsplit('.', 1)[-1]}_{route.name}",
    )
    app.state.studio, app.state.beside = studio, {server.name: server for server in beside}
    app.add_middleware(Guard, port=port, token=studio.token if studio is not None else "")
    app.add_middleware(Headers, port=port)
    errors.install(app)
    plain = app.openapi
    app.openapi = lambda: described(plain(), port)  # type: ignore[method-assign]
    for part in (
        playbill,
        book,
        since,
        rewards,
        tickets,
        viewers,
        voice,
        faces,
        winners,
        building,
        carry,
        cues,
        jars,
        counts,
        lanes,
        media,
        live,
        ledger,
        feeds,
        files,
        gear,
        inlets,
        speech,
        opening,
        readiness,
        pads,
        nights,
        rehearsals,
        snags,
        computer,
        beyond,
    ):
        app.include_router(part.router)

    @app.get("/api/token", tags=["health"])
    async def token() -> TokenOut:
        """Returns the token that our own pages send with every change."""
        assert studio is not None
        return TokenOut(token=studio.token)

    @app.get("/api/health", tags=["health"])
    async def health() -> Health:
        """Returns whether Cue Jar runs, and what is owed."""
        assert studio is not None
        tasks = [TaskRow(**row._asdict()) for row in studio.watch.rows()]
        troubles = [TroubleRow(**row._asdict()) for row in studio.troubles.rows()]
        return Health(
            ok=not troubles and all(task.state == "running" for task in tasks),
            version=__version__,
            book=studio.books.version,
            channel=studio.channels.state,
            tasks=tasks,
            troubles=troubles,
            owed=studio.owed(),
        )

    if (WEB / "assets").is_dir():
        app.mount("/assets", StaticFiles(directory=WEB / "assets"))

    @app.get("/{path:path}", include_in_schema=False)
    async def page(path: str) -> Response:
        return index(f"/{path}")

    return app
