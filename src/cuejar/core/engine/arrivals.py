"""Calls on their way to the doors of the cues that they call."""

from __future__ import annotations

from cuejar.core.facts import happenings as h
from cuejar.core.facts import orders as o
from cuejar.core.rules.run import Run


def arrived_of(happening: h.Happening | h.Called) -> o.Arrived:
    """Returns what a call brings."""
    viewer, text = getattr(happening, "viewer", None), getattr(happening, "text", "")
    kind = "said" if isinstance(happening, h.Pad) and happening.said else happening.kind
    return o.Arrived(kind, viewer, text, getattr(happening, "reward", ""))


class Arrival:
    """A call on its way to the doors of the cues that it calls.

    Attributes:
        arrived: the call as the ledger has it.
        happening: the call; None if a pad, the clock or another cue calls.
        redemption: the id under which it is settled, if it is.
        depth: how many cues deep it was fired.
        fired_by: the run that fires; such a call doesn't count for anybody's caps and cooldowns.
        luck: the seed of its runs' random numbers.
        cost: the price of a redemption.
    """

    __slots__ = ("arrived", "call", "cost", "depth", "fired_by", "happening", "luck", "pad", "redemption", "viewer")

    def __init__(
        self,
        call: str,
        arrived: o.Arrived,
        viewer: h.Viewer | None,
        depth: int = 0,
        happening: h.Called | None = None,
        redemption: str | None = None,
        pad: bool = False,
        fired_by: Run | None = None,
        luck: str = "",
    ) -> None:
        self.luck = luck or call
        self.cost: int = getattr(happening, "cost", None) or 0
        self.call = call
        self.arrived = arrived
        self.viewer = viewer
        self.depth = depth
        self.happening = happening
        self.redemption = redemption
        self.pad = pad
        self.fired_by = fired_by

    @property
    def caller(self) -> h.Viewer | None:
        """The viewer for whom caps and cooldowns count it."""
        return self.viewer if self.fired_by is None else None
