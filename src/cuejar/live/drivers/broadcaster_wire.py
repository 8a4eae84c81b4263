"""The broadcaster's messages as models, and its catalogue as properties."""

from __future__ import annotations

from collections.abc import Callable
from typing import Annotated, Any, Literal, NamedTuple

from pydantic import Field

from cuejar.core.facts import happenings as h
from cuejar.core.facts.gate import Count, Key, ShortText, Value
from cuejar.core.facts.paths import SCENE, filter_path, source_path
from cuejar.core.measures.catalogue import shows
from cuejar.core.rules.rig import Found
from cuejar.live.drivers.base import PropertyPath
from cuejar.live.drivers.catalogued import CLIENT, Call
from cuejar.live.drivers.said import Said, Unreadable, Version, read, readable

Name = Annotated[ShortText, Field(min_length=1)]
LISTS = ("scenes", "sources", "filters")
MOST_ROWS = 10_000


VERSION = 1
"""The version of the wire, as both sides say it."""


class Challenge(Said):
    challenge: Annotated[str, Field(min_length=1, max_length=1_000)]
    version: Version = 1


class ByHand(Said):
    value: Value
    changes: Count


class Shown(Said):
    """What a property shows, who changed it last, with which change; and the last value set by hand."""

    value: Value
    by: ShortText
    changes: Count
    hand: ByHand


class Setting(Shown):
    type: Literal["bool", "number", "colour", "choice", "text"]
    min: float | None = None
    max: float | None = None
    choices: Annotated[list[ShortText], Field(max_length=1_000)] = []


class Scene(Said):
    id: Key
    name: Name
    sources: Annotated[list[Key], Field(max_length=2_000)] = []


class Source(Said):
    id: Key
    name: Name
    visible: Shown


class Filter(Said):
    id: Key
    name: Name
    source: Name
    settings: Annotated[dict[str, Any], Field(max_length=500)] = {}


class Things(Said):
    """What it has apart from its lists of scenes, sources and filters, whose rows are read one by one."""

    boot: ShortText = ""
    scene: Shown


class Changed(Said):
    """Somebody changed a property."""

    what: ShortText
    id: ShortText = ""
    setting: ShortText = ""
    value: Value
    by: ShortText
    changes: Count


class Renamed(Said):
    what: Literal["scene", "source", "filter"]
    old: Name
    new: Name
    of: ShortText = ""


class Picture(Said):
    png: Annotated[str, Field(max_length=8_000_000)]


class Tables(NamedTuple):
    """A catalogue as tables.

    Attributes:
        found: what each property shows.
        setters: the call that changes each.
        by_key: the property of each (what, id, setting) in the wire's change messages.
        kinds: what each can show.
        scenes: the id of each scene, by its name.
        things: its sources and filters, for the book.
    """

    boot: str
    found: dict[PropertyPath, Found]
    setters: dict[PropertyPath, Call]
    by_key: dict[tuple[str, str, str], PropertyPath]
    kinds: dict[PropertyPath, h.Setting]
    scenes: dict[str, str]
    things: h.Catalogue


Odd = Callable[[Any, str], object]


def tables(answer: Any, odd: Odd) -> Tables:
    """Reads a catalogue. An unreadable row is passed to ``odd`` and skipped. Raises Unreadable: none of it can be read."""

    if not isinstance(answer, dict):
        raise Unreadable(answer, "the catalogue is no object")
    told = read(Things, {"boot": answer.get("boot") or "", "scene": answer.get("scene")})
    listed = {key: answer.get(key) for key in LISTS}
    if not all(isinstance(one, list) and len(one) <= MOST_ROWS for one in listed.values()):
        raise Unreadable(answer, f"the catalogue has no lists of {', '.join(LISTS)}, or one of over {MOST_ROWS:,}")
    found: dict[PropertyPath, Found] = {}
    setters: dict[PropertyPath, Call] = {}
    by_key: dict[tuple[str, str, str], PropertyPath] = {}

    kinds: dict[PropertyPath, h.Setting] = {}

    def add(
        path: PropertyPath,
        key: tuple[str, str, str],
        call: Call,
        shown: Shown,
        kind: h.Setting,
        named: Callable[[Any], Any] = lambda value: value,
    ) -> None:
        value, hand, by_hand = named(shown.value), named(shown.hand.value), shown.hand.changes
        if not shows(kind, value):
            odd(shown.model_dump(), f"{path} cannot show that")
            return
        if not shows(kind, hand):
            hand, by_hand = None, 0  # For example, a deleted scene.
        setters[path], by_key[key], kinds[path] = call, path, kind
        who: Literal["us", "start", "hand"] = "us" if shown.by == CLIENT else "start" if shown.by == "start" else "hand"
        found[path] = Found(value, who, shown.changes, hand, by_hand)

    scenes = readable(Scene, listed["scenes"] or [], odd)
    names = {scene.id: scene.name for scene in scenes}
    scene_kind = h.Setting("choice", choices=tuple(names.values()))
    add(SCENE, ("scene", "", ""), ("scene.show", {}), told.scene, scene_kind, names.get)
    there = {source.id: source for source in readable(Source, listed["sources"] or [], odd)}
    sources: dict[str, tuple[str, ...]] = {}
    for scene in scenes:
        own = [there[source] for source in scene.sources if source in there]
        sources[scene.name] = tuple(source.name for source in own)
        for source in own:
            path = source_path(scene.name, source.name)
            add(
                path,
                ("source", source.id, ""),
                ("source.show", {"source": source.id}),
                source.visible,
                h.Setting("bool"),
            )
    filters: dict[str, dict[str, dict[str, h.Setting]]] = {}
    for row in readable(Filter, listed["filters"] or [], odd):
        settings = filters.setdefault(row.source, {}).setdefault(row.name, {})
        for name, said in row.settings.items():
            for setting in readable(Setting, [said], odd):
                settings[name] = h.Setting(setting.type, setting.min, setting.max, tuple(setting.choices))
                path = filter_path(row.source, row.name, name)
                call: Call = ("filter.set", {"filter": row.id, "setting": name})
                add(path, ("filter", row.id, name), call, setting, settings[name])
    return Tables(
        told.boot,
        found,
        setters,
        by_key,
        kinds,
        {scene.name: scene.id for scene in scenes},
        h.Catalogue("broadcaster", sources, filters),
    )
