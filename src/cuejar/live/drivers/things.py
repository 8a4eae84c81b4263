"""Things behind a bridge: a small program that reports what it has, over JSON-RPC 2.0 on a WebSocket
(``docs/reference/wires/things.md``).
"""

from __future__ import annotations

from typing import Any

from cuejar.core.facts import happenings as h
from cuejar.core.facts.happenings import PropertyValue
from cuejar.core.facts.orders import Strike
from cuejar.core.facts.paths import read_path, thing_path
from cuejar.core.measures.catalogue import shows, stepped
from cuejar.live.drivers import things_wire as wire
from cuejar.live.drivers.base import AwayError, GearRefused, Greeting, PropertyPath
from cuejar.live.drivers.catalogued import CLIENT, Call, CataloguedDriver
from cuejar.live.drivers.said import Unreadable, read

NO_IDS = "It doesn’t remember requests. An action without an answer isn’t sent again."


class ThingsDriver(CataloguedDriver):
    """One connection to a bridge."""

    def __init__(self, gear: str, address: str, token: str) -> None:
        super().__init__(address)
        self._gear, self._token = gear, token
        self._hello = wire.Hello()
        self._kinds: dict[PropertyPath, h.Setting] = {}

    async def connect(self) -> Greeting:
        """Connects. Raises AwayError: there is no answer, or access is refused."""
        await self._rpc.open(self.address)
        params = {"name": CLIENT, "version": wire.VERSION, **({"token": self._token} if self._token else {})}
        try:
            self._hello = read(wire.Hello, await self._rpc.ask("hello", params))
            return await self._look()
        except GearRefused as error:
            await self.close()
            raise AwayError(f"It refused the connection: {error}.") from error
        except Unreadable as error:
            self._rpc.odd(error.message, str(error))
            await self.close()
            raise AwayError(f"its hello can’t be read: {error}") from error

    def _heard(self, method: str, params: dict[str, Any]) -> None:
        if method == "changed":
            change = read(wire.Changed, params)
            path = thing_path(self._gear, change.thing, change.setting)
            kind = self._kinds.get(path)
            if kind is None:
                return
            if not shows(kind, change.value):
                raise Unreadable(params, f"{change.thing}/{change.setting} can’t have that value")
            counted = change.changes
            self._saw(path, change.value, self.changes.get(path, 0) if counted is None else counted)
            if change.by != CLIENT:
                heard = None if counted is None else (self._hello.boot, counted)
                self._reports.put_nowait(h.Hand(path, change.value, heard))
        elif method == "structure":
            self._look_again()
        else:
            self._rpc.unknown(method)

    def _read(self, answer: Any) -> Greeting:
        told = wire.tables(self._gear, answer, self._odd_row)
        self._kinds = told.kinds
        return Greeting(told.things, told.found, self._hello.boot, () if self._hello.memory else (NO_IDS,))

    def _takes(self, path: PropertyPath, value: PropertyValue) -> PropertyValue:
        kind = self._kinds.get(path)
        is_number = isinstance(value, (int, float)) and not isinstance(value, bool)
        return stepped(kind, float(value or 0)) if kind is not None and kind.step and is_number else value

    def _setter(self, path: PropertyPath, value: PropertyValue) -> Call | None:
        kind = self._kinds.get(path)
        if kind is None or not shows(kind, value):
            return None
        value = self._takes(path, value)
        _, thing, setting = read_path(path).steps
        return "set", {"thing": thing, "setting": setting, "value": value}

    def memory(self) -> str:
        return self._hello.memory

    async def strike(self, strike: Strike, strike_id: str) -> None:
        """Has a thing do its deed. Raises AwayError, Unanswered or GearRefused."""
        value = strike.value
        params = {"thing": value["thing"], "deed": value["deed"], "values": value["values"], "id": strike_id}
        await self._rpc.ask("do", params)

    async def picture(self) -> bytes | None:
        return None
