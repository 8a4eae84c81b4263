"""The stage: runs and their beats, from the moment a run starts to its finish.

This part of the engine knows time and order: which beats end and begin at an instant, what that shows and holds, when a
run is over, and what releasing and extending do to it. Who gets to run, and what becomes of the callers, is up to its
`Audience`.
"""

from __future__ import annotations

import logging
from collections.abc import Callable
from typing import Protocol

from cuejar.core.engine.calendar import Calendar
from cuejar.core.engine.night import Night
from cuejar.core.engine.resolve import Resolver
from cuejar.core.facts import happenings as h
from cuejar.core.facts import orders as o
from cuejar.core.facts.happenings import PropertyValue
from cuejar.core.facts.paths import OTHERS
from cuejar.core.kinds.bar import BarBeat
from cuejar.core.kinds.speech import NOT_SAID
from cuejar.core.kinds.table import KINDS
from cuejar.core.parts.base import JsonObject, ms
from cuejar.core.rules.holds import Holds, Layer
from cuejar.core.rules.rig import Away
from cuejar.core.rules.run import FAR, Run
from cuejar.core.rules.score import LEFT_OUT, OVER, PENDING, UP, RunBeat, place

log = logging.getLogger(__name__)
DEPTH = 8
"""How many cues deep a cue may fire another."""
GEAR_AWAY, GEAR_WAS_AWAY = "the gear is disconnected", "the gear was disconnected all the time"


class Audience(Protocol):
    """Is told what becomes of runs."""

    def started(self, run: Run) -> None:
        """It runs, and something of it is really done."""

    def lost(self, run: Run) -> None:
        """Nothing of it was done, or it broke off."""

    def over(self, run: Run, now: int) -> None:
        """It has finished."""


class Callee(Protocol):
    """Takes what runs call in their turn."""

    def fired(self, by: Run, beat: str, cue: str, viewer: h.Viewer | None) -> None:
        """One of its beats fires a cue, for a viewer."""

    def count_up(self, name: str, add: int, *, run: Run, viewer: h.Viewer | None) -> None:
        """One of its beats raises or lowers a count, for a viewer."""

    def give(self, run: Run, viewer: str, name: str, points: int) -> None:
        """One of its beats gives a viewer points of ours."""


def rolled(run: Run, beat: RunBeat) -> o.Roll:
    """Returns the order that shows a roll or a draw."""
    value, look = beat.value, beat.spec.look
    if "drawn" in value:
        look = {**look, "title": value["title"], "names": value["names"], "drawn": value["drawn"]}
    return o.Roll(run.id, beat.spec.id, value["faces"], value["outcome"], beat.end, look)


class BeatsDue:
    """Beats of a run end or begin."""

    __slots__ = ("run", "stage")

    def __init__(self, stage: Stage, run: Run) -> None:
        self.stage, self.run = stage, run

    def due(self, at: int) -> bool:
        return self.run.next_at == at

    def take(self, at: int) -> None:
        self.stage.due.append(self.run)
        self.run.next_at = None


class LateStrike:
    """A strike that waits for its disconnected gear until ``until`` (ms), even after its run is over."""

    __slots__ = ("beat", "run", "stage", "until")

    def __init__(self, stage: Stage, run: Run, beat: RunBeat, until: int) -> None:
        self.stage, self.run, self.beat, self.until = stage, run, beat, until

    def due(self, at: int) -> bool:
        return self in self.stage.late

    def take(self, at: int) -> None:
        self.stage.missed(self)


class Stage:
    """Runs that have begun, and their beats.

    A run *came* as soon as something of it is really done: its gear is there, its speech is made. A run that ends
    without any effect is lost. ``due`` are the runs with beats that end or begin at this instant, ``late`` the strikes
    that wait for their gear.
    """

    audience: Audience
    callee: Callee

    def __init__(self, night: Night, calendar: Calendar, holds: Holds, away: Away, resolver: Resolver) -> None:
        self.night, self.calendar = night, calendar
        self.holds, self.away, self.resolver = holds, away, resolver
        self.due: list[Run] = []
        self.late: list[LateStrike] = []

    def note(self, run: Run) -> None:
        """Puts a run on the calendar for its next change."""
        if run.next_at is not None:
            self.calendar.note(run.next_at, BeatsDue(self, run))

    # Beats

    def beats_due(self, now: int) -> None:
        """Does the first three parts of a step: beats that end, beats that start, runs that finish."""
        runs, self.due = self.due, []
        if len(runs) == 1:
            run = runs[0]
            if run.ends_at <= now and run.next_at is None:
                self.guarded(run, now, self._all_ended)
                return
        else:
            # Of what begins in the same instant, the newest lies on top.
            runs.sort(key=lambda run: (run.started_at or 0 if self.night.rules >= 5 else 0, run.number))
        for work in (self._end_beats, self._start_beats, self._after_beats):
            for run in runs:
                if run.id in self.night.runs:
                    self.guarded(run, now, work)

    def _all_ended(self, run: Run, now: int) -> None:
        self.finish(run, "ended", now)

    def guarded(self, run: Run, now: int, work: Callable[[Run, int], None]) -> None:
        """Runs something for one run; an unexpected error ends this run alone."""
        try:
            work(run, now)
        except Exception as error:
            self._broken(run, error, now)

    def _broken(self, run: Run, error: Exception, now: int) -> None:
        """Ends a run that failed: what it holds returns, its lane is free, its redemption is refunded if that is still
        open.
        """
        log.exception("Run %s of the cue %s failed.", run.id, run.score.id)
        self.night.emit(o.Fail(run.id, "", f"the run failed: {type(error).__name__}: {error}"))
        for beat in run.beats:
            if beat.state == UP:
                beat.state = OVER
                if beat.spec.way == "shown":
                    self.night.emit(o.Hide(run.id, beat.spec.id))
            elif beat.state == PENDING:
                beat.state = LEFT_OUT
        for held, path in self.holds.lift_all(run.id):
            self.night.emit(o.Let(run.id, held, path))
        run.next_at = None
        self.night.runs.pop(run.id, None)
        self.late = [late for late in self.late if late.run is not run]
        self.audience.over(run, now)
        self.audience.lost(run)
        self.night.emit(o.Finish(run.id, "failed"))

    def _end_beats(self, run: Run, now: int) -> None:
        for beat in run.beats:
            if beat.state == UP and beat.spec.length == "open" and beat.end is None and now >= self._capped(beat):
                beat.end = now
                self._replan(run, now)  # A beat to the end of the run ends with it, in the same step.
        for beat in run.beats:
            if beat.state == UP and beat.end is not None and beat.end <= now:
                self._take_down(run, beat)

    def _capped(self, beat: RunBeat) -> int:
        """Returns when an open beat ends even if nobody releases it."""
        return (beat.start or 0) + self.resolver.lengths.open_cap

    def _take_down(self, run: Run, beat: RunBeat) -> None:
        beat.state = OVER
        spec = beat.spec
        if beat.failed is not None or spec.off:
            return
        if spec.way == "strike" and (second := KINDS[spec.kind].second(beat.value)) is not None:
            self.night.emit(o.Strike(run.id, spec.id, spec.kind, second))
        if spec.way == "shown":
            self.night.out.append((self.night.now, o.Hide(run.id, spec.id)))
            if spec.duck != 1:
                self.holds.lift(OTHERS, run.id, spec.id)
        for path, _ in beat.sets:
            if self.holds.lift(path, run.id, spec.id):
                self.night.emit(o.Let(run.id, spec.id, path))
        if beat.away:
            self.night.emit(o.Fail(run.id, spec.id, GEAR_WAS_AWAY))

    def _start_beats(self, run: Run, now: int) -> None:
        for beat in run.beats:
            if beat.state == PENDING and beat.start is not None and beat.start <= now:
                self._put_up(run, beat, now)

    def _put_up(self, run: Run, beat: RunBeat, now: int) -> None:
        spec, end = beat.spec, beat.end
        up = end is None or end > now
        beat.state = UP if up else OVER
        if beat.failed is not None or spec.off:
            return
        if spec.way != "strike":
            beat.away = up and self._is_away(beat)
            if not run.came and self._is_able(run, beat):
                self._came(run)
        if spec.way == "shown":
            if up:
                look = self._look_now(spec.look)
                self.night.out.append((now, o.Show(run.id, spec.id, spec.kind, beat.value, end, now, look)))
                if spec.duck != 1:
                    self.holds.lay(OTHERS, Layer(run.id, spec.id, spec.duck))
        elif spec.way == "hold":
            if spec.length == "keep":
                if not run.came:  # It is refunded, so it must not come later.
                    beat.failed = GEAR_AWAY
                    self.night.emit(o.Fail(run.id, spec.id, GEAR_AWAY))
                    return
                for path, value in beat.sets:
                    self.holds.keep(path, value, spec.fade_in)
            elif up:
                for path, value in beat.sets:
                    self.holds.lay(path, Layer(run.id, spec.id, value, spec.fade_out), spec.fade_in)
                    if not beat.away:
                        self.night.out.append((now, o.Hold(run.id, spec.id, spec.kind, path, value)))
        else:
            self._strike(run, beat)

    def _look_now(self, look: JsonObject) -> JsonObject:
        loudness = self.night.loudness
        return look if loudness == 1 or "volume" not in look else {**look, "volume": look["volume"] * loudness}

    def _strike(self, run: Run, beat: RunBeat) -> None:
        spec, act = beat.spec, KINDS[beat.spec.kind].act
        if act in ("rolls", "draws", "fires"):
            self._came(run)
        if act in ("rolls", "draws"):
            self.night.emit(rolled(run, beat))
        elif act == "fires":
            if run.depth + 1 > DEPTH:
                self.night.emit(o.Fail(run.id, spec.id, f"cues call each other more than {DEPTH} deep"))
                return
            self.night.emit(o.Strike(run.id, spec.id, spec.kind, beat.value))
            self.callee.fired(run, spec.id, beat.value, run.whose(beat))
        elif self._is_away(beat):
            if self.night.rules < 4:
                beat.failed = GEAR_AWAY
                self.night.emit(o.Fail(run.id, spec.id, GEAR_AWAY))
                return
            late = LateStrike(self, run, beat, self.night.now + ms(KINDS[spec.kind].limit_s or 0))
            self.late.append(late)
            self.calendar.note(late.until, late)
        else:
            self._emit_strike(run, beat)

    def _emit_strike(self, run: Run, beat: RunBeat) -> None:
        spec = beat.spec
        self._came(run)
        kind, value = KINDS[spec.kind], beat.value
        if kind.act == "gives" and not run.tried:
            self.callee.give(run, value["viewer"], value["name"], value["give"])
        elif kind.act == "wins" and not run.tried:
            self.night.emit(o.Won(run.id, spec.id, value["viewer"], value["name"], value["what"]))
        if kind.act == "counts":
            name, add = value["name"], value["add"]
            value = beat.value = {**value, "count": self.resolver.counts[name] + add}
            self.night.emit(o.Strike(run.id, spec.id, spec.kind, value))
            if run.depth + 1 > DEPTH:
                self.night.emit(o.Fail(run.id, spec.id, f"cues call each other more than {DEPTH} deep"))
            elif not run.tried:  # A try counts for nobody.
                self.callee.count_up(name, add, run=run, viewer=run.whose(beat))
            return
        self.night.emit(o.Strike(run.id, spec.id, spec.kind, kind.first(value)))

    def retell(self, count: str) -> None:
        """Updates the bars that show a count."""
        for run in self.night.runs.values():
            for beat in run.beats:
                if beat.state == UP and isinstance(beat.spec.beat, BarBeat) and beat.spec.beat.count == count:
                    beat.value = {**beat.value, "now": self.resolver.counts[count]}
                    self.night.emit(o.Change(run.id, beat.id, beat.value))

    # Real effects

    def _is_away(self, beat: RunBeat) -> bool:
        """Returns whether the gear that a beat needs is disconnected."""
        if not self.away.lost:
            return False
        if beat.spec.way == "hold":
            return bool(beat.sets) and all(self.away.is_away(path) for path, _ in beat.sets)
        return self.away.needed(beat.spec.kind, beat.value)

    def _is_able(self, run: Run, beat: RunBeat) -> bool:
        """Returns whether a beat has any effect as things are: its gear is there, and so is its speech."""
        if beat.failed is not None or beat.spec.off or beat.state == LEFT_OUT or self._is_away(beat):
            return False
        unmade = KINDS[beat.spec.kind].speaks and self.resolver.speech_grace > 0 and beat.id not in run.speech_ms
        return not unmade

    def _came(self, run: Run) -> None:
        """Notes that something of it is done: it won't be refunded any more."""
        if run.came:
            return
        run.came, run.paid = True, 0
        if run.redemption is not None:
            self.audience.started(run)

    def _over(self, run: Run, how: str, now: int) -> None:
        """Ends a run; it is lost if it had no effect, and can't have one any more."""
        self.audience.over(run, now)
        self._perhaps_lost(run)
        self.night.out.append((now, o.Finish(run.id, how if run.came or self._may_come(run) else "failed")))

    def _may_come(self, run: Run) -> bool:
        return any(late.run is run for late in self.late)

    def _perhaps_lost(self, run: Run) -> None:
        if not run.came and run.id not in self.night.runs and not self._may_come(run):
            self.audience.lost(run)

    def gear_back(self) -> None:
        """Serves gear that is back: waiting strikes go out, and anything up on it is visible now."""
        late, self.late = self.late, []
        for one in late:
            if self._is_away(one.beat):
                self.late.append(one)
            else:
                self._emit_strike(one.run, one.beat)
        for run in self.night.runs.values():
            for beat in run.beats:
                if beat.away and beat.state == UP and not self._is_away(beat):
                    beat.away = False
                    for path, value in beat.sets:
                        self.night.emit(o.Hold(run.id, beat.id, beat.spec.kind, path, value))
                    if self._is_able(run, beat):
                        self._came(run)

    def missed(self, late: LateStrike) -> None:
        """Fails a strike whose gear didn't come back in time."""
        self.late.remove(late)
        late.beat.failed = GEAR_AWAY
        self.night.emit(o.Fail(late.run.id, late.beat.id, GEAR_AWAY))
        self._perhaps_lost(late.run)

    def leave_late(self, viewer: str | None = None) -> None:
        """Cancels strikes that wait for their gear: all of them, or those of a viewer."""
        for late in list(self.late):
            if viewer is None or late.run.viewer_id == viewer:
                self.missed(late)

    def _after_beats(self, run: Run, now: int) -> None:
        """Finishes the run if nothing is left of it, otherwise notes its next change."""
        next_at: int | None = None
        later = False
        for beat in run.beats:
            if beat.state == PENDING:
                later = True
                at = beat.start
            elif beat.state == UP:
                at = self._capped(beat) if beat.end is None and beat.spec.length == "open" else beat.end
            else:
                continue
            if at is None:
                later = True
            elif next_at is None:
                next_at = at
            elif at != next_at:
                later = True
                if at < next_at:
                    next_at = at
        if next_at is None:
            self.finish(run, "ended", now)
            return
        run.ends_at = FAR if later else next_at
        if next_at != run.next_at:
            run.next_at = next_at
            self.calendar.note(next_at, BeatsDue(self, run))

    def _replan(self, run: Run, now: int) -> None:
        for beat in place(run.beats, run.started_at or 0, now, run.cap_at):
            self.night.emit(o.Prolong(run.id, beat.spec.id, beat.end))

    # Runs

    def begin(self, run: Run, now: int) -> None:
        """Starts the run: everything is resolved and placed, and the first beats begin."""
        run.started_at = now
        if not run.tried:
            self.resolver.started(run)
        made = self.resolver.resolve(run)
        if run.speed > 1:
            for beat in run.beats:
                if beat.own is not None and beat.spec.own is None:
                    beat.own = max(1, beat.own // run.speed)
        place(run.beats, now, now)
        self.night.out.append((now, o.Start(run.id, run.score.id, run.call, run.until())))
        if made:
            self.night.out += [(now, order) for order in made]
            there = [beat for beat in run.beats if beat.state != LEFT_OUT]
            if there and all(beat.failed is not None or beat.spec.off for beat in there):
                self.finish(run, "failed", now)
                return
        # With nothing to do, nothing is missing.
        there = [beat for beat in run.beats if beat.state != LEFT_OUT and not beat.spec.off]
        if not there or self.night.rules < 4 or any(self._is_able(run, beat) for beat in there):
            self._came(run)
        self._start_beats(run, now)
        if run.id in self.night.runs:
            self._after_beats(run, now)

    def finish(self, run: Run, how: str, now: int) -> None:
        """Ends a run: whatever is up goes, and later beats don't come."""
        for beat in run.beats:
            if beat.state == UP:
                self._take_down(run, beat)
            elif beat.state == PENDING:
                beat.state = LEFT_OUT
        self.night.runs.pop(run.id, None)
        run.next_at = None
        self._over(run, how, now)

    def extendable(self, run: Run) -> list[RunBeat]:
        cap = (run.started_at or 0) + ms(self.resolver.book.house.extend_cap_s)
        return [
            beat
            for beat in run.beats
            if beat.state == UP and beat.own and beat.end is not None and beat.end < cap and beat.spec.way != "strike"
        ]

    def extend(self, run: Run) -> None:
        """Extends every beat that is up by its own length, up to the cap; what depends on its end moves with it.

        A beat that lasts beyond the cap anyway isn't cut.
        """
        cap = (run.started_at or 0) + ms(self.resolver.book.house.extend_cap_s)
        ends = [beat.end for beat in run.beats if beat.state in (PENDING, UP) and beat.end is not None]
        run.cap_at = max([cap, *ends])
        for beat in self.extendable(run):
            assert beat.end is not None and beat.own is not None
            beat.end = min(beat.end + beat.own, cap)
            self.night.emit(o.Prolong(run.id, beat.spec.id, beat.end))
        self._replan(run, self.night.now)
        self._after_beats(run, self.night.now)

    def released(self, release: h.Release) -> None:
        run = self.night.runs.get(release.run)
        if run is None or run.started_at is None:
            return
        if release.beat is None:
            self.finish(run, "ended", self.night.now)
            return
        for beat in run.beats:
            if beat.spec.id == release.beat and beat.state == UP:
                beat.end = self.night.now
                if KINDS[beat.spec.kind].act in ("rolls", "draws"):
                    self.night.emit(o.Prolong(run.id, beat.spec.id, beat.end))
                self._take_down(run, beat)
        self._replan(run, self.night.now)
        self._end_beats(run, self.night.now)
        self._start_beats(run, self.night.now)
        if run.id in self.night.runs:
            self._after_beats(run, self.night.now)

    # Input

    def spoken(self, speech: h.SpeechReady) -> None:
        """Notes that a speech is ready, or couldn't be made. If its run has begun, the beat now lasts as long as the
        speech.
        """
        run, now = self.night.runs.get(speech.run), self.night.now
        if run is None:
            return
        own = 0 if speech.failed else max(1, round(speech.length_s * 1000))
        run.speech_ms[speech.beat] = own
        if run.started_at is None:
            return
        for beat in run.beats:
            if beat.spec.id != speech.beat or beat.state not in (UP, PENDING):
                continue
            if not speech.failed and self._is_able(run, beat):
                self._came(run)
            if beat.state == PENDING:
                beat.own = own if beat.spec.length == "natural" else beat.own
                beat.failed = NOT_SAID if speech.failed else beat.failed
                self._replan(run, now)
                self._after_beats(run, now)
            elif speech.failed:
                self.night.emit(o.Fail(run.id, speech.beat, NOT_SAID))
                self.released(h.Release(run.id, speech.beat))  # The sounds that it ducked come back.
                beat.failed = NOT_SAID
            elif beat.spec.length == "natural":
                beat.own, beat.end = own, now + own
                self.night.emit(o.Prolong(run.id, speech.beat, beat.end))
                self._replan(run, now)
                self._after_beats(run, now)
            return

    def strike_failed(self, failed: h.StrikeFailed) -> None:
        self.night.emit(o.Fail(failed.run, failed.beat, failed.why))

    def renamed(self, path_now: Callable[[str], str], value_now: Callable[[str, PropertyValue], PropertyValue]) -> None:
        """Renames the paths of properties in what beats hold."""
        for run in self.night.runs.values():
            for beat in run.beats:
                beat.sets = [(path_now(path), value_now(path, value)) for path, value in beat.sets]
