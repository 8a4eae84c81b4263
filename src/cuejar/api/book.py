"""The book in pieces: read it, put or remove a part, undo, redo. Every edit counts from the next call on."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from fastapi import APIRouter
from pydantic import BaseModel, Field

from cuejar.api.errors import Refused
from cuejar.api.need import TheStudio
from cuejar.core.book import Book, Cue, Reward
from cuejar.core.happenings import MediaFacts
from cuejar.media.library import slug
from cuejar.studio import Studio

router = APIRouter(prefix="/api", tags=["book"])
ListName = Literal["lanes", "rewards", "jars", "cues", "cast", "gear", "overlays", "media", "words"]


class BookOut(BaseModel):
    """The book with its version; an edit names the version it was made on."""

    version: int
    book: Book
    undo: int
    redo: int


class PartIn(BaseModel):
    """A part of the book as it should be from now on. ``version``: the one it was made on; none: whatever happened."""

    value: dict[str, Any]
    version: int | None = None


class Edited(BaseModel):
    version: int
    undo: int
    redo: int
    what: str = ""


def edited(studio: Studio, what: str = "") -> Edited:
    back, on = studio.books.can_step()
    return Edited(version=studio.books.version, undo=back, redo=on, what=what)


@router.get("/book")
async def get_book(studio: TheStudio) -> BookOut:
    back, on = studio.books.can_step()
    return BookOut(version=studio.books.version, book=studio.books.book, undo=back, redo=on)


@router.put("/book/house")
async def put_house(studio: TheStudio, body: PartIn) -> Edited:
    studio.books.put("house", None, body.value, body.version, "changed the house")
    await studio.book_changed()
    return edited(studio)


@router.put("/book/{kind}/{thing}")
async def put_part(studio: TheStudio, kind: ListName, thing: str, body: PartIn) -> Edited:
    studio.books.put(kind, thing, body.value, body.version)
    await studio.book_changed()
    return edited(studio)


@router.delete("/book/{kind}/{thing}")
async def delete_part(studio: TheStudio, kind: ListName, thing: str, version: int | None = None) -> Edited:
    studio.books.put(kind, thing, None, version)
    await studio.book_changed()
    return edited(studio)


@router.post("/book/undo")
async def undo(studio: TheStudio) -> Edited:
    _, what = studio.books.step(back=True)
    await studio.book_changed()
    return edited(studio, what)


@router.post("/book/redo")
async def redo(studio: TheStudio) -> Edited:
    _, what = studio.books.step(back=False)
    await studio.book_changed()
    return edited(studio, what)


class FromMedia(BaseModel):
    """Media entries that a new cue begins from; none makes an empty cue. ``one_of_them`` puts them into a jar to draw from."""

    media: list[str] = []
    one_of_them: bool = False
    name: Annotated[str, Field(max_length=200)] = ""


class CueOut(BaseModel):
    cue: Cue
    version: int


def _beat_for(facts: MediaFacts, media_id: str, beat_id: str) -> dict[str, Any]:
    beat: dict[str, Any] = {"id": beat_id, "kind": facts.kind, "media": {"file": media_id}}
    if facts.kind != "sound":
        beat["place"] = {"x": 0.3, "y": 0.3, "w": 0.4, "h": 0.4}
    return beat


@router.post("/cues/from-media", status_code=201)
async def cue_from_media(studio: TheStudio, body: FromMedia) -> CueOut:
    """A new cue that already works: natural length, in the middle, waiting its turn in the first lane."""
    facts = studio.library.facts(studio.books.book)
    names = {entry.id: entry.name for entry in studio.books.book.media}
    for media_id in body.media:
        if media_id not in facts:
            raise Refused(404, f"There is no file “{media_id}” in the library.")
    name = body.name.strip() or (names[body.media[0]] if body.media else "New cue")
    cue_id = slug(name, {cue.id for cue in studio.books.book.cues}, "cue")
    taken: set[str] = set()
    beats = []
    first = facts[body.media[0]] if body.media else None
    if body.one_of_them and first is not None:
        jar_id = slug(name, {jar.id for jar in studio.books.book.jars}, "jar")
        entries = [{"value": media_id} for media_id in body.media if facts[media_id].kind == first.kind]
        jar = {"id": jar_id, "name": name, "kind": "media", "rule": "no_repeat", "entries": entries}
        studio.books.put("jars", jar_id, jar, None, f"made the jar {name}")
        beats.append({**_beat_for(first, "", first.kind), "media": {"jar": jar_id}})
    for media_id in [] if body.one_of_them else body.media:
        beat_id = slug(facts[media_id].kind, taken)
        taken.add(beat_id)
        beats.append(_beat_for(facts[media_id], media_id, beat_id))
    value = {"id": cue_id, "name": name, "beats": beats}
    studio.books.put("cues", cue_id, value, None, f"made the cue {name}")
    await studio.book_changed()
    cue = next(cue for cue in studio.books.book.cues if cue.id == cue_id)
    return CueOut(cue=cue, version=studio.books.version)


class NewReward(BaseModel):
    title: Annotated[str, Field(min_length=1, max_length=200)]
    cost: Annotated[int, Field(ge=1, le=10_000_000)] = 300
    text: bool = False


class RewardOut(BaseModel):
    reward: Reward
    version: int


@router.post("/rewards/new", status_code=201)
async def new_reward(studio: TheStudio, body: NewReward) -> RewardOut:
    """A new reward; its id is made from its title and stays, whatever the title becomes."""
    taken = {reward.id for reward in studio.books.book.rewards}
    if any(r.title.casefold() == body.title.strip().casefold() for r in studio.books.book.rewards):
        raise Refused(
            409, f"There is a reward “{body.title}” already.", "Choose it, or give the new one another title."
        )
    reward_id = slug(body.title, taken, "reward")
    value = {"id": reward_id, "title": body.title.strip(), "cost": body.cost, "text": body.text}
    studio.books.put("rewards", reward_id, value, None, f"made the reward {body.title}")
    await studio.book_changed()
    reward = next(r for r in studio.books.book.rewards if r.id == reward_id)
    return RewardOut(reward=reward, version=studio.books.version)
