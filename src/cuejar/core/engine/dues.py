"""What reception and waiting note on the calendar: waits and gaps that end, clock calls, prices that fall."""

from __future__ import annotations

from typing import Protocol

from cuejar.core.engine.calendar import Calendar
from cuejar.core.engine.night import Night
from cuejar.core.facts import happenings as h
from cuejar.core.rules.lanes import Lane
from cuejar.core.rules.price import Prices
from cuejar.core.rules.run import Run


class Waits(Protocol):
    """Is told that somebody has waited long enough."""

    night: Night
    stale: list[Run]
    """Those who have waited as long as they may."""


class Receives(Protocol):
    """Is told that the stream's clock calls."""

    night: Night
    calendar: Calendar
    clocks: list[h.Clock]
    """Clock calls due in this step."""


class Sells(Protocol):
    """Is told that a price falls."""

    prices: Prices

    def reprice(self, reward: str) -> None:
        """Works out the reward's price again."""


class WaitOver:
    """A run has waited as long as it may."""

    __slots__ = ("run", "waiting")

    def __init__(self, waiting: Waits, run: Run) -> None:
        self.waiting, self.run = waiting, run

    def due(self, at: int) -> bool:
        return self.run.started_at is None and self.run.id in self.waiting.night.runs

    def take(self, at: int) -> None:
        self.waiting.stale.append(self.run)


class GapOver:
    """The gap after a lane's last run is over."""

    __slots__ = ("lane",)

    def __init__(self, lane: Lane) -> None:
        self.lane = lane

    def due(self, at: int) -> bool:
        return bool(self.lane.line) and self.lane.gap_until == at

    def take(self, at: int) -> None:
        self.lane.stirred = True


class ClockCall:
    """The stream's clock calls a cue: once, or at an interval in ms."""

    __slots__ = ("cue", "every", "reception", "stream")

    def __init__(self, reception: Receives, stream: int, cue: str, every: int) -> None:
        self.reception, self.stream, self.cue, self.every = reception, stream, cue, every

    def due(self, at: int) -> bool:
        night = self.reception.night
        return self.stream == night.stream and night.on_air

    def take(self, at: int) -> None:
        self.reception.clocks.append(h.Clock(self.cue))
        if self.every:
            self.reception.calendar.note(at + self.every, self)


class PriceFalls:
    """A reward's price falls."""

    __slots__ = ("outcomes", "reward")

    def __init__(self, outcomes: Sells, reward: str) -> None:
        self.outcomes, self.reward = outcomes, reward

    def due(self, at: int) -> bool:
        return self.outcomes.prices.due_at(self.reward) == at

    def take(self, at: int) -> None:
        self.outcomes.reprice(self.reward)
