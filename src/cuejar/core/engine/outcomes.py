"""The outcomes: what becomes of a run that was let in, of its redemption, and of what it cost.

A redemption is *fulfilled* when something of one of its runs is really done, *refunded* when every cue it called turned
it away, dropped it, or did nothing. This is the `Host` of the waiting and the stage's `Audience`: whatever the
reception let in is told here, from its start to its end.
"""

from __future__ import annotations

from cuejar.core.engine.calendar import Calendar
from cuejar.core.engine.counting import Counting
from cuejar.core.engine.dues import PriceFalls
from cuejar.core.engine.night import Night
from cuejar.core.engine.points import Points
from cuejar.core.engine.stage import Stage
from cuejar.core.engine.waiting import Waiting
from cuejar.core.facts import orders as o
from cuejar.core.facts.paths import reward_path
from cuejar.core.rules.price import Prices
from cuejar.core.rules.run import Run
from cuejar.core.rules.score import Score
from cuejar.core.rules.tallies import Tallies


class Outcomes:
    """What runs did, to whom, and at what price.

    Attributes:
        open: unsettled redemptions, with the runs that they wait for.
        heard: viewers who had something read aloud before.
        doubtful: whether a reward may have to open or close (`tickets`).
    """

    counting: Counting

    def __init__(self, night: Night, calendar: Calendar, stage: Stage, waiting: Waiting) -> None:
        self.night, self.calendar, self.stage, self.waiting = night, calendar, stage, waiting
        self.holds = stage.holds
        self.tallies = Tallies()
        self.prices = Prices()
        self.purse = stage.resolver.purse
        self.points = Points(night, self.purse, stage.resolver)
        self.open: dict[str, set[str]] = {}
        self.heard: set[str] = set()
        self.doubtful = True

    # From the line

    def begins(self, run: Run, now: int) -> None:
        self.tallies.started(run.score.doorway, run.caller, run.admitted_at)
        if run.score.speaks and run.viewer is not None:
            self.heard.add(run.viewer.id)
        self.stage.guarded(run, now, self.stage.begin)

    def dropped(self, run: Run, how: str) -> None:
        same_stream = run.stream == self.night.stream
        self.tallies.refunded(run.score.doorway, run.caller, run.admitted_at, run.stream > 0, same_stream)
        self.capped(run.score, self.tallies.of(run.score.id).stream + 1)
        self.night.emit(o.Drop(run.id, how))
        self.lost(run)

    # From the stage

    def started(self, run: Run) -> None:
        if run.redemption is not None and run.redemption in self.open:
            del self.open[run.redemption]
            self.night.emit(o.Settle(run.redemption, "fulfilled"))
            self.counting.redeemed(run)

    def lost(self, run: Run) -> None:
        if run.paid:
            self.points.refund(run)
        if run.redemption is None or run.redemption not in self.open:
            return
        waiting = self.open[run.redemption]
        waiting.discard(run.id)
        if waiting:
            return
        del self.open[run.redemption]
        self.night.emit(o.Settle(run.redemption, "refunded"))
        reward = run.facts.get("reward_id")
        if reward is not None and self.prices.refunded(reward, self.night.now, run.admitted_at):
            self.reprice(reward)

    def over(self, run: Run, now: int) -> None:
        self.waiting.ended(run, now)
        if not run.tried and run.started_at is not None:
            self.tallies.finished(run.score.doorway, run.caller, now)

    # What follows for rewards

    def reprice(self, reward: str) -> None:
        cost = self.prices.cost(reward, self.night.now)
        path = reward_path(reward, "cost")
        if self.holds.rest_of(path) != cost:
            self.holds.keep(path, cost)
        at = self.prices.next_change(reward, self.night.now)
        if at is not None:
            self.calendar.note(at, PriceFalls(self, reward))

    def capped(self, score: Score, most: int) -> None:
        """Notes that a cue's rewards may open or close, when its cap for the stream is reached or no longer is."""
        if score.cap_stream is not None and most >= score.cap_stream:
            self.doubtful = True
