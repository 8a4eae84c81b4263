"""The rig: a keeper for each piece of gear in the book, made anew when its address or its switch changes."""

from __future__ import annotations

import asyncio
import uuid
from collections.abc import Callable, Sequence
from typing import Any

from cuejar.core.book.book import Book
from cuejar.core.engine.night import Timed
from cuejar.core.facts import happenings as h
from cuejar.core.facts import orders as o
from cuejar.core.kinds.table import KINDS
from cuejar.core.parts.gear import Gear
from cuejar.live.drivers.base import Driver
from cuejar.live.drivers.broadcaster import BroadcasterDriver
from cuejar.live.drivers.haptics import HapticsDriver
from cuejar.live.drivers.hooks import HookDriver
from cuejar.live.drivers.keys import KeysDriver, tapper
from cuejar.live.drivers.lights import LightsDriver
from cuejar.live.drivers.osc import OscDriver
from cuejar.live.keeper import Keeper
from cuejar.live.latches import Latches
from cuejar.live.runner import Runner

PATHS = {
    "broadcaster": "ws://{host}:{port}/broadcaster",
    "lights": "sacn://{host}:{port}",
    "avatar": "osc://{host}:{port}",
    "voice": "osc://{host}:{port}",
    "haptics": "osc://{host}:{port}",
    "keys": "ws://{host}:{port}/keys",
    "hook": "http://{host}:{port}/hook/receive",
}
"""Where a stand-in of this kind is found when the gear has no address of its own."""

LAMPS_BEHIND = 1
"""The stand-in's lamps listen so many ports behind the others."""


class Rig:
    """Everything that is driven."""

    def __init__(self, runner: Runner, secret: Callable[[str], str], standins: str | None, latches: Latches) -> None:
        """Args:
        secret: the secret of a piece of gear, by its id.
        standins: host and port of the stand-ins, for gear without an address.
        """
        self._runner, self._secret, self._standins, self._latches = runner, secret, standins, latches
        self.keepers: dict[str, Keeper] = {}
        self._set_up: dict[str, tuple[Any, ...]] = {}
        self._gear: dict[str, Gear] = {}
        self.on_state: Callable[[], None] = lambda: None
        self.on_renamed: Callable[[h.Renamed], None] = lambda renamed: None

    def address(self, gear: Gear) -> str:
        path = PATHS.get(gear.kind)
        if gear.address or path is None or self._standins is None:
            return gear.address
        host, _, port = self._standins.rpartition(":")
        return path.format(host=host, port=int(port) + (LAMPS_BEHIND if gear.kind == "lights" else 0))

    def driver(self, gear: Gear) -> Driver:
        """A new driver of a piece of gear."""
        address, secret = self.address(gear), self._secret(gear.id)
        if gear.kind == "broadcaster":
            return BroadcasterDriver(address, secret)
        if gear.kind == "lights":
            sender = uuid.uuid5(uuid.UUID(int=uuid.getnode()), f"{self._runner.settings.data.resolve()}/{gear.id}")
            return LightsDriver(address, gear.fixtures, lambda: self._runner.view.book.house.flash_guard, sender)
        if gear.kind == "haptics":
            return HapticsDriver(address, lambda: self._runner.view.book, self._runner.clock.now)
        if gear.kind == "keys":
            return KeysDriver(tapper(address), self._latches)
        if gear.kind == "hook":
            return HookDriver(gear.model_copy(update={"address": address}), secret, lambda: self._runner.view.book)
        return OscDriver(gear.kind, address)

    def take(self, book: Book) -> None:
        """Keepers for the gear of this book; what did not change is left alone."""
        self._gear = {gear.id: gear for gear in book.gear}
        for gear in self._gear.values():
            set_up = (gear.kind, self.address(gear), gear.on, self._secret(gear.id), gear.fixtures, gear.hook)
            if self._set_up.get(gear.id) == set_up:
                if gear.id in self.keepers:
                    self.keepers[gear.id].name = gear.name or gear.id
                continue
            self._drop(gear.id)
            self._set_up[gear.id] = set_up
            if gear.on and self.address(gear):
                self._keep(gear)
            else:
                self._runner.put(h.GearState(gear.id, "lost"))
        for gone in set(self._set_up) - set(self._gear):
            self._set_up.pop(gone)
            self._drop(gone)

    def _keep(self, gear: Gear) -> None:
        lamps = tuple(f"light/{fixture.id}/" for fixture in gear.fixtures) if gear.kind == "lights" else ()
        keeper = Keeper(
            gear.id,
            gear.kind,
            gear.name or gear.id,
            lambda: self.driver(gear),
            self._runner,
            lamps,
        )
        keeper.on_state = self.on_state
        keeper.on_renamed = self.on_renamed
        self.keepers[gear.id] = keeper
        keeper.start()

    def _drop(self, gear: str) -> None:
        keeper = self.keepers.pop(gear, None)
        if keeper is not None:
            self._runner.watch.once(f"letting go of {gear}", keeper.stop)

    def hear(self, timed: Sequence[Timed]) -> None:
        for keeper in self.keepers.values():
            keeper.hear(timed)

    def rows(self) -> list[dict[str, Any]]:
        """How each piece of gear is, for the desk and the rig."""
        rows = []
        for gear in self._gear.values():
            keeper = self.keepers.get(gear.id)
            if keeper is not None:
                rows.append(keeper.row())
                continue
            problem = "It is switched off." if not gear.on else "It has no address."
            row = {"id": gear.id, "kind": gear.kind, "name": gear.name or gear.id, "state": "off", "since": 0}
            rows.append({**row, "problem": problem, "serial": 0})
        return rows

    async def stop(self) -> None:
        await asyncio.gather(*(keeper.stop() for keeper in self.keepers.values()))

    def striker(self, strike: o.Strike) -> Keeper | None:
        """Who does a strike; None while nobody can."""
        if strike.kind == "hook":
            return self.keepers.get(str(strike.value["hook"]))
        kind = KINDS[strike.kind].gear
        return next((keeper for keeper in self.keepers.values() if keeper.kind == kind), None)
