"""A brake on asking the same thing again and again."""

from __future__ import annotations

import time
from collections import deque
from collections.abc import Callable

OVER_S = 1.0


class Brake:
    """Lets each thing through so many times in `OVER_S`."""

    def __init__(self, most: int, clock: Callable[[], float] = time.monotonic) -> None:
        self._most, self._clock = most, clock
        self._passed: dict[str, deque[float]] = {}
        self._held: dict[str, float] = {}
        """Until when each thing is held."""

    def passes(self, thing: str) -> bool:
        """Returns whether it may pass now; it counts as passed then."""
        now = self._clock()
        passed = self._passed.setdefault(thing, deque(maxlen=self._most))
        if len(passed) == self._most and now - passed[0] < OVER_S:
            self._held[thing] = passed[0] + OVER_S
            return False
        passed.append(now)
        return True

    def held(self) -> list[str]:
        """Returns what was held lately."""
        now = self._clock()
        self._held = {thing: until for thing, until in self._held.items() if now < until + OVER_S}
        return list(self._held)

    def pause(self) -> float | None:
        """Returns after how many seconds something is let go; None if nothing is held."""
        now = self._clock()
        return min((until - now for until in self._held.values() if until > now), default=None)
