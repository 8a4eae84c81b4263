"""The engine's part of the rig: which properties belong to which gear, and which gear is disconnected.

A property of disconnected gear isn't changed; a strike at it waits for the gear until it is too late. When the gear is
back, it gets the value that should show at that moment; effects that ended meanwhile are never played late.

Gear that is back reports what it shows and who changed that last (`Found`). `reunited` interprets this:

    new gear                                        that is at rest
    an unknown change by hand                       the hand wins: its value is at rest now, holds are dropped
    the rest value no longer exists on it           its own default is at rest: the last by hand, its first value, or
    its first option
    anything else                                   nothing: it gets what should show now

A request is never taken as confirmed for lack of an answer: a value that gear shows becomes the rest value only on
first contact, or if it was set by hand. Known changes by hand are remembered by the gear's boot and its count of
changes, across restarts of either side; restarted gear counts from 0.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from typing import Literal, NamedTuple

from cuejar.core.book.book import Book
from cuejar.core.facts.happenings import HandMark, PropertyValue, Renamed, Shown
from cuejar.core.facts.paths import SCENE, Family, Path, filter_path, read_path, source_path
from cuejar.core.kinds.gear import CHANNEL, GEAR_KINDS, REWARDS, kind_of
from cuejar.core.kinds.table import KINDS
from cuejar.core.rules.holds import Holds, Property


class Away:
    """The gear that is disconnected now."""

    def __init__(self) -> None:
        self.lost: dict[str, tuple[str, ...]] = {}
        self._gear: dict[str, tuple[str, ...]] = {}

    def take(self, book: Book) -> None:
        self._gear = {gear.id: kind_of(gear.kind).paths_of(gear) for gear in book.gear}
        self.lost = {gear: self._prefixes(gear) for gear in self.lost}

    def _prefixes(self, gear: str) -> tuple[str, ...]:
        """Returns the prefixes by the gear's id in the book; otherwise by a kind of gear, or the first step of its
        paths.
        """
        if gear in self._gear:
            return self._gear[gear]
        kind = GEAR_KINDS.get(gear)
        return (REWARDS if gear == CHANNEL else kind.prefix if kind is not None else f"{gear}/",)

    def set(self, gear: str, lost: bool) -> tuple[str, ...]:
        """Notes that gear was lost or is back. Returns where its properties lie."""
        prefixes = self._prefixes(gear)
        if lost:
            self.lost[gear] = prefixes
        else:
            self.lost.pop(gear, None)
        return prefixes

    def is_away(self, path: str) -> bool:
        """Returns whether the gear of this property is disconnected."""
        return bool(self.lost) and any(path.startswith(prefixes) for prefixes in self.lost.values())

    def needed(self, kind: str, value: Shown) -> bool:
        """Returns whether the gear for a beat of this kind, which shows or strikes this value, is disconnected."""
        one = KINDS[kind]
        if one.gear is None or not self.lost:
            return False
        place = GEAR_KINDS[one.gear].prefix
        if one.struck is not None:
            place = f"{Path(place.rstrip('/'), (one.struck(value),))}/"
        return self.is_away(place)


def renaming(
    renamed: Renamed,
) -> tuple[Callable[[str], str], Callable[[str, PropertyValue], PropertyValue]]:
    """Returns how paths, and values at a path, change with a rename on the broadcaster."""
    old, new = renamed.old, renamed.new

    def path_now(path: str) -> str:
        whole = read_path(path)
        match renamed.what, whole.known, whole.steps:
            case "scene", Family.BROADCAST, ("source", scene, source, _) if scene == old:
                return source_path(new, source)
            case "source", Family.BROADCAST, ("source", scene, source, _) if source == old:
                return source_path(scene, new)
            case "source", Family.BROADCAST, ("filter", source, name, setting) if source == old:
                return filter_path(new, name, setting)
            case "filter", Family.BROADCAST, ("filter", source, name, setting) if (source, name) == (renamed.of, old):
                return filter_path(source, new, setting)
        return path

    def value_now(path: str, value: PropertyValue) -> PropertyValue:
        return new if renamed.what == "scene" and path == SCENE and value == old else value

    return path_now, value_now


class Found(NamedTuple):
    """What gear that is back shows: ``by`` says who changed it last, ``changes`` counts its changes since the gear
    started; ``hand`` is the last value set by hand, as its change number ``hand_changes`` (0: never).
    """

    value: PropertyValue
    by: Literal["us", "hand", "start"] = "hand"
    changes: int = 0
    hand: PropertyValue = None
    hand_changes: int = 0


class Reunion(NamedTuple):
    """The gear's rest values, what was set by hand meanwhile, up to which change hands are known now, and rest values
    that no longer exist.
    """

    rest: dict[str, PropertyValue]
    hands: dict[str, PropertyValue]
    heard: dict[str, HandMark]
    gone: dict[str, PropertyValue]


def reunited(
    found: Mapping[str, Found],
    boot: str,
    holds: Holds,
    offered: Callable[[str], Sequence[PropertyValue]] = lambda path: (),
) -> Reunion:
    """Returns what it means that gear of this boot shows this.

    Args:
        offered: the options of a property, by its path; nothing: unknown.
    """
    rest: dict[str, PropertyValue] = {}
    hands: dict[str, PropertyValue] = {}
    heard: dict[str, HandMark] = {}
    gone: dict[str, PropertyValue] = {}
    for path, there in found.items():
        p, names = holds.known(path), offered(path)
        if p is None or p.rest is None:
            rest[path] = there.value
        elif _unheard(there, boot, p):
            hands[path] = there.hand
        elif names and p.rest not in names:
            gone[path], rest[path] = p.rest, _own_default(there, names)
        mark = (boot, there.hand_changes)
        if p is None or p.heard != mark:
            heard[path] = mark
    return Reunion(rest, hands, heard, gone)


def _own_default(there: Found, names: Sequence[PropertyValue]) -> PropertyValue:
    """Returns the gear's own default, as far as it reports one."""
    told = [there.hand] if there.hand_changes else []
    told += [there.value] if there.by != "us" else []
    return next((value for value in told if value in names), names[0])


def _unheard(there: Found, boot: str, p: Property) -> bool:
    """Returns whether a property was changed by hand since the last known change."""
    # Its changes by hand were never counted: made before the first contact, or by an earlier version.
    if p.heard is None:
        return there.by == "hand" and there.hand != p.rest
    return there.hand_changes > (p.heard[1] if p.heard[0] == boot else 0)
