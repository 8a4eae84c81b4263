"""The simulated things of the yard, behind a bridge: JSON-RPC 2.0 over a WebSocket
(``docs/reference/wires/things.md``).

Its catalogue says what it has; every setting knows who changed it last and how often. With a state file, settings
and done deeds outlive the process; then everything counts as changed by nobody, and the boot is new.
"""

from __future__ import annotations

import asyncio
import hmac
import json
import secrets
from collections import OrderedDict, deque
from collections.abc import Callable
from pathlib import Path
from typing import Any

from fastapi import APIRouter, HTTPException, WebSocket, WebSocketDisconnect
from pydantic import BaseModel, ConfigDict

from cuejar.platform import put
from cuejar.standins.broadcaster import fitting
from cuejar.standins.panel import HAND, Property, Refused
from cuejar.standins.rpc import PARAMS, UNKNOWN, Line, answered, cut, said

VERSION = 1
REMEMBERED = 1_000
NO_TOKEN, WRONG_TOKEN, NOTHING_THERE = -32001, -32002, -32003


class Yard:
    """Every thing of the bridge, and its listeners."""

    def __init__(self, things: list[dict[str, Any]], file: Path | None = None) -> None:
        """Args:
        things: as in the catalogue, each setting with its first value.
        """
        self.things = {thing["id"]: thing for thing in things}
        self.boot, self.memory, self.serial = secrets.token_hex(8), secrets.token_hex(8), 1
        self.listeners: set[Callable[[dict[str, Any]], None]] = set()
        self.done: deque[dict[str, Any]] = deque(maxlen=40)
        self.known: OrderedDict[str, Any] = OrderedDict()
        self.count = 0
        self.silent = False
        """Whether it carries out requests without answering."""
        self._file = file
        kept: dict[str, Any] = {}
        if file is not None and file.is_file():
            kept = json.loads(file.read_text("utf-8"))
            self.memory, self.count = kept["memory"], kept["count"]
            self.known.update(kept["known"])
        self.values = {
            (thing["id"], setting["id"]): Property(
                kept.get("values", {}).get(f"{thing['id']}/{setting['id']}", setting["value"])
            )
            for thing in things
            for setting in thing["settings"]
        }
        self._keep()

    def _keep(self) -> None:
        if self._file is not None:
            state = {
                "values": self.shown(),
                "memory": self.memory,
                "count": self.count,
                "known": list(self.known.items()),
            }
            beside = self._file.with_suffix(".new")
            beside.write_text(json.dumps(state, ensure_ascii=False), "utf-8")
            put(beside, self._file)

    def shown(self) -> dict[str, bool | float | str]:
        """Returns the value of every setting, by ``THING/SETTING``."""
        return {f"{thing}/{setting}": p.value for (thing, setting), p in self.values.items()}

    def _row(self, thing: Any, what: str, name: Any) -> dict[str, Any]:
        """Returns a setting or a deed of a thing. Raises Refused."""
        there = self.things.get(thing) if isinstance(thing, str) else None
        if there is None:
            raise Refused(f"there is no thing “{thing}”", NOTHING_THERE)
        row = next((row for row in there[f"{what}s"] if row["id"] == name), None)
        if row is None:
            raise Refused(f"{there['name']} has no {what} “{name}”", NOTHING_THERE)
        return dict(row)

    def catalogue(self) -> dict[str, Any]:
        def told(thing: dict[str, Any]) -> dict[str, Any]:
            settings = [{**row, **self.values[thing["id"], row["id"]].json()} for row in thing["settings"]]
            return {**thing, "settings": settings}

        return {"things": [told(thing) for thing in self.things.values()]}

    def set(self, thing: Any, setting: Any, value: Any, by: str) -> dict[str, Any]:
        fits = fitting(self._row(thing, "setting", setting), value)
        p = self.values[thing, setting]
        if p.value != fits or by == HAND:
            p.become(fits, by)
            self._changed("changed", {"thing": thing, "setting": setting, **p.json()})
        return p.json()

    def do(self, thing: Any, deed: Any, values: Any, by: str, deed_id: str = "") -> Any:
        """Does a deed; a repeated id gets the first answer."""
        if deed_id in self.known:
            return self.known[deed_id]
        row = self._row(thing, "deed", deed)
        if not isinstance(values, dict):
            raise Refused("values must be an object", PARAMS)
        kinds = {kind["id"]: kind for kind in row["values"]}
        if unknown := [name for name in values if name not in kinds]:
            raise Refused(f"{row['name']} takes no “{unknown[0]}”", NOTHING_THERE)
        fits = {name: fitting(kinds[name], value) for name, value in values.items()}
        self.count += 1
        self.done.append({"thing": thing, "deed": deed, "values": fits, "by": by, "number": self.count})
        answer = {"done": True}
        if deed_id:
            self.known[deed_id] = answer
            while len(self.known) > REMEMBERED:
                self.known.popitem(last=False)
        self._changed("", {})
        return answer

    def _changed(self, method: str, params: dict[str, Any]) -> None:
        self.serial += 1
        self._keep()
        if method:
            self.tell(method, params)

    def tell(self, method: str, params: dict[str, Any]) -> None:
        for listener in list(self.listeners):
            listener({"jsonrpc": "2.0", "method": method, "params": params})

    def remove(self, thing: str) -> None:
        """Removes a thing by hand."""
        if self.things.pop(thing, None) is None:
            raise Refused(f"there is no thing “{thing}”", NOTHING_THERE)
        self.values = {key: p for key, p in self.values.items() if key[0] != thing}
        self._changed("structure", {})

    def state(self) -> dict[str, Any]:
        return {
            "serial": self.serial,
            "things": self.catalogue()["things"],
            "values": self.shown(),
            "done": list(self.done),
        }


class _Connection(Line):
    def __init__(self, socket: WebSocket, yard: Yard, token: str) -> None:
        super().__init__(socket)
        self.yard, self.token, self.name = yard, token, ""

    def do(self, method: str, params: dict[str, Any]) -> Any:
        yard = self.yard
        if method == "hello":
            if self.token and not hmac.compare_digest(str(params.get("token", "")).encode(), self.token.encode()):
                raise Refused("the token is wrong", WRONG_TOKEN)
            self.name = str(params.get("name") or "program")[:100]
            yard.listeners.add(self.hear)
            return {"version": VERSION, "name": "The yard", "boot": yard.boot, "memory": yard.memory}
        if not self.name:
            raise Refused("say hello first", NO_TOKEN)
        if method == "catalogue":
            return yard.catalogue()
        if method == "set":
            return yard.set(params["thing"], params["setting"], params["value"], self.name)
        if method == "do":
            deed_id = params.get("id", "")
            if not isinstance(deed_id, str) or len(deed_id) > 100:
                raise Refused("an id is a text of at most 100 characters", PARAMS)
            return yard.do(params["thing"], params["deed"], params.get("values", {}), self.name, deed_id)
        raise Refused(f"there is no method “{method}”", UNKNOWN)


class HandIn(BaseModel):
    """Sets something by hand, or has a thing do its deed."""

    model_config = ConfigDict(extra="forbid")
    thing: str
    setting: str = ""
    value: bool | float | str = False
    deed: str = ""
    values: dict[str, bool | float | str] = {}


class SilentIn(BaseModel):
    model_config = ConfigDict(extra="forbid")
    silent: bool


def router(yard: Yard, token: str) -> APIRouter:
    routes = APIRouter(prefix="/things", tags=["things"])
    sockets: set[WebSocket] = set()

    @routes.websocket("")
    async def wire(socket: WebSocket) -> None:
        await socket.accept()
        sockets.add(socket)
        connection = _Connection(socket, yard, token)
        speaking = asyncio.create_task(connection.speak())
        try:
            while True:
                answer = answered(await said(socket), connection.do)
                if answer is not None and not yard.silent:
                    connection.hear(answer)
        except (WebSocketDisconnect, RuntimeError):
            pass
        finally:
            sockets.discard(socket)
            yard.listeners.discard(connection.hear)
            speaking.cancel()

    @routes.get("/state")
    async def state() -> dict[str, Any]:
        return yard.state()

    @routes.post("/hand")
    async def hand(body: HandIn) -> dict[str, Any]:
        """Changes a thing by hand."""
        try:
            if body.deed:
                yard.do(body.thing, body.deed, body.values, HAND)
            else:
                yard.set(body.thing, body.setting, body.value, HAND)
        except Refused as refused:
            raise HTTPException(404 if refused.code == NOTHING_THERE else 422, str(refused)) from refused
        return yard.state()

    @routes.delete("/{thing}")
    async def remove(thing: str) -> dict[str, bool]:
        try:
            yard.remove(thing)
        except Refused as refused:
            raise HTTPException(404, str(refused)) from refused
        return {"ok": True}

    @routes.post("/silent")
    async def silent(body: SilentIn) -> dict[str, bool]:
        """Sets whether it stays silent, although it carries out its requests."""
        yard.silent = body.silent
        return {"silent": yard.silent}

    @routes.post("/cut")
    async def cut_off() -> dict[str, int]:
        return await cut(sockets)

    return routes
