"""The waiting: all lanes with those who wait and run in them; who may start now, who has waited too long.

This part of the engine knows order and room. What a start or a drop means for doors and redemptions is up to its `Host`
(the reception).
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Protocol

from cuejar.core.book.book import Lane as LaneSettings
from cuejar.core.engine.calendar import Calendar
from cuejar.core.engine.dues import GapOver, WaitOver
from cuejar.core.engine.night import Night
from cuejar.core.engine.stage import Stage
from cuejar.core.facts import happenings as h
from cuejar.core.rules.lanes import Lane
from cuejar.core.rules.run import Run
from cuejar.core.rules.score import Score


class Host(Protocol):
    """Is told what becomes of those who wait."""

    def begins(self, run: Run, now: int) -> None:
        """It left its line and is to run now."""

    def dropped(self, run: Run, how: str) -> None:
        """It left its line and never runs."""


class Waiting:
    """Every lane of the book, at work.

    Attributes:
        lanes: by their ids, in the book's order.
        solo: the run that blocks all others.
        newcomers: those let in during this step.
        stale: those who have waited as long as they may.
    """

    host: Host

    def __init__(self, night: Night, calendar: Calendar, stage: Stage) -> None:
        self.night, self.calendar, self.stage = night, calendar, stage
        self.lanes: dict[str, Lane] = {}
        self.solo: Run | None = None
        self.newcomers: list[Run] = []
        self.stale: list[Run] = []

    def take(self, settings: Sequence[LaneSettings]) -> None:
        """Takes the lanes of a new book; the runs of a deleted lane move to the first."""
        kept, self.lanes = self.lanes, {}
        for one in settings:
            lane = kept.pop(one.id) if one.id in kept else Lane(one)
            lane.set_up(one)
            self.lanes[one.id] = lane
        first = next(iter(self.lanes.values()))
        for lane in kept.values():
            first.take_over(lane)

    def sort_anew(self, score_now: Callable[[str], Score | None]) -> None:
        """Moves waiting runs to the lanes of their cues; those of deleted cues are dropped."""
        for lane in list(self.lanes.values()):
            for run in lane.line.by_arrival():
                self._sorted_anew(lane, run, score_now(run.score.id))
            lane.stirred = True

    def _sorted_anew(self, lane: Lane, run: Run, score: Score | None) -> None:
        if score is None:
            self.drop(run, "by_hand", lane)
            return
        head = score.goes_first
        if self.lanes[score.lane] is lane and head == run.score.goes_first:
            run.score = score
            return
        lane.line.remove(run)
        run.score, run.head = score, head
        self.lanes[score.lane].join(run)

    def new_stream(self) -> None:
        for lane in self.lanes.values():
            lane.line.new_stream()

    # Questions

    def running(self, score: Score) -> Run | None:
        """Returns the latest running run of a cue."""
        lane = self.lanes[score.lane]
        return next((run for run in reversed(lane.running) if run.score.id == score.id), None)

    def waiting(self, run_id: str | None) -> Run | None:
        run = self.night.runs.get(run_id or "")
        return run if run is not None and run.started_at is None else None

    def reason(self, score: Score, viewer: h.Viewer | None) -> str | None:
        """Returns why nobody can join this cue's lane now, as the door's reason."""
        lane = self.lanes[score.lane]
        if score.entry == "refuse" and (
            lane.line.waits(score.id) or any(other.score.id == score.id for other in lane.running)
        ):
            return "busy"
        if score.entry == "extend":
            running = self.running(score)
            if running is not None:
                return None if self.stage.extendable(running) else "busy"
        if score.goes_first or lane.line.size < lane.settings.line:
            return None
        now = self.night.now
        if self.solo is not None or not lane.has_room_for(score, now):
            return "lane_full"
        return None if lane.would_start(Run("", 0, score, "", None, viewer), now) else "lane_full"

    # Changes

    def join(self, run: Run) -> None:
        """Adds a run that was let in to the line."""
        lane = self.lanes[run.score.lane]
        run.wait_until = self.night.now + lane.wait_ms
        lane.join(run)
        self.newcomers.append(run)

    def must_wait(self) -> None:
        """Notes when the wait of new runs that didn't start ends, and when their lane's gap is over."""
        newcomers, self.newcomers = self.newcomers, []
        for run in newcomers:
            if run.started_at is not None or run.id not in self.night.runs:
                continue
            if run.wait_until <= self.night.now:
                self.stale.append(run)
            self.note(run)
            self.note_gap(self.lanes[run.score.lane])

    def note(self, run: Run) -> None:
        """Puts a waiting run on the calendar."""
        self.calendar.note(run.wait_until, WaitOver(self, run))

    def note_gap(self, lane: Lane) -> None:
        if lane.line.size and lane.gap_until > self.night.now:
            self.calendar.note(lane.gap_until, GapOver(lane))

    def start(self, now: int) -> None:
        """Starts whatever may start; lanes in the book's order."""
        again = True
        while again:
            again = False
            for lane in self.lanes.values():
                if not lane.stirred:
                    continue
                lane.stirred = False
                while lane.line.size and self.solo is None:
                    run = lane.next_to_start(now)
                    if run is None:
                        break
                    self._start(lane, run, now)
                    again = True

    def _start(self, lane: Lane, run: Run, now: int) -> None:
        entry = run.score.entry
        if entry == "replace":
            for other in [other for other in lane.running if other.score.id == run.score.id]:
                self.stage.finish(other, "replaced", now)
        lane.started(run)
        if entry == "solo":
            self.solo = run
        self.host.begins(run, now)

    def drop_stale(self) -> bool:
        """Drops those who have waited as long as they may. Returns whether there were any."""
        stale, self.stale = self.stale, []
        order = {lane: place for place, lane in enumerate(self.lanes)}
        waiting = {run.id: run for run in stale if run.id in self.night.runs and run.started_at is None}
        for run in sorted(waiting.values(), key=lambda run: (order[run.score.lane], run.place[0], run.place[2:])):
            self.drop(run, "stale")
        return bool(waiting)

    def drop(self, run: Run, how: str, lane: Lane | None = None) -> None:
        """Drops a waiting run; ``lane``: its lane, if that isn't its cue's."""
        lane = lane or self.lanes[run.score.lane]
        lane.line.remove(run)
        lane.stirred = True
        self.night.runs.pop(run.id, None)
        self.host.dropped(run, how)

    def drop_all(self) -> None:
        for lane in self.lanes.values():
            for run in lane.line.by_arrival():
                self.drop(run, "by_hand", lane)

    def moved(self, move: h.Move) -> None:
        """Moves a waiting run before another one, or to the end, by hand."""
        run, before = self.waiting(move.run), self.waiting(move.before)
        if run is None or run is before:
            return
        if before is not None and before.score.lane != run.score.lane:
            before = None
        self.lanes[run.score.lane].move(run, before)

    def ended(self, run: Run, now: int) -> None:
        """Notes that a run is over: its room is free, and after a solo every lane's."""
        if self.solo is run:
            self.solo = None
            for lane in self.lanes.values():
                lane.stirred = True
        if run.lane is not None and not run.tried and run.started_at is not None:
            lane = self.lanes[run.lane]
            lane.ended(run, now)
            self.note_gap(lane)
