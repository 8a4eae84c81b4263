"""The playbill: what viewers may read of the book, as a page and as text, with a sample of each part of the cast."""

from __future__ import annotations

import asyncio
import base64
from contextlib import suppress

from fastapi import APIRouter
from fastapi.responses import HTMLResponse
from sqlalchemy import select

from cuejar.api.book import Edited, PartIn, edited
from cuejar.api.need import TheStudio
from cuejar.api.shapes import Shape
from cuejar.api.texts import MarkdownText
from cuejar.core.playbill.bill import Won, build
from cuejar.core.playbill.pages import html, markdown
from cuejar.media.face import MIME
from cuejar.media.workers import WorkFailed
from cuejar.speech.espeak import CannotSpeak
from cuejar.store.models import WinnerRow
from cuejar.studio import Studio

router = APIRouter(prefix="/api", tags=["playbill"])
SAMPLE = "Mind the gap, please."
PICTURE = 144
"""The side of a reward's picture in pixels, shown at half of it."""
MOST_WINNERS = 24
MOST_SAMPLE = 2_000_000
"""Maximum bytes of a sample; a longer one is left out."""


class TextOut(Shape):
    """A text of the playbill: its key, its default, and what it says."""

    key: str
    default: str
    said: str


class PlaybillOut(Shape):
    texts: list[TextOut]


async def _samples(studio: Studio) -> dict[str, str]:
    """Returns a sound for each part of the cast, as data URLs; None for a part whose voice is missing."""
    book, made = studio.books.book, {}
    for part in book.cast if book.playbill.samples else []:
        try:
            piece = await studio.reader.make(book, studio.reader.script(book, SAMPLE, part.id, None))
            path = studio.reader.file(piece.key)
            sound = await asyncio.to_thread(path.read_bytes) if path is not None else b""
        except (WorkFailed, CannotSpeak, OSError):
            continue
        if 0 < len(sound) <= MOST_SAMPLE:
            made[part.id] = f"data:audio/wav;base64,{base64.b64encode(sound).decode()}"
    return made


async def _pictures(studio: Studio) -> dict[str, str]:
    """Returns a picture for each reward that has one, as data URLs."""
    pictures, made = studio.reward_pictures, {}
    for reward in pictures.marks():
        for png in (await pictures.made(reward, [PICTURE])).values():
            made[reward] = f"data:image/png;base64,{base64.b64encode(png).decode()}"
    return made


def _winners(studio: Studio) -> list[Won]:
    """Returns the latest winners, if the playbill names them."""
    if not studio.books.book.playbill.winners:
        return []
    query = select(WinnerRow).where(WinnerRow.removed == 0, WinnerRow.name != "").order_by(WinnerRow.wall.desc())
    with studio.sessions() as session:
        rows = session.scalars(query.limit(MOST_WINNERS)).all()
        return [Won(row.name, row.what, _face(studio, row.viewer)) for row in rows]


def _face(studio: Studio, viewer: str) -> str:
    """Returns a viewer's picture as a data URL."""
    file = studio.faces.file_of(viewer)
    with suppress(OSError):
        if file is not None:
            return f"data:{MIME};base64,{base64.b64encode(file.read_bytes()).decode()}"
    return f"data:image/svg+xml;base64,{base64.b64encode(studio.monogram_of(viewer).encode()).decode()}"


@router.get("/playbill")
async def playbill(studio: TheStudio) -> PlaybillOut:
    """Returns every text of the playbill."""
    return PlaybillOut(texts=[TextOut(**text._asdict()) for text in build(studio.books.book).all_texts])


@router.put("/book/playbill")
async def put_playbill(studio: TheStudio, body: PartIn) -> Edited:
    """Changes the playbill: its texts, what is left out, voice samples, winners."""
    await studio.edit(lambda draft: draft.put("playbill", None, body.value), version=body.version)
    return edited(studio)


@router.get("/playbill.html", response_class=HTMLResponse)
async def page(studio: TheStudio) -> HTMLResponse:
    """Returns the playbill as one self-contained page."""
    return HTMLResponse(
        html(build(studio.books.book, await _samples(studio), await _pictures(studio), _winners(studio)))
    )


@router.get("/playbill.md", response_class=MarkdownText)
async def text(studio: TheStudio) -> MarkdownText:
    """Returns the playbill as Markdown."""
    return MarkdownText(markdown(build(studio.books.book, winners=_winners(studio))))
