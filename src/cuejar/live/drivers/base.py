"""What every driver is: it makes a piece of gear show what the engine wants, and reports what a hand did to it."""

from __future__ import annotations

import itertools
import random
from collections.abc import AsyncIterator, Callable, Generator, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any, Literal, NamedTuple, Protocol, runtime_checkable

from cuejar.core.facts import happenings as h
from cuejar.core.facts.happenings import PropertyValue
from cuejar.core.facts.orders import Show, Strike
from cuejar.core.rules.rig import Found

PropertyPath = str
State = Literal["in_step", "catching_up", "away", "off"]


class Shown(NamedTuple):
    """What a property should show, and how fast it should get there."""

    value: PropertyValue
    fade_ms: int = 0


@dataclass(frozen=True)
class Greeting:
    """What a piece of gear has, and what it shows.

    Args:
        things: the names of what it has, for the engine.
        found: what each property shows, and who changed it last.
        boot: another one whenever the gear began anew; empty where the gear does not tell.
        lacks: what it cannot do that others of its kind can, and what that means; in the streamer's words.
    """

    things: h.Catalogue | None = None
    found: Mapping[PropertyPath, Found] = field(default_factory=dict)
    boot: str = ""
    lacks: tuple[str, ...] = ()


Report = h.Hand | h.Renamed | Greeting
"""What gear reports by itself: a hand's change, another name, or that it has other things now."""


class AwayError(Exception):
    """The gear cannot be reached or does not let us in; the text says why, in the user's words."""


class Unanswered(AwayError):
    """It was asked and nothing was heard: it may have been done, or not."""


class GearRefused(Exception):
    """The gear is there and says no to one thing; the text says why."""


class Driver(Protocol):
    """One piece of gear on one wire. A driver never decides anything.

    ``actual`` is what each property shows, as last heard.
    """

    actual: dict[PropertyPath, PropertyValue]

    async def connect(self) -> Greeting:
        """Raises AwayError."""

    async def show(self, wanted: Mapping[PropertyPath, PropertyValue]) -> Mapping[PropertyPath, PropertyValue | None]:
        """Makes properties show these values; the same twice changes nothing.

        Returns:
            What each shows now, as the gear confirmed it; None where it refused.

        Raises:
            AwayError.
        """

    async def strike(self, strike: Strike, strike_id: str) -> None:
        """Sends it once, under its id. Raises AwayError, Unanswered or GearRefused."""

    def reports(self) -> AsyncIterator[Report]:
        """Changes that we did not ask for, until the gear is away (AwayError)."""

    async def picture(self) -> bytes | None:
        """What it shows, as a PNG, where the gear can tell."""

    async def close(self) -> None: ...


@runtime_checkable
class Fading(Protocol):
    """Gear whose driver fades by itself, every frame of it."""

    async def fade(
        self, wanted: Mapping[PropertyPath, PropertyValue], spans_ms: Mapping[PropertyPath, int]
    ) -> Mapping[PropertyPath, PropertyValue | None]:
        """As `Driver.show`, each over so many ms; what is on its way counts as shown."""


@runtime_checkable
class OneWay(Protocol):
    """Gear on a wire without a way back, on which it is not sure that somebody listens."""

    def ask_longer(self) -> None:
        """It was away just now: on connecting it is asked for longer whether it is there."""


@runtime_checkable
class Player(Protocol):
    """Gear that plays beats which are up, instead of holding properties."""

    def up(self, shows: Sequence[Show]) -> None:
        """Everything of its kind that is up now."""


@runtime_checkable
class Forgetful(Protocol):
    """Gear for strikes that may not remember their ids."""

    def remembers(self) -> bool:
        """Whether a strike that comes again under its id is done once."""


@runtime_checkable
class Doubting(Protocol):
    """Gear that may not know what it shows."""

    def doubt(self) -> str:
        """What is not known and what to do about it; empty when all is known."""


@runtime_checkable
class Logged(Protocol):
    """A wire on which messages may come that cannot be read."""

    def log_to(self, odd: Callable[[Any, str], object], unknown: Callable[[str], object]) -> None:
        """``odd`` gets each such message, and why it cannot be read; ``unknown`` the kind of one that is not known."""


@runtime_checkable
class Tested(Protocol):
    """Gear that has a test of its own."""

    async def test(self) -> str:
        """What came of it, in the user's words. Raises AwayError."""


def pause_s(attempt: int, most_s: float = 10.0) -> float:
    """How long to wait before the next attempt: doubling from 0.2 s, with jitter (a half to all of it)."""
    return float(min(most_s, 0.2 * 2 ** min(attempt, 10)) * random.uniform(0.5, 1.0))


def pauses() -> Generator[float]:
    """The pauses between attempts, one after the other, in seconds."""
    yield from map(pause_s, itertools.count())
