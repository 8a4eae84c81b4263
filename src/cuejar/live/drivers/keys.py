"""Keys: taps over JSON-RPC 2.0 on a WebSocket, on this machine's own keyboard, or on that of a paired computer.

Every tap has an id. Gear that remembers ids does a repeated one only once, and repeats its answer; so a tap whose
answer was lost is simply sent again. This machine's own keyboard can't remember: there a tap is sent at most once.

Nobody can read the state of what a latch toggles in another program. So the last state of every latch is saved
(`live.latches`), and it is tapped only when that differs from what is wanted.
"""

from __future__ import annotations

import asyncio
from collections.abc import AsyncIterator, Callable, Mapping
from typing import TYPE_CHECKING, Annotated, Any, Protocol, TypeVar

from pydantic import Field

from cuejar.core.facts.gate import Key
from cuejar.core.facts.happenings import PropertyValue
from cuejar.core.facts.orders import Strike
from cuejar.core.facts.paths import Family, read_path, within
from cuejar.core.measures.keys import canonical, parts, unknown
from cuejar.live.drivers.base import AwayError, GearRefused, Greeting, PropertyPath, Report, Unanswered
from cuejar.live.drivers.keyboard import OwnKeyboard
from cuejar.live.drivers.rpc import Rpc
from cuejar.live.drivers.said import Said, Unreadable, Version, read
from cuejar.live.latches import DOUBT, NO_MEMORY, Latches

if TYPE_CHECKING:
    from cuejar.live.hands import Hands, HandsLine

OWN_KEYBOARD, HANDS = "keyboard:", "hands:"
VERSION = 1
"""The version of the wire, as both sides say it in `hello`."""
NO_IDS = (
    "It doesn’t remember requests. A tap without an answer isn’t sent again; you are asked about its latch instead."
)
LOOKED_AHEAD = 8
"""How many unconfirmed taps the gear is asked about, for each latch."""


class Tapper(Protocol):
    """Something that can press keys. ``memory`` names its memory of ids; empty if it has none."""

    memory: str

    async def open(self) -> None:
        """Connects. Raises AwayError."""

    async def tap(self, codes: list[str], tap_id: str) -> None:
        """Presses the keys together and releases them. Raises AwayError, Unanswered or GearRefused."""

    async def known(self, tap_ids: list[str]) -> set[str]:
        """Returns which of these taps were done. Raises AwayError."""

    async def gone(self) -> None:
        """Waits until it is lost, then raises AwayError."""

    async def close(self) -> None: ...


class KeysDriver:
    """Keys through a tapper."""

    def __init__(self, tapper: Tapper, latches: Latches) -> None:
        self._tapper, self._latches = tapper, latches
        self.actual: dict[PropertyPath, PropertyValue] = _Actual(latches)

    def log_to(self, odd: Callable[[Any, str], object], unknown: Callable[[str], object]) -> None:
        if isinstance(self._tapper, AskedTapper):
            self._tapper.odd = odd
        if isinstance(self._tapper, WireTapper):
            self._tapper.rpc.odd, self._tapper.rpc.unknown = odd, unknown

    async def connect(self) -> Greeting:
        """Connects, and finds out which unconfirmed taps were done."""
        await self._tapper.open()
        for path, latch in list(self._latches.rows.items()):
            if self._tapper.memory and (not latch.asked or latch.asked == self._tapper.memory):
                await self._catch_up(path)
            elif latch.asked and latch.value != DOUBT:
                latch.value, latch.asked = DOUBT, ""
                await self._latches.keep(path)
        return Greeting(lacks=() if self._tapper.memory else (NO_IDS,))

    async def _catch_up(self, path: PropertyPath) -> None:
        latch = self._latches.of(path)
        if latch.value == DOUBT:
            return
        ids = [self._latches.tap_id(path, latch.taps + n) for n in range(1, LOOKED_AHEAD + 1)]
        known = await self._tapper.known(ids)
        before = (latch.taps, latch.asked)
        latch.asked = ""
        for tap_id in ids:
            if tap_id in known:
                latch.turned()
        if before != (latch.taps, latch.asked):
            await self._latches.keep(path)

    async def show(self, wanted: Mapping[PropertyPath, PropertyValue]) -> Mapping[PropertyPath, PropertyValue | None]:
        shown: dict[PropertyPath, PropertyValue | None] = {}
        for path, value in wanted.items():
            if path in self.actual and self.actual[path] != value:
                try:
                    await self._turn(path)
                except GearRefused:
                    shown[path] = None
                    continue
            shown[path] = value
        return shown

    async def _turn(self, path: PropertyPath) -> None:
        """Taps a latch once. Raises AwayError or GearRefused."""
        latch = self._latches.of(path)
        latch.asked = self._tapper.memory or NO_MEMORY
        await self._latches.keep(path)
        try:
            await self._tap(read_path(path).steps[0], self._latches.tap_id(path, latch.taps + 1))
        except Unanswered:
            if not self._tapper.memory:
                latch.value, latch.asked = DOUBT, ""
                await self._latches.keep(path)
            raise
        except (AwayError, GearRefused):
            latch.asked = ""
            await self._latches.keep(path)
            raise
        latch.turned()
        await self._latches.keep(path)

    async def _tap(self, combo: str, tap_id: str) -> None:
        combo = canonical(combo)
        wrong = unknown(combo)
        if wrong or not parts(combo):
            raise GearRefused(f"“{', '.join(wrong) or combo}” isn’t a key")
        await self._tapper.tap(parts(combo), tap_id)

    def memory(self) -> str:
        return self._tapper.memory

    async def strike(self, strike: Strike, strike_id: str) -> None:
        await self._tap(str(strike.value), strike_id)

    def doubt(self) -> str:
        combos = [read_path(path).steps[0] for path in self._latches.in_doubt()]
        return f"{', '.join(combos)} may be on; press once if so." if combos else ""

    async def correct(self, path: PropertyPath, value: str, press: bool = False) -> None:
        """Takes a person's word on what a latch shows. ``press``: after one more tap. Raises AwayError or GearRefused."""
        latch = self._latches.of(path)
        if press:
            await self._tap(read_path(path).steps[0], self._latches.tap_id(path, latch.taps + 1))
            latch.taps += 1
        latch.value, latch.asked = value, ""
        await self._latches.keep(path)

    async def reports(self) -> AsyncIterator[Report]:
        await self._tapper.gone()
        yield Greeting()

    async def picture(self) -> bytes | None:
        return None

    async def close(self) -> None:
        await self._tapper.close()


class _Actual(dict[PropertyPath, PropertyValue]):
    """What latches show; one that was never tapped is off, and one in doubt has no known value."""

    def __init__(self, latches: Latches) -> None:
        super().__init__()
        self._latches = latches

    def __contains__(self, path: object) -> bool:
        return isinstance(path, str) and path.startswith(within(Family.KEYS)) and self._latches.value(path) != DOUBT

    def __getitem__(self, path: PropertyPath) -> PropertyValue:
        return self._latches.value(path)

    def get(self, path: PropertyPath, default: Any = None) -> Any:
        return self._latches.value(path) if path.startswith(within(Family.KEYS)) else default

    def __iter__(self) -> Any:
        return iter(self._latches.rows)

    def __len__(self) -> int:
        return len(self._latches.rows)

    def items(self) -> Any:
        return [(path, latch.value) for path, latch in self._latches.rows.items()]


class Remembers(Said):
    """The answer to a hello: the name of its memory of taps."""

    version: Version = 1
    memory: Annotated[str, Field(max_length=80)] = ""


class Known(Said):
    """Which of the taps in question it did."""

    known: Annotated[list[Key], Field(max_length=10_000)] = []


T = TypeVar("T", bound=Said)


class AskedTapper:
    """Keys on another side, which is asked by the methods of the wire."""

    def __init__(self) -> None:
        self.memory = ""
        self.odd: Callable[[Any, str], object] = lambda message, why: None
        """Gets an unreadable answer, and why."""

    async def ask(self, method: str, params: dict[str, Any]) -> Any:
        """Raises AwayError, Unanswered or GearRefused."""
        raise NotImplementedError

    async def greet(self) -> None:
        try:
            answer = await self.ask("hello", {"name": "cue-jar", "version": VERSION})
            self.memory = self._read(Remembers, answer).memory
        except GearRefused:
            self.memory = ""  # It speaks an older wire, and has no memory.

    async def tap(self, codes: list[str], tap_id: str) -> None:
        await self.ask("tap", {"keys": codes, "id": tap_id} if self.memory else {"keys": codes})

    async def known(self, tap_ids: list[str]) -> set[str]:
        try:
            answer = await self.ask("known", {"ids": tap_ids})
        except GearRefused as error:
            raise AwayError(f"it doesn’t report its taps: {error}") from error
        return set(self._read(Known, answer).known)

    def _read(self, model: type[T], answer: Any) -> T:
        """Raises AwayError: it cannot be read."""
        try:
            return read(model, answer)
        except Unreadable as error:
            self.odd(error.message, str(error))
            raise AwayError(f"its answer can’t be read: {error}") from error


class WireTapper(AskedTapper):
    """Keys behind a WebSocket."""

    def __init__(self, address: str) -> None:
        super().__init__()
        self.address = address
        self._over: asyncio.Future[None] | None = None
        self.rpc = Rpc(lambda method, params: None, self._lost)

    def _lost(self, why: AwayError) -> None:
        if self._over is not None and not self._over.done():
            self._over.set_exception(why)

    async def open(self) -> None:
        self._over = asyncio.get_running_loop().create_future()
        await self.rpc.open(self.address)
        await self.greet()

    async def ask(self, method: str, params: dict[str, Any]) -> Any:
        return await self.rpc.ask(method, params)

    async def gone(self) -> None:
        assert self._over is not None
        await asyncio.shield(self._over)

    async def close(self) -> None:
        await self.rpc.close()
        if self._over is not None and self._over.done() and not self._over.cancelled():
            self._over.exception()


class HandsTapper(AskedTapper):
    """Keys of the paired computer, which connects by itself."""

    def __init__(self, hands: Hands) -> None:
        super().__init__()
        self._hands = hands
        self._line: HandsLine | None = None

    async def open(self) -> None:
        self._line = self._hands.line()
        await self.greet()

    async def ask(self, method: str, params: dict[str, Any]) -> Any:
        assert self._line is not None
        return await self._line.ask(method, params)

    async def gone(self) -> None:
        assert self._line is not None
        await self._line.ended.wait()
        raise AwayError("the other computer is disconnected")

    async def close(self) -> None:
        self._line = None


def tapper(address: str, hands: Hands) -> Tapper:
    """Returns the tapper of an address: ``keyboard:`` is this machine's own, ``hands:`` the paired computer's, anything
    else a WebSocket.
    """
    if address.startswith(HANDS):
        return HandsTapper(hands)
    return OwnKeyboard() if address.startswith(OWN_KEYBOARD) else WireTapper(address)
