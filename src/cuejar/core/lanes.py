"""Lanes: who waits, who may start, and in what order.

A lane has room for ``width`` runs at once. What an entry may do is a row of `MAY_START`:

    queue, extend, refuse   waits for room, for the gap after the last run that took room, and for its turn
    overlap                 starts at once and takes no room
    replace                 stands at the head of the line; running runs of its own cue count as room; no gap
    solo                    waits until its lane is empty; while it runs nothing else starts in any lane

Width 1, gap 1 s. A runs from 0 to 5; B comes at 1 and waits; a solo S comes at 3 and waits behind B; C comes at 4.
B starts at 6 (5 and the gap). From then on S is first: C, behind it, waits although it might fit. B ends at 11, S starts
at 12, and while it runs even an overlap waits, at the head of its line.

In a fair lane, among those waiting, the viewer with the fewest starts in this lane this stream comes first; equal counts
by arrival.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable
from dataclasses import dataclass, field

from cuejar.core.base import ms
from cuejar.core.book import Lane as LaneSettings
from cuejar.core.run import Run

GOES_FIRST = frozenset({"overlap", "replace"})
"""Entries that stand at the head of the line and that a full line never turns away."""


@dataclass(slots=True)
class Lane:
    """A lane with who runs and who waits in it. ``gap_until`` is ms of the engine's clock.

    ``stirred`` says that something changed since it was last asked who starts.
    """

    settings: LaneSettings
    running: list[Run] = field(default_factory=list)
    waiting: list[Run] = field(default_factory=list)
    gap_until: int = 0
    starts: Counter[str] = field(default_factory=Counter)
    taken: int = 0
    stirred: bool = False

    @property
    def wait_ms(self) -> int:
        return ms(self.settings.wait_s)

    def take_over(self, lane: Lane) -> None:
        """The other lane is no more: who ran or waited there does so here."""
        for run in lane.running:
            run.lane = self
        self.running += lane.running
        self.taken += lane.taken
        for run in lane.waiting:
            self.join(run)

    def join(self, run: Run) -> None:
        """The run waits: behind those at the head if it goes there, else last."""
        self.stirred = True
        at = len(self.waiting)
        if run.head:
            at = sum(1 for other in self.waiting if other.head)
        self.waiting.insert(at, run)

    def in_line(self) -> list[Run]:
        """Those who wait, in the order in which they would start."""
        if self.settings.order == "arrival":
            return list(self.waiting)
        heads = sum(1 for run in self.waiting if run.head)
        return self.waiting[:heads] + sorted(self.waiting[heads:], key=self._fairness)

    def _fairness(self, run: Run) -> int:
        return run.rank if run.rank is not None else self.starts[run.viewer_id]

    def may_start(self, run: Run, now: int) -> bool:
        """Whether the run, if it is its turn, can start now. A solo that runs anywhere is the engine's to know."""
        return MAY_START[run.score.entry](self, run, now)

    def next_to_start(self, now: int) -> Run | None:
        """The run that starts now, if one does: any at the head that may, else the first of the line if it may."""
        for run in self.waiting if self.settings.order == "arrival" else self.in_line():
            if self.may_start(run, now):
                return run
            if not run.head:
                return None
        return None

    def would_start(self, run: Run, now: int) -> bool:
        """Whether the run would start at once if it joined the line now."""
        self.join(run)
        chosen = self.next_to_start(now)
        self.waiting.remove(run)
        return chosen is run

    def started(self, run: Run) -> None:
        self.waiting.remove(run)
        self.running.append(run)
        run.lane = self
        if run.takes_room:
            self.taken += 1
        if self.settings.order == "fair":
            self.starts[run.viewer_id] += 1

    def ended(self, run: Run, now: int) -> None:
        self.running.remove(run)
        run.lane, self.stirred = None, True
        if run.takes_room:
            self.taken -= 1
            self.gap_until = now + ms(self.settings.gap_s)

    def move(self, run: Run, before: Run | None) -> None:
        """The streamer's hand puts a waiting run before another one, or last."""
        line = [other for other in self.in_line() if other is not run]
        at = line.index(before) if before is not None else len(line)
        run.head = before is not None and before.head
        after = line[at] if at < len(line) else (line[-1] if line else run)
        run.rank = self._fairness(after)
        line.insert(at, run)
        self.waiting, self.stirred = line, True


def _with_room(lane: Lane, run: Run, now: int) -> bool:
    return lane.taken < lane.settings.width and now >= lane.gap_until


def _always(lane: Lane, run: Run, now: int) -> bool:
    return True


def _in_place_of_its_own(lane: Lane, run: Run, now: int) -> bool:
    others = sum(1 for other in lane.running if other.takes_room and other.score.id != run.score.id)
    return others < lane.settings.width


def _alone(lane: Lane, run: Run, now: int) -> bool:
    return not lane.running and now >= lane.gap_until


MAY_START: dict[str, Callable[[Lane, Run, int], bool]] = {
    "queue": _with_room,
    "extend": _with_room,
    "refuse": _with_room,
    "overlap": _always,
    "replace": _in_place_of_its_own,
    "solo": _alone,
}
