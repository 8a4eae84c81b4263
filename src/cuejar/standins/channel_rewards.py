"""The simulated channel's rewards: those of programs and those made by hand, their order, pauses and limits.

A program can change, remove and settle only its own (``made_by``); the streamer's hand, at ``/channel/hand/rewards``,
can do anything. Limits are kept here: a redemption counts, a refund frees its place.
"""

from __future__ import annotations

import base64
import hashlib
import secrets
import time
from collections.abc import Callable
from typing import TYPE_CHECKING, Annotated, Any

from fastapi import APIRouter, Depends, Header, HTTPException, Response
from pydantic import BaseModel, ConfigDict, Field

if TYPE_CHECKING:
    from cuejar.standins.channel import Channel

PROGRAM = "cue-jar"
"""The name of the program with the token."""
BY_HAND = "by hand"
PNG = b"\x89PNG\r\n\x1a\n"
"""A PNG begins with this; its width and height follow at 16 (PNG, 5.2 and 11.2.2)."""
Name = Annotated[str, Field(min_length=1, max_length=200)]
Colour = Annotated[str, Field(pattern=r"^(#[0-9a-f]{6})?$")]


class Body(BaseModel):
    model_config = ConfigDict(extra="forbid")


class Limits(Body):
    """0: none."""

    cooldown_s: Annotated[float, Field(ge=0, le=86_400)] = 0
    per_stream: Annotated[int, Field(ge=0, le=1_000_000)] = 0
    per_viewer: Annotated[int, Field(ge=0, le=1_000_000)] = 0


class NewReward(Body):
    title: Name
    cost: Annotated[int, Field(ge=1)]
    prompt: str = ""
    text: bool = False
    on: bool = True
    paused: bool = False
    limits: Limits = Limits()
    colour: Colour = ""
    made_by: str = ""


class RewardChange(Body):
    title: Name | None = None
    cost: Annotated[int, Field(ge=1)] | None = None
    prompt: str | None = None
    text: bool | None = None
    on: bool | None = None
    paused: bool | None = None
    limits: Limits | None = None
    colour: Colour | None = None


class Pictures(Body):
    """A reward's picture in each size that was asked for: PNGs as base64, by their sides in pixels."""

    sizes: Annotated[dict[str, Annotated[str, Field(max_length=2_000_000)]], Field(min_length=1, max_length=8)]


class Order(Body):
    order: Annotated[list[Name], Field(max_length=10_000)]


class Rewards:
    """All rewards in order, and who made each with which key."""

    def __init__(self, channel: Channel) -> None:
        self.channel = channel
        self.all: dict[str, dict[str, Any]] = {}
        self.made: dict[str, str] = {}
        """Rewards by the ``Idempotency-Key`` they were made with."""
        self.pictures: dict[str, dict[str, str]] = {}
        self.stream_from = 0.0

    def restore(self, kept: dict[str, Any]) -> None:
        rows = sorted(kept.values(), key=lambda row: row.get("place", 0))
        self.all = {row["id"]: row for row in rows}

    def public(self) -> list[dict[str, Any]]:
        return [self._public(row) for row in self.all.values()]

    def _public(self, row: dict[str, Any]) -> dict[str, Any]:
        told = {name: value for name, value in row.items() if name != "place"}
        if (sizes := self.pictures.get(row["id"])) is not None:
            mark = hashlib.sha256("".join(sizes.values()).encode()).hexdigest()[:12]
            told["pictures"] = {side: f"/channel/rewards/{row['id']}/picture/{side}.png?{mark}" for side in sizes}
        return told

    def picture(self, reward: dict[str, Any], sizes: dict[str, str] | None) -> None:
        """Gives a reward a picture, or takes it away."""
        if sizes is None:
            self.pictures.pop(reward["id"], None)
            self.channel.drop("picture", reward["id"])
        else:
            self.pictures[reward["id"]] = sizes
            self.channel.keep("picture", {"id": reward["id"], "sizes": sizes})
        self.channel.tell("reward", self._public(reward))

    def of(self, reward_id: str) -> dict[str, Any]:
        if reward_id not in self.all:
            raise HTTPException(404, f"There is no reward “{reward_id}”.")
        return self.all[reward_id]

    def own(self, reward_id: str) -> dict[str, Any]:
        """Returns a reward that the program made."""
        reward = self.of(reward_id)
        if reward["made_by"] != PROGRAM:
            raise HTTPException(403, f"“{reward['title']}” was made elsewhere.")
        return reward

    def _free(self, title: str, but: str = "") -> None:
        wanted = title.strip().casefold()
        if any(r["title"].strip().casefold() == wanted and r["id"] != but for r in self.all.values()):
            raise HTTPException(409, f"There is already a reward “{title}”.")

    def make(self, body: NewReward, key: str = "") -> dict[str, Any]:
        if key in self.made and self.made[key] in self.all:
            return self.all[self.made[key]]
        self._free(body.title)
        place = 1 + max((row.get("place", 0) for row in self.all.values()), default=0)
        reward = {"id": f"rw-{secrets.token_hex(4)}", **body.model_dump(), "place": place}
        if key:
            self.made[key] = reward["id"]
        return self._kept(reward)

    def change(self, reward: dict[str, Any], body: RewardChange) -> dict[str, Any]:
        if body.title is not None:
            self._free(body.title, reward["id"])
        reward.update(body.model_dump(exclude_none=True))
        return self._kept(reward)

    def _kept(self, reward: dict[str, Any]) -> dict[str, Any]:
        self.all[reward["id"]] = reward
        self.channel.keep("reward", reward)
        told = self._public(reward)
        self.channel.tell("reward", told)
        return told

    def remove(self, reward_id: str) -> None:
        del self.all[reward_id]
        self.channel.drop("reward", reward_id)
        if self.pictures.pop(reward_id, None) is not None:
            self.channel.drop("picture", reward_id)
        self.channel.tell("reward-gone", {"id": reward_id})

    def sort(self, wanted: list[str]) -> None:
        """Puts these in this order, in the positions they have among all."""
        named = [one for one in dict.fromkeys(wanted) if one in self.all]
        line = iter(named)
        ids = [next(line) if one in named else one for one in self.all]
        self.all = {one: self.all[one] for one in ids}
        for place, row in enumerate(self.all.values(), 1):
            if row.get("place") != place:
                row["place"] = place
                self.channel.keep("reward", row)
        self.channel.tell("rewards-sorted", {"order": ids})

    def refuse(self, reward: dict[str, Any], viewer: str) -> None:
        """Raises HTTPException: this viewer can't redeem it now."""
        title, limits = reward["title"], reward.get("limits", {})
        if not reward["on"]:
            raise HTTPException(409, f"“{title}” is switched off.")
        if reward.get("paused"):
            raise HTTPException(409, f"“{title}” is paused.")
        counted = [
            r for r in self.channel.redemptions.values() if r["reward"] == reward["id"] and r["state"] != "refunded"
        ]
        stream = [r for r in counted if r["at"] >= self.stream_from]
        if limits.get("per_stream") and len(stream) >= limits["per_stream"]:
            raise HTTPException(409, f"“{title}” has reached its limit for this stream.")
        mine = sum(r["viewer"]["id"] == viewer for r in stream)
        if limits.get("per_viewer") and mine >= limits["per_viewer"]:
            raise HTTPException(409, f"You have reached your limit of “{title}” for this stream.")
        left = max((r["at"] for r in counted), default=0.0) + limits.get("cooldown_s", 0) - time.time()
        if counted and left > 0:
            raise HTTPException(409, f"“{title}” is cooling down for {left:.0f} s.")


def router(rewards: Rewards, programs: Any, misbehaved: Any, answered: Callable[[], None]) -> APIRouter:
    """Returns what programs may ask, and what the streamer's hand may do.

    Args:
        answered: called once something was done for a program; may raise.
    """
    api = APIRouter(tags=["channel"])
    guarded = [Depends(programs), Depends(misbehaved)]

    @api.get("/rewards", dependencies=[Depends(misbehaved)])
    async def listed() -> list[dict[str, Any]]:
        return rewards.public()

    @api.post("/rewards", status_code=201, dependencies=guarded)
    async def new_reward(
        body: NewReward, idempotency_key: Annotated[str, Header(max_length=200)] = ""
    ) -> dict[str, Any]:
        """Makes a reward; a repeated ``Idempotency-Key`` gets the first answer, and makes it once."""
        made = rewards.make(body, idempotency_key)
        answered()
        return made

    @api.put("/rewards/order", dependencies=guarded)
    async def sort(body: Order) -> list[dict[str, Any]]:
        """Puts rewards in this order; others keep their positions."""
        rewards.sort(body.order)
        answered()
        return rewards.public()

    @api.patch("/rewards/{reward_id}", dependencies=guarded)
    async def change_reward(reward_id: str, body: RewardChange) -> dict[str, Any]:
        changed = rewards.change(rewards.own(reward_id), body)
        answered()
        return changed

    @api.put("/rewards/{reward_id}/picture", status_code=204, dependencies=guarded)
    async def give_picture(reward_id: str, body: Pictures) -> None:
        """Gives a reward its picture, in the sizes that this channel asks for."""
        reward = rewards.own(reward_id)
        wanted = {str(side) for side in rewards.channel.can.pictures}
        if set(body.sizes) != wanted:
            raise HTTPException(422, f"Pictures come in the sides {', '.join(sorted(wanted)) or 'none'}.")
        for side, data in body.sizes.items():
            try:
                png = base64.b64decode(data, validate=True)
            except ValueError as error:
                raise HTTPException(422, f"The picture of side {side} isn’t base64.") from error
            if png[:8] != PNG or png[16:24] != int(side).to_bytes(4) * 2:
                raise HTTPException(422, f"The picture of side {side} isn’t a PNG of that size.")
        rewards.picture(reward, body.sizes)
        answered()

    @api.delete("/rewards/{reward_id}/picture", status_code=204, dependencies=guarded)
    async def take_picture(reward_id: str) -> None:
        rewards.picture(rewards.own(reward_id), None)
        answered()

    @api.get("/rewards/{reward_id}/picture/{side}.png")
    async def picture(reward_id: str, side: str) -> Response:
        sizes = rewards.pictures.get(reward_id, {})
        if side not in sizes:
            raise HTTPException(404, "This reward has no picture of that size.")
        return Response(base64.b64decode(sizes[side]), media_type="image/png")

    @api.delete("/rewards/{reward_id}", status_code=204, dependencies=guarded)
    async def delete_reward(reward_id: str) -> None:
        rewards.own(reward_id)
        rewards.remove(reward_id)
        answered()

    @api.post("/hand/rewards", status_code=201)
    async def made_by_hand(body: NewReward) -> dict[str, Any]:
        """Makes a reward at the channel itself, by the streamer or another program."""
        return rewards.make(body.model_copy(update={"made_by": body.made_by or BY_HAND}))

    @api.patch("/hand/rewards/{reward_id}")
    async def changed_by_hand(reward_id: str, body: RewardChange) -> dict[str, Any]:
        return rewards.change(rewards.of(reward_id), body)

    @api.delete("/hand/rewards/{reward_id}", status_code=204)
    async def removed_by_hand(reward_id: str) -> None:
        rewards.of(reward_id)
        rewards.remove(reward_id)

    return api
