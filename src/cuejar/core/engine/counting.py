"""Counts: what raises them, what they call on the way, and the bars that show them."""

from __future__ import annotations

from typing import Protocol

from cuejar.core.engine.resolve import Resolver
from cuejar.core.engine.stage import Stage
from cuejar.core.facts import happenings as h
from cuejar.core.rules.calls import FEEDS, Calls
from cuejar.core.rules.run import Run


class Calling(Protocol):
    """Takes a count's call to a door."""

    calls: Calls

    def count_called(self, cue: str, happening: h.Called | None, run: Run | None, viewer: h.Viewer | None) -> None:
        """A count that this happening or run raised calls a cue, for a viewer."""


class Counting:
    """The counts of the book as they go up and down. The resolver holds their values, for conditions and templates."""

    def __init__(self, stage: Stage, resolver: Resolver, host: Calling) -> None:
        self.stage, self.resolver, self.host = stage, resolver, host

    def feed(self, happening: h.Called) -> None:
        """Raises the counts that a happening feeds."""
        for by, worth in FEEDS.get(happening.kind, {}).items():
            for name, feed in self.host.calls.feeds.get(by, ()):
                if feed.reward is None or feed.reward == getattr(happening, "reward", None):
                    self.up(name, worth(happening), happening)

    def redeemed(self, run: Run) -> None:
        """Counts the redemption of a run, now that it is fulfilled."""
        if self.host.calls.feeds and run.redemption is not None and run.viewer is not None:
            reward, cost = run.facts.get("reward_id", ""), run.facts.get("cost")
            paid = cost if isinstance(cost, int) else None
            self.feed(h.Redemption(run.redemption, reward, run.viewer, run.text.text, paid))

    def up(
        self,
        name: str,
        add: int,
        happening: h.Called | None = None,
        run: Run | None = None,
        viewer: h.Viewer | None = None,
    ) -> None:
        """Raises or lowers a count: bars show it, and calls waiting for a value are made."""
        before = self.resolver.counts[name]
        after = before + add
        self._put(name, after)
        for cue in self.host.calls.counted(name, before, after):
            who = viewer if run is not None else getattr(happening, "viewer", None)
            self.host.count_called(cue, happening, run, who)

    def set(self, said: h.SetCount) -> None:
        """Sets a count by hand; this calls nothing."""
        self._put(said.count, said.value)

    def new_stream(self) -> None:
        for count in self.resolver.book.counts:
            if count.per == "stream":
                self._put(count.id, 0)

    def _put(self, name: str, value: int) -> None:
        self.resolver.counts[name] = value
        self.stage.retell(name)
