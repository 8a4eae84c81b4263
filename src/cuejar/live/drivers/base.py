"""What every driver is: it makes a piece of gear show what the engine wants, and reports what a hand did to it."""

from __future__ import annotations

import random
from collections.abc import AsyncIterator, Mapping
from typing import Any, Literal, NamedTuple, Protocol

from cuejar.core.happenings import Hand, PropertyValue
from cuejar.core.orders import Strike

PropertyPath = str
State = Literal["in_step", "catching_up", "away", "off"]


class Shown(NamedTuple):
    """What a property should show, and how fast it should get there."""

    value: PropertyValue
    fade_ms: int = 0


class Catalogue(NamedTuple):
    """What a piece of gear has: names of things, and the properties it can show with their present values."""

    things: Mapping[str, Any]
    values: Mapping[PropertyPath, PropertyValue]


class Driver(Protocol):
    """One piece of gear on one wire. A driver never decides anything."""

    async def connect(self) -> Catalogue: ...
    async def show(self, wanted: Mapping[PropertyPath, Shown]) -> None:
        """Desired state, whole; the same twice changes nothing."""

    async def strike(self, strike: Strike) -> None:
        """At most once."""

    def hands(self) -> AsyncIterator[Hand]:
        """Changes that we did not ask for."""

    async def close(self) -> None: ...


def pause_s(attempt: int) -> float:
    """How long to wait before the next attempt: doubling from 0.2 s to 10 s, with jitter (a half to all of it)."""
    return float(min(10.0, 0.2 * 2 ** min(attempt, 10)) * random.uniform(0.5, 1.0))
