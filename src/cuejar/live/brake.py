"""A brake on asking the same thing again and again."""

from __future__ import annotations

import time
from collections import deque
from collections.abc import Callable

OVER_S = 1.0


class Brake:
    """Limits how often each thing is asked for the same value within `OVER_S`; it may be asked for another one at once."""

    def __init__(self, most: int, clock: Callable[[], float] = time.monotonic) -> None:
        self._most, self._clock = most, clock
        self._passed: dict[str, tuple[object, deque[float]]] = {}
        self._held: dict[str, float] = {}
        """Until when each thing is held."""

    def passes(self, thing: str, value: object) -> bool:
        """Returns whether it may be asked for a value now; it counts as asked then."""
        now = self._clock()
        if thing not in self._passed or self._passed[thing][0] != value:
            self._passed[thing] = value, deque(maxlen=self._most)
        passed = self._passed[thing][1]
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
