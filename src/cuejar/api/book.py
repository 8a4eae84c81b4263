"""The book in parts: read it, put or remove a part, undo, redo. Every edit counts from the next call on."""

from __future__ import annotations

from typing import Annotated, Any

from fastapi import APIRouter
from pydantic import AfterValidator

from cuejar.api.need import TheStudio
from cuejar.api.shapes import Shape
from cuejar.core.book.book import Book, ListName
from cuejar.core.facts.gate import Version, sound_json
from cuejar.studio import Studio

router = APIRouter(prefix="/api", tags=["book"])


class BookOut(Shape):
    """The book with its version; an edit names the version it was based on. ``undoes`` and ``redoes`` say what the next
    step would be.
    """

    version: int
    book: Book
    undo: int
    redo: int
    undoes: str
    redoes: str


class PartIn(Shape):
    """A part of the book as it should be from now on. ``version`` is the one it was based on; without one, the edit
    always applies.
    """

    value: Annotated[dict[str, Any], AfterValidator(lambda value: sound_json(value, 500_000, 30))]
    version: Version | None = None


class Edited(Shape):
    version: int
    undo: int
    redo: int
    what: str = ""


def edited(studio: Studio, what: str = "") -> Edited:
    back, on = studio.books.can_step()
    return Edited(version=studio.books.version, undo=back, redo=on, what=what)


@router.get("/book")
async def get_book(studio: TheStudio) -> BookOut:
    """Returns the whole book with its version."""
    back, on = studio.books.can_step()
    undoes, redoes = (studio.books.step_told(one) for one in (True, False))
    return BookOut(
        version=studio.books.version, book=studio.books.book, undo=back, redo=on, undoes=undoes, redoes=redoes
    )


@router.put("/book/house")
async def put_house(studio: TheStudio, body: PartIn) -> Edited:
    """Changes the settings of the house."""
    await studio.edit(lambda draft: draft.put("house", None, body.value), version=body.version)
    return edited(studio)


@router.put("/book/reading")
async def put_reading(studio: TheStudio, body: PartIn) -> Edited:
    """Changes how texts are read aloud."""
    await studio.edit(lambda draft: draft.put("reading", None, body.value), version=body.version)
    return edited(studio)


@router.put("/book/points")
async def put_points(studio: TheStudio, body: PartIn) -> Edited:
    """Changes Cue Jar’s own points."""
    await studio.edit(lambda draft: draft.put("points", None, body.value), version=body.version)
    return edited(studio)


@router.put("/book/{kind}/{thing}")
async def put_part(studio: TheStudio, kind: ListName, thing: str, body: PartIn) -> Edited:
    """Adds an entry to the book, or replaces it."""
    await studio.edit(lambda draft: draft.put(kind, thing, body.value), version=body.version)
    return edited(studio)


@router.delete("/book/{kind}/{thing}")
async def delete_part(studio: TheStudio, kind: ListName, thing: str, version: Version | None = None) -> Edited:
    """Removes an entry from the book."""
    await studio.edit(lambda draft: draft.remove(kind, thing), version=version)
    return edited(studio)


@router.post("/book/undo")
async def undo(studio: TheStudio) -> Edited:
    """Undoes the last edit."""
    return edited(studio, await studio.step(back=True))


@router.post("/book/redo")
async def redo(studio: TheStudio) -> Edited:
    """Does the last undone edit again."""
    return edited(studio, await studio.step(back=False))
