"""Would they get in? Asks a door about a call: nothing is called, nothing counts, and the engine doesn't change."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import cast

from cuejar.core.book.book import Cue
from cuejar.core.engine.reception import Reception
from cuejar.core.facts import happenings as h
from cuejar.core.facts.orders import Check
from cuejar.core.rules.door import Doorway, Failed, Visit
from cuejar.core.rules.purse import Purse
from cuejar.core.rules.score import Score
from cuejar.core.rules.tallies import Cooldown, CueTally


@dataclass(frozen=True)
class Asked:
    """Who would call, and under which conditions; None: as they are. ``in_s``: this much later than now; lanes have
    room by then.
    """

    viewer: h.Viewer
    text: str = ""
    live: bool | None = None
    category: str | None = None
    scene: str | None = None
    in_s: float = 0


@dataclass(frozen=True)
class Answer:
    """``failed`` is the first check that fails; ``note`` says what became of the text."""

    failed: Failed | None
    checks: tuple[Check, ...]
    note: str


class _AsNow:
    """Points of ours as they are now: what a viewer will earn until then is unknown."""

    def __init__(self, purse: Purse, now: int) -> None:
        self.on = purse.on
        self._purse, self._now = purse, now

    def held(self, viewer: str, _: int) -> int:
        return self._purse.held(viewer, self._now)


class _AsAsked:
    """The door's host (`door.Host`), with the assumed conditions in place of the real ones."""

    def __init__(self, reception: Reception, cue: Cue, asked: Asked) -> None:
        self._reception, self._cue, self._asked = reception, cue, asked
        self.on_air = reception.on_air if asked.live is None else asked.live
        self.category = reception.category if asked.category is None else asked.category
        self.tallies = reception.tallies
        self.purse = cast(Purse, _AsNow(reception.purse, reception.now))
        self.shared_before = Cooldown(reception.tallies.shared.latest())
        self.has_gear, self.count = reception.has_gear, reception.count

    def scene(self) -> str | None:
        return self._reception.scene() if self._asked.scene is None else self._asked.scene

    def lane_reason(self, cue: str, viewer: h.Viewer | None) -> str | None:
        if self._asked.in_s:
            return None
        return self._reception.waiting.reason(Score(self._cue, self._reception.resolver.book), viewer)


def would_get_in(reception: Reception, cue: Cue, asked: Asked) -> Answer:
    """Returns the door's answer for a cue, saved or not. Raises KeyError: its lane isn't in the book."""
    host, doorway = _AsAsked(reception, cue, asked), Doorway(cue, reception.resolver.book)
    there = reception.tallies.cues.get(cue.id)
    # A window forgets what is over by then.
    tally = CueTally() if there is None else replace(there, window=list(there.window))
    cost = next((call.cost or 0 for call in cue.calls if call.kind == "chat"), 0)
    visit = Visit(host, doorway, tally, asked.viewer, asked.text, reception.now + round(asked.in_s * 1000), cost)
    failed, checks = doorway.answered(visit)
    return Answer(failed, checks, visit.read.note)
