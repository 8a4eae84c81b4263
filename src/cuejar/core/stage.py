"""The stage: runs and their beats, from the moment a run starts to its finish.

This half of the engine knows time and order: which beats end and begin at an instant, what that shows and holds, when a
run is over, and what releasing and extending do to it. Who gets to run is the other half (`reception`).
"""

from __future__ import annotations

import heapq
import logging
from collections import OrderedDict
from collections.abc import Callable
from typing import Any

from cuejar.core import happenings as h
from cuejar.core import orders as o
from cuejar.core.base import ms
from cuejar.core.book import Book
from cuejar.core.calls import Calls
from cuejar.core.holds import Holds, Layer
from cuejar.core.lanes import Lane
from cuejar.core.price import Prices
from cuejar.core.resolve import Jars, Resolver
from cuejar.core.rig import Away
from cuejar.core.run import Run
from cuejar.core.score import LEFT_OUT, OVER, PENDING, UP, Lengths, RunBeat, Score, place
from cuejar.core.tallies import Clock, Tallies

log = logging.getLogger(__name__)
DEPTH = 8
"""How many cues deep a cue may fire another."""

FAR = 1 << 62
"""Later than everything."""

Entry = tuple[int, int, str, Any]
"""Something on the calendar: when (ms), in which order it was noted, what it is, and whom it concerns."""


class Stage:
    """Runs, beats, holds, and the calendar of what is due."""

    def __init__(self, book: Book, seed: int, media: dict[str, h.MediaFacts] | None, tracing: bool) -> None:
        self.now = 0
        self.tracing = tracing
        self.media = media
        self.on_air = False
        self.stream = 0
        self.stream_from = 0
        self.category: str | None = None
        self.solo: Run | None = None
        self.runs: dict[str, Run] = {}
        self.lanes: dict[str, Lane] = {}
        self.scores: dict[str, Score] = {}
        self.holds = Holds()
        self.tallies = Tallies()
        self.shared_before = Clock()
        self.jars = Jars()
        self.prices = Prices()
        self.away = Away()
        self.seen: OrderedDict[str, None] = OrderedDict()
        self.open: dict[str, set[str]] = {}  # redemptions that are not settled, with the runs they wait for
        self.reviews: dict[str, Any] = {}
        self.heard: set[str] = set()
        self.run_number = 0
        self.call_number = 0
        self.resolver = Resolver(book, Lengths(book, media), self.jars, self.holds, seed)
        self.out: list[tuple[int, o.Order]] = []
        self._heap: list[Entry] = []
        self._serial = 0
        self._due_runs: list[Run] = []
        self._stale: list[Run] = []
        self._newcomers: list[Run] = []
        self._scenes: list[tuple[str, int]] = []
        self._take(book)

    def _take(self, book: Book) -> None:
        self.book = book
        self.calls = Calls(book)
        self.scores = {cue.id: Score(cue, book) for cue in book.cues}
        self.lengths = self.resolver.lengths = Lengths(book, self.media)
        self.resolver.book = book
        kept, self.lanes = self.lanes, {}
        for settings in book.all_lanes:
            lane = kept.pop(settings.id) if settings.id in kept else Lane(settings)
            lane.set_up(settings)
            self.lanes[settings.id] = lane
        first = next(iter(self.lanes.values()))
        for lane in kept.values():
            first.take_over(lane)
        self.away.take(book)
        self.prices.take(book)
        self._schedule_clocks()

    def _emit(self, order: o.Order) -> None:
        self.out.append((self.now, order))

    # The calendar

    def due(self) -> int | None:
        """The next instant (ms) at which the engine wants to be asked, or None."""
        heap = self._heap
        while heap:
            if self._still_due(heap[0]):
                return heap[0][0]
            heapq.heappop(heap)
        return None

    def calendar(self) -> list[list[Any]]:
        """What is on the calendar and still counts, as [at ms, what, whom], in order."""
        entries = sorted((entry for entry in self._heap if self._still_due(entry)), key=lambda e: e[:2])
        return [[at, what, thing] for at, _, what, thing in entries]

    def reschedule(self, entries: list[list[Any]]) -> None:
        """Fills the calendar after a restore: clocks and prices from ``entries``, the rest from the runs and lanes."""
        self._heap = []
        for at, what, thing in entries:
            if what == "price":
                self.prices.note_due(thing, at)
            self._push(at, what, tuple(thing) if what == "clock" else thing)
        for run in self.runs.values():
            if run.next_at is not None:
                self._push(run.next_at, "run", run)
            elif run.started_at is None:
                self._push(run.wait_until, "stale", run)
        for lane in self.lanes.values():
            if lane.line and lane.gap_until > self.now:
                self._push(lane.gap_until, "gap", lane)

    def _push(self, at: int, what: str, thing: Any) -> None:
        self._serial += 1
        heapq.heappush(self._heap, (at, self._serial, what, thing))

    def _still_due(self, entry: Entry) -> bool:
        at, _, what, thing = entry
        if what == "run":
            return bool(thing.next_at == at)
        if what == "stale":
            return thing.started_at is None and thing.id in self.runs
        if what == "gap":
            return bool(thing.line and thing.gap_until == at)
        if what == "clock":
            return bool(thing[0] == self.stream and self.on_air)
        return self.prices.due_at(thing) == at

    def _take_due(self, at: int) -> list[h.Clock]:
        """Takes what is due at ``at`` off the calendar. Returns the clock calls among it; they are steps of their own."""
        clocks = []
        heap = self._heap
        while heap and heap[0][0] <= at:
            entry = heapq.heappop(heap)
            if not self._still_due(entry):
                continue
            _, _, what, thing = entry
            if what == "run":
                self._due_runs.append(thing)
                thing.next_at = None
            elif what == "stale":
                self._stale.append(thing)
            elif what == "gap":
                thing.stirred = True
            elif what == "clock":
                _, cue_id, every = thing
                clocks.append(h.Clock(cue_id))
                if every:
                    self._push(at + every, "clock", thing)
            elif what == "price":
                self._reprice(thing)
        return clocks

    def _schedule_clocks(self) -> None:
        self._heap = [entry for entry in self._heap if entry[2] != "clock"]
        heapq.heapify(self._heap)
        if not self.on_air:
            return
        for call, cue in self.calls.clocks:
            every = round((call.every_min or 0) * 60_000)
            if every:
                passed = (self.now - self.stream_from) // every + 1
                self._push(self.stream_from + passed * every, "clock", (self.stream, cue.id, every))
            else:
                at = self.stream_from + round((call.at_min or 0) * 60_000)
                if at > self.now or self.now == self.stream_from:
                    self._push(at, "clock", (self.stream, cue.id, 0))

    def _reprice(self, reward: str) -> None:
        cost = self.prices.cost(reward, self.now)
        path = f"reward/{reward}/cost"
        if self.holds.rest_of(path) != cost:
            self.holds.keep(path, cost)
        at = self.prices.next_change(reward, self.now)
        if at is not None:
            self._push(at, "price", reward)

    # Beats

    def _beats_due(self, now: int) -> None:
        """The first three parts of a step: beats that end, beats that start, runs that finish."""
        runs = self._due_runs
        self._due_runs = []
        if len(runs) == 1:
            run = runs[0]
            if run.ends_at <= now and run.next_at is None:
                self._guarded(run, now, lambda run, now: self._finish(run, "ended", now))
                return
        else:
            runs.sort(key=lambda run: run.number)
        for work in (self._end_beats, self._start_beats, self._after_beats):
            for run in runs:
                if run.id in self.runs:
                    self._guarded(run, now, work)

    def _guarded(self, run: Run, now: int, work: Callable[[Run, int], None]) -> None:
        """Does something with a run; an error that nobody expected costs this run alone."""
        try:
            work(run, now)
        except Exception as error:
            self._broken(run, error, now)

    def _broken(self, run: Run, error: Exception, now: int) -> None:
        """A run that cannot go on: what it holds returns, its lane is free, its redemption is refunded if that is still open."""
        log.exception("Run %s of the cue %s broke off.", run.id, run.score.id)
        self._emit(o.Fail(run.id, "", f"the run broke off: {type(error).__name__}: {error}"))
        for beat in run.beats:
            if beat.state == UP:
                beat.state = OVER
                if beat.spec.way == "shown":
                    self._emit(o.Hide(run.id, beat.spec.id))
            elif beat.state == PENDING:
                beat.state = LEFT_OUT
        self.holds.lift_all(run.id)
        run.next_at = None
        self.runs.pop(run.id, None)
        if self.solo is run:
            self.solo = None
        for lane in self.lanes.values():
            lane.stirred = True
            if run in lane.line:
                lane.line.remove(run)
        if run.lane is not None:
            run.lane.ended(run, now)
        if not run.tried and run.started_at is not None:
            self.tallies.finished(run.score.doorway, run.caller, now)
        self._settle_lost(run)
        self._emit(o.Finish(run.id, "failed"))

    def _end_beats(self, run: Run, now: int) -> None:
        for beat in run.beats:
            if beat.state == UP and beat.spec.length == "open" and beat.end is None and now >= self._capped(beat):
                beat.end = now
                self._replan(run, now)  # What lasts to the end of the run ends with it, in the same step.
        for beat in run.beats:
            if beat.state == UP and beat.end is not None and beat.end <= now:
                self._take_down(run, beat)

    def _capped(self, beat: RunBeat) -> int:
        """When an open beat ends even if no hand releases it."""
        return (beat.start or 0) + self.lengths.open_cap

    def _take_down(self, run: Run, beat: RunBeat) -> None:
        beat.state = OVER
        spec = beat.spec
        if beat.failed is not None or spec.off:
            return
        if spec.kind == "hook" and "then" in beat.value:
            second = {key: value for key, value in beat.value.items() if key != "then"}
            self._emit(o.Strike(run.id, spec.id, "hook", {**second, "payload": beat.value["then"], "second": True}))
        if spec.way == "shown":
            self.out.append((self.now, o.Hide(run.id, spec.id)))
            if spec.duck != 1:
                self.holds.lift(OTHERS, run.id, spec.id)
        for path, _ in beat.sets:
            self.holds.lift(path, run.id, spec.id)

    def _start_beats(self, run: Run, now: int) -> None:
        for beat in run.beats:
            if beat.state == PENDING and beat.start is not None and beat.start <= now:
                self._put_up(run, beat, now)

    def _put_up(self, run: Run, beat: RunBeat, now: int) -> None:
        spec, end = beat.spec, beat.end
        up = end is None or end > now
        beat.state = UP if up else OVER
        if beat.failed is not None or spec.off:
            return
        if spec.way == "shown":
            if up:
                self.out.append((now, o.Show(run.id, spec.id, spec.kind, beat.value, end, now, spec.look)))
                if spec.duck != 1:
                    self.holds.lay(OTHERS, Layer(run.id, spec.id, spec.duck))
        elif spec.way == "hold":
            if spec.length == "keep":
                for path, value in beat.sets:
                    self.holds.keep(path, value, spec.fade_in)
            elif up:
                for path, value in beat.sets:
                    self.holds.lay(path, Layer(run.id, spec.id, value, spec.fade_out), spec.fade_in)
        else:
            self._strike(run, beat)

    def _strike(self, run: Run, beat: RunBeat) -> None:
        spec = beat.spec
        if spec.kind == "chance":
            value = beat.value
            self._emit(o.Roll(run.id, spec.id, value["faces"], value["outcome"], beat.end, spec.look))
        elif spec.kind == "fire":
            if run.depth + 1 > DEPTH:
                self._emit(o.Fail(run.id, spec.id, f"cues fire each other more than {DEPTH} deep"))
                return
            self._emit(o.Strike(run.id, spec.id, spec.kind, beat.value))
            self._fired(run, beat.value)
        elif self.away.strikes(spec.kind, beat.value):
            beat.failed = "the gear is away"
            self._emit(o.Fail(run.id, spec.id, beat.failed))
        else:
            if spec.kind == "count":
                self.resolver.counts[beat.value["name"]] += beat.value["add"]
                beat.value = {**beat.value, "count": self.resolver.counts[beat.value["name"]]}
            value = beat.value
            if spec.kind == "hook":
                value = {key: part for key, part in value.items() if key != "then"}
            self._emit(o.Strike(run.id, spec.id, spec.kind, value))

    def _after_beats(self, run: Run, now: int) -> None:
        """Finishes the run if nothing is left of it, else notes when it wants to be asked again."""
        next_at: int | None = None
        later = False
        for beat in run.beats:
            if beat.state == PENDING:
                later = True
                at = beat.start
            elif beat.state == UP:
                at = self._capped(beat) if beat.end is None and beat.spec.length == "open" else beat.end
            else:
                continue
            if at is None:
                later = True
            elif next_at is None:
                next_at = at
            elif at != next_at:
                later = True
                if at < next_at:
                    next_at = at
        if next_at is None:
            self._finish(run, "ended", now)
            return
        run.ends_at = FAR if later else next_at
        if next_at != run.next_at:
            run.next_at = next_at
            self._push(next_at, "run", run)

    def _replan(self, run: Run, now: int) -> None:
        for beat in place(run.beats, run.started_at or 0, now, run.cap_at):
            self._emit(o.Prolong(run.id, beat.spec.id, beat.end))

    # Runs

    def _begin(self, run: Run, now: int) -> None:
        """The run starts: everything is resolved and placed, and what begins at once begins."""
        run.started_at = now
        if not run.tried:
            self.resolver.started(run)
            if run.score.speaks and run.viewer is not None:
                self.heard.add(run.viewer.id)
        made = self.resolver.resolve(run)
        if run.speed > 1:
            for beat in run.beats:
                if beat.own is not None and beat.spec.own is None:
                    beat.own = max(1, beat.own // run.speed)
        place(run.beats, now, now)
        self.out.append((now, o.Start(run.id, run.score.id, run.call, run.until())))
        if made:
            self.out += [(now, order) for order in made]
            there = [beat for beat in run.beats if beat.state != LEFT_OUT]
            if there and all(beat.failed is not None for beat in there):
                self._settle_lost(run)
                self._finish(run, "failed", now)
                return
        if run.redemption is not None:
            self._settle_started(run)
        self._start_beats(run, now)
        if run.id in self.runs:
            self._after_beats(run, now)

    def _finish(self, run: Run, how: str, now: int) -> None:
        """Ends a running run: whatever is up goes, whatever was to come does not come."""
        for beat in run.beats:
            if beat.state == UP:
                self._take_down(run, beat)
            elif beat.state == PENDING:
                beat.state = LEFT_OUT
        self.runs.pop(run.id, None)
        run.next_at = None
        if self.solo is run:
            self.solo = None
            for other in self.lanes.values():
                other.stirred = True
        if not run.tried:
            lane = run.lane
            if lane is not None:
                lane.ended(run, now)
                if lane.line and lane.gap_until > now:
                    self._push(lane.gap_until, "gap", lane)
            self.tallies.finished(run.score.doorway, run.caller, now)
        self.out.append((now, o.Finish(run.id, how)))

    def _running(self, score: Score) -> Run | None:
        lane = self.lanes[score.lane]
        return next((run for run in reversed(lane.running) if run.score.id == score.id), None)

    def _extendable(self, run: Run) -> list[RunBeat]:
        cap = (run.started_at or 0) + ms(self.book.house.extend_cap_s)
        return [
            beat
            for beat in run.beats
            if beat.state == UP and beat.own and beat.end is not None and beat.end < cap and beat.spec.way != "strike"
        ]

    def _extend(self, run: Run) -> None:
        """Every beat that is up gets its own length once more; what hangs on its end moves with it."""
        run.cap_at = cap = (run.started_at or 0) + ms(self.book.house.extend_cap_s)
        for beat in self._extendable(run):
            assert beat.end is not None and beat.own is not None
            beat.end = min(beat.end + beat.own, cap)
            self._emit(o.Prolong(run.id, beat.spec.id, beat.end))
        self._replan(run, self.now)
        self._after_beats(run, self.now)

    def _released(self, release: h.Release) -> None:
        run = self.runs.get(release.run)
        if run is None or run.started_at is None:
            return
        if release.beat is None:
            self._finish(run, "ended", self.now)
            return
        for beat in run.beats:
            if beat.spec.id == release.beat and beat.state == UP:
                beat.end = self.now
                self._take_down(run, beat)
        self._replan(run, self.now)
        self._end_beats(run, self.now)
        self._start_beats(run, self.now)
        if run.id in self.runs:
            self._after_beats(run, self.now)

    # What the other half does

    def _fired(self, by: Run, cue: str) -> None:
        raise NotImplementedError

    def _settle_started(self, run: Run) -> None:
        raise NotImplementedError

    def _settle_lost(self, run: Run) -> None:
        raise NotImplementedError


OTHERS = "sound/others"
"""What every sound that does not duck is multiplied by."""
