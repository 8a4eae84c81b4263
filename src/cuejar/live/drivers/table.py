"""Which driver drives which kind of gear."""

from __future__ import annotations

import uuid
from collections.abc import Callable
from dataclasses import dataclass

from cuejar.core.book.book import Book
from cuejar.core.kinds.gear import GEAR_KINDS, GearKind, add
from cuejar.core.parts.gear import Gear
from cuejar.live.drivers.base import Driver
from cuejar.live.drivers.broadcaster import BroadcasterDriver
from cuejar.live.drivers.haptics import HapticsDriver
from cuejar.live.drivers.hooks import HookDriver
from cuejar.live.drivers.keys import KeysDriver, tapper
from cuejar.live.drivers.lights import LightsDriver
from cuejar.live.drivers.osc import OscDriver
from cuejar.live.drivers.things import ThingsDriver
from cuejar.live.hands import Hands
from cuejar.live.latches import Latches

SENDERS = uuid.UUID("5a3f0c6e-6d0d-4b0e-9c1f-7e1a54a1d0c2")
"""Ids of senders of light are made from this and the data folder's own: they stay wherever the folder goes."""


@dataclass(frozen=True)
class Set:
    """A piece of gear as it is set up, and what its driver may need.

    ``book`` returns the current book, ``now`` the show's clock in ms, ``hands`` are the paired computer's, ``installation`` identifies this data folder,
    ``own_ports`` are Cue Jar's on this computer, ``box`` is the stand-ins'.
    """

    gear: Gear
    address: str
    secret: str
    book: Callable[[], Book]
    now: Callable[[], int]
    latches: Latches
    hands: Hands
    installation: str
    own_ports: frozenset[int] = frozenset()
    box: int = 0


def _lights(it: Set) -> Driver:
    sender = uuid.uuid5(SENDERS, f"{it.installation}/{it.gear.id}")
    return LightsDriver(it.address, it.gear.fixtures, lambda: it.book().house.flash_guard, sender, it.gear.priority)


def _osc(it: Set) -> Driver:
    return OscDriver(GEAR_KINDS[it.gear.kind], it.address)


_OWN: dict[str, Callable[[Set], Driver]] = {
    "broadcaster": lambda it: BroadcasterDriver(it.address, it.secret),
    "lights": _lights,
    "avatar": _osc,
    "voice": _osc,
    "haptics": lambda it: HapticsDriver(GEAR_KINDS["haptics"], it.address, it.book, it.now),
    "things": lambda it: ThingsDriver(it.gear.id, it.address, it.secret),
    "keys": lambda it: KeysDriver(tapper(it.address, it.hands), it.latches),
    "hook": lambda it: HookDriver(
        it.gear.model_copy(update={"address": it.address}), it.secret, it.book, it.own_ports, it.box
    ),
}
DRIVERS: dict[str, Callable[[Set], Driver]] = {}
"""Makes a driver for each kind of gear. A kind missing here can't be driven, and reports that."""


@dataclass(frozen=True)
class Plugin:
    """A whole kind of gear: its description, and the driver of a piece of it."""

    kind: GearKind
    driver: Callable[[Set], Driver]


def register(plugin: Plugin) -> None:
    """Adds a kind of gear. Raises ValueError: it can't be added, and why."""
    if GEAR_KINDS.get(plugin.kind.name) is not plugin.kind:
        add(plugin.kind)
    DRIVERS[plugin.kind.name] = plugin.driver


for _name, _driver in _OWN.items():
    register(Plugin(GEAR_KINDS[_name], _driver))
