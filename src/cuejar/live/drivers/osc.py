"""The avatar, the voice box and the haptics: Open Sound Control over UDP.

Packets may get lost, so nothing counts as done before the gear says so: a change is repeated until its echo comes, and
once a second the gear is asked whether it is still there and whether a change was missed.
"""

from __future__ import annotations

import asyncio
import contextlib
import socket
import time
from collections.abc import AsyncIterator, Callable, Mapping
from typing import Annotated, Any, Literal
from urllib.parse import urlsplit

from pydantic import Field
from pythonosc.osc_bundle import OscBundle
from pythonosc.osc_bundle import ParseError as BundleError
from pythonosc.osc_message import OscMessage, ParseError
from pythonosc.osc_message_builder import OscMessageBuilder

from cuejar.core.facts import happenings as h
from cuejar.core.facts.gate import MOST_NAME, Count, ShortText, Value
from cuejar.core.facts.happenings import PropertyValue
from cuejar.core.facts.orders import Strike
from cuejar.core.facts.paths import Path, read_path
from cuejar.core.kinds.gear import GearKind
from cuejar.core.measures.catalogue import shows
from cuejar.core.rules.rig import Found
from cuejar.live.drivers.base import AwayError, GearRefused, Greeting, PropertyPath, Report
from cuejar.live.drivers.said import Said, Unreadable, Version, read
from cuejar.live.watch import background

CLIENT = "cue-jar"
VERSION = 1
"""The version of the wire, as both sides say it in their hellos."""
HELLO_S, AWAY_S = 0.5, 2.5
ECHO_S, SENDINGS = 0.08, 6

MOST_LISTS, MOST_PROPERTIES = 20, 1_000


class Here(Said):
    """The answer to a hello: its start, the number of its last change, and its version of the wire."""

    boot: ShortText
    serial: Count
    version: Version = 1


class Has(Said):
    """The options of a property."""

    what: ShortText
    names: Annotated[list[ShortText], Field(max_length=1_000)]


class All(Said):
    serial: Count


class Told(Said):
    """What a property shows, who changed it, with which change; and the last value set by hand."""

    value: Value
    by: ShortText
    changes: Count
    hand: Value
    hand_changes: Count


def _named(model: type[Said], params: list[Any]) -> dict[str, Any]:
    """Returns a message's arguments by the names of a model's fields; further ones are ignored."""
    return dict(zip(model.model_fields, params, strict=False))


def host_and_port(address: str, scheme: str, port: int) -> tuple[str, int]:
    """Raises AwayError: the address cannot be read."""
    try:
        parts = urlsplit(address if "//" in address else f"{scheme}://{address}")
        if not parts.hostname or parts.scheme != scheme:
            raise ValueError
        return parts.hostname, parts.port or port
    except ValueError:
        raise AwayError(f"“{address}” isn’t an address; write it as {scheme}://127.0.0.1:{port}") from None


class UdpPort(asyncio.DatagramProtocol):
    """A UDP socket: received packets go to ``heard``; ``refused`` is set once the network reports that nobody listens
    there.
    """

    def __init__(self) -> None:
        self.transport: asyncio.DatagramTransport | None = None
        self.refused = False
        self.on_refused: Callable[[], None] = lambda: None
        self.heard: Any = lambda data: None

    def connection_made(self, transport: Any) -> None:
        self.transport = transport

    def datagram_received(self, data: bytes, addr: Any) -> None:
        self.heard(data)

    def error_received(self, exc: Exception) -> None:
        self.refused = True
        self.on_refused()

    def send(self, data: bytes, to: tuple[str, int] | None = None) -> None:
        """``to``: where it goes, for a socket that isn't connected."""
        if self.transport is not None and not self.transport.is_closing():
            self.transport.sendto(data, to)

    def close(self) -> None:
        if self.transport is not None:
            self.transport.close()


async def udp(host: str, port: int) -> UdpPort:
    """Opens a UDP socket. Raises AwayError: the host is unknown."""
    try:
        _, made = await asyncio.get_running_loop().create_datagram_endpoint(UdpPort, remote_addr=(host, port))
    except OSError as error:
        raise AwayError(f"{host} can’t be reached ({error.strerror or error})") from error
    return made


async def udp_to_groups(card: str) -> UdpPort:
    """Opens a socket that sends to multicast groups.

    Args:
        card: the address of the network card to use; empty: the system's choice.

    Raises:
        AwayError: there is no such card.
    """
    try:
        sender = socket.socket(socket.AF_INET, socket.SOCK_DGRAM)
        sender.setblocking(False)
        if card:
            sender.setsockopt(socket.IPPROTO_IP, socket.IP_MULTICAST_IF, socket.inet_aton(card))
        _, made = await asyncio.get_running_loop().create_datagram_endpoint(UdpPort, sock=sender)
    except OSError as error:
        sender.close()
        raise AwayError(f"no network card here has the address {card} ({error.strerror or error})") from error
    return made


class OscDriver:
    """One piece of gear that reports its properties over OSC."""

    fade_step_s = 1 / 30

    def __init__(self, kind: GearKind, address: str) -> None:
        self.kind, self.address = kind.name, address
        self._kinds = kind.properties
        self._port: UdpPort | None = None
        self._serial, self.boot = 0, ""
        self._names: dict[str, tuple[str, ...]] = {}
        self._told_names: dict[str, tuple[str, ...]] = {}
        self._found: dict[PropertyPath, Found] = {}
        self._whole = asyncio.Event()
        self._echoes: dict[PropertyPath, asyncio.Event] = {}
        self._reports: asyncio.Queue[Report | AwayError] = asyncio.Queue()
        self._asking: asyncio.Task[None] | None = None
        self._answered = 0.0
        self.ready = False
        self._odd: Callable[[Any, str], object] = lambda message, why: None
        self._unknown: Callable[[str], object] = lambda kind: None
        self.actual: dict[PropertyPath, PropertyValue] = {}

    def log_to(self, odd: Callable[[Any, str], object], unknown: Callable[[str], object]) -> None:
        self._odd, self._unknown = odd, unknown

    async def connect(self) -> Greeting:
        host, port = host_and_port(self.address, "osc", 8710)
        self._port = await udp(host, port)
        self._port.heard = self._received
        for _ in range(10):
            self._send("hello", CLIENT, 0, VERSION)
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

    def _catalogue(self) -> Greeting:
        things = h.Catalogue(self.kind, names=dict(self._names))
        return Greeting(things, dict(self._found), self.boot)

    def _fell(self, problem: str) -> None:
        self._reports.put_nowait(AwayError(f"internal error: {problem}"))

    async def _ask_again(self) -> None:
        while True:
            await asyncio.sleep(HELLO_S)
            if time.monotonic() - self._answered > AWAY_S:
                self._reports.put_nowait(AwayError("it does not answer any more"))
                return
            self._send("hello", CLIENT, self._serial, VERSION)

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
                    self._heard_one(what, list(message.params))
        except (ParseError, BundleError, IndexError, TypeError, ValueError, RecursionError, OverflowError):
            self._odd(repr(data[:300]), "it isn’t an OSC packet")

    def _heard_one(self, what: str, params: list[Any]) -> None:
        """Takes one message. An unreadable one is skipped, even within a bundle."""
        try:
            self._heard(what, params)
        except Unreadable as error:
            self._odd(error.message, str(error))

    def _heard(self, what: str, params: list[Any]) -> None:
        self._answered = time.monotonic()
        whole = [what, *params]
        if what == "here":
            here = read(Here, _named(Here, params), whole)
            if self.ready and here.boot != self.boot:
                self._reports.put_nowait(AwayError("it restarted"))
            self.boot = here.boot
            if here.serial == self._serial:
                self._whole.set()
        elif what == "has":
            has = read(Has, {"what": params[0] if params else None, "names": params[1:]}, whole)
            if has.what in self._names or len(self._names) < MOST_LISTS:
                self._names[has.what] = tuple(has.names)
        elif what == "all":
            self._serial = read(All, _named(All, params), whole).serial
            if self.ready and self._names != self._told_names:
                self._reports.put_nowait(self._catalogue())
            self._told_names = dict(self._names)
            self._whole.set()
        elif what in self._kinds:
            self._take(*self._read(what, params))
        else:
            self._unknown(what)

    def _read(self, what: str, params: list[Any]) -> tuple[PropertyPath, Found]:
        """Raises Unreadable."""
        path, values = str(Path(self.kind, (what,))), params
        if what == "expression":
            if not params or not isinstance(params[0], str) or not 0 < len(params[0]) <= MOST_NAME:
                raise Unreadable([what, *params], "it names no expression")
            path = str(Path(self.kind, (what, params[0])))
            values = ["on" if value is True else "off" if value is False else value for value in params[1:]]
        told = read(Told, _named(Told, values), [what, *params])
        kind = self._kinds[what]
        if not (shows(kind, told.value) and shows(kind, told.hand)):
            raise Unreadable([what, *params], f"{path} cannot show that")
        who: Literal["us", "start", "hand"] = "us" if told.by == CLIENT else "start" if told.by == "start" else "hand"
        return path, Found(_rounded(told.value), who, told.changes, _rounded(told.hand), told.hand_changes)

    def _take(self, path: PropertyPath, found: Found) -> None:
        if path not in self._found and len(self._found) >= MOST_PROPERTIES:
            raise Unreadable(path, f"it has more than {MOST_PROPERTIES} properties")
        before = self._found.get(path)
        if before is not None and found.changes < before.changes:
            return
        self._found[path] = found
        self.actual[path] = found.value
        if (event := self._echoes.get(path)) is not None:
            event.set()
        if self.ready and before is not None and found.hand_changes > before.hand_changes:
            self._reports.put_nowait(h.Hand(path, found.hand, (self.boot, found.hand_changes)))

    def unheard(self) -> bool:
        return not self._reports.empty()

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
        """Sends a value until its echo comes. None: no echo came, or the gear has no such thing."""
        if path not in self._found:
            return None
        what, *names = read_path(path).steps
        echo = self._echoes[path] = asyncio.Event()
        for _ in range(SENDINGS):
            if names:
                self._send(what, *names, value == "on")
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
    """Rounds 32-bit floats of OSC: 0.35 comes back as 0.349999994."""
    return round(value, 5) if isinstance(value, float) else value
