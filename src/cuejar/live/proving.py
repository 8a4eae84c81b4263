"""How another device proves that it is paired: each side sends a nonce, the device signs both (`core.rules.pairing`).

Until then a connection has no rights. A wrong proof delays its sender; a wrong signature on a proved connection counts
against the device.
"""

from __future__ import annotations

import asyncio
import logging
import secrets
from collections.abc import Callable
from typing import Any, ClassVar

from pydantic import BaseModel, TypeAdapter, ValidationError

from cuejar.core.rules.pairing import Known, Senders, SignedLine, key_of_device
from cuejar.live.devices import Device, Devices, Does, Offer, now_ms
from cuejar.live.hub import Listener
from cuejar.live.messages import DeviceTold, Message
from cuejar.live.padmessages import (
    PadsChallenge,
    PadsHello,
    PadsPaired,
    PadsProve,
    PadsRefused,
    PadsWelcome,
)
from cuejar.store.writer import CannotWrite

UNKNOWN_S = 1.0
"""How long an unknown device waits for its refusal."""
MOST_LINES = 100
log = logging.getLogger(__name__)


class Entry:
    """Where devices connect: all their connections, and who proved or failed to."""

    def __init__(self, devices: Devices, changed: Callable[[], None], beside: Entry | None = None) -> None:
        """Args:
        changed: is called when devices come or go.
        beside: another entry at the same port.
        """
        self.devices, self.on_change = devices, changed
        self.lines: set[ProvenLine] = set()
        self.known: Known = beside.known if beside is not None else Known()
        """Addresses from which devices proved themselves."""
        self.senders: Senders = beside.senders if beside is not None else Senders()

    def let_go(self, device: Device) -> None:
        """Ends the connections of a device that was revoked or limited."""
        for line in list(self.lines):
            if line.device is not None and line.device.id == device.id:
                line.listener.put(None)

    def connected(self, device: Device) -> int:
        """Returns how many connections a device has."""
        return sum(line.device is not None and line.device.id == device.id for line in self.lines)

    def told(self, device: Device) -> DeviceTold:
        """Returns a device as the desk shows it."""
        return DeviceTold(
            id=device.id,
            name=device.name,
            made=device.made,
            seen=device.seen,
            cues=device.cues,
            locked=device.conduct.locked,
            wrong=len(device.conduct.bad),
            connected=self.connected(device),
        )


class ProvenLine:
    """One connection. Messages to it go through its listener; it is closed when `hear` returns False.

    Attributes:
        does: what its devices are paired for.
        said: reads its messages.
    """

    does: ClassVar[Does]
    said: ClassVar[TypeAdapter[Any]]

    def __init__(self, entry: Entry, sender: str) -> None:
        """Args:
        sender: the address it comes from.
        """
        self.entry, self._sender = entry, sender
        self.listener = Listener(self.does)
        self.device: Device | None = None
        self._offer: Offer | None = None
        self._signed: SignedLine | None = None
        self._hello: PadsHello | None = None

    async def proven(self, said: BaseModel) -> bool:
        """Takes a message from a device that has proved itself. False: the connection is to be ended."""
        raise NotImplementedError

    def welcomed(self, device: Device) -> None:
        """Is called once a device has proved itself."""

    def _say(self, message: Message) -> None:
        self.listener.put(message.text())

    def _refuse(self, why: Any, wait_ms: int = 0) -> bool:
        self._say(PadsRefused(why=why, wait_ms=wait_ms))
        return False

    async def hear(self, text: str) -> bool:
        """Takes a message from the connection. False: the connection is to be ended."""
        try:
            said = self.said.validate_json(text)
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
        return await self.proven(said)

    def _greeted(self, hello: PadsHello) -> bool:
        devices, self._hello = self.entry.devices, hello
        unproved = [line for line in self.entry.lines if line.device is None and line is not self]
        if len(unproved) >= MOST_LINES and self._sender not in self.entry.known:
            return self._refuse("full")
        # The sender of a wrong proof waits; the device it claimed to be doesn't.
        if wait := self.entry.senders.wait_ms(self._sender, now_ms()):
            return self._refuse("slow", wait)
        self._offer = devices.open_offer(hello.device, self.does) if hello.pair else None
        known = None if hello.pair else devices.of(hello.device, self.does)
        if known is not None and known.conduct.locked:
            return self._refuse("locked")
        key = self._offer.key if self._offer is not None else devices.key(hello.device) if known is not None else b""
        # An unknown device gets the challenge too, so that it doesn't learn which ones are known.
        self._signed = SignedLine(key or secrets.token_bytes(32), hello.number, secrets.token_hex(32))
        self._say(PadsChallenge(number=self._signed.ours))
        return True

    async def _proved(self, prove: PadsProve) -> bool:
        assert self._signed is not None and self._hello is not None
        devices, hello = self.entry.devices, self._hello
        right = self._signed.proves(prove.signature, "pair" if hello.pair else "prove")
        if hello.pair:
            return await self._pair(right)
        known = devices.of(hello.device, self.does)
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
        senders = self.entry.senders
        senders.wrong(self._sender, now_ms())
        await asyncio.sleep(min(UNKNOWN_S, senders.wait_ms(self._sender, now_ms()) / 1000))
        return self._refuse("wrong")

    async def _pair(self, right: bool) -> bool:
        assert self._signed is not None and self._hello is not None
        devices, offer = self.entry.devices, self.entry.devices.open_offer(self._hello.device, self.does)
        if offer is None or not right:
            self.entry.senders.wrong(self._sender, now_ms())
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
        self.entry.known.add(self._sender)
        self.listener.topic = f"{self.does}/{device.id}"
        self._say(PadsWelcome(signature=self._signed.welcome(), name=device.name, limited=device.cues is not None))
        self.welcomed(device)
        self.entry.on_change()
        try:
            await self.entry.devices.saw(device)
        except CannotWrite:
            log.info("The time %s was last seen could not be saved.", device.name)

    async def _wrong(self, device: Device) -> bool:
        log.warning("A wrong signature was sent for the device %s.", device.name)
        try:
            await self.entry.devices.wrong(device)
        except CannotWrite:
            log.warning("The lock of %s could not be saved; it holds until Cue Jar ends.", device.name)
        if device.conduct.locked:
            self.entry.let_go(device)
            return self._refuse("locked")
        await asyncio.sleep(device.conduct.wait_ms(now_ms()) / 1000)
        return self._refuse("wrong")
