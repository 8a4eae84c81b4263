"""Pads on other devices: accepted by a signature, with their requests and messages.

A connection (`PadsLine`) has no rights until it has proved its key; then each request is counted and signed. Anything
else ends it.
"""

from __future__ import annotations

import asyncio
import json
import logging
import secrets
import time
from collections import deque
from collections.abc import Awaitable, Callable, Sequence
from typing import Any

from pydantic import TypeAdapter, ValidationError

from cuejar.core.book.book import Book, Cue
from cuejar.core.engine.night import Timed
from cuejar.core.engine.rows import PadNow
from cuejar.core.facts import happenings as h
from cuejar.core.facts import orders as o
from cuejar.core.rules.door import REASONS
from cuejar.core.rules.pads import endings, opens, padded
from cuejar.core.rules.pairing import Known, Senders, SignedLine, key_of_device
from cuejar.live.devices import Device, Devices, Offer, now_ms
from cuejar.live.hub import Hub, Listener
from cuejar.live.messages import DeviceTold, Message, PadsDesk, Pong
from cuejar.live.padmessages import (
    HouseWish,
    LetGoWish,
    PadsChallenge,
    PadsDo,
    PadsDone,
    PadsHello,
    PadsNow,
    PadsPaired,
    PadsProve,
    PadsRefused,
    PadsSaid,
    PadsTold,
    PadsWelcome,
    PadsWish,
    PadTold,
    PressWish,
    RestWish,
    VolumeWish,
)
from cuejar.live.runner import NotNow, Runner
from cuejar.store.writer import CannotWrite

PAUSE_S = 0.1
UNKNOWN_S = 1.0
"""How long an unknown device waits for its refusal."""
MOST_LINES = 100
RATE, RATE_S = 200, 10.0
"""How many requests a device may make in how long."""
MOST_TOLD = 50
log = logging.getLogger(__name__)
SAID: TypeAdapter[Any] = TypeAdapter(PadsSaid)
WISH: TypeAdapter[Any] = TypeAdapter(PadsWish)
ChangeHouse = Callable[[dict[str, Any]], Awaitable[None]]


def topic(device: str) -> str:
    """Returns the topic of a device's feed."""
    return f"pads/{device}"


class Pads:
    """Sends the state to every device, and carries out their requests."""

    def __init__(self, hub: Hub, runner: Runner, devices: Devices, house: ChangeHouse) -> None:
        self.hub, self.runner, self.devices, self.house = hub, runner, devices, house
        self.lines: set[PadsLine] = set()
        self.known = Known()
        """Addresses from which devices proved themselves."""
        self.senders = Senders()
        self.held: dict[tuple[str, str], str] = {}
        """The runs held by a device's presses, by device and cue."""
        self._stirred = asyncio.Event()

    def start(self) -> None:
        self.runner.watch.keep("pads", self._tell)

    async def stop(self) -> None:
        await self.runner.watch.stop("pads")

    def hear(self, timed: Sequence[Timed]) -> None:
        if timed:
            self._stirred.set()

    def changed(self) -> None:
        self._stirred.set()

    async def _tell(self) -> None:
        while True:
            await self._stirred.wait()
            self._stirred.clear()
            there = [line for line in self.lines if line.device is not None]
            if there:
                rows = self.runner.view.pads()
                for line in there:
                    line.tell(rows)
            await asyncio.sleep(PAUSE_S)

    def told_to_the_desk(self) -> PadsDesk:
        """Returns what the desk's own pads show, and the other devices with pads."""
        count = {
            device: sum(line.device is not None and line.device.id == device for line in self.lines)
            for device in self.devices.all
        }
        rows = [
            DeviceTold(
                id=device.id,
                name=device.name,
                made=device.made,
                seen=device.seen,
                cues=device.cues,
                locked=device.conduct.locked,
                wrong=len(device.conduct.bad),
                connected=count[device.id],
            )
            for device in self.devices.all.values()
        ]
        return PadsDesk(rows=self.runner.view.pads()[: 2 * MOST_TOLD], devices=rows)

    def let_go(self, device: Device) -> None:
        """Ends the connections of a device that was revoked or limited."""
        for line in list(self.lines):
            if line.device is not None and line.device.id == device.id:
                line.listener.put(None)


class PadsLine:
    """One connection. Messages to it go through its listener; it is closed when `hear` returns False."""

    def __init__(self, pads: Pads, sender: str) -> None:
        """Args:
        sender: the address it comes from.
        """
        self._pads, self._sender = pads, sender
        self.listener = Listener("pads")
        self.device: Device | None = None
        self._offer: Offer | None = None
        self._signed: SignedLine | None = None
        self._hello: PadsHello | None = None
        self._lately: deque[float] = deque()
        self._book: Book | None = None
        self._there: set[str] = set()
        self._said_pads = self._said_now = ""

    def _say(self, message: Message) -> None:
        self.listener.put(message.text())

    def _refuse(self, why: Any, wait_ms: int = 0) -> bool:
        self._say(PadsRefused(why=why, wait_ms=wait_ms))
        return False

    async def hear(self, text: str) -> bool:
        """Takes a message from the connection. False: the connection is to be ended."""
        try:
            said = SAID.validate_json(text)
        except ValidationError:
            return self._refuse("wrong")
        if isinstance(said, PadsHello):
            return self._greeted(said) if self._hello is None else self._refuse("wrong")
        if isinstance(said, PadsProve):
            return (
                await self._proved(said) if self._signed is not None and self.device is None else self._refuse("wrong")
            )
        if self.device is None or self._signed is None:
            return self._refuse("wrong")
        if isinstance(said, PadsDo):
            return await self._asked(said)
        self._say(Pong(sent=said.sent))
        return True

    # Authentication

    def _greeted(self, hello: PadsHello) -> bool:
        devices, self._hello = self._pads.devices, hello
        unproved = [line for line in self._pads.lines if line.device is None and line is not self]
        if len(unproved) >= MOST_LINES and self._sender not in self._pads.known:
            return self._refuse("full")
        # The sender of a wrong proof waits; the device it claimed to be doesn't.
        if wait := self._pads.senders.wait_ms(self._sender, now_ms()):
            return self._refuse("slow", wait)
        self._offer = devices.open_offer(hello.device) if hello.pair else None
        known = None if hello.pair else devices.all.get(hello.device)
        if known is not None and known.conduct.locked:
            return self._refuse("locked")
        key = self._offer.key if self._offer is not None else devices.key(hello.device) if known is not None else b""
        # An unknown device gets the challenge too, so that it doesn't learn which ones are known.
        self._signed = SignedLine(key or secrets.token_bytes(32), hello.number, secrets.token_hex(32))
        self._say(PadsChallenge(number=self._signed.ours))
        return True

    async def _proved(self, prove: PadsProve) -> bool:
        assert self._signed is not None and self._hello is not None
        devices, hello = self._pads.devices, self._hello
        right = self._signed.proves(prove.signature, "pair" if hello.pair else "prove")
        if hello.pair:
            return await self._pair(right)
        known = devices.all.get(hello.device)
        if known is None:
            await asyncio.sleep(UNKNOWN_S)
            return self._refuse("unknown")
        if not right:
            log.warning("A wrong proof was sent for the device %s, from %s.", known.name, self._sender)
            return await self._slowed()
        if known.conduct.locked:
            return self._refuse("locked")
        await self._welcome(known)
        return True

    async def _slowed(self) -> bool:
        """Delays the sender of a wrong proof before the next attempt."""
        senders = self._pads.senders
        senders.wrong(self._sender, now_ms())
        await asyncio.sleep(min(UNKNOWN_S, senders.wait_ms(self._sender, now_ms()) / 1000))
        return self._refuse("wrong")

    async def _pair(self, right: bool) -> bool:
        assert self._signed is not None and self._hello is not None
        devices, offer = self._pads.devices, self._pads.devices.open_offer(self._hello.device)
        if offer is None or not right:
            self._pads.senders.wrong(self._sender, now_ms())
            await asyncio.sleep(UNKNOWN_S)
            return self._refuse("expired")
        try:
            device = await devices.paired(offer, self._signed)
        except CannotWrite:
            return self._refuse("slow", 2000)
        key = key_of_device(offer.key, device.id, self._signed.theirs, self._signed.ours)
        self._signed = SignedLine(key, self._signed.theirs, self._signed.ours)
        self._say(PadsPaired(device=device.id))
        await self._welcome(device)
        return True

    async def _welcome(self, device: Device) -> None:
        assert self._signed is not None
        self.device = device
        self._pads.known.add(self._sender)
        self.listener.topic = topic(device.id)
        self._say(PadsWelcome(signature=self._signed.welcome(), name=device.name, limited=device.cues is not None))
        self.tell(self._pads.runner.view.pads())
        self._pads.hub.changed()
        try:
            await self._pads.devices.saw(device)
        except CannotWrite:
            log.info("The time %s was last seen could not be saved.", device.name)

    async def _wrong(self, device: Device) -> bool:
        log.warning("A wrong signature was sent for the device %s.", device.name)
        try:
            await self._pads.devices.wrong(device)
        except CannotWrite:
            log.warning("The lock of %s could not be saved; it holds until Cue Jar ends.", device.name)
        if device.conduct.locked:
            self._pads.let_go(device)
            return self._refuse("locked")
        await asyncio.sleep(device.conduct.wait_ms(now_ms()) / 1000)
        return self._refuse("wrong")

    # Messages

    def tell(self, rows: list[PadNow]) -> None:
        """Sends the pads if they changed; and what isn't idle."""
        if self.device is None:
            return
        view = self._pads.runner.view
        if view.book is not self._book:
            self._book = view.book
            self._tell_pads(padded(view.book, self.device.cues))
        house = view.book.house
        now = PadsNow(
            now=self._pads.runner.clock.now(),
            rows=[row for row in rows if row.cue in self._there],
            open=house.open,
            volume=house.volume,
            on_air=view.on_air,
        )
        told = now.model_dump_json(exclude={"now"})
        if told != self._said_now:
            self._said_now = told
            self._say(now)

    def _tell_pads(self, cues: list[Cue]) -> None:
        self._there = {cue.id for cue in cues}
        pads = [PadTold(cue=cue.id, name=cue.name, tags=list(cue.tags), face=cue.pad, holds=opens(cue)) for cue in cues]
        told = PadsTold(pads=pads).text()
        if told != self._said_pads:
            self._said_pads = told
            self.listener.put(told)

    # Requests

    async def _asked(self, do: PadsDo) -> bool:
        assert self._signed is not None and self.device is not None
        device = self.device
        if device.conduct.locked or device.id not in self._pads.devices.all:
            return self._refuse("locked" if device.conduct.locked else "unknown")
        if not self._signed.takes(do.n, do.body, do.signature):
            return await self._wrong(device)
        if self._too_many():
            self._say(PadsDone(n=do.n, ok=False, what="Too much at once; it was left out."))
            return True
        try:
            wish = WISH.validate_python(json.loads(do.body))
        except (ValueError, ValidationError, RecursionError):
            self._say(PadsDone(n=do.n, ok=False, what="It cannot be understood; load the page again."))
            return True
        try:
            why = await self._do(device, wish, f"pads/{device.id}/{self._signed.ours[:12]}-{do.n}")
        except (NotNow, CannotWrite) as error:
            why = str(error)
        self._say(PadsDone(n=do.n, ok=not why, what=why))
        return True

    def _too_many(self) -> bool:
        now = time.monotonic()
        while self._lately and now - self._lately[0] > RATE_S:
            self._lately.popleft()
        if len(self._lately) >= RATE:
            return True
        self._lately.append(now)
        return False

    async def _do(self, device: Device, wish: Any, call: str) -> str:
        """Carries out a request. Returns why it wasn't done; empty if it was."""
        runner = self._pads.runner
        if isinstance(wish, (PressWish, LetGoWish)):
            there = padded(runner.view.book, device.cues)
            if not any(cue.id == wish.cue for cue in there):
                return "This pad no longer exists."
            return await (
                self._press(device, wish.cue, call) if isinstance(wish, PressWish) else self._let(device, wish.cue)
            )
        if device.cues is not None:
            return "This device can only press its own pads."
        if isinstance(wish, RestWish):
            await runner.post(h.AllToRest())
        elif isinstance(wish, VolumeWish):
            await self._pads.house({"volume": round(wish.value)})
        elif isinstance(wish, HouseWish):
            await self._pads.house({"open": wish.open})
        return ""

    async def _press(self, device: Device, cue: str, call: str) -> str:
        timed = await self._pads.runner.post(h.Pad(cue, "", call))
        verdict = next((v for _, v in timed if isinstance(v, o.Verdict) and v.cue == cue), None)
        if verdict is None:
            return "This pad no longer exists."
        if verdict.run is not None:
            self._pads.held[device.id, cue] = verdict.run
        if verdict.verdict == "turned_away":
            return REASONS.get(verdict.reason or "", verdict.reason or "It was refused.")
        return ""

    async def _let(self, device: Device, cue: str) -> str:
        """Ends what is open of the run that this device began, otherwise of the latest of the cue; a waiting run is
        dropped.
        """
        runner = self._pads.runner
        own = runner.view.run(self._pads.held.pop((device.id, cue), ""))
        run = own if own is not None else runner.view.pressed(cue)
        if run is not None:
            for happening in endings(run):
                await runner.post(happening)
        return ""
