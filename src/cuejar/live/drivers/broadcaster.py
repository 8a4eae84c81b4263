"""The broadcaster: JSON-RPC 2.0 over a WebSocket, a password by HMAC challenge.

The wire uses ids, we use names: the tables here come from its catalogue and follow renames.
"""

from __future__ import annotations

import asyncio
import base64
import hashlib
import hmac
from typing import Any

from cuejar.core.facts import happenings as h
from cuejar.core.facts.happenings import PropertyValue
from cuejar.core.facts.orders import Strike
from cuejar.core.facts.paths import SCENE
from cuejar.core.measures.catalogue import shows
from cuejar.live.drivers.base import AwayError, GearRefused, Greeting, PropertyPath
from cuejar.live.drivers.broadcaster_wire import VERSION, Challenge, Changed, Picture, Renamed, tables
from cuejar.live.drivers.catalogued import CLIENT, Call, CataloguedDriver
from cuejar.live.drivers.rpc import ANSWER_S
from cuejar.live.drivers.said import Unreadable, read

WRONG_PASSWORD = -32002


class BroadcasterDriver(CataloguedDriver):
    """One connection to a broadcaster."""

    def __init__(self, address: str, password: str) -> None:
        super().__init__(address)
        self._password = password
        self._challenge: asyncio.Future[str] | None = None
        self._boot = ""
        self._scenes: dict[str, str] = {}
        self._setters: dict[PropertyPath, Call] = {}
        self._by_key: dict[tuple[str, str, str], PropertyPath] = {}
        self._kinds: dict[PropertyPath, h.Setting] = {}

    async def connect(self) -> Greeting:
        """Signs in and reads what there is.

        Raises:
            AwayError: there is no answer, or the password is wrong.
        """
        self._challenge = asyncio.get_running_loop().create_future()
        await self._rpc.open(self.address)
        try:
            async with asyncio.timeout(ANSWER_S):
                challenge = await self._challenge
        except TimeoutError as error:
            await self.close()
            raise AwayError(f"{self.address} isn’t answering (it asks for no password)") from error
        proof = hmac.new(self._password.encode(), challenge.encode(), hashlib.sha256).hexdigest()
        try:
            await self._rpc.ask("sign_in", {"proof": proof, "name": CLIENT, "version": VERSION})
            return await self._look()
        except GearRefused as error:
            await self.close()
            raise AwayError(f"It refused the connection: {error}.") from error

    # Notifications

    def _heard(self, method: str, params: dict[str, Any]) -> None:
        if method == "hello" and self._challenge is not None and not self._challenge.done():
            self._challenge.set_result(read(Challenge, params).challenge)
        elif method == "changed":
            change = read(Changed, params)
            path = self._by_key.get((change.what, change.id, change.setting))
            if path is None:
                return
            value = self._named(path, change.value)
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

    def _named(self, path: PropertyPath, value: PropertyValue) -> PropertyValue:
        if path == SCENE:
            return next((name for name, scene in self._scenes.items() if scene == value), value)
        return value

    def _read(self, answer: Any) -> Greeting:
        """Reads the tables from ids to names and back, and what everything shows."""
        told = tables(answer, self._odd_row)
        self._boot, self._scenes, self._setters = told.boot, told.scenes, told.setters
        self._by_key, self._kinds = told.by_key, told.kinds
        return Greeting(told.things, told.found, told.boot)

    # Requests

    def _setter(self, path: PropertyPath, value: PropertyValue) -> Call | None:
        setter = self._setters.get(path)
        if setter is None or (path == SCENE and value not in self._scenes):
            return None
        method, params = setter
        key = {"scene.show": "scene", "source.show": "visible"}.get(method, "value")
        return method, {**params, key: self._scenes[str(value)] if path == SCENE else value}

    async def strike(self, strike: Strike, strike_id: str) -> None:
        raise GearRefused("a broadcaster has nothing to strike")

    async def picture(self) -> bytes | None:
        try:
            answer = await self._rpc.ask("programme.picture", {"width": 640})
            # Longer than any text may be, so it skips the gate for texts and has its own check.
            return base64.b64decode(Picture.model_validate(answer).png, validate=True)
        except (AwayError, GearRefused, ValueError):
            return None
