"""Checks a book: no id twice, no reference to something missing, no circle."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from functools import lru_cache
from graphlib import CycleError, TopologicalSorter
from typing import Protocol

from pydantic import BaseModel

from cuejar.core.book.book import LISTS, Book
from cuejar.core.kinds.table import KINDS, OUTPUTS, fired
from cuejar.core.parts.base import Problem, path_of
from cuejar.core.parts.callkinds import CountCall, RewardCall
from cuejar.core.parts.steps import FromJar


def problems_of(book: Book) -> list[Problem]:
    """Returns every duplicate id, unknown name and circle, each with its path."""
    return [*_twice(book), *_dangling(book), *_circles(book)]


class _HasId(Protocol):
    @property
    def id(self) -> str: ...


def _twice(book: Book) -> Iterator[Problem]:
    def doubles(items: Sequence[_HasId], *path: int | str) -> Iterator[Problem]:
        seen: set[str] = set()
        for i, item in enumerate(items):
            if item.id in seen:
                yield Problem(path_of((*path, i, "id")), f"“{item.id}” is there twice")
            seen.add(item.id)

    for name in LISTS:
        yield from doubles(getattr(book, name), name)
    for i, cue in enumerate(book.cues):
        yield from doubles(cue.beats, "cues", i, "beats")
    for i, gear in enumerate(book.gear):
        yield from doubles(gear.fixtures, "gear", i, "fixtures")
        yield from doubles(gear.groups, "gear", i, "groups")
        yield from doubles(gear.targets, "gear", i, "targets")


@lru_cache(maxsize=256)
def _fields_of(model: type[BaseModel]) -> tuple[str, ...]:
    """Returns the fields of a kind of beat that may draw from a jar of the same name, or that name overlays."""
    return tuple(key for key in ("media", "text", "colour", "cue", "overlays") if key in model.model_fields)


def _dangling(book: Book) -> Iterator[Problem]:
    ids: dict[str, set[str]] = {name: {item.id for item in getattr(book, name)} for name in LISTS}
    ids["lanes"] = {lane.id for lane in book.all_lanes}
    jar_kinds = {jar.id: jar.kind for jar in book.jars}
    fixtures = {f.id for gear in book.gear for f in gear.fixtures} | {g.id for gear in book.gear for g in gear.groups}

    def lost(what: str, value: str, *path: int | str) -> Problem:
        return Problem(path_of(path), f"there is no {what} “{value}”")

    for i, cue in enumerate(book.cues):
        at: tuple[int | str, ...] = ("cues", i)
        if cue.lane is not None and cue.lane not in ids["lanes"]:
            yield lost("lane", cue.lane, *at, "lane")
        for j, call in enumerate(cue.calls):
            if isinstance(call, RewardCall) and call.reward not in ids["rewards"]:
                yield lost("reward", call.reward, *at, "calls", j, "reward")
            if isinstance(call, CountCall) and call.count not in ids["counts"]:
                yield lost("count", call.count, *at, "calls", j, "count")
        for k, condition in enumerate(cue.door.only_if):
            if condition.gear is not None and condition.gear not in ids["gear"]:
                yield lost("gear", condition.gear, *at, "door", "only_if", k, "gear")
        beats = {beat.id for beat in cue.beats}
        outcomes = {o.id for b in cue.beats for o in KINDS[b.kind].outcomes(b)}
        for j, beat in enumerate(cue.beats):
            here = (*at, "beats", j)
            if beat.start.after is not None and beat.start.after not in beats:
                yield lost("beat", beat.start.after, *here, "start", "after")
            for k, condition in enumerate(beat.only_if):
                if condition.drawn is not None and condition.drawn not in beats:
                    yield lost("beat", condition.drawn, *here, "only_if", k, "drawn")
                if condition.gear is not None and condition.gear not in ids["gear"]:
                    yield lost("gear", condition.gear, *here, "only_if", k, "gear")
                if condition.rolled is not None and condition.rolled not in outcomes:
                    yield lost("outcome", condition.rolled, *here, "only_if", k, "rolled")
            fields = _fields_of(type(beat))
            for key in fields:
                value = getattr(beat, key)
                if isinstance(value, FromJar):
                    if value.jar not in jar_kinds:
                        yield lost("jar", value.jar, *here, key, "jar")
                    elif key != "overlays" and jar_kinds[value.jar] != key:
                        what = f"the jar “{value.jar}” holds {jar_kinds[value.jar]}, not {key}"
                        yield Problem(path_of((*here, key, "jar")), what)
            for ref in KINDS[beat.kind].refs(beat):
                if ref.loose:
                    continue
                there = fixtures or {ref.id} if ref.what == "fixture" else ids[NAMED[ref.what]]
                if ref.id not in there:
                    yield lost(ref.what, ref.id, *here, *ref.at)
                elif ref.what == "jar" and jar_kinds[ref.id] != "viewers":
                    what = f"the jar “{ref.id}” holds {jar_kinds[ref.id]}, not viewers"
                    yield Problem(path_of((*here, *ref.at)), what)
            for k, overlay in enumerate(getattr(beat, "overlays", ()) if "overlays" in fields else ()):
                if overlay not in ids["overlays"]:
                    yield lost("overlay", overlay, *here, "overlays", k)
    for i, inlet in enumerate(book.inlets):
        if inlet.does == "pad" and inlet.cue is not None and inlet.cue not in ids["cues"]:
            yield lost("cue", inlet.cue, "inlets", i, "cue")
        if inlet.switch and inlet.switch not in OUTPUTS:
            yield lost("kind of output", inlet.switch, "inlets", i, "switch")
    channels = {gear.id for gear in book.gear if gear.kind == "channel"}
    for i, reward in enumerate(book.rewards):
        if reward.channel is not None and reward.channel not in channels:
            yield lost("channel", reward.channel, "rewards", i, "channel")
        if reward.picture is not None and reward.picture.media not in ids["media"]:
            yield lost("file", reward.picture.media, "rewards", i, "picture", "media")
    for i, count in enumerate(book.counts):
        for j, feed in enumerate(count.feeds):
            if feed.reward is not None and feed.reward not in ids["rewards"]:
                yield lost("reward", feed.reward, "counts", i, "feeds", j, "reward")
    for i, named in enumerate(book.sets):
        for j, member in enumerate(named.rewards):
            if member not in ids["rewards"]:
                yield lost("reward", member, "sets", i, "rewards", j)
    for i, jar in enumerate(book.jars):
        if jar.kind == "cue":
            for j, entry in enumerate(jar.entries):
                if entry.value not in ids["cues"]:
                    yield lost("cue", entry.value, "jars", i, "entries", j, "value")


NAMED = {
    "cue": "cues",
    "part": "cast",
    "hook": "gear",
    "gear": "gear",
    "jar": "jars",
    "reward": "rewards",
    "set": "sets",
    "count": "counts",
    "pattern": "patterns",
}
"""The list of the book in which a beat's names are looked up."""

_JAR, _COUNT = "jar:", "count:"
_STOPS = (_JAR, _COUNT)
MOST_CHAINED = 1_000
"""The maximum length of a chain of beats or cues that depend on each other."""


def circle(edges: dict[str, list[str]]) -> list[str] | None:
    """Returns a circle in a graph of names, as the names along it; None if there is none."""
    try:
        TopologicalSorter(edges).prepare()
    except CycleError as error:
        names: list[str] = error.args[1]
        return names[::-1]
    return None


def longest(edges: dict[str, list[str]]) -> tuple[int, str]:
    """Returns the length of the longest chain of a graph without circles, and the name at its end. A jar on the way
    doesn't count.
    """
    lengths: dict[str, int] = {}
    for name in TopologicalSorter(edges).static_order():
        counts = 0 if name.startswith(_STOPS) else 1
        lengths[name] = counts + max((lengths[other] for other in edges.get(name, [])), default=0)
    end = max(lengths, key=lengths.__getitem__, default="")
    return lengths.get(end, 0), end


def _circles(book: Book) -> Iterator[Problem]:
    for i, cue in enumerate(book.cues):
        edges = {b.id: [b.start.after] if b.start.after else [] for b in cue.beats}
        if not any(edges.values()):
            continue
        found = circle(edges)
        if found:
            yield Problem(path_of(("cues", i, "beats")), "the beats wait for each other: " + " → ".join(found))
            continue
        chained, end = longest(edges)
        if chained > MOST_CHAINED:
            index = next((j for j, beat in enumerate(cue.beats) if beat.id == end), 0)
            what = f"{chained:,} beats hang on each other; there may be {MOST_CHAINED:,}"
            yield Problem(path_of(("cues", i, "beats", index, "start", "after")), what)
        to_end = {b.id for b in cue.beats if getattr(b, "length", None) == "to_end"}
        for j, beat in enumerate(cue.beats):
            if beat.start.after in to_end and beat.start.edge == "end":
                what = f"“{beat.start.after}” lasts to the end of the run; nothing can begin after it"
                yield Problem(path_of(("cues", i, "beats", j, "start", "after")), what)
    # A jar of cues is a node of its own: it is visited once, however many cues draw from it.
    fires = {
        cue.id: [f"{_JAR}{one.jar}" if isinstance(one, FromJar) else one for one in fired(cue.beats)]
        for cue in book.cues
    }
    if not any(fires.values()) and not any(isinstance(call, CountCall) for cue in book.cues for call in cue.calls):
        return
    for cue in book.cues:
        # So is a count: raising it fires the cues that it calls.
        fires[cue.id] += [
            f"{_COUNT}{name}" for beat in cue.beats if (name := KINDS[beat.kind].counts(beat)) is not None
        ]
        for call in cue.calls:
            if isinstance(call, CountCall):
                fires.setdefault(f"{_COUNT}{call.count}", []).append(cue.id)
    fires |= {f"{_JAR}{jar.id}": [e.value for e in jar.entries] for jar in book.jars if jar.kind == "cue"}
    found = [name for name in circle(fires) or [] if not name.startswith(_STOPS)]
    if found:
        found = found if found[0] == found[-1] and len(found) > 1 else [*found, found[0]]
        index = next(i for i, cue in enumerate(book.cues) if cue.id == found[0])
        yield Problem(path_of(("cues", index)), "the cues fire each other without end: " + " → ".join(found))
        return
    chained, end = longest(fires)
    if chained > MOST_CHAINED:
        index = next((i for i, cue in enumerate(book.cues) if cue.id == end), 0)
        yield Problem(
            path_of(("cues", index)), f"{chained:,} cues fire each other in a row; there may be {MOST_CHAINED:,}"
        )
