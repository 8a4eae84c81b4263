"""The book: everything the streamer has set up, as strict models, with every reference checked.

Only values that differ from a default need to be in it. A reference to something missing (a reward, a jar, a lane) is
refused with its path; so is a circle of anchors or of cues that fire each other. Media are the exception: a file may be
lost and found again, so a missing one is a snag, not an error.
"""

from __future__ import annotations

from typing import Annotated, Literal, get_args

from pydantic import AfterValidator, Field, field_validator, model_validator

from cuejar.core.book.audience import Audience
from cuejar.core.facts.paths import canonical_path
from cuejar.core.kinds.table import KINDS, OUTPUTS, AnyBeat
from cuejar.core.parts.base import (
    Id,
    Length_s,
    Model,
    Name,
    Role,
    Seconds,
    Share,
)
from cuejar.core.parts.callkinds import Call
from cuejar.core.parts.gear import Gear, HapticPattern, HookPlace, Inlet
from cuejar.core.parts.steps import Condition, Volume

FORMAT = "cue-jar-book"
VERSION = 1

Entry = Literal["queue", "overlap", "solo", "replace", "extend", "refuse"]


Air = Literal["any", "live", "off"]
"""When cues can be called: always, only while the stream is live, only while it isn't."""


class House(Model):
    """The settings for the whole show."""

    open: bool = True
    volume: Volume = 80
    cooldown_s: Seconds = 0
    viewer_cooldown_s: Seconds = 0
    shared_cooldown_s: Seconds | None = None
    air: Air = Field(
        "any",
        description="when cues without a rule of their own can be called: always, only while live, only off air",
    )
    open_cap_s: Length_s = 600
    extend_cap_s: Length_s = 600
    loudness_lufs: Annotated[float, Field(ge=-40, le=-5)] | None = Field(
        -16, description="the target loudness of sounds (EBU R 128); none: each at its file's own"
    )
    flash_guard: bool = Field(
        True, description="anything that flashes more than three times a second is a snag and is softened"
    )
    still_s: Length_s = Field(5, description="the default length of a still picture")
    switches: dict[str, bool] = {}
    shut_out: list[str] = Field([], description="ids or names of viewers whom every door refuses")
    bots: list[str] = Field([], description="ids or names of bots, who are never drawn")
    faces: bool = Field(False, description="pictures of viewers are fetched from the channel and shown")
    spared: list[str] = Field([], description="ids or names of viewers who skip caps and cooldowns at every door")
    points_per_min: Annotated[float, Field(ge=0.01, le=100_000)] = 10
    haptics_level: Share = Field(0.8, description="the highest haptic level, whatever a cue asks for")
    haptics_most_s: Length_s = Field(15, description="the longest haptic stretch without a pause")
    haptics_pause_s: Length_s = Field(2, description="the length of that pause")
    most_text: Annotated[int, Field(ge=10, le=5_000)] = Field(
        500, description="maximum length of a viewer's text; the door says whether longer ones are refused or cut"
    )
    most_name: Annotated[int, Field(ge=5, le=200)] = Field(100, description="maximum length of a viewer's name")
    late_s: Seconds = Field(
        120, description="events of the channel that are older on arrival don't fire; redemptions always do"
    )
    osc_port: Annotated[int, Field(ge=1024, le=65_535)] | None = Field(
        None, description="the UDP port for incoming OSC; none: off"
    )
    hook_places: list[HookPlace] = Field([], description="the only hosts that hooks may call")
    nights_kept: Annotated[int, Field(ge=1, le=10_000)] | None = Field(
        None, description="how many nights are kept, with their calls; none: all"
    )
    nights_days: Annotated[int, Field(ge=1, le=36_500)] | None = Field(
        None, description="how many days a night is kept after its end, with its calls; none: no limit"
    )
    listening: Literal["off", "held", "always"] = Field(
        "off", description="whether phrases of the streamer are heard: never, while a key is held, always"
    )
    microphone: Name | None = Field(None, description="the microphone for phrases; none: the system's own")
    pads: list[Id] = Field([], description="cues in the order of their pads; the others follow")

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
    """How a reward's price changes. ``fixed`` stays; ``first`` has another price after the first of the stream;
    ``rising`` is multiplied by ``factor`` at each redemption and falls back with ``half_life_s``.
    """

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


class RewardPicture(Model):
    """A square cut out of a picture or clip: its middle as shares of width and height, and by how much it is smaller than
    the largest square.
    """

    media: Id
    x: Share = 0.5
    y: Share = 0.5
    zoom: Annotated[float, Field(ge=1, le=10)] = 1


class Reward(Model):
    id: Id
    title: Name
    cost: Annotated[int, Field(ge=1, le=10_000_000)]
    text: bool = Field(False, description="the viewer is asked for a text")
    prompt: Annotated[str, Field(max_length=400)] | None = Field(
        None, description="the prompt for viewers; none: written automatically from the door of its cue"
    )
    on: bool = True
    review: bool = Field(False, description="waits at the desk for the streamer's approval")
    price: Price = Price()
    tags: list[Name] = []
    colour: Annotated[str, Field(pattern=r"^#[0-9a-f]{6}$")] | None = None
    picture: RewardPicture | None = Field(None, description="its own picture; none: what its cue shows, tinted")
    closed: Literal["pause", "refund"] = Field(
        "pause", description="while its cue can't be called: paused at the channel, or left open and refunded"
    )
    elsewhere: bool = Field(False, description="made elsewhere: it calls cues, but can’t be changed or fulfilled here")
    channel: Id | None = Field(None, description="the only channel with it; none: all channels")


Rate = Annotated[float, Field(ge=0, le=1_000_000)]


class Points(Model):
    """Points of our own: how viewers earn them, and the chat commands by which they ask."""

    on: bool = False
    name: Annotated[str, Field(min_length=1, max_length=40)] = "points"
    per_min: Rate = Field(10, description="points per minute of watching, while live")
    member_factor: Annotated[float, Field(ge=1, le=100)] = Field(1, description="factor for a member's minute")
    follow: Rate = 300
    membership: Annotated[list[Rate], Field(min_length=1, max_length=10)] = Field(
        [500, 1000, 2500], description="by tier"
    )
    month: Rate = Field(0, description="points per month of membership, at each renewal")
    tip: Rate = Field(0, description="per unit of a tip")
    raid: Rate = Field(0, description="per viewer of a raid")
    balance_word: Annotated[str, Field(max_length=60)] = Field(
        "", description="the chat command for the balance; empty: off"
    )
    list_word: Annotated[str, Field(max_length=60)] = Field(
        "", description="the chat command for the list of rewards; empty: off"
    )


class Playbill(Model):
    """The streamer's changes to the playbill: texts by their keys, and rewards that are left out."""

    words: dict[Annotated[str, Field(max_length=120)], Annotated[str, Field(max_length=2_000)]] = {}
    left_out: list[str] = []
    samples: bool = Field(True, description="with a sample of each part of the cast")
    winners: bool = Field(False, description="with the latest winners")


class RewardSet(Model):
    """Rewards that are switched together. The set disables its rewards while it is off, while scene or category isn't
    one of its own, or while the scene is one of `off_scenes`.
    """

    id: Id
    name: Name
    rewards: Annotated[list[Id], AfterValidator(lambda rewards: list(dict.fromkeys(rewards)))] = []
    on: bool = True
    scenes: list[Name] = Field([], description="on only while one of these shows; empty: in all")
    off_scenes: list[Name] = Field([], description="off while one of these shows")
    categories: list[Name] = Field([], description="on only in one of these categories; empty: in all")


class Feed(Model):
    """What raises a count by itself: by one for each (redemptions, tips, members, follows), or by its value
    (points spent, amount tipped, viewers of a raid). Refunded redemptions don't count.
    """

    by: Literal["redemptions", "points", "tips", "tipped", "members", "follows", "raiders"]
    reward: Id | None = Field(None, description="only redemptions of this reward")


class Count(Model):
    """A number that count beats and feeds raise."""

    id: Id
    name: Name
    goal: Annotated[int, Field(ge=1, le=1_000_000_000)] | None = None
    per: Literal["stream", "good"] = Field("stream", description="starts at 0 with each stream, or keeps counting")
    feeds: Annotated[list[Feed], Field(max_length=50)] = []


class JarEntry(Model):
    value: Annotated[str, Field(min_length=1, max_length=4000)]
    name: Annotated[str, Field(max_length=200, description="its name in lists, beside its value")] = ""
    weight: Annotated[float, Field(ge=0, le=1_000_000)] = 1
    on: bool = True


class Draws(Model):
    """Who may be drawn from a jar of viewers."""

    who: Literal["present", "redeemed", "members", "list"] = Field(
        "present",
        description="who is there now, who redeemed something tonight, the members of tonight, or the jar's own entries",
    )
    within_min: Annotated[int, Field(ge=1, le=1_440)] = Field(
        10, description="there now: who wrote or was reported within this many minutes"
    )
    roles: list[Role] = Field([], description="only viewers with one of these; none: everybody")
    tier: Annotated[int, Field(ge=1, le=10)] = Field(1, description="members count from this tier")
    new_only: bool = Field(False, description="only viewers who are here for the first time tonight")
    points_from: Annotated[int, Field(ge=0, le=1_000_000_000)] = Field(
        0, description="only viewers with at least this many points of ours"
    )
    caller: bool = Field(False, description="whoever calls may be drawn, too")
    weights: dict[Role, Annotated[float, Field(ge=0, le=1_000)]] = Field(
        {}, description="weights by role, of which the highest counts; without one: 1"
    )


class Jar(Model):
    id: Id
    name: str = ""
    kind: Literal["media", "text", "colour", "cue", "source", "viewers"] = "media"
    rule: Literal["any", "no_repeat", "bag"] = "any"
    entries: Annotated[list[JarEntry], Field(max_length=100_000)] = []
    folder: str | None = Field(None, description="the folder that the jar follows")
    draws: Draws = Draws()


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
    air: Air | None = Field(None, description="always, only while live, only off air; none: the house's setting")
    text: TextRule | None = None
    only_if: Annotated[list[Condition], Field(max_length=20)] = Field(
        [], description="all of these must hold; draws and rolls aren't allowed, as they come later"
    )
    spared: list[Role] = []

    @field_validator("only_if")
    @classmethod
    def _known_at_the_door(cls, conditions: list[Condition]) -> list[Condition]:
        if any(one.drawn is not None or one.rolled is not None for one in conditions):
            raise ValueError("what is drawn or rolled is not known before the cue starts")
        return conditions


PadColour = Literal[
    "marmalade", "mint", "sky", "sage", "teal", "straw", "rose", "sand", "slate", "lilac", "plum", "brick"
]
PadMark = Literal["whistle", "bell", "lantern", "train", "signal", "kettle", "note", "star", "letter", "bird"]


class PadFace(Model):
    """How a cue's pad looks on the desk, a phone and a second screen; ``on``: it has one."""

    on: bool = True
    size: Literal["small", "wide", "large"] = "small"
    colour: PadColour | None = None
    mark: PadMark | None = None
    key: Annotated[str, Field(pattern=r"^[a-z,.;'\[\]=-]$")] | None = Field(
        None, description="the desk's key that presses it; none: the next free one of the upper row"
    )


class HiddenSnag(Model):
    """A snag that the streamer has hidden, with the reason: by its check and its beat (empty: the cue itself)."""

    check: Annotated[str, Field(pattern=r"^[a-z_]{1,40}$")]
    beat: Annotated[str, Field(max_length=80)] = ""
    reason: Annotated[str, Field(min_length=1, max_length=200)]


class Cue(Model):
    id: Id
    name: Name
    on: bool = True
    note: str = ""
    tags: list[Name] = []
    calls: Annotated[list[Call], Field(max_length=1_000)] = []
    door: Door = Door()
    lane: Id | None = Field(None, description="empty: the first lane")
    entry: Entry = "queue"
    volume: Volume | None = Field(None, description="percent of the house volume; none: 100")
    pad: PadFace = PadFace()
    hidden: list[HiddenSnag] = []
    origin: Annotated[str, Field(max_length=140)] = Field(
        "", description="of a shared cue: its origin, by which it is recognised when imported again"
    )
    beats: Annotated[list[AnyBeat], Field(max_length=2_000)] = []


Effect = Literal["echo", "tunnel", "small", "giant", "tannoy", "robot", "backwards"]


class Part(Model):
    """A part of the cast: who reads, and how. ``may`` are the effects a viewer may ask for; ``who`` may use the part."""

    id: Id
    name: Name
    on: bool = Field(True, description="off: the default part reads instead")
    base: Annotated[str, Field(pattern=r"^[A-Za-z0-9_+\-]{1,60}$")] = Field("en", description="the base voice")
    rate: Annotated[float, Field(ge=0.25, le=4)] = 1
    pitch: Annotated[float, Field(ge=0, le=2)] = 1
    volume: Volume = 100
    effect: Effect | Literal[""] = Field("", description="applied all the time")
    may: list[Effect] = []
    who: Annotated[list[Role], Field(min_length=1)] = ["everyone"]
    mouths: list[Id] = Field([], description="media of its mouth, from closed to widest")
    blink: Id | None = Field(None, description="a picture that shows now and then while the mouth is closed")


class Reading(Model):
    """How viewer text is read aloud."""

    default: Id | None = Field(None, description="the part that reads text without a name; none: the first")
    max_parts: Annotated[int, Field(ge=1, le=20)] = 4
    review: Literal["none", "new", "all"] = Field("none", description="whose texts need the streamer's approval")
    links: Literal["word", "refuse"] = "word"
    most_characters: Annotated[int, Field(ge=10, le=2_000)] = Field(
        400, description="maximum length of a text that is read aloud"
    )
    most_s: Length_s = Field(60, description="maximum duration of a text; the rest is cut off")
    viewers: dict[str, Id] = Field({}, description="the part that reads for a viewer, by their id or name")


class Trim(Model):
    from_s: Seconds = 0
    to_s: Seconds | None = None

    @model_validator(mode="after")
    def _something_left(self) -> Trim:
        if self.to_s is not None and self.to_s <= self.from_s:
            raise ValueError(f"nothing is left between {self.from_s:g} s and {self.to_s:g} s")
        return self


class MediaEntry(Model):
    """A picture, clip or sound of the library: what the streamer set for it, not what is in the file."""

    id: Id
    name: Name
    file: Annotated[str, Field(pattern=r"^[0-9a-f]{64}$")] | None = None
    trim: Trim | None = None
    licence: Annotated[str, Field(max_length=200)] = Field("", description="the terms of use")
    credit: Annotated[str, Field(max_length=400)] = Field("", description="the credit to give")


class OverlayEntry(Model):
    id: Id
    name: Name
    width: Annotated[int, Field(ge=16, le=16_384)] = 1920
    height: Annotated[int, Field(ge=16, le=16_384)] = 1080
    sound: bool = True
    picture: bool = True
    private: bool = Field(False, description="for the streamer only, not on the stream")
    timers: bool = Field(False, description="shows how long everything held is still on")
    ground: Annotated[str, Field(pattern=r"^#[0-9a-fA-F]{6}$")] | None = Field(
        None, description="a plain key colour behind everything; none: transparent"
    )


class RestingLook(Model):
    """A named set of rest values that can be applied at once."""

    id: Id
    name: Name
    values: dict[Annotated[str, AfterValidator(canonical_path)], bool | float | str] = {}


class BlockedWord(Model):
    text: Annotated[str, Field(min_length=1, max_length=200)]
    anywhere: bool = False


class WordList(Model):
    id: Id
    name: Name
    on: bool = True
    replace: str | None = Field(None, description="the replacement; empty: the text is refused")
    entries: Annotated[list[BlockedWord], Field(max_length=100_000)] = []


DEFAULT_LANE = Lane(id="main", name="Main")

ListName = Literal[
    "lanes",
    "rewards",
    "sets",
    "counts",
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
    "audiences",
]
"""The lists of the book whose entries have ids and are edited one by one."""
LISTS: tuple[ListName, ...] = get_args(ListName)


AtMost = Field(max_length=20_000)
"""The maximum number of entries of a list."""


class Book(Model):
    format: Literal["cue-jar-book"] = "cue-jar-book"
    version: Literal[1] = 1
    house: House = House()
    lanes: Annotated[list[Lane], AtMost] = []
    rewards: Annotated[list[Reward], AtMost] = []
    sets: Annotated[list[RewardSet], AtMost] = []
    counts: Annotated[list[Count], AtMost] = []
    jars: Annotated[list[Jar], AtMost] = []
    cues: Annotated[list[Cue], AtMost] = []
    cast: Annotated[list[Part], AtMost] = []
    gear: Annotated[list[Gear], AtMost] = []
    overlays: Annotated[list[OverlayEntry], AtMost] = []
    media: Annotated[list[MediaEntry], AtMost] = []
    words: Annotated[list[WordList], AtMost] = []
    looks: Annotated[list[RestingLook], AtMost] = []
    patterns: Annotated[list[HapticPattern], AtMost] = []
    inlets: Annotated[list[Inlet], AtMost] = []
    audiences: Annotated[list[Audience], AtMost] = []
    reading: Reading = Reading()
    points: Points = Points()
    playbill: Playbill = Playbill()

    @property
    def all_lanes(self) -> list[Lane]:
        """Returns the lanes in order; a book without any has one called Main."""
        return self.lanes or [DEFAULT_LANE]

    @property
    def asks_who_is_there(self) -> bool:
        """Returns whether it matters who is watching: for points of ours, or for a draw."""
        draws = any(KINDS[beat.kind].act == "draws" for cue in self.cues for beat in cue.beats)
        return self.points.on or draws or any(jar.kind == "viewers" for jar in self.jars)

    def lane_of(self, cue: Cue) -> str:
        return cue.lane or self.all_lanes[0].id
