"""Maps names of the other book's gear to those of the gear here: scenes, sources, filters, outfits, presets, lamps."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence, Set
from typing import NamedTuple

from cuejar.core.book.book import Book
from cuejar.core.book.files import book_from
from cuejar.core.carry.references import FIXTURES, LISTS_NAMED, Key, renamed
from cuejar.core.kinds.table import KINDS
from cuejar.core.measures.catalogue import Catalogues, near_names
from cuejar.core.parts.base import JsonObject
from cuejar.core.parts.gear import Gear
from cuejar.core.parts.steps import Beat
from cuejar.core.rules.score import Lengths
from cuejar.core.snags.context import CheckContext

ALL_LAMPS = "all"
LAMP = "lamp"
_TIMES = 4
"""A missing name may be inside another (a source's filter), and another inside that."""


class Lost(NamedTuple):
    """A name that the gear here doesn't have; ``to`` replaces it. ``key`` identifies it, ``what`` is it in words."""

    key: str
    what: str
    name: str
    near: tuple[str, ...]
    choices: tuple[str, ...]
    to: str


def brought_home(
    theirs: Book, cues: Sequence[str], gear: Sequence[Gear], catalogues: Catalogues, chosen: Mapping[str, str]
) -> tuple[Book, list[Lost]]:
    """Returns a book whose cues name what the gear here has.

    Args:
        cues: the cues to look at.
        gear: what the gear here has; its lamps are the known ones.
        chosen: the replacement of a missing name, by its key; without one the nearest is used, an empty one keeps the
        name.
    """
    found: dict[str, Lost] = {}
    wanted = frozenset(cues)
    for _ in range(_TIMES):
        fresh = {lost.key: lost for lost in _lost(theirs, wanted, gear, catalogues) if lost.key not in found}
        if not fresh:
            break
        for key, lost in fresh.items():
            default = lost.near[0] if lost.near else ""
            to = chosen.get(key, default)
            # A lamp that nobody has can't be named anywhere.
            found[key] = lost._replace(to=to or (ALL_LAMPS if lost.what == LAMP else ""))
        theirs = _exchanged(theirs, [lost for lost in found.values() if lost.to])
    return theirs, list(found.values())


def _lost(book: Book, cues: Set[str], gear: Sequence[Gear], catalogues: Catalogues) -> Iterator[Lost]:
    looked = CheckContext(book, Lengths(book, None), {}, catalogues, {})
    for cue in book.cues:
        if cue.id not in cues:
            continue
        for beat in cue.beats:
            yield from _of_beat(beat, looked)
    own = {lamp.id: lamp.name or lamp.id for one in gear for lamp in one.fixtures}
    own |= {group.id: group.name for one in gear for group in one.groups}
    if own:
        for cue in book.cues:
            for beat in cue.beats:
                for ref in KINDS[beat.kind].refs(beat) if cue.id in cues else ():
                    if LISTS_NAMED[ref.what] == FIXTURES and ref.id not in own:
                        yield _lamp(ref.id, own)


def _lamp(lamp: str, own: Mapping[str, str]) -> Lost:
    by_name = {name: one for one, name in own.items()}
    near = tuple(by_name[name] for name in near_names(lamp, by_name))
    return Lost(f"{LAMP}/{lamp}", LAMP, lamp, near, (ALL_LAMPS, *own), "")


def _of_beat(beat: Beat, looked: CheckContext) -> Iterator[Lost]:
    kind = getattr(beat, "kind", "")
    for snag in KINDS[kind].snags(beat, looked):
        if snag.check != "lost_name":
            continue
        value = getattr(beat, snag.key, None)
        for name in value if isinstance(value, list) else [value]:
            alone = beat.model_copy(update={snag.key: [name] if isinstance(value, list) else name})
            near = next((one.near for one in KINDS[kind].snags(alone, looked) if one.key == snag.key), None)
            if near is not None and isinstance(name, str):
                choices = tuple(_choices(kind, snag.key, beat, looked.catalogues))
                yield Lost(f"{kind}/{snag.key}/{name}", snag.key.removesuffix("s"), name, near, choices, "")


def _choices(kind: str, key: str, beat: Beat, catalogues: Catalogues) -> Sequence[str]:
    """Returns all names of the gear here that could replace it; empty if unknown."""
    what, choices = key.removesuffix("s"), KINDS[kind].choices
    if choices is not None:
        return choices(beat, what, catalogues)
    gear = catalogues.known.get(KINDS[kind].gear or "")
    return gear.names.get(what, ()) if gear is not None else ()


def _exchanged(book: Book, lost: Sequence[Lost]) -> Book:
    """Returns the book with the missing names replaced."""
    lamps = {one.name: one.to for one in lost if one.what == LAMP}
    to = {one.key: one.to for one in lost if one.what != LAMP}

    def lamp(_: Key, what: Key) -> str:
        return lamps.get(what.id, what.id) if what.kind == FIXTURES else what.id

    data = renamed(book, lamp)
    for cue in data.get("cues", []):
        for beat in cue.get("beats", []):
            _named(beat, to)
    return book_from(data)


def _named(beat: JsonObject, to: Mapping[str, str]) -> None:
    kind = beat["kind"]
    for key, value in beat.items():
        if isinstance(value, str):
            beat[key] = to.get(f"{kind}/{key}/{value}", value)
        elif isinstance(value, list) and all(isinstance(one, str) for one in value):
            beat[key] = [to.get(f"{kind}/{key}/{one}", one) for one in value]
    if ALL_LAMPS in beat.get("fixtures", []):
        beat["fixtures"] = ALL_LAMPS
