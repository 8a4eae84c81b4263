"""What the doors remember: who was let in when, what was refunded, and when the cooldowns of cues and viewers began."""

from __future__ import annotations

from bisect import bisect_left
from dataclasses import dataclass, field
from typing import Protocol

from cuejar.core.book.book import Cue
from cuejar.core.facts.happenings import Viewer
from cuejar.core.parts.base import JsonObject, JsonRow


class Paced(Protocol):
    """What a door counts and cools down, as the book sets it."""

    clocked: bool
    shares_clock: bool
    windowed: bool
    viewer_pace: bool
    from_finish: bool
    viewer_ms: int

    @property
    def cue(self) -> Cue: ...


class Cooldown:
    """When something was last let in, ignoring refunds.

    ``sure``: the latest admission (or finish, if the cooldown starts there) that can't be refunded any more. ``open``:
    admissions whose run hasn't begun. ``busy``: waiting or running runs, for cooldowns that start at the finish.
    """

    __slots__ = ("busy", "open", "sure")

    def __init__(self, sure: int | None = None, open: list[int] | None = None, busy: int = 0) -> None:
        self.sure, self.open, self.busy = sure, open if open is not None else [], busy

    def let_in(self, at: int) -> None:
        """Notes an admission; none is earlier than the one before."""
        self.open.append(at)

    def refunded(self, at: int) -> bool:
        """Removes an open admission of this instant. Returns whether there was one."""
        index = bisect_left(self.open, at)
        if index == len(self.open) or self.open[index] != at:
            return False
        del self.open[index]
        return True

    def stays(self, at: int) -> None:
        """Notes that the admission of this instant can't be refunded any more."""
        if self.open:
            self.refunded(at)
        self.stamp(at)

    def latest(self) -> int | None:
        if not self.open:
            return self.sure
        newest = self.open[-1]
        return newest if self.sure is None or newest > self.sure else self.sure

    def stamp(self, at: int) -> None:
        if self.sure is None or at > self.sure:
            self.sure = at


@dataclass(slots=True)
class CueTally:
    """What a door remembers about its cue."""

    clock: Cooldown = field(default_factory=Cooldown)
    viewers: dict[str, Cooldown] = field(default_factory=dict)
    stream: int = 0
    per_viewer: dict[str, int] = field(default_factory=dict)
    window: list[int] = field(default_factory=list)


class Tallies:
    """What all doors remember: admissions, refunds, starts and finishes."""

    def __init__(self) -> None:
        self.cues: dict[str, CueTally] = {}
        self.shared = Cooldown()

    def of(self, cue: str) -> CueTally:
        tally = self.cues.get(cue)
        if tally is None:
            tally = self.cues[cue] = CueTally()
        return tally

    def _of_viewer(self, tally: CueTally, doorway: Paced, viewer: Viewer | None) -> Cooldown | None:
        if viewer is None or not doorway.viewer_pace:
            return None
        clock = tally.viewers.get(viewer.id)
        if clock is None:
            clock = tally.viewers[viewer.id] = Cooldown()
        return clock

    def admitted(self, doorway: Paced, viewer: Viewer | None, now: int, on_air: bool) -> None:
        tally = self.of(doorway.cue.id)
        if doorway.shares_clock:
            self.shared.let_in(now)
        if doorway.clocked:
            for clock in (tally.clock, self._of_viewer(tally, doorway, viewer)):
                if clock is None:
                    continue
                if doorway.from_finish:
                    clock.busy += 1
                else:
                    clock.let_in(now)
        if on_air:
            tally.stream += 1
            if viewer is not None:
                tally.per_viewer[viewer.id] = tally.per_viewer.get(viewer.id, 0) + 1
        if doorway.windowed:
            tally.window.append(now)

    def refunded(
        self, doorway: Paced, viewer: Viewer | None, admitted_at: int, counted_on_air: bool, same_stream: bool
    ) -> None:
        """Notes that a call was refunded before its run began."""
        tally = self.of(doorway.cue.id)
        self.shared.refunded(admitted_at)
        if doorway.clocked:
            for clock in (tally.clock, self._of_viewer(tally, doorway, viewer)):
                if clock is None:
                    continue
                if doorway.from_finish:
                    clock.busy = max(0, clock.busy - 1)
                else:
                    clock.refunded(admitted_at)
        if counted_on_air and same_stream:
            tally.stream = max(0, tally.stream - 1)
            if viewer is not None and tally.per_viewer.get(viewer.id, 0) > 0:
                tally.per_viewer[viewer.id] -= 1
        if admitted_at in tally.window:
            tally.window.remove(admitted_at)

    def started(self, doorway: Paced, viewer: Viewer | None, admitted_at: int) -> None:
        """Notes that the run began: its admission stays."""
        if self.shared.open and self.shared.refunded(admitted_at):
            self.shared.stamp(admitted_at)
        if doorway.from_finish or not doorway.clocked:
            return
        tally = self.of(doorway.cue.id)
        tally.clock.stays(admitted_at)
        clock = self._of_viewer(tally, doorway, viewer)
        if clock is not None:
            clock.stays(admitted_at)

    def finished(self, doorway: Paced, viewer: Viewer | None, now: int) -> None:
        if not doorway.from_finish or not doorway.clocked:
            return
        tally = self.of(doorway.cue.id)
        for clock in (tally.clock, self._of_viewer(tally, doorway, viewer)):
            if clock is not None:
                clock.busy = max(0, clock.busy - 1)
                clock.stamp(now)

    def new_stream(self) -> None:
        for tally in self.cues.values():
            tally.stream = 0
            tally.per_viewer.clear()

    def forget(self, doorways: dict[str, Paced], now: int) -> None:
        """Drops expired cooldowns of viewers, so that memory doesn't grow with the number of viewers."""
        for cue, tally in self.cues.items():
            span = doorways[cue].viewer_ms if cue in doorways else 0
            tally.viewers = {
                viewer: clock
                for viewer, clock in tally.viewers.items()
                if clock.busy or clock.open or (clock.sure is not None and now < clock.sure + span)
            }

    def snapshot(self) -> JsonObject:
        def clock(c: Cooldown) -> JsonRow:
            return [c.sure, list(c.open), c.busy]

        return {
            "shared": clock(self.shared),
            "cues": {
                cue: [
                    clock(t.clock),
                    {v: clock(c) for v, c in t.viewers.items()},
                    t.stream,
                    dict(t.per_viewer),
                    list(t.window),
                ]
                for cue, t in self.cues.items()
            },
        }

    def restore(self, data: JsonObject) -> None:
        def clock(row: JsonRow) -> Cooldown:
            return Cooldown(row[0], list(row[1]), row[2])

        self.shared = clock(data["shared"])
        self.cues = {
            cue: CueTally(clock(c), {v: clock(r) for v, r in viewers.items()}, stream, dict(per), list(window))
            for cue, (c, viewers, stream, per, window) in data["cues"].items()
        }
