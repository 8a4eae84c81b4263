"""The book's part of the gear: addresses, lamps and their groups, targets on the avatar, haptic patterns, hooks."""

from __future__ import annotations

from collections.abc import Sequence
from ipaddress import ip_address
from typing import Annotated, Literal
from urllib.parse import urlsplit

from pydantic import Field, field_validator, model_validator

from cuejar.core.parts.base import Id, Length_s, Model, Name, Seconds, Share
from cuejar.core.parts.oscaddress import MOST_ADDRESS, problem_of

CHANNELS = {"dimmer": 1, "rgb": 3, "rgbw": 4, "dimmer_rgb": 4}
"""The number of consecutive channels of a lamp of each profile."""


class Fixture(Model):
    """A lamp. Without an address it takes the first free one after the lamps before it."""

    id: Id
    name: str = ""
    spared: bool = Field(False, description="excluded from “all lamps”")
    profile: Literal["dimmer", "rgb", "rgbw", "dimmer_rgb"] = "rgb"
    universe: Annotated[int, Field(ge=1, le=63_999)] = 1
    address: Annotated[int, Field(ge=1, le=512)] | None = None
    gamma: Annotated[float, Field(ge=1, le=4)] = Field(
        2.2, description="how the lamp's channels follow a colour's values"
    )

    @model_validator(mode="after")
    def _within(self) -> Fixture:
        if self.address is not None and self.address + CHANNELS[self.profile] - 1 > 512:
            raise ValueError(f"a lamp of this profile needs {CHANNELS[self.profile]} channels; a universe ends at 512")
        return self


class Group(Model):
    """Lamps under one name."""

    id: Id
    name: Name
    fixtures: list[Id] = []


class Target(Model):
    """A circle on the overlay that things are thrown at; x, y is its middle and r its radius, relative to the overlay's
    width and height (r: to its height).
    """

    id: Id
    name: Name
    x: Share = 0.5
    y: Share = 0.3
    r: Annotated[float, Field(gt=0, le=1)] = 0.08


class HookOut(Model):
    """An outgoing hook. Address, headers and body are templates."""

    method: Literal["GET", "POST"] = "POST"
    headers: dict[Annotated[str, Field(pattern=r"^[A-Za-z0-9-]{1,80}$")], Annotated[str, Field(max_length=1000)]] = {}
    body: Annotated[str, Field(max_length=10_000)] = ""
    timeout_s: Annotated[float, Field(gt=0, le=60)] = 5
    tries: Annotated[int, Field(ge=1, le=8)] = 4


KindOfGear = Annotated[str, Field(pattern=r"^[a-z][a-z0-9_-]{0,39}$")]
"""A kind by its name; `core.kinds.gear` lists them, and a plug-in may add more."""


class Gear(Model):
    id: Id
    kind: KindOfGear
    name: str = ""
    on: bool = True
    address: str = ""
    fixtures: list[Fixture] = []
    groups: list[Group] = []
    targets: list[Target] = []
    hook: HookOut = HookOut()
    priority: Annotated[int, Field(ge=0, le=200)] = Field(
        100, description="lamps: the highest value of several senders counts"
    )


Side = Literal["front", "back"]


class BodyPlace(Model):
    """A place on the body: x goes from 0 at the left to 1 at the right of the side as you look at it, y from 0 at the
    neck to 1 at the hips, ``size`` is its width relative to the side's. A side is a quarter higher than wide.
    """

    side: Side = "front"
    x: Share
    y: Share
    size: Annotated[float, Field(gt=0, le=1)] = 0.12


class Frame(Model):
    """The levels of a pattern's places at one time, by their ids; a place not named is at 0."""

    at_s: Seconds = 0
    levels: dict[Id, Share] = {}
    curve: Literal["step", "line", "smooth"] = Field("line", description="the transition to the next frame")


class HapticPattern(Model):
    """A haptic pattern: levels of places on the body over time, ``length_s`` long. Any wearable plays it on the pads
    near its places.
    """

    id: Id
    name: Name
    length_s: Length_s = 1
    places: Annotated[dict[Id, BodyPlace], Field(max_length=500)] = {}
    frames: Annotated[list[Frame], Field(max_length=2000)] = []

    @field_validator("frames")
    @classmethod
    def _in_time(cls, frames: list[Frame]) -> list[Frame]:
        return sorted(frames, key=lambda frame: frame.at_s)

    @model_validator(mode="after")
    def _placed(self) -> HapticPattern:
        lost = {place for frame in self.frames for place in frame.levels} - set(self.places)
        if lost:
            raise ValueError(f"it has no place “{min(lost)}”")
        return self


class HookPlace(Model):
    """A host that hooks may call; ``private``: even on this machine or in the local network."""

    host: Annotated[str, Field(min_length=1, max_length=255)]
    private: bool = False


class Inlet(Model):
    """A named input: an address for incoming hooks, or an address pattern of OSC messages.

    ``fields`` are names for templates, each with a path into the JSON; for an OSC message the path is the number of an
    argument, from 0. A message whose first argument is 0 or false releases, and presses nothing.
    """

    id: Id
    name: Name
    on: bool = True
    kind: Literal["hook", "osc"] = "hook"
    address: Annotated[str, Field(max_length=MOST_ADDRESS)] = Field("", description="osc: the address pattern")
    senders: Annotated[list[Annotated[str, Field(max_length=60)]], Field(max_length=20)] = Field(
        [], description="osc: allowed senders; none: only this machine"
    )
    does: Literal["call", "pad", "rest", "house", "volume"] = Field(
        "call", description="osc: what a message does: calls cues, calls one cue, all to rest, a switch, the volume"
    )
    cue: Id | None = Field(None, description="for pad: the cue")
    switch: str = Field("", description="for house: the output; empty: the house itself")
    fields: dict[Annotated[str, Field(pattern=r"^[a-z][a-z0-9_]{0,39}$")], Annotated[str, Field(max_length=200)]] = {}
    viewer: str = Field("", description="a path to the name of the viewer; empty: nobody")
    text: str = Field("", description="a path to the text; empty: none")
    per_min: Annotated[int, Field(ge=1, le=6000)] = 60

    @field_validator("senders")
    @classmethod
    def _addresses(cls, senders: list[str]) -> list[str]:
        for sender in senders:
            try:
                ip_address(sender)
            except ValueError:
                raise ValueError(f"“{sender}” isn’t an address like 192.168.0.17") from None
        return senders

    @model_validator(mode="after")
    def _whole(self) -> Inlet:
        if self.kind == "osc" and self.address and (problem := problem_of(self.address)):
            raise ValueError(f"the address {problem}")
        return self


def meant_lamps(gear: Sequence[Gear], wanted: Literal["all"] | Sequence[str]) -> list[str]:
    """Returns the ids of the lamps that a beat means, each once: by id, by a group's id, or all that aren't exempt."""
    if wanted == "all":
        return [lamp.id for one in gear for lamp in one.fixtures if not lamp.spared]
    groups = {group.id: group.fixtures for one in gear for group in one.groups}
    return list(dict.fromkeys(lamp for name in wanted for lamp in groups.get(name, [name])))


def host_of(address: str) -> str:
    """Returns the host of an address; the address itself if it has none."""
    try:
        return urlsplit(address).hostname or address
    except ValueError:
        return address
