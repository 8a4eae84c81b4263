"""Timers of the day: cues called at a time of the wall clock, while the stream is live.

The engine knows no wall clock; it gets each time as a happening, once a day for each cue.
"""

from __future__ import annotations

import asyncio
import time
from collections.abc import Callable
from datetime import datetime

from cuejar.core.facts import happenings as h
from cuejar.core.rules.calls import next_time
from cuejar.live.runner import Runner

LOOK_S = 5.0
"""How often the wall clock is checked: it may be set, and the book may change."""
LATE_S = 60.0
"""A time that passed longer ago, while the computer slept, is skipped."""


class DayTimers:
    """Watches the wall clock for the runner. ``wall`` returns local time, without a zone."""

    def __init__(self, runner: Runner, wall: Callable[[], datetime] = datetime.now) -> None:
        self._runner, self._wall = runner, wall

    def next(self) -> list[tuple[int, str]]:
        """Returns when (ms since 1970) which cues are called next."""
        found = next_time(self._runner.view.book, self._wall())
        if found is None:
            return []
        at = round(time.time() * 1000 + (found[0] - self._wall()).total_seconds() * 1000)
        return [(at, cue) for cue in found[1]]

    async def keep(self) -> None:
        looked = self._wall()
        while True:
            found = next_time(self._runner.view.book, looked)
            left = (found[0] - self._wall()).total_seconds() if found is not None else LOOK_S
            if found is None or left > 0:
                # A clock that was put back is followed; earlier calls stay called, by their events.
                looked = self._wall()
                await asyncio.sleep(min(LOOK_S, max(0.0, left)))
                continue
            looked = found[0]
            if self._runner.view.on_air and left > -LATE_S:
                for cue in found[1]:
                    self._runner.put(h.Clock(cue), event=f"clock/{found[0]:%Y-%m-%d/%H:%M}/{cue}")
