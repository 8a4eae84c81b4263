"""The rules of the wire of the channel."""

from __future__ import annotations

import asyncio
import io
import secrets
from base64 import b64encode
from typing import Any, TypeVar

import httpx
import websockets
from PIL import Image

from cuejar.live.drivers import channel_wire as wire
from cuejar.live.drivers.channel import SUBPROTOCOL
from cuejar.live.drivers.channel_rewards import MADE_BY
from cuejar.live.drivers.said import Said, Unreadable, read
from cuejar.wires.trial import Broken, NotTried, Trial, expect

ANSWER_S = 5.0
T = TypeVar("T", bound=Said)


def plain_png(side: int) -> str:
    """Returns a PNG of one colour as base64."""
    out = io.BytesIO()
    Image.new("RGB", (side, side), "#2a9d8f").save(out, "PNG")
    return b64encode(out.getvalue()).decode()


class Channel:
    """One trial of a channel."""

    def __init__(self, address: str, token: str) -> None:
        self.address, self.token = address.rstrip("/"), token
        self.headers = {"Authorization": f"Bearer {token}"} if token else {}
        self.http = httpx.AsyncClient(headers=self.headers, timeout=ANSWER_S, trust_env=False)
        self.can = wire.Can()
        self.title = f"Trial {secrets.token_hex(4)}"
        self.reward = ""
        self.events: list[tuple[wire.Event, Any]] = []
        self._socket: websockets.ClientConnection | None = None

    async def call(self, method: str, path: str, **more: Any) -> httpx.Response:
        """Raises Broken: there is no answer."""
        try:
            return await self.http.request(method, f"{self.address}/channel{path}", **more)
        except httpx.HTTPError as error:
            raise Broken(f"{method} /channel{path} was not answered ({error or type(error).__name__})") from error

    async def json(self, method: str, path: str, *right: int, **more: Any) -> Any:
        """Returns the answer. Raises Broken: its status isn't one of these, or it isn't JSON."""
        answer = await self.call(method, path, **more)
        expect(answer.status_code in right, f"{method} /channel{path} answers {answer.status_code}", answer.text)
        try:
            return answer.json()
        except ValueError as error:
            raise Broken(f"{method} /channel{path} doesn’t answer with JSON", answer.text) from error

    def read(self, model: type[T], data: Any) -> T:
        try:
            return read(model, data)
        except Unreadable as error:
            raise Broken(str(error), data) from error

    async def says_what_it_can(self) -> None:
        if (await self.call("GET", "")).status_code == 404:
            return
        self.can = self.read(wire.About, await self.json("GET", "", 200)).can

    async def refuses_a_wrong_token(self) -> None:
        if not self.token:
            raise NotTried("no --token was given")
        answer = await self.call("GET", "", headers={"Authorization": f"Bearer {self.token}x"})
        expect(answer.status_code in (401, 403), f"it answers {answer.status_code}", answer.text)

    async def tells_of_its_stream(self) -> None:
        told = self.read(wire.Stream, await self.json("GET", "/stream", 200))
        expect(told.state is not None, "it has no state", told.model_dump())

    async def _connect(self, after: str = "") -> websockets.ClientConnection:
        address = self.address.replace("http", "ws", 1) + "/channel/events" + (f"?after={after}" if after else "")
        try:
            return await websockets.connect(
                address, proxy=None, subprotocols=[SUBPROTOCOL], additional_headers=self.headers, open_timeout=ANSWER_S
            )
        except (OSError, TimeoutError, websockets.WebSocketException) as error:
            raise Broken(f"{address} can’t be connected to ({error})") from error

    async def opens_its_events(self) -> None:
        self._socket = await self._connect()
        expect(self._socket.subprotocol in (SUBPROTOCOL, None), f"it speaks {self._socket.subprotocol}")

    async def _hear(self, socket: websockets.ClientConnection, what: str) -> tuple[wire.Event, Any]:
        """Returns the next event of a kind. Raises Broken: it can't be read, or doesn't come in time."""
        try:
            async with asyncio.timeout(ANSWER_S):
                while True:
                    text = await socket.recv()
                    try:
                        event, message = wire.read_event(text)
                    except Unreadable as error:
                        raise Broken(str(error), str(text)) from error
                    if event.what == what:
                        return event, message
        except TimeoutError as error:
            raise Broken(f"no {wire.TYPES}{what} came within {ANSWER_S:g} s") from error
        except websockets.WebSocketException as error:
            raise Broken(f"the connection was closed ({error})") from error

    def _has_rewards(self) -> None:
        if not self.can.rewards:
            raise NotTried("it says that it has no rewards")

    async def lists_rewards(self) -> None:
        self._has_rewards()
        for row in await self._list("/rewards"):
            self.read(wire.Reward, row)

    async def _list(self, path: str, **more: Any) -> list[Any]:
        told = await self.json("GET", path, 200, **more)
        expect(isinstance(told, list), f"GET /channel{path} isn’t a list", told)
        return list(told)

    async def makes_a_reward(self) -> None:
        self._has_rewards()
        body = {
            "title": self.title,
            "cost": 9_999,
            "prompt": "A trial.",
            "text": False,
            "on": False,
            "made_by": MADE_BY,
        }
        told = await self.json("POST", "/rewards", 201, json=body)
        self.reward = self.read(wire.Reward, {**body, **(told if isinstance(told, dict) else {})}).id
        self.events.append(await self._hear(self._own_socket(), "reward"))
        again = await self.call("POST", "/rewards", json=body)
        expect(again.status_code == 409, f"the same title again is answered with {again.status_code}", again.text)

    def _own_socket(self) -> websockets.ClientConnection:
        if self._socket is None:
            raise NotTried("its events could not be heard")
        return self._socket

    async def changes_it(self) -> None:
        if not self.reward:
            raise NotTried("no reward could be made")
        await self.json("PATCH", f"/rewards/{self.reward}", 200, json={"cost": 8_888})
        there = next((row for row in await self._list("/rewards") if row.get("id") == self.reward), None)
        expect(there is not None and there.get("cost") == 8_888, "it does not cost what was said", there)
        self.events.append(await self._hear(self._own_socket(), "reward"))

    async def takes_its_picture(self) -> None:
        if not self.can.pictures:
            raise NotTried("it says that it wants no pictures")
        if not self.reward:
            raise NotTried("no reward could be made")
        sizes = {str(side): plain_png(side) for side in self.can.pictures}
        for _ in range(2):
            answer = await self.call("PUT", f"/rewards/{self.reward}/picture", json={"sizes": sizes})
            expect(answer.is_success, f"it answers {answer.status_code}", answer.text)

    async def loses_its_picture(self) -> None:
        if not self.can.pictures or not self.reward:
            raise NotTried("it has no picture to lose")
        for _ in range(2):
            answer = await self.call("DELETE", f"/rewards/{self.reward}/picture")
            expect(answer.is_success, f"it answers {answer.status_code}", answer.text)

    async def takes_it_away(self) -> None:
        if not self.reward:
            raise NotTried("no reward could be made")
        answer = await self.call("DELETE", f"/rewards/{self.reward}")
        expect(answer.is_success, f"it answers {answer.status_code}", answer.text)
        there = [row for row in await self._list("/rewards") if row.get("id") == self.reward]
        expect(not there, "it is still there", there)
        self.events.append(await self._hear(self._own_socket(), "reward-gone"))

    async def events_are_whole(self) -> None:
        if not self.events:
            raise NotTried("no event came")
        for event, message in self.events:
            expect(
                isinstance(message, dict) and message.get("specversion") == "1.0", "it isn’t a CloudEvent 1.0", message
            )
            expect(bool(event.id) and bool(event.source), "it has no id or no source", message)
        keys = [event.key for event, _ in self.events]
        expect(len(set(keys)) == len(keys), "two events have one id", keys)

    async def catches_up(self) -> None:
        if len(self.events) < 2:
            raise NotTried("there are not two events to tell apart")
        first, second = self.events[0][0], self.events[1][0]
        socket = await self._connect(str(first.id))
        try:
            event, message = await self._hear(socket, second.what)
            expect(event.id == second.id, "what comes first is not what came after that one", message)
        finally:
            await socket.close()

    async def lists_what_nobody_settled(self) -> None:
        self._has_rewards()
        for row in await self._list("/redemptions", params={"state": "unfulfilled"}):
            self.read(wire.Redemption, row)

    async def knows_no_such_redemption(self) -> None:
        self._has_rewards()
        answer = await self.call("PATCH", "/redemptions/no-such-redemption", json={"state": "refunded"})
        expect(answer.status_code in (404, 410), f"it answers {answer.status_code}", answer.text)

    async def says_once(self) -> None:
        if not self.can.replies:
            raise NotTried("it says that it takes no replies")
        key = {"Idempotency-Key": f"st_{secrets.token_hex(8)}"}
        answers = [await self.call("POST", "/replies", json={"text": "Mind the gap."}, headers=key) for _ in range(2)]
        for answer in answers:
            expect(answer.is_success, f"it answers {answer.status_code}", answer.text)
        expect(answers[0].text == answers[1].text, "the same key again gets a different answer", answers[1].text)

    async def close(self) -> None:
        if self._socket is not None:
            await self._socket.close()
        await self.http.aclose()


async def try_channel(trial: Trial, address: str, token: str) -> None:
    """Tries all rules. Stops without an answer."""
    it = Channel(address, token)
    rule = trial.rule
    try:
        if not await rule("404: rewards and replies only", it.says_what_it_can):
            return
        await rule("A wrong one is answered with 401 or 403", it.refuses_a_wrong_token)
        await rule("`state`, `category`", it.tells_of_its_stream)
        await rule("the channel accepts it or none", it.opens_its_events)
        await rule("a list of all rewards", it.lists_rewards)
        await rule("201 and the reward with its `id`; 409 if the title is taken", it.makes_a_reward)
        await rule("200 and the reward", it.changes_it)
        await rule("204; it may be given again", it.takes_its_picture)
        await rule("204; also if there is none", it.loses_its_picture)
        await rule("only rewards that Cue Jar made", it.takes_it_away)
        await rule("`id` and `source` together identify an event", it.events_are_whole)
        await rule("the events after that one", it.catches_up)
        await rule("a list of unsettled redemptions", it.lists_what_nobody_settled)
        await rule("no such redemption", it.knows_no_such_redemption)
        await rule("a repeated key gets the first answer and is said once", it.says_once)
    finally:
        await it.close()
