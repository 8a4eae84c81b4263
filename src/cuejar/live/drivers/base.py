"""The base of every driver: it makes a piece of gear show what the engine wants, and reports changes by hand."""

from __future__ import annotations

from collections.abc import AsyncIterator, Callable, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any, Literal, Protocol, runtime_checkable

from cuejar.core.facts import happenings as h
from cuejar.core.facts.happenings import PropertyValue
from cuejar.core.facts.orders import Show, Strike
from cuejar.core.rules.rig import Found

PropertyPath = str
State = Literal["in_step", "catching_up", "away", "off"]


@dataclass(frozen=True)
class Greeting:
    """What a piece of gear has, and what it shows.

    Args:
        things: the names of what it has, for the engine.
        found: what each property shows, and who changed it last.
        boot: a new one whenever the gear restarts; empty if the gear has none.
        lacks: what it can't do that others of its kind can, and what that means; in the streamer's words.
    """

    things: h.Catalogue | None = None
    found: Mapping[PropertyPath, Found] = field(default_factory=dict)
    boot: str = ""
    lacks: tuple[str, ...] = ()


Report = h.Hand | h.Renamed | Greeting
"""A report from gear: a change by hand, a new name, or changed contents."""


class AwayError(Exception):
    """The gear can't be reached or refuses access; the text says why, in the user's words."""


class Unanswered(AwayError):
    """It was asked without an answer: it may have been done, or not."""


class GearRefused(Exception):
    """The gear is there and refuses one thing; the text says why."""


class Driver(Protocol):
    """One piece of gear on one wire. A driver never decides anything.

    ``actual`` is what each property shows, as last reported.
    """

    actual: dict[PropertyPath, PropertyValue]

    async def connect(self) -> Greeting:
        """Connects. Raises AwayError."""

    async def show(self, wanted: Mapping[PropertyPath, PropertyValue]) -> Mapping[PropertyPath, PropertyValue | None]:
        """Makes properties show these values; repeating it changes nothing.

        Returns:
            What each shows now, as the gear confirmed it; None where it refused.

        Raises:
            AwayError.
        """

    async def strike(self, strike: Strike, strike_id: str) -> None:
        """Sends it once, under its id. Raises AwayError, Unanswered or GearRefused."""

    def reports(self) -> AsyncIterator[Report]:
        """Yields changes that we didn't ask for, until the gear is lost (AwayError)."""

    async def picture(self) -> bytes | None:
        """Returns what it shows, as a PNG, if the gear can tell."""

    async def close(self) -> None: ...


@runtime_checkable
class Reporting(Protocol):
    """Gear that is changed by hand."""

    def unheard(self) -> bool:
        """Returns whether `Driver.actual` is newer than the reports that were taken."""


@runtime_checkable
class Fading(Protocol):
    """Gear whose driver computes every frame of a fade itself."""

    async def fade(
        self, wanted: Mapping[PropertyPath, PropertyValue], spans_ms: Mapping[PropertyPath, int]
    ) -> Mapping[PropertyPath, PropertyValue | None]:
        """Does the same as `Driver.show`, each over its time in ms; a fade in progress counts as shown."""


@runtime_checkable
class OneWay(Protocol):
    """Gear on a one-way wire, on which possibly nobody listens."""

    def ask_longer(self) -> None:
        """Waits longer for an answer on connecting, as it was disconnected just now."""


@runtime_checkable
class Player(Protocol):
    """Gear that plays beats that are up, instead of holding properties."""

    def up(self, shows: Sequence[Show]) -> None:
        """Takes everything of its kind that is up now."""


@runtime_checkable
class Forgetful(Protocol):
    """Gear for strikes that may not remember their ids."""

    def memory(self) -> str:
        """Returns the name of the memory in which a repeated strike with the same id is known; empty: it has none."""


@runtime_checkable
class Doubting(Protocol):
    """Gear that may not know what it shows."""

    def doubt(self) -> str:
        """Returns what is unknown and what to do about it; empty if all is known."""


@runtime_checkable
class Logged(Protocol):
    """A wire that may bring unreadable messages."""

    def log_to(self, odd: Callable[[Any, str], object], unknown: Callable[[str], object]) -> None:
        """``odd`` gets each unreadable message with the reason; ``unknown`` the kind of an unknown one."""


@runtime_checkable
class Tested(Protocol):
    """Gear with a test of its own."""

    async def test(self) -> str:
        """Returns the result of the test, in the user's words. Raises AwayError."""
