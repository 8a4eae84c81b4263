"""The book: everything the streamer has set up, as strict models, with every reference checked.

Only what differs from a default need be in it. Whatever points at nothing (a cue at a reward, a beat at a jar, a
lane that is not there) is refused with the path at which it stands; so is a circle of anchors or of cues that fire
each other. Media are the exception: a file may be lost and found again, so a missing one is a snag, not an error.
"""

from __future__ import annotations

import json
from collections.abc import Iterator, Sequence
from typing import Annotated, Any, Literal

from pydantic import Field, field_validator, model_validator

from cuejar.core.base import (
    BookError,
    Id,
    Length_s,
    Model,
    Name,
    Problem,
    Seconds,
    Share,
    parsed,
    path_of,
)
from cuejar.core.beats import OUTPUTS, UNION_TAGS, AnyBeat, FromJar, Volume
from cuejar.core.gear import Gear, HapticPattern, HookPlace, Inlet

FORMAT = "cue-jar-book"
VERSION = 1

Role = Literal["everyone", "follower", "member", "vip", "moderator", "streamer"]
Entry = Literal["queue", "overlap", "solo", "replace", "extend", "refuse"]


class House(Model):
    """The settings over everything."""

    open: bool = True
    volume: Volume = 80
    cooldown_s: Seconds = 0
    viewer_cooldown_s: Seconds = 0
    shared_cooldown_s: Seconds | None = None
    open_cap_s: Length_s = 600
    extend_cap_s: Length_s = 600
    loudness_lufs: Annotated[float, Field(ge=-40, le=-5)] | None = Field(
        -16, description="what sounds are levelled to (EBU R 128); none: each as loud as its file"
    )
    flash_guard: bool = Field(True, description="what flashes more than three times a second is a snag, and softened")
    still_s: Length_s = Field(5, description="how long a still picture is up when nothing else says so")
    switches: dict[str, bool] = {}
    shut_out: list[str] = Field([], description="ids or names of viewers whom every door turns away")
    points_per_min: Annotated[float, Field(ge=0.01, le=100_000)] = 10
    haptics_level: Share = Field(0.8, description="the highest level that reaches the skin, whatever a cue asks for")
    haptics_most_s: Length_s = Field(15, description="how long something may be felt without a pause")
    haptics_pause_s: Length_s = Field(2, description="how long that pause is")
    hook_places: list[HookPlace] = Field([], description="where hooks may go; nowhere else")

    @field_validator("switches")
    @classmethod
    def _known(cls, switches: dict[str, bool]) -> dict[str, bool]:
        for name in switches:
            if name not in OUTPUTS:
                raise ValueError(f"“{name}” is no kind of output; there are {', '.join(sorted(OUTPUTS))}")
        return switches


class Lane(Model):
    id: Id
    name: Name
    width: Annotated[int, Field(ge=1, le=100)] = 1
    line: Annotated[int, Field(ge=0, le=10_000)] = 20
    wait_s: Seconds = 180
    gap_s: Seconds = 0
    order: Literal["arrival", "fair"] = "arrival"


class Price(Model):
    """How a reward's cost moves. ``fixed`` stays; ``first`` has another price after the first of the stream;
    ``rising`` is multiplied by ``factor`` at each redemption and falls back with ``half_life_s``."""

    kind: Literal["fixed", "first", "rising"] = "fixed"
    then: Annotated[int, Field(ge=1, le=10_000_000)] | None = None
    factor: Annotated[float, Field(ge=1, le=10)] = 1.2
    half_life_s: Length_s = 600
    least: Annotated[int, Field(ge=1, le=10_000_000)] = 1
    most: Annotated[int, Field(ge=1, le=10_000_000)] = 10_000_000
    step: Annotated[int, Field(ge=1, le=1_000_000)] = 1

    @model_validator(mode="after")
    def _tellable(self) -> Price:
        if self.kind == "first" and self.then is None:
            raise ValueError("a price that differs after the first needs then")
        if self.least > self.most:
            raise ValueError(f"least ({self.least}) is above most ({self.most})")
        return self


class Reward(Model):
    id: Id
    title: Name
    cost: Annotated[int, Field(ge=1, le=10_000_000)]
    text: bool = Field(False, description="the viewer is asked for a text")
    prompt: Annotated[str, Field(max_length=400)] = ""
    on: bool = True
    review: bool = Field(False, description="waits at the desk until the streamer says yes")
    price: Price = Price()


class JarEntry(Model):
    value: Annotated[str, Field(min_length=1, max_length=4000)]
    weight: Annotated[float, Field(ge=0, le=1_000_000)] = 1
    on: bool = True


class Jar(Model):
    id: Id
    name: str = ""
    kind: Literal["media", "text", "colour", "cue", "source"] = "media"
    rule: Literal["any", "no_repeat", "bag"] = "any"
    entries: list[JarEntry] = []
    folder: str | None = Field(None, description="a folder that the jar follows")


class RewardCall(Model):
    kind: Literal["reward"]
    reward: Id


class ChatCall(Model):
    kind: Literal["chat"]
    match: Literal["is", "starts", "has_word", "contains"] = "is"
    text: Annotated[str, Field(min_length=1, max_length=200)]

    @model_validator(mode="before")
    @classmethod
    def _short_form(cls, data: Any) -> Any:
        """``{"kind": "chat", "starts": "!tint"}`` is read as ``match`` and ``text``."""
        if isinstance(data, dict) and "match" not in data and "text" not in data:
            for match in ("is", "starts", "has_word", "contains"):
                if match in data:
                    rest = {k: v for k, v in data.items() if k != match}
                    return {**rest, "match": match, "text": data[match]}
        return data


class _FromTo(Model):
    from_: Annotated[float, Field(ge=0)] | None = Field(None, alias="from")
    to: Annotated[float, Field(ge=0)] | None = None

    @model_validator(mode="after")
    def _in_order(self) -> _FromTo:
        if self.from_ is not None and self.to is not None and self.from_ > self.to:
            raise ValueError(f"from ({self.from_:g}) is above to ({self.to:g})")
        return self

    def has(self, amount: float) -> bool:
        return (self.from_ is None or amount >= self.from_) and (self.to is None or amount <= self.to)


class TipCall(_FromTo):
    kind: Literal["tip"]


class RaidCall(_FromTo):
    kind: Literal["raid"]


class FollowCall(Model):
    kind: Literal["follow"]


class MembershipCall(Model):
    kind: Literal["membership"]
    tier: Annotated[int, Field(ge=1, le=10)] | None = None
    months_from: int | None = None
    months_to: int | None = None
    gifts_from: int | None = None
    gifts_to: int | None = None


class HookCall(Model):
    kind: Literal["hook"]
    name: Name


class PadCall(Model):
    kind: Literal["pad"]


class ClockCall(Model):
    kind: Literal["clock"]
    every_min: Annotated[float, Field(ge=0.01, le=1440)] | None = None
    at_min: Annotated[float, Field(ge=0, le=10_000)] | None = None

    @model_validator(mode="after")
    def _one(self) -> ClockCall:
        if (self.every_min is None) == (self.at_min is None):
            raise ValueError("give every_min or at_min")
        return self


class StreamCall(Model):
    kind: Literal["stream"]
    state: Literal["live", "ended"] = "live"


class SceneCall(Model):
    kind: Literal["scene"]
    scene: Name


Call = Annotated[
    RewardCall
    | ChatCall
    | TipCall
    | RaidCall
    | FollowCall
    | MembershipCall
    | HookCall
    | PadCall
    | ClockCall
    | StreamCall
    | SceneCall,
    Field(discriminator="kind"),
]


class CapWindow(Model):
    count: Annotated[int, Field(ge=1, le=100_000)]
    per_s: Length_s


class TextRule(Model):
    need: bool = False
    kind: Literal["any", "colour", "number", "choice"] = "any"
    min: Annotated[int, Field(ge=0, le=10_000)] | None = None
    max: Annotated[int, Field(ge=1, le=10_000)] | None = None
    too_long: Literal["refuse", "cut"] = "refuse"
    choices: list[Name] = []
    range: Annotated[list[int], Field(min_length=2, max_length=2)] | None = None

    @model_validator(mode="after")
    def _tellable(self) -> TextRule:
        if self.kind == "choice" and not self.choices:
            raise ValueError("a choice needs choices")
        if self.range is not None and self.range[0] > self.range[1]:
            raise ValueError(f"range begins at {self.range[0]} and ends before it, at {self.range[1]}")
        if self.min is not None and self.max is not None and self.min > self.max:
            raise ValueError(f"min ({self.min}) is above max ({self.max})")
        return self


Cap = Annotated[int, Field(ge=1, le=1_000_000)]


class Door(Model):
    who: Annotated[list[Role], Field(min_length=1)] = ["everyone"]
    tier: Annotated[int, Field(ge=1, le=10)] = Field(1, description="members count from this tier")
    shut_out: list[str] = []
    cooldown_s: Seconds | None = None
    viewer_cooldown_s: Seconds | None = None
    cooldown_from: Literal["admitted", "finished"] = "admitted"
    cap_stream: Cap | None = None
    cap_viewer: Cap | None = None
    cap_window: CapWindow | None = None
    categories: list[Name] = []
    scenes: list[Name] = []
    text: TextRule | None = None
    spared: list[Role] = []


class Cue(Model):
    id: Id
    name: Name
    on: bool = True
    note: str = ""
    tags: list[Name] = []
    calls: list[Call] = []
    door: Door = Door()
    lane: Id | None = Field(None, description="none: the first lane")
    entry: Entry = "queue"
    volume: Volume | None = Field(None, description="none: as the house")
    beats: list[AnyBeat] = []


Effect = Literal["echo", "tunnel", "small", "giant", "tannoy", "robot", "backwards"]


class Part(Model):
    """A part of the cast: who reads, and how. ``may`` are the effects a viewer may ask for; ``who`` may use the part."""

    id: Id
    name: Name
    on: bool = Field(True, description="off: shut out, the default part reads instead")
    base: Annotated[str, Field(pattern=r"^[A-Za-z0-9_+\-]{1,60}$")] = Field("en", description="the base voice")
    rate: Annotated[float, Field(ge=0.25, le=4)] = 1
    pitch: Annotated[float, Field(ge=0, le=2)] = 1
    volume: Volume = 100
    effect: Effect | Literal[""] = Field("", description="always on it")
    may: list[Effect] = []
    who: Annotated[list[Role], Field(min_length=1)] = ["everyone"]
    mouths: list[Id] = Field([], description="media of its mouth, from closed to widest")
    blink: Id | None = Field(None, description="a picture that shows now and then while the mouth is closed")


class Reading(Model):
    """How viewer text is read aloud."""

    default: Id | None = Field(None, description="the part that reads what names nobody; none: the first")
    max_parts: Annotated[int, Field(ge=1, le=20)] = 4
    review: Literal["none", "new", "all"] = Field("none", description="whose texts wait for the streamer's yes")
    links: Literal["word", "refuse"] = "word"
    viewers: dict[str, Id] = Field({}, description="a part of their own that reads for a viewer, by id or name")


class Trim(Model):
    from_s: Seconds = 0
    to_s: Seconds | None = None

    @model_validator(mode="after")
    def _something_left(self) -> Trim:
        if self.to_s is not None and self.to_s <= self.from_s:
            raise ValueError(f"nothing is left between {self.from_s:g} s and {self.to_s:g} s")
        return self


class MediaEntry(Model):
    """A picture, clip or sound of the library: what the streamer said about it, not what is in the file."""

    id: Id
    name: Name
    file: Annotated[str, Field(pattern=r"^[0-9a-f]{64}$")] | None = None
    trim: Trim | None = None


class OverlayEntry(Model):
    id: Id
    name: Name
    width: Annotated[int, Field(ge=16, le=16_384)] = 1920
    height: Annotated[int, Field(ge=16, le=16_384)] = 1080
    sound: bool = True
    picture: bool = True
    private: bool = Field(False, description="for the streamer only, not on the stream")
    timers: bool = Field(False, description="shows how long everything that is held is still on")
    ground: Annotated[str, Field(pattern=r"^#[0-9a-fA-F]{6}$")] | None = Field(
        None, description="a plain key colour behind everything; none: see-through"
    )


class RestingLook(Model):
    """A named set of rest values that can be taken up at once."""

    id: Id
    name: Name
    values: dict[str, bool | float | str] = {}


class BlockedWord(Model):
    text: Annotated[str, Field(min_length=1, max_length=200)]
    anywhere: bool = False


class WordList(Model):
    id: Id
    name: Name
    on: bool = True
    replace: str | None = Field(None, description="what stands for the word; none: the text is turned away")
    entries: list[BlockedWord] = []


DEFAULT_LANE = Lane(id="main", name="Main")


class Book(Model):
    format: Literal["cue-jar-book"] = "cue-jar-book"
    version: Literal[1] = 1
    house: House = House()
    lanes: list[Lane] = []
    rewards: list[Reward] = []
    jars: list[Jar] = []
    cues: list[Cue] = []
    cast: list[Part] = []
    gear: list[Gear] = []
    overlays: list[OverlayEntry] = []
    media: list[MediaEntry] = []
    words: list[WordList] = []
    looks: list[RestingLook] = []
    patterns: list[HapticPattern] = []
    inlets: list[Inlet] = []
    reading: Reading = Reading()

    @property
    def all_lanes(self) -> list[Lane]:
        """The lanes in order; a book without any has one called Main."""
        return self.lanes or [DEFAULT_LANE]

    def lane_of(self, cue: Cue) -> str:
        return cue.lane or self.all_lanes[0].id


LISTS = (
    "lanes",
    "rewards",
    "jars",
    "cues",
    "cast",
    "gear",
    "overlays",
    "media",
    "words",
    "looks",
    "patterns",
    "inlets",
)
"""The lists of the book whose entries have ids and are edited one by one."""


def book_from(data: Any) -> Book:
    """A checked book from parsed JSON.

    Raises:
        BookError: every unknown key, wrong value, dangling reference and circle, each with its path.
    """
    if isinstance(data, dict) and "version" in data and data["version"] != VERSION:
        raise BookError([Problem("version", f"this is version {data['version']}; only {VERSION} is known here")])
    book: Book = parsed(Book, data, UNION_TAGS)
    problems = [*_twice(book), *_dangling(book), *_circles(book)]
    if problems:
        raise BookError(problems)
    return book


def book_json(book: Book) -> dict[str, Any]:
    """The book as JSON, with only what differs from the defaults."""
    kept = book.model_dump(mode="json", by_alias=True, exclude_defaults=True)
    return {"format": FORMAT, "version": VERSION, **kept}


def book_text(book: Book) -> str:
    return json.dumps(book_json(book), ensure_ascii=False, indent=1)


def _twice(book: Book) -> Iterator[Problem]:
    def doubles(items: Sequence[Any], *path: int | str) -> Iterator[Problem]:
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


def _dangling(book: Book) -> Iterator[Problem]:
    ids = {name: {item.id for item in getattr(book, name)} for name in LISTS}
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
        beats = {beat.id for beat in cue.beats}
        for j, beat in enumerate(cue.beats):
            here = (*at, "beats", j)
            if beat.start.after is not None and beat.start.after not in beats:
                yield lost("beat", beat.start.after, *here, "start", "after")
            for k, condition in enumerate(beat.only_if):
                if condition.drawn is not None and condition.drawn not in beats:
                    yield lost("beat", condition.drawn, *here, "only_if", k, "drawn")
                outcomes = {o.id for b in cue.beats if b.kind == "chance" for o in b.outcomes}
                if condition.rolled is not None and condition.rolled not in outcomes:
                    yield lost("outcome", condition.rolled, *here, "only_if", k, "rolled")
            for key, wanted in (("media", ("media",)), ("text", ("text",)), ("colour", ("colour",)), ("cue", ("cue",))):
                value = getattr(beat, key, None)
                if isinstance(value, FromJar):
                    if value.jar not in jar_kinds:
                        yield lost("jar", value.jar, *here, key, "jar")
                    elif jar_kinds[value.jar] not in wanted:
                        what = f"the jar “{value.jar}” holds {jar_kinds[value.jar]}, not {wanted[0]}"
                        yield Problem(path_of((*here, key, "jar")), what)
            if beat.kind == "fire" and isinstance(beat.cue, str) and beat.cue not in ids["cues"]:
                yield lost("cue", beat.cue, *here, "cue")
            if beat.kind == "speech" and beat.part is not None and beat.part not in ids["cast"]:
                yield lost("part", beat.part, *here, "part")
            if beat.kind == "hook" and beat.hook not in ids["gear"]:
                yield lost("hook", beat.hook, *here, "hook")
            if beat.kind == "reward":
                for k, reward in enumerate(beat.rewards):
                    if reward not in ids["rewards"]:
                        yield lost("reward", reward, *here, "rewards", k)
            if beat.kind == "light" and isinstance(beat.fixtures, list) and fixtures:
                for k, fixture in enumerate(beat.fixtures):
                    if fixture not in fixtures:
                        yield lost("fixture", fixture, *here, "fixtures", k)
            for k, overlay in enumerate(getattr(beat, "overlays", [])):
                if overlay not in ids["overlays"]:
                    yield lost("overlay", overlay, *here, "overlays", k)
    for i, jar in enumerate(book.jars):
        if jar.kind == "cue":
            for j, entry in enumerate(jar.entries):
                if entry.value not in ids["cues"]:
                    yield lost("cue", entry.value, "jars", i, "entries", j, "value")


def circle(edges: dict[str, list[str]]) -> list[str] | None:
    """The first circle in a graph of names, as the names along it; None when there is none."""
    done: set[str] = set()
    trail: list[str] = []

    def walk(node: str) -> list[str] | None:
        if node in trail:
            return [*trail[trail.index(node) :], node]
        if node in done:
            return None
        trail.append(node)
        for other in edges.get(node, []):
            found = walk(other)
            if found:
                return found
        trail.pop()
        done.add(node)
        return None

    for node in edges:
        found = walk(node)
        if found:
            return found
    return None


def _circles(book: Book) -> Iterator[Problem]:
    for i, cue in enumerate(book.cues):
        edges = {b.id: [b.start.after] if b.start.after else [] for b in cue.beats}
        found = circle(edges)
        if found:
            yield Problem(path_of(("cues", i, "beats")), "the beats wait for each other: " + " → ".join(found))
            continue
        to_end = {b.id for b in cue.beats if getattr(b, "length", None) == "to_end"}
        for j, beat in enumerate(cue.beats):
            if beat.start.after in to_end and beat.start.edge == "end":
                what = f"“{beat.start.after}” lasts to the end of the run; nothing can begin after it"
                yield Problem(path_of(("cues", i, "beats", j, "start", "after")), what)
    fires: dict[str, list[str]] = {}
    jars = {jar.id: [e.value for e in jar.entries] for jar in book.jars}
    for cue in book.cues:
        fires[cue.id] = [
            target
            for beat in cue.beats
            if beat.kind == "fire"
            for target in (jars.get(beat.cue.jar, []) if isinstance(beat.cue, FromJar) else [beat.cue])
        ]
    found = circle(fires)
    if found:
        index = next(i for i, cue in enumerate(book.cues) if cue.id == found[0])
        yield Problem(path_of(("cues", index)), "the cues fire each other without end: " + " → ".join(found))
