"""Forty frames a second for 64 lamps with 20 holds running, next to a bare sender of packets of the same size."""

from __future__ import annotations

import asyncio
import socket
import time
from pathlib import Path
from statistics import quantiles
from typing import Any

from cuejar.core.book.files import book_from
from cuejar.core.facts import happenings as h
from tests.inside import Inside

LAMPS, HOLDS, FOR_S = 64, 20, 10.0
FRAME_S = 1 / 40


class _Listener(asyncio.DatagramProtocol):
    def __init__(self) -> None:
        self.at: list[float] = []
        self.size = 0

    def datagram_received(self, data: bytes, addr: Any) -> None:
        self.at.append(time.perf_counter())
        self.size = len(data)


def _jitter(at: list[float]) -> dict[str, float]:
    """Returns how far the time between two frames deviates from 25 ms: in ms, the median and the 99th percentile."""
    off = sorted(abs((b - a) - FRAME_S) * 1000 for a, b in zip(at, at[1:], strict=False))
    cuts = quantiles(off, n=100)
    return {"median": round(cuts[49], 3), "99th": round(cuts[98], 3)}


async def _listen() -> tuple[_Listener, asyncio.DatagramTransport, int]:
    loop = asyncio.get_running_loop()
    transport, heard = await loop.create_datagram_endpoint(_Listener, local_addr=("127.0.0.1", 0))
    return heard, transport, transport.get_extra_info("sockname")[1]


async def _bare() -> dict[str, Any]:
    heard, transport, port = await _listen()
    loop = asyncio.get_running_loop()
    with socket.socket(socket.AF_INET, socket.SOCK_DGRAM) as out:
        out.connect(("127.0.0.1", port))
        packet, next_at, begun, cpu = bytes(638), loop.time(), time.perf_counter(), time.process_time()
        while time.perf_counter() - begun < FOR_S:
            out.send(packet)
            next_at += FRAME_S
            await asyncio.sleep(next_at - loop.time())
        used = time.process_time() - cpu
    transport.close()
    return {"processor, %": round(used / FOR_S * 100, 2), "jitter of frames, ms": _jitter(heard.at)}


async def _ours(folder: Path) -> dict[str, Any]:
    heard, transport, port = await _listen()
    lamps = [{"id": f"lamp-{n}"} for n in range(LAMPS)]
    looks = ("breathe", "chase", "flicker")
    cues = []
    for n in range(HOLDS):
        mine = [f"lamp-{(n * 3 + i) % LAMPS}" for i in range(12)]
        beat = {"id": "b", "kind": "light", "fixtures": mine, "colour": f"#{(n * 999_983) % 0xFFFFFF:06x}", "look": looks[n % 3],
                "period_s": 1 + n / 10, "fade_in_s": FOR_S, "length": {"s": 600}}  # fmt: skip
        cues.append({"id": f"c{n}", "name": "C", "entry": "overlap", "beats": [beat]})
    gear = [{"id": "lamps", "kind": "lights", "address": f"sacn://127.0.0.1:{port}", "fixtures": lamps}]
    book = book_from({"cues": cues, "gear": gear})
    inside = Inside(folder, book)
    show, rig = inside.runner, inside.rig
    inside.start()
    rig.take(book)
    await asyncio.sleep(1)
    for n in range(HOLDS):
        await show.post(h.Pad(f"c{n}"))
    await asyncio.sleep(0.5)
    heard.at.clear()
    cpu, begun = time.process_time(), time.perf_counter()
    await asyncio.sleep(FOR_S - 1)
    used, took = time.process_time() - cpu, time.perf_counter() - begun
    frames = list(heard.at)
    await inside.stop()
    transport.close()
    return {
        "processor, %": round(used / took * 100, 2),
        "frames a second": round(len(frames) / took, 2),
        "jitter of frames, ms": _jitter(frames),
    }


def lamps(folder: Path) -> dict[str, Any]:
    there = folder / "lamps"
    there.mkdir()
    ours, bare = asyncio.run(_ours(there)), asyncio.run(_bare())
    return {
        "ours": ours,
        "a bare sender": bare,
        "ratio of the processor's share": round(ours["processor, %"] / max(0.01, bare["processor, %"]), 1),
    }
