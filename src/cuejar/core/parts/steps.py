"""What beats have in common: when they start, how long they last, what they draw from, where and how they are seen and
heard.
"""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Discriminator, Field, Tag, model_validator

from cuejar.core.parts.base import Id, Length_s, Model, Name, Offset, Role, Seconds, Share


class Start(Model):
    """When a beat begins: seconds after the start of the run, or after the start or end of another beat, or a throw's
    hit.
    """

    at_s: Offset = 0
    after: Id | None = None
    edge: Literal["start", "end", "hit"] = "end"
    hit: Annotated[int, Field(ge=1, le=100)] = Field(1, description="with the edge hit: which one, counted from 1")

    @model_validator(mode="after")
    def _not_before_the_run(self) -> Start:
        if self.after is None and self.at_s < 0:
            raise ValueError("a beat can’t start before its run: at_s must be 0 or more")
        return self


class ForSeconds(Model):
    s: Length_s


class ForLoops(Model):
    loops: Annotated[int, Field(ge=1, le=10_000)]


def _which_length(value: object) -> str | None:
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


class FromFace(Model):
    """The picture of the viewer that the beat is for."""

    face: Literal["viewer"]


def _which_source(value: object) -> str | None:
    if isinstance(value, FromFace) or (isinstance(value, dict) and "face" in value):
        return "face"
    if isinstance(value, FromJar) or (isinstance(value, dict) and "jar" in value):
        return "jar"
    return "text" if isinstance(value, str) else "file"


MediaRef = Annotated[
    Annotated[FromFile, Tag("file")] | Annotated[FromJar, Tag("jar")],
    Discriminator(_which_source),
]
PictureRef = Annotated[
    Annotated[FromFile, Tag("file")] | Annotated[FromJar, Tag("jar")] | Annotated[FromFace, Tag("face")],
    Discriminator(_which_source),
]
Template = Annotated[str, Field(max_length=4000)]
SettingValue = bool | float | Template
"""A value of a gear setting: true or false, a number, or a text that may contain templates."""
Words = Annotated[
    Annotated[Template, Tag("text")] | Annotated[FromJar, Tag("jar")],
    Discriminator(_which_source),
]
"""A template, or a draw from a jar of texts, colours or cues."""


CONDITIONS = (
    "role", "text_is", "text_has", "text_contains", "live", "category", "scene", "gear", "count", "drawn", "rolled",
)  # fmt: skip
"""The subjects of conditions, except for the number in the text."""


class Condition(Model):
    """A condition at the start of the run. Exactly one of the keys is given; ``not`` inverts it."""

    not_: bool = Field(False, alias="not")
    role: Role | None = None
    text_is: Annotated[str, Field(max_length=500)] | None = None
    text_has: Annotated[str, Field(max_length=500)] | None = Field(None, description="a whole word of the text")
    text_contains: Annotated[str, Field(max_length=500)] | None = None
    text_from: int | None = Field(None, description="the number in the text is at least this")
    text_to: int | None = Field(None, description="the number in the text is at most this")
    live: bool | None = None
    category: Name | None = None
    scene: Name | None = None
    gear: Id | None = Field(None, description="this gear is connected")
    count: str | None = Field(None, description="`viewer`, `all`, or the name of a count")
    is_: Literal["=", ">=", "<="] = Field(">=", alias="is")
    number: int | None = None
    drawn: Id | None = Field(None, description="a beat that draws")
    rolled: Id | None = Field(None, description="an outcome of the chance beat")
    value: str | None = Field(None, description="what must have been drawn")

    @model_validator(mode="after")
    def _exactly_one(self) -> Condition:
        given = [k for k in CONDITIONS if getattr(self, k) is not None]
        if self.text_from is not None or self.text_to is not None:
            given.append("text_from")
        if len(given) != 1:
            raise ValueError(f"give exactly one of {', '.join(CONDITIONS)}, text_from and text_to")
        if self.text_from is not None and self.text_to is not None and self.text_from > self.text_to:
            raise ValueError(f"text_from ({self.text_from}) is above text_to ({self.text_to})")
        if self.count is not None and self.number is None:
            raise ValueError("a count is compared with a number: give number")
        if self.drawn is not None and self.value is None:
            raise ValueError("a draw is compared with a value: give value")
        return self


class Place(Model):
    """A place on the overlay, as fractions of its width and height; x, y is the upper left corner."""

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
    unless: bool = Field(False, description="only if not all conditions hold")
    whose: Literal["caller", "drawn"] = Field(
        "caller", description="the viewer it is for: who called, or who was drawn"
    )


class Timed(Beat):
    length: Length = ForSeconds(s=5)


class Natural(Beat):
    length: Length = "natural"


class Visible(Model):
    """How something visible lies on the overlay."""

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


class Audible(Model):
    """How something audible sounds; ``volume`` is percent of the cue's and the house's."""

    volume: Volume = 100
    fade_in_s: Seconds = 0
    fade_out_s: Seconds = 0
    duck: Share = Field(1, description="the factor for other sounds meanwhile; 1 leaves them unchanged")
    overlays: list[Id] = []


class Faded(Model):
    fade_in_s: Seconds = 0
    fade_out_s: Seconds = 0


class Flight(Model):
    """Thrown things: how many, from where, at whom, and how they fly."""

    count: Annotated[int, Field(ge=1, le=100)] = 5
    every_s: Seconds = 0.4
    origin: Literal["above", "left", "right", "point", "random"] = "above"
    from_x: Annotated[float, Field(ge=-1, le=2)] = 0.5
    from_y: Annotated[float, Field(ge=-1, le=2)] = 0
    targets: list[Id] = Field([], description="circles on the avatar, a random one for each; none: all of them")
    flight_s: Length_s = 0.7
    arc: Annotated[float, Field(ge=0, le=1)] = Field(
        0.12, description="height above the straight line, as a share of the overlay's height"
    )
    spin: Annotated[float, Field(ge=-5, le=5)] = Field(0.7, description="turns during the flight")
    linger_s: Length_s = Field(1.2, description="how long it stays after the hit")


def one_for_many(data: object, one: str, many: str) -> object:
    """Reads ``{"source": "Bench cam"}`` as ``{"sources": ["Bench cam"]}``; none as an empty list."""
    if isinstance(data, dict) and one in data and (many not in data or data[one] is None):
        others = {key: value for key, value in data.items() if key != one}
        return others if data[one] is None else {**others, many: [data[one]]}
    return data
