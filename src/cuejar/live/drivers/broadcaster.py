"""The broadcaster: JSON-RPC 2.0 over a WebSocket, a password by HMAC challenge.

The wire tells things apart by ids, we by names: the tables here are made from its catalogue and followed through renames.
"""

from __future__ import annotations

import asyncio
import base64
import contextlib
import hashlib
import hmac
from collections.abc import AsyncIterator, Callable, Mapping
from typing import Any

from cuejar.core.facts import happenings as h
from cuejar.core.facts.happenings import PropertyValue
from cuejar.core.facts.orders import Strike
from cuejar.core.measures.catalogue import shows
from cuejar.live.drivers.base import AwayError, GearRefused, Greeting, PropertyPath, Report, Unanswered
from cuejar.live.drivers.broadcaster_wire import CLIENT, Answer, Call, Challenge, Changed, Picture, Renamed, tables
from cuejar.live.drivers.rpc import ANSWER_S, Rpc
from cuejar.live.drivers.said import Unreadable, read
from cuejar.live.watch import background

WRONG_PASSWORD = -32002
LOOK_S = 6.0
"""How long a broadcaster may take to say all that it has."""


class BroadcasterDriver:
    """One connection to a broadcaster."""

    def __init__(self, address: str, password: str) -> None:
        self.address, self._password = address, password
        self._reports: asyncio.Queue[Report | AwayError] = asyncio.Queue()
        self._rpc = Rpc(self._heard, self._reports.put_nowait)
        self._challenge: asyncio.Future[str] | None = None
        self._boot = ""
        self._unsure: set[PropertyPath] = set()
        self._changed = False
        self._looking: asyncio.Task[None] | None = None
        self._scenes: dict[str, str] = {}
        self._setters: dict[PropertyPath, Call] = {}
        self._by_key: dict[tuple[str, str, str], PropertyPath] = {}
        self._kinds: dict[PropertyPath, h.Setting] = {}
        self.changes: dict[PropertyPath, int] = {}
        self.actual: dict[PropertyPath, PropertyValue] = {}

    def log_to(self, odd: Callable[[Any, str], object], unknown: Callable[[str], object]) -> None:
        self._rpc.odd, self._rpc.unknown = odd, unknown

    async def connect(self) -> Greeting:
        """Signs in and reads what there is.

        Raises:
            AwayError: nobody answers there, or the password is wrong.
        """
        self._challenge = asyncio.get_running_loop().create_future()
        await self._rpc.open(self.address)
        try:
            async with asyncio.timeout(ANSWER_S):
                challenge = await self._challenge
        except TimeoutError as error:
            await self.close()
            raise AwayError(f"{self.address} does not answer (it asks for no password)") from error
        proof = hmac.new(self._password.encode(), challenge.encode(), hashlib.sha256).hexdigest()
        try:
            await self._rpc.ask("sign_in", {"proof": proof, "name": CLIENT})
            return self._taken(await self._rpc.ask("catalogue", {}, LOOK_S))
        except GearRefused as error:
            await self.close()
            raise AwayError(f"It does not let us in: {error}.") from error

    # What it tells by itself

    def _heard(self, method: str, params: dict[str, Any]) -> None:
        if method == "hello" and self._challenge is not None and not self._challenge.done():
            self._challenge.set_result(read(Challenge, params).challenge)
        elif method == "changed":
            change = read(Changed, params)
            path = self._by_key.get((change.what, change.id, change.setting))
            if path is None:
                return
            value = self._value(path, change.value)
            if not shows(self._kinds[path], value):
                raise Unreadable(params, f"{path} cannot show that")
            self._saw(path, value, change.changes)
            if change.by != CLIENT:
                self._reports.put_nowait(h.Hand(path, value, (self._boot, change.changes)))
        elif method == "renamed":
            renamed = read(Renamed, params)
            self._reports.put_nowait(h.Renamed(renamed.what, renamed.old, renamed.new, renamed.of))
            self._look_again()
        elif method == "structure":
            self._look_again()
        elif method != "hello":
            self._rpc.unknown(method)

    def _saw(self, path: PropertyPath, value: PropertyValue, changes: int) -> None:
        """Takes what a property shows, unless something later is known of it already."""
        if changes >= self.changes.get(path, 0):
            self.changes[path], self.actual[path] = changes, value

    def _look_again(self) -> None:
        """Reads anew what there is, once more after the last change."""

        async def look() -> None:
            while self._changed:
                self._changed = False
                with contextlib.suppress(AwayError, GearRefused):
                    self._reports.put_nowait(self._taken(await self._rpc.ask("catalogue", {}, LOOK_S)))

        self._changed = True
        if self._looking is None or self._looking.done():
            self._looking = background("broadcaster: looking again", look(), self._fell)

    def _fell(self, problem: str) -> None:
        self._reports.put_nowait(AwayError(f"something went wrong here: {problem}"))

    def _value(self, path: PropertyPath, value: PropertyValue) -> PropertyValue:
        if path == "broadcast/scene":
            return next((name for name, scene in self._scenes.items() if scene == value), value)
        return value

    async def reports(self) -> AsyncIterator[Report]:
        while True:
            report = await self._reports.get()
            if isinstance(report, AwayError):
                raise report
            yield report

    def _taken(self, answer: Any) -> Greeting:
        """The tables from ids to names and back, and what everything shows. Raises AwayError: it cannot be read."""
        try:
            told = tables(answer, self._rpc.odd)
        except Unreadable as error:
            self._rpc.odd(error.message, str(error))
            raise AwayError(f"what it says that it has cannot be read: {error}") from error
        self._boot, self._scenes, self._setters = told.boot, told.scenes, told.setters
        self._by_key, self._kinds = told.by_key, told.kinds
        for path in set(self.actual) - set(told.found):
            self.actual.pop(path, None)
            self.changes.pop(path, None)
        for path, found in told.found.items():
            self._saw(path, found.value, found.changes)
        return Greeting(told.things, told.found, told.boot)

    # What it is asked

    async def show(self, wanted: Mapping[PropertyPath, PropertyValue]) -> Mapping[PropertyPath, PropertyValue | None]:
        """All at once. What was asked and not answered in time is looked at before it is asked again: it may have been done, or
        may still be. Such a property is not in what is returned."""
        if self._unsure.intersection(wanted):
            try:
                self._reports.put_nowait(self._taken(await self._rpc.ask("catalogue", {}, LOOK_S)))
            except GearRefused as error:
                raise AwayError(f"it does not say what it has: {error}") from error
            self._unsure.clear()
        answers = await asyncio.gather(*(self._set(path, value) for path, value in wanted.items()))
        return {path: value for path, value in zip(wanted, answers, strict=True) if path not in self._unsure}

    async def _set(self, path: PropertyPath, value: PropertyValue) -> PropertyValue | None:
        """What the property shows now; None where it was refused, or is not known."""
        setter = self._setters.get(path)
        if setter is None or (path == "broadcast/scene" and value not in self._scenes):
            return None
        if self.actual.get(path) == value:
            return value
        method, params = setter
        key = {"scene.show": "scene", "source.show": "visible"}.get(method, "value")
        told = self._scenes[str(value)] if path == "broadcast/scene" else value
        try:
            answer = await self._rpc.ask(method, {**params, key: told})
        except GearRefused:
            return None
        except Unanswered:
            self._unsure.add(path)
            return None
        try:
            return self._value(path, read(Answer, answer).value)
        except Unreadable as error:
            self._rpc.odd(error.message, str(error))
            self._unsure.add(path)
            return None

    async def strike(self, strike: Strike, strike_id: str) -> None:
        raise GearRefused("a broadcaster has nothing to strike")

    async def picture(self) -> bytes | None:
        try:
            answer = await self._rpc.ask("programme.picture", {"width": 640})
            # Longer than any text may be, so it does not go through the gate for texts: it is checked as what it is.
            return base64.b64decode(Picture.model_validate(answer).png, validate=True)
        except (AwayError, GearRefused, ValueError):
            return None

    async def close(self) -> None:
        if self._looking is not None:
            self._looking.cancel()
        await self._rpc.close()
