"""The checks of beats that act on lamps, avatar, voice box, haptics, keys and hooks."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any
from urllib.parse import urlsplit

from cuejar.core.book.beats import KINDS
from cuejar.core.book.book import Book, Cue
from cuejar.core.measures.haptics import found
from cuejar.core.measures.keys import unknown
from cuejar.core.measures.lamps import overlaps, patched
from cuejar.core.rules.catalogue import Catalogues, NotThere, near_names

Trouble = tuple[str, str, str, str, str, tuple[str, ...]]
"""Check, beat, what, mend, the beat's key, near names."""


def trouble(cue: Cue, book: Book, catalogues: Catalogues) -> Iterator[Trouble]:
    """What of a cue its gear cannot do as it is set up."""
    for beat in cue.beats:
        yield from _named(beat, catalogues)
        yield from _set_up(beat, book)
        yield from _anchored(beat, cue)
        gear = KINDS[beat.kind].gear
        if gear not in (None, "broadcaster") and book.gear and not any(one.kind == gear for one in book.gear):
            what = f"“{beat.id}” needs {WORDS[gear or '']}, and none are on the rig."
            yield "no_gear", beat.id, what, "Add them on the Rig page.", "", ()

        broadcasters = [one.name or one.id for one in book.gear if one.kind == "broadcaster" and one.on]
        if gear == "broadcaster" and len(broadcasters) > 1:
            what = f"There are {len(broadcasters)} broadcasters ({', '.join(broadcasters)}); “{beat.id}” moves them all alike."
            yield "two_broadcasters", beat.id, what, "Switch all but one off on the Rig page.", "", ()


WORDS = {
    "lights": "lamps",
    "avatar": "an avatar",
    "voice": "a voice box",
    "haptics": "haptics",
    "keys": "keys",
    "hook": "hooks",
}


def _named(beat: Any, catalogues: Catalogues) -> Iterator[Trouble]:
    names: list[tuple[str, str, str]] = []
    if beat.kind == "avatar":
        names = [(what, what, getattr(beat, what)) for what in ("model", "outfit", "pose", "expression")]
        names += [("expressions", "expression", name) for name in beat.expressions]
    elif beat.kind == "voice":
        names = [("preset", "preset", beat.preset)]
    for key, what, name in names:
        if name is None:
            continue
        try:
            catalogues.named(beat.kind, what, name)
        except NotThere as error:
            mend = f"Use “{error.near[0]}”." if error.near else "Choose another."
            yield "lost_name", beat.id, f"For “{beat.id}” {error}.", mend, key, tuple(error.near)


def _set_up(beat: Any, book: Book) -> Iterator[Trouble]:
    if beat.kind in ("keys", "tap") and (wrong := unknown(beat.combo)):
        what = f"For “{beat.id}” there is no key “{wrong[0]}”."
        yield "unknown_key", beat.id, what, "Press the keys to record them.", "", ()
    elif beat.kind == "haptics" and found(book.patterns, beat.pattern) is None:
        near = tuple(near_names(beat.pattern, [pattern.name for pattern in book.patterns]))
        mend = f"Use “{near[0]}”." if near else "Paint one."
        yield "lost_name", beat.id, f"For “{beat.id}” there is no pattern “{beat.pattern}”.", mend, "pattern", near
    elif beat.kind == "throw":
        targets = {target.id for gear in book.gear if gear.kind == "avatar" for target in gear.targets}
        if not targets or not set(beat.targets) <= targets:
            what = f"“{beat.id}” is thrown at a circle that is not laid; it goes to the middle or to another."
            yield "no_target", beat.id, what, "Lay circles over the avatar on the stage.", "", ()
    elif beat.kind == "hook":
        yield from _hook(beat, book)
    elif beat.kind == "light":
        lamps = [fixture for gear in book.gear if gear.kind == "lights" for fixture in gear.fixtures]
        if lamps and (overlaps(lamps) or len(patched(lamps)) < len(lamps)):
            what = "Two lamps listen to the same channels, or one finds no room."
            yield "lamp_overlap", beat.id, what, "Put it right on the Rig page.", "", ()


def _hook(beat: Any, book: Book) -> Iterator[Trouble]:
    gear = next((one for one in book.gear if one.id == beat.hook), None)
    host = urlsplit(gear.address).hostname if gear is not None and gear.address else None
    if host and host.casefold() not in {place.host.casefold() for place in book.house.hook_places}:
        yield "hook_not_allowed", beat.id, f"Hooks may not go to {host} yet.", "Allow it on the Rig page.", "", ()


def _anchored(beat: Any, cue: Cue) -> Iterator[Trouble]:
    if beat.start.edge != "hit":
        return
    anchor = next((other for other in cue.beats if other.id == beat.start.after), None)
    if anchor is None or anchor.kind != "throw":
        what = f"“{beat.id}” waits for a hit, but nothing is thrown before it; it begins at once."
        yield "no_hit", beat.id, what, "Hang it on a throw.", "", ()
    elif beat.start.hit > anchor.count:
        what = f"“{beat.id}” waits for hit {beat.start.hit}, but only {anchor.count} are thrown; the last one counts."
        yield "no_hit", beat.id, what, f"Choose 1 to {anchor.count}.", "", ()
