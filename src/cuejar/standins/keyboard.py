"""The simulated keys: JSON-RPC 2.0 over a WebSocket, key names by the ``code`` of W3C UI Events.

Behind them is a made-up program in which some combinations toggle something. It does not say what is on: that is the point.
"""

from __future__ import annotations

import contextlib
import json
import re
import time
from collections import deque
from typing import Any

from fastapi import APIRouter, WebSocket, WebSocketDisconnect
from pydantic import BaseModel, ConfigDict

from cuejar.standins.panel import Refused
from cuejar.standins.rpc import PARAMS, UNKNOWN, answered, cut

CODE = re.compile(r"[A-Z][A-Za-z0-9]{1,30}")


class Keyboard:
    """What was pressed, and what it toggled."""

    def __init__(self, toggles: dict[str, str]) -> None:
        """Args:
        toggles: what each combination toggles, by combination.
        """
        self.toggles = toggles
        self.on = dict.fromkeys(toggles, False)
        self.taps: deque[dict[str, Any]] = deque(maxlen=40)
        self.count = 0

    def tap(self, combo: str, by: str) -> None:
        self.count += 1
        self.taps.append({"combo": combo, "by": by, "at": time.time(), "number": self.count})
        if combo in self.on:
            self.on[combo] = not self.on[combo]

    def state(self) -> dict[str, Any]:
        rows = [{"combo": combo, "what": what, "on": self.on[combo]} for combo, what in self.toggles.items()]
        values = {f"keys/{combo}": "on" if on else "off" for combo, on in self.on.items()}
        return {"serial": self.count, "toggles": rows, "taps": list(self.taps), "values": values}

    def do(self, method: str, params: dict[str, Any]) -> Any:
        """What a program may ask for. Raises Refused."""
        if method != "tap":
            raise Refused(f"there is no method “{method}”", UNKNOWN)
        keys = params.get("keys")
        if not isinstance(keys, list) or not keys or not all(isinstance(k, str) and CODE.fullmatch(k) for k in keys):
            raise Refused("keys must be a list of key codes", PARAMS)
        self.tap("+".join(keys), "program")
        return {"tapped": keys}


class TapIn(BaseModel):
    model_config = ConfigDict(extra="forbid")
    combo: str


def router(keyboard: Keyboard) -> APIRouter:
    routes = APIRouter(prefix="/keys", tags=["keys"])
    sockets: set[WebSocket] = set()

    @routes.websocket("")
    async def wire(socket: WebSocket) -> None:
        await socket.accept()
        sockets.add(socket)
        with contextlib.suppress(WebSocketDisconnect, RuntimeError):
            while True:
                answer = answered(await socket.receive_text(), keyboard.do)
                if answer is not None:
                    await socket.send_text(json.dumps(answer))
        sockets.discard(socket)

    @routes.get("/state")
    async def state() -> dict[str, Any]:
        return keyboard.state()

    @routes.post("/hand")
    async def hand(body: TapIn) -> dict[str, Any]:
        """A hand presses the keys."""
        keyboard.tap(body.combo, "hand")
        return keyboard.state()

    @routes.post("/cut")
    async def cut_off() -> dict[str, int]:
        return await cut(sockets)

    return routes
