"""What can be seen of the engine: what is up, what is held and what it returns to, who runs, and who waits how long.

Everything outside the engine uses only this. Nothing here changes anything.
"""

from __future__ import annotations

import heapq
from collections import Counter
from collections.abc import Collection, Mapping
from itertools import islice

from cuejar.core.book.book import Book, Cue
from cuejar.core.engine.asking import Answer, Asked, would_get_in
from cuejar.core.engine.dues import ClockCall
from cuejar.core.engine.engine import Engine
from cuejar.core.engine.rows import BeatUp, HeldRow, InTheDraw, LaneState, PadNow, RunningRow, WaitingRow
from cuejar.core.engine.stage import rolled
from cuejar.core.engine.state import draft_of
from cuejar.core.facts import happenings as h
from cuejar.core.facts import orders as o
from cuejar.core.facts.happenings import PropertyValue
from cuejar.core.facts.paths import combined, read_path
from cuejar.core.kinds.table import KINDS
from cuejar.core.measures.catalogue import Catalogues
from cuejar.core.parts.base import ms
from cuejar.core.rules.crowd import shares_now
from cuejar.core.rules.door import Failed, cools_until
from cuejar.core.rules.draw import JarState
from cuejar.core.rules.holds import Property
from cuejar.core.rules.lanes import Lane
from cuejar.core.rules.openings import SET
from cuejar.core.rules.purse import Account
from cuejar.core.rules.rig import Found, Reunion, reunited
from cuejar.core.rules.run import Run, is_open
from cuejar.core.rules.score import UP, RunBeat, ranges
from cuejar.core.words.properties import property_said, thing_said


def _run_row(run: Run) -> dict[str, str | None]:
    return {
        "run": run.id,
        "cue": run.score.id,
        "name": run.score.cue.name,
        "viewer": run.viewer.name if run.viewer else "",
        "viewer_id": run.viewer_id,
        "text": run.text.text,
        "redemption": run.redemption,
        "call": run.call,
        "entry": run.score.entry,
    }


class View:
    """A read-only view of an engine."""

    def __init__(self, engine: Engine) -> None:
        self._engine = engine
        self._night, self._reception, self._waiting = engine.night, engine.reception, engine.waiting
        self._around = engine.surroundings

    # The night

    @property
    def book(self) -> Book:
        return self._engine.book

    @property
    def now(self) -> int:
        """The instant up to which everything is done (ms)."""
        return self._night.now

    @property
    def on_air(self) -> bool:
        return self._night.on_air

    @property
    def on_air_from(self) -> int | None:
        """When the stream began (ms); None off air."""
        return self._night.stream_from if self._night.on_air else None

    @property
    def seed(self) -> int:
        """The seed of everything random."""
        return self._engine.resolver.seed

    @property
    def category(self) -> str | None:
        return self._night.category

    @property
    def media(self) -> Mapping[str, h.MediaFacts] | None:
        return self._around.media

    @property
    def runs(self) -> Collection[Run]:
        """All runs that were let in and aren't over."""
        return self._night.runs.values()

    @property
    def run_number(self) -> int:
        """The number of runs so far."""
        return self._reception.run_number

    @property
    def reviews(self) -> Mapping[str, h.Texted]:
        """Calls waiting for the streamer's approval, by their ids."""
        return self._reception.reviews

    @property
    def open(self) -> Collection[str]:
        """Unsettled redemptions."""
        return self._reception.outcomes.open.keys()

    @property
    def waits_for_the_clock(self) -> bool:
        """Whether nothing is due but calls of the stream's clock."""
        return self._night.on_air and bool(self._reception.calls.clocks) and not self._night.runs

    @property
    def at_rest(self) -> bool:
        """Whether nothing runs, waits or is held, apart from sets that are off."""
        held = [layer for p in self._around.holds.held().values() for layer in p.layers]
        return all(layer.run.startswith(SET) for layer in held) and not self._night.runs

    def run(self, run: str) -> Run | None:
        return self._night.runs.get(run)

    def cue(self, cue: str) -> Cue | None:
        score = self._reception.scores.get(cue)
        return score.cue if score is not None else None

    def beforehand(self, run: Run, template: str) -> str:
        """Returns the words of a waiting run as far as they are known: nothing is drawn or rolled yet."""
        return self._engine.resolver.beforehand(run, template)

    def draft(self, book: Book, media: dict[str, h.MediaFacts]) -> Engine:
        """Returns a fresh engine over another book, with the jars, counts and gear of this one."""
        return draft_of(self._engine, book, media)

    def would_get_in(self, cue: Cue, asked: Asked) -> Answer:
        """Returns the door's answer for a cue, saved or not; nothing is called. Raises KeyError: its lane doesn't
        exist.
        """
        return would_get_in(self._reception, cue, asked)

    # The gear

    @property
    def catalogues(self) -> Catalogues:
        """What the gear has."""
        return self._engine.resolver.catalogues

    @property
    def folders(self) -> Mapping[str, tuple[str, ...]]:
        """The contents of jar folders, by the ids of the jars."""
        return self._engine.resolver.jars.folders

    def in_the_draw(self, jar: str) -> list[InTheDraw]:
        """Returns who would be in a draw from a jar of viewers now. Raises KeyError: there is no such jar."""
        resolver = self._engine.resolver
        those = resolver.lengths.jars[jar]
        found = resolver.entrants(those)
        state = resolver.jars.states.get(jar) or JarState()
        odds = shares_now(found, those.rule, state)
        return [
            InTheDraw(viewer, weight, share, state.times.get(viewer.id, 0))
            for (viewer, weight), share in zip(found, odds, strict=True)
        ]

    def is_lost(self, gear: str) -> bool:
        return gear in self._around.away.lost

    def known(self, path: str) -> Property | None:
        """Returns a known property: its rest value, and the holds on it."""
        return self._around.holds.known(path)

    def showing(self, path: str) -> PropertyValue:
        """Returns what a property should show now."""
        return self._around.holds.showing(path)

    def rest_values(self) -> dict[str, PropertyValue]:
        """Returns the rest value of every known property."""
        return self._around.holds.at_rest_now()

    def is_held(self, path: str) -> bool:
        p = self._around.holds.known(path)
        return p is not None and bool(p.layers)

    def reunited(self, found: Mapping[str, Found], boot: str) -> Reunion:
        """Returns what it means that gear of this boot shows this."""
        return reunited(found, boot, self._around.holds, self._around.resolver.catalogues.offered)

    # What is going on

    def up(self) -> list[o.Show | o.Roll]:
        """Returns everything that is up now, as the orders that would show it; ``at`` is when each began."""
        shown: list[o.Show | o.Roll] = []
        for run in self.runs:
            for beat in run.beats:
                if beat.state != UP or beat.failed is not None or beat.spec.off:
                    continue
                spec = beat.spec
                if spec.way == "shown":
                    shown.append(o.Show(run.id, spec.id, spec.kind, beat.value, beat.end, beat.start or 0, spec.look))
                elif KINDS[spec.kind].act in ("rolls", "draws"):
                    shown.append(rolled(run, beat))
        return shown

    def held(self) -> list[HeldRow]:
        """Returns every property away from rest, the one that ends last first."""
        rows = []
        for path, p in self._around.holds.held().items():
            top = p.layers[-1]
            run, beat = self._beat_of(top.run, top.beat)
            rows.append(
                HeldRow(
                    path=path,
                    name=property_said(path, self.book.rewards),
                    thing=thing_said(path, self.book.rewards),
                    output=read_path(path).family,
                    value=self.showing(path),
                    returns_to=combined(path, p.rest, [layer.value for layer in p.layers[:-1]]),
                    rest=p.rest,
                    run=top.run,
                    beat=top.beat,
                    cue=run.score.cue.name if run else self._set_name(top.run),
                    viewer=run.viewer.name if run and run.viewer else "",
                    since=(beat.start or 0) if beat else 0,
                    until=beat.end if beat else None,
                    layers=len(p.layers),
                    viewer_id=run.viewer_id if run else "",
                )
            )
        return sorted(rows, key=lambda row: (row.until is not None, -(row.until or 0)))

    def _set_name(self, run: str) -> str:
        """Returns the name of a set that holds something."""
        return next((one.name for one in self.book.sets if SET + one.id == run), "")

    def closed(self) -> Mapping[str, Failed]:
        """Returns why rewards can't be called now, by their ids."""
        return self._engine.tickets.closed

    def sold(self, reward: str) -> int:
        """Returns how often a reward was let in this stream."""
        state = self._reception.prices.states.get(reward)
        return state.sold if state is not None else 0

    @property
    def quiet(self) -> tuple[float, int] | None:
        """Returns the volume share of the quiet spell and its end; None outside one."""
        return self._night.quiet if self._night.loudness != 1 else None

    def timers(self) -> list[tuple[int, str]]:
        """Returns when the stream's clock calls which cue next, earliest first."""
        nexts: dict[str, int] = {}
        for at, entry in self._engine.calendar:
            if isinstance(entry, ClockCall) and entry.due(at):
                nexts[entry.cue] = min(at, nexts.get(entry.cue, at))
        return sorted((at, cue) for cue, at in nexts.items())

    def counts(self) -> dict[str, int]:
        """Returns the value of every count of the book."""
        return {count.id: self._engine.resolver.counts[count.id] for count in self._engine.book.counts}

    def accounts(self) -> dict[str, Account]:
        """Returns the balance of everybody's points of our own, by viewer id."""
        return dict(self._reception.purse.rows(self.now))

    def account(self, viewer: str) -> Account | None:
        """Returns a viewer's points of our own, or those of the viewer they were merged into."""
        return self.accounts().get(self._reception.purse.account(viewer))

    def aliases(self) -> dict[str, str]:
        """Returns the viewers who were merged into another, and into whom."""
        return dict(self._reception.purse.aliases)

    def merged_into(self, viewer: str) -> str:
        return self._reception.purse.account(viewer)

    def times(self, viewer: str) -> dict[str, tuple[int, int]]:
        """Returns how often each cue ran for a viewer, and overall."""
        resolver = self._engine.resolver
        return {
            cue: (counts[viewer], resolver.cue_counts.get(cue, 0))
            for cue, counts in resolver.by_viewer.items()
            if viewer in counts
        }

    def _beat_of(self, run: str, beat: str) -> tuple[Run | None, RunBeat | None]:
        found = self.run(run)
        return found, next((b for b in found.beats if b.spec.id == beat), None) if found else None

    def pads(self) -> list[PadNow]:
        """Returns every cue that runs, waits, or cools down, as its pad shows it."""
        under_way: dict[str, list[Run]] = {}
        waiting: Counter[str] = Counter()
        for run in self.runs:
            if run.started_at is None:
                waiting[run.score.id] += 1
            elif not run.tried:
                under_way.setdefault(run.score.id, []).append(run)
        rows = []
        for cue, score in self._reception.scores.items():
            runs, cools = under_way.get(cue, []), cools_until(score.doorway, self._reception.tallies)
            if cools is not None and cools <= self.now:
                cools = None
            if not runs and not waiting[cue] and cools is None:
                continue
            ends = [run.until() for run in runs]
            known = [end for end in ends if end is not None]
            rows.append(
                PadNow(
                    cue=cue,
                    runs=len(runs),
                    waits=waiting[cue],
                    since=min((run.started_at or 0 for run in runs), default=None),
                    until=max(known, default=None) if len(known) == len(ends) else None,
                    open=any(is_open(run) for run in runs),
                    cools_until=cools,
                )
            )
        return rows

    def pressed(self, cue: str) -> Run | None:
        """Returns what letting go of a pad would end: the latest run of its cue with something open."""
        return next((run for run in reversed(list(self.runs)) if run.score.id == cue and is_open(run)), None)

    @property
    def lanes(self) -> list[str]:
        """The ids of the lanes, in order."""
        return list(self._waiting.lanes)

    def lane(self, lane: str, most: int | None = None) -> LaneState:
        """Returns a lane with what runs in it (with the beats that are up) and who waits: how many, and who they are.
        Times in ms.

        ``begins`` is roughly when a waiting run will start, to the second.

        Args:
            most: how many of those who run and who wait are named.
        """
        found = self._waiting.lanes[lane]
        running = [
            RunningRow.model_validate(
                {
                    **_run_row(run),
                    "started": run.started_at,
                    "until": run.until(),
                    "beats": [
                        BeatUp(beat=b.id, kind=b.spec.kind, output=KINDS[b.spec.kind].output, until=b.end)
                        for b in run.beats
                        if b.state == UP
                    ],
                }
            )
            for run in islice(found.running, most)
        ]
        waiting = [
            WaitingRow.model_validate(
                {**_run_row(run), "since": run.admitted_at, "begins": round((self.now + wait) / 1000) * 1000}
            )
            for run, wait in self._waits(found, most)
        ]
        settings = found.settings
        return LaneState(
            id=settings.id,
            name=settings.name,
            width=settings.width,
            runs=len(found.running),
            waits=len(found.line),
            running=running,
            waiting=waiting,
        )

    def waits(self, lane: str, most: int | None = None) -> list[tuple[Run, int]]:
        """Returns who waits in a lane, in order, each with the estimated wait (ms): runs take their room one after the
        other.

        Args:
            most: how many of them, from the front.
        """
        return self._waits(self._waiting.lanes[lane], most)

    def _waits(self, lane: Lane, most: int | None) -> list[tuple[Run, int]]:
        now = self.now
        room = [max(run.until() or now, now) for run in lane.running if run.takes_room]
        room += [max(lane.gap_until, now)] * max(0, lane.settings.width - len(room))
        heapq.heapify(room)
        gap = ms(lane.settings.gap_s)
        rows = []
        for run in islice(lane.line, most):
            free = heapq.heappop(room) if room else now
            start = free + (gap if free > now and free != lane.gap_until else 0)
            if run.score.entry == "solo":
                start = max([start, *room])
            rows.append((run, start - now))
            heapq.heappush(room, start + self._length(run))
        return rows

    def _length(self, run: Run) -> int:
        """Returns roughly how long a waiting run will last: the middle of its range, in ms."""
        spans = ranges(run.score, self._engine.resolver.lengths)
        longest = max((span.end.longest or span.end.shortest for span in spans), default=0)
        shortest = max((span.end.shortest for span in spans), default=0)
        return (longest + shortest) // 2
