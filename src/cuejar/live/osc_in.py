"""Incoming OSC: any control surface or phone app that speaks Open Sound Control 1.0 is a remote, through the inlets of
the book.

One UDP port for all of them. An inlet accepts only the senders that it names; without names, only this machine.
Unreadable messages are ignored and appear in the wire log.
"""

from __future__ import annotations

import asyncio
import math
from collections.abc import Awaitable, Callable
from ipaddress import ip_address
from typing import Any

import numpy as np
from pythonosc.osc_bundle import OscBundle
from pythonosc.osc_bundle import ParseError as BundleError
from pythonosc.osc_message import OscMessage, ParseError

from cuejar.core.book.book import Book, House
from cuejar.core.facts import happenings as h
from cuejar.core.facts.gate import sound_json
from cuejar.core.parts.gear import Inlet
from cuejar.core.parts.oscaddress import stands_for
from cuejar.live.inlets import Inlets, NotLetIn
from cuejar.live.runner import Runner
from cuejar.live.wirelog import WireLog

MOST_PACKET, MOST_ARGUMENTS, MOST_WAITING = 8_192, 64, 500
AGAIN_S = 3.0
FADER_S = 0.3
"""How often a moving fader is written into the book."""
HERE = frozenset({"127.0.0.1", "::1"})
TASK = "incoming OSC"


class _Port(asyncio.DatagramProtocol):
    def __init__(self, heard: Callable[[bytes, str], None]) -> None:
        self._heard = heard

    def datagram_received(self, data: bytes, addr: Any) -> None:
        self._heard(data, str(addr[0]))


class OscIn:
    """The port, and what its messages do."""

    def __init__(self, runner: Runner, inlets: Inlets, house: Callable[[dict[str, Any]], Awaitable[None]]) -> None:
        """Args:
        house: changes these settings of the house.
        """
        self._runner, self._inlets, self._house = runner, inlets, house
        self.wire = WireLog()
        self._book: Book | None = None
        self._set_up: tuple[str, int] | None = None
        self._task: asyncio.Task[None] | None = None
        self._line: asyncio.Queue[tuple[Inlet, list[Any]]] = asyncio.Queue(MOST_WAITING)
        self._fader: float | None = None
        self._moved = asyncio.Event()

    def take(self, book: Book) -> None:
        """Listens as this book says: beyond this machine only if an inlet names such a sender."""
        self._book = book
        ways = [inlet for inlet in book.inlets if inlet.kind == "osc" and inlet.on]
        port = book.house.osc_port
        far = any(sender not in HERE for inlet in ways for sender in inlet.senders)
        set_up = None if port is None or not ways else ("0.0.0.0" if far else "127.0.0.1", port)
        if set_up == self._set_up:
            return
        self._set_up = set_up
        self._runner.troubles.gone(TASK)
        before, self._task = self._task, None
        if before is not None:
            before.cancel()
        if set_up is not None:
            self._task = self._runner.watch.keep(TASK, lambda: self._listen(*set_up, before))

    async def stop(self) -> None:
        if self._task is not None:
            await self._runner.watch.let_go([self._task])

    async def _listen(self, host: str, port: int, before: asyncio.Task[None] | None) -> None:
        if before is not None:
            await asyncio.wait([before], timeout=2)
        transport = await self._opened(host, port)
        try:
            async with asyncio.TaskGroup() as group:
                group.create_task(self._do_all())
                group.create_task(self._write_fader())
        finally:
            transport.close()

    async def _opened(self, host: str, port: int) -> asyncio.DatagramTransport:
        """Opens the port as soon as possible; until then, that is reported."""
        loop, troubles = asyncio.get_running_loop(), self._runner.troubles
        while True:
            try:
                transport, _ = await loop.create_datagram_endpoint(lambda: _Port(self.heard), local_addr=(host, port))
                troubles.gone(TASK)
                return transport
            except OSError as error:
                what = f"UDP port {port} can’t be opened ({error.strerror or error})."
                troubles.has(TASK, what, "Remotes that speak OSC are not heard; choose another port on the Rig page.")
            await asyncio.sleep(AGAIN_S)

    # Input

    def heard(self, data: bytes, sender: str) -> None:
        """Takes one packet: a message, or a bundle of them."""
        try:
            if len(data) > MOST_PACKET:
                raise ValueError(f"it is over {MOST_PACKET} bytes")
            for message in _messages(data):
                self._message(message, sender)
        except (ValueError, ParseError, BundleError, IndexError, RecursionError) as error:
            self.wire.leave_out(repr(data[:200]), f"from {sender}: {error or type(error).__name__}")

    def _message(self, message: OscMessage, sender: str) -> None:
        arguments = _arguments(list(message.params))
        found = False
        for inlet in self._book.inlets if self._book is not None else []:
            if (
                inlet.kind != "osc"
                or not inlet.on
                or not inlet.address
                or not stands_for(inlet.address, message.address)
            ):
                continue
            found = True
            if not _may(inlet, sender):
                self.wire.leave_out(message.address, f"{sender} is not among the senders of {inlet.name}")
            elif self._line.full():
                self.wire.leave_out(message.address, "too many messages wait")
            else:
                self._line.put_nowait((inlet, arguments))
        if not found:
            self.wire.pass_over(message.address)

    # Effects

    async def _do_all(self) -> None:
        while True:
            inlet, arguments = await self._line.get()
            try:
                await self._do(inlet, arguments)
            except NotLetIn as refused:
                self.wire.leave_out(inlet.address, str(refused))
            except Exception as error:
                self.wire.leave_out(inlet.address, f"it failed: {error or type(error).__name__}")

    async def _do(self, inlet: Inlet, arguments: list[Any]) -> None:
        first = arguments[0] if arguments else True
        if inlet.does == "volume":
            if isinstance(first, (int, float)) and math.isfinite(first):
                self._fader = min(1.0, max(0.0, float(first)))
                self._moved.set()
            return
        if inlet.does == "house":
            await self._switch(inlet.switch, not _lets_go(first))
            return
        if _lets_go(first):
            return
        call = self._inlets.message(inlet, arguments)
        if inlet.does == "rest":
            await self._runner.post(h.AllToRest())
        elif inlet.does == "pad" and inlet.cue is not None:
            await self._runner.post(h.Pad(inlet.cue, call.text if call is not None else ""))
        elif inlet.does == "call" and call is not None:
            await self._runner.post(call)

    async def _switch(self, switch: str, on: bool) -> None:
        house: House = self._runner.view.book.house
        if switch:
            await self._house({"switches": {**house.switches, switch: on}})
        elif house.open != on:
            await self._house({"open": on})

    async def _write_fader(self) -> None:
        """Writes faders into the book: they report every step of their way; the book gets some of them, and the last."""
        while True:
            await self._moved.wait()
            self._moved.clear()
            if self._fader is not None:
                await self._house({"volume": round(self._fader * 100)})
            await asyncio.sleep(FADER_S)


def _messages(data: bytes) -> list[OscMessage]:
    if not OscBundle.dgram_is_bundle(data):
        return [OscMessage(data)]
    found: list[OscMessage] = []
    for part in OscBundle(data):
        found += [part] if isinstance(part, OscMessage) else list(_within(part))
    return found


def _within(bundle: OscBundle, depth: int = 0) -> list[OscMessage]:
    if depth > 8:
        raise ValueError("its bundles lie too deep in each other")
    found: list[OscMessage] = []
    for part in bundle:
        found += [part] if isinstance(part, OscMessage) else _within(part, depth + 1)
    return found


def _arguments(given: list[Any]) -> list[Any]:
    """Returns arguments as JSON values. Raises ValueError: one is invalid."""
    if len(given) > MOST_ARGUMENTS:
        raise ValueError(f"it has over {MOST_ARGUMENTS} arguments")
    sound = sound_json([_plain(one) for one in given])
    return list(sound) if isinstance(sound, list) else []


def _plain(given: Any) -> Any:
    if isinstance(given, (bytes, bytearray)):
        return bytes(given).hex()
    if isinstance(given, float) and np.float32(given) == given:
        return float(str(np.float32(given)))  # Sent in 32 bits: 0.2, not 0.20000000298.
    return str(given) if isinstance(given, tuple) else given


def _lets_go(first: Any) -> bool:
    """Returns whether a message's first argument is 0 or false, as a button sends when it is released. A text isn't."""
    return isinstance(first, (bool, int, float)) and not first


def _may(inlet: Inlet, sender: str) -> bool:
    allowed = {str(ip_address(one)) for one in inlet.senders} if inlet.senders else HERE
    return sender in allowed
