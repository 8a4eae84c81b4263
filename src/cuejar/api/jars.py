"""Jars: their odds, a thousand draws to look at, files in and out."""

from __future__ import annotations

import asyncio
import random
from collections import Counter
from collections.abc import Mapping
from typing import Annotated, Any, Literal

from fastapi import APIRouter
from fastapi.responses import PlainTextResponse
from pydantic import Field

from cuejar.api.book import Edited, edited
from cuejar.api.errors import Refused
from cuejar.api.found import TheJar
from cuejar.api.intake import File, entry_for, take_path
from cuejar.api.need import TheStudio
from cuejar.api.shapes import Shape
from cuejar.core.book.book import Book, Jar
from cuejar.core.engine.resolve import Jars
from cuejar.core.facts.gate import MOST_NAME, Version
from cuejar.core.measures.colour import as_hex, read_colour
from cuejar.core.measures.jarfiles import Entry, Track, read_jar, write_jar, write_tracks
from cuejar.core.parts.folding import folded
from cuejar.core.rules.draw import JarState, draw, long_run, mean_until_all, seen_after, shares
from cuejar.core.rules.score import Lengths
from cuejar.media.library import shown_name
from cuejar.media.probe import NotTaken
from cuejar.platform import path_in
from cuejar.store.draft import Draft
from cuejar.studio import Studio

router = APIRouter(prefix="/api/jars", tags=["jars"])
Form = Literal["m3u8", "csv", "list", "gpl"]
MOST_SEEN = 40
MOST_CURVES = 300
"""Of how many viewers each is listed, with how soon all are drawn."""


class EntryOdds(Shape):
    """One entry: its share of the next draw and of many; ``can`` says whether it can be drawn now. Of a viewer: their
    name, and how often they were drawn.
    """

    value: str
    name: str = ""
    times: int = 0
    weight: float
    can: bool
    share: float
    long_run: float


class Odds(Shape):
    """``seen``: the chance of having seen each entry (in order) after 1, 2, … draws, if it is known; ``mean_until_all``
    may be unknown. ``total``: how many there are, if not all are listed.
    """

    entries: list[EntryOdds]
    total: int | None = None
    seen: list[list[float]]
    mean_until_all: float | None


class Drawn(Shape):
    value: str
    times: int
    expected: float


class DrawIn(Shape):
    count: Annotated[int, Field(ge=1, le=100_000)] = 1000


class ImportIn(Shape):
    form: Form
    text: Annotated[str, Field(max_length=2_000_000)]
    version: Version | None = None


class Imported(Edited):
    """What the file put into the jar, and which of its lines name something unknown."""

    taken: int
    missing: list[str]


def _can(studio: Studio, jar: Jar) -> list[tuple[str, float]]:
    lengths = Lengths(studio.books.book, studio.facts())
    jars = Jars()
    jars.folders = dict(studio.runner.view.folders)
    return jars.can_be_drawn(studio.books.book, lengths, jar.id)


@router.get("/{jar_id}/odds")
async def odds(studio: TheStudio, jar: TheJar) -> Odds:
    """Returns the exact odds of each entry of a jar."""
    if jar.kind == "viewers":
        return _viewers_odds(studio, jar)
    can = _can(studio, jar)
    weights = [weight for _, weight in can]
    once, often = shares(weights), long_run(weights, jar.rule)
    there = {value: (once[i], often[i]) for i, (value, _) in enumerate(can)}
    listed_too = [(entry.value, entry.weight) for entry in jar.entries]
    rows = listed_too + [(value, weight) for value, weight in can if value not in {v for v, _ in listed_too}]
    entries = [
        EntryOdds(value=v, weight=w, can=v in there, share=there.get(v, (0, 0))[0], long_run=there.get(v, (0, 0))[1])
        for v, w in rows
    ]
    curve = seen_after(weights, jar.rule, MOST_SEEN)
    at = {value: i for i, (value, _) in enumerate(can)}
    seen = [[row[at[v]] if v in at else 0.0 for v, _ in rows] for row in curve]
    return Odds(entries=entries, seen=seen, mean_until_all=mean_until_all(weights, jar.rule))


def _viewers_odds(studio: Studio, jar: Jar) -> Odds:
    """Returns the odds of whoever could be drawn now. In a bag of viewers each has one turn, whatever their weights."""
    there = studio.runner.view.in_the_draw(jar.id)
    weights = [1.0 if jar.rule == "bag" else one.weight for one in there]
    often = long_run(weights, jar.rule)
    entries = [
        EntryOdds(
            value=one.viewer.id,
            name=one.viewer.name,
            times=one.times,
            weight=one.weight,
            can=one.share > 0,
            share=one.share,
            long_run=often[i],
        )
        for i, one in enumerate(there)
    ]
    if len(there) > MOST_CURVES:
        return Odds(entries=entries[:MOST_CURVES], seen=[], mean_until_all=None, total=len(there))
    # Who comes first in a bag follows from the weights; when all had their turn doesn't.
    uneven = jar.rule == "bag" and len({one.weight for one in there}) > 1
    seen = [] if uneven else seen_after(weights, jar.rule, MOST_SEEN)
    return Odds(entries=entries, seen=seen, mean_until_all=mean_until_all(weights, jar.rule), total=len(there))


@router.post("/{jar_id}/draw")
async def try_draws(studio: TheStudio, jar: TheJar, body: DrawIn) -> list[Drawn]:
    """Draws many times to look at the result; the jar remembers nothing of it."""
    if jar.kind == "viewers":
        raise Refused(409, "Viewers are only drawn by a cue.", "Try the cue.")
    can = _can(studio, jar)
    if not can:
        raise Refused(409, "Nothing in this jar can be drawn.", "Add an entry first.")
    state, stream = JarState(), random.Random().random
    times = Counter(draw(can, jar.rule, state, stream)[0] for _ in range(body.count))
    often = long_run([weight for _, weight in can], jar.rule)
    return [Drawn(value=v, times=times[v], expected=body.count * often[i]) for i, (v, _) in enumerate(can)]


@router.get("/{jar_id}/file", response_class=PlainTextResponse)
async def export(studio: TheStudio, jar: TheJar, form: Form) -> PlainTextResponse:
    """Returns a jar as a file."""
    if form == "gpl" and jar.kind != "colour":
        raise Refused(
            404, f"{jar.name or jar.id} has no colours, so it has no palette.", "Export it as CSV or as a list."
        )
    names = {entry.id: entry.name for entry in studio.books.book.media} if jar.kind == "media" else {}
    text = write_jar(
        form, jar.name or jar.id, [Entry(names.get(e.value, e.value), e.weight, e.name) for e in jar.entries]
    )
    if form == "m3u8" and jar.kind == "media":
        text = write_tracks([_track(studio, entry.value) for entry in jar.entries])
    ending = {"list": "txt"}.get(form, form)
    headers = {"Content-Disposition": f'attachment; filename="{jar.id}.{ending}"'}
    return PlainTextResponse(text, headers=headers)


def _track(studio: Studio, media: str) -> Track:
    """Returns a media entry as a line of a play list; its path starts at the data folder, where the list belongs."""
    entry = next((entry for entry in studio.books.book.media if entry.id == media), None)
    row = studio.library.row(entry.file) if entry is not None and entry.file else None
    if entry is None or row is None:
        return Track(-1, media, media)
    return Track(row.length_s, entry.name, f"media/{row.hash}")


def _media_names(book: Book) -> dict[str, str]:
    """Returns media entries by every name that a line may use for them."""
    by_name = {folded(entry.name): entry.id for entry in reversed(book.media)}
    by_file = {f"media/{entry.file}": entry.id for entry in reversed(book.media)}
    return by_name | by_file | {entry.id: entry.id for entry in book.media}


async def _as_media(studio: Studio, line: str, names: Mapping[str, str]) -> str | File | None:
    """Returns the media entry that a line names: by id or name, or a file on this computer, which joins the library."""
    there = names.get(line) or names.get(folded(line)) or names.get(folded(shown_name(line)))
    if there is not None:
        return there
    await asyncio.sleep(0)
    path = path_in(line)
    if path is None or not path.is_file():
        return None
    try:
        return await take_path(studio, path)
    except NotTaken:
        return None


def _jar_of(text: str, form: Any) -> list[Any]:
    return list(read_jar(form, text))


@router.post("/{jar_id}/file")
async def import_file(studio: TheStudio, jar: TheJar, body: ImportIn) -> Imported:
    """Makes the entries of a file those of the jar; names of missing things are reported and left out."""
    if body.form == "gpl" and jar.kind != "colour":
        raise Refused(422, "A palette can only go into a jar of colours.", "Change the jar to a jar of colours first.")
    entries, missing = [], []
    cues = {folded(cue.name): cue.id for cue in reversed(studio.books.book.cues)}
    cues |= {cue.id: cue.id for cue in studio.books.book.cues}
    names = _media_names(studio.books.book)
    read = await studio.read_text(f"the jar {jar.name or jar.id}", _jar_of, body.text, body.form)
    for number, (value, weight, name) in enumerate(read, 1):
        found: str | File | None = value
        if jar.kind == "colour":
            if read_colour(value) is None:
                raise Refused(422, f"Entry {number}: “{value}” isn’t a colour.", "The jar is unchanged.")
            found = as_hex(value)
        elif jar.kind == "media":
            found = await _as_media(studio, value, names)
        elif jar.kind == "cue":
            found = cues.get(folded(value))
        if found is None:
            missing.append(value)
        else:
            named = {"name": name[:MOST_NAME]} if name and jar.kind != "media" else {}
            entries.append({"value": found, "weight": weight, **named})
    if not entries and missing:
        raise Refused(422, f"Nothing in this file exists here: {', '.join(missing[:5])}.", "The jar is unchanged.")

    def fill(draft: Draft) -> None:
        for entry in entries:
            if isinstance(entry["value"], File):
                entry["value"] = entry_for(draft, entry["value"])
        draft.put("jars", jar.id, {**(draft.part("jars", jar.id) or {}), "entries": entries})

    await studio.edit(fill, f"filled the jar {jar.name or jar.id}", version=body.version)
    return Imported(**edited(studio).model_dump(), taken=len(entries), missing=missing)
