"""Rewards: switched on or off, or given another price, for a while."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import Annotated, Literal

from pydantic import Field, ValidationInfo, field_validator, model_validator

from cuejar.core.facts.paths import reward_path
from cuejar.core.kinds.base import COMMON, Asking, Kind, Lengths, Power, Ref, Resolving, StartingBeat
from cuejar.core.measures.catalogue import Catalogues
from cuejar.core.parts.base import Id
from cuejar.core.parts.gear import Gear
from cuejar.core.parts.steps import Timed, one_for_many


class RewardBeat(Timed):
    kind: Literal["reward"]
    sets: list[Id] = Field([], description="named sets, with all their rewards at the start of the run")
    rewards: list[Id] = Field([], validate_default=True)
    on: bool | None = None
    cost: Annotated[int, Field(ge=1, le=10_000_000)] | None = None

    @model_validator(mode="before")
    @classmethod
    def _one(cls, data: object) -> object:
        return one_for_many(data, "reward", "rewards")

    @field_validator("rewards")
    @classmethod
    def _some(cls, rewards: list[Id], info: ValidationInfo) -> list[Id]:
        if not rewards and not info.data.get("sets"):
            raise ValueError("name a reward or a set")
        return rewards

    @model_validator(mode="after")
    def _something(self) -> RewardBeat:
        if self.on is None and self.cost is None:
            raise ValueError("give on or cost")
        return self


def _resolve(r: Resolving, beat: StartingBeat, b: RewardBeat) -> None:
    rewards = [*b.rewards, *(reward for named in b.sets for reward in r.in_set(named))]
    for reward in dict.fromkeys(rewards):
        if b.on is not None:
            beat.sets.append((reward_path(reward, "on"), b.on))
        if b.cost is not None:
            beat.sets.append((reward_path(reward, "cost"), b.cost))


def _holds(b: RewardBeat, lengths: Lengths, catalogues: Catalogues, gear: Sequence[Gear]) -> str | None:
    if not b.rewards:
        return None
    return reward_path(b.rewards[0], "on" if b.on is not None else "cost")


def _refs(b: RewardBeat) -> Iterator[Ref]:
    for index, reward in enumerate(b.rewards):
        yield Ref("reward", reward, ("rewards", index))
    for index, named in enumerate(b.sets):
        yield Ref("set", named, ("sets", index))


def _power(b: RewardBeat, asking: Asking) -> Power:
    named = [asking.named("rewards", one) for one in b.rewards] + [asking.named("sets", one) for one in b.sets]
    which = ", ".join(named)
    if b.on is None:
        return asking.power(b, f"sets the price to {b.cost} of {which}")
    price = f" and sets the price to {b.cost}" if b.cost is not None else ""
    return asking.power(b, f"switches {which} {'on' if b.on else 'off'}{price}")


KIND = Kind(
    RewardBeat,
    "hold",
    "reward",
    _resolve,
    holds=_holds,
    refs=_refs,
    unnoticed="switches rewards",
    power=_power,
    harmless=COMMON,
    asked="rewards sets on cost",
)
