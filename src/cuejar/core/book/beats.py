"""The kinds of beat: what a cue can do, and which of three ways each has of being over.

* A **shown** beat (picture, sound, speech, haptics, …) is up for its length and then gone.
* A **hold** (scene, filter, light, …) keeps properties of the gear at a value for its length; then they return.
* A **strike** (a hook, a count, a reply, …) has no length.

`KINDS` is the one table of them. A new kind is a model here and a row there.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, Any, Literal

from pydantic import Discriminator, Field, Tag, model_validator

from cuejar.core.book.base import Id, Length_s, Model, Name, Offset, Seconds, Share


class Start(Model):
    """When a beat begins: seconds after the run's start, or after the start or end of another beat, or a throw's hit."""

    at_s: Offset = 0
    after: Id | None = None
    edge: Literal["start", "end", "hit"] = "end"
    hit: Annotated[int, Field(ge=1, le=100)] = Field(1, description="with the edge hit: which one, counted from 1")

    @model_validator(mode="after")
    def _not_before_the_run(self) -> Start:
        if self.after is None and self.at_s < 0:
            raise ValueError("a beat cannot begin before its run: at_s must be 0 or more")
        return self


class ForSeconds(Model):
    s: Length_s


class ForLoops(Model):
    loops: Annotated[int, Field(ge=1, le=10_000)]


def _which_length(value: Any) -> str | None:
    if isinstance(value, str):
        return "word"
    if isinstance(value, ForLoops) or (isinstance(value, dict) and "loops" in value):
        return "loops"
    return "seconds"


LengthWord = Literal["natural", "to_end", "open", "keep"]
Length = Annotated[
    Annotated[ForSeconds, Tag("seconds")] | Annotated[ForLoops, Tag("loops")] | Annotated[LengthWord, Tag("word")],
    Discriminator(_which_length),
]


class FromFile(Model):
    file: Id


class FromJar(Model):
    jar: Id
    count: Annotated[int, Field(ge=1, le=100)] = 1


def _which_source(value: Any) -> str | None:
    if isinstance(value, FromJar) or (isinstance(value, dict) and "jar" in value):
        return "jar"
    return "text" if isinstance(value, str) else "file"


MediaRef = Annotated[
    Annotated[FromFile, Tag("file")] | Annotated[FromJar, Tag("jar")],
    Discriminator(_which_source),
]
Template = Annotated[str, Field(max_length=4000)]
Words = Annotated[
    Annotated[Template, Tag("text")] | Annotated[FromJar, Tag("jar")],
    Discriminator(_which_source),
]
"""A template, or a draw from a jar of texts, colours or cues."""


class Condition(Model):
    """Something that must hold at the run's start. Exactly one of the keys is given."""

    role: str | None = None
    text_has: str | None = None
    count: str | None = Field(None, description="`viewer`, `all`, or the name of a count")
    is_: Literal["=", ">=", "<="] = Field(">=", alias="is")
    number: int | None = None
    drawn: Id | None = Field(None, description="a beat that draws")
    rolled: Id | None = Field(None, description="an outcome of the chance beat")
    value: str | None = Field(None, description="what must have been drawn")

    @model_validator(mode="after")
    def _exactly_one(self) -> Condition:
        given = [k for k in ("role", "text_has", "count", "drawn", "rolled") if getattr(self, k) is not None]
        if len(given) != 1:
            raise ValueError("give exactly one of role, text_has, count, drawn, rolled")
        if self.count is not None and self.number is None:
            raise ValueError("a count is compared with a number: give number")
        if self.drawn is not None and self.value is None:
            raise ValueError("a draw is compared with a value: give value")
        return self


class Place(Model):
    """Where on the overlay, as fractions of its width and height; x, y is the upper left corner."""

    x: Annotated[float, Field(ge=-1, le=2)] = 0.3
    y: Annotated[float, Field(ge=-1, le=2)] = 0.3
    w: Annotated[float, Field(gt=0, le=3)] = 0.4
    h: Annotated[float, Field(gt=0, le=3)] = 0.4


Entrance = Literal["none", "fade", "from_left", "from_right", "from_above", "from_below", "pop", "drop"]
Volume = Annotated[float, Field(ge=0, le=100)]


class Beat(Model):
    id: Id
    start: Start = Start()
    only_if: list[Condition] = []


class _Timed(Beat):
    length: Length = ForSeconds(s=5)


class _Natural(Beat):
    length: Length = "natural"


class _Seen(Model):
    """How something seen lies on the overlay."""

    place: Place = Place()
    layer: Annotated[int, Field(ge=0, le=999)] = 0
    opacity: Share = 1
    corner: Share = 0
    flip: bool = False
    enter: Entrance = "fade"
    leave: Entrance = "fade"
    fade_in_s: Seconds = 0.2
    fade_out_s: Seconds = 0.2
    overlays: list[Id] = []


class _Heard(Model):
    """How something heard sounds; ``volume`` is percent of the cue's and the house's."""

    volume: Volume = 100
    fade_in_s: Seconds = 0
    fade_out_s: Seconds = 0
    duck: Share = Field(1, description="what other sounds are multiplied by meanwhile; 1 leaves them alone")
    overlays: list[Id] = []


class _Faded(Model):
    fade_in_s: Seconds = 0
    fade_out_s: Seconds = 0


class PictureBeat(_Natural, _Seen):
    kind: Literal["picture"]
    media: MediaRef


class ClipBeat(_Natural, _Seen):
    kind: Literal["clip"]
    media: MediaRef
    volume: Volume = 100
    duck: Share = 1


class SoundBeat(_Natural, _Heard):
    kind: Literal["sound"]
    media: MediaRef


class SpeechBeat(_Natural, _Heard):
    kind: Literal["speech"]
    text: Words = "{{text}}"
    part: Id | None = None
    caption: bool = True
    mouth: bool = Field(False, description="the part's mouth pictures follow the sound")
    place: Place = Place(x=0.1, y=0.75, w=0.8, h=0.18)
    mouth_place: Place = Place(x=0.72, y=0.3, w=0.24, h=0.44)
    size: Annotated[float, Field(ge=0.01, le=1)] = Field(0.06, description="height of the caption's type")


class CaptionBeat(_Timed, _Seen):
    kind: Literal["caption"]
    text: Words
    place: Place = Place(x=0.1, y=0.78, w=0.8, h=0.14)
    size: Annotated[float, Field(ge=0.01, le=1)] = Field(0.06, description="height of the type, of the overlay's")
    colour: str = "#f4eedd"
    plate: str | None = "#121d1b"
    face: Literal["display", "text"] = "display"
    align: Literal["left", "centre", "right"] = "centre"


class BurstBeat(_Timed, _Seen):
    kind: Literal["burst"]
    media: MediaRef | None = None
    shape: Literal["ticket", "spark", "leaf", "dot"] = "ticket"
    colours: list[str] = ["#f0a23c", "#79c9a2", "#f4eedd"]
    count: Annotated[int, Field(ge=1, le=400)] = 60
    spread: Annotated[float, Field(ge=0, le=360)] = 90
    speed: Share = 0.7
    gravity: Annotated[float, Field(ge=-1, le=2)] = 0.6
    bounce: Share = 0
    life_s: Length_s = 3


class ThrowBeat(_Natural, _Seen):
    """Things, or drops of a liquid, thrown at the avatar. The place is the part of the overlay that they may cross."""

    kind: Literal["throw"]
    media: MediaRef | None = Field(None, description="a picture that is thrown; none: drops of ``colour``")
    count: Annotated[int, Field(ge=1, le=100)] = 5
    every_s: Seconds = 0.4
    place: Place = Place(x=0, y=0, w=1, h=1)
    origin: Literal["above", "left", "right", "point", "random"] = "above"
    from_x: Annotated[float, Field(ge=-1, le=2)] = 0.5
    from_y: Annotated[float, Field(ge=-1, le=2)] = 0
    targets: list[Id] = Field([], description="circles on the avatar, one at random for each; none: all of them")
    flight_s: Length_s = 0.7
    arc: Annotated[float, Field(ge=0, le=1)] = Field(0.12, description="how high over the straight way, of the height")
    spin: Annotated[float, Field(ge=-5, le=5)] = Field(0.7, description="turns while it flies")
    landing: Literal["bounce", "stick", "run"] = "bounce"
    linger_s: Length_s = Field(1.2, description="how long it is there after it hit")
    size: Annotated[float, Field(gt=0, le=1)] = Field(0.12, description="of the overlay's height")
    colour: str = "#6b3a12"
    thickness: Share = Field(0.7, description="of a drop: 0 runs like water, 1 hardly runs")


class HapticsBeat(_Natural):
    kind: Literal["haptics"]
    pattern: Name
    strength: Share = 1


class SceneBeat(_Timed, _Faded):
    kind: Literal["scene"]
    scene: Name


class SourceBeat(_Timed, _Faded):
    kind: Literal["source"]
    scene: Name
    source: Name | None = None
    any_source: bool = Field(False, description="one at random of the scene's sources")
    beginning: str = Field("", description="with any_source: only those whose name begins so")
    hide_others: bool = False
    visible: bool = True

    @model_validator(mode="after")
    def _one_way(self) -> SourceBeat:
        if (self.source is None) == (not self.any_source):
            raise ValueError("name a source, or set any_source")
        return self


def _one_for_many(data: Any, one: str, many: str) -> Any:
    """``{"source": "Bench cam"}`` is read as ``{"sources": ["Bench cam"]}``."""
    if isinstance(data, dict) and one in data and many not in data:
        return {**{key: value for key, value in data.items() if key != one}, many: [data[one]]}
    return data


class FilterBeat(_Timed, _Faded):
    kind: Literal["filter"]
    sources: Annotated[list[Name], Field(min_length=1)]
    filter: Name
    setting: Name = "on"
    value: bool | float | str = True

    @model_validator(mode="before")
    @classmethod
    def _one(cls, data: Any) -> Any:
        return _one_for_many(data, "source", "sources")


class LightBeat(_Timed, _Faded):
    kind: Literal["light"]
    fixtures: Literal["all"] | list[Id] = "all"
    colour: Words | None = None
    level: Share | None = None
    look: Literal["steady", "breathe", "chase", "flicker"] | None = None
    period_s: Annotated[float, Field(ge=0.2, le=60)] = Field(2, description="how long one turn of the look takes")

    @model_validator(mode="after")
    def _something(self) -> LightBeat:
        if self.colour is None and self.level is None and self.look is None:
            raise ValueError("give a colour, a level or a look")
        return self


class AvatarBeat(_Timed, _Faded):
    kind: Literal["avatar"]
    model: Name | None = None
    outfit: Name | None = None
    expression: Name | None = None
    expressions: list[Name] = Field([], description="more of them at once")
    pose: Name | None = None

    @model_validator(mode="after")
    def _something(self) -> AvatarBeat:
        if not (self.model or self.outfit or self.expression or self.expressions or self.pose):
            raise ValueError("give a model, an outfit, an expression or a pose")
        return self


class VoiceBeat(_Timed, _Faded):
    kind: Literal["voice"]
    preset: Name | None = None
    pitch: Annotated[float, Field(ge=-24, le=24)] | None = Field(None, description="half tones up or down")
    mix: Share | None = Field(None, description="0: the voice as it is, 1: only the changed voice")

    @model_validator(mode="after")
    def _something(self) -> VoiceBeat:
        if self.preset is None and self.pitch is None and self.mix is None:
            raise ValueError("give a preset, a pitch or a mix")
        return self


class KeysBeat(_Timed):
    kind: Literal["keys"]
    combo: Name


class RewardBeat(_Timed):
    kind: Literal["reward"]
    rewards: Annotated[list[Id], Field(min_length=1)]
    on: bool | None = None
    cost: Annotated[int, Field(ge=1, le=10_000_000)] | None = None

    @model_validator(mode="before")
    @classmethod
    def _one(cls, data: Any) -> Any:
        return _one_for_many(data, "reward", "rewards")

    @model_validator(mode="after")
    def _something(self) -> RewardBeat:
        if self.on is None and self.cost is None:
            raise ValueError("give on or cost")
        return self


class TapBeat(Beat):
    kind: Literal["tap"]
    combo: Name


class HookBeat(Beat):
    kind: Literal["hook"]
    hook: Id
    payload: Template = Field("", description="a body for this beat alone; empty: the hook's own")
    then_s: Length_s | None = Field(None, description="so long after it a second call goes out")
    then_payload: Template = ""


class CountBeat(Beat):
    kind: Literal["count"]
    name: Id
    add: Annotated[int, Field(ge=-1_000_000, le=1_000_000)] = 1


class ReplyBeat(Beat):
    kind: Literal["reply"]
    text: Words


class FireBeat(Beat):
    kind: Literal["fire"]
    cue: Id | FromJar


class Outcome(Model):
    """One outcome of a chance beat, tested in order; the first that holds is taken."""

    id: Id
    name: str = ""
    when: Literal["sum", "pair", "all_equal", "faces", "any"] = "any"
    is_: Literal["=", ">=", "<=", "in"] = Field("=", alias="is")
    number: int | None = None
    numbers: list[int] = []
    weight: Annotated[float, Field(ge=0, le=1_000_000)] = Field(1, description="for a drum: its share of the turn")

    @model_validator(mode="after")
    def _numbers_given(self) -> Outcome:
        if self.when == "sum" and self.is_ != "in" and self.number is None:
            raise ValueError("a sum is compared with a number: give number")
        if (self.when == "faces" or (self.when == "sum" and self.is_ == "in")) and not self.numbers:
            raise ValueError("give numbers")
        return self


class Dice(Model):
    count: Annotated[int, Field(ge=1, le=8)] = 2
    sides: Annotated[int, Field(ge=2, le=100)] = 6


class ChanceBeat(Beat, _Seen):
    kind: Literal["chance"]
    dice: Dice | None = Field(None, description="without dice it is a drum that spins to one outcome by weight")
    outcomes: Annotated[list[Outcome], Field(min_length=1)]
    spin_s: Length_s = 2

    @model_validator(mode="after")
    def _tellable(self) -> ChanceBeat:
        if len({o.id for o in self.outcomes}) != len(self.outcomes):
            raise ValueError("two outcomes have the same id")
        if self.dice is None and not any(o.weight > 0 for o in self.outcomes):
            raise ValueError("at least one outcome needs a weight")
        return self


AnyBeat = Annotated[
    PictureBeat
    | ClipBeat
    | SoundBeat
    | SpeechBeat
    | CaptionBeat
    | BurstBeat
    | ThrowBeat
    | HapticsBeat
    | SceneBeat
    | SourceBeat
    | FilterBeat
    | LightBeat
    | AvatarBeat
    | VoiceBeat
    | KeysBeat
    | RewardBeat
    | TapBeat
    | HookBeat
    | CountBeat
    | ReplyBeat
    | FireBeat
    | ChanceBeat,
    Field(discriminator="kind"),
]

Way = Literal["shown", "hold", "strike"]


@dataclass(frozen=True)
class Kind:
    """A row of the table of kinds: how it ends, which mark it wears, which gear must be there."""

    way: Way
    output: str
    gear: str | None = None


KINDS: dict[str, Kind] = {
    "picture": Kind("shown", "picture"),
    "clip": Kind("shown", "clip"),
    "sound": Kind("shown", "sound"),
    "speech": Kind("shown", "speech"),
    "caption": Kind("shown", "caption"),
    "burst": Kind("shown", "picture"),
    "throw": Kind("shown", "avatar"),
    "haptics": Kind("shown", "haptics", "haptics"),
    "scene": Kind("hold", "broadcast", "broadcaster"),
    "source": Kind("hold", "broadcast", "broadcaster"),
    "filter": Kind("hold", "broadcast", "broadcaster"),
    "light": Kind("hold", "light", "lights"),
    "avatar": Kind("hold", "avatar", "avatar"),
    "voice": Kind("hold", "voice", "voice"),
    "keys": Kind("hold", "keys", "keys"),
    "reward": Kind("hold", "reward"),
    "tap": Kind("strike", "keys", "keys"),
    "hook": Kind("strike", "hook", "hook"),
    "count": Kind("strike", "count"),
    "reply": Kind("strike", "reply"),
    "fire": Kind("strike", "cue"),
    "chance": Kind("strike", "chance"),
}

OUTPUTS = frozenset({kind.output for kind in KINDS.values()} | set(KINDS))
"""What a house switch may be named after: a kind of output, or a single kind of beat."""

UNION_TAGS = frozenset(KINDS) | {"seconds", "loops", "word", "file", "jar", "text"}
