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

from cuejar.core import happenings as h
from cuejar.core.happenings import PropertyValue
from cuejar.core.orders import Strike
from cuejar.core.rig import Found
from cuejar.live.drivers.base import AwayError, Catalogue, GearRefused, PropertyPath, Report, Unanswered
from cuejar.live.drivers.rpc import ANSWER_S, Rpc
from cuejar.live.watch import background

CLIENT = "cue-jar"
WRONG_PASSWORD = -32002
LOOK_S = 6.0
"""How long a broadcaster may take to say all that it has."""
Call = tuple[str, dict[str, Any]]


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
        self.changes: dict[PropertyPath, int] = {}
        self.actual: dict[PropertyPath, PropertyValue] = {}

    def log_to(self, odd: Callable[[Any, str], object]) -> None:
        self._rpc.odd = odd

    async def connect(self) -> Catalogue:
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
            self._challenge.set_result(str(params["challenge"]))
        elif method == "changed":
            key = (params["what"], str(params.get("id", "")), str(params.get("setting", "")))
            path = self._by_key.get(key)
            if path is None:
                return
            value = self._value(path, params["value"])
            self._saw(path, value, int(params["changes"]))
            if params["by"] != CLIENT:
                self._reports.put_nowait(h.Hand(path, value, (self._boot, int(params["changes"]))))
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

    def _taken(self, data: dict[str, Any]) -> Catalogue:
        """The tables from ids to names and back, and what everything shows."""
        self._boot = str(data.get("boot", ""))
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
        return Catalogue(things, found, self._boot)

    # What it is asked

    async def show(self, wanted: Mapping[PropertyPath, PropertyValue]) -> Mapping[PropertyPath, PropertyValue | None]:
        """All at once. What was asked and not answered in time is looked at before it is asked again: it may have been done, or
        may still be. Such a property is not in what is returned."""
        if self._unsure.intersection(wanted):
            self._reports.put_nowait(self._taken(await self._rpc.ask("catalogue", {}, LOOK_S)))
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
        return self._value(path, answer["value"])

    async def strike(self, strike: Strike, strike_id: str) -> None:
        raise GearRefused("a broadcaster has nothing to strike")

    async def picture(self) -> bytes | None:
        try:
            return base64.b64decode((await self._rpc.ask("programme.picture", {"width": 640}))["png"])
        except (AwayError, GearRefused):
            return None

    async def close(self) -> None:
        if self._looking is not None:
            self._looking.cancel()
        await self._rpc.close()
