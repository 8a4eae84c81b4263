"""The simulated broadcaster's wire: JSON-RPC 2.0 over a WebSocket, a password by HMAC challenge; and its window's HTTP."""

from __future__ import annotations

import asyncio
import base64
import hashlib
import hmac
import secrets
from typing import Any

from fastapi import APIRouter, HTTPException, Response, WebSocket, WebSocketDisconnect
from pydantic import BaseModel, ConfigDict

from cuejar.core.facts.paths import SCENE
from cuejar.standins.broadcaster import Broadcaster
from cuejar.standins.panel import Refused
from cuejar.standins.programme import picture
from cuejar.standins.rpc import UNKNOWN, Line, answered, cut, said

NOT_SIGNED_IN, WRONG_PASSWORD = -32001, -32002


def proof(password: str, challenge: str) -> str:
    """Returns HMAC-SHA-256 of the challenge, keyed by the password, in hexadecimal (RFC 2104)."""
    return hmac.new(password.encode(), challenge.encode(), hashlib.sha256).hexdigest()


class _Connection(Line):
    def __init__(self, socket: WebSocket, broadcaster: Broadcaster, password: str) -> None:
        super().__init__(socket)
        self.broadcaster, self.password = broadcaster, password
        self.challenge, self.name = secrets.token_hex(16), ""

    def do(self, method: str, params: dict[str, Any]) -> Any:
        b = self.broadcaster
        if method == "sign_in":
            if not hmac.compare_digest(str(params["proof"]), proof(self.password, self.challenge)):
                raise Refused("the password is wrong", WRONG_PASSWORD)
            self.name = str(params.get("name") or "program")
            b.listeners.add(self.hear)
            return {"ok": True}
        if not self.name:
            raise Refused("sign in first", NOT_SIGNED_IN)
        if method == "catalogue":
            return b.catalogue()
        if method == "scene.show":
            return b.show_scene(params["scene"], self.name)
        if method == "source.show":
            return b.show_source(params["source"], params["visible"], self.name)
        if method == "filter.set":
            return b.set_filter(params["filter"], params["setting"], params["value"], self.name)
        if method == "input.set":
            return b.set_input(params["input"], params["setting"], params["value"], self.name)
        if method == "programme.picture":
            width = min(1280, max(64, int(params.get("width", 480))))
            return {"png": base64.b64encode(picture(b, width)).decode()}
        raise Refused(f"there is no method “{method}”", UNKNOWN)


class HandIn(BaseModel):
    model_config = ConfigDict(extra="forbid")
    path: str
    value: bool | float | str


class RenameIn(BaseModel):
    model_config = ConfigDict(extra="forbid")
    what: str
    old: str
    new: str
    of: str = ""


class SourceIn(BaseModel):
    model_config = ConfigDict(extra="forbid")
    scene: str
    name: str
    draws: str = "snow"


class Png(Response):
    media_type = "image/png"


def router(broadcaster: Broadcaster, password: str) -> APIRouter:
    routes = APIRouter(prefix="/broadcaster", tags=["broadcaster"])
    sockets: set[WebSocket] = set()

    @routes.websocket("")
    async def wire(socket: WebSocket) -> None:
        await socket.accept()
        sockets.add(socket)
        connection = _Connection(socket, broadcaster, password)
        hello = {"challenge": connection.challenge, "version": 1}
        connection.hear({"jsonrpc": "2.0", "method": "hello", "params": hello})
        speaking = asyncio.create_task(connection.speak())
        try:
            while True:
                answer = answered(await said(socket), connection.do)
                if answer is not None:
                    connection.hear(answer)
        except (WebSocketDisconnect, RuntimeError):
            pass
        finally:
            sockets.discard(socket)
            broadcaster.listeners.discard(connection.hear)
            speaking.cancel()

    def tried(work: Any) -> Any:
        try:
            return work()
        except Refused as refused:
            raise HTTPException(404 if refused.code == -32003 else 422, str(refused)) from refused

    @routes.get("/state")
    async def state() -> dict[str, Any]:
        """Returns what it shows, by Cue Jar's paths, and everything it has."""
        values = broadcaster.values()
        named = {"scene": values[SCENE], "serial": broadcaster.serial, "values": values}
        return {**broadcaster.catalogue(), **named}

    @routes.post("/hand")
    async def hand(body: HandIn) -> dict[str, Any]:
        """Changes a property by hand, as in the broadcaster itself."""
        changed: dict[str, Any] = tried(lambda: broadcaster.hand(body.path, body.value))
        return changed

    @routes.post("/rename")
    async def rename(body: RenameIn) -> dict[str, bool]:
        tried(lambda: broadcaster.rename(body.what, body.old, body.new, body.of))
        return {"ok": True}

    @routes.post("/sources")
    async def add_source(body: SourceIn) -> dict[str, bool]:
        tried(lambda: broadcaster.add_source(body.scene, body.name, body.draws))
        return {"ok": True}

    @routes.delete("/{what}s/{name}")
    async def remove(what: str, name: str) -> dict[str, bool]:
        tried(lambda: broadcaster.remove(what, name))
        return {"ok": True}

    @routes.post("/cut")
    async def cut_off() -> dict[str, int]:
        return await cut(sockets)

    @routes.get("/picture", response_class=Png)
    async def programme(width: int = 640) -> Png:
        return Png(picture(broadcaster, min(1280, max(64, width))))

    return routes
