"""JSON-RPC 2.0 over a WebSocket, calling side: a request is answered within a time, or the other side counts as lost."""

from __future__ import annotations

import asyncio
import contextlib
import itertools
import json
from collections.abc import Callable
from typing import Annotated, Any

import websockets
from pydantic import Field

from cuejar.core.facts.gate import MOST_NAME, MOST_WHOLE, Text
from cuejar.live.drivers.base import AwayError, GearRefused, Unanswered
from cuejar.live.drivers.limits import ALIVE, MOST_MESSAGE, Pace
from cuejar.live.drivers.said import Said, Unreadable, read
from cuejar.live.drivers.unheard import unheard_said
from cuejar.live.watch import background

ANSWER_S = 3.0


class Error(Said):
    message: Text = "refused"


class Envelope(Said):
    """A message of JSON-RPC 2.0: an answer to a call of ours, or a notification."""

    id: Annotated[int, Field(ge=0, le=MOST_WHOLE)] | None = None
    method: Annotated[str, Field(min_length=1, max_length=MOST_NAME)] | None = None
    params: dict[str, Any] | None = None
    error: Error | None = None


class Rpc:
    """One connection."""

    def __init__(self, heard: Callable[[str, dict[str, Any]], None], lost: Callable[[AwayError], None]) -> None:
        """Args:
        heard: gets notifications: a method and its parameters.
        lost: gets the reason, once, when the connection ends by itself.
        """
        self._heard, self._lost = heard, lost
        self.odd: Callable[[Any, str], object] = lambda message, why: None
        """Gets an unreadable message, and why."""
        self.unknown: Callable[[str], object] = lambda kind: None
        """Gets the kind of an unknown message."""
        self._socket: websockets.ClientConnection | None = None
        self._reader: asyncio.Task[None] | None = None
        self._numbers = itertools.count(1)
        self._asked: dict[int, asyncio.Future[Any]] = {}
        self.size = 0
        """The length of the last message read."""

    async def open(self, address: str) -> None:
        """Connects. Raises AwayError: there is no answer."""
        try:
            self._socket = await websockets.connect(
                address, proxy=None, compression=None, max_size=MOST_MESSAGE, open_timeout=ANSWER_S, **ALIVE
            )
        except (OSError, TimeoutError, ValueError, websockets.WebSocketException) as error:
            raise AwayError(f"{address} isn’t answering ({unheard_said(error)}).") from error
        self._reader = background("rpc", self._read(self._socket), self._broke)

    async def ask(self, method: str, params: dict[str, Any], answer_s: float | None = None) -> Any:
        """Calls a method. Raises AwayError (it wasn't asked), Unanswered or GearRefused."""
        if self._socket is None or self._reader is None or self._reader.done():
            raise AwayError("not connected")
        answer_s = ANSWER_S if answer_s is None else answer_s
        number = next(self._numbers)
        answer: asyncio.Future[Any] = asyncio.get_running_loop().create_future()
        self._asked[number] = answer
        call = {"jsonrpc": "2.0", "id": number, "method": method, "params": params}
        try:
            await self._socket.send(json.dumps(call, ensure_ascii=False))
            async with asyncio.timeout(answer_s):
                return await answer
        except TimeoutError as error:
            raise Unanswered(f"no answer within {answer_s:g} s") from error
        except (OSError, websockets.WebSocketException) as error:
            raise Unanswered("the connection broke off") from error
        finally:
            self._asked.pop(number, None)

    async def _read(self, socket: websockets.ClientConnection) -> None:
        why = "the connection was closed"
        pace = Pace()
        try:
            async for text in socket:
                self.size = len(text)
                await pace.take(self.size)
                try:
                    self._take(json.loads(text))
                except Unreadable as error:
                    # One odd message is skipped alone.
                    self.odd(error.message, str(error))
                except (ValueError, RecursionError):
                    self.odd(text if isinstance(text, str) else repr(text[:1000]), "it is not JSON")
        except (OSError, websockets.WebSocketException) as error:
            why = str(error) or why
        self._broke(why)

    def _broke(self, why: str) -> None:
        for answer in self._asked.values():
            if not answer.done():
                answer.set_exception(Unanswered(why))
        self._lost(AwayError(why))

    def _take(self, message: Any) -> None:
        """Raises Unreadable."""
        if isinstance(message, dict) and "result" in message and "method" not in message:
            # The caller reads the result by its own model, however long it is.
            said = read(Envelope, {key: message[key] for key in ("id", "error") if key in message}, message)
        else:
            said = read(Envelope, message)
        if said.method is not None:
            self._heard(said.method, said.params or {})
            return
        answer = self._asked.get(said.id) if said.id is not None else None
        if answer is None or answer.done():
            self.unknown("an answer to nothing")
        elif said.error is not None:
            answer.set_exception(GearRefused(said.error.message))
        else:
            answer.set_result(message.get("result"))

    async def close(self) -> None:
        if self._reader is not None:
            self._reader.cancel()
            self._reader = None
        if self._socket is not None:
            with contextlib.suppress(OSError, websockets.WebSocketException):
                await self._socket.close()
            self._socket = None
