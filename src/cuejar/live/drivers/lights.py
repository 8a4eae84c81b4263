"""The lights: streaming ACN (ANSI E1.31) over UDP, to one address or to each universe's group.

Forty frames a second while something moves, otherwise a little more than one, so that lamps that lost a packet or
restarted are right again within a second. The wire is one-way: lamps are assumed to show what they were told, and
changes by hand are made on the Rig page. All lamps go through one flash guard. At a single address possibly nobody
listens: that is checked first, with a packet that changes no lamp.
"""

from __future__ import annotations

import asyncio
import re
import time
import uuid
from collections.abc import AsyncIterator, Callable, Mapping
from urllib.parse import urlsplit

from cuejar.core.facts.happenings import PropertyValue
from cuejar.core.facts.orders import Strike
from cuejar.core.facts.paths import lamp_path, read_path
from cuejar.core.measures.flash import Guard
from cuejar.core.measures.lampbank import LampBank
from cuejar.core.measures.lamps import Board, motion_from, patched
from cuejar.core.parts.gear import Fixture
from cuejar.core.rules.rig import Found
from cuejar.live.drivers import e131
from cuejar.live.drivers.base import AwayError, GearRefused, Greeting, PropertyPath, Report
from cuejar.live.drivers.osc import UdpPort, host_and_port, udp, udp_to_groups
from cuejar.live.watch import background

SOURCE = "Cue Jar"
FRAME_S, KEEP_ALIVE_S, SETTLE_FRAMES = 1 / 40, 0.85, 3
"""Unchanged values are sent again within 0.8 to 1.0 s (E1.31, 6.6.2)."""
FIRST_FRAMES = 22
"""Sent in a row at first: lamps ignore up to 20 packets with lower numbers than the previous ones (E1.31, 6.7.2)."""
PROBES, MORE_PROBES, PROBE_S = 2, 8, 0.15
"""How often to check whether anybody listens, at first and after a failure, and the timeout of each check (s).
Computers report it at most once a second.
"""
GROUPS = "multicast"
"""The host name for each universe's multicast group; followed by the network card to use, if it isn't the first."""
AT_FIRST: dict[str, PropertyValue] = {"colour": "#ffd9a0", "level": 1.0, "look": "steady"}
"""What a lamp shows before the first command."""


class LightsDriver:
    """Lamps behind one address."""

    def __init__(
        self,
        address: str,
        fixtures: list[Fixture],
        guarded: Callable[[], bool],
        sender: uuid.UUID | None = None,
        priority: int = 100,
    ) -> None:
        """Args:
        guarded: whether the flash guard is on, asked at every frame.
        priority: 0 to 200; lamps follow the sender with the highest.
        sender: our id (the CID); the same after a restart, so that lamps take it for the same stream.
        """
        self.address, self._fixtures, self._guarded, self._priority = address, fixtures, guarded, priority
        self._board = Board(fixtures, patched(fixtures))
        self._port: UdpPort | None = None
        self._to: dict[int, tuple[str, int] | None] = {}
        """Where each universe is sent; None: where the port is connected to."""
        self._cid = (sender or uuid.uuid4()).bytes
        self._sequence: dict[int, int] = {}
        self._packets: dict[tuple[int, bool], bytearray] = {}
        self._bank = LampBank(fixtures, str(AT_FIRST["colour"]), 1.0)
        self._place = {fixture.id: place for place, fixture in enumerate(fixtures)}
        self._guard = Guard(len(fixtures))
        self._frames: asyncio.Task[None] | None = None
        self._stirred = asyncio.Event()
        self._gone: asyncio.Future[None] | None = None
        self._probes = PROBES
        self.sent = 0
        self.late_s: list[float] = []
        self.actual: dict[PropertyPath, PropertyValue] = {
            lamp_path(fixture.id, key): value for fixture in fixtures for key, value in AT_FIRST.items()
        }

    async def connect(self) -> Greeting:
        host, port = host_and_port(self.address, "sacn", e131.PORT)
        if not self._fixtures:
            raise AwayError("no lamps are set up")
        universes = {fixture.universe for fixture in self._fixtures}
        if host == GROUPS:
            self._port = await udp_to_groups(urlsplit(self.address).path.strip("/"))
            self._to = {universe: (e131.group(universe), port) for universe in universes}
        else:
            self._port = await udp(host, port)
            self._to = dict.fromkeys(universes)
            await self._ask_whether_anybody_listens(self._port, sorted(universes))
        self._gone = asyncio.get_running_loop().create_future()
        self._port.on_refused = self._refused
        found = {path: Found(value, "us") for path, value in self.actual.items()}
        self._frames = background("lights", self._run(), self._fell)
        return Greeting(None, found)

    def ask_longer(self) -> None:
        self._probes = MORE_PROBES

    async def _ask_whether_anybody_listens(self, port: UdpPort, universes: list[int]) -> None:
        """Raises AwayError: the network reports that nobody listens."""
        asked = e131.discovery_packet(self._cid, SOURCE, universes)
        for _ in range(self._probes):
            port.send(asked)
            await asyncio.sleep(PROBE_S)
            if port.refused:
                port.close()
                self._port = None
                raise AwayError("nobody listens there")

    def _refused(self) -> None:
        if self._gone is not None and not self._gone.done():
            self._gone.set_exception(AwayError("nobody listens there"))

    def _fell(self, problem: str) -> None:
        if self._gone is not None and not self._gone.done():
            self._gone.set_exception(AwayError(f"internal error: {problem}"))

    async def _run(self) -> None:
        """Sends frames. The first is slightly delayed, so that it includes current holds."""
        await asyncio.sleep(0.05)
        loop = asyncio.get_running_loop()
        before, still, next_at = None, 0, loop.time()
        while True:
            frame = self._frame(time.monotonic())
            still = 0 if frame != before or self._bank.is_moving(time.monotonic()) else still + 1
            before = frame
            for universe, values in frame.items():
                self._send(universe, values)
            self.sent += 1
            if still < SETTLE_FRAMES or self.sent < FIRST_FRAMES:
                next_at = max(next_at + FRAME_S, loop.time())
                await asyncio.sleep(next_at - loop.time())
                self.late_s.append(loop.time() - next_at)
                del self.late_s[:-4000]
                continue
            self._stirred.clear()
            try:
                async with asyncio.timeout(KEEP_ALIVE_S):
                    await self._stirred.wait()
            except TimeoutError:
                still = SETTLE_FRAMES
            next_at = loop.time()

    def _frame(self, now_s: float) -> dict[int, bytes]:
        """Returns the channels of every universe at this moment."""
        lit = self._bank.light(now_s)
        if self._guarded():
            lit = self._guard.passed(lit, now_s)
        return self._board.frame(lit)

    def _send(self, universe: int, values: bytes, over: bool = False) -> None:
        sequence = self._sequence.get(universe, -1) + 1 & 255
        self._sequence[universe] = sequence
        if (universe, over) not in self._packets:
            self._packets[universe, over] = e131.data_packet(
                self._cid, SOURCE, self._priority, universe, sequence, values, over
            )
        packet = self._packets[universe, over]
        packet[e131.SEQUENCE_AT] = sequence
        packet[e131.VALUES_AT :] = values
        if self._port is not None:
            self._port.send(bytes(packet), self._to.get(universe))

    async def show(self, wanted: Mapping[PropertyPath, PropertyValue]) -> Mapping[PropertyPath, PropertyValue | None]:
        return await self.fade(wanted, {})

    async def fade(
        self, wanted: Mapping[PropertyPath, PropertyValue], spans_ms: Mapping[PropertyPath, int]
    ) -> Mapping[PropertyPath, PropertyValue | None]:
        """Fades to these values; a fade in progress counts as shown."""
        shown: dict[PropertyPath, PropertyValue | None] = {}
        now_s = time.monotonic()
        for path, value in wanted.items():
            if path not in self.actual or (read_path(path).steps[-1] == "colour" and not _is_hex(value)):
                shown[path] = None
                continue
            self.actual[path] = shown[path] = value
            self._turn(path, value, now_s, spans_ms.get(path, 0) / 1000)
        self._stirred.set()
        return shown

    def _turn(self, path: PropertyPath, value: PropertyValue, now_s: float, span_s: float) -> None:
        fixture, what = read_path(path).steps
        lamp = self._place[fixture]
        if what == "colour":
            self._bank.colour(lamp, str(value), now_s, span_s)
        elif what == "level":
            self._bank.level(lamp, float(value) if isinstance(value, (int, float)) else 1.0, now_s, span_s)
        else:
            self._bank.motion(lamp, motion_from(str(value)), now_s)

    async def reports(self) -> AsyncIterator[Report]:
        assert self._gone is not None
        await asyncio.shield(self._gone)
        yield Greeting()

    async def strike(self, strike: Strike, strike_id: str) -> None:
        raise GearRefused("lamps have nothing to strike")

    async def picture(self) -> bytes | None:
        return None

    async def close(self) -> None:
        """Tells the lamps that the stream is over; they keep what they show."""
        if self._frames is not None:
            self._frames.cancel()
            self._frames = None
            for universe, values in self._frame(time.monotonic()).items():
                for _ in range(3):
                    self._send(universe, values, over=True)
        if self._port is not None:
            self._port.close()
            self._port = None


def _is_hex(value: PropertyValue) -> bool:
    return isinstance(value, str) and re.fullmatch(r"#[0-9a-fA-F]{6}", value) is not None
