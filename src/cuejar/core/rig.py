"""The rig as far as the engine must know it: which properties belong to which gear, and which gear is away.

A property whose gear is away is not asked to change; a strike at it fails. When the gear is back, it gets the value
that should show at that moment; what ended meanwhile is never played late.

Gear that is back tells what it shows and who changed that last (`Found`). `reunited` says what this means:

    nobody since we last looked, or we ourselves    nothing: it gets what should show now
    a hand, while it was away                       the hand wins: its value is at rest now, holds are dropped
    the gear began anew                             what is held is put back; the rest is as the gear has it
    never seen before                               that is at rest
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Any, Literal, NamedTuple

from cuejar.core.beats import KINDS
from cuejar.core.book import Book
from cuejar.core.happenings import PropertyValue, Renamed
from cuejar.core.holds import Holds

PREFIX = {
    "broadcaster": "broadcast/",
    "lights": "light/",
    "avatar": "avatar/",
    "voice": "voice/",
    "haptics": "haptics/",
    "keys": "keys/",
    "channel": "reward/",
    "hook": "hook/",
}
"""Where the properties of a kind of gear lie."""


class Away:
    """The gear that is lost at the moment."""

    def __init__(self) -> None:
        self.lost: dict[str, tuple[str, ...]] = {}
        self._gear: dict[str, tuple[str, ...]] = {}

    def take(self, book: Book) -> None:
        self._gear = {}
        for gear in book.gear:
            if gear.kind == "lights" and gear.fixtures:
                self._gear[gear.id] = tuple(f"light/{fixture.id}/" for fixture in gear.fixtures)
            elif gear.kind == "hook":
                self._gear[gear.id] = (f"hook/{gear.id}/",)
            else:
                self._gear[gear.id] = (PREFIX[gear.kind],)
        self.lost = {gear: self._prefixes(gear) for gear in self.lost}

    def _prefixes(self, gear: str) -> tuple[str, ...]:
        """By the gear's id in the book; else by a kind of gear, or the first step of its paths."""
        return self._gear.get(gear) or (PREFIX.get(gear, f"{gear}/"),)

    def set(self, gear: str, lost: bool) -> tuple[str, ...]:
        """The gear was lost or is back. Returns where its properties lie."""
        prefixes = self._prefixes(gear)
        if lost:
            self.lost[gear] = prefixes
        else:
            self.lost.pop(gear, None)
        return prefixes

    def holds(self, path: str) -> bool:
        """Whether the gear of this property is away."""
        return bool(self.lost) and any(path.startswith(prefixes) for prefixes in self.lost.values())

    def strikes(self, kind: str, value: Any) -> bool:
        """Whether the gear of this kind of strike is away."""
        gear = KINDS[kind].gear
        if gear is None or not self.lost:
            return False
        path = f"hook/{value['hook']}/" if kind == "hook" else PREFIX[gear]
        return self.holds(path)


def renaming(
    renamed: Renamed,
) -> tuple[Callable[[str], str], Callable[[str, PropertyValue], PropertyValue]]:
    """How paths, and values at a path, change when something on the broadcaster gets another name."""
    old, new = renamed.old, renamed.new

    def path_now(path: str) -> str:
        if renamed.what == "scene" and path.startswith(f"broadcast/source/{old}/"):
            return path.replace(f"broadcast/source/{old}/", f"broadcast/source/{new}/", 1)
        if renamed.what == "source":
            if path.startswith("broadcast/source/") and path.endswith(f"/{old}/visible"):
                return path.removesuffix(f"/{old}/visible") + f"/{new}/visible"
            if path.startswith(f"broadcast/filter/{old}/"):
                return path.replace(f"broadcast/filter/{old}/", f"broadcast/filter/{new}/", 1)
        if renamed.what == "filter":
            before = f"broadcast/filter/{renamed.of}/{old}/"
            if path.startswith(before):
                return path.replace(before, f"broadcast/filter/{renamed.of}/{new}/", 1)
        return path

    def value_now(path: str, value: PropertyValue) -> PropertyValue:
        return new if renamed.what == "scene" and path == "broadcast/scene" and value == old else value

    return path_now, value_now


class Found(NamedTuple):
    """What gear that is back shows: ``by`` says who changed it last, ``changes`` counts its changes since the gear began;
    ``hand`` is what a hand gave it last, as its change number ``hand_changes`` (0: never)."""

    value: PropertyValue
    by: Literal["us", "hand", "start"] = "hand"
    changes: int = 0
    hand: PropertyValue = None
    hand_changes: int = 0


class Reunion(NamedTuple):
    """What is at rest as the gear has it, and what a hand set while nobody looked."""

    rest: dict[str, PropertyValue]
    hands: dict[str, PropertyValue]


def reunited(found: Mapping[str, Found], seen: Mapping[str, int] | None, holds: Holds) -> Reunion:
    """What it means that gear shows this on being back.

    Args:
        seen: the changes of each property as they were counted when the gear was last in reach; None when that is not known
            or the gear began anew since.
    """
    rest: dict[str, PropertyValue] = {}
    hands: dict[str, PropertyValue] = {}
    for path, there in found.items():
        p = holds.known(path)
        if p is None or (p.rest is None and not p.layers):
            rest[path] = there.value
        elif seen is not None:
            if there.hand_changes > seen.get(path, 0):
                hands[path] = there.hand
        elif there.by == "start":
            if not p.layers and p.shown == p.rest:
                rest[path] = there.value
        elif there.by == "hand" and (there.value != p.rest or p.shown != p.rest):
            hands[path] = there.value
    return Reunion(rest, hands)
