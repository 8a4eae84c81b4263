"""The wire of the simulated avatar, voice box and haptics: Open Sound Control 1.0 over UDP, all on one port.

to the gear       /avatar/hello  name serial            who says it hears of every change for 5 s
                  /avatar/outfit "Top hat"              sets; /avatar/expression "Startled" T
                  /haptics/frame blob                   a level (0 to 255) for each pad
from the gear     /avatar/here  boot serial             the answer to hello
                  /avatar/outfit value by changes hand hand-changes
                  /avatar/has  "outfit" name…           after hello, where the serial was another
                  /haptics/pad id name side x y size    likewise, and /haptics/outline side x y x y…
"""

from __future__ import annotations

import asyncio
import contextlib
import random
import time
from typing import Annotated, Any, Literal

from fastapi import APIRouter, HTTPException
from pydantic import BaseModel, ConfigDict, Field
from pythonosc.osc_bundle_builder import IMMEDIATELY, OscBundleBuilder
from pythonosc.osc_message import OscMessage, ParseError
from pythonosc.osc_message_builder import OscMessageBuilder

from cuejar.standins.panel import Panel, Refused

VERSION = 1
HEARS_S = 5.0
SAFE_S = 0.3
Address = tuple[str, int]


Pad = tuple[str, str, str, float, float, float]
"""Its id and name, the side (front or back), x, y, and its width."""
Outline = tuple[str, tuple[float, ...]]
"""The side, and x and y of each point."""


class Wearable(Panel):
    """The simulated haptics: a panel, and the levels of its pads. They fall silent without frames."""

    def __init__(self, pads: list[Pad], outlines: list[Outline]) -> None:
        super().__init__("haptics", {"strength": 1.0}, {})
        self.pads, self.outlines = pads, outlines
        self._levels, self._at = bytes(len(pads)), 0.0
        self.frames = 0

    def wear(self, pads: list[Pad], outlines: list[Outline]) -> None:
        """Changes its pads."""
        self.pads, self.outlines, self._levels = pads, outlines, bytes(len(pads))
        self.serial += 1

    def felt(self, levels: bytes) -> None:
        if len(levels) == len(self._levels):
            self._levels, self._at = levels, time.monotonic()
            self.frames += 1

    def state(self) -> dict[str, Any]:
        quiet = time.monotonic() - self._at > SAFE_S
        strength = float(self.properties["strength"].value)
        levels = [0.0 if quiet else round(level / 255 * strength, 3) for level in self._levels]
        pads = [dict(zip(("id", "title", "side", "x", "y", "size"), pad, strict=True)) for pad in self.pads]
        outlines = [{"side": side, "points": points} for side, points in self.outlines]
        return {**super().state(), "pads": pads, "outlines": outlines, "levels": levels, "frames": self.frames}


class OscServer(asyncio.DatagramProtocol):
    """Answers for all panels on one UDP port. ``loss`` is the share of lost packets, both ways."""

    def __init__(self, panels: list[Panel]) -> None:
        self.panels = {panel.kind: panel for panel in panels}
        self._transport: asyncio.DatagramTransport | None = None
        self._hears: dict[str, dict[Address, float]] = {kind: {} for kind in self.panels}
        self._names: dict[Address, str] = {}
        self.loss: dict[str, float] = dict.fromkeys(self.panels, 0.0)
        for panel in panels:
            panel.listeners.add(self._teller(panel))

    def _teller(self, panel: Panel) -> Any:
        return lambda key: self._tell(panel, key)

    def connection_made(self, transport: Any) -> None:
        self._transport = transport

    def datagram_received(self, data: bytes, addr: Address) -> None:
        with contextlib.suppress(ParseError, IndexError, TypeError, ValueError):
            message = OscMessage(data)
            _, kind, what = message.address.split("/", 2)
            panel = self.panels.get(kind)
            if panel is not None and random.random() >= self.loss[kind]:
                self._heard(panel, what, list(message.params), addr)

    def _heard(self, panel: Panel, what: str, params: list[Any], addr: Address) -> None:
        if what == "hello":
            self._hears[panel.kind][addr] = time.monotonic() + HEARS_S
            self._names[addr] = str(params[0])
            self._send(panel, addr, "here", panel.boot, panel.serial, VERSION)
            if params[1] != panel.serial:
                # In one packet, so that it arrives whole or not at all.
                whole = OscBundleBuilder(IMMEDIATELY)
                for name, known in panel.names.items():
                    whole.add_content(_message(panel, "has", name, *known))
                for key in panel.properties:
                    whole.add_content(_message(panel, *_state_of(panel, key)))
                if isinstance(panel, Wearable):
                    for pad in panel.pads:
                        whole.add_content(_message(panel, "pad", *pad))
                    for side, points in panel.outlines:
                        whole.add_content(_message(panel, "outline", side, *points))
                whole.add_content(_message(panel, "all", panel.serial))
                self._out(panel, addr, whole.build().dgram)
        elif what == "frame" and isinstance(panel, Wearable):
            panel.felt(params[0])
        else:
            key, value = what, params[0]
            if what == "expression":
                key, value = f"expression/{params[0]}", "on" if params[1] else "off"
            with contextlib.suppress(Refused):
                panel.set(key, value, self._names.get(addr, "program"))
            if key in panel.properties:
                self._send_state(panel, addr, key)

    def _tell(self, panel: Panel, key: str) -> None:
        now = time.monotonic()
        hears = self._hears[panel.kind]
        for addr, until in list(hears.items()):
            if until < now:
                del hears[addr]
            else:
                self._send_state(panel, addr, key)

    def _send_state(self, panel: Panel, addr: Address, key: str) -> None:
        self._send(panel, addr, *_state_of(panel, key))

    def _send(self, panel: Panel, addr: Address, what: str, *values: Any) -> None:
        self._out(panel, addr, _message(panel, what, *values).dgram)

    def _out(self, panel: Panel, addr: Address, packet: bytes) -> None:
        if self._transport is not None and random.random() >= self.loss[panel.kind]:
            self._transport.sendto(packet, addr)


def _message(panel: Panel, what: str, *values: Any) -> OscMessage:
    message = OscMessageBuilder(address=f"/{panel.kind}/{what}")
    for value in values:
        message.add_arg(value)
    return message.build()


def _state_of(panel: Panel, key: str) -> tuple[Any, ...]:
    p = panel.properties[key]
    first, _, name = key.partition("/")
    if name:
        return (first, name, p.value == "on", p.by, p.changes, p.hand == "on", p.hand_changes)
    return (first, p.value, p.by, p.changes, p.hand, p.hand_changes)


class HandIn(BaseModel):
    model_config = ConfigDict(extra="forbid")
    path: str
    value: float | str


class PadIn(BaseModel):
    model_config = ConfigDict(extra="forbid")
    id: str = Field(min_length=1, max_length=60)
    title: str = Field("", max_length=100)
    side: Literal["front", "back"] = "front"
    x: float = Field(ge=0, le=1)
    y: float = Field(ge=0, le=1)
    size: float = Field(0.12, gt=0, le=1)


class LossIn(BaseModel):
    model_config = ConfigDict(extra="forbid")
    share: float = Field(ge=0, le=1)


def router(panel: Panel, server: OscServer) -> APIRouter:
    """Returns the HTTP of a panel's window and its changes by hand."""
    routes = APIRouter(prefix=f"/{panel.kind}", tags=[panel.kind])

    @routes.get("/state")
    async def state() -> dict[str, Any]:
        return panel.state()

    @routes.post("/hand")
    async def hand(body: HandIn) -> dict[str, Any]:
        try:
            return panel.hand(body.path, body.value)
        except (Refused, KeyError) as error:
            raise HTTPException(404, str(error)) from error

    @routes.post("/loss")
    async def loss(body: LossIn) -> dict[str, float]:
        """Sets the share of this gear's packets that get lost."""
        server.loss[panel.kind] = body.share
        return {"share": body.share}

    if isinstance(panel, Wearable):

        @routes.post("/wear")
        async def wear(pads: Annotated[list[PadIn], Field(max_length=500)]) -> dict[str, Any]:
            """Turns it into another wearable, with these pads and no outline."""
            panel.wear([(pad.id, pad.title, pad.side, pad.x, pad.y, pad.size) for pad in pads], [])
            return panel.state()

    return routes
