"""What can call a cue, as models of the book. `core.calls` matches happenings with them."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, model_validator

from cuejar.core.parts.base import Id, Model, Name


class RewardCall(Model):
    kind: Literal["reward"]
    reward: Id


class ChatCall(Model):
    kind: Literal["chat"]
    match: Literal["is", "starts", "has_word", "contains"] = "is"
    text: Annotated[str, Field(min_length=1, max_length=200)]
    cost: Annotated[int, Field(ge=1, le=10_000_000)] | None = Field(
        None, description="in points of our own; none: free"
    )

    @model_validator(mode="before")
    @classmethod
    def _short_form(cls, data: object) -> object:
        """Reads ``{"kind": "chat", "starts": "!tint"}`` as ``match`` and ``text``."""
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


class SaidCall(Model):
    """The streamer says a phrase; ``sounds`` are its sounds (ARPAbet), if the dictionary lacks its words."""

    kind: Literal["said"]
    phrase: Annotated[str, Field(min_length=1, max_length=80)]
    sounds: Annotated[str, Field(max_length=300)] = ""


class ClockCall(Model):
    kind: Literal["clock"]
    every_min: Annotated[float, Field(ge=0.01, le=1440)] | None = None
    at_min: Annotated[float, Field(ge=0, le=10_000)] | None = None
    at_time: Annotated[str, Field(pattern=r"^([01][0-9]|2[0-3]):[0-5][0-9]$")] | None = Field(
        None, description="a local time of day, while live: 21:30"
    )

    @model_validator(mode="after")
    def _one(self) -> ClockCall:
        if sum(one is not None for one in (self.every_min, self.at_min, self.at_time)) != 1:
            raise ValueError("give one of every_min, at_min and at_time")
        return self


class CountCall(Model):
    """A count reaches a value, every Nth one, or its goal."""

    kind: Literal["count"]
    count: Id
    at: Annotated[int, Field(ge=1, le=1_000_000_000)] | None = None
    every: Annotated[int, Field(ge=1, le=1_000_000_000)] | None = None
    goal: bool = False

    @model_validator(mode="after")
    def _one(self) -> CountCall:
        if (self.at is not None) + (self.every is not None) + self.goal != 1:
            raise ValueError("give one of at, every and goal")
        return self

    def is_reached(self, before: int, after: int, goal: int | None) -> bool:
        """Returns whether a count that went from one number to another passed the awaited value."""
        if self.every is not None:
            return after // self.every > before // self.every
        at = goal if self.goal else self.at
        return at is not None and before < at <= after


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
    | SaidCall
    | ClockCall
    | CountCall
    | StreamCall
    | SceneCall,
    Field(discriminator="kind"),
]
