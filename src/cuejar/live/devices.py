"""Paired devices, saved with a name and locked after many wrong signatures: those with pads, paired through a link and
perhaps limited; and the one computer whose keys are pressed, paired through a code.
"""

from __future__ import annotations

import secrets
import time
from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Literal

from sqlalchemy import delete, select
from sqlalchemy.dialects.sqlite import insert
from sqlalchemy.orm import Session, sessionmaker

from cuejar.core.rules.pairing import KEY_BYTES, OFFER_MS, Conduct, SignedLine, key_of_device, new_code, of_code
from cuejar.store.models import DeviceRow
from cuejar.store.secrets import Secrets
from cuejar.store.writer import Work, Writer

MOST_DEVICES, MOST_OFFERS = 50, 20
SEEN_EVERY_MS = 60_000
Does = Literal["pads", "hands"]
"""What a device is paired for: it presses pads, or its keys are pressed."""


def now_ms() -> int:
    """Returns the wall clock, in ms since 1970: pairing doesn't use the show's clock."""
    return time.time_ns() // 1_000_000


@dataclass(slots=True)
class Device:
    """``cues`` are those it is limited to; None: all, with house, volume and all to rest."""

    id: str
    name: str
    made: int
    seen: int = 0
    cues: list[str] | None = None
    conduct: Conduct = field(default_factory=Conduct)
    does: Does = "pads"


@dataclass(slots=True)
class Offer:
    """A link or ``code`` for pairing one device, until ``ends`` (ms since 1970). ``taken`` is the device that used it."""

    id: str
    key: bytes
    ends: int
    name: str
    cues: list[str] | None
    does: Does = "pads"
    code: str = ""
    taken: str = ""


class Devices:
    """All devices of the data folder, and the open offers."""

    def __init__(
        self, sessions: sessionmaker[Session], writer: Writer, keys: Secrets, changed: Callable[[], None] = lambda: None
    ) -> None:
        """Args:
        changed: is told when a device or an offer comes, changes or goes.
        """
        self._writer, self._keys = writer, keys
        self._changed = changed
        self.offers: dict[str, Offer] = {}
        with sessions() as session:
            rows = session.scalars(select(DeviceRow).order_by(DeviceRow.made)).all()
        self.all = {
            row.id: Device(row.id, row.name, row.made, row.seen, row.cues, Conduct(locked=row.locked), _does(row.does))
            for row in rows
        }

    def key(self, device: str) -> bytes:
        """Returns a device's key; empty if unknown."""
        return bytes.fromhex(self._keys.get(_secret(device))) if device in self.all else b""

    def of(self, device: str, does: Does) -> Device | None:
        """Returns a device that is paired for this."""
        found = self.all.get(device)
        return found if found is not None and found.does == does else None

    def hands(self) -> Device | None:
        """Returns the computer whose keys are pressed: there is at most one, so that every tap has one memory."""
        return next((device for device in self.all.values() if device.does == "hands"), None)

    # Pairing

    def offer(self, name: str, cues: list[str] | None, does: Does = "pads") -> Offer | None:
        """Makes a link or code for one new device; None: there are too many devices or offers already."""
        self._drop_old()
        if len(self.all) >= MOST_DEVICES or len(self.offers) >= MOST_OFFERS:
            return None
        code = new_code() if does == "hands" else ""
        name_of, key = of_code(code) if code else (secrets.token_hex(8), secrets.token_bytes(KEY_BYTES))
        made = Offer(name_of, key, now_ms() + OFFER_MS, name, cues, does, code)
        self.offers[made.id] = made
        return made

    def open_offer(self, offer: str, does: Does) -> Offer | None:
        found = self.offers.get(offer)
        if found is None or found.taken or found.does != does or found.ends <= now_ms():
            return None
        return found if does == "pads" or self.hands() is None else None

    def withdraw(self, offer: str) -> None:
        self.offers.pop(offer, None)

    def _drop_old(self) -> None:
        for offer in [offer for offer in self.offers.values() if offer.ends + OFFER_MS < now_ms()]:
            del self.offers[offer.id]

    async def paired(self, offer: Offer, line: SignedLine) -> Device:
        """Makes the device that used an offer's link; the link stops working. Raises CannotWrite."""
        device = Device(f"d{secrets.token_hex(6)}", self._free_name(offer.name), now_ms(), now_ms(), offer.cues)
        device.does = offer.does
        offer.taken = device.id
        try:
            self._keys.put(_secret(device.id), key_of_device(offer.key, device.id, line.theirs, line.ours).hex())
            await self._keep(device)
        except BaseException:
            offer.taken = ""
            raise
        self.all[device.id] = device
        self._changed()
        return device

    def _free_name(self, name: str) -> str:
        taken, number, free = {device.name.casefold() for device in self.all.values()}, 1, name
        while free.casefold() in taken:
            number += 1
            free = f"{name[:50]} {number}"
        return free

    # Storage

    async def change(self, device: Device, name: str, cues: list[str] | None) -> None:
        """Raises CannotWrite."""
        before, device.name, device.cues = (device.name, device.cues), name, cues
        try:
            await self._keep(device)
        except BaseException:
            device.name, device.cues = before
            raise
        self._changed()

    async def revoke(self, device: Device) -> None:
        """Revokes a device at once, even if that can't be written yet."""
        self.all.pop(device.id, None)
        self._keys.forget(_secret(device.id))
        self._changed()
        await self._do(lambda connection: connection.execute(delete(DeviceRow).where(DeviceRow.id == device.id)))

    async def unlock(self, device: Device) -> None:
        device.conduct.unlock()
        self._changed()
        await self._keep(device)

    async def wrong(self, device: Device) -> None:
        """Notes a wrong signature in its name."""
        device.conduct.wrong(now_ms())
        self._changed()
        if device.conduct.locked:
            await self._keep(device)

    async def saw(self, device: Device) -> None:
        """Notes that it is there; written once a minute."""
        before, device.seen = device.seen, now_ms()
        if device.seen - before > SEEN_EVERY_MS:
            await self._keep(device)

    async def _keep(self, device: Device) -> None:
        row = {
            "id": device.id,
            "name": device.name,
            "made": device.made,
            "seen": device.seen,
            "cues": device.cues,
            "locked": device.conduct.locked,
            "does": device.does,
        }
        query = insert(DeviceRow).values(row).on_conflict_do_update(index_elements=["id"], set_=row)
        await self._do(lambda connection: connection.execute(query))

    async def _do(self, work: Work[object]) -> None:
        await self._writer.do(work)


def _does(told: str) -> Does:
    return "hands" if told == "hands" else "pads"


def _secret(device: str) -> str:
    return f"pads/{device}"
