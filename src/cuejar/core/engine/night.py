"""The night: what all parts of the engine share. The instant, the stream, who was let in, the orders to be returned."""

from __future__ import annotations

from cuejar.core.facts import orders as o
from cuejar.core.parts.base import JsonObject
from cuejar.core.rules.run import Run

KEPT = ("now", "on_air", "stream", "stream_from", "category", "rules", "quiet")
RULES = 5
Timed = tuple[int, o.Order]
"""An order with its instant in ms."""


class Night:
    """The current state of the night. Times are ms of the caller's clock.

    ``runs`` are all that were let in and aren't over, by their ids; ``stream`` counts the streams, ``stream_from`` is
    when the last one began. ``quiet`` is the volume share of the quiet spell, and its end. ``rules`` is the version of
    the rules: a saved night is replayed by the rules of its time.

    3    random numbers by the run's number; anything that began counts as done, and a strike at disconnected gear fails
    at once
    4    random numbers by cue and call; runs without any effect are refunded, and strikes wait for their gear
    5    of holds of the same instant the newest run's lies on top; what is sent back takes all of it along that waits
    """

    def __init__(self) -> None:
        self.now = 0
        self.rules = RULES
        self.on_air = False
        self.stream = 0
        self.stream_from = 0
        self.category: str | None = None
        self.quiet: tuple[float, int] = (1, 0)
        self.runs: dict[str, Run] = {}
        self.out: list[Timed] = []

    @property
    def loudness(self) -> float:
        """Returns the volume share of what begins now."""
        share, until = self.quiet
        return share if self.now < until else 1

    def emit(self, order: o.Order) -> None:
        self.out.append((self.now, order))

    def taken(self) -> list[Timed]:
        """Returns the orders so far and clears them."""
        out, self.out = self.out, []
        return out

    def snapshot(self) -> JsonObject:
        """Returns everything but the runs, which know the book (`state`), and the orders, which are empty between two
        steps.
        """
        return {name: getattr(self, name) for name in KEPT}

    def restore(self, data: JsonObject) -> None:
        for name in KEPT:
            if name != "quiet":
                setattr(self, name, data[name])
        share, until = data.get("quiet", (1, 0))
        self.quiet = (float(share), int(until))
