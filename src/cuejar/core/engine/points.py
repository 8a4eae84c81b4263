"""Points of our own: who earns them by being there or by what they do, and who is told their balance.

The purse (`core.rules.purse`) holds the accounts; the reception, which knows who was let in, charges the price of a
call.
"""

from __future__ import annotations

from dataclasses import replace

from cuejar.core.engine.night import Night
from cuejar.core.engine.resolve import Resolver
from cuejar.core.facts import happenings as h
from cuejar.core.facts import orders as o
from cuejar.core.facts.origin import GIVEN, parted
from cuejar.core.parts.folding import folded
from cuejar.core.rules.purse import Purse
from cuejar.core.rules.run import Run

MOST_ANSWER = 400
"""Characters of an answer in chat."""


class Points:
    """What the purse is told and asked."""

    def __init__(self, night: Night, purse: Purse, resolver: Resolver) -> None:
        self.night, self.purse, self.resolver = night, purse, resolver

    def hear(self, happening: h.Called) -> None:
        """Notes that a viewer is there, and credits what they have earned by this happening."""
        viewer: h.Viewer | None = getattr(happening, "viewer", None)
        if viewer is None:
            return
        purse = self.purse
        self.meet(viewer, happening.kind == "redemption")
        if not purse.on:
            return
        purse.seen(viewer, self.night.now, self.night.on_air)
        if happening.kind == "chat":
            if purse.words:
                self._answer(viewer, folded(happening.text))
            return
        worth = purse.worth(happening)
        if worth:
            held = purse.earn(viewer, worth)
            self.night.emit(
                o.Paid(viewer.id, "earned", worth, held, getattr(happening, "id", None) or "", happening.kind)
            )

    def _answer(self, viewer: h.Viewer, said: str) -> None:
        """Says a viewer's balance in chat, or the list of rewards."""
        rates, purse, now = self.purse.rates, self.purse, self.night.now
        if said not in purse.words or not purse.may_answer(viewer.id, now):
            return
        if purse.words[said] == rates.balance_word:
            text = f"{viewer.name}: {purse.held(viewer.id, now):,} {rates.name}"
        else:
            costs = [
                f"{call.text} {call.cost:,}" for cue in self.resolver.book.cues if cue.on
                for call in cue.calls if call.kind == "chat" and call.cost
            ]  # fmt: skip
            text = f"{rates.name}: {', '.join(costs) if costs else 'nothing is available now'}"[:MOST_ANSWER]
        channel, _ = parted(viewer.id)
        value = text if channel == GIVEN else {"channel": channel, "text": text}
        self.night.emit(o.Strike("points", viewer.id, "reply", value))

    def meet(self, viewer: h.Viewer, redeemed: bool = False) -> None:
        """Notes that a viewer is there; one of two merged ones counts as the other."""
        whose = self.purse.account(viewer.id)
        one = viewer if whose == viewer.id else replace(viewer, id=whose)
        self.resolver.crowd.see(one, self.night.now, self.night.stream, redeemed)

    def present(self, present: h.Present) -> None:
        for viewer in present.viewers:
            self.meet(viewer)
            if self.purse.on:
                self.purse.seen(viewer, self.night.now, self.night.on_air)
        for gone in present.left:
            self.resolver.crowd.leave(self.purse.account(gone))

    def spend(self, viewer: h.Viewer | None, cost: int, call: str) -> int:
        """Charges the price of a call. Returns the amount."""
        if not self.purse.on or viewer is None:
            return 0
        self.night.emit(o.Paid(viewer.id, "spent", cost, self.purse.spend(viewer, cost), call))
        return cost

    def give(self, run: Run, viewer: str, name: str, points: int) -> None:
        """Gives a viewer points, as one of a run's beats says."""
        if self.purse.on:
            held = self.purse.held(viewer, self.night.now) + points
            more = self.purse.give(viewer, name, held, self.night.now)
            self.night.emit(o.Paid(viewer, "given", more, held, run.call, run.score.cue.name))

    def refund(self, run: Run) -> None:
        """Refunds the price of a run that never began."""
        if run.paid and run.viewer is not None:
            held = self.purse.refund(run.viewer, run.paid, self.night.now)
            self.night.emit(o.Paid(run.viewer.id, "refunded", run.paid, held, run.call))
            run.paid = 0

    def given(self, give: h.GivePoints) -> None:
        more = self.purse.give(give.viewer, give.name, give.held, self.night.now)
        self.night.emit(o.Paid(give.viewer, "given", more, give.held, why=give.why))

    def merged(self, merge: h.Merge) -> None:
        now = self.night.now
        gone = self.purse.account(merge.viewer)
        if self.purse.merge(merge.viewer, merge.into, now):
            self.resolver.merge(merge.viewer, merge.into)
            self.resolver.met_as(gone, self.purse.account(merge.into))
            why = f"merged {merge.viewer}"[:200]
            self.night.emit(o.Paid(merge.into, "merged", 0, self.purse.held(merge.into, now), why=why))
