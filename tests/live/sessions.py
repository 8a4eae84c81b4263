"""Recorded sessions of the wires (``docs/reference/wires/sessions``): what a driver and the other side said to each
other, in order.

``python -m tests.live.sessions`` records them again, with the drivers on one side and the stand-ins on the other.
Playback checks both: the stand-ins must answer as recorded, and the drivers must say the same again.

{"from": "cue-jar", "message": …}       JSON-RPC as it is; OSC as [address, argument…]
{"from": "other", "bundle": [[…], …]}   OSC messages in one packet
{"from": "cue-jar", "asks": "GET /channel/stream", "body": null}, {"from": "other", "status": 200, "body": …}
{"from": "cue-jar", "listens": "/channel/events"}, {"from": "other", "event": …}
{"from": "hand", "post": "/things/hand", "body": …}     what a person did at the stand-in
"""

from __future__ import annotations

import asyncio
import hashlib
import hmac
import json
from collections.abc import AsyncIterator, Awaitable, Callable
from contextlib import asynccontextmanager
from pathlib import Path
from typing import Any

import httpx
import uvicorn
import websockets
from pythonosc.osc_bundle import OscBundle
from pythonosc.osc_bundle_builder import IMMEDIATELY, OscBundleBuilder
from pythonosc.osc_message import OscMessage
from pythonosc.osc_message_builder import OscMessageBuilder
from starlette.applications import Starlette
from starlette.requests import Request
from starlette.responses import JSONResponse, Response
from starlette.routing import Route, WebSocketRoute
from starlette.websockets import WebSocket, WebSocketDisconnect

from cuejar.standins.halt import PASSWORD
from tests.running import PATIENCE_S, free_ports

SESSIONS = Path(__file__).parents[2] / "docs" / "reference" / "wires" / "sessions"
VOLATILE = {"boot", "memory", "challenge", "proof", "id", "reward", "time", "at", "idempotency_key"}
"""Texts that differ each time. Each must mean the same throughout."""
Row = dict[str, Any]


def like(wanted: Any, there: Any, names: dict[str, str], key: str = "") -> bool:
    """Returns whether a message equals the recorded one, except for texts that differ each time; ``names`` collects
    their mapping.
    """
    if isinstance(wanted, dict) and isinstance(there, dict):
        return wanted.keys() == there.keys() and all(like(wanted[k], there[k], names, k) for k in wanted)
    if isinstance(wanted, list) and isinstance(there, list):
        boots = bool(wanted) and str(wanted[0]).endswith("/here")
        keys = ["boot" if boots and i == 1 else "" for i in range(len(wanted))]
        return len(wanted) == len(there) and all(map(like, wanted, there, [names] * len(wanted), keys))
    if key in VOLATILE and isinstance(wanted, str) and isinstance(there, str):
        return names.setdefault(wanted, there) == there
    if isinstance(wanted, float) and isinstance(there, float):
        return key in VOLATILE or abs(wanted - there) < 1e-5
    return type(wanted) is type(there) and bool(wanted == there)


def named(message: Any, names: dict[str, str]) -> Any:
    """Returns a recorded message with the current texts."""
    if isinstance(message, dict):
        return {key: named(value, names) for key, value in message.items()}
    if isinstance(message, list):
        return [named(one, names) for one in message]
    if isinstance(message, str):
        for old, new in names.items():
            message = message.replace(old, new) if len(old) > 3 else message
    return message


class Wire:
    """Between a driver and the other side: the stand-in at a port, with everything recorded, or the recording."""

    def __init__(self, rows: list[Row] | None = None, standins: int = 0) -> None:
        self.played = rows is not None
        self.rows: list[Row] = list(rows or [])
        self.standins, self.port = standins, free_ports()
        self.at = 0
        """The current position of the playback."""

    async def hand(self, post: str, body: Any) -> None:
        """A person does something at the other side."""
        if self.played:
            row = self.rows[self.at]
            assert row["from"] == "hand" and row["post"] == post, row
            self.at += 1
            await self.say(self.following())
            return
        self.rows.append({"from": "hand", "post": post, "body": body})
        async with httpx.AsyncClient(base_url=f"http://127.0.0.1:{self.standins}", trust_env=False) as http:
            (await http.post(post, json=body)).raise_for_status()
        await asyncio.sleep(0.1)

    def following(self) -> list[Row]:
        """Returns what the other side says next, up to Cue Jar's or a hand's next turn."""
        begun = self.at
        while self.at < len(self.rows) and self.rows[self.at]["from"] == "other":
            self.at += 1
        return self.rows[begun : self.at]

    async def say(self, rows: list[Row]) -> None:
        raise NotImplementedError

    def answers(self, said: Row) -> list[Row]:
        """Returns what follows Cue Jar's message."""
        assert self.at < len(self.rows) and said == self.rows[self.at], (said, self.rows[self.at : self.at + 1])
        self.at += 1
        return self.following()


class SocketWire(Wire):
    """JSON-RPC over a WebSocket."""

    def __init__(self, path: str, rows: list[Row] | None = None, standins: int = 0) -> None:
        super().__init__(rows, standins)
        self.path = path
        self._near: Any = None
        self.wrong: list[BaseException] = []

    @asynccontextmanager
    async def open(self) -> AsyncIterator[str]:
        async with websockets.serve(self._meet, "127.0.0.1", self.port, compression=None):
            yield f"ws://127.0.0.1:{self.port}"
        assert not self.wrong, self.wrong

    async def say(self, rows: list[Row]) -> None:
        for row in rows:
            await self._near.send(json.dumps(row["message"]))

    async def _meet(self, near: Any) -> None:
        self._near = near
        if self.played:
            await self.say(self.following())
            async for said in near:
                try:
                    await self.say(self.answers({"from": "cue-jar", "message": json.loads(said)}))
                except AssertionError as error:
                    self.wrong.append(error)
                    return
            return
        async with websockets.connect(
            f"ws://127.0.0.1:{self.standins}{self.path}", proxy=None, max_size=1 << 24
        ) as far:

            async def passed(who: str, one: Any, other: Any) -> None:
                async for said in one:
                    self.rows.append({"from": who, "message": json.loads(said)})
                    await other.send(said)

            ways = [asyncio.create_task(passed("cue-jar", near, far)), asyncio.create_task(passed("other", far, near))]
            await asyncio.wait(ways, return_when=asyncio.FIRST_COMPLETED)
            for way in ways:
                way.cancel()


def packed(row: Row) -> bytes:
    """A row of OSC as a packet."""

    def message(told: list[Any]) -> OscMessage:
        made = OscMessageBuilder(address=told[0])
        for value in told[1:]:
            made.add_arg(bytes.fromhex(value["blob"]) if isinstance(value, dict) else value)
        return made.build()

    if "message" in row:
        return message(row["message"]).dgram
    whole = OscBundleBuilder(IMMEDIATELY)
    for told in row["bundle"]:
        whole.add_content(message(told))
    return whole.build().dgram


def unpacked(who: str, data: bytes) -> Row:
    def told(message: Any) -> list[Any]:
        return [message.address, *map(_plain, message.params)]

    if OscBundle.dgram_is_bundle(data):
        return {"from": who, "bundle": [told(message) for message in OscBundle(data)]}
    return {"from": who, "message": told(OscMessage(data))}


def _plain(value: Any) -> Any:
    """Returns an argument as JSON: a 32-bit float as people write it."""
    if isinstance(value, bytes):
        return {"blob": value.hex()}
    return round(value, 6) if isinstance(value, float) else value


def _is(row: Row, what: str) -> bool:
    return "message" in row and row["message"][0].endswith(f"/{what}")


class PacketWire(Wire, asyncio.DatagramProtocol):
    """OSC over UDP. Repetitions (a hello, a frame) are written once."""

    def __init__(self, rows: list[Row] | None = None, standins: int = 0) -> None:
        super().__init__(rows, standins)
        self._out: Any = None
        self._far: Any = None
        self._near: Any = None
        self._here: Row | None = None
        self.wrong: list[Row] = []

    @asynccontextmanager
    async def open(self) -> AsyncIterator[str]:
        loop = asyncio.get_running_loop()
        near, _ = await loop.create_datagram_endpoint(lambda: self, local_addr=("127.0.0.1", self.port))
        if not self.played:
            wire = self

            class Far(asyncio.DatagramProtocol):
                def datagram_received(self, data: bytes, addr: Any) -> None:
                    wire._back(data)

            self._far, _ = await loop.create_datagram_endpoint(Far, remote_addr=("127.0.0.1", self.standins))
        yield f"osc://127.0.0.1:{self.port}"
        near.close()
        if self._far is not None:
            self._far.close()
        assert not self.wrong, (self.wrong, self.rows[self.at : self.at + 1])

    def connection_made(self, transport: Any) -> None:
        self._out = transport

    def datagram_received(self, data: bytes, addr: Any) -> None:
        self._near = addr
        row = unpacked("cue-jar", data)
        if not self.played:
            known = [other for other in self.rows if other["from"] == "cue-jar" and _is(other, "hello")]
            again = _is(row, "hello") and known and known[-1] == row
            frames = [other for other in self.rows if _is(other, "frame")]
            if not again and not (_is(row, "frame") and frames and frames[-1] == row):
                self.rows.append(row)
            self._far.sendto(data)
            return
        if self.at < len(self.rows) and row == self.rows[self.at]:
            self._tell(self.answers(row))
        elif _is(row, "hello") and self._here is not None:
            self._tell([self._here])
        elif row not in self.rows[: self.at]:
            self.wrong.append(row)

    def _tell(self, rows: list[Row]) -> None:
        for row in rows:
            self._here = row if _is(row, "here") else self._here
            self._out.sendto(packed(row), self._near)

    async def say(self, rows: list[Row]) -> None:
        self._tell(rows)

    def _back(self, data: bytes) -> None:
        row = unpacked("other", data)
        if row not in self.rows:
            self.rows.append(row)
        self._out.sendto(data, self._near)


class ChannelWire(Wire):
    """The channel's HTTP and its WebSocket. Calls are answered by their content, whichever comes first."""

    def __init__(self, rows: list[Row] | None = None, standins: int = 0) -> None:
        super().__init__(rows, standins)
        self._events: WebSocket | None = None
        self._used: set[int] = set()
        self.wrong: list[Row] = []

    @asynccontextmanager
    async def open(self) -> AsyncIterator[str]:
        methods = ["GET", "POST", "PATCH", "DELETE"]
        routes = [WebSocketRoute("/channel/events", self._listen), Route("/{path:path}", self._ask, methods=methods)]
        app = Starlette(routes=routes)  # type: ignore[arg-type]
        server = uvicorn.Server(
            uvicorn.Config(app, "127.0.0.1", self.port, log_level="warning", timeout_graceful_shutdown=1)
        )
        serving = asyncio.create_task(server.serve())
        while not server.started:
            await asyncio.sleep(0.01)
        yield f"http://127.0.0.1:{self.port}"
        server.should_exit = True
        await serving
        assert not self.wrong, self.wrong

    async def _ask(self, request: Request) -> Response:
        path = request.url.path + (f"?{request.url.query}" if request.url.query else "")
        said = await request.body()
        row: Row = {"from": "cue-jar", "asks": f"{request.method} {path}", "body": json.loads(said) if said else None}
        if key := request.headers.get("idempotency-key"):
            row["idempotency_key"] = key
        if self.played:
            return await self._recorded(row)
        self.rows.append(row)
        async with httpx.AsyncClient(base_url=f"http://127.0.0.1:{self.standins}", trust_env=False) as http:
            more = {"Idempotency-Key": key} if key else {}
            answer = await http.request(
                request.method, path, content=said, headers={"Content-Type": "application/json", **more}
            )
        body = answer.json() if answer.content else None
        self.rows.append({"from": "other", "status": answer.status_code, "body": body})
        return Response(answer.content, answer.status_code, media_type="application/json")

    async def _recorded(self, row: Row) -> Response:
        # The key with which a reward is made differs each time.
        free = {"idempotency_key"} if row["asks"] == "POST /channel/rewards" else set()
        asked = [
            i
            for i, other in enumerate(self.rows)
            if other.keys() == row.keys() and all(other[key] == row[key] for key in row.keys() - free)
        ]
        fresh = [i for i in asked if i not in self._used]
        if not asked or (not fresh and not row["asks"].startswith("GET ")):
            self.wrong.append(row)
            return Response(status_code=500)
        i = fresh[0] if fresh else asked[-1]
        self._used.add(i)
        self.at = max(self.at, i + 1)
        answer = next(other for other in self.rows[i:] if "status" in other)
        if fresh:
            await self.say(self.following())
        return (
            JSONResponse(answer["body"], answer["status"])
            if answer["body"] is not None
            else Response(status_code=answer["status"])
        )

    async def _listen(self, socket: WebSocket) -> None:
        await socket.accept("cloudevents.json")
        self._events = socket
        query = socket.url.query
        row = {"from": "cue-jar", "listens": f"/channel/events{f'?{query}' if query else ''}"}
        try:
            if self.played:
                if row not in self.rows:
                    self.wrong.append(row)
                await socket.receive()
                return
            self.rows.append(row)
            async with websockets.connect(f"ws://127.0.0.1:{self.standins}{row['listens']}", proxy=None) as far:

                async def pass_on() -> None:
                    async for said in far:
                        self.rows.append({"from": "other", "event": json.loads(said)})
                        await socket.send_text(str(said))

                passing = asyncio.create_task(pass_on())
                await socket.receive()
                passing.cancel()
        except (WebSocketDisconnect, RuntimeError, websockets.ConnectionClosed):
            return

    async def say(self, rows: list[Row]) -> None:
        for row in rows:
            if "event" in row and self._events is not None:
                await self._events.send_text(json.dumps(row["event"]))

    def unasked(self) -> list[str]:
        """Returns recorded requests that weren't made."""
        kept = [
            (i, row["asks"]) for i, row in enumerate(self.rows) if "asks" in row and not row["asks"].startswith("GET ")
        ]
        return [asks for i, asks in kept if i not in self._used]


# The stand-ins, driven by the recording


def proof(challenge: str) -> str:
    return hmac.new(PASSWORD.encode(), challenge.encode(), hashlib.sha256).hexdigest()


Send = Callable[[Any], Awaitable[None]]


async def held(rows: list[Row], port: int, path: str) -> None:
    """Says Cue Jar's part to a stand-in, and does the changes by hand. Raises AssertionError: its answer differs."""
    names: dict[str, str] = {}
    heard: asyncio.Queue[Row] = asyncio.Queue()
    async with (
        meeting(port, path, heard) as send,
        httpx.AsyncClient(base_url=f"http://127.0.0.1:{port}", trust_env=False) as http,
    ):
        for row in rows:
            now = named(row, names)
            if row["from"] == "hand":
                (await http.post(now["post"], json=now["body"])).raise_for_status()
            elif row["from"] == "cue-jar":
                if now.get("message") and isinstance(now["message"], dict) and now["message"]["method"] == "sign_in":
                    challenge = next(r["message"]["params"]["challenge"] for r in rows if r["from"] == "other")
                    now["message"]["params"]["proof"] = proof(names[challenge])
                await send(now)
            else:
                await _comes(row, heard, names)


async def _comes(row: Row, heard: asyncio.Queue[Row], names: dict[str, str]) -> None:
    seen: list[Row] = []
    try:
        while True:
            there = await asyncio.wait_for(heard.get(), PATIENCE_S / 4)
            attempt = dict(names)
            if like(row, there, attempt):
                names.update(attempt)
                break
            # Only repetitions, or messages on other paths, may come in between.
            seen.append(there)
    except TimeoutError:
        raise AssertionError((row, seen)) from None
    for one in seen:
        heard.put_nowait(one)


@asynccontextmanager
async def meeting(port: int, path: str, heard: asyncio.Queue[Row]) -> AsyncIterator[Send]:
    """A connection of our own to a stand-in."""
    if path == "osc":
        loop = asyncio.get_running_loop()

        class Ear(asyncio.DatagramProtocol):
            def datagram_received(self, data: bytes, addr: Any) -> None:
                heard.put_nowait(unpacked("other", data))

        out, _ = await loop.create_datagram_endpoint(Ear, remote_addr=("127.0.0.1", port))

        async def packet(row: Row) -> None:
            out.sendto(packed(row))

        yield packet
        out.close()
        return
    if path == "/channel":
        async with httpx.AsyncClient(base_url=f"http://127.0.0.1:{port}", trust_env=False) as http:
            listening: list[asyncio.Task[None]] = []

            async def listen(where: str) -> None:
                async with websockets.connect(f"ws://127.0.0.1:{port}{where}", proxy=None) as socket:
                    async for said in socket:
                        heard.put_nowait({"from": "other", "event": json.loads(said)})

            async def ask(row: Row) -> None:
                if "listens" in row:
                    listening.append(asyncio.create_task(listen(row["listens"])))
                    await asyncio.sleep(0.2)
                    return
                method, where = row["asks"].split(" ", 1)
                more = {"Idempotency-Key": row["idempotency_key"]} if "idempotency_key" in row else {}
                answer = await http.request(method, where, json=row["body"], headers=more)
                heard.put_nowait(
                    {"from": "other", "status": answer.status_code, "body": answer.json() if answer.content else None}
                )

            yield ask
            for task in listening:
                task.cancel()
        return
    async with websockets.connect(f"ws://127.0.0.1:{port}{path}", proxy=None, max_size=1 << 24) as socket:

        async def hear() -> None:
            async for said in socket:
                heard.put_nowait({"from": "other", "message": json.loads(said)})

        hearing = asyncio.create_task(hear())

        async def message(row: Row) -> None:
            await socket.send(json.dumps(row["message"]))

        yield message
        hearing.cancel()
