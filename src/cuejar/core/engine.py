"""The engine: happenings in, orders out. No clock, no waiting, no I/O.

There is one way in, `Engine.handle`, and one way out, the list of orders it returns; `Engine.due` says when it wants to
be asked again even if nothing happens. Time is whole milliseconds of whoever runs it, and never goes back.

What is due at an instant is handled in one step before the happenings of the same millisecond; then each of those in
the order they came, each a step of its own. Within a step: beats that end, beats that start, runs that finish, runs that
start (lanes in the book's order), then drops, then whoever a drop let through, and last the properties, each of which
changes at most once.

The rules themselves are in the parts: `door`, `lanes`, `score`, `holds`, `draw`, `chance`, `words`, `price`. Here they
are only put together.
"""

from __future__ import annotations

import heapq
from collections.abc import Callable
from typing import Any

from cuejar.core import happenings as h
from cuejar.core import orders as o
from cuejar.core.base import ms
from cuejar.core.book import Book, book_from
from cuejar.core.calls import Calls, facts_of
from cuejar.core.door import Tallies, Visit
from cuejar.core.holds import Holds, Layer
from cuejar.core.lanes import GOES_FIRST, Lane
from cuejar.core.price import Prices
from cuejar.core.resolve import Jars, Resolver
from cuejar.core.rig import Away
from cuejar.core.run import Run
from cuejar.core.score import LEFT_OUT, OVER, PENDING, UP, Lengths, RunBeat, Score, place

DEPTH = 8
"""How many cues deep a cue may fire another."""
REMEMBERED = 20_000
"""How many redemption ids the engine itself remembers; whoever runs it keeps all of them."""
FORGET_EVERY = 4096


class Engine:
    """The rules of the job, put together. See the module's text for its contract."""

    def __init__(
        self,
        book: Book,
        seed: int = 0,
        media: dict[str, h.MediaFacts] | None = None,
        tracing: bool = False,
    ) -> None:
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
        self.holds = Holds()
        self.tallies = Tallies()
        self.jars = Jars()
        self.prices = Prices()
        self.away = Away()
        self.seen: dict[str, None] = {}
        self.open: dict[str, set[str]] = {}  # redemptions not settled, with the runs they wait for
        self.reviews: dict[str, h.Redemption] = {}
        self.shut_out: frozenset[str] = frozenset()
        self._heap: list[tuple[int, int, str, Any]] = []
        self._serial = 0
        self.run_number = 0
        self.call_number = 0
        self._orders: list[o.Order] = []
        self._due_runs: list[Run] = []
        self._some_stale = False
        self._admissions = 0
        self._scenes: list[tuple[str, int]] = []
        self.resolver = Resolver(book, Lengths(book, media), self.jars, self.holds, seed)
        self._take(book)
        for path, value in self.prices.properties(self.now):
            self.holds.at_rest(path, value)

    # The book

    def _take(self, book: Book) -> None:
        self.book = book
        self.calls = Calls(book)
        self.scores = {cue.id: Score(cue, book) for cue in book.cues}
        self.lengths = self.resolver.lengths = Lengths(book, self.media)
        self.resolver.book = book
        kept = self.lanes
        self.lanes = {}
        for settings in book.all_lanes:
            lane = self.lanes[settings.id] = kept.pop(settings.id, None) or Lane(settings)
            lane.settings = settings
        for lane in kept.values():
            first = next(iter(self.lanes.values()))
            first.running += lane.running
            first.waiting += lane.waiting
        self.away.take(book)
        self.prices.take(book)
        self._schedule_clocks()

    def _new_book(self, happening: h.NewBook) -> None:
        self._take(book_from(happening.book))
        for lane in list(self.lanes.values()):
            for run in list(lane.waiting):
                score = self.scores.get(run.score.id)
                if score is None:
                    self._drop(lane, run, "by_hand")
                    continue
                run.score = score
                run.head = score.entry in GOES_FIRST
                lane.waiting.remove(run)
                self.lanes[score.lane].join(run)
        for path, value in self.prices.properties(self.now):
            if self.holds.rest_of(path) != value:
                self.holds.keep(path, value)

    # The way in

    def due(self) -> int | None:
        """The next instant (ms) at which the engine wants to be asked, or None."""
        while self._heap and not self._still_due(self._heap[0]):
            heapq.heappop(self._heap)
        return self._heap[0][0] if self._heap else None

    def advance(self, now: int) -> list[tuple[int, o.Order]]:
        """Handles everything that is due up to and at ``now``, instant by instant.

        Returns:
            The orders, each with its instant in ms.
        """
        out: list[tuple[int, o.Order]] = []
        while (at := self.due()) is not None and at <= now:
            self.now = max(self.now, at)
            clocks = self._take_due(at)
            self._step(self.now, due=True)
            out += [(self.now, order) for order in self._orders]
            self._orders = []
            for clock in clocks:
                self._dispatch(clock)
                out += [(self.now, order) for order in self._orders]
                self._orders = []
        self.now = max(self.now, now)
        return out

    def handle(self, happening: h.Happening, now: int) -> list[tuple[int, o.Order]]:
        """Handles what is due by ``now``, then the happening, in steps of their own.

        Args:
            now: ms; an instant before the last one counts as the last one.

        Returns:
            The orders, each with its instant in ms.
        """
        out = self.advance(now)
        self._dispatch(happening)
        out += [(self.now, order) for order in self._orders]
        self._orders = []
        return out

    def _dispatch(self, happening: Any) -> None:
        _HANDLERS[happening.kind](self, happening)
        self._step(self.now)
        while self._scenes:
            scene, depth = self._scenes.pop(0)
            if depth < DEPTH:
                self._called(h.SceneShown(scene), depth=depth + 1)
                self._step(self.now)

    def _emit(self, order: o.Order) -> None:
        self._orders.append(order)

    # What is due

    def calendar(self) -> list[list[Any]]:
        """What is on the heap and still counts, as [at ms, what, thing]."""
        return [[at, what, thing] for at, _, what, thing in sorted(self._heap, key=lambda e: e[:2]) if self._still_due((at, _, what, thing))]

    def reschedule(self, entries: list[list[Any]]) -> None:
        """Fills the heap after a restore: clocks and prices from ``entries``, the rest from the runs and lanes."""
        self._heap = []
        for at, what, thing in entries:
            if what == "price":
                self.prices.next_change(thing, self.now)
            self._push(at, what, tuple(thing) if what == "clock" else thing)
        for run in self.runs.values():
            if run.next_at is not None:
                self._push(run.next_at, "run", run)
            elif run.started_at is None:
                self._push(run.wait_until, "stale", run)
        for lane in self.lanes.values():
            if lane.waiting and lane.gap_until > self.now:
                self._push(lane.gap_until, "gap", lane)

    def _push(self, at: int, what: str, thing: Any) -> None:
        self._serial += 1
        heapq.heappush(self._heap, (at, self._serial, what, thing))

    def _still_due(self, entry: tuple[int, int, str, Any]) -> bool:
        at, _, what, thing = entry
        if what == "run":
            return bool(thing.next_at == at and thing.id in self.runs)
        if what == "stale":
            return thing.started_at is None and thing.id in self.runs
        if what == "gap":
            return bool(thing.waiting and thing.gap_until == at)
        if what == "clock":
            return bool(thing[0] == self.stream and self.on_air)
        return self.prices.due_at(thing) == at

    def _take_due(self, at: int) -> list[h.Clock]:
        clocks = []
        while self._heap and self._heap[0][0] <= at:
            entry = heapq.heappop(self._heap)
            if not self._still_due(entry):
                continue
            _, _, what, thing = entry
            if what == "run":
                self._due_runs.append(thing)
            elif what == "stale":
                self._some_stale = True
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

    # One step

    def _step(self, now: int, due: bool = False) -> None:
        if due:
            runs = sorted(self._due_runs, key=lambda run: run.number)
            self._due_runs = []
            for run in runs:
                self._end_beats(run, now)
            for run in runs:
                self._start_beats(run, now)
            for run in runs:
                if run.id in self.runs:
                    self._after_beats(run, now)
        self._start_runs(now)
        if self._some_stale and self._drop_stale(now):
            self._start_runs(now)
        for order in self.holds.flush(self.away.holds):
            self._emit(order)
            if order.path == "broadcast/scene" and isinstance(order.value, str):
                depth = self.runs[order.run].depth if order.run in self.runs else 0
                self._scenes.append((order.value, depth))

    def _end_beats(self, run: Run, now: int) -> None:
        for beat in run.beats:
            if beat.state != UP:
                continue
            if beat.end is None and beat.start is not None and now >= beat.start + self.lengths.open_cap:
                beat.end = now
                self._replan(run, now)
            if beat.end is not None and beat.end <= now:
                self._take_down(run, beat)

    def _take_down(self, run: Run, beat: RunBeat) -> None:
        beat.state = OVER
        if beat.failed is not None or beat.spec.off:
            return
        if beat.spec.way == "shown":
            self._emit(o.Hide(run.id, beat.spec.id))
        duck = beat.spec.look.get("duck", 1)
        if duck != 1:
            self.holds.lift("sound/others", run.id, beat.spec.id)
        for path, _ in beat.sets:
            self.holds.lift(path, run.id, beat.spec.id)

    def _start_beats(self, run: Run, now: int) -> None:
        for beat in run.beats:
            if beat.state == PENDING and beat.start is not None and beat.start <= now:
                self._put_up(run, beat, now)

    def _put_up(self, run: Run, beat: RunBeat, now: int) -> None:
        spec = beat.spec
        lasts = spec.way != "strike" and spec.length != "keep"
        beat.state = UP if (beat.end is None or beat.end > now) else OVER
        if beat.failed is not None or spec.off:
            return
        if lasts and beat.state == OVER:
            return
        if spec.way == "shown":
            self._emit(o.Show(run.id, spec.id, spec.kind, beat.value, beat.end, now, spec.look))
            duck = spec.look.get("duck", 1)
            if duck != 1:
                self.holds.lay("sound/others", Layer(run.id, spec.id, duck), 0)
        elif spec.way == "hold":
            fade_in, fade_out = ms(getattr(spec.beat, "fade_in_s", 0)), ms(getattr(spec.beat, "fade_out_s", 0))
            for path, value in beat.sets:
                if spec.length == "keep":
                    self.holds.keep(path, value, fade_in)
                else:
                    self.holds.lay(path, Layer(run.id, spec.id, value, fade_out), fade_in)
        else:
            self._strike(run, beat, now)

    def _strike(self, run: Run, beat: RunBeat, now: int) -> None:
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
            self._emit(o.Strike(run.id, spec.id, spec.kind, beat.value))

    def _after_beats(self, run: Run, now: int) -> None:
        """Finishes the run if nothing is left of it, else says when it wants to be asked again."""
        next_at: int | None = None
        alive = False
        for beat in run.beats:
            if beat.state == PENDING:
                at = beat.start
            elif beat.state == UP:
                at = beat.end if beat.end is not None or beat.start is None else beat.start + self.lengths.open_cap
            else:
                continue
            alive = True
            if at is not None and (next_at is None or at < next_at):
                next_at = at
        if not alive or next_at is None:
            self._finish(run, "ended", now)
        elif next_at != run.next_at:
            run.next_at = next_at
            self._push(next_at, "run", run)

    def _replan(self, run: Run, now: int) -> None:
        for beat in place(run.beats, run.started_at or 0, now, run.cap_at):
            self._emit(o.Prolong(run.id, beat.spec.id, beat.end))

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
        for lane in self.lanes.values():
            if run in lane.running:
                lane.ended(run, now)
                if lane.waiting and lane.gap_until > now:
                    self._push(lane.gap_until, "gap", lane)
        if not run.tried:
            self.tallies.finished(run.score.doorway, run.viewer, now)
        self._emit(o.Finish(run.id, how))

    # Lanes

    def _start_runs(self, now: int) -> None:
        again = True
        while again:
            again = False
            for lane in self.lanes.values():
                while lane.waiting and self.solo is None:
                    run = lane.next_to_start(now)
                    if run is None:
                        break
                    self._start(lane, run, now)
                    again = True

    def _start(self, lane: Lane, run: Run, now: int) -> None:
        if run.score.entry == "replace":
            for other in [other for other in lane.running if other.score.id == run.score.id]:
                self._finish(other, "replaced", now)
        lane.started(run)
        if run.score.entry == "solo":
            self.solo = run
        self.tallies.started(run.score.doorway, run.viewer, run.admitted_at)
        self._begin(run, now)

    def _begin(self, run: Run, now: int) -> None:
        """The run starts: everything is resolved and placed, and what begins at once begins."""
        run.started_at = now
        if not run.tried:
            self.resolver.started(run)
        specs = run.score.specs
        if run.speed > 1:
            specs = [spec.faster(run.speed) for spec in specs]
        run.beats = [RunBeat(spec, spec.own) for spec in specs]
        made = self.resolver.resolve(run)
        if run.speed > 1:
            for beat in run.beats:
                if beat.own is not None and beat.spec.own is None:
                    beat.own = max(1, beat.own // run.speed)
        place(run.beats, now, now)
        self._emit(o.Start(run.id, run.score.id, run.call, run.until()))
        self._orders += made
        there = [beat for beat in run.beats if beat.state != LEFT_OUT]
        if there and all(beat.failed is not None for beat in there):
            self._settle_lost(run)
            self._finish(run, "failed", now)
            return
        self._settle_started(run)
        self._start_beats(run, now)
        if run.id in self.runs:
            self._after_beats(run, now)

    def _drop_stale(self, now: int) -> bool:
        dropped = self._some_stale = False
        for lane in self.lanes.values():
            for run in [run for run in lane.waiting if run.wait_until <= now]:
                self._drop(lane, run, "stale")
                dropped = True
        return dropped

    def _drop(self, lane: Lane, run: Run, how: str) -> None:
        lane.waiting.remove(run)
        self.runs.pop(run.id, None)
        same_stream = run.stream == self.stream
        doorway = run.score.doorway
        self.tallies.given_back(doorway, run.viewer, run.admitted_at, run.stream > 0, same_stream)
        self._emit(o.Drop(run.id, how))
        self._settle_lost(run)

    # Settling

    def _settle_started(self, run: Run) -> None:
        if run.redemption in self.open:
            del self.open[run.redemption]
            self._emit(o.Settle(run.redemption, "fulfilled"))

    def _settle_lost(self, run: Run) -> None:
        if run.redemption not in self.open:
            return
        waiting = self.open[run.redemption]
        waiting.discard(run.id)
        if not waiting:
            del self.open[run.redemption]
            self._emit(o.Settle(run.redemption, "refunded"))
            self._given_back(run)

    def _given_back(self, run: Run) -> None:
        reward = run.facts.get("reward_id")
        if reward is not None and self.prices.given_back(reward, self.now, run.admitted_at):
            self._reprice(reward)

    def _reprice(self, reward: str) -> None:
        cost = self.prices.cost(reward, self.now)
        path = f"reward/{reward}/cost"
        if self.holds.rest_of(path) != cost:
            self.holds.keep(path, cost)
        at = self.prices.next_change(reward, self.now)
        if at is not None:
            self._push(at, "price", reward)

    # Calls

    def _call_id(self, happening: Any) -> str:
        if getattr(happening, "id", None):
            return str(happening.id)
        self.call_number += 1
        return f"{happening.kind}-{self.call_number}"

    def _redeemed(self, redemption: h.Redemption) -> None:
        if redemption.id in self.seen:
            self._emit(o.Verdict(redemption.id, None, "ignored", "repeat", None))
            return
        self.seen[redemption.id] = None
        if len(self.seen) > REMEMBERED:
            del self.seen[next(iter(self.seen))]
        reward = self.prices.rewards.get(redemption.reward)
        if reward is not None and reward.review:
            self.reviews[redemption.id] = redemption
            self._emit(o.AskReview(redemption.id))
            return
        self._called(redemption)

    def _reviewed(self, review: h.Review) -> None:
        redemption = self.reviews.pop(review.redemption, None)
        if redemption is None:
            return
        if review.ok:
            self._called(redemption)
        else:
            self._emit(o.Settle(redemption.id, "refunded"))

    def _called(self, happening: Any, depth: int = 0) -> None:
        called = list(self.calls.of(happening))
        if not called:
            if happening.kind == "redemption":
                self._emit(o.Verdict(happening.id, None, "ignored", "no_cue", None))
            return
        call = self._call_id(happening)
        viewer = getattr(happening, "viewer", None)
        redemption = happening.id if happening.kind == "redemption" else None
        facts = facts_of(happening, self.book)
        if redemption is not None:
            facts["reward_id"] = happening.reward
            self.open[redemption] = set()
        verdicts = [self._at_door(cue, call, viewer, text, facts, redemption, depth) for cue, text in called]
        if redemption is None:
            return
        if any(verdict != "turned_away" for verdict in verdicts) and self.prices.sold(happening.reward, self.now):
            self._reprice(happening.reward)
        if "extended" in verdicts or "let_in" not in verdicts:
            del self.open[redemption]
            self._emit(o.Settle(redemption, "fulfilled" if "extended" in verdicts else "refunded"))

    def _padded(self, pad: h.Pad) -> None:
        if pad.cue in self.scores:
            self._at_door(pad.cue, self._call_id(pad), None, pad.text, {}, None, 0, pad=True)

    def _clocked(self, clock: h.Clock) -> None:
        if clock.cue in self.scores:
            self._at_door(clock.cue, self._call_id(clock), None, "", {}, None, 0)

    def _fired(self, by: Run, cue: str) -> None:
        if cue in self.scores:
            call = f"{by.id}/{cue}"
            self._at_door(cue, call, by.viewer, by.text.text, dict(by.facts), None, by.depth + 1, pad=True)

    def _tried(self, attempt: h.Try) -> None:
        score = self.scores.get(attempt.cue)
        if score is None:
            return
        run = self._new_run(score, self._call_id(attempt), attempt.viewer, {}, 0)
        visit = self._visit(score, attempt.viewer, attempt.text, None)
        score.doorway.trace(visit)
        run.text = visit.read
        run.tried, run.speed, run.forced = True, attempt.speed, {**attempt.rolled, **attempt.drawn}
        self._emit(o.Verdict(run.call, score.id, "let_in", None, run.id, "a try"))
        self._begin(run, self.now)

    def _visit(self, score: Score, viewer: h.Viewer | None, text: str, run: Run | None) -> Visit:
        scene = self.holds.showing("broadcast/scene")
        return Visit(
            self.now,
            score.doorway,
            self.tallies.of(score.id),
            self.tallies.shared,
            viewer,
            text,
            self.on_air,
            self.category,
            scene if isinstance(scene, str) else None,
            (lambda: None) if run is None else (lambda: self._lane_reason(score, run)),
            self.shut_out,
        )

    def _new_run(self, score: Score, call: str, viewer: h.Viewer | None, facts: dict[str, Any], depth: int) -> Run:
        self.run_number += 1
        run = Run(str(self.run_number), self.run_number, score, call, viewer=viewer, facts=facts, depth=depth)
        run.admitted_at, run.stream = self.now, self.stream if self.on_air else 0
        self.runs[run.id] = run
        return run

    def _lane_reason(self, score: Score, run: Run) -> str | None:
        lane = self.lanes[score.lane]
        if score.entry == "refuse" and any(other.score.id == score.id for other in lane.running + lane.waiting):
            return "busy"
        if score.entry == "extend":
            running = self._running(score)
            if running is not None:
                return None if self._can_extend(running) else "busy"
        if score.entry in GOES_FIRST or len(lane.waiting) < lane.settings.line:
            return None
        return None if self.solo is None and lane.would_start(run, self.now) else "lane_full"

    def _at_door(
        self,
        cue: str,
        call: str,
        viewer: h.Viewer | None,
        text: str,
        facts: dict[str, Any],
        redemption: str | None,
        depth: int,
        pad: bool = False,
    ) -> str:
        """One call at one door. Returns the verdict."""
        score = self.scores[cue]
        doorway = score.doorway
        run = Run("", 0, score, call, redemption, viewer, facts=facts, depth=depth)
        visit = self._visit(score, viewer, text, run)
        trace = doorway.trace(visit, pad) if self.tracing else ()
        failed = doorway.verdict(visit, pad)
        if failed is not None:
            self._emit(o.Verdict(call, cue, "turned_away", failed.reason, None, failed.detail, trace))
            return "turned_away"
        running = self._running(score) if score.entry == "extend" else None
        self.tallies.admitted(doorway, viewer, self.now, self.on_air)
        self._admissions += 1
        if self._admissions % FORGET_EVERY == 0:
            self.tallies.forget({cue: score.doorway for cue, score in self.scores.items()}, self.now)
        if running is not None:
            self.tallies.started(doorway, viewer, self.now)
            self._emit(o.Verdict(call, cue, "extended", None, running.id, visit.read.note, trace))
            self._extend(running)
            self.tallies.finished(doorway, viewer, self.now)
            return "extended"
        self.run_number += 1
        run.number, run.id = self.run_number, str(self.run_number)
        run.admitted_at, run.text = self.now, visit.read
        run.stream = self.stream if self.on_air else 0
        run.head = score.entry in GOES_FIRST
        self.runs[run.id] = run
        lane = self.lanes[score.lane]
        run.wait_until = self.now + ms(lane.settings.wait_s)
        lane.join(run)
        if redemption is not None:
            self.open[redemption].add(run.id)
        self._emit(o.Verdict(call, cue, "let_in", None, run.id, visit.read.note, trace))
        if score.speaks:
            self._prepare(run)
        if self.solo is None and lane.next_to_start(self.now) is run:
            return "let_in"
        if run.wait_until <= self.now:
            self._some_stale = True
        self._push(run.wait_until, "stale", run)
        if lane.gap_until > self.now:
            self._push(lane.gap_until, "gap", lane)
        return "let_in"

    def _prepare(self, run: Run) -> None:
        for spec in run.score.specs:
            if spec.kind == "speech" and isinstance(spec.beat.text, str):  # type: ignore[union-attr]
                beat: Any = spec.beat
                self._emit(o.Prepare(run.id, spec.id, self.resolver.beforehand(run, beat.text), beat.part))

    # Extending, releasing, ending

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

    def _can_extend(self, run: Run) -> bool:
        return bool(self._extendable(run))

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

    def _all_to_rest(self, _: h.AllToRest) -> None:
        for lane in self.lanes.values():
            for run in list(lane.waiting):
                self._drop(lane, run, "by_hand")
        for run in list(self.runs.values()):
            self._finish(run, "stopped", self.now)

    def _dropped(self, drop: h.DropCall) -> None:
        if drop.redemption in self.reviews:
            self._reviewed(h.Review(drop.redemption, False))
            return
        for lane in self.lanes.values():
            for run in list(lane.waiting):
                if (drop.redemption is not None and run.redemption == drop.redemption) or run.id == drop.run:
                    self._drop(lane, run, "by_hand")

    def _moved(self, move: h.Move) -> None:
        for lane in self.lanes.values():
            run = next((run for run in lane.waiting if run.id == move.run), None)
            before = next((run for run in lane.waiting if run.id == move.before), None)
            if run is not None and run is not before:
                lane.move(run, before)

    # The stream, the gear, the library

    def _streamed(self, stream: h.Stream) -> None:
        if stream.category is not None:
            self.category = stream.category
        if stream.state == "live" and not self.on_air:
            self.on_air, self.stream_from = True, self.now
            self.stream += 1
            self.tallies.new_stream()
            for lane in self.lanes.values():
                lane.starts.clear()
            for reward in self.prices.new_stream():
                self._reprice(reward)
            self._schedule_clocks()
        elif stream.state == "ended" and self.on_air:
            self.on_air = False
        else:
            return
        self._called(stream)

    def _handed(self, hand: h.Hand) -> None:
        self.holds.hand(hand.path, hand.value)
        if hand.path == "broadcast/scene" and isinstance(hand.value, str):
            self._scenes.append((hand.value, 0))

    def _rested(self, rest: h.Rest) -> None:
        for path, value in rest.values.items():
            self.holds.at_rest(path, value)

    def _geared(self, state: h.GearState) -> None:
        prefixes = self.away.set(state.gear, state.state == "lost")
        if state.state == "back":
            self.holds.touch(lambda path: path.startswith(prefixes))

    def _media_known(self, known: h.MediaKnown) -> None:
        self.media = dict(known.media)
        self.lengths.media = self.media

    def _foldered(self, folder: h.Folder) -> None:
        self.jars.folders[folder.jar] = folder.values

    def _sourced(self, sources: h.Sources) -> None:
        self.resolver.sources[sources.scene] = sources.sources

    def _spoken(self, speech: h.SpeechReady) -> None:
        run = self.runs.get(speech.run)
        if run is not None and run.started_at is None:
            run.speech_ms[speech.beat] = max(1, ms(speech.length_s))

    # The whole state

    def snapshot(self) -> dict[str, Any]:
        """Everything the engine knows, as JSON. `restore` with the same book goes on as if nothing had been."""
        from cuejar.core.state import snapshot_of

        return snapshot_of(self)

    @classmethod
    def restore(cls, data: dict[str, Any], tracing: bool = False) -> Engine:
        from cuejar.core.state import engine_from

        return engine_from(cls, data, tracing)


_HANDLERS: dict[str, Callable[[Engine, Any], None]] = {
    "stream": Engine._streamed,
    "redemption": Engine._redeemed,
    "chat": Engine._called,
    "tip": Engine._called,
    "follow": Engine._called,
    "membership": Engine._called,
    "raid": Engine._called,
    "hook": Engine._called,
    "pad": Engine._padded,
    "clock": Engine._clocked,
    "try": Engine._tried,
    "hand": Engine._handed,
    "rest": Engine._rested,
    "all_to_rest": Engine._all_to_rest,
    "release": Engine._released,
    "drop": Engine._dropped,
    "move": Engine._moved,
    "review": Engine._reviewed,
    "gear": Engine._geared,
    "book": Engine._new_book,
    "media": Engine._media_known,
    "folder": Engine._foldered,
    "sources": Engine._sourced,
    "speech": Engine._spoken,
}
