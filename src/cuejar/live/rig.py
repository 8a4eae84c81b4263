"""The rig: a keeper for each piece of gear in the book, renewed when its address or its switch changes."""

from __future__ import annotations

import asyncio
from collections.abc import Callable, Sequence
from typing import Any

from cuejar.core.book.book import Book
from cuejar.core.engine.night import Timed
from cuejar.core.facts import happenings as h
from cuejar.core.facts import orders as o
from cuejar.core.kinds.gear import CHANNEL, GEAR_KINDS, kind_of
from cuejar.core.kinds.table import KINDS
from cuejar.core.parts.gear import Gear, host_of
from cuejar.live.drivers.base import Driver
from cuejar.live.drivers.table import DRIVERS, Set
from cuejar.live.hands import Hands
from cuejar.live.keeper import Keeper
from cuejar.live.latches import Latches
from cuejar.live.memories import Memories
from cuejar.live.plugins import BROKEN
from cuejar.live.runner import Runner


class Rig:
    """All connected gear."""

    def __init__(
        self,
        runner: Runner,
        secret: Callable[[str], str],
        standins: str | None,
        latches: Latches,
        memories: Memories,
        hands: Hands,
        changed: Callable[[], None] = lambda: None,
        renamed: Callable[[h.Renamed], None] = lambda renamed: None,
    ) -> None:
        """Args:
        secret: returns the secret of a piece of gear, by its id.
        standins: host and port of the stand-ins, for gear without an address.
        changed, renamed: as `Keeper`.
        """
        self._runner, self._secret, self.standins = runner, secret, standins
        self._latches, self._memories, self._hands = latches, memories, hands
        self.keepers: dict[str, Keeper] = {}
        self._set_up: dict[str, tuple[Any, ...]] = {}
        self._gear: dict[str, Gear] = {}
        self._changed, self._renamed = changed, renamed

    def address(self, gear: Gear) -> str:
        """Returns the gear's own address, otherwise that of the stand-in of its kind."""
        if gear.address or self.standins is None:
            return gear.address
        kind = kind_of(gear.kind)
        if not kind.address:
            return ""
        host, _, port = self.standins.rpartition(":")
        return kind.address.format(host=host, port=int(port) + kind.port_offset)

    def driver(self, gear: Gear) -> Driver:
        """Returns a new driver of a piece of gear."""
        runner = self._runner
        return DRIVERS[gear.kind](
            Set(
                gear,
                self.address(gear),
                self._secret(gear.id),
                lambda: runner.view.book,
                runner.clock.now,
                self._latches,
                self._hands,
                runner.journal.installation,
                frozenset({runner.settings.port, runner.settings.pads_port}),
                runner.settings.standins_port,
            )
        )

    def take(self, book: Book) -> None:
        """Takes the gear of a new book; unchanged gear is left alone."""
        self._gear = {gear.id: gear for gear in book.gear if gear.kind != CHANNEL}
        for gear in self._gear.values():
            set_up = (
                gear.kind,
                self.address(gear),
                gear.on,
                self._secret(gear.id),
                gear.fixtures,
                gear.hook,
                gear.priority,
            )
            if self._set_up.get(gear.id) == set_up:
                if gear.id in self.keepers:
                    self.keepers[gear.id].name = gear.name or gear.id
                continue
            self._drop(gear.id)
            self._set_up[gear.id] = set_up
            if gear.on and self.address(gear) and gear.kind in DRIVERS:
                self._keep(gear)
            else:
                self._runner.put(h.GearState(gear.id, "lost"))
        for gone in set(self._set_up) - set(self._gear):
            self._set_up.pop(gone)
            self._drop(gone)

    def _keep(self, gear: Gear) -> None:
        keeper = Keeper(
            gear.id,
            gear.kind,
            gear.name or gear.id,
            lambda: self.driver(gear),
            self._runner,
            kind_of(gear.kind).paths_of(gear),
            self._changed,
            self._renamed,
            self._memories,
        )
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
        """Returns the state of each piece of gear, for the desk and the rig."""
        rows = []
        for gear in self._gear.values():
            keeper = self.keepers.get(gear.id)
            if keeper is not None:
                rows.append(keeper.row())
                continue
            problem = "It is switched off." if not gear.on else "It has no address."
            if gear.kind not in DRIVERS:
                problem = BROKEN.get(gear.kind) or f"Its plug-in “{gear.kind}” isn’t installed."
            state = "away" if gear.kind in BROKEN else "off"
            row = {"id": gear.id, "kind": gear.kind, "name": gear.name or gear.id, "state": state, "since": 0}
            rows.append({**row, "problem": problem, "serial": 0})
        return rows

    async def stop(self) -> None:
        await asyncio.gather(*(keeper.stop() for keeper in self.keepers.values()))

    def where(self, strike: o.Strike) -> str:
        """Returns the target of a strike: a piece of gear, or the host of a hook, whichever hook it is."""
        kind = KINDS[strike.kind]
        gear = kind.struck(strike.value) if kind.struck is not None else kind.gear or ""
        there = self._gear.get(gear)
        return f"host {host_of(there.address)}" if there is not None and there.kind == "hook" else gear

    def striker(self, strike: o.Strike) -> Keeper | None:
        """Returns who carries out a strike; None while nobody can."""
        kind = KINDS[strike.kind]
        if kind.struck is not None:
            keeper = self.keepers.get(kind.struck(strike.value))
            fits = keeper is not None and kind_of(keeper.kind).prefix == GEAR_KINDS[kind.gear or ""].prefix
            return keeper if fits else None
        return next((keeper for keeper in self.keepers.values() if keeper.kind == kind.gear), None)
