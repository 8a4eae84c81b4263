"""The night: what all parts of the engine share. The instant, the stream, who was let in, the orders on their way out."""

from __future__ import annotations

from cuejar.core.facts import orders as o
from cuejar.core.parts.base import JsonObject
from cuejar.core.rules.run import Run

KEPT = ("now", "on_air", "stream", "stream_from", "category", "rules", "quiet")
RULES = 4
Timed = tuple[int, o.Order]
"""An order with its instant in ms."""


class Night:
    """Where the engine is in its night. Times are ms of whoever runs it.

    ``runs`` are all that were let in and are not over, by their ids; ``stream`` counts the streams, ``stream_from`` is when
    the last of them began. ``quiet`` is the share of its volume at which sounds are heard, and until when. ``rules`` is the version of what is decided: a night that was is played again by those of then.

        3    random numbers by the run's number; whatever began counts as done, and a strike at gear that is away fails at once
        4    random numbers by cue and call; what nothing came of is given back, and strikes wait for their gear
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
        """The share of its volume at which what begins now is heard."""
        share, until = self.quiet
        return share if self.now < until else 1

    def emit(self, order: o.Order) -> None:
        self.out.append((self.now, order))

    def taken(self) -> list[Timed]:
        """The orders so far; they are not here any more."""
        out, self.out = self.out, []
        return out

    def snapshot(self) -> JsonObject:
        """All but the runs, which know the book (`state`), and the orders, of which none are left between two steps."""
        return {name: getattr(self, name) for name in KEPT}

    def restore(self, data: JsonObject) -> None:
        for name in KEPT:
            if name != "quiet":
                setattr(self, name, data[name])
        share, until = data.get("quiet", (1, 0))
        self.quiet = (float(share), int(until))
