"""The rig as far as the engine must know it: which properties belong to which gear, and which gear is away.

A property whose gear is away is not asked to change; a strike at it fails. When the gear is back, it gets the value
that should show at that moment; what ended meanwhile is never played late.
"""

from __future__ import annotations

from typing import Any

from cuejar.core.beats import KINDS
from cuejar.core.book import Book

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
