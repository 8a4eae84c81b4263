"""The show's clock: the wall clock's start, the monotonic clock's pace. Setting the computer's clock doesn't move it.

It never goes back, not even across a restart with a wall clock that was a day ahead before. People read the current
wall clock: `wall` returns what it shows, or showed, at an instant of this clock.
"""

from __future__ import annotations

import time

STEADY_MS = 5


class ShowClock:
    """Milliseconds since 1970 that never jump."""

    def __init__(self, not_before: int = 0) -> None:
        wall = time.time_ns() // 1_000_000
        self._offset_ns = max(wall, not_before) * 1_000_000 - time.monotonic_ns()
        self._ahead = 0
        """How far (ms) the wall clock was ahead at the last question."""

    def now(self) -> int:
        return (time.monotonic_ns() + self._offset_ns) // 1_000_000

    def monotonic(self, at: int) -> float:
        """Returns the monotonic time in s at which this clock will show ``at``."""
        return (at * 1_000_000 - self._offset_ns) / 1e9

    def wall(self, at: int) -> int:
        """Returns what the wall clock shows at an instant of this clock; both in ms since 1970.

        Differences of less than `STEADY_MS` are ignored, so that of two events the second never appears first.
        """
        ahead = (time.time_ns() - time.monotonic_ns() - self._offset_ns) / 1e6
        if abs(ahead - self._ahead) >= STEADY_MS:
            self._ahead = round(ahead)
        return at + self._ahead
