"""The reception: a call on its way to the door, and to its place in line.

This part of the engine knows who is let in; what becomes of them then, `outcomes` knows. A redemption that calls no cue
is left alone; a repeated id is ignored. It is the `Host` of the door, and takes what cues and counts call (`Calling`).
"""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Sequence
from dataclasses import replace
from typing import TypeGuard

from cuejar.core.book.book import Book
from cuejar.core.engine.arrivals import Arrival, arrived_of
from cuejar.core.engine.counting import Counting
from cuejar.core.engine.dues import ClockCall
from cuejar.core.engine.outcomes import Outcomes
from cuejar.core.facts import happenings as h
from cuejar.core.facts import orders as o
from cuejar.core.facts.paths import reward_path
from cuejar.core.kinds.speech import SpeechBeat, is_known_before
from cuejar.core.parts.base import JsonObject
from cuejar.core.rules.calls import Calls, facts_of
from cuejar.core.rules.door import Visit
from cuejar.core.rules.run import Run
from cuejar.core.rules.score import Score
from cuejar.core.rules.tallies import Cooldown
from cuejar.core.rules.tickets import cues_of

REMEMBERED = 20_000
"""How many redemption ids the engine itself remembers; its caller keeps all of them."""
FORGET_EVERY = 4096
"""The number of admissions after which expired cooldowns of viewers are dropped."""


class Reception:
    """Calls, doors and settling.

    Attributes:
        scores: every cue of the book, laid out.
        reviews: calls waiting for the streamer's approval.
        clocks: clock calls due in this step.
        by_reward: the cues that each reward calls.
        asks_scene: whether a door or a set depends on the current scene.
        twins: an instant, and how many calls of each kind without an id it had.
    """

    def __init__(self, outcomes: Outcomes, tracing: bool) -> None:
        self.outcomes, self.tracing = outcomes, tracing
        self.night, self.calendar = outcomes.night, outcomes.calendar
        self.stage, self.waiting = outcomes.stage, outcomes.waiting
        self.holds, self.resolver = self.stage.holds, self.stage.resolver
        self.tallies, self.prices = outcomes.tallies, outcomes.prices
        self.purse, self.points = outcomes.purse, outcomes.points
        self.counting = Counting(self.stage, self.resolver, self)
        self.scores: dict[str, Score] = {}
        self.shared_before = Cooldown()
        self.seen: OrderedDict[str, None] = OrderedDict()
        self.reviews: dict[str, h.Texted] = {}
        self.run_number = 0
        self.call_number = 0
        self.clocks: list[h.Clock] = []
        self.by_reward: dict[str, list[Score]] = {}
        self.twins: tuple[int, dict[str, int]] = (0, {})
        self.asks_scene = False

    def take(self, book: Book) -> None:
        """Takes a new book."""
        self.shares_clock = book.house.shared_cooldown_s is not None
        self.how_reviewed = book.reading.review
        self.calls = Calls(book)
        self.scores = {cue.id: Score(cue, book) for cue in book.cues}
        self.waiting.take(book.all_lanes)
        called = cues_of(book)
        self.by_reward = {reward: [self.scores[cue.id] for cue in cues] for reward, cues in called.items()}
        self.outcomes.doubtful = True
        self.asks_scene = any(cue.door.scenes for cue in book.cues) or any(
            named.scenes or named.off_scenes for named in book.sets
        )
        self.purse.take(book.points, self.night.now, self.night.on_air)
        self.prices.take(book)
        self._schedule_clocks()

    def sort_anew(self) -> None:
        """Moves waiting runs to the lanes of their cues, and works out the prices of rewards."""
        self.waiting.sort_anew(self.scores.get)
        for path, value in self.prices.properties(self.night.now):
            if self.holds.rest_of(path) != value:
                self.holds.keep(path, value)

    # What the door may ask

    @property
    def now(self) -> int:
        return self.night.now

    @property
    def on_air(self) -> bool:
        return self.night.on_air

    @property
    def category(self) -> str | None:
        return self.night.category

    # The stream and its clock

    def streamed(self, stream: h.Stream) -> None:
        night = self.night
        if stream.category is not None:
            night.category = stream.category
        self.outcomes.doubtful = True
        if stream.state == "live" and not night.on_air:
            night.on_air, night.stream_from = True, night.now
            night.stream += 1
            self.tallies.new_stream()
            self.waiting.new_stream()
            self.counting.new_stream()
            for reward in self.prices.new_stream():
                self.outcomes.reprice(reward)
            self.purse.begin(night.now)
            self._schedule_clocks()
        elif stream.state == "ended" and night.on_air:
            night.on_air = False
            self.purse.end(night.now)
        else:
            return
        self.called(stream)

    def _schedule_clocks(self) -> None:
        night = self.night
        self.calendar.leave_out(ClockCall)
        if not night.on_air:
            return
        for call, cue in self.calls.clocks:
            if call.at_time is not None:
                continue  # It comes from outside, as a happening.
            every = round((call.every_min or 0) * 60_000)
            if every:
                passed = (night.now - night.stream_from) // every + 1
                self.calendar.note(night.stream_from + passed * every, ClockCall(self, night.stream, cue.id, every))
            else:
                at = night.stream_from + round((call.at_min or 0) * 60_000)
                if at > night.now or night.now == night.stream_from:
                    self.calendar.note(at, ClockCall(self, night.stream, cue.id, 0))

    # Calls

    def _call_id(self, happening: h.Called | h.Pad | h.Try) -> str:
        if getattr(happening, "id", None):
            return str(happening.id)
        self.call_number += 1
        return f"{happening.kind}-{self.call_number}"

    def redeemed(self, redemption: h.Redemption) -> None:
        if redemption.repeat or redemption.id in self.seen:
            self._ignored(redemption, "repeat")
            return
        self.seen[redemption.id] = None
        if len(self.seen) > REMEMBERED:
            self.seen.popitem(last=False)
        reward = self.prices.rewards.get(redemption.reward)
        if redemption.cost is None and reward is not None:
            redemption = replace(redemption, cost=self._price(redemption.reward))
        if reward is not None and reward.review:
            self.points.meet(redemption.viewer, True)
            self.reviews[redemption.id] = redemption
            self.night.emit(o.AskReview(redemption.id, redemption.cost or 0))
            return
        self.called(redemption)

    def _ignored(self, redemption: h.Redemption, reason: str) -> None:
        self.night.emit(
            o.Verdict(
                redemption.id, None, "ignored", reason, None, cost=redemption.cost or 0, arrived=arrived_of(redemption)
            )
        )

    def _price(self, reward: str) -> int | None:
        """Returns the price of a reward at this instant, whatever holds it."""
        cost = self.holds.showing(reward_path(reward, "cost"))
        return cost if isinstance(cost, int) else None

    def _luck(self, sort: str) -> str:
        """Returns what tells a call without an id apart from all others: what it is, when, and its number within the
        instant.
        """
        now = self.night.now
        at, there = self.twins
        if at != now:
            there = {}
        there[sort] = there.get(sort, 0) + 1
        self.twins = (now, there)
        return f"{sort}/{now}/{there[sort]}"

    def reviewed(self, review: h.Review) -> None:
        waiting = self.reviews.pop(review.redemption, None)
        if waiting is None:
            return
        if review.ok:
            self.called(waiting, reviewed=True)
            return
        self._sent_back(review.redemption, waiting)
        if waiting.kind == "redemption" and not self._is_elsewhere(waiting):
            self.night.emit(o.Settle(waiting.id, "refunded"))

    def _sent_back(self, call: str, waiting: h.Called) -> None:
        """Has a line for every cue that a call would have called, or one without a cue."""
        if waiting.kind == "redemption":
            cues: list[str] = [score.id for score in self.by_reward.get(waiting.reward, ())]
        else:
            cues = [cue for cue, _, _ in self.calls.of(waiting)]
        cost, arrived = getattr(waiting, "cost", None) or 0, arrived_of(waiting)
        for cue in cues or (None,):
            self.night.emit(o.Verdict(call, cue, "turned_away", "sent_back", None, cost=cost, arrived=arrived))

    def _is_elsewhere(self, redemption: h.Redemption) -> bool:
        """Returns whether its reward was made elsewhere: only its maker can settle it at the channel."""
        reward = self.prices.rewards.get(redemption.reward)
        return reward is not None and reward.elsewhere

    # Merged viewers

    def forgotten(self, forget: h.Forget) -> None:
        """Drops the viewer's waiting runs; running ones finish and aren't recorded, and so do draws that they are in."""
        for call, waiting in list(self.reviews.items()):
            if getattr(waiting, "viewer", None) is not None and waiting.viewer.id == forget.viewer:  # type: ignore[union-attr]
                self.reviewed(h.Review(call, False))
        for run in list(self.night.runs.values()):
            if not self.resolver.tells_of(run, forget.viewer):
                continue
            if run.started_at is None:
                self.waiting.drop(run, "by_hand")
            else:
                self.stage.finish(run, "stopped", self.night.now)
        self.stage.leave_late(forget.viewer)
        self.purse.forget(forget.viewer)
        self.resolver.forget(forget.viewer)

    def _must_be_reviewed(self, happening: h.Called, called: Sequence[Score]) -> TypeGuard[h.Texted]:
        """Returns whether a text to be read aloud needs the streamer's approval first."""
        how = self.how_reviewed
        if how == "none":
            return False
        viewer = getattr(happening, "viewer", None)
        if viewer is None or not getattr(happening, "text", "").strip():
            return False
        if not any(score.speaks for score in called):
            return False
        return how == "all" or viewer.id not in self.outcomes.heard

    def called(self, happening: h.Called, depth: int = 0, reviewed: bool = False) -> None:
        if not reviewed:
            self.points.hear(happening)
        if happening.kind == "redemption":
            scores = self.by_reward.get(happening.reward)
            if scores is None:
                self.counting.feed(happening)
                self._ignored(happening, "no_cue")
            elif reviewed or not self._waits_for_a_yes(happening.id, happening, scores):
                self._redeem(happening, scores)
            return
        if not reviewed:  # A call that waited for approval was counted when it came.
            self.counting.feed(happening)
        called = self.calls.of(happening)
        if not called:
            return
        call = self._call_id(happening)
        if reviewed or not self._waits_for_a_yes(call, happening, [self.scores[cue] for cue, _, _ in called]):
            self.before_a_call()
            luck = "" if getattr(happening, "id", None) else self._luck(happening.kind)
            viewer = getattr(happening, "viewer", None)
            arrival = Arrival(call, arrived_of(happening), viewer, depth, happening, luck=luck)
            for cue, text, cost in called:
                self._at_door(self.scores[cue], arrival, text, cost)

    # Counts

    def count_up(self, name: str, add: int, *, run: Run, viewer: h.Viewer | None) -> None:
        self.counting.up(name, add, run=run, viewer=viewer)

    def count_called(self, cue: str, happening: h.Called | None, run: Run | None, viewer: h.Viewer | None) -> None:
        self.call_number += 1
        depth = run.depth + 1 if run is not None else 0
        call, arrived = f"count-{self.call_number}", o.Arrived("count")
        arrival = Arrival(call, arrived, viewer, depth, happening, fired_by=run, luck=self._luck("count"))
        arrival.cost = 0  # It was paid for by what was counted.
        self.before_a_call()
        self._at_door(self.scores[cue], arrival, "")

    def give(self, run: Run, viewer: str, name: str, points: int) -> None:
        self.points.give(run, viewer, name, points)

    def quietened(self, quiet: h.Quiet) -> None:
        self.night.quiet = (float(quiet.share), self.night.now + round(quiet.for_s * 1000))

    def _waits_for_a_yes(self, call: str, happening: h.Called, scores: Sequence[Score]) -> bool:
        if not self._must_be_reviewed(happening, scores):
            return False
        self.reviews[call] = happening
        self.night.emit(o.AskReview(call, getattr(happening, "cost", None) or 0))
        return True

    def _redeem(self, redemption: h.Redemption, scores: Sequence[Score]) -> None:
        """Takes a redemption to the doors of its cues; it is settled at once if nothing of it waits."""
        night, settling, text = self.night, redemption.id, redemption.text
        self.before_a_call()
        if self._is_elsewhere(redemption):
            arrival = Arrival(settling, arrived_of(redemption), redemption.viewer, 0, redemption)
            for score in scores:
                self._at_door(score, arrival, text)
            self.counting.feed(redemption)
            return
        arrival = Arrival(settling, arrived_of(redemption), redemption.viewer, 0, redemption, settling)
        self.outcomes.open[settling] = set()
        let_in = extended = False
        for score in scores:
            verdict = self._at_door(score, arrival, text)
            if verdict == "let_in":
                let_in = True
            elif verdict == "extended":
                extended = True
        if (let_in or extended) and self.prices.sold(redemption.reward, night.now):
            self.outcomes.reprice(redemption.reward)
        if extended or not let_in:
            del self.outcomes.open[settling]
            night.emit(o.Settle(settling, "fulfilled" if extended else "refunded"))
            if extended:
                self.counting.feed(redemption)

    def before_a_call(self) -> None:
        """Fixes the shared clock for all cues of the coming call, so that none turns another away."""
        if self.shares_clock:
            self.shared_before = Cooldown(self.tallies.shared.latest())

    def padded(self, pad: h.Pad) -> None:
        if pad.cue in self.scores:
            self.before_a_call()
            arrival = Arrival(self._call_id(pad), arrived_of(pad), None, pad=True, luck=self._luck("pad"))
            self._at_door(self.scores[pad.cue], arrival, pad.text)

    def clocked(self, clock: h.Clock) -> None:
        if clock.cue in self.scores:
            self.before_a_call()
            arrival = Arrival(self._call_id(clock), arrived_of(clock), None, luck=self._luck("clock"))
            self._at_door(self.scores[clock.cue], arrival, "")

    def fired(self, by: Run, beat: str, cue: str, viewer: h.Viewer | None) -> None:
        if cue in self.scores:
            self.before_a_call()
            luck = f"{by.luck}/{beat}"
            call = f"{by.id}/{cue}"
            arrival = Arrival(call, o.Arrived("fire"), viewer, by.depth + 1, pad=True, fired_by=by, luck=luck)
            self._at_door(self.scores[cue], arrival, by.text.text)

    def tried(self, attempt: h.Try) -> None:
        score = self.scores.get(attempt.cue)
        if score is None:
            return
        run = Run("", 0, score, self._call_id(attempt), None, attempt.viewer)
        visit = Visit(self, score.doorway, self.tallies.of(score.id), attempt.viewer, attempt.text, self.night.now)
        score.doorway.read(visit)
        self._admit(run, visit)
        run.luck = self._luck("try")
        run.tried, run.speed, run.forced = True, attempt.speed, {**attempt.rolled, **attempt.drawn}
        arrived = arrived_of(attempt)
        self.night.emit(o.Verdict(run.call, score.id, "let_in", None, run.id, "a try", arrived=arrived))
        self.stage.guarded(run, self.night.now, self.stage.begin)

    # The door

    def scene(self) -> str | None:
        return self.resolver.scene()

    def has_gear(self, gear: str) -> bool:
        return self.resolver.has_gear(gear)

    def count(self, cue: str, viewer: str, name: str) -> int:
        return self.resolver.count(cue, viewer, name)

    def lane_reason(self, cue: str, viewer: h.Viewer | None) -> str | None:
        return self.waiting.reason(self.scores[cue], viewer)

    def _admit(self, run: Run, visit: Visit) -> None:
        self.run_number += 1
        run.number, run.id = self.run_number, str(self.run_number)
        run.admitted_at, run.text = self.night.now, visit.read
        run.stream = self.night.stream if self.night.on_air else 0
        self.night.runs[run.id] = run

    def _at_door(self, score: Score, arrival: Arrival, text: str, cost: int = 0) -> str:
        """Takes one call to one door. Returns the verdict."""
        doorway, night, viewer = score.doorway, self.night, arrival.viewer
        visit = Visit(self, doorway, self.tallies.of(score.id), viewer, text, night.now, cost)
        failed, trace = (
            doorway.answered(visit, arrival.pad) if self.tracing else (doorway.verdict(visit, arrival.pad), ())
        )
        if failed is not None:
            night.emit(
                o.Verdict(
                    arrival.call,
                    score.id,
                    "turned_away",
                    failed.reason,
                    None,
                    failed.detail,
                    trace,
                    arrival.cost,
                    arrival.arrived,
                )
            )
            return "turned_away"
        running = self.waiting.running(score) if score.entry == "extend" else None
        self.tallies.admitted(doorway, arrival.caller, night.now, night.on_air)
        if score.cap_stream is not None:
            self.outcomes.capped(score, visit.tally.stream)
        paid = self.points.spend(viewer, cost, arrival.call) if cost else 0
        if running is not None:
            self._extend(running, arrival, visit, trace, paid or arrival.cost)
            return "extended"
        run = Run("", 0, score, arrival.call, arrival.redemption, viewer, arrival.caller)
        self._admit(run, visit)
        run.luck = arrival.luck
        run.facts = self._facts(arrival, paid)
        run.paid, run.depth, run.head = paid, arrival.depth, score.goes_first
        self.waiting.join(run)
        if run.number % FORGET_EVERY == 0:
            self.tallies.forget({other: s.doorway for other, s in self.scores.items()}, night.now)
        if arrival.redemption is not None:
            self.outcomes.open[arrival.redemption].add(run.id)
        cost = paid or arrival.cost
        night.emit(
            o.Verdict(arrival.call, score.id, "let_in", None, run.id, visit.read.note, trace, cost, arrival.arrived)
        )
        if score.speaks:
            self._prepare(run)
        return "let_in"

    def _facts(self, arrival: Arrival, paid: int) -> JsonObject:
        """Returns what templates of the run may use of its call."""
        by, happening = arrival.fired_by, arrival.happening
        if happening is None or by is not None:
            return dict(by.facts) if by is not None else {}
        facts = facts_of(happening, self.prices.rewards)
        if paid:
            facts["cost"] = paid
        if arrival.redemption is not None:
            facts["reward_id"] = happening.reward  # type: ignore[union-attr]
        return facts

    def _extend(self, running: Run, arrival: Arrival, visit: Visit, trace: tuple[o.Check, ...], cost: int) -> None:
        """Extends the running run of the cue."""
        doorway, now = visit.doorway, self.night.now
        self.tallies.started(doorway, arrival.caller, now)
        note = visit.read.note
        self.night.emit(
            o.Verdict(arrival.call, running.score.id, "extended", None, running.id, note, trace, cost, arrival.arrived)
        )
        self.stage.extend(running)
        self.tallies.finished(doorway, arrival.caller, now)

    def _prepare(self, run: Run) -> None:
        for spec in run.score.specs:
            beat = spec.beat
            if isinstance(beat, SpeechBeat) and isinstance(beat.text, str) and is_known_before(beat):
                self.night.emit(o.Prepare(run.id, spec.id, self.resolver.beforehand(run, beat.text), beat.part))

    # By hand

    def let_go(self, drop: h.DropCall) -> None:
        """Drops a call by hand: everything of it that waits. What runs already goes on, and keeps its points."""
        if drop.redemption in self.reviews:
            self.reviewed(h.Review(drop.redemption, False))
            return
        for run in sorted(self._all_of(drop), key=lambda run: run.number):
            self.waiting.drop(run, "by_hand")

    def _all_of(self, drop: h.DropCall) -> list[Run]:
        """Returns the waiting runs that a call dropped by hand has."""
        redemption, named = drop.redemption, self.waiting.waiting(drop.run)
        if self.night.rules < 5:
            dropped = set(self.outcomes.open.get(redemption or "", ())) | {drop.run}
            return [run for one in dropped if (run := self.waiting.waiting(one)) is not None]
        if redemption is None and named is not None:
            redemption = named.redemption
        if redemption is None:
            return [named] if named is not None else []
        return [run for run in self.night.runs.values() if run.started_at is None and run.redemption == redemption]

    def all_to_rest(self, _: h.AllToRest) -> None:
        self.waiting.drop_all()
        for run in list(self.night.runs.values()):
            self.stage.finish(run, "stopped", self.night.now)
        self.stage.leave_late()
