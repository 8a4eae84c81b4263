"""Lanes: who waits, who may start, and in which order.

A lane has room for ``width`` runs at once. What an entry may do is a row of `MAY_START`:

    queue, extend, refuse   waits for room, for the gap after the last run that took room, and for its turn
    overlap                 starts at once and takes no room
    replace                 stands at the head of the line; running runs of its own cue count as room; no gap
    solo                    waits until its lane is empty; while it runs nothing else starts in any lane

Width 1, gap 1 s. A runs from 0 to 5; B comes at 1 and waits; a solo S comes at 3 and waits behind B; C comes at 4. B
starts at 6 (5 and the gap). From then on S is first: C, behind it, waits although it might fit. B ends at 11, S starts
at 12, and while it runs even an overlap waits, at the head of its line.

In a fair lane, among those waiting, the viewer with the fewest starts in this lane this stream comes first; equal
counts by arrival.
"""

from __future__ import annotations

from collections.abc import Callable

from cuejar.core.book.book import Lane as LaneSettings
from cuejar.core.parts.base import ms
from cuejar.core.rules.line import Line
from cuejar.core.rules.run import Run
from cuejar.core.rules.score import Score


class Lane:
    """A lane with who runs and who waits in it. ``gap_until`` is ms of the engine's clock; ``wait_ms`` and ``gap_ms``
    are its settings.

    ``stirred`` means that something changed since the last look at who may start.
    """

    settings: LaneSettings

    def __init__(self, settings: LaneSettings) -> None:
        self._set(settings)
        self.running: list[Run] = []
        self.line = Line(settings.order == "fair")
        self.gap_until = 0
        self.taken = 0
        self.stirred = False

    def _set(self, settings: LaneSettings) -> None:
        self.settings, self.width = settings, settings.width
        self.wait_ms, self.gap_ms = ms(settings.wait_s), ms(settings.gap_s)

    def set_up(self, settings: LaneSettings) -> None:
        """Takes the settings of a new book."""
        self._set(settings)
        self.line.set_fair(settings.order == "fair")

    def take_over(self, lane: Lane) -> None:
        """Takes over the runs of a deleted lane."""
        for run in lane.running:
            run.lane = self.settings.id
        self.running += lane.running
        self.taken += lane.taken
        for run in lane.line.by_arrival():
            self.join(run)

    def join(self, run: Run) -> None:
        """Adds a waiting run: behind those at the head if it goes there, otherwise last."""
        self.stirred = True
        self.line.join(run)

    def has_room_for(self, score: Score, now: int) -> bool:
        """Returns whether a run of this cue could start now if it were its turn. The engine checks for a solo
        elsewhere.
        """
        return MAY_START[score.entry](self, score, now)

    def next_to_start(self, now: int) -> Run | None:
        """Returns the run that starts now, if any: one at the head that may, otherwise the first of the line if it may."""
        return self.line.first(self.has_room_for, now)

    def would_start(self, run: Run, now: int) -> bool:
        """Returns whether the run would start at once if it joined the line now."""
        self.join(run)
        chosen = self.next_to_start(now)
        self.line.remove(run)
        return chosen is run

    def started(self, run: Run) -> None:
        self.line.remove(run)
        self.running.append(run)
        run.lane = self.settings.id
        if run.takes_room:
            self.taken += 1
        if self.line.fair:
            self.line.counted(run.viewer_id)

    def ended(self, run: Run, now: int) -> None:
        self.running.remove(run)
        run.lane, self.stirred = None, True
        if run.takes_room:
            self.taken -= 1
            self.gap_until = now + self.gap_ms

    def move(self, run: Run, before: Run | None) -> None:
        """Moves a waiting run before another one, or to the end, by hand."""
        self.line.move(run, before)
        self.stirred = True


def _with_room(lane: Lane, score: Score, now: int) -> bool:
    return lane.taken < lane.width and now >= lane.gap_until


def _always(lane: Lane, score: Score, now: int) -> bool:
    return True


def _in_place_of_its_own(lane: Lane, score: Score, now: int) -> bool:
    others = sum(1 for other in lane.running if other.takes_room and other.score.id != score.id)
    return others < lane.width


def _alone(lane: Lane, score: Score, now: int) -> bool:
    return not lane.running and now >= lane.gap_until


MAY_START: dict[str, Callable[[Lane, Score, int], bool]] = {
    "queue": _with_room,
    "extend": _with_room,
    "refuse": _with_room,
    "overlap": _always,
    "replace": _in_place_of_its_own,
    "solo": _alone,
}
