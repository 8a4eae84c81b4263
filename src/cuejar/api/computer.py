"""This computer: starting Cue Jar with it, and a report of a problem."""

from __future__ import annotations

import asyncio
from pathlib import Path

from fastapi import APIRouter
from fastapi.responses import Response

from cuejar import __version__
from cuejar.api.errors import Refused
from cuejar.api.need import TheStudio
from cuejar.api.readiness import looked_at
from cuejar.api.shapes import Shape
from cuejar.platform import start_with_computer, starts_with_computer
from cuejar.report import packed
from cuejar.settings import token_of
from cuejar.starting import at_login

router = APIRouter(prefix="/api/computer", tags=["computer"])


class ComputerOut(Shape):
    """This computer; ``starts``: Cue Jar starts when its user logs in. ``folder`` is the data folder, from ``~``."""

    version: str
    folder: str
    starts: bool


class StartsIn(Shape):
    starts: bool


@router.get("")
async def computer(studio: TheStudio) -> ComputerOut:
    """Returns what this computer starts by itself, and where the data is."""
    folder = str(studio.folder.resolve()).replace(str(Path.home()), "~")  # It may name the streamer.
    return ComputerOut(version=__version__, folder=folder, starts=await asyncio.to_thread(starts_with_computer))


@router.put("")
async def set_computer(studio: TheStudio, body: StartsIn) -> ComputerOut:
    """Starts Cue Jar whenever its user logs in, without a browser, or no longer."""
    command = at_login(studio.folder) if body.starts else None
    try:
        await asyncio.to_thread(start_with_computer, command)
    except OSError as error:
        raise Refused(503, f"That can’t be set on this computer: {error.strerror or error}.") from error
    return await computer(studio)


@router.get("/report.zip", response_class=Response)
async def report(studio: TheStudio) -> Response:
    """Packs what helps to find a problem: the log, this computer, and the book in numbers. Names, keys and links are
    taken out.
    """
    book = studio.books.book
    owners = [*(one.id for one in book.gear), *(one.id for one in book.inlets)]
    links = [studio.links.of(overlay.id) or "" for overlay in book.overlays]
    secrets = [token_of(studio.folder), *links, *(studio.secrets.get(owner) for owner in owners)]
    wrong = [f"{one.grade}: {one.what} {one.mend}" for one in looked_at(studio)]
    content = await asyncio.to_thread(packed, studio.settings, book, studio.sessions, secrets, wrong)
    name = "cue-jar-report.zip"
    return Response(
        content, media_type="application/zip", headers={"content-disposition": f'attachment; filename="{name}"'}
    )
