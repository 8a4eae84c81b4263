"""The simulated lamps: they listen to streaming ACN (ANSI E1.31) over UDP and show what their channels say.

A lamp's picture is what an eye would see: linear channels are converted back to sRGB.
"""

from __future__ import annotations

import asyncio
import struct
import time
from typing import Any, NamedTuple

from fastapi import APIRouter

from cuejar.core.facts.paths import lamp_path

ACN_ID = b"ASC-E1.17\x00\x00\x00"
ROOT_DATA, FRAMING_DATA, DMP_SET = 4, 2, 2
HEADER = 126
STALE_S = 2.5


class Lamp(NamedTuple):
    id: str
    name: str
    profile: str
    universe: int
    address: int


class Data(NamedTuple):
    """One data packet: its universe, sequence number, whether the stream ends with it, and its channels."""

    universe: int
    sequence: int
    over: bool
    channels: bytes
    source: str
    cid: bytes
    """The sender; each numbers its own packets."""


def read(packet: bytes) -> Data | None:
    """Returns a data packet of E1.31 (sections 4 to 7), or None."""
    if len(packet) < HEADER or packet[4:16] != ACN_ID or struct.unpack(">HH", packet[:4]) != (0x0010, 0):
        return None
    root_vector, framing_vector = struct.unpack(">I", packet[18:22])[0], struct.unpack(">I", packet[40:44])[0]
    if root_vector != ROOT_DATA or framing_vector != FRAMING_DATA or packet[117] != DMP_SET:
        return None
    source = packet[44:108].split(b"\0", 1)[0].decode("utf-8", "replace")
    sequence, options, universe = packet[111], packet[112], struct.unpack(">H", packet[113:115])[0]
    count = struct.unpack(">H", packet[123:125])[0]
    if packet[125] != 0 or len(packet) < 125 + count:
        return None
    return Data(universe, sequence, bool(options & 0x40), packet[126 : 125 + count], source, packet[22:38])


def _srgb(linear: float) -> int:
    """Returns the picture's channel (0 to 255) for linear light (IEC 61966-2-1)."""
    value = 12.92 * linear if linear <= 0.0031308 else 1.055 * linear ** (1 / 2.4) - 0.055
    return round(255 * min(1.0, max(0.0, value)))


class Lamps(asyncio.DatagramProtocol):
    """All lamps of the stand-in."""

    def __init__(self, lamps: list[Lamp]) -> None:
        self.lamps = lamps
        self.universes: dict[int, bytes] = {}
        self._last: dict[int, tuple[bytes, int]] = {}
        self.at = 0.0
        self.frames = self.lost = self.serial = 0
        self.source = ""

    def datagram_received(self, data: bytes, addr: Any) -> None:
        packet = read(data)
        if packet is None:
            return
        sender, before = self._last.get(packet.universe, (b"", 0))
        step = 1 if sender != packet.cid else (packet.sequence - before) & 255
        if step > 236 or step == 0:
            return  # Out of order (E1.31, 6.7.2): -20 to 0 are discarded.
        self.lost += step - 1
        self._last[packet.universe] = packet.cid, packet.sequence
        self.frames += 1
        self.at, self.source = time.monotonic(), packet.source
        if packet.over:
            self._last.pop(packet.universe)
        elif self.universes.get(packet.universe) != packet.channels:
            self.universes[packet.universe] = packet.channels
            self.serial += 1

    def light(self, lamp: Lamp) -> tuple[float, float, float]:
        """Returns linear red, green and blue of a lamp, 0 to 1."""
        channels = self.universes.get(lamp.universe, b"")
        count = {"dimmer": 1, "rgb": 3, "rgbw": 4, "dimmer_rgb": 4}[lamp.profile]
        at = lamp.address - 1
        values = [value / 255 for value in channels[at : at + count].ljust(count, b"\0")]
        if lamp.profile == "dimmer":
            return (values[0],) * 3
        if lamp.profile == "rgbw":
            r, g, b, white = values
            return r + white, g + white, b + white
        if lamp.profile == "dimmer_rgb":
            dimmer, r, g, b = values
            return r * dimmer, g * dimmer, b * dimmer
        r, g, b = values
        return r, g, b

    def state(self) -> dict[str, Any]:
        rows = []
        for lamp in self.lamps:
            shown = "#" + "".join(f"{_srgb(value):02x}" for value in self.light(lamp))
            rows.append({"id": lamp.id, "name": lamp.name, "profile": lamp.profile, "shown": shown,
                         "universe": lamp.universe, "address": lamp.address})  # fmt: skip
        return {
            "serial": self.serial,
            "lamps": rows,
            "values": {lamp_path(str(row["id"]), "shown"): row["shown"] for row in rows},
            "source": self.source,
            "streaming": time.monotonic() - self.at < STALE_S,
            "frames": self.frames,
            "lost": self.lost,
        }


def router(lamps: Lamps) -> APIRouter:
    routes = APIRouter(prefix="/lights", tags=["lights"])

    @routes.get("/state")
    async def state() -> dict[str, Any]:
        return lamps.state()

    return routes
