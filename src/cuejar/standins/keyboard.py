"""The simulated keys: JSON-RPC 2.0 over a WebSocket, key names by the ``code`` of W3C UI Events.

They control a made-up program in which some combinations toggle something. It doesn't report its state: that is the
point. It does report which taps it did, by their ids: a repeated one is done once, and gets the first answer.
"""

from __future__ import annotations

import contextlib
import json
import re
import secrets
import time
from collections import OrderedDict, deque
from pathlib import Path
from typing import Any

from fastapi import APIRouter, WebSocket, WebSocketDisconnect
from pydantic import BaseModel, ConfigDict

from cuejar.core.facts.paths import keys_path
from cuejar.standins.panel import Refused
from cuejar.standins.rpc import PARAMS, UNKNOWN, answered, cut, said

CODE = re.compile(r"[A-Z][A-Za-z0-9]{1,30}")


REMEMBERED = 1_000
"""How many taps' ids are remembered, with their answers."""


class Keyboard:
    """What was pressed and toggled. With a state file, that and the ids of taps outlive the process."""

    def __init__(self, toggles: dict[str, str], file: Path | None = None) -> None:
        """Args:
        toggles: what each combination toggles.
        """
        self.toggles, self._file = toggles, file
        self.on = dict.fromkeys(toggles, False)
        self.taps: deque[dict[str, Any]] = deque(maxlen=40)
        self.count = 0
        self.silent = False
        """Whether it carries out requests without answering."""
        self.memory = secrets.token_hex(8)
        self.known: OrderedDict[str, Any] = OrderedDict()
        if file is not None and file.is_file():
            kept = json.loads(file.read_text("utf-8"))
            self.on.update({combo: on for combo, on in kept["on"].items() if combo in self.on})
            self.count, self.memory = kept["count"], kept["memory"]
            self.known.update(kept["known"])
        self.keep()

    def keep(self) -> None:
        if self._file is not None:
            state = {"on": self.on, "count": self.count, "memory": self.memory, "known": list(self.known.items())}
            draft = self._file.with_suffix(".new")
            draft.write_text(json.dumps(state), "utf-8")
            draft.replace(self._file)

    def tap(self, combo: str, by: str, tap_id: str = "", answer: Any = None) -> None:
        self.count += 1
        self.taps.append({"combo": combo, "by": by, "at": time.time(), "number": self.count})
        if combo in self.on:
            self.on[combo] = not self.on[combo]
        if tap_id:
            self.known[tap_id] = answer
            while len(self.known) > REMEMBERED:
                self.known.popitem(last=False)
        self.keep()

    def state(self) -> dict[str, Any]:
        rows = [{"combo": combo, "what": what, "on": self.on[combo]} for combo, what in self.toggles.items()]
        values = {keys_path(combo): "on" if on else "off" for combo, on in self.on.items()}
        return {"serial": self.count, "toggles": rows, "taps": list(self.taps), "values": values}

    def do(self, method: str, params: dict[str, Any]) -> Any:
        """Carries out a request. A tap with a repeated id gets the first answer. Raises Refused."""
        if method == "hello":
            return {"version": 1, "memory": self.memory, "remembers": REMEMBERED}
        if method == "known":
            return {"known": [tap_id for tap_id in params["ids"] if tap_id in self.known]}
        if method != "tap":
            raise Refused(f"there is no method “{method}”", UNKNOWN)
        keys = params.get("keys")
        if not isinstance(keys, list) or not keys or not all(isinstance(k, str) and CODE.fullmatch(k) for k in keys):
            raise Refused("keys must be a list of key codes", PARAMS)
        tap_id = params.get("id", "")
        if not isinstance(tap_id, str) or len(tap_id) > 100:
            raise Refused("an id is a text of at most 100 characters", PARAMS)
        if tap_id in self.known:
            return self.known[tap_id]
        answer = {"tapped": keys}
        self.tap("+".join(keys), "program", tap_id, answer)
        return answer


class SilentIn(BaseModel):
    model_config = ConfigDict(extra="forbid")
    silent: bool


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
                answer = answered(await said(socket), keyboard.do)
                if answer is not None and not keyboard.silent:
                    await socket.send_text(json.dumps(answer))
        sockets.discard(socket)

    @routes.get("/state")
    async def state() -> dict[str, Any]:
        return keyboard.state()

    @routes.get("/known")
    async def known() -> list[str]:
        """Returns the ids of remembered taps."""
        return list(keyboard.known)

    @routes.post("/hand")
    async def hand(body: TapIn) -> dict[str, Any]:
        """Presses the keys by hand."""
        keyboard.tap(body.combo, "hand")
        return keyboard.state()

    @routes.post("/silent")
    async def silent(body: SilentIn) -> dict[str, bool]:
        """Sets whether it stays silent, although it carries out its requests."""
        keyboard.silent = body.silent
        return {"silent": keyboard.silent}

    @routes.post("/cut")
    async def cut_off() -> dict[str, int]:
        return await cut(sockets)

    return routes
