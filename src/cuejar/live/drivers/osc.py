"""The avatar, the voice box and the haptics: Open Sound Control over UDP.

A packet may get lost, so nothing is taken as done before the gear said so: a change is sent again until its echo comes, and
once a second the gear is asked whether it is still there and whether anything changed that was not heard.
"""

from __future__ import annotations

import asyncio
import contextlib
import time
from collections.abc import AsyncIterator, Callable, Mapping
from typing import Any
from urllib.parse import urlsplit

from pythonosc.osc_bundle import OscBundle
from pythonosc.osc_bundle import ParseError as BundleError
from pythonosc.osc_message import OscMessage, ParseError
from pythonosc.osc_message_builder import OscMessageBuilder

from cuejar.core import happenings as h
from cuejar.core.happenings import PropertyValue
from cuejar.core.orders import Strike
from cuejar.core.rig import Found
from cuejar.live.drivers.base import AwayError, Catalogue, GearRefused, PropertyPath, Report
from cuejar.live.watch import background

CLIENT = "cue-jar"
HELLO_S, AWAY_S = 0.5, 2.5
ECHO_S, SENDINGS = 0.08, 6


def host_and_port(address: str, scheme: str, port: int) -> tuple[str, int]:
    """Raises AwayError: the address cannot be read."""
    try:
        parts = urlsplit(address if "//" in address else f"{scheme}://{address}")
        if not parts.hostname or parts.scheme != scheme:
            raise ValueError
        return parts.hostname, parts.port or port
    except ValueError:
        raise AwayError(f"“{address}” is no address; write it as {scheme}://127.0.0.1:{port}") from None


class UdpPort(asyncio.DatagramProtocol):
    """A connected UDP socket: what arrives goes to ``heard``; ``refused`` is set once nobody listens there."""

    def __init__(self) -> None:
        self.transport: asyncio.DatagramTransport | None = None
        self.refused = False
        self.heard: Any = lambda data: None

    def connection_made(self, transport: Any) -> None:
        self.transport = transport

    def datagram_received(self, data: bytes, addr: Any) -> None:
        self.heard(data)

    def error_received(self, exc: Exception) -> None:
        self.refused = True

    def send(self, data: bytes) -> None:
        if self.transport is not None and not self.transport.is_closing():
            self.transport.sendto(data)

    def close(self) -> None:
        if self.transport is not None:
            self.transport.close()


async def udp(host: str, port: int) -> UdpPort:
    """Raises AwayError: the host is not known."""
    try:
        _, made = await asyncio.get_running_loop().create_datagram_endpoint(UdpPort, remote_addr=(host, port))
    except OSError as error:
        raise AwayError(f"{host} cannot be reached ({error.strerror or error})") from error
    return made


class OscDriver:
    """One piece of gear that tells its properties over OSC."""

    fade_step_s = 1 / 30

    def __init__(self, kind: str, address: str) -> None:
        self.kind, self.address = kind, address
        self._port: UdpPort | None = None
        self._serial, self.boot = 0, ""
        self._names: dict[str, tuple[str, ...]] = {}
        self._found: dict[PropertyPath, Found] = {}
        self._whole = asyncio.Event()
        self._echoes: dict[PropertyPath, asyncio.Event] = {}
        self._reports: asyncio.Queue[Report | AwayError] = asyncio.Queue()
        self._asking: asyncio.Task[None] | None = None
        self._answered = 0.0
        self.ready = False
        self._odd: Callable[[Any, str], object] = lambda message, why: None
        self.actual: dict[PropertyPath, PropertyValue] = {}

    def log_to(self, odd: Callable[[Any, str], object]) -> None:
        self._odd = odd

    async def connect(self) -> Catalogue:
        host, port = host_and_port(self.address, "osc", 8710)
        self._port = await udp(host, port)
        self._port.heard = self._received
        for _ in range(10):
            self._send("hello", CLIENT, 0)
            with contextlib.suppress(TimeoutError):
                async with asyncio.timeout(HELLO_S / 2):
                    await self._whole.wait()
                break
            if self._port.refused:
                break
        if not self._whole.is_set():
            await self.close()
            raise AwayError(f"nothing answers at {host}:{port}")
        self.ready = True
        self._asking = background(f"{self.kind} hello", self._ask_again(), self._fell)
        return self._catalogue()

    def _catalogue(self) -> Catalogue:
        things = h.Catalogue(self.kind, names=dict(self._names))
        return Catalogue(things, dict(self._found), self.boot)

    def _fell(self, problem: str) -> None:
        self._reports.put_nowait(AwayError(f"something went wrong here: {problem}"))

    async def _ask_again(self) -> None:
        while True:
            await asyncio.sleep(HELLO_S)
            if time.monotonic() - self._answered > AWAY_S:
                self._reports.put_nowait(AwayError("it does not answer any more"))
                return
            self._send("hello", CLIENT, self._serial)

    def _send(self, what: str, *values: Any) -> None:
        message = OscMessageBuilder(address=f"/{self.kind}/{what}")
        for value in values:
            message.add_arg(value)
        if self._port is not None:
            self._port.send(message.build().dgram)

    def _received(self, data: bytes) -> None:
        try:
            whole = list(OscBundle(data)) if OscBundle.dgram_is_bundle(data) else [OscMessage(data)]
            for message in whole:
                _, kind, what = message.address.split("/", 2)
                if kind == self.kind:
                    self._heard(what, list(message.params))
        except (ParseError, BundleError, IndexError, TypeError, ValueError, RecursionError, OverflowError) as error:
            self._odd(repr(data[:300]), f"{type(error).__name__}: {error}")

    def _heard(self, what: str, params: list[Any]) -> None:
        self._answered = time.monotonic()
        if what == "here":
            boot, serial = str(params[0]), int(params[1])
            if self.ready and boot != self.boot:
                self._reports.put_nowait(AwayError("it began anew"))
            self.boot = boot
            if serial == self._serial:
                self._whole.set()
        elif what == "has":
            self._names[str(params[0])] = tuple(str(name) for name in params[1:])
        elif what == "all":
            self._serial = int(params[0])
            self._whole.set()
        else:
            path, found = self._read(what, params)
            self._take(path, found)

    def _read(self, what: str, params: list[Any]) -> tuple[PropertyPath, Found]:
        path = f"{self.kind}/{what}"
        if what == "expression":
            path = f"{path}/{params[0]}"
            params = ["on" if value is True else "off" if value is False else value for value in params[1:]]
        value, by, changes, hand, hand_changes = params
        who = "us" if by == CLIENT else "start" if by == "start" else "hand"
        return path, Found(_rounded(value), who, changes, _rounded(hand), hand_changes)  # type: ignore[arg-type]

    def _take(self, path: PropertyPath, found: Found) -> None:
        before = self._found.get(path)
        if before is not None and found.changes < before.changes:
            return
        self._found[path] = found
        self.actual[path] = found.value
        if (event := self._echoes.get(path)) is not None:
            event.set()
        if self.ready and before is not None and found.hand_changes > before.hand_changes:
            self._reports.put_nowait(h.Hand(path, found.hand, (self.boot, found.hand_changes)))

    async def reports(self) -> AsyncIterator[Report]:
        while True:
            report = await self._reports.get()
            if isinstance(report, AwayError):
                raise report
            yield report

    async def show(self, wanted: Mapping[PropertyPath, PropertyValue]) -> Mapping[PropertyPath, PropertyValue | None]:
        shown = await asyncio.gather(*(self._show(path, value) for path, value in wanted.items()))
        return dict(zip(wanted, shown, strict=True))

    async def _show(self, path: PropertyPath, value: PropertyValue) -> PropertyValue | None:
        """Sends a value until its echo is heard. None: no echo came, or the gear has no such thing."""
        if path not in self._found:
            return None
        key = path.removeprefix(f"{self.kind}/")
        what, _, name = key.partition("/")
        echo = self._echoes[path] = asyncio.Event()
        for _ in range(SENDINGS):
            if name:
                self._send(what, name, value == "on")
            else:
                self._send(what, float(value) if isinstance(self.actual[path], float) else value)  # type: ignore[arg-type]
            with contextlib.suppress(TimeoutError):
                async with asyncio.timeout(ECHO_S):
                    await echo.wait()
                break
        self._echoes.pop(path, None)
        return self.actual[path] if echo.is_set() else None

    async def strike(self, strike: Strike, strike_id: str) -> None:
        raise GearRefused("there is nothing to strike")

    async def picture(self) -> bytes | None:
        return None

    async def close(self) -> None:
        self.ready = False
        if self._asking is not None:
            self._asking.cancel()
            self._asking = None
        if self._port is not None:
            self._port.close()
            self._port = None


def _rounded(value: Any) -> Any:
    """OSC floats have 32 bits: what was sent as 0.35 comes back as 0.349999994."""
    return round(value, 5) if isinstance(value, float) else value
