"""The broadcaster: JSON-RPC 2.0 over a WebSocket, a password by HMAC challenge.

The wire tells things apart by ids, we by names: the tables here are made from its catalogue and followed through renames.
"""

from __future__ import annotations

import asyncio
import base64
import contextlib
import hashlib
import hmac
import itertools
import json
from collections.abc import AsyncIterator, Mapping
from typing import Any

import websockets

from cuejar.core import happenings as h
from cuejar.core.happenings import PropertyValue
from cuejar.core.orders import Strike
from cuejar.core.rig import Found
from cuejar.live.drivers.base import AwayError, Catalogue, GearRefused, PropertyPath, Report

CLIENT = "cue-jar"
ANSWER_S = 3.0
WRONG_PASSWORD = -32002
Call = tuple[str, dict[str, Any]]


class BroadcasterDriver:
    """One connection to a broadcaster."""

    def __init__(self, address: str, password: str) -> None:
        self.address, self._password = address, password
        self._socket: websockets.ClientConnection | None = None
        self._numbers = itertools.count(1)
        self._asked: dict[int, asyncio.Future[Any]] = {}
        self._reports: asyncio.Queue[Report | AwayError] = asyncio.Queue()
        self._reader: asyncio.Task[None] | None = None
        self._scenes: dict[str, str] = {}
        self._setters: dict[PropertyPath, Call] = {}
        self._by_key: dict[tuple[str, str, str], PropertyPath] = {}
        self.changes: dict[PropertyPath, int] = {}
        self.actual: dict[PropertyPath, PropertyValue] = {}

    async def connect(self) -> Catalogue:
        """Signs in and reads what there is.

        Raises:
            AwayError: nobody answers there, or the password is wrong.
        """
        try:
            self._socket = await websockets.connect(
                self.address, proxy=None, compression=None, max_size=1 << 24, open_timeout=ANSWER_S
            )
            hello = json.loads(await asyncio.wait_for(self._socket.recv(), ANSWER_S))
            challenge = str(hello["params"]["challenge"])
        except (OSError, TimeoutError, ValueError, KeyError, TypeError, websockets.WebSocketException) as error:
            await self.close()
            what = getattr(error, "strerror", None) or str(error) or type(error).__name__
            raise AwayError(f"{self.address} does not answer ({what})") from error
        self._reader = asyncio.create_task(self._read(self._socket), name="broadcaster")
        proof = hmac.new(self._password.encode(), challenge.encode(), hashlib.sha256).hexdigest()
        try:
            await self._ask("sign_in", {"proof": proof, "name": CLIENT})
            return self._taken(await self._ask("catalogue", {}))
        except GearRefused as error:
            await self.close()
            raise AwayError(f"It does not let us in: {error}.") from error

    async def _ask(self, method: str, params: dict[str, Any]) -> Any:
        """Raises AwayError or GearRefused."""
        if self._socket is None:
            raise AwayError("not connected")
        number = next(self._numbers)
        answer: asyncio.Future[Any] = asyncio.get_running_loop().create_future()
        self._asked[number] = answer
        call = {"jsonrpc": "2.0", "id": number, "method": method, "params": params}
        try:
            await self._socket.send(json.dumps(call, ensure_ascii=False))
            return await asyncio.wait_for(answer, ANSWER_S)
        except (OSError, websockets.WebSocketException) as error:
            raise AwayError("the connection broke off") from error
        except TimeoutError as error:
            raise AwayError(f"no answer within {ANSWER_S:g} s") from error
        finally:
            self._asked.pop(number, None)

    async def _read(self, socket: websockets.ClientConnection) -> None:
        why = "the connection was closed"
        try:
            async for text in socket:
                message = json.loads(text)
                if "method" in message:
                    await self._heard(message["method"], message.get("params") or {})
                    continue
                answer = self._asked.get(message.get("id"))
                if answer is None or answer.done():
                    continue
                if "error" in message:
                    answer.set_exception(GearRefused(str(message["error"].get("message", "refused"))))
                else:
                    answer.set_result(message.get("result"))
        except (OSError, ValueError, websockets.WebSocketException) as error:
            why = str(error) or why
        for answer in self._asked.values():
            if not answer.done():
                answer.set_exception(AwayError(why))
        self._reports.put_nowait(AwayError(why))

    # What it tells by itself

    async def _heard(self, method: str, params: dict[str, Any]) -> None:
        if method == "changed":
            key = (params["what"], str(params.get("id", "")), str(params.get("setting", "")))
            path = self._by_key.get(key)
            if path is None:
                return
            value = self._value(path, params["value"])
            self._saw(path, value, int(params["changes"]))
            if params["by"] != CLIENT:
                self._reports.put_nowait(h.Hand(path, value))
        elif method == "renamed":
            self._reports.put_nowait(h.Renamed(params["what"], params["old"], params["new"], params.get("of", "")))
            self._look_again()
        elif method == "structure":
            self._look_again()

    def _saw(self, path: PropertyPath, value: PropertyValue, changes: int) -> None:
        """Takes what a property shows, unless something later is known of it already."""
        if changes >= self.changes.get(path, 0):
            self.changes[path], self.actual[path] = changes, value

    def _look_again(self) -> None:
        async def look() -> None:
            with contextlib.suppress(AwayError, GearRefused):
                self._reports.put_nowait(self._taken(await self._ask("catalogue", {})))

        self._looking = asyncio.create_task(look())

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

    def _taken(self, data: dict[str, Any]) -> Catalogue:
        """The tables from ids to names and back, and what everything shows."""
        scenes = {str(row["id"]): str(row["name"]) for row in data["scenes"]}
        self._scenes = {name: scene for scene, name in scenes.items()}
        self._setters, self._by_key = {}, {}
        found: dict[PropertyPath, Found] = {}

        def add(path: PropertyPath, key: tuple[str, str, str], call: Call, row: dict[str, Any]) -> None:
            self._setters[path], self._by_key[key] = call, path
            by = row["by"]
            who = "us" if by == CLIENT else "start" if by == "start" else "hand"
            value, hand = self._value(path, row["value"]), self._value(path, row["hand"]["value"])
            changes, by_hand = int(row["changes"]), int(row["hand"]["changes"])
            found[path] = Found(value, who, changes, hand, by_hand)  # type: ignore[arg-type]
            self._saw(path, value, changes)

        gone = set(self.actual)
        add("broadcast/scene", ("scene", "", ""), ("scene.show", {}), data["scene"])
        sources: dict[str, tuple[str, ...]] = {}
        named = {str(row["id"]): row for row in data["sources"]}
        for row in data["scenes"]:
            listed = [named[source] for source in row["sources"] if source in named]
            sources[row["name"]] = tuple(source["name"] for source in listed)
            for source in listed:
                path = f"broadcast/source/{row['name']}/{source['name']}/visible"
                call: Call = ("source.show", {"source": source["id"]})
                add(path, ("source", source["id"], ""), call, source["visible"])
        filters: dict[str, dict[str, dict[str, h.Setting]]] = {}
        for row in data["filters"]:
            kinds = filters.setdefault(row["source"], {}).setdefault(row["name"], {})
            for name, setting in row["settings"].items():
                kinds[name] = h.Setting(
                    setting["type"], setting.get("min"), setting.get("max"), tuple(setting.get("choices", ()))
                )
                path = f"broadcast/filter/{row['source']}/{row['name']}/{name}"
                add(path, ("filter", row["id"], name), ("filter.set", {"filter": row["id"], "setting": name}), setting)
        for path in gone - set(found):
            self.actual.pop(path, None)
            self.changes.pop(path, None)
        things = h.Catalogue("broadcaster", sources, filters)
        return Catalogue(things, found, str(data.get("boot", "")))

    # What it is asked

    async def show(self, wanted: Mapping[PropertyPath, PropertyValue]) -> Mapping[PropertyPath, PropertyValue | None]:
        shown: dict[PropertyPath, PropertyValue | None] = {}
        for path, value in wanted.items():
            setter = self._setters.get(path)
            if setter is None or (path == "broadcast/scene" and value not in self._scenes):
                shown[path] = None
                continue
            method, params = setter
            key = {"scene.show": "scene", "source.show": "visible"}.get(method, "value")
            told = self._scenes[str(value)] if path == "broadcast/scene" else value
            try:
                answer = await self._ask(method, {**params, key: told})
            except GearRefused:
                shown[path] = None
                continue
            shown[path] = self._value(path, answer["value"])
        return shown

    async def strike(self, strike: Strike) -> None:
        raise GearRefused("a broadcaster has nothing to strike")

    async def picture(self) -> bytes | None:
        try:
            return base64.b64decode((await self._ask("programme.picture", {"width": 640}))["png"])
        except (AwayError, GearRefused):
            return None

    async def close(self) -> None:
        if self._reader is not None:
            self._reader.cancel()
            self._reader = None
        if self._socket is not None:
            with contextlib.suppress(OSError, websockets.WebSocketException):
                await self._socket.close()
            self._socket = None
