"""Things over the wire of ``docs/reference/wires/things.md``: what a bridge to any machines needs."""

from __future__ import annotations

import hmac
import json
import math
import re
import secrets
from collections import OrderedDict
from collections.abc import Awaitable, Callable
from typing import Any

import websockets
from websockets.asyncio.server import ServerConnection

VERSION = 1
REMEMBERED = 1_000
HAND = "hand"
NO_JSON, NO_CALL, NO_METHOD, NO_PARAMS = -32700, -32600, -32601, -32602
NO_HELLO, WRONG_TOKEN, NOTHING_THERE, NOT_TAKEN = -32001, -32002, -32003, -32004


class Refused(Exception):
    """A call that can't be carried out; the message is shown to the streamer."""

    def __init__(self, what: str, code: int = NOT_TAKEN) -> None:
        self.code = code
        super().__init__(what)


def fitting(kind: dict[str, Any], value: Any) -> Any:
    """Returns a value as a setting of this kind takes it. Raises Refused."""
    what = kind["type"]
    if what == "bool" and isinstance(value, bool):
        return value
    number = isinstance(value, (int, float)) and not isinstance(value, bool) and math.isfinite(value)
    if what == "number" and number and kind.get("min", value) <= value <= kind.get("max", value):
        return value
    if what == "colour" and isinstance(value, str) and re.fullmatch(r"#[0-9a-fA-F]{6}", value):
        return value.lower()
    if what == "choice" and value in kind.get("choices", []):
        return value
    if what == "text" and isinstance(value, str) and len(value) <= 10_000:
        return value
    raise Refused(f"{kind.get('name') or kind['id']} can’t be {json.dumps(value)[:100]}")


class Bridge:
    """All things of a bridge. ``move`` and ``do`` move the real ones.

    Args:
        things: as in the catalogue, each setting with its current value.
        move: sets a setting; raises Refused or OSError.
        do: has a thing do a deed with values; raises Refused or OSError.
        token: what Cue Jar must send; empty: nothing.
    """

    def __init__(
        self,
        name: str,
        things: list[dict[str, Any]],
        move: Callable[[str, str, Any], Awaitable[None]],
        do: Callable[[str, str, dict[str, Any]], Awaitable[None]],
        token: str = "",
    ) -> None:
        self.name, self.token, self._move, self._do = name, token, move, do
        self.boot, self.memory = secrets.token_hex(8), secrets.token_hex(8)
        self.things = {thing["id"]: thing for thing in things}
        self.hidden: set[str] = set()
        """Disconnected things; a change is reported by `structure`."""
        self.there = True
        """Returns whether the machine can be reached; connections are refused while it can't."""
        self._done: OrderedDict[str, Any] = OrderedDict()
        self._lines: dict[ServerConnection, str] = {}
        for thing in things:
            for row in thing.get("settings", []):
                row.update(by="start", changes=0, hand={"value": row["value"], "changes": 0})

    # Changes at the things themselves

    async def became(self, thing: str, setting: str, value: Any, by: str = HAND) -> dict[str, Any]:
        """Notes a setting's value, whoever changed it; every client that said hello is told."""
        row = self.part(thing, "settings", setting)
        value = fitting(row, value)
        if value == row["value"] and by != HAND:
            return shown(row)
        row.update(value=value, by=by, changes=row["changes"] + 1)
        if by == HAND:
            row["hand"] = {"value": value, "changes": row["changes"]}
        await self._tell("changed", {"thing": thing, "setting": setting, **shown(row)})
        return shown(row)

    async def structure(self) -> None:
        """Replaces the list of things."""
        await self._tell("structure", {})

    async def leave(self) -> None:
        """Closes all connections, because nothing can be reached now."""
        self.there = False
        for socket in list(self._lines):
            await socket.close(1013)

    async def _tell(self, method: str, params: dict[str, Any]) -> None:
        text = json.dumps({"jsonrpc": "2.0", "method": method, "params": params}, ensure_ascii=False)
        for socket in list(self._lines):
            try:
                await socket.send(text)
            except websockets.WebSocketException:
                self._lines.pop(socket, None)

    def part(self, thing: Any, what: str, name: Any) -> dict[str, Any]:
        """Returns the row of a setting or a deed itself, which holds its value. Raises Refused."""
        there = self.things.get(thing) if isinstance(thing, str) and thing not in self.hidden else None
        found: dict[str, Any] | None = next((row for row in (there or {}).get(what, []) if row["id"] == name), None)
        if found is None:
            raise Refused(f"there is no “{name}” of “{thing}”", NOTHING_THERE)
        return found

    # The wire

    async def serve(self, host: str, port: int) -> None:
        """Listens for good."""
        async with websockets.serve(self._connected, host, port, max_size=1 << 20) as server:
            await server.serve_forever()

    async def _connected(self, socket: ServerConnection) -> None:
        if not self.there:
            await socket.close(1013)
            return
        try:
            async for text in socket:
                answer = await self._answer(socket, text)
                if answer is not None:
                    await socket.send(json.dumps({"jsonrpc": "2.0", **answer}, ensure_ascii=False))
        except websockets.WebSocketException:
            pass
        finally:
            self._lines.pop(socket, None)

    async def _answer(self, socket: ServerConnection, text: str | bytes) -> dict[str, Any] | None:
        try:
            call = json.loads(text)
        except (ValueError, RecursionError):
            return {"id": None, "error": {"code": NO_JSON, "message": "this is not JSON"}}
        method = call.get("method") if isinstance(call, dict) else None
        if not isinstance(method, str):
            number = call.get("id") if isinstance(call, dict) else None
            return {"id": number, "error": {"code": NO_CALL, "message": "this is no call"}}
        try:
            result = await self._called(socket, method, call.get("params", {}))
            answer: dict[str, Any] = {"result": result}
        except Refused as refused:
            answer = {"error": {"code": refused.code, "message": str(refused)}}
        except OSError as error:
            answer = {"error": {"code": NOT_TAKEN, "message": f"it does not answer: {error}"}}
        return {"id": call["id"], **answer} if "id" in call else None

    async def _called(self, socket: ServerConnection, method: str, params: Any) -> Any:
        if not isinstance(params, dict):
            raise Refused("params must be an object", NO_PARAMS)
        if method == "hello":
            if self.token and not hmac.compare_digest(str(params.get("token", "")).encode(), self.token.encode()):
                raise Refused("the token is wrong", WRONG_TOKEN)
            self._lines[socket] = str(params.get("name") or "somebody")[:100]
            return {"version": VERSION, "name": self.name, "boot": self.boot, "memory": self.memory}
        if socket not in self._lines:
            raise Refused("say hello first", NO_HELLO)
        if method == "catalogue":
            return {"things": [thing for key, thing in self.things.items() if key not in self.hidden]}
        if method == "set":
            row = self.part(params.get("thing"), "settings", params.get("setting"))
            value = fitting(row, params.get("value"))
            if value != row["value"]:
                await self._move(params["thing"], row["id"], value)
            return await self.became(params["thing"], row["id"], value, self._lines[socket])
        if method == "do":
            return await self._once(params)
        raise Refused(f"there is no method “{method}”", NO_METHOD)

    async def _once(self, params: dict[str, Any]) -> Any:
        key = params.get("id", "")
        if isinstance(key, str) and key in self._done:
            return self._done[key]
        row = self.part(params.get("thing"), "deeds", params.get("deed"))
        given = params.get("values", {})
        if not isinstance(given, dict):
            raise Refused("values must be an object", NO_PARAMS)
        kinds = {kind["id"]: kind for kind in row.get("values", [])}
        values = {name: fitting(kinds[name], value) for name, value in given.items() if name in kinds}
        await self._do(params["thing"], row["id"], values)
        answer = {"done": True}
        if isinstance(key, str) and key:
            self._done[key] = answer
            while len(self._done) > REMEMBERED:
                self._done.popitem(last=False)
        return answer


def shown(row: dict[str, Any]) -> dict[str, Any]:
    return {key: row[key] for key in ("value", "by", "changes", "hand")}
