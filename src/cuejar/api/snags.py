"""Snags: what can't work in the book or is risky; their fixes, one by one or all safe ones."""

from __future__ import annotations

from typing import Any

from fastapi import APIRouter

from cuejar.api.book import Edited, edited
from cuejar.api.errors import Refused
from cuejar.api.need import TheStudio
from cuejar.api.shapes import Shape
from cuejar.core.book.book import Book
from cuejar.core.snags.context import Snag
from cuejar.core.snags.mends import Mend, hidden, mend_of, mended
from cuejar.core.snags.snags import snags
from cuejar.live.drivers.overlay import topic
from cuejar.store.draft import Draft
from cuejar.studio import Studio

router = APIRouter(prefix="/api", tags=["snags"])


class MendOut(Shape):
    """New values of the fields of a beat (of the cue itself if ``beat`` is empty); ``safe``: it keeps what was
    intended; ``add``: beats to add.
    """

    beat: str
    fields: dict[str, Any]
    safe: bool
    add: list[dict[str, Any]]


class SnagOut(Shape):
    """Something wrong (``error``) or risky (``warning``) in a cue, with its fix; ``hidden`` is why it was hidden."""

    check: str
    grade: str
    cue: str
    beat: str
    what: str
    mend: str
    key: str
    near: list[str]
    change: MendOut | None
    hidden: str | None


def _pages(studio: Studio) -> dict[str, int]:
    return {overlay.id: len(studio.hub.pages(topic(overlay.id))) for overlay in studio.books.book.overlays}


def _found(studio: Studio, book: Book) -> list[tuple[Snag, Mend | None, str | None]]:
    view = studio.runner.view
    by_id = {cue.id: cue for cue in book.cues}
    found = snags(book, studio.facts(), _pages(studio), view.catalogues, view.rest_values(), studio.listening.wrong())
    return [(snag, mend_of(snag, by_id[snag.cue]), hidden(snag, by_id[snag.cue])) for snag in found]


def snags_of(studio: Studio, book: Book) -> list[SnagOut]:
    """Returns the snags of a book, given what is known of media, pages and gear."""
    return [
        SnagOut(
            **{**snag._asdict(), "near": list(snag.near)},
            change=MendOut(**mend._asdict()) if mend is not None else None,
            hidden=why,
        )
        for snag, mend, why in _found(studio, book)
    ]


@router.get("/snags")
async def all_snags(studio: TheStudio) -> list[SnagOut]:
    """Lists everything in the book that can’t work or is risky."""
    return snags_of(studio, studio.books.book)


class MendIn(Shape):
    """A snag by its check, cue and beat; none: all that have a safe fix and aren't hidden."""

    check: str | None = None
    cue: str = ""
    beat: str = ""


@router.post("/snags/mend")
async def mend(studio: TheStudio, body: MendIn) -> Edited:
    """Fixes one snag, or all that have a safe fix, in one step that can be undone."""
    wanted = (body.check, body.cue, body.beat)
    picked = [
        (snag, mend)
        for snag, mend, why in _found(studio, studio.books.book)
        if mend is not None
        and ((snag.check, snag.cue, snag.beat) == wanted if body.check is not None else mend.safe and why is None)
    ]
    if not picked:
        raise Refused(409, "Nothing here can be fixed automatically.", "Open the cue and fix what it says.")

    def fix(draft: Draft) -> None:
        for snag, change in picked:
            if (cue := draft.part("cues", snag.cue)) is not None:
                draft.put("cues", snag.cue, mended(cue, change))

    what = f"fixed {len(picked)} snags" if len(picked) > 1 else f"fixed: {picked[0][0].what}"
    await studio.edit(fix, what[:200])
    return edited(studio, what)
