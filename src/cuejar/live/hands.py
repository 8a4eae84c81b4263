"""Hands: the keys of another computer, pressed there by `cuejar hands`, which connects to the pads' port.

It is paired by a code and proves itself as a device with pads does. Then Cue Jar asks and it answers, in the words of
the wire of the keys; every request and answer is counted and signed, so that nobody between the two can press a key,
repeat a press, or say that one was done.
"""

from __future__ import annotations

import asyncio
import json
from typing import Any

from pydantic import TypeAdapter

from cuejar.live.drivers.base import AwayError, GearRefused, Unanswered
from cuejar.live.drivers.rpc import ANSWER_S, Error
from cuejar.live.drivers.said import Unreadable, read
from cuejar.live.messages import Pong
from cuejar.live.padmessages import MOST_BODY, HandsAnswer, HandsAsk, HandsSaid
from cuejar.live.proving import Entry, ProvenLine

NOT_PAIRED = "no other computer is paired"
NOT_THERE = "cuejar hands isn’t connected"


class Hands(Entry):
    """The connection of the paired computer."""

    def line(self) -> HandsLine:
        """Returns the latest connection. Raises AwayError: there is none."""
        if self.devices.hands() is None:
            raise AwayError(NOT_PAIRED)
        there = [line for line in self.lines if isinstance(line, HandsLine) and line.device is not None]
        if not there:
            raise AwayError(NOT_THERE)
        return max(there, key=lambda line: line.since)


class HandsLine(ProvenLine):
    """One connection of the computer whose keys are pressed."""

    does = "hands"
    said = TypeAdapter(HandsSaid)

    def __init__(self, hands: Hands, sender: str) -> None:
        super().__init__(hands, sender)
        self.since = asyncio.get_running_loop().time()
        self.ended = asyncio.Event()
        self._number = 0
        self._asked: dict[int, asyncio.Future[str]] = {}

    async def proven(self, said: Any) -> bool:
        if not isinstance(said, HandsAnswer):
            self._say(Pong(sent=said.sent))
            return True
        assert self._signed is not None and self.device is not None
        if not self._signed.takes(said.n, said.body, said.signature, "answer"):
            return await self._wrong(self.device)
        answer = self._asked.pop(said.n, None)
        if answer is not None and not answer.done():
            answer.set_result(said.body)
        return True

    async def ask(self, method: str, params: dict[str, Any]) -> Any:
        """Calls a method of the wire of the keys. Raises AwayError (it wasn't asked), Unanswered or GearRefused."""
        if self._signed is None or self.ended.is_set():
            raise AwayError(NOT_THERE)
        self._number += 1
        number, body = self._number, json.dumps({"method": method, "params": params})
        if len(body) > MOST_BODY:
            raise GearRefused("that is too long")
        answer = self._asked[number] = asyncio.get_running_loop().create_future()
        self._say(HandsAsk(n=number, body=body, signature=self._signed.sign("ask", number, body)))
        try:
            async with asyncio.timeout(ANSWER_S):
                return _result(await answer)
        except TimeoutError as error:
            self.listener.put(None)  # What it does now would come too late: it has to connect again.
            raise Unanswered(f"no answer within {ANSWER_S:g} s") from error
        finally:
            self._asked.pop(number, None)

    def end(self) -> None:
        """The connection has ended."""
        self.ended.set()
        for answer in self._asked.values():
            if not answer.done():
                answer.set_exception(Unanswered("the connection broke off"))


def _result(body: str) -> Any:
    try:
        said = json.loads(body)
    except (ValueError, RecursionError) as error:
        raise Unanswered("its answer isn’t JSON") from error
    if not isinstance(said, dict):
        raise Unanswered("its answer can’t be read")
    if "error" in said:
        try:
            raise GearRefused(read(Error, said["error"]).message)
        except Unreadable as error:
            raise Unanswered(f"its answer can’t be read: {error}") from error
    return said.get("result")
