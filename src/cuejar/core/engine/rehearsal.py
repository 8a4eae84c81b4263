"""Rehearsal: the same engine on a virtual clock.

A script holds a book, rest values, what is in the media and the scenes, and the happenings of a night with their times.
Running it yields every order with its instant; the report adds them up.
"""

from __future__ import annotations

import gc
import json
from collections import Counter
from collections.abc import Iterable, Iterator, Sequence
from contextlib import contextmanager
from statistics import median, quantiles

from cuejar.core.book.book import Book
from cuejar.core.book.files import book_from
from cuejar.core.engine.engine import Engine
from cuejar.core.engine.night import Timed
from cuejar.core.engine.state import SPEECH_GRACE_MS, engine_from
from cuejar.core.engine.view import View
from cuejar.core.facts import orders as o
from cuejar.core.facts.happenings import Happening, MediaFacts, PropertyValue, Rest, Try, happening_from
from cuejar.core.facts.paths import is_pause, read_path
from cuejar.core.facts.script import ScriptForm
from cuejar.core.kinds.table import KINDS
from cuejar.core.parts.base import BookError, JsonObject, Problem, ms, parsed


class Script:
    """A night to rehearse. Happenings are in time order; those of one millisecond keep theirs."""

    def __init__(
        self,
        book: Book,
        happenings: Iterable[tuple[int, Happening]],
        seed: int = 0,
        until: int | None = None,
        rest: dict[str, PropertyValue] | None = None,
        media: dict[str, MediaFacts] | None = None,
        sources: dict[str, list[str]] | None = None,
        state: JsonObject | None = None,
        begins: int = 0,
    ) -> None:
        """Args:
        state: the engine's before the night (`core.engine.state`), with its rest values and files.
        begins: the instant of its clock (ms) at which the night begins; all times here count from there.
        """
        self.state, self.begins = state, begins
        self.book, self.seed, self.until = book, seed, until
        self.happenings = happenings
        self.rest, self.media, self.sources = rest or {}, media, sources or {}

    def engine(self) -> Engine:
        if self.state is not None:
            return engine_from(self.state, speech_grace=SPEECH_GRACE_MS)
        engine = Engine(self.book, self.seed, self.media)
        if self.rest:
            engine.handle(Rest(self.rest), 0)
        engine.resolver.sources |= {scene: tuple(names) for scene, names in self.sources.items()}
        return engine


def script_from(data: object) -> Script:
    """Returns a checked script from parsed JSON.

    Raises:
        BookError: every problem, with its path.
    """
    form: ScriptForm = parsed(ScriptForm, data)
    problems: list[Problem] = []
    timed: list[tuple[int, Happening]] = []
    book: Book | None = None
    try:
        book = book_from(form.book)
    except BookError as error:
        problems += [Problem(f"book.{p.path}".rstrip("."), p.what) for p in error.problems]
    for i, row in enumerate(form.happenings):
        where = f"happenings[{i}]"
        at = row.get("at")
        if isinstance(at, bool) or not isinstance(at, (int, float)) or not 0 <= at <= 10_000_000:
            problems.append(Problem(f"{where}.at", "must be the time in seconds, 0 or more"))
            continue
        try:
            happening = happening_from({key: value for key, value in row.items() if key != "at"}, where)
        except BookError as error:
            problems += error.problems
            continue
        try:
            if happening.kind == "book":
                book_from(happening.book)
            timed.append((ms(at), happening))
        except BookError as error:
            problems += [Problem(f"{where}.book.{p.path}".rstrip("."), p.what) for p in error.problems]
    if form.state is not None:
        try:
            engine_from(form.state)
        except (BookError, KeyError, ValueError, TypeError, AttributeError, IndexError) as error:
            problems.append(Problem("state", f"isn’t a complete show state ({error or type(error).__name__})"))
    if problems or book is None:
        raise BookError(problems)
    timed.sort(key=lambda pair: pair[0])
    until = None if form.until is None else ms(form.until)
    return Script(
        book, timed, form.seed, until, form.rest, form.media, form.sources, form.state, form.begins if form.state else 0
    )


@contextmanager
def undisturbed() -> Iterator[None]:
    """Suspends the garbage collector: a night makes no reference cycles, and looking for them takes a fifth of its
    time.
    """
    if not gc.isenabled():
        yield
        return
    frozen = gc.get_freeze_count() > 0
    gc.freeze()
    gc.disable()
    try:
        yield
    finally:
        gc.enable()
        if not frozen:
            gc.unfreeze()


def rehearse(script: Script) -> Iterator[Timed]:
    """Runs the night. Yields every order with its instant in ms; ends at ``until``, or when nothing is due any more."""
    engine = script.engine()
    with undisturbed():
        if not script.begins:
            yield from play(engine, script)
            return
        for at, order in play(engine, script):
            yield at - script.begins, _from(order, script.begins)


def _from(order: o.Order, begins: int) -> o.Order:
    """Returns the order with its instants counted from the beginning of the night."""
    if not isinstance(order, (o.Show, o.Roll, o.Prolong, o.Start)):
        return order
    until = order.until - begins if order.until is not None else None
    return (
        order._replace(until=until, at=order.at - begins) if isinstance(order, o.Show) else order._replace(until=until)
    )


def play(engine: Engine, script: Script) -> Iterator[Timed]:
    until = script.until
    for at, happening in script.happenings:
        if until is not None and at > until:
            break
        yield from engine.handle(happening, at + script.begins)
    if until is not None:
        yield from engine.advance(until + script.begins)
        return
    view = View(engine)
    while (due := engine.due()) is not None and not view.waits_for_the_clock:
        yield from engine.advance(due)


def preview(engine: Engine, attempt: Try, then: Sequence[Happening] = ()) -> list[Timed]:
    """Plays a try of a cue from 0 ms to its end, without anything being done.

    Args:
        engine: a fresh one over the draft of the book; it can't be used again.
        then: what is known right after the start, such as the real length of its speeches.
    """
    orders = engine.handle(attempt, 0)
    for happening in then:
        orders += engine.handle(happening, 0)
    view = View(engine)
    while view.runs and (due := engine.due()) is not None:
        orders += engine.advance(due)
    return orders


def lines(timed: Iterable[Timed]) -> Iterator[str]:
    """Yields the printed form: one JSON object per line, times in seconds."""
    for at, order in timed:
        row = o.line(order, at)
        if row is not None:
            yield json.dumps(row, ensure_ascii=False)


class Report:
    """The totals of a night. Feed it every order, then ask for `summary`."""

    def __init__(self, script: Script) -> None:
        self.script = script
        self.verdicts: Counter[str] = Counter()
        self.reasons: Counter[str] = Counter()
        self.settled: Counter[str] = Counter()
        self.finished: Counter[str] = Counter()
        self.drops: Counter[str] = Counter()
        self.waits: dict[str, list[int]] = {}
        self.covered: dict[str, int] = {}
        self.spent = 0
        self.highest = 0
        self._up: dict[str, dict[tuple[str, str], int]] = {}
        self._since: dict[str, int] = {}
        self._let_in: dict[str, int] = {}
        self._running: set[str] = set()
        self._beats = {(c.id, b.id): KINDS[b.kind].output for c in script.book.cues for b in c.beats}
        self._cue_of: dict[str, str] = {}
        self._lane_of = {cue.id: script.book.lane_of(cue) for cue in script.book.cues}
        self._costs: dict[str, int] = {}
        self._rewards: dict[str, str] = {}
        self._paused: set[str] = set()
        self._in_vain: set[str] = set()
        self.spared = 0
        """Refunds of redemptions of a paused reward: at a channel that pauses, nobody could have redeemed it."""
        self.last = 0

    def note(self, happening: Happening) -> None:
        if happening.kind == "redemption":
            self._rewards[happening.id] = happening.reward

    def add(self, at: int, order: o.Order) -> None:
        self.last = max(self.last, at)
        if isinstance(order, o.Verdict):
            self.verdicts[order.verdict] += 1
            if order.reason:
                self.reasons[order.reason] += 1
            if order.call in self._rewards and order.verdict != "ignored":
                self._costs[order.call] = order.cost
            if self._rewards.get(order.call) in self._paused:
                self._in_vain.add(order.call)
            if order.verdict == "let_in" and order.run:
                self._let_in[order.run] = at
        elif isinstance(order, o.Start):
            self._cue_of[order.run] = order.cue
            self._running.add(order.run)
            self.highest = max(self.highest, len(self._running))
            lane = self._lane_of.get(order.cue, "")
            self.waits.setdefault(lane, []).append(at - self._let_in.pop(order.run, at))
        elif isinstance(order, o.Settle):
            self.settled[order.as_] += 1
            cost = self._costs.pop(order.redemption, 0)
            if order.as_ == "fulfilled":
                self.spent += cost
            elif order.redemption in self._in_vain:
                self.spared += 1
        elif isinstance(order, o.Show):
            self._rise(self._output(order.run, order.beat), (order.run, order.beat), at)
        elif isinstance(order, o.Hide):
            self._fall(self._output(order.run, order.beat), (order.run, order.beat), at)
        elif isinstance(order, o.Set) and is_pause(order.path):
            (self._paused.add if order.value else self._paused.discard)(read_path(order.path).steps[0])
        elif isinstance(order, o.Set):
            output = read_path(order.path).family
            if order.run is None:
                self._fall(output, (order.path, ""), at)
            else:
                self._rise(output, (order.path, ""), at)
        elif isinstance(order, o.Drop):
            self.drops[order.as_] += 1
            self._let_in.pop(order.run, None)
        elif isinstance(order, o.Finish):
            self.finished[order.as_] += 1
            self._running.discard(order.run)

    def _output(self, run: str, beat: str) -> str:
        return self._beats.get((self._cue_of.get(run, ""), beat), "picture")

    def _rise(self, output: str, key: tuple[str, str], at: int) -> None:
        up = self._up.setdefault(output, {})
        if not up:
            self._since[output] = at
        up[key] = at

    def _fall(self, output: str, key: tuple[str, str], at: int) -> None:
        up = self._up.setdefault(output, {})
        if up.pop(key, None) is not None and not up:
            self.covered[output] = self.covered.get(output, 0) + at - self._since[output]

    def summary(self, engine: Engine | None = None) -> JsonObject:
        """Returns the report as JSON; times in s, shares from 0 to 1 of the length of the night."""
        night = self.script.until if self.script.until is not None else self.last
        covered = dict(self.covered)
        for output, up in self._up.items():
            if up:
                covered[output] = covered.get(output, 0) + night - self._since[output]
        return {
            "length_s": night / 1000,
            "verdicts": dict(self.verdicts),
            "reasons": dict(self.reasons),
            "settled": dict(self.settled),
            "dropped": dict(self.drops),
            "finished": dict(self.finished),
            "waits": {lane: _waits(values) for lane, values in sorted(self.waits.items())},
            "covered": {output: round(time / night, 4) if night else 0 for output, time in sorted(covered.items())},
            "highest_at_once": self.highest,
            "points_spent": self.spent,
            "spared_by_pauses": self.spared,
            "at_rest_at_end": engine is not None and View(engine).at_rest,
        }


def _waits(values: list[int]) -> dict[str, float | int]:
    late = quantiles(values, n=20, method="inclusive")[18] if len(values) > 1 else values[0]
    return {"runs": len(values), "median_s": median(values) / 1000, "p95_s": round(late / 1000, 3)}


def report(script: Script) -> JsonObject:
    """Rehearses the script and adds it up."""
    result = Report(script)
    script.happenings = list(script.happenings)
    for _, happening in script.happenings:
        result.note(happening)
    engine = script.engine()
    with undisturbed():
        for at, order in play(engine, script):
            result.add(at - script.begins, order)
    return result.summary(engine)
