"""What a cue could do beyond the overlay that its streamer should have allowed: where hooks go, keys, replies, rewards.

A cue also can what those can that it fires, whether it names them or draws them from a jar.
"""

from __future__ import annotations

from collections.abc import Iterator
from typing import NamedTuple
from urllib.parse import urlsplit

from cuejar.core.book.book import Book, Cue
from cuejar.core.carry.words import Names, said
from cuejar.core.parts.gear import Gear
from cuejar.core.parts.steps import FromJar


class Power(NamedTuple):
    """Something that can be done; ``what`` says it in words, ``kind`` and ``of`` tell it apart."""

    kind: str
    of: str
    what: str


def powers(book: Book) -> dict[str, dict[Power, None]]:
    """What every cue can do, by its id."""
    names = Names(book)
    gear = {one.id: one for one in book.gear}
    own = {cue.id: dict.fromkeys(_own(cue, gear, book, names)) for cue in book.cues}
    fires = {cue.id: list(_fired(cue, book)) for cue in book.cues}
    reach: dict[str, dict[Power, None]] = {}
    for cue in book.cues:
        met, waiting = {cue.id}, [cue.id]
        found: dict[Power, None] = {}
        while waiting:
            one = waiting.pop()
            found |= own.get(one, {})
            fresh = [other for other in fires.get(one, []) if other not in met]
            met |= set(fresh)
            waiting += fresh
        reach[cue.id] = found
    return reach


def _fired(cue: Cue, book: Book) -> Iterator[str]:
    for beat in cue.beats:
        if beat.kind == "fire":
            if isinstance(beat.cue, FromJar):
                wanted = beat.cue.jar
                yield from (entry.value for jar in book.jars if jar.id == wanted for entry in jar.entries)
            else:
                yield beat.cue


def _own(cue: Cue, gear: dict[str, Gear], book: Book, names: Names) -> Iterator[Power]:
    for beat in cue.beats:
        if beat.kind == "hook":
            yield hook_power(gear.get(beat.hook), beat.hook)
        elif beat.kind in ("keys", "tap"):
            yield Power("keys", beat.combo, f"presses {beat.combo} on this computer")
        elif beat.kind == "reply":
            text = said("text", beat.text.model_dump() if isinstance(beat.text, FromJar) else beat.text, names)
            yield Power("reply", text, f"writes in chat: {text}")
        elif beat.kind == "reward":
            which = ", ".join(
                [names.of("rewards", one) for one in beat.rewards] + [names.of("sets", one) for one in beat.sets]
            )
            does = "switches" if beat.on is not None else f"sets the price to {beat.cost} of"
            yield Power("reward", f"{does} {which}", f"{does} {which}")
        elif beat.kind == "do":
            where = names.of("gear", beat.gear)
            yield Power("do", f"{beat.gear}/{beat.thing}/{beat.deed}", f"{beat.deed} at {beat.thing} of {where}")
    for call in cue.calls:
        if call.kind == "hook" and any(inlet.id == call.name for inlet in book.inlets):
            yield Power("inlet", call.name, f"can be fired from outside by the hook {call.name}")


def hook_power(gear: Gear | None, hook: str) -> Power:
    """What a hook can do: a request goes to its host."""
    address = gear.address if gear is not None else ""
    return Power("hook", f"{hook} {address}", f"sends a request to {host_of(address) or 'the hook ' + hook}")


def host_of(address: str) -> str:
    """The host of an address; the address itself where it has none."""
    try:
        return urlsplit(address).hostname or address
    except ValueError:
        return address
