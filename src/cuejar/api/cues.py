"""Cues as lists and the editor make them: from files, as copies, several at once; and whether a message would call one."""

from __future__ import annotations

from typing import Annotated, Any

from fastapi import APIRouter
from pydantic import Field

from cuejar.api.book import Edited, edited
from cuejar.api.errors import Refused
from cuejar.api.found import TheCue
from cuejar.api.need import TheStudio
from cuejar.api.shapes import Shape
from cuejar.api.told import CueLine, Teller
from cuejar.core.book.book import Cue
from cuejar.core.carry.differences import entry_fields
from cuejar.core.facts.happenings import MediaFacts
from cuejar.core.kinds.table import UNION_TAGS
from cuejar.core.measures.loudness import louder
from cuejar.core.parts.base import BookError, Id, JsonObject, Name, parsed
from cuejar.core.parts.callkinds import ChatCall
from cuejar.core.parts.slugs import slug
from cuejar.core.parts.steps import Volume
from cuejar.core.rules.calls import chat_matches, text_after
from cuejar.core.words.names import Names, Noticed
from cuejar.store.draft import Draft

router = APIRouter(prefix="/api/cues", tags=["cues"])


class FromMedia(Shape):
    """Media entries to start a new cue from; none makes an empty cue. ``one_of_them`` puts them into a jar to draw
    from.
    """

    media: list[str] = []
    one_of_them: bool = False
    name: Annotated[str, Field(max_length=200)] = ""


class CueOut(Shape):
    cue: Cue
    version: int


def _beat_for(facts: MediaFacts, media_id: str, beat_id: str) -> dict[str, Any]:
    beat: dict[str, Any] = {"id": beat_id, "kind": facts.kind, "media": {"file": media_id}}
    if facts.kind != "sound":
        beat["place"] = {"x": 0.3, "y": 0.3, "w": 0.4, "h": 0.4}
    return beat


@router.post("/from-media", status_code=201)
async def cue_from_media(studio: TheStudio, body: FromMedia) -> CueOut:
    """Makes a new cue that already works: natural length, in the middle, waiting its turn in the first lane."""
    facts = studio.library.facts(studio.books.book)
    names = {entry.id: entry.name for entry in studio.books.book.media}
    for media_id in body.media:
        if media_id not in facts:
            raise Refused(404, f"There is no file “{media_id}” in the library.")
    name = body.name.strip() or (names[body.media[0]] if body.media else "New cue")
    first = facts[body.media[0]] if body.media else None

    def add(draft: Draft) -> str:
        taken: set[str] = set()
        beats = []
        if body.one_of_them and first is not None:
            entries = [{"value": media_id} for media_id in body.media if facts[media_id].kind == first.kind]
            jar = {"name": name, "kind": "media", "rule": "no_repeat", "entries": entries}
            jar_id = draft.add("jars", name, jar, "jar")
            beats.append({**_beat_for(first, "", first.kind), "media": {"jar": jar_id}})
        for media_id in [] if body.one_of_them else body.media:
            beat_id = slug(facts[media_id].kind, taken)
            taken.add(beat_id)
            beats.append(_beat_for(facts[media_id], media_id, beat_id))
        return draft.add("cues", name, {"name": name, "beats": beats}, "cue")

    cue_id = await studio.edit(add, f"added the cue {name}")
    cue = next(cue for cue in studio.books.book.cues if cue.id == cue_id)
    return CueOut(cue=cue, version=studio.books.version)


@router.post("/{cue_id}/copy", status_code=201)
async def copy_cue(studio: TheStudio, found: TheCue) -> CueOut:
    """Duplicates a cue under another name, switched off and without its calls, so that nothing fires twice."""

    def copy(draft: Draft) -> str:
        taken = {cue.name for cue in draft.book.cues}
        name, number = f"{found.name} (copy)", 2
        while name in taken:
            name, number = f"{found.name} (copy {number})", number + 1
        return draft.add("cues", name, {**(draft.part("cues", found.id) or {}), "name": name[:200], "calls": []}, "cue")

    copy_id = await studio.edit(copy, f"copied the cue {found.name}")
    cue = next(cue for cue in studio.books.book.cues if cue.id == copy_id)
    return CueOut(cue=cue, version=studio.books.version)


class ManyIn(Shape):
    """Changes to several cues at once; anything not given stays as it is."""

    cues: Annotated[list[Id], Field(min_length=1)]
    on: bool | None = None
    lane: Id | None = None
    tag: Name | None = None
    untag: Name | None = None
    louder_db: Annotated[float, Field(ge=-60, le=60)] | None = Field(
        None, description="their volume goes up or down by this"
    )
    volume: Volume | None = Field(None, description="their volume, in percent of the house volume")
    remove: bool = False


def _changed(cue: JsonObject, body: ManyIn) -> JsonObject:
    tags = [tag for tag in cue.get("tags", []) if tag not in (body.tag, body.untag)]
    cue = {**cue, "tags": [*tags, body.tag] if body.tag else tags}
    for name in ("on", "lane", "volume"):
        if getattr(body, name) is not None:
            cue[name] = getattr(body, name)
    if body.louder_db is not None:
        cue["volume"] = louder(cue.get("volume"), body.louder_db)
    return cue


@router.post("/many")
async def many_cues(studio: TheStudio, body: ManyIn) -> Edited:
    """Switches, tags, moves or removes several cues in one revision, so that one undo reverts them all."""
    there = {cue.id for cue in studio.books.book.cues}
    lost = [cue for cue in body.cues if cue not in there]
    if lost:
        raise Refused(404, f"There is no cue “{lost[0]}”.", "The list has changed. Look at it again.")

    def change(draft: Draft) -> None:
        for cue_id in dict.fromkeys(body.cues):
            cue = draft.part("cues", cue_id)
            if body.remove:
                draft.remove("cues", cue_id)
            elif cue is not None:
                draft.put("cues", cue_id, _changed(cue, body))

    count = len(body.cues)
    await studio.edit(change, f"changed {count} cue{'s' if count > 1 else ''} at once")
    return edited(studio)


@router.get("/told")
def told(studio: TheStudio) -> list[CueLine]:
    """Returns every cue in words, for lists."""
    teller = Teller(studio.books.book)
    return [teller.line(cue) for cue in studio.books.book.cues]


class CueBefore(Shape):
    """An earlier state of a cue: since when (ms since 1970), what changed in it then, and the cue itself; ``now``: it
    is the current one.
    """

    version: int
    at: int
    origin: str
    undone: bool
    now: bool
    changes: list[str]
    cue: Cue


def _as_it_was(data: dict[str, Any] | None) -> Cue | None:
    """Returns an earlier state of a cue; None if it didn't exist, or was written in a form that can't be read any more."""
    try:
        return parsed(Cue, data, UNION_TAGS) if data is not None else None
    except BookError:
        return None


@router.get("/{cue_id}/history")
def history(studio: TheStudio, cue: TheCue) -> list[CueBefore]:
    """Returns the states of a cue that are kept, newest first."""
    states = [(row, state) for row, data in studio.books.of_cue(cue.id) if (state := _as_it_was(data)) is not None]
    names, noticed = Names(studio.books.book), Noticed(studio.books.book)
    told: list[CueBefore] = []
    for (row, state), (_, older) in zip(states, [*states[1:], (None, None)], strict=True):
        changes = [str(one) for one in entry_fields(older, state, names, noticed)] if older is not None else ["added"]
        is_now = state == cue and not any(one.now for one in told)
        told.append(
            CueBefore(
                version=row.id, at=row.at, origin=row.origin, undone=row.undone, now=is_now, changes=changes, cue=state
            )
        )
    return told


class MatchIn(Shape):
    calls: list[ChatCall]
    text: Annotated[str, Field(max_length=2000)]


class MatchOut(Shape):
    """Whether a chat message makes a call, and which part of it would be the viewer's text."""

    matches: bool
    text: str


@router.post("/match")
async def match(body: MatchIn) -> list[MatchOut]:
    """Would this message call the cue? Each call is tested exactly as on air."""
    return [
        MatchOut(matches=(made := chat_matches(call, body.text)), text=text_after(call, body.text) if made else "")
        for call in body.calls
    ]
