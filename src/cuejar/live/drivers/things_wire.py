"""A bridge's messages about its things as models; and its catalogue as properties. See
``docs/reference/wires/things.md``.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import Annotated, Any, Literal, NamedTuple

from pydantic import Field

from cuejar.core.facts import happenings as h
from cuejar.core.facts.gate import Count, ShortText, Value
from cuejar.core.facts.paths import thing_path
from cuejar.core.measures.catalogue import known_as, shows
from cuejar.core.rules.rig import Found
from cuejar.live.drivers.base import PropertyPath
from cuejar.live.drivers.catalogued import CLIENT
from cuejar.live.drivers.said import Said, Unreadable, Version, readable

VERSION = 1
"""The version of the wire, as both sides say it in `hello`."""
ThingId = Annotated[str, Field(pattern=r"^[A-Za-z0-9][A-Za-z0-9_.-]{0,59}$")]
Number = Annotated[float, Field(ge=-1e9, le=1e9)]
MOST_THINGS, MOST_PARTS = 500, 200


class Hello(Said):
    """The answer to our hello: its name, its start, and the name of its memory of deed ids."""

    version: Version = 1
    name: ShortText = ""
    boot: ShortText = ""
    memory: Annotated[str, Field(max_length=80)] = ""


class ByHand(Said):
    """The last value of a setting set by hand, and its change number."""

    value: Value
    changes: Count


class Kind(Said):
    """The type of a value."""

    id: ThingId
    name: ShortText = ""
    type: Literal["bool", "number", "colour", "choice", "text"]
    min: Number | None = None
    max: Number | None = None
    step: Annotated[float, Field(gt=0, le=1e9)] | None = None
    unit: Annotated[str, Field(max_length=20)] = ""
    choices: Annotated[list[ShortText], Field(max_length=500)] = []

    def fact(self) -> h.Setting:
        return h.Setting(self.type, self.min, self.max, tuple(self.choices), self.name, self.unit, self.step)


class Setting(Kind):
    """A setting and its value: set by whom (``start``, a hand, a program's name), with which change."""

    value: Value
    by: ShortText = "start"
    changes: Count = 0
    hand: ByHand | None = None


class Deed(Said):
    id: ThingId
    name: ShortText = ""
    values: Annotated[list[Any], Field(max_length=MOST_PARTS)] = []


class Thing(Said):
    id: ThingId
    name: ShortText = ""
    settings: Annotated[list[Any], Field(max_length=MOST_PARTS)] = []
    deeds: Annotated[list[Any], Field(max_length=MOST_PARTS)] = []


class Changed(Said):
    """Somebody changed a setting; without ``by`` it was a hand."""

    thing: ThingId
    setting: ThingId
    value: Value
    by: ShortText = "hand"
    changes: Count | None = None


class Tables(NamedTuple):
    """A catalogue as tables: for the book, what each property shows, what each can be."""

    things: h.Catalogue
    found: dict[PropertyPath, Found]
    kinds: dict[PropertyPath, h.Setting]


Odd = Callable[[Any, str], object]


def tables(gear: str, answer: Any, odd: Odd) -> Tables:
    """Reads a catalogue. An unreadable thing, setting or deed is passed to ``odd`` and skipped.

    Raises:
        Unreadable: none of it can be read.
    """

    listed = answer.get("things") if isinstance(answer, dict) else None
    if not isinstance(listed, list) or len(listed) > MOST_THINGS:
        raise Unreadable(answer, f"the catalogue has no list of things, or one of over {MOST_THINGS}")
    things: dict[str, h.Thing] = {}
    found: dict[PropertyPath, Found] = {}
    kinds: dict[PropertyPath, h.Setting] = {}
    for thing in readable(Thing, listed, odd):
        settings: dict[str, h.Setting] = {}
        for setting in readable(Setting, thing.settings, odd):
            kind, path = setting.fact(), thing_path(gear, thing.id, setting.id)
            if not shows(kind, setting.value):
                odd(setting.model_dump(), f"{path} can’t have that value")
                continue
            settings[setting.id] = kinds[path] = kind
            found[path] = _found(setting, kind)
        deeds = {
            deed.id: h.Deed(deed.name, {value.id: value.fact() for value in readable(Kind, deed.values, odd)})
            for deed in readable(Deed, thing.deeds, odd)
        }
        things[thing.id] = h.Thing(thing.name, settings, deeds)
    return Tables(h.Catalogue(known_as(gear), things=things), found, kinds)


def _found(setting: Setting, kind: h.Setting) -> Found:
    who: Literal["us", "start", "hand"] = "us" if setting.by == CLIENT else "start" if setting.by == "start" else "hand"
    hand = setting.hand if setting.hand is not None and shows(kind, setting.hand.value) else None
    if hand is None:
        by_hand = (setting.value, setting.changes) if who == "hand" else (None, 0)
        return Found(setting.value, who, setting.changes, *by_hand)
    return Found(setting.value, who, setting.changes, hand.value, hand.changes)
