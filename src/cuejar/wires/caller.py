"""The calling side of JSON-RPC, for trials: every message is seen unaltered."""

from __future__ import annotations

import asyncio
import contextlib
import itertools
import json
from typing import Any

import websockets

from cuejar.live.drivers.rpc import ANSWER_S
from cuejar.wires.trial import Broken, expect

UNKNOWN, NOTHING_THERE, NOT_TAKEN, WRONG_SECRET, NOT_SIGNED_IN = -32601, -32003, -32004, -32002, -32001


class Caller:
    """One connection. ``told`` are the other side's notifications."""

    def __init__(self, session: list[dict[str, Any]]) -> None:
        """Args:
        session: gets every message of this connection.
        """
        self._session = session
        self._number = 0
        self.said: list[dict[str, Any]] = []
        """All messages from the other side, in order."""
        self.told: list[dict[str, Any]] = []
        self._socket: websockets.ClientConnection | None = None
        self._numbers = itertools.count(1)

    async def open(self, address: str) -> None:
        """Raises Broken."""
        self._number = len({row["connection"] for row in self._session}) + 1
        try:
            self._socket = await websockets.connect(address, proxy=None, open_timeout=ANSWER_S, max_size=1 << 24)
        except (OSError, TimeoutError, ValueError, websockets.WebSocketException) as error:
            raise Broken(f"nobody answers at {address} ({error or type(error).__name__})") from error

    async def next(self) -> dict[str, Any]:
        """Returns the next message. Raises Broken: none comes in time, or it isn't one."""
        assert self._socket is not None
        try:
            async with asyncio.timeout(ANSWER_S):
                text = await self._socket.recv()
        except TimeoutError as error:
            raise Broken(f"there was no answer within {ANSWER_S:g} s") from error
        except websockets.WebSocketException as error:
            raise Broken("the connection was closed") from error
        try:
            message = json.loads(text)
        except ValueError as error:
            raise Broken("the answer isn’t JSON", str(text)) from error
        self.said.append(message)
        self._session.append({"connection": self._number, "from": "other", "message": message})
        expect(isinstance(message, dict) and message.get("jsonrpc") == "2.0", "this isn’t JSON-RPC 2.0", message)
        return dict(message)

    async def answer(self, method: str, params: Any) -> dict[str, Any]:
        """Returns the whole answer to a call. Raises Broken: there is none."""
        number = next(self._numbers)
        await self.send({"jsonrpc": "2.0", "id": number, "method": method, "params": params})
        return await self.heard(number)

    async def heard(self, number: int) -> dict[str, Any]:
        """Returns the answer to the call of this number. Raises Broken."""
        while True:
            message = await self.next()
            if message.get("id") == number and "method" not in message:
                return message
            if "error" in message and message.get("id") != number:
                continue  # It reports that one of our messages wasn't a call.
            expect("method" in message, "this answers no call of ours", message)
            self.told.append(message)

    async def ask(self, method: str, params: Any) -> Any:
        """Returns the result of a call. Raises Broken: it is refused."""
        message = await self.answer(method, params)
        expect("result" in message, f"{method} was refused", message)
        return message["result"]

    async def refused(self, method: str, params: Any, *codes: int) -> None:
        """Raises Broken: the call isn't refused, or with none of these codes."""
        message = await self.answer(method, params)
        error = message.get("error")
        expect(isinstance(error, dict), f"{method} with {json.dumps(params)} was not refused", message)
        code = error.get("code") if isinstance(error, dict) else None
        expect(not codes or code in codes, f"the code is not {' or '.join(map(str, codes))}", message)

    async def send(self, message: Any) -> None:
        assert self._socket is not None
        self._session.append({"connection": self._number, "from": "cue-jar", "message": message})
        with contextlib.suppress(websockets.WebSocketException):
            await self._socket.send(message if isinstance(message, str) else json.dumps(message, ensure_ascii=False))

    async def hears(self, method: str, seconds: float = ANSWER_S) -> dict[str, Any]:
        """Returns the next notification of a kind. Raises Broken: none came in time."""
        try:
            async with asyncio.timeout(seconds):
                while True:
                    for message in self.told:
                        if message["method"] == method:
                            self.told.remove(message)
                            return message
                    self.told.append(await self.next())
        except TimeoutError as error:
            raise Broken(f"“{method}” was not sent within {seconds:g} s") from error

    async def close(self) -> None:
        if self._socket is not None:
            await self._socket.close()
