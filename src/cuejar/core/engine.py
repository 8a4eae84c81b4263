"""The engine: happenings in, orders out. No clock, no waiting, no I/O.

There is one way in, `Engine.handle`, and one way out, the list of orders it returns; `Engine.due` says when it wants to
be asked again even if nothing happens. Time is whole milliseconds of whoever runs it, and never goes back.

What is due at an instant is handled in one step before the happenings of the same millisecond; then each of those in
the order they came, each a step of its own. Within a step: beats that end, beats that start, runs that finish, runs that
start (lanes in the book's order), then drops, then whoever a drop let through, and last the properties, each of which
changes at most once.

The rules themselves are in the parts: `door`, `lanes`, `score`, `holds`, `draw`, `chance`, `words`, `price`; `stage`
and `reception` carry them out. Here they are only put together.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from cuejar.core import happenings as h
from cuejar.core import orders as o
from cuejar.core.book import Book, book_from
from cuejar.core.lanes import GOES_FIRST
from cuejar.core.reception import Reception
from cuejar.core.resolve import NOT_SAID
from cuejar.core.rig import renaming
from cuejar.core.score import PENDING, UP
from cuejar.core.stage import DEPTH
from cuejar.core.state import engine_from, snapshot_of

Timed = tuple[int, o.Order]
"""An order with its instant in ms."""


class Engine(Reception):
    """The rules of the job, put together. See the module's text for its contract."""

    def __init__(
        self,
        book: Book,
        seed: int = 0,
        media: dict[str, h.MediaFacts] | None = None,
        tracing: bool = False,
    ) -> None:
        """Args:
        media: what is in the files of the library; None takes every file of the book as there.
        tracing: whether verdicts carry the answers of all checks.
        """
        super().__init__(book, seed, media, tracing)
        for path, value in self.prices.properties(self.now):
            self.holds.at_rest(path, value)

    def handle(self, happening: h.Happening, now: int) -> list[Timed]:
        """Handles what is due by ``now``, then the happening, in steps of their own.

        Args:
            now: ms; an instant before the last one counts as the last one.

        Raises:
            BookError: the happening is a new book that cannot be taken; nothing has changed then.
        """
        self._advance(now)
        self._dispatch(happening)
        out, self.out = self.out, []
        return out

    def taken_out(self) -> list[Timed]:
        """The orders of a step that broke off in the middle: what was asked for up to there was asked for."""
        out, self.out = self.out, []
        return out

    def advance(self, now: int) -> list[Timed]:
        """Handles everything that is due up to and at ``now`` (ms), instant by instant."""
        self._advance(now)
        out, self.out = self.out, []
        return out

    def _advance(self, now: int) -> None:
        while (at := self.due()) is not None and at <= now:
            if at > self.now:
                self.now = at
            clocks = self._take_due(at)
            if self._due_runs:
                self._beats_due(self.now)
            self._step()
            for clock in clocks:
                self._dispatch(clock)
        if now > self.now:
            self.now = now

    def _dispatch(self, happening: Any) -> None:
        _HANDLERS[happening.kind](self, happening)
        self._step()

    def _step(self) -> None:
        """The rest of a step: runs that start, drops, whoever a drop let through, and the properties."""
        now = self.now
        self._start_runs(now)
        while self._newcomers:
            self._must_wait()
        if self._stale and self._drop_stale(now):
            self._start_runs(now)
        if self.holds.touched:
            self._flush()
        while self._scenes:
            scene, depth = self._scenes.pop(0)
            if depth < DEPTH:
                self._called(h.SceneShown(scene), depth=depth + 1)
                self._step()

    def _flush(self) -> None:
        for change in self.holds.flush(self.away.holds):
            self._emit(change)
            if change.path == "broadcast/scene" and self.calls.scenes and isinstance(change.value, str):
                depth = self.runs[change.run].depth if change.run in self.runs else 0
                self._scenes.append((change.value, depth))

    # The book, the stream, the gear, the library

    def _new_book(self, happening: h.NewBook) -> None:
        self._take(book_from(happening.book))
        for lane in list(self.lanes.values()):
            for run in lane.line.by_arrival():
                score = self.scores.get(run.score.id)
                if score is None:
                    self._drop(lane, run, "by_hand")
                    continue
                head = score.entry in GOES_FIRST
                if self.lanes[score.lane] is lane and head == (run.score.entry in GOES_FIRST):
                    run.score = score
                    continue
                lane.line.remove(run)
                run.score, run.head = score, head
                self.lanes[score.lane].join(run)
            lane.stirred = True
        for path, value in self.prices.properties(self.now):
            if self.holds.rest_of(path) != value:
                self.holds.keep(path, value)

    def _streamed(self, stream: h.Stream) -> None:
        if stream.category is not None:
            self.category = stream.category
        if stream.state == "live" and not self.on_air:
            self.on_air, self.stream_from = True, self.now
            self.stream += 1
            self.tallies.new_stream()
            for lane in self.lanes.values():
                lane.line.new_stream()
            for reward in self.prices.new_stream():
                self._reprice(reward)
            self._schedule_clocks()
        elif stream.state == "ended" and self.on_air:
            self.on_air = False
        else:
            return
        self._called(stream)

    def _handed(self, hand: h.Hand) -> None:
        self.holds.hand(hand.path, hand.value, hand.heard)
        if hand.path == "broadcast/scene" and self.calls.scenes and isinstance(hand.value, str):
            self._scenes.append((hand.value, 0))

    def _rested(self, rest: h.Rest) -> None:
        for path, value in rest.values.items():
            self.holds.at_rest(path, value)
        for path, mark in rest.heard.items():
            if (p := self.holds.known(path)) is not None:
                p.heard = mark

    def _geared(self, state: h.GearState) -> None:
        prefixes = self.away.set(state.gear, state.state == "lost")
        if state.state == "back":
            self.holds.touch(lambda path: path.startswith(prefixes))

    def _media_known(self, known: h.MediaKnown) -> None:
        self.media = dict(known.media)
        self.lengths.media = self.media

    def _foldered(self, folder: h.Folder) -> None:
        self.jars.folders[folder.jar] = folder.values

    def _sourced(self, sources: h.Sources) -> None:
        self.resolver.sources[sources.scene] = sources.sources

    def _catalogued(self, catalogue: h.Catalogue) -> None:
        self.resolver.catalogues.take(catalogue)
        for scene, sources in catalogue.scenes.items():
            self.resolver.sources[scene] = sources

    def _renamed(self, renamed: h.Renamed) -> None:
        path_now, value_now = renaming(renamed)
        self.holds.rename(path_now, value_now)
        for run in self.runs.values():
            for beat in run.beats:
                beat.sets = [(path_now(path), value_now(path, value)) for path, value in beat.sets]

    def _kept(self, keep: h.Keep) -> None:
        for path, value in keep.values.items():
            self.holds.keep(path, value)

    def _spoken(self, speech: h.SpeechReady) -> None:
        """A speech is ready, or could not be made. If its run began already it lasts from now on as long as it really is."""
        run = self.runs.get(speech.run)
        if run is None:
            return
        own = 0 if speech.failed else max(1, round(speech.length_s * 1000))
        if run.started_at is None:
            run.speech_ms[speech.beat] = own
            return
        for beat in run.beats:
            if beat.spec.id != speech.beat or beat.state not in (UP, PENDING):
                continue
            if beat.state == PENDING:
                beat.own = own if beat.spec.length == "natural" else beat.own
                beat.failed = NOT_SAID if speech.failed else beat.failed
                self._replan(run, self.now)
                self._after_beats(run, self.now)
            elif speech.failed:
                beat.failed = NOT_SAID
                self._emit(o.Fail(run.id, speech.beat, NOT_SAID))
                self._released(h.Release(run.id, speech.beat))
            elif beat.spec.length == "natural":
                beat.own, beat.end = own, self.now + own
                self._emit(o.Prolong(run.id, speech.beat, beat.end))
                self._replan(run, self.now)
                self._after_beats(run, self.now)
            return

    # The whole state

    def snapshot(self) -> dict[str, Any]:
        """Everything the engine knows, as JSON. `restore` goes on from it as if nothing had been."""
        return snapshot_of(self)

    @classmethod
    def restore(cls, data: dict[str, Any], tracing: bool = False) -> Engine:
        """Raises KeyError, ValueError or TypeError when the data is not a whole snapshot."""
        return engine_from(cls, data, tracing)


_HANDLERS: dict[str, Callable[[Engine, Any], None]] = {
    "stream": Engine._streamed,
    "redemption": Engine._redeemed,
    "chat": Engine._called,
    "tip": Engine._called,
    "follow": Engine._called,
    "membership": Engine._called,
    "raid": Engine._called,
    "hook": Engine._called,
    "pad": Engine._padded,
    "clock": Engine._clocked,
    "try": Engine._tried,
    "hand": Engine._handed,
    "rest": Engine._rested,
    "all_to_rest": Engine._all_to_rest,
    "release": Engine._released,
    "drop": Engine._dropped,
    "move": Engine._moved,
    "review": Engine._reviewed,
    "gear": Engine._geared,
    "book": Engine._new_book,
    "media": Engine._media_known,
    "folder": Engine._foldered,
    "sources": Engine._sourced,
    "catalogue": Engine._catalogued,
    "renamed": Engine._renamed,
    "keep": Engine._kept,
    "speech": Engine._spoken,
    "strike_failed": lambda engine, x: engine._emit(o.Fail(x.run, x.beat, x.why)),
}
