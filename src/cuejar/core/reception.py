"""The reception: from a call to its door, its lane and its settlement.

This half of the engine knows who is let in, who waits, who starts, and what becomes of a redemption: it is *fulfilled*
when the first of its runs starts, *refunded* when every cue it called turned it away or dropped it before it ran. One
that calls no cue is left alone; one whose id came before is ignored.
"""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any

from cuejar.core import happenings as h
from cuejar.core import orders as o
from cuejar.core.calls import facts_of
from cuejar.core.door import Visit
from cuejar.core.lanes import GOES_FIRST, Lane
from cuejar.core.run import Run
from cuejar.core.stage import Stage
from cuejar.core.tallies import Clock

REMEMBERED = 20_000
"""How many redemption ids the engine itself remembers; whoever runs it keeps all of them."""
FORGET_EVERY = 4096
"""After how many admissions viewers' clocks that have run out are let go."""


class Reception(Stage):
    """Calls, doors, lanes and settling."""

    # Calls

    def _call_id(self, happening: Any) -> str:
        if getattr(happening, "id", None):
            return str(happening.id)
        self.call_number += 1
        return f"{happening.kind}-{self.call_number}"

    def _redeemed(self, redemption: h.Redemption) -> None:
        if redemption.repeat or redemption.id in self.seen:
            self._emit(o.Verdict(redemption.id, None, "ignored", "repeat", None))
            return
        self.seen[redemption.id] = None
        if len(self.seen) > REMEMBERED:
            self.seen.popitem(last=False)
        reward = self.prices.rewards.get(redemption.reward)
        if reward is not None and reward.review:
            self.reviews[redemption.id] = redemption
            self._emit(o.AskReview(redemption.id))
            return
        self._called(redemption)

    def _reviewed(self, review: h.Review) -> None:
        waiting = self.reviews.pop(review.redemption, None)
        if waiting is None:
            return
        if review.ok:
            self._called(waiting, reviewed=True)
        elif waiting.kind == "redemption":
            self._emit(o.Settle(waiting.id, "refunded"))

    def _must_be_reviewed(self, happening: Any, cues: Iterable[str]) -> bool:
        """Whether a text would be read aloud and waits for the streamer's yes first."""
        how = self.book.reading.review
        viewer = getattr(happening, "viewer", None)
        if how == "none" or viewer is None or not getattr(happening, "text", "").strip():
            return False
        if not any(self.scores[cue].speaks for cue in cues):
            return False
        return how == "all" or viewer.id not in self.heard

    def _called(self, happening: Any, depth: int = 0, reviewed: bool = False) -> None:
        called = self.calls.of(happening)
        if called and not reviewed and self._must_be_reviewed(happening, (cue for cue, _ in called)):
            call = self._call_id(happening)
            self.reviews[call] = happening
            self._emit(o.AskReview(call))
            return
        if not called:
            if happening.kind == "redemption":
                self._emit(o.Verdict(happening.id, None, "ignored", "no_cue", None))
            return
        call = self._call_id(happening)
        viewer = getattr(happening, "viewer", None)
        facts = facts_of(happening, self.prices.rewards)
        self._before_a_call()
        if happening.kind != "redemption":
            for cue, text in called:
                self._at_door(cue, call, viewer, text, facts, None, depth)
            return
        facts["reward_id"] = happening.reward
        redemption = happening.id
        self.open[redemption] = set()
        verdicts = [self._at_door(cue, call, viewer, text, facts, redemption, depth) for cue, text in called]
        let_in = "let_in" in verdicts
        if (let_in or "extended" in verdicts) and self.prices.sold(happening.reward, self.now):
            self._reprice(happening.reward)
        if not let_in or "extended" in verdicts:
            del self.open[redemption]
            self._emit(o.Settle(redemption, "fulfilled" if "extended" in verdicts else "refunded"))

    def _before_a_call(self) -> None:
        """What the shared clock says now goes for all cues of the call that comes: none turns another away."""
        self.shared_before = Clock(self.tallies.shared.latest())

    def _padded(self, pad: h.Pad) -> None:
        if pad.cue in self.scores:
            self._before_a_call()
            self._at_door(pad.cue, self._call_id(pad), None, pad.text, {}, None, 0, pad=True)

    def _clocked(self, clock: h.Clock) -> None:
        if clock.cue in self.scores:
            self._before_a_call()
            self._at_door(clock.cue, self._call_id(clock), None, "", {}, None, 0)

    def _fired(self, by: Run, cue: str) -> None:
        if cue in self.scores:
            self._before_a_call()
            call = f"{by.id}/{cue}"
            self._at_door(cue, call, by.viewer, by.text.text, dict(by.facts), None, by.depth + 1, pad=True, fired=True)

    def _tried(self, attempt: h.Try) -> None:
        score = self.scores.get(attempt.cue)
        if score is None:
            return
        run = Run("", 0, score, self._call_id(attempt), None, attempt.viewer)
        visit = Visit(self, score.doorway, self.tallies.of(score.id), attempt.viewer, attempt.text)
        score.doorway.read(visit)
        self._admit(run, visit)
        run.tried, run.speed, run.forced = True, attempt.speed, {**attempt.rolled, **attempt.drawn}
        self._emit(o.Verdict(run.call, score.id, "let_in", None, run.id, "a try"))
        self._guarded(run, self.now, self._begin)

    # The door

    def scene(self) -> str | None:
        scene = self.holds.showing("broadcast/scene")
        return scene if isinstance(scene, str) else None

    def lane_reason(self, cue: str, viewer: h.Viewer | None) -> str | None:
        score = self.scores[cue]
        lane = self.lanes[score.lane]
        if score.entry == "refuse" and (
            lane.line.waits(score.id) or any(other.score.id == score.id for other in lane.running)
        ):
            return "busy"
        if score.entry == "extend":
            running = self._running(score)
            if running is not None:
                return None if self._extendable(running) else "busy"
        if score.entry in GOES_FIRST or len(lane.line) < lane.settings.line:
            return None
        run = Run("", 0, score, "", None, viewer)
        return None if self.solo is None and lane.would_start(run, self.now) else "lane_full"

    def _admit(self, run: Run, visit: Visit) -> None:
        self.run_number += 1
        run.number, run.id = self.run_number, str(self.run_number)
        run.admitted_at, run.text = self.now, visit.read
        run.stream = self.stream if self.on_air else 0
        self.runs[run.id] = run

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
        fired: bool = False,
    ) -> str:
        """One call at one door. Returns the verdict."""
        score = self.scores[cue]
        doorway, now = score.doorway, self.now
        caller = None if fired else viewer
        visit = Visit(self, doorway, self.tallies.of(cue), viewer, text)
        failed, trace = doorway.answered(visit, pad) if self.tracing else (doorway.verdict(visit, pad), ())
        if failed is not None:
            self._emit(o.Verdict(call, cue, "turned_away", failed.reason, None, failed.detail, trace))
            return "turned_away"
        running = self._running(score) if score.entry == "extend" else None
        self.tallies.admitted(doorway, caller, now, self.on_air)
        if running is not None:
            self.tallies.started(doorway, caller, now)
            self._emit(o.Verdict(call, cue, "extended", None, running.id, visit.read.note, trace))
            self._extend(running)
            self.tallies.finished(doorway, caller, now)
            return "extended"
        run = Run("", 0, score, call, redemption, viewer, caller)
        self._admit(run, visit)
        run.facts, run.depth, run.head = facts, depth, score.entry in GOES_FIRST
        if self.run_number % FORGET_EVERY == 0:
            self.tallies.forget({other: s.doorway for other, s in self.scores.items()}, now)
        lane = self.lanes[score.lane]
        run.wait_until = now + lane.wait_ms
        lane.join(run)
        if redemption is not None:
            self.open[redemption].add(run.id)
        self._emit(o.Verdict(call, cue, "let_in", None, run.id, visit.read.note, trace))
        if score.speaks:
            self._prepare(run)
        self._newcomers.append(run)
        return "let_in"

    def _must_wait(self) -> None:
        """Notes for those let in this step who did not start when their wait ends and when their lane's gap is over."""
        newcomers, self._newcomers = self._newcomers, []
        for run in newcomers:
            if run.started_at is not None or run.id not in self.runs:
                continue
            if run.wait_until <= self.now:
                self._stale.append(run)
            self._push(run.wait_until, "stale", run)
            lane = self.lanes[run.score.lane]
            if lane.gap_until > self.now:
                self._push(lane.gap_until, "gap", lane)

    def _prepare(self, run: Run) -> None:
        for spec in run.score.specs:
            beat: Any = spec.beat
            if spec.kind == "speech" and isinstance(beat.text, str):
                self._emit(o.Prepare(run.id, spec.id, self.resolver.beforehand(run, beat.text), beat.part))

    # Lanes

    def _start_runs(self, now: int) -> None:
        again = True
        while again:
            again = False
            for lane in self.lanes.values():
                if not lane.stirred:
                    continue
                lane.stirred = False
                while lane.line and self.solo is None:
                    run = lane.next_to_start(now)
                    if run is None:
                        break
                    self._start(lane, run, now)
                    again = True

    def _start(self, lane: Lane, run: Run, now: int) -> None:
        entry = run.score.entry
        if entry == "replace":
            for other in [other for other in lane.running if other.score.id == run.score.id]:
                self._finish(other, "replaced", now)
        lane.started(run)
        if entry == "solo":
            self.solo = run
        self.tallies.started(run.score.doorway, run.caller, run.admitted_at)
        self._guarded(run, now, self._begin)

    def _drop_stale(self, now: int) -> bool:
        stale, self._stale = self._stale, []
        order = {lane: place for place, lane in enumerate(self.lanes)}
        waiting = {run.id: run for run in stale if run.id in self.runs and run.started_at is None}
        for run in sorted(waiting.values(), key=lambda run: (order[run.score.lane], run.place[0], run.place[2:])):
            self._drop(self.lanes[run.score.lane], run, "stale")
        return bool(waiting)

    def _drop(self, lane: Lane, run: Run, how: str) -> None:
        lane.line.remove(run)
        lane.stirred = True
        self.runs.pop(run.id, None)
        same_stream = run.stream == self.stream
        self.tallies.given_back(run.score.doorway, run.caller, run.admitted_at, run.stream > 0, same_stream)
        self._emit(o.Drop(run.id, how))
        self._settle_lost(run)

    def _dropped(self, drop: h.DropCall) -> None:
        if drop.redemption in self.reviews:
            self._reviewed(h.Review(drop.redemption, False))
            return
        dropped = set(self.open.get(drop.redemption or "", ())) | {drop.run}
        for run in sorted((self.runs[one] for one in dropped if one in self.runs), key=lambda run: run.number):
            if run.started_at is None:
                self._drop(self.lanes[run.score.lane], run, "by_hand")

    def _moved(self, move: h.Move) -> None:
        run, before = self._waiting(move.run), self._waiting(move.before)
        if run is None or run is before:
            return
        if before is not None and before.score.lane != run.score.lane:
            before = None
        self.lanes[run.score.lane].move(run, before)

    def _waiting(self, run_id: str | None) -> Run | None:
        run = self.runs.get(run_id or "")
        return run if run is not None and run.started_at is None else None

    def _all_to_rest(self, _: h.AllToRest) -> None:
        for lane in self.lanes.values():
            for run in lane.line.by_arrival():
                self._drop(lane, run, "by_hand")
        for run in list(self.runs.values()):
            self._finish(run, "stopped", self.now)

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
        if waiting:
            return
        del self.open[run.redemption]
        self._emit(o.Settle(run.redemption, "refunded"))
        reward = run.facts.get("reward_id")
        if reward is not None and self.prices.given_back(reward, self.now, run.admitted_at):
            self._reprice(reward)
