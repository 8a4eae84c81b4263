"""The rules of the wire of avatar, voice box and haptics."""

from __future__ import annotations

import asyncio
from typing import Any

from pythonosc.osc_bundle import OscBundle
from pythonosc.osc_bundle import ParseError as BundleError
from pythonosc.osc_message import OscMessage, ParseError
from pythonosc.osc_message_builder import OscMessageBuilder

from cuejar.core.facts.happenings import Touch
from cuejar.live.drivers.base import AwayError
from cuejar.live.drivers.haptics import read_outline, read_pad
from cuejar.live.drivers.osc import VERSION, All, Has, Here, Told, UdpPort, host_and_port, udp
from cuejar.live.drivers.said import Said, Unreadable, read
from cuejar.wires.trial import Broken, NotTried, Trial, expect

NAME, AGAIN, ANSWER_S, QUIET_S = "cuejar-wire", 4, 0.5, 0.2
NUMBERS = ("pitch", "mix", "strength")
Message = tuple[str, list[Any]]


class Panel:
    """One trial of gear of a kind."""

    def __init__(self, kind: str, address: str) -> None:
        self.kind, self.address = kind, address
        self.port: UdpPort | None = None
        self.heard: asyncio.Queue[list[Message]] = asyncio.Queue()
        self.boot, self.serial = "", 0
        self.names: dict[str, list[str]] = {}
        self.pads: list[Touch] = []
        self.shows: dict[str, Told] = {}
        self.first: dict[str, Told] = {}

    async def open(self) -> None:
        """Raises Broken."""
        try:
            self.port = await udp(*host_and_port(self.address, "osc", 8710))
        except AwayError as error:
            raise Broken(str(error)) from error
        self.port.heard = self._received

    def _received(self, data: bytes) -> None:
        try:
            whole = list(OscBundle(data)) if OscBundle.dgram_is_bundle(data) else [OscMessage(data)]
            messages = [(one.address, list(one.params)) for one in whole]
        except (ParseError, BundleError, IndexError, ValueError, AttributeError):
            messages = [("not an OSC packet", [data[:100].hex()])]
        self.heard.put_nowait(messages)

    def send(self, what: str, *values: Any) -> None:
        message = OscMessageBuilder(address=f"/{self.kind}/{what}")
        for value in values:
            message.add_arg(value)
        assert self.port is not None
        self.port.send(message.build().dgram)

    def _read(self, model: type[Said], values: list[Any], message: Message) -> Any:
        try:
            return read(model, dict(zip(model.model_fields, values, strict=False)))
        except Unreadable as error:
            raise Broken(str(error), list(message)) from error

    def _take(self, message: Message) -> str:
        """Takes one message. Returns its subject."""
        address, values = message
        expect(address.startswith(f"/{self.kind}/"), "its address is of another kind", list(message))
        what = address.removeprefix(f"/{self.kind}/")
        if what == "here":
            here = self._read(Here, values, message)
            self.boot, self.serial = here.boot, here.serial
        elif what == "has":
            has = self._read(Has, [values[0] if values else None, values[1:]], message)
            self.names[has.what] = has.names
        elif what in ("pad", "outline") and self.kind == "haptics":
            try:
                if what == "pad":
                    self.pads.append(read_pad(values))
                else:
                    read_outline(values)
            except Unreadable as error:
                raise Broken(str(error), list(message)) from error
        elif what == "all":
            self.serial = self._read(All, values, message).serial
        else:
            name = ""
            if what == "expression":
                name = f"/{values[0]}" if values else ""
                values = ["on" if value is True else "off" if value is False else value for value in values[1:]]
            self.shows[what + name] = self._read(Told, values, message)
            what += name
        return what

    async def _until(self, *wanted: str, seconds: float = ANSWER_S) -> list[str]:
        """Takes messages until one of these comes. Raises Broken: it doesn't come in time."""
        seen: list[str] = []
        try:
            async with asyncio.timeout(seconds):
                while True:
                    seen += [self._take(message) for message in await self.heard.get()]
                    if any(one in seen for one in wanted):
                        return seen
        except TimeoutError as error:
            raise Broken(f"no /{self.kind}/{wanted[0]} came within {seconds:g} s") from error

    async def _asked(self, what: str, *values: Any, wanted: str = "") -> list[str]:
        """Sends it until the answer comes, as packets may get lost. Earlier messages are taken first."""
        await asyncio.sleep(QUIET_S / 10)
        while not self.heard.empty():
            for message in self.heard.get_nowait():
                self._take(message)
        for left in reversed(range(AGAIN)):
            self.send(what, *values)
            try:
                return await self._until(wanted or what)
            except Broken:
                if not left:
                    raise
        return []

    async def answers(self) -> None:
        await self.open()
        await self._asked("hello", NAME, 0, VERSION, wanted="here")
        expect(bool(self.boot), "its boot is empty")

    async def tells_everything(self) -> None:
        seen = await self._asked("hello", NAME, self.serial + 1_000, VERSION, wanted="all")
        expect(bool(self.shows), "it tells of no property", seen)
        self.first = dict(self.shows)

    async def tells_its_pads(self) -> None:
        self.pads = []
        await self._asked("hello", NAME, self.serial + 1_000, VERSION, wanted="all")
        expect(bool(self.pads), "it tells of no pad")
        ids = [pad.id for pad in self.pads]
        twice = next((pad for pad in ids if ids.count(pad) > 1), "")
        expect(not twice, f"two of its pads are “{twice}”", ids)

    async def passes_over_odd_frames(self) -> None:
        for levels in (bytes(len(self.pads) + 1), bytes(len(self.pads))):
            self.send("frame", levels)
        self.send("frame", "x")
        await self._asked("hello", NAME, self.serial, VERSION, wanted="here")

    async def says_here_alone(self) -> None:
        await asyncio.sleep(QUIET_S)
        while not self.heard.empty():
            self.heard.get_nowait()
        await self._asked("hello", NAME, self.serial, VERSION, wanted="here")
        await asyncio.sleep(QUIET_S)
        while not self.heard.empty():
            seen = [self._take(message) for message in self.heard.get_nowait()]
            expect("all" not in seen, "everything was told again", seen)

    def _one(self) -> tuple[str, list[Any], list[Any], Any]:
        """Returns a property with another possible value: its name, how to set it so and back, and the value."""
        for what, told in self.first.items():
            first, _, name = what.partition("/")
            if name:
                on = told.value != "on"
                return what, [name, on], [name, not on], "on" if on else "off"
            if first in NUMBERS and isinstance(told.value, (int, float)):
                other = 0.25 if abs(told.value - 0.25) > 0.1 else 0.75
                return what, [other], [float(told.value)], other
            other_name = next((one for one in self.names.get(first, []) if one != told.value), None)
            if other_name is not None:
                return what, [other_name], [told.value], other_name
        raise NotTried("it has no property with another value")

    async def sets_and_echoes(self) -> None:
        what, there, back, value = self._one()
        before = self.shows[what].changes
        await self._asked(what.partition("/")[0], *there, wanted=what)
        shown = self.shows[what]
        right = shown.value == value if isinstance(value, str) else abs(float(shown.value) - value) < 1e-4
        expect(right, f"{what} shows something else", shown.model_dump())
        expect(shown.by == NAME and shown.changes > before, "it does not say that it was us", shown.model_dump())
        changes = shown.changes
        await self._asked(what.partition("/")[0], *there, wanted=what)
        expect(self.shows[what].changes == changes, "the same value again counted", self.shows[what].model_dump())
        await self._asked(what.partition("/")[0], *back, wanted=what)

    async def tells_who_said_hello(self) -> None:
        """Checks that another program that said hello gets this one's changes."""
        what, there, back, _ = self._one()
        other = Panel(self.kind, self.address)
        await other.open()
        try:
            await other._asked("hello", f"{NAME}-2", self.serial, VERSION, wanted="here")
            before = self.shows[what].changes
            for values in (there, back):
                await self._asked(what.partition("/")[0], *values, wanted=what)
                await other._until(what)
            expect(other.shows[what].changes > before, "it tells of an older change", other.shows[what].model_dump())
        finally:
            other.close()

    async def echoes_what_it_cannot(self) -> None:
        what = next((what for what in self.names if what in self.first), None)
        if what is None:
            raise NotTried("it has nothing that is chosen by name")
        await self._asked(what, "no such name", wanted=what)
        expect(self.shows[what].value == self.first[what].value, "it shows it", self.shows[what].model_dump())

    async def passes_over_odd_packets(self) -> None:
        assert self.port is not None
        for odd in (b"", b"\x00\x01\x02", b"/" + b"x" * 600, b"#bundle\x00" + b"\xff" * 16):
            self.port.send(odd)
        self.send("no_such_property", "x")
        self.send("hello")
        await self._asked("hello", NAME, self.serial, VERSION, wanted="here")

    async def is_as_it_was(self) -> None:
        await self._asked("hello", NAME, self.serial + 1_000, VERSION, wanted="all")
        left = [what for what, told in self.first.items() if self.shows[what].value != told.value]
        expect(not left, f"{', '.join(left)} did not go back")

    def close(self) -> None:
        if self.port is not None:
            self.port.close()


async def _try(kind: str, trial: Trial, address: str) -> None:
    it = Panel(kind, address)
    rule = trial.rule
    try:
        if not await rule("the answer to every hello", it.answers):
            return
        if await rule("and then with one bundle of everything", it.tells_everything):
            await rule("A hello with another serial than the gear's last change", it.says_here_alone)
            await rule("after every change, and after every set", it.sets_and_echoes)
            await rule("is told of every change for 5 s from then on", it.tells_who_said_hello)
            await rule("A value that it cannot show is answered with what it shows", it.echoes_what_it_cannot)
            if kind == "haptics":
                await rule("the pads of a wearable, in that bundle", it.tells_its_pads)
                await rule("a frame of another length is ignored", it.passes_over_odd_frames)
        await rule(
            "Packets that aren't OSC, addresses of another kind, and arguments that don't fit are ignored.",
            it.passes_over_odd_packets,
        )
        if it.first:
            await rule("leave everything as it was", it.is_as_it_was)
    finally:
        it.close()


async def try_avatar(trial: Trial, address: str, token: str) -> None:
    """Tries all rules. Stops without an answer."""
    await _try("avatar", trial, address)


async def try_voice(trial: Trial, address: str, token: str) -> None:
    """As `try_avatar`."""
    await _try("voice", trial, address)


async def try_haptics(trial: Trial, address: str, token: str) -> None:
    """As `try_avatar`."""
    await _try("haptics", trial, address)
