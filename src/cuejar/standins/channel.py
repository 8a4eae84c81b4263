"""The simulated channel: viewers with points and roles, rewards, redemptions, chat, tips, and a stream that goes on and
off.

Points are taken when redeeming and returned on a refund. Everything that happens goes out as a CloudEvents 1.0 message
over the WebSocket at ``/channel/events``. With a state file, the channel's state outlives its process.
"""

from __future__ import annotations

import asyncio
import contextlib
import json
import secrets
import time
from datetime import UTC, datetime
from pathlib import Path
from typing import Annotated, Any, Literal
from urllib.parse import quote

from fastapi import APIRouter, Depends, Header, HTTPException, Response, WebSocket, WebSocketDisconnect
from pydantic import Field

from cuejar.standins import channel_rewards
from cuejar.standins.channel_rewards import Body, Name, Rewards
from cuejar.standins.faces import drawn_face
from cuejar.standins.keeping import Keeping
from cuejar.standins.people import PEOPLE, POINTS
from cuejar.standins.rpc import said

SUBPROTOCOL = "cloudevents.json"
TOLD = 1_000
"""How many events are remembered for disconnected clients."""


class NewRedemption(Body):
    viewer: Name
    reward: Name
    text: Annotated[str, Field(max_length=10_000)] = ""


class Settlement(Body):
    state: Literal["fulfilled", "refunded"]


class Message(Body):
    viewer: Name
    text: Annotated[str, Field(min_length=1, max_length=10_000)]


class Reply(Body):
    text: Annotated[str, Field(max_length=10_000)]


class Tip(Body):
    viewer: Name
    amount: Annotated[float, Field(gt=0)]
    text: str = ""


class Who(Body):
    viewer: Name


class Comes(Who):
    left: bool = False


class NewMembership(Body):
    viewer: Name
    tier: Annotated[int, Field(ge=1, le=3)] = 1
    months: Annotated[int, Field(ge=1)] = 1
    gifts: Annotated[int, Field(ge=0)] = 0
    text: str = ""


class NewRaid(Body):
    viewer: Name
    party: Annotated[int, Field(ge=1)]


class StreamChange(Body):
    state: Literal["live", "ended"]
    category: str | None = None


class Abilities(Body):
    """What the channel can do from now on. A channel without rewards has no points."""

    rewards: bool = True
    replies: bool = True
    pause: bool = True
    limits: bool = True
    order: bool = True
    presence: bool = True
    colours: bool = True
    pictures: Annotated[list[Annotated[int, Field(ge=16, le=1024)]], Field(max_length=8)] = [48, 96, 192]


class Raw(Body):
    text: Annotated[str, Field(max_length=1_000_000)]


class Trouble(Body):
    """How the channel misbehaves: the status of its answers, how many times, its ``Retry-After``, and the delay of each
    in seconds; ``done``: it carries the request out but still answers so; ``what``: only settlements and replies, or
    only rewards.
    """

    status: Annotated[int, Field(ge=400, le=599)] = 503
    times: Annotated[int, Field(ge=0, le=100_000)] = 0
    retry_after: str = ""
    slow_s: Annotated[float, Field(ge=0, le=30)] = 0
    done: bool = False
    what: Literal["settling", "rewards"] = "settling"


class Channel:
    """The channel's state and its listeners."""

    def __init__(self, file: Path | None = None, token: str = "") -> None:
        self.token = token
        """The token that a program must send; empty: none. Viewers on the audience page need none."""
        self.viewers = {p["id"]: {**p, "points": POINTS} for p in PEOPLE}
        self.rewards = Rewards(self)
        self.can = Abilities()
        self.boot = secrets.token_hex(8)
        self.redemptions: dict[str, dict[str, Any]] = {}
        self.stream: dict[str, Any] = {"state": "ended", "category": "Model railways"}
        self.said: list[dict[str, Any]] = []
        self.listeners: set[asyncio.Queue[str]] = set()
        self.replied: dict[str, dict[str, Any]] = {}
        """Replies that were said, by their ``Idempotency-Key``."""
        self.contradicted: dict[str, int] = {}
        """How often each redemption was also settled with another outcome; for checks."""
        self.trouble = Trouble()
        self.told: dict[str, str] = {}
        """The last events by their ids, for clients that were disconnected."""
        self._kept = Keeping(file)
        self.viewers.update(self._kept.all("viewer"))
        self.rewards.restore(self._kept.all("reward"))
        self.rewards.pictures = {key: row["sizes"] for key, row in self._kept.all("picture").items()}
        self.rewards.stream_from = self._kept.all("stream").get("from", {"at": 0.0})["at"]
        self.boot = self._kept.all("boot").get("boot", {"id": self.boot})["id"]
        self.keep("boot", {"id": self.boot}, "boot")
        self.redemptions.update(sorted(self._kept.all("redemption").items(), key=lambda row: row[1]["at"]))
        self.replied.update(self._kept.all("reply"))
        self.stream.update(self._kept.all("stream").get("stream", {}))

    def keep(self, kind: str, row: dict[str, Any], key: str | None = None) -> None:
        self._kept.put(kind, key or row["id"], row)

    def drop(self, kind: str, key: str) -> None:
        self._kept.drop(kind, key)

    def tell(self, what: str, data: dict[str, Any]) -> None:
        """Sends a CloudEvents message to all listeners."""
        event_id = secrets.token_hex(8)
        event = {
            "specversion": "1.0",
            "id": event_id,
            "source": "/channel",
            "type": f"cuejar.channel.{what}",
            "time": datetime.now(UTC).isoformat(),
            "datacontenttype": "application/json",
            "data": data,
        }
        text = json.dumps(event, ensure_ascii=False)
        self.told[event_id] = text
        while len(self.told) > TOLD:
            self.told.pop(next(iter(self.told)))
        self.say(text)

    def say(self, text: str) -> None:
        for line in self.listeners:
            line.put_nowait(text)

    def after(self, event: str) -> list[str]:
        """Returns the events after one, as far as they are remembered; none if it is unknown."""
        ids = list(self.told)
        return [self.told[one] for one in ids[ids.index(event) + 1 :]] if event in self.told else []

    def viewer(self, name: str) -> dict[str, Any]:
        found = self.viewers.get(name) or next((v for v in self.viewers.values() if v["name"] == name), None)
        if found is None:
            raise HTTPException(404, f"There is no viewer “{name}”.")
        return found

    def reward(self, name: str) -> dict[str, Any]:
        wanted = name.strip().casefold()
        found = self.rewards.all.get(name) or next(
            (r for r in self.rewards.all.values() if r["title"].casefold() == wanted), None
        )
        if found is None:
            raise HTTPException(404, f"There is no reward “{name}”.")
        return found

    def redeem(self, body: NewRedemption) -> dict[str, Any]:
        if not self.can.rewards:
            raise HTTPException(409, "This channel has no points.")
        viewer, reward = self.viewer(body.viewer), self.reward(body.reward)
        self.rewards.refuse(reward, viewer["id"])
        if reward["text"] and not body.text.strip():
            raise HTTPException(422, f"“{reward['title']}” needs text.")
        if viewer["points"] < reward["cost"]:
            raise HTTPException(409, f"{viewer['name']} has {viewer['points']} points; it costs {reward['cost']}.")
        viewer["points"] -= reward["cost"]
        redemption = {
            "id": f"rd-{secrets.token_hex(6)}",
            "reward": reward["id"],
            "title": reward["title"],
            "cost": reward["cost"],
            "viewer": public(viewer),
            "text": body.text,
            "state": "unfulfilled",
            "at": time.time(),
        }
        self.redemptions[redemption["id"]] = redemption
        with self._kept.together():
            self.keep("viewer", viewer)
            self.keep("redemption", redemption)
        self.tell("redemption", redemption)
        return redemption

    def settle(self, redemption: dict[str, Any], state: str) -> None:
        if redemption["state"] == state:
            return
        if redemption["state"] != "unfulfilled":
            self.contradicted[redemption["id"]] = self.contradicted.get(redemption["id"], 0) + 1
            raise HTTPException(409, f"It is already {redemption['state']}.")
        redemption["state"] = state
        viewer = self.viewers.get(redemption["viewer"]["id"]) if state == "refunded" else None
        with self._kept.together():
            if viewer is not None:
                viewer["points"] += redemption["cost"]
                self.keep("viewer", viewer)
            self.keep("redemption", redemption)
        self.tell("settled", redemption)


def public(viewer: dict[str, Any]) -> dict[str, Any]:
    told = {key: viewer[key] for key in ("id", "name", "roles", "tier")}
    return {**told, "picture": f"/channel/faces/{quote(viewer['id'], safe='')}.png"}


def router(channel: Channel) -> APIRouter:
    """Returns the channel's HTTP and WebSocket."""
    api = APIRouter(prefix="/channel", tags=["channel"])

    def let_in(authorization: Annotated[str, Header(max_length=2_000)] = "") -> None:
        scheme, _, shown = authorization.partition(" ")
        right = scheme.casefold() == "bearer" and secrets.compare_digest(shown.encode(), channel.token.encode())
        if channel.token and not right:
            raise HTTPException(401, "The token is wrong.", {"WWW-Authenticate": "Bearer"})

    programs = [Depends(let_in)]

    @api.get("", dependencies=programs)
    async def about() -> dict[str, Any]:
        """Returns its name and its abilities."""
        return {"version": 1, "name": "Tinwhistle Halt", "boot": channel.boot, "can": channel.can.model_dump()}

    @api.post("/can")
    async def abilities(body: Abilities) -> Abilities:
        """Sets what it can do; programs learn of it with their next connection."""
        channel.can = body
        return body

    @api.post("/presence", status_code=204)
    async def present(body: Comes) -> None:
        """A viewer has the page open; repeated every few minutes. Or they close it."""
        viewer = channel.viewer(body.viewer)
        if channel.can.presence:
            told = {"viewers": [], "left": [viewer["id"]]} if body.left else {"viewers": [public(viewer)]}
            channel.tell("present", told)

    @api.get("/faces/{viewer}.png")
    async def face(viewer: str) -> Response:
        """A viewer's picture."""
        if viewer not in channel.viewers:
            raise HTTPException(404, f"There is no viewer “{viewer}”.")
        return Response(drawn_face(viewer), media_type="image/png")

    @api.get("/viewers")
    async def viewers() -> list[dict[str, Any]]:
        return list(channel.viewers.values())

    async def bad_day(what: str) -> None:
        trouble = channel.trouble
        if trouble.what != what:
            return
        if trouble.slow_s:
            await asyncio.sleep(trouble.slow_s)
        if trouble.times > 0 and not trouble.done:
            trouble.times -= 1
            raise _bad_day(trouble)

    async def misbehaved() -> None:
        await bad_day("settling")

    async def rewards_misbehave() -> None:
        await bad_day("rewards")

    def done_all_the_same() -> None:
        """May carry out a request about rewards and still answer with an error."""
        trouble = channel.trouble
        if trouble.what == "rewards" and trouble.times > 0 and trouble.done:
            trouble.times -= 1
            raise _bad_day(trouble)

    api.include_router(channel_rewards.router(channel.rewards, let_in, rewards_misbehave, done_all_the_same))

    @api.post("/redemptions", status_code=201)
    async def redeem(body: NewRedemption) -> dict[str, Any]:
        return channel.redeem(body)

    @api.get("/redemptions")
    async def redemptions(state: str | None = None) -> list[dict[str, Any]]:
        return [r for r in channel.redemptions.values() if state is None or r["state"] == state]

    def redemption_of(redemption_id: str) -> dict[str, Any]:
        if redemption_id not in channel.redemptions:
            raise HTTPException(404, f"There is no redemption “{redemption_id}”.")
        return channel.redemptions[redemption_id]

    @api.get("/redemptions/{redemption_id}")
    async def redemption(redemption_id: str) -> dict[str, Any]:
        return redemption_of(redemption_id)

    @api.patch("/redemptions/{redemption_id}", dependencies=programs)
    async def settle(redemption_id: str, body: Settlement) -> dict[str, Any]:
        await misbehaved()
        found = redemption_of(redemption_id)
        if found["reward"] in channel.rewards.all:
            channel.rewards.own(found["reward"])
        channel.settle(found, body.state)
        return found

    def call(what: str, viewer: str, **data: Any) -> dict[str, Any]:
        happened = {"id": f"{what}-{secrets.token_hex(6)}", "viewer": public(channel.viewer(viewer)), **data}
        channel.tell(what, happened)
        return happened

    def say(viewer: str, text: str) -> dict[str, Any]:
        message = call("chat", viewer, text=text)
        channel.said = [*channel.said[-99:], message]
        return message

    @api.post("/chat", status_code=201)
    async def chat(body: Message) -> dict[str, Any]:
        return say(body.viewer, body.text)

    @api.get("/chat")
    async def chatted() -> list[dict[str, Any]]:
        return channel.said

    @api.post("/replies", status_code=201, dependencies=programs)
    async def reply(body: Reply, idempotency_key: Annotated[str, Header(max_length=200)] = "") -> dict[str, Any]:
        """Says something in chat; a repeated ``Idempotency-Key`` gets the first answer, and is said once."""
        await misbehaved()
        if idempotency_key in channel.replied:
            return channel.replied[idempotency_key]
        message = {"id": f"reply-{secrets.token_hex(6)}", "viewer": {"name": "Tinwhistle Halt"}, "text": body.text}
        channel.said = [*channel.said[-99:], message]
        if idempotency_key:
            channel.replied[idempotency_key] = message
            channel.keep("reply", message, idempotency_key)
        channel.tell("reply", message)
        return message

    @api.post("/tips", status_code=201)
    async def tip(body: Tip) -> dict[str, Any]:
        return call("tip", body.viewer, amount=body.amount, text=body.text)

    @api.post("/follows", status_code=201)
    async def follow(body: Who) -> dict[str, Any]:
        viewer = channel.viewer(body.viewer)
        if "follower" not in viewer["roles"]:
            viewer["roles"].append("follower")
        return call("follow", body.viewer)

    @api.post("/memberships", status_code=201)
    async def join(body: NewMembership) -> dict[str, Any]:
        viewer = channel.viewer(body.viewer)
        viewer["tier"] = body.tier
        if "member" not in viewer["roles"]:
            viewer["roles"].append("member")
        return call("membership", **body.model_dump())

    @api.post("/raids", status_code=201)
    async def raid(body: NewRaid) -> dict[str, Any]:
        return call("raid", body.viewer, party=body.party)

    @api.get("/contradicted")
    async def contradicted() -> dict[str, int]:
        """Returns redemptions that were also settled with another outcome."""
        return channel.contradicted

    @api.get("/replies")
    async def replies() -> dict[str, Any]:
        """Returns the replies that were said, by their keys."""
        return channel.replied

    @api.post("/trouble")
    async def trouble(body: Trouble) -> Trouble:
        """Sets how it misbehaves from now on."""
        channel.trouble = body
        return body

    @api.post("/raw", status_code=204)
    async def raw(body: Raw) -> None:
        """Sends any text to all listeners, unchanged."""
        channel.say(body.text)

    @api.get("/stream")
    async def stream() -> dict[str, Any]:
        return channel.stream

    @api.post("/stream")
    async def change_stream(body: StreamChange) -> dict[str, Any]:
        if body.state == "live" and channel.stream["state"] != "live":
            channel.rewards.stream_from = time.time()
            channel.keep("stream", {"at": channel.rewards.stream_from}, "from")
        channel.stream.update(body.model_dump(exclude_none=True))
        channel.keep("stream", channel.stream, "stream")
        channel.tell("stream", channel.stream)
        return channel.stream

    @api.websocket("/events")
    async def events(socket: WebSocket, after: str = "") -> None:
        """Sends all events from now on; with ``after``, first the events since that one."""
        try:
            let_in(socket.headers.get("authorization", ""))
        except HTTPException:
            await socket.close(1008)
            return
        offered = socket.scope.get("subprotocols", [])
        await socket.accept(SUBPROTOCOL if SUBPROTOCOL in offered else None)
        line: asyncio.Queue[str] = asyncio.Queue()
        for text in channel.after(after):
            line.put_nowait(text)
        channel.listeners.add(line)
        listening = asyncio.create_task(_until_gone(socket))
        try:
            while not listening.done():
                waiting = asyncio.create_task(line.get())
                await asyncio.wait({waiting, listening}, return_when=asyncio.FIRST_COMPLETED)
                if waiting.done():
                    await socket.send_text(waiting.result())
                else:
                    waiting.cancel()
        except (WebSocketDisconnect, RuntimeError):
            pass
        finally:
            channel.listeners.discard(line)
            listening.cancel()
            with contextlib.suppress(asyncio.CancelledError, WebSocketDisconnect):
                await listening

    return api


def _bad_day(trouble: Trouble) -> HTTPException:
    headers = {"Retry-After": trouble.retry_after} if trouble.retry_after else None
    return HTTPException(trouble.status, "The channel is failing on purpose.", headers)


async def _until_gone(socket: WebSocket) -> None:
    with contextlib.suppress(WebSocketDisconnect, RuntimeError):
        while True:
            await said(socket)
