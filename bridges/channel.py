"""A channel over the wire of ``docs/reference/wires/channel.md``: what a bridge to any chat needs.

It has no rewards and no points. Events are remembered for clients that were disconnected; Cue Jar's chat messages are
said once.
"""

from __future__ import annotations

import asyncio
import hmac
import json
import secrets
from collections import OrderedDict
from collections.abc import Awaitable, Callable
from datetime import UTC, datetime
from typing import Any

from starlette.applications import Starlette
from starlette.requests import Request
from starlette.responses import JSONResponse
from starlette.routing import Route, WebSocketRoute
from starlette.websockets import WebSocket, WebSocketDisconnect

REMEMBERED = 1_000
SUBPROTOCOL = "cloudevents.json"
MOST_BODY = 100_000


class Channel:
    """Everything that happens in one chat, and its listeners."""

    def __init__(
        self, name: str, say: Callable[[str], Awaitable[None]], token: str = "", source: str | None = None
    ) -> None:
        """Args:
        say: says something in the chat.
        token: what a client must send; empty: nothing.
        """
        self.name, self.token, self.source = name, token, source or f"/{name}"
        self.stream: dict[str, str] = {"state": "live"}
        self._say = say
        self._told: OrderedDict[str, str] = OrderedDict()
        self._said: OrderedDict[str, dict[str, Any]] = OrderedDict()
        self._listeners: set[asyncio.Queue[str]] = set()

    # Events

    def tell(self, what: str, data: dict[str, Any]) -> None:
        """Sends an event: ``chat``, ``follow``, ``stream`` … with its data."""
        event_id = secrets.token_hex(8)
        event = {
            "specversion": "1.0",
            "id": event_id,
            "source": self.source,
            "type": f"cuejar.channel.{what}",
            "time": datetime.now(UTC).isoformat(),
            "datacontenttype": "application/json",
            "data": data,
        }
        self._told[event_id] = text = json.dumps(event, ensure_ascii=False)
        while len(self._told) > REMEMBERED:
            self._told.popitem(last=False)
        for line in self._listeners:
            line.put_nowait(text)

    def chat(self, viewer: str, text: str, roles: tuple[str, ...] = ()) -> None:
        """A viewer said something."""
        who = {"id": viewer.casefold(), "name": viewer, "roles": list(roles)}
        self.tell("chat", {"id": secrets.token_hex(8), "viewer": who, "text": text})

    def become(self, state: str) -> None:
        """Notes that the stream is `live` or `ended` now."""
        self.stream = {"state": state}
        self.tell("stream", self.stream)

    # The wire

    def app(self) -> Starlette:
        routes = [
            Route("/channel", self._about),
            Route("/channel/stream", self._stream),
            Route("/channel/replies", self._reply, methods=["POST"]),
            WebSocketRoute("/channel/events", self._events),
        ]
        return Starlette(routes=routes)

    def _let_in(self, authorization: str) -> bool:
        scheme, _, shown = authorization.partition(" ")
        right = scheme.casefold() == "bearer" and hmac.compare_digest(shown.encode(), self.token.encode())
        return right or not self.token

    def _refused(self, request: Request) -> JSONResponse | None:
        if self._let_in(request.headers.get("authorization", "")):
            return None
        return JSONResponse({"what": "The token is wrong."}, 401, {"WWW-Authenticate": "Bearer"})

    async def _about(self, request: Request) -> JSONResponse:
        about = {"version": 1, "name": self.name, "can": {"rewards": False, "replies": True}}
        return self._refused(request) or JSONResponse(about)

    async def _stream(self, request: Request) -> JSONResponse:
        return self._refused(request) or JSONResponse(self.stream)

    async def _reply(self, request: Request) -> JSONResponse:
        if (refused := self._refused(request)) is not None:
            return refused
        try:
            body = await request.body()
            text = json.loads(body)["text"] if len(body) <= MOST_BODY else None
        except (ValueError, KeyError, TypeError, RecursionError):
            text = None
        if not isinstance(text, str):
            return JSONResponse({"what": "A reply is an object with a text."}, 422)
        key = request.headers.get("idempotency-key", "")
        if key in self._said:
            return JSONResponse(self._said[key], 201)
        reply = {"id": secrets.token_hex(8), "text": text}
        if key:
            self._said[key] = reply
            while len(self._said) > REMEMBERED:
                self._said.popitem(last=False)
        try:
            await self._say(text)
        except OSError as error:
            self._said.pop(key, None)
            return JSONResponse({"what": f"It could not be said: {error}."}, 503)
        return JSONResponse(reply, 201)

    async def _events(self, socket: WebSocket) -> None:
        if not self._let_in(socket.headers.get("authorization", "")):
            await socket.close(1008)
            return
        await socket.accept(SUBPROTOCOL if SUBPROTOCOL in socket.scope.get("subprotocols", []) else None)
        line: asyncio.Queue[str] = asyncio.Queue()
        after = socket.query_params.get("after", "")
        if after in self._told:
            ids = list(self._told)
            for event in ids[ids.index(after) + 1 :]:
                line.put_nowait(self._told[event])
        self._listeners.add(line)
        speaking = asyncio.create_task(_speak(socket, line))
        try:
            while True:
                await socket.receive_text()
        except (WebSocketDisconnect, KeyError, RuntimeError):
            pass
        finally:
            self._listeners.discard(line)
            speaking.cancel()


async def _speak(socket: WebSocket, line: asyncio.Queue[str]) -> None:
    while True:
        await socket.send_text(await line.get())
