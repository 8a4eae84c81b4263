"""Doors in words: who can call a cue, when, how often, with which text, and how its runs start."""

from __future__ import annotations

from typing import NamedTuple

from cuejar.core.book.book import Book, Cue, Door, Lane, TextRule
from cuejar.core.rules.defaults import Paces, air_of, longest_text, paces_of
from cuejar.core.words.conditions import condition_said
from cuejar.core.words.names import ENTRIES, ROLES, Names
from cuejar.core.words.values import joined, pace, seconds

_TEXTS = {"any": "text", "colour": "a colour", "number": "a number", "choice": "one of the choices"}
_OPTIONAL = {"any": "optional text", "colour": "an optional colour", "number": "an optional number", "choice": "an optional choice"}  # fmt: skip
_ON_AIR = {"any": "", "live": "while live", "off": "while off air"}


class Effective(NamedTuple):
    """The values that apply to a cue: its own, or the house defaults.

    Cooldowns in seconds; ``default`` has those of a cue without its own; ``longest_text``: characters.
    """

    cooldown_s: float
    viewer_cooldown_s: float
    default: Paces
    air: str
    lane: str
    lane_name: str
    longest_text: int


def lane_of(cue: Cue, book: Book) -> Lane:
    """Returns the lane that a cue runs in."""
    known = book.lane_of(cue)
    return next((lane for lane in book.all_lanes if lane.id == known), book.all_lanes[0])


def effective(cue: Cue, book: Book) -> Effective:
    """Returns the values that apply to a cue after the house defaults."""
    door, house, lane = cue.door, book.house, lane_of(cue, book)
    paces = paces_of(door, house)
    return Effective(
        cooldown_s=paces.cue_s,
        viewer_cooldown_s=paces.viewer_s,
        default=paces_of(Door(), house),
        air=air_of(door, house),
        lane=lane.id,
        lane_name=lane.name,
        longest_text=longest_text(door.text, house),
    )


def people_said(door: Door) -> str:
    """Returns who can call: *anyone*, *members of tier 2 and VIPs*."""
    if "everyone" in door.who:
        return "anyone"
    roles = [f"members of tier {door.tier}" if role == "member" and door.tier > 1 else ROLES[role] for role in door.who]
    return joined(roles) or "nobody"


def places_said(door: Door, air: str, names: Names) -> str:
    """Returns when a cue can be called: *while live in Gardening if the text is “train”*; empty for always.

    Args:
        air: the `Air` that applies.
    """
    parts = [
        _ON_AIR[air],
        f"while {joined(door.scenes, 'or')} is on" if door.scenes else "",
        f"in {joined(door.categories, 'or')}" if door.categories else "",
        f"if {joined([condition_said(one.model_dump(mode='json', by_alias=True), names) for one in door.only_if])}"
        if door.only_if
        else "",
    ]
    return " ".join(part for part in parts if part)


def who_said(cue: Cue, book: Book, names: Names) -> str:
    """Returns who can call a cue, and when."""
    return f"{people_said(cue.door)} {places_said(cue.door, air_of(cue.door, book.house), names)}".rstrip()


def limits_said(door: Door) -> str:
    """Returns the limits of a door: *at most 3 per stream and 1 per viewer*; empty if there are none."""
    limits = [
        f"{door.cap_stream:,} per stream" if door.cap_stream else "",
        f"{door.cap_viewer:,} per viewer" if door.cap_viewer else "",
        f"{door.cap_window.count:,} every {seconds(door.cap_window.per_s)}" if door.cap_window else "",
    ]
    said = joined([limit for limit in limits if limit])
    return f"at most {said}" if said else ""


def _each(seconds: float) -> str:
    return f"each viewer {pace(seconds)}" if seconds else ""


def pace_said(cue: Cue, book: Book) -> str:
    """Returns how often a cue can be called: its cooldowns and limits."""
    paces = paces_of(cue.door, book.house)
    shared = " for all cues together" if paces.shared and paces.cue_s else ""
    parts = [f"{pace(paces.cue_s)}{shared}", _each(paces.viewer_s), limits_said(cue.door)]
    return ", ".join(part for part in parts if part)


def text_said(rule: TextRule | None) -> str:
    """Returns the text that a cue takes: *with a colour*, *with optional text*, *without text*."""
    if rule is None:
        return "without text"
    return f"with {_TEXTS[rule.kind] if rule.need else _OPTIONAL[rule.kind]}"


def lane_said(cue: Cue, book: Book) -> str:
    """Returns how a cue starts in its lane: *waits its turn in Yard*."""
    return f"{ENTRIES[cue.entry]} in {lane_of(cue, book).name}"


def exceptions_said(cue: Cue, book: Book, names: Names) -> list[str]:
    """Returns where a cue's rules differ from the defaults, one phrase each."""
    door, house, lane = cue.door, book.house, lane_of(cue, book)
    people, own, default = people_said(door), paces_of(door, house), paces_of(Door(), house)
    differs = door.air is not None and door.air != house.air
    parts = [
        "" if people == "anyone" else people,
        "live or off air" if differs and door.air == "any" else "",
        places_said(door, door.air if differs and door.air is not None else "any", names),
        pace(own.cue_s) if own.cue_s != default.cue_s else "",
        f"each viewer {pace(own.viewer_s)}" if own.viewer_s != default.viewer_s else "",
        limits_said(door),
        lane_said(cue, book) if cue.entry != "queue" else "" if lane is book.all_lanes[0] else lane.name,
    ]
    return [part for part in parts if part]
