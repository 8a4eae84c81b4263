"""An audience to rehearse with: who they are, when they come, what they like, how they behave, and what else happens."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import AfterValidator, Field, field_validator

from cuejar.core.facts.paths import canonical_path
from cuejar.core.parts.base import Id, Model, Name, Share

Minute = Annotated[float, Field(ge=0, le=1_440)]
Weight = Annotated[float, Field(ge=0, le=1_000_000)]


class CurvePoint(Model):
    """How busy a minute is, relative to the other points; linear in between."""

    at_min: Minute
    level: Annotated[float, Field(ge=0, le=1_000)]


class RaidAt(Model):
    """This many viewers arrive at once; half of them are gone ten minutes later."""

    at_min: Minute
    viewers: Annotated[int, Field(ge=1, le=100_000)] = 50


class HandAt(Model):
    """The streamer changes something on the gear by hand."""

    at_min: Minute
    path: Annotated[str, Field(min_length=1, max_length=200), AfterValidator(canonical_path)]
    value: bool | float | Annotated[str, Field(max_length=1_000)]


class Outage(Model):
    """A piece of gear, by its id or its kind, is disconnected for a while."""

    at_min: Minute
    for_min: Annotated[float, Field(gt=0, le=1_440)] = 5
    gear: Annotated[str, Field(min_length=1, max_length=80)]


class Manners(Model):
    """How viewers behave, as relative weights. The *patient* call now and then, the *keen* three times as often; a
    *spammer* calls the same thing several times within seconds; *nonsense* writers do so wherever a text is asked for.
    """

    patient: Weight = 60
    keen: Weight = 30
    spammer: Weight = 2
    nonsense: Weight = 3


class Audience(Model):
    """``calls`` is the average number of calls a night, without those of raids; ``likes`` is how they choose: evenly,
    more often what is cheaper, as on past nights, or by ``shares`` (of rewards by id, of cues called in chat as
    ``cue/ID``).
    """

    id: Id
    name: Name
    viewers: Annotated[int, Field(ge=1, le=100_000)] = 150
    followers: Share = 0.6
    members: Share = 0.15
    length_min: Annotated[float, Field(ge=1, le=1_440)] = 120
    calls: Annotated[int, Field(ge=0, le=100_000)] = 300
    curve: Annotated[list[CurvePoint], Field(max_length=200)] = []
    likes: Literal["evenly", "by_price", "past", "shares"] = "evenly"
    shares: Annotated[dict[Annotated[str, Field(max_length=80)], Weight], Field(max_length=2_000)] = {}
    manners: Manners = Manners()
    raids: Annotated[list[RaidAt], Field(max_length=50)] = []
    hands: Annotated[list[HandAt], Field(max_length=200)] = []
    outages: Annotated[list[Outage], Field(max_length=200)] = []
    seed: Annotated[int, Field(ge=0, le=2**31)] = 1

    @field_validator("curve")
    @classmethod
    def _in_time(cls, curve: list[CurvePoint]) -> list[CurvePoint]:
        points = sorted(curve, key=lambda point: point.at_min)
        if points and not any(point.level for point in points):
            raise ValueError("no viewers come: raise a point of the curve")
        return points
