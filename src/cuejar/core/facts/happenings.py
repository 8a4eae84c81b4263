"""What can reach the engine. Each happening is a plain, frozen fact; none knows what it will cause.

From outside come the viewers' calls (redemption, chat, tip, follow, membership, raid, hook), the stream, and the
gear (hand, gear, sources). From the streamer come pad, try, release, drop, move, review, all_to_rest and a new book.
From Cue Jar's own helpers come media, folder and speech.
"""

from __future__ import annotations

from dataclasses import dataclass, field, fields
from functools import cache
from typing import Annotated, Any, Literal

from pydantic import BeforeValidator, ConfigDict, Field, TypeAdapter, ValidationError

from cuejar.core.facts.gate import MOST_ID as MOST_ID
from cuejar.core.facts.gate import Amount, Count, Json, Key, ShortText, Text, Tier, sound_value
from cuejar.core.parts.base import BookError, JsonObject, Problem, plain_problems

PropertyValue = bool | int | float | str | None
Shown = Any
"""What a beat shows or strikes: the id of a file, several, a text, an object. Only its kind knows which."""
HandMark = tuple[str, int]
"""Up to which change a property's hands are known: the gear's boot, and the number of the change."""
SoundValue = Annotated[PropertyValue, BeforeValidator(sound_value)]
Role = Annotated[str, Field(min_length=1, max_length=50)]
Length = Annotated[float, Field(ge=0, le=86_400)]
_STRICT = ConfigDict(extra="forbid", allow_inf_nan=False)


@dataclass(frozen=True, slots=True)
class Viewer:
    """Who calls: the channel's id for them, their name, their roles, and the tier of their membership."""

    __pydantic_config__ = _STRICT
    id: Key
    name: ShortText
    roles: Annotated[tuple[Role, ...], Field(max_length=50)] = ()
    tier: Tier = 1


@dataclass(frozen=True, slots=True)
class Stream:
    __pydantic_config__ = _STRICT
    state: Literal["live", "ended"]
    category: ShortText | None = None
    kind: Literal["stream"] = "stream"
    id: Key | None = None


@dataclass(frozen=True, slots=True)
class Redemption:
    """``repeat``: the caller knows that this id came before, longer ago than the engine remembers."""

    __pydantic_config__ = _STRICT
    id: Key
    reward: Key
    viewer: Viewer
    text: Text = ""
    cost: Count | None = None
    repeat: bool = False
    kind: Literal["redemption"] = "redemption"


@dataclass(frozen=True, slots=True)
class Chat:
    __pydantic_config__ = _STRICT
    viewer: Viewer
    text: Text
    id: Key | None = None
    kind: Literal["chat"] = "chat"


@dataclass(frozen=True, slots=True)
class Tip:
    __pydantic_config__ = _STRICT
    amount: Amount
    viewer: Viewer | None = None
    text: Text = ""
    id: Key | None = None
    kind: Literal["tip"] = "tip"


@dataclass(frozen=True, slots=True)
class Follow:
    __pydantic_config__ = _STRICT
    viewer: Viewer | None = None
    id: Key | None = None
    kind: Literal["follow"] = "follow"


@dataclass(frozen=True, slots=True)
class Membership:
    __pydantic_config__ = _STRICT
    viewer: Viewer | None = None
    tier: Tier = 1
    months: Count = 1
    gifts: Count = 0
    text: Text = ""
    id: Key | None = None
    kind: Literal["membership"] = "membership"


@dataclass(frozen=True, slots=True)
class Raid:
    __pydantic_config__ = _STRICT
    party: Count
    viewer: Viewer | None = None
    id: Key | None = None
    kind: Literal["raid"] = "raid"


@dataclass(frozen=True, slots=True)
class Present:
    """Viewers are watching now, as a channel reports from time to time; ``left`` are the ids of those who went."""

    __pydantic_config__ = _STRICT
    viewers: Annotated[tuple[Viewer, ...], Field(max_length=1_000)] = ()
    left: Annotated[tuple[Key, ...], Field(max_length=1_000)] = ()
    kind: Literal["present"] = "present"


@dataclass(frozen=True, slots=True)
class Hook:
    __pydantic_config__ = _STRICT
    name: ShortText
    payload: Json = None
    viewer: Viewer | None = None
    text: Text = ""
    id: Key | None = None
    kind: Literal["hook"] = "hook"


@dataclass(frozen=True, slots=True)
class Pad:
    """The streamer fires a cue by hand, or by what they say; the door checks only that house and cue are open, and the
    lane.
    """

    __pydantic_config__ = _STRICT
    cue: str
    text: Text = ""
    id: Key | None = None
    said: bool = False
    kind: Literal["pad"] = "pad"


@dataclass(frozen=True, slots=True)
class Try:
    """A cue fired to see it on air: it skips the door and counts nowhere.

    ``rolled`` forces outcomes (chance beat → outcome), ``drawn`` forces draws (beat → value); ``speed`` divides every
    length and offset of this one run.
    """

    __pydantic_config__ = _STRICT
    cue: str
    viewer: Viewer | None = None
    text: Text = ""
    rolled: dict[str, str] = field(default_factory=dict)
    drawn: dict[str, str] = field(default_factory=dict)
    speed: Literal[1, 4, 16] = 1
    id: Key | None = None
    kind: Literal["try"] = "try"


@dataclass(frozen=True, slots=True)
class Hand:
    """The streamer changed a property on the gear itself. ``heard`` is the number of this change on gear that counts
    them.
    """

    __pydantic_config__ = _STRICT
    path: Key
    value: SoundValue
    heard: HandMark | None = None
    kind: Literal["hand"] = "hand"


@dataclass(frozen=True, slots=True)
class Rest:
    """Rest values of properties, as reported by gear that is new here; and up to which change its hands are known.
    Drops no layers.
    """

    __pydantic_config__ = _STRICT
    values: dict[Key, SoundValue]
    heard: dict[str, HandMark] = field(default_factory=dict)
    kind: Literal["rest"] = "rest"


@dataclass(frozen=True, slots=True)
class AllToRest:
    __pydantic_config__ = _STRICT
    kind: Literal["all_to_rest"] = "all_to_rest"


@dataclass(frozen=True, slots=True)
class Release:
    """Ends a beat that is up, or every beat of a run, before its time."""

    __pydantic_config__ = _STRICT
    run: str
    beat: str | None = None
    kind: Literal["release"] = "release"


@dataclass(frozen=True, slots=True)
class DropCall:
    """The streamer drops a waiting call: by redemption, or by run."""

    __pydantic_config__ = _STRICT
    redemption: str | None = None
    run: str | None = None
    kind: Literal["drop"] = "drop"


@dataclass(frozen=True, slots=True)
class Move:
    """Puts a waiting run before another one of its lane, or at the end."""

    __pydantic_config__ = _STRICT
    run: str
    before: str | None = None
    kind: Literal["move"] = "move"


@dataclass(frozen=True, slots=True)
class Review:
    """The streamer approves or refuses a redemption that waits for review."""

    __pydantic_config__ = _STRICT
    redemption: str
    ok: bool
    kind: Literal["review"] = "review"


@dataclass(frozen=True, slots=True)
class GearState:
    __pydantic_config__ = _STRICT
    gear: str
    state: Literal["lost", "back"]
    kind: Literal["gear"] = "gear"


@dataclass(frozen=True, slots=True)
class NewBook:
    __pydantic_config__ = _STRICT
    book: JsonObject
    kind: Literal["book"] = "book"


@dataclass(frozen=True, slots=True)
class MediaFacts:
    """What is in a file: its kind, one pass in s (0 for a still picture), how often a picture repeats (0: for ever),
    and whether it flashes more than is safe (RULES 10)."""

    __pydantic_config__ = _STRICT
    kind: Literal["picture", "clip", "sound"] = "picture"
    length_s: float = 0
    loops: int = 0
    missing: bool = False
    flashes: bool = False


@dataclass(frozen=True, slots=True)
class MediaKnown:
    """The whole library as it is now; a file that isn't in it is missing."""

    __pydantic_config__ = _STRICT
    media: dict[str, MediaFacts]
    kind: Literal["media"] = "media"


@dataclass(frozen=True, slots=True)
class Folder:
    """The current contents of a folder jar's folder."""

    __pydantic_config__ = _STRICT
    jar: str
    values: tuple[str, ...]
    kind: Literal["folder"] = "folder"


@dataclass(frozen=True, slots=True)
class Setting:
    """A setting of a filter or a thing, or a value of a deed: its type, for numbers its range, for choices the
    options. ``title`` is its name for people, empty if its id says it; ``step`` is how a number moves.
    """

    __pydantic_config__ = _STRICT
    type: Literal["bool", "number", "colour", "text", "choice"] = "number"
    min: float | None = None
    max: float | None = None
    choices: tuple[str, ...] = ()
    title: str = ""
    unit: str = ""
    step: float | None = None


@dataclass(frozen=True, slots=True)
class Deed:
    """Something that a thing can do once, with the values it takes."""

    __pydantic_config__ = _STRICT
    title: str = ""
    values: dict[str, Setting] = field(default_factory=dict)


@dataclass(frozen=True, slots=True)
class Thing:
    """A thing of a bridge: its settings and its deeds, by their ids."""

    __pydantic_config__ = _STRICT
    title: str = ""
    settings: dict[str, Setting] = field(default_factory=dict)
    deeds: dict[str, Deed] = field(default_factory=dict)


@dataclass(frozen=True, slots=True)
class Touch:
    """A pad of a wearable, and where on the body it lies (`core.parts.gear.Place`)."""

    __pydantic_config__ = _STRICT
    id: str
    side: Literal["front", "back"]
    x: float
    y: float
    size: float
    title: str = ""


@dataclass(frozen=True, slots=True)
class Outline:
    """A line of a wearable's picture: x and y of its points in turn, as in `Touch`. The first line of a side is its
    edge.
    """

    __pydantic_config__ = _STRICT
    side: Literal["front", "back"]
    points: tuple[float, ...]


@dataclass(frozen=True, slots=True)
class Catalogue:
    """What a piece of gear has now. ``scenes`` with their sources in order, ``filters`` by source; ``names`` for other
    gear: its outfits, expressions, presets; ``things`` of a bridge, by their ids; ``touches`` of a wearable in the
    order in which it takes levels, and its ``outlines``.
    """

    __pydantic_config__ = _STRICT
    gear: str
    scenes: dict[str, tuple[str, ...]] = field(default_factory=dict)
    filters: dict[str, dict[str, dict[str, Setting]]] = field(default_factory=dict)
    names: dict[str, tuple[str, ...]] = field(default_factory=dict)
    things: dict[str, Thing] = field(default_factory=dict)
    touches: tuple[Touch, ...] = ()
    outlines: tuple[Outline, ...] = ()
    kind: Literal["catalogue"] = "catalogue"


@dataclass(frozen=True, slots=True)
class Renamed:
    """A scene, a source or a filter has a new name. ``of`` is the filter's source."""

    __pydantic_config__ = _STRICT
    what: Literal["scene", "source", "filter"]
    old: Key
    new: Key
    of: str = ""
    kind: Literal["renamed"] = "renamed"


@dataclass(frozen=True, slots=True)
class Keep:
    """The streamer sets rest values of properties: they show once nothing lies above them."""

    __pydantic_config__ = _STRICT
    values: dict[Key, SoundValue]
    kind: Literal["keep"] = "keep"


@dataclass(frozen=True, slots=True)
class GivePoints:
    """The streamer sets how many points of ours a viewer has, and why."""

    __pydantic_config__ = _STRICT
    viewer: Key
    held: Annotated[int, Field(ge=0, le=10**9)]
    name: ShortText = ""
    why: ShortText = ""
    kind: Literal["give_points"] = "give_points"


@dataclass(frozen=True, slots=True)
class Quiet:
    """What begins from now on is heard at a share of its volume for this long; a share of 1 ends the quiet spell."""

    __pydantic_config__ = _STRICT
    share: Annotated[float, Field(ge=0, le=1)]
    for_s: Length
    kind: Literal["quiet"] = "quiet"


@dataclass(frozen=True, slots=True)
class SetCount:
    """The streamer sets a count. This calls nothing."""

    __pydantic_config__ = _STRICT
    count: Key
    value: Annotated[int, Field(ge=0, le=10**9)]
    kind: Literal["set_count"] = "set_count"


@dataclass(frozen=True, slots=True)
class Merge:
    """Two viewers are the same person: the first uses the points and counts of the second from now on."""

    __pydantic_config__ = _STRICT
    viewer: Key
    into: Key
    kind: Literal["merge"] = "merge"


@dataclass(frozen=True, slots=True)
class Forget:
    """A viewer is forgotten: waiting runs are dropped, names and texts are blanked; totals stay."""

    __pydantic_config__ = _STRICT
    viewer: Key
    kind: Literal["forget"] = "forget"


@dataclass(frozen=True, slots=True)
class SpeechReady:
    """The speech of a waiting run is ready: its true length in s."""

    __pydantic_config__ = _STRICT
    run: str
    beat: str
    length_s: Length
    failed: bool = False
    kind: Literal["speech"] = "speech"


@dataclass(frozen=True, slots=True)
class StrikeFailed:
    """A strike didn't reach its gear, or was refused there."""

    __pydantic_config__ = _STRICT
    run: str
    beat: str
    why: Text
    kind: Literal["strike_failed"] = "strike_failed"


@dataclass(frozen=True, slots=True)
class Clock:
    """A clock call is due. The engine makes it itself, except for a time of day, which only a wall clock knows."""

    __pydantic_config__ = _STRICT
    cue: str
    id: Key | None = None
    kind: Literal["clock"] = "clock"


@dataclass(frozen=True, slots=True)
class SceneShown:
    """A scene became the current one. The engine makes it itself."""

    __pydantic_config__ = _STRICT
    scene: str
    id: Key | None = None
    kind: Literal["scene"] = "scene"


Happening = (
    Stream
    | Redemption
    | Chat
    | Tip
    | Follow
    | Membership
    | Raid
    | Present
    | Hook
    | Pad
    | Try
    | Hand
    | Rest
    | AllToRest
    | Release
    | DropCall
    | Move
    | Review
    | GearState
    | NewBook
    | MediaKnown
    | Folder
    | Catalogue
    | Renamed
    | Keep
    | GivePoints
    | SetCount
    | Quiet
    | Clock
    | Merge
    | Forget
    | SpeechReady
    | StrikeFailed
)

Texted = Redemption | Chat | Tip | Membership | Hook
"""Calls that bring a viewer's text."""
Called = Texted | Follow | Raid | Stream | SceneShown | Clock
"""What can call a cue through its calls."""

BY_KIND: dict[str, type[Happening]] = {
    next(f.default for f in fields(kind) if f.name == "kind"): kind  # type: ignore[misc]
    for kind in Happening.__args__
}


@cache
def _adapter(kind: str) -> TypeAdapter[Happening] | None:
    return TypeAdapter(BY_KIND[kind]) if kind in BY_KIND else None


def _of(happening: Happening) -> TypeAdapter[Happening]:
    adapter = _adapter(happening.kind)
    assert adapter is not None
    return adapter


def happening_from(data: object, where: str = "") -> Happening:
    """Returns a happening from parsed JSON with its ``kind``.

    Raises:
        BookError: what is wrong, with its path below ``where``.
    """
    if not isinstance(data, dict):
        raise BookError([Problem(where, "must be an object")])
    kind = data.get("kind", "")
    adapter = _adapter(kind) if isinstance(kind, str) else None
    if adapter is None:
        known = ", ".join(sorted(BY_KIND))
        raise BookError([Problem(f"{where}.kind".lstrip("."), f"“{data.get('kind')}” must be one of {known}")])
    try:
        happening: Happening = adapter.validate_python(data)
    except ValidationError as error:
        inner = plain_problems(error)
        raise BookError([Problem(f"{where}.{p.path}".strip("."), p.what) for p in inner]) from error
    return happening


def sound(happening: Happening) -> Happening:
    """Returns the happening as the journal would read it back, made valid. So live and replay take exactly the same.

    Raises:
        BookError: it can't be made valid, and why.
    """
    adapter = _of(happening)
    try:
        made: Happening = adapter.validate_python(adapter.dump_python(happening))
    except ValidationError as error:
        raise BookError(plain_problems(error)) from error
    except RecursionError:
        raise BookError([Problem("", "is too deep")]) from None
    return made


def happening_json(happening: Happening) -> JsonObject:
    """Returns the happening as JSON; `happening_from` reads it back."""
    data: JsonObject = _of(happening).dump_python(happening, mode="json")
    return data
