"""Something between Cue Jar and the gear that corrupts messages, both ways."""

from __future__ import annotations

import asyncio
import json
import random
import threading
from collections.abc import Callable
from typing import Any

from pythonosc.osc_message import OscMessage, ParseError
from pythonosc.osc_message_builder import OscMessageBuilder
from websockets.asyncio.client import connect
from websockets.asyncio.server import ServerConnection, serve
from websockets.exceptions import ConnectionClosed

from tests.fuzz import odd
from tests.running import PATIENCE_S, free_ports


class Between:
    """Passes on both sides' messages; while it ``spoils``, it corrupts about a third of them."""

    def __init__(self, rng: random.Random) -> None:
        self.rng, self.spoils, self.spoilt = rng, True, 0
        self.port = free_ports()
        self._loop = asyncio.new_event_loop()
        self._thread = threading.Thread(target=self._loop.run_forever, daemon=True)
        self._thread.start()

    def _bad(self) -> bool:
        bad = self.spoils and self.rng.random() < 0.35
        self.spoilt += bad
        return bad

    def _run(self, work: Any) -> Any:
        return asyncio.run_coroutine_threadsafe(work, self._loop).result(PATIENCE_S)

    def stop(self) -> None:
        async def end() -> None:
            for task in asyncio.all_tasks():
                if task is not asyncio.current_task():
                    task.cancel()

        self._run(end())
        self._loop.call_soon_threadsafe(self._loop.stop)
        self._thread.join(PATIENCE_S)


class BetweenSockets(Between):
    """JSON over a WebSocket."""

    def __init__(self, rng: random.Random, address: str) -> None:
        super().__init__(rng)
        self._target = address
        self.address = f"ws://127.0.0.1:{self.port}"
        self._server = self._run(self._serve())

    async def _serve(self) -> Any:
        return await serve(self._meet, "127.0.0.1", self.port, compression=None)

    async def _meet(self, near: ServerConnection) -> None:
        async with connect(self._target, proxy=None, compression=None) as far:
            ways = [asyncio.create_task(self._pass(near, far)), asyncio.create_task(self._pass(far, near))]
            await asyncio.wait(ways, return_when=asyncio.FIRST_COMPLETED)
            for way in ways:
                way.cancel()

    async def _pass(self, one: Any, other: Any) -> None:
        try:
            async for said in one:
                if self._bad():
                    for _ in range(self.rng.choice([1, 1, 3])):
                        spoilt = odd.text(json.loads(said), self.rng)
                        binary = self.rng.random() < 0.05
                        await other.send(spoilt.encode("utf-8", "replace") if binary else _written(spoilt))
                    if self.rng.random() < 0.5:
                        continue
                await other.send(said)
        except ConnectionClosed:
            await other.close()


def _written(text: str) -> str:
    return text.encode("utf-8", "replace").decode("utf-8")


class BetweenPackets(Between):
    """OSC over UDP."""

    def __init__(self, rng: random.Random, port: int) -> None:
        super().__init__(rng)
        self._target = ("127.0.0.1", port)
        self.address = f"osc://127.0.0.1:{self.port}"
        self._ways: dict[Any, Any] = {}
        self._run(self._serve())

    async def _serve(self) -> None:
        await self._loop.create_datagram_endpoint(lambda: _Ear(self._from_near), local_addr=("127.0.0.1", self.port))

    def _from_near(self, ear: _Ear, data: bytes, near: Any) -> None:
        self._loop.create_task(self._to_far(ear, data, near))

    async def _to_far(self, ear: _Ear, data: bytes, near: Any) -> None:
        if near not in self._ways:

            def back(_: _Ear, said: bytes, __: Any) -> None:
                for packet in self._spoilt(said):
                    ear.transport.sendto(packet, near)

            made = await self._loop.create_datagram_endpoint(lambda: _Ear(back), remote_addr=self._target)
            self._ways[near] = made[0]
        for packet in self._spoilt(data):
            self._ways[near].sendto(packet)

    def _spoilt(self, data: bytes) -> list[bytes]:
        if not self._bad():
            return [data]
        return [packet(data, self.rng), data][: self.rng.choice([1, 2])]


class _Ear(asyncio.DatagramProtocol):
    def __init__(self, heard: Callable[[_Ear, bytes, Any], None]) -> None:
        self._heard = heard
        self.transport: Any = None

    def connection_made(self, transport: Any) -> None:
        self.transport = transport

    def datagram_received(self, data: bytes, addr: Any) -> None:
        self._heard(self, data, addr)


def packet(data: bytes, rng: random.Random) -> bytes:
    """Returns a corrupted OSC packet: other arguments, cut off, bytes changed, or empty."""
    how = rng.random()
    try:
        message = OscMessage(data)
    except (ParseError, ValueError):
        how = 1.0
    if how < 0.6:
        values = odd.changed([*message.params], rng)
        made = OscMessageBuilder(address=message.address + rng.choice(["", "", "", "/", "x", "/../keys"]))
        for value in values if isinstance(values, list) else [values]:
            if isinstance(value, str):
                made.add_arg(value.encode("utf-8", "replace").decode("utf-8")[:2_000])
            elif isinstance(value, (bool, bytes)) or (isinstance(value, (int, float)) and abs(value) < 2**31):
                made.add_arg(value)
        return made.build().dgram
    if how < 0.7:
        return data[: rng.randrange(len(data) + 1)]
    if how < 0.8:
        return rng.randbytes(rng.randrange(200))
    changed = bytearray(data)
    for _ in range(rng.choice([1, 3, 10])):
        if changed:
            changed[rng.randrange(len(changed))] = rng.randrange(256)
    return bytes(changed)
