"""What must hold for any book and any night."""

from __future__ import annotations

import json
from collections import Counter
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from cuejar.core.book.book import Book
from cuejar.core.book.files import book_from, book_json
from cuejar.core.engine import state
from cuejar.core.engine.engine import Engine
from cuejar.core.engine.night import Timed
from cuejar.core.engine.state import engine_from, snapshot_of
from cuejar.core.engine.view import View
from cuejar.core.facts import happenings as h
from cuejar.core.facts import orders as o
from cuejar.core.kinds.table import KINDS
from tests.core import whole
from tests.core.books import MEDIA, REST, books, nights

Night = list[tuple[int, h.Happening]]


def fresh(book: Book, seed: int = 3) -> Engine:
    engine = Engine(book, seed, MEDIA, tracing=True)
    engine.handle(h.Rest(REST), 0)
    return engine


def finish(engine: Engine) -> list[Timed]:
    """Returns everything that is still due."""
    orders = []
    while (due := engine.due()) is not None:
        orders += engine.advance(due)
    return orders


def run_night(engine: Engine, night: Night) -> list[Timed]:
    orders = []
    for at, happening in night:
        orders += engine.handle(happening, at)
    return orders + finish(engine)


def same_orders(some: list[Timed], others: list[Timed]) -> None:
    for one, other in zip(some, others, strict=False):
        assert one == other
    assert len(some) == len(others)


class Watch:
    """Checks, order by order, what must never be."""

    def __init__(self, engine: Engine) -> None:
        self.engine, self.book = engine, engine.book
        self.cue: dict[str, str] = {}
        self.up: set[tuple[str, str]] = set()
        self.settled: Counter[str] = Counter()
        self.ran: Counter[tuple[str, str]] = Counter()
        self.calls: dict[str, str] = {}
        self.taps: Counter[str] = Counter()
        self.tried: set[str] = set()
        self.running: set[str] = set()
        self.solo: str | None = None

    def see(self, timed: list[Timed], happening: h.Happening | None) -> None:
        seen_sets: set[tuple[int, str]] = set()
        for at, order in timed:
            if isinstance(order, o.Verdict) and order.run:
                if happening is not None and happening.kind == "try" and order.detail == "a try":
                    self.tried.add(order.run)
                if (
                    isinstance(happening, (h.Redemption, h.Chat)) and "/" not in order.call
                ):  # Fired ones count for nobody.
                    self.calls[order.call] = happening.viewer.id
                    if order.verdict == "extended":
                        self.ran[order.cue or "", happening.viewer.id] += 1
            elif isinstance(order, o.Start):
                self._start(order)
            elif isinstance(order, o.Finish):
                assert not [key for key in self.up if key[0] == order.run], "something is up after the finish"
                self.running.discard(order.run)
                self.solo = None if self.solo == order.run else self.solo
            elif isinstance(order, o.Show):
                assert (order.run, order.beat) not in self.up
                assert order.until is None or order.until > at
                self.up.add((order.run, order.beat))
            elif isinstance(order, o.Hide):
                self.up.remove((order.run, order.beat))
            elif isinstance(order, o.Settle):
                self.settled[order.redemption] += 1
            elif isinstance(order, o.Set) and order.path.startswith("keys/"):
                self.taps[order.path] += 1
            if isinstance(order, o.Set) and happening is None:
                assert (at, order.path) not in seen_sets, "a property changed twice in a step"
                seen_sets.add((at, order.path))
        self._lanes()

    def _start(self, order: o.Start) -> None:
        self.cue[order.run] = order.cue
        self.running.add(order.run)
        if order.call in self.calls:
            self.ran[order.cue, self.calls[order.call]] += 1
        if order.run in self.tried:
            return
        assert self.solo is None, "something started beside a solo"
        entry = self.engine.reception.scores[order.cue].entry
        if entry == "solo":
            self.solo = order.run

    def _lanes(self) -> None:
        for lane in self.engine.waiting.lanes.values():
            room = [run for run in lane.running if run.score.entry != "overlap"]
            assert len(room) <= lane.settings.width
            assert lane.taken == len(room)
            assert all(run.started_at is None for run in lane.line)
            limited = [run for run in lane.line if run.score.entry not in ("overlap", "replace")]
            # Cues called together are all asked before any starts; all may find their lane free, then one takes it.
            assert len(limited) <= lane.settings.line + len(self.book.cues) - 1


@given(books(), nights())
def test_nothing_stays_up_and_everyone_is_settled(book: Book, night: Night) -> None:
    engine = fresh(book)
    watch = Watch(engine)
    for at, happening in night:
        watch.see(engine.advance(at), None)
        watch.see(engine.handle(happening, at), happening)
    watch.see(finish(engine), None)

    assert not engine.night.runs
    assert not engine.outcomes.open
    assert not engine.surroundings.holds.held()
    assert not watch.up
    for path, value in engine.surroundings.holds.wanted().items():
        assert value == engine.surroundings.holds.rest_of(path) or path.startswith("sound/")
        assert engine.surroundings.holds.property(path).shown == value
    redeemed = [x.id for _, x in night if isinstance(x, h.Redemption)]
    assert watch.settled == Counter(redeemed), "every redemption of a called cue is settled exactly once"
    assert all(taps % 2 == 0 for taps in watch.taps.values())
    caps = {cue.id: cue.door.cap_viewer for cue in book.cues}
    if sum(isinstance(x, h.Stream) for _, x in night) == 1:
        for cue, viewer in watch.ran:
            cap = caps[cue]
            assert cap is None or watch.ran[cue, viewer] <= cap


@given(books(), nights(), st.data())
def test_restored_in_the_middle_goes_on_the_same(book: Book, night: Night, data: Any) -> None:
    whole = run_night(fresh(book), night)
    cut = data.draw(st.integers(0, len(night)))
    engine = fresh(book)
    orders = []
    for at, happening in night[:cut]:
        orders += engine.handle(happening, at)
    engine = engine_from(json.loads(json.dumps(snapshot_of(engine))), tracing=True)
    for at, happening in night[cut:]:
        orders += engine.handle(happening, at)
    same_orders(orders + finish(engine), whole)


@given(books(), nights())
def test_replaying_the_journal_gives_the_same_orders(book: Book, night: Night) -> None:
    """Through the journal's own form, and asked at other instants in between: the orders are the same."""
    asked_often, written = fresh(book), []
    orders = []
    for at, happening in night:
        while (due := asked_often.due()) is not None and due < at:
            orders += asked_often.advance(due)
        orders += asked_often.handle(happening, at)
        written.append((at, json.dumps(h.happening_json(happening))))
    orders += finish(asked_often)
    replayed = [(at, h.happening_from(json.loads(text))) for at, text in written]
    same_orders(run_night(fresh(book_from(book_json(book))), replayed), orders)


@given(books(), nights(), books())
def test_a_new_book_in_the_middle_loses_nobody(book: Book, night: Night, other: Book) -> None:
    engine = fresh(book)
    half = len(night) // 2
    orders = []
    for i, (at, happening) in enumerate(night):
        if i == half:
            orders += engine.handle(h.NewBook(book_json(other)), at)
        orders += engine.handle(happening, at)
    orders += finish(engine)
    settled = Counter(order.redemption for _, order in orders if isinstance(order, o.Settle))
    assert settled == Counter(x.id for _, x in night if isinstance(x, h.Redemption))
    assert not engine.surroundings.holds.held()
    assert not engine.night.runs


def kept_by(part: Any) -> set[str]:
    """Returns the names of an object's attributes; a compiled class lists them itself."""
    of_class: tuple[str, ...] = getattr(type(part), "__mypyc_attrs__", ())
    return {name for name in (of_class or vars(part)) if not name.startswith("__")}


def test_everything_that_the_parts_keep_is_in_the_snapshot() -> None:
    """A new attribute must be kept, follow from something else, or be empty between two steps; and be listed so."""
    engine = fresh(book_from({"cues": []}))
    parts = {name for name in kept_by(engine)
             if type(getattr(engine, name)).__module__.startswith("cuejar.core.engine.")}  # fmt: skip
    assert parts - {"calendar"} == set(state.KEPT), "the calendar follows from the others"
    for part in state.KEPT:
        mine = kept_by(getattr(engine, part))
        assert mine == state.KEPT[part] | state.MADE[part] | state.EMPTY[part], part
        assert not any(getattr(getattr(engine, part), name) for name in state.EMPTY[part]), part


@given(books(), nights())
def test_a_snapshot_of_the_first_version_is_read(book: Book, night: Night) -> None:
    engine = fresh(book)
    for at, happening in night[: len(night) // 2]:
        engine.handle(happening, at)
        for part, names in state.EMPTY.items():
            assert not any(getattr(getattr(engine, part), name) for name in names), "between two steps"
    now = json.loads(json.dumps(snapshot_of(engine)))
    flat = {
        **{key: row for key, row in now.items() if key not in ("night", "reception")},
        **now["night"],
        **now["reception"],
    }
    before = {
        **now,
        "night": {**now["night"], "rules": 3},
        "reception": {**now["reception"], "twins": [0, {}]},
    }
    assert json.loads(json.dumps(snapshot_of(engine_from({**flat, "version": 1})))) == before
    with pytest.raises(ValueError, match="version 99"):
        engine_from({**now, "version": 99})


def test_who_was_moved_behind_a_solo_is_not_behind_it_after_a_crash() -> None:
    """X came before the solo; the solo is moved to the front by hand. X stays free of it, in the running engine and in
    the restored one.
    """
    beat = {"id": "b", "kind": "caption", "text": "tea", "length": {"s": 5}}
    cues = [{"id": cue, "name": cue, "beats": [beat]} for cue in ("first", "other")]
    cues.append({"id": "alone", "name": "alone", "entry": "solo", "beats": [beat]})
    engine = fresh(book_from({"cues": cues}))
    for cue in ("first", "other", "alone"):
        engine.handle(h.Pad(cue), 0)
    engine.handle(h.Move("3", "2"), 0)
    waiting = next(iter(engine.waiting.lanes.values())).line
    assert [run.id for run in waiting] == ["3", "2"]
    now = snapshot_of(engine)
    again = engine_from(json.loads(json.dumps(now)))
    assert snapshot_of(again)["runs"] == now["runs"]
    assert finish(again) == finish(engine)


@given(st.data())
def test_restored_at_any_moment_of_any_night_goes_on_as_if_nothing_had_been(data: Any) -> None:
    """Every kind of beat, every happening: written and read back after one of them, and through the journal's form."""
    assert set(whole.BEATS) == set(KINDS) and {*whole.happenings(0), "book"} == set(h.BY_KIND)
    book = data.draw(whole.whole_books())
    night = data.draw(whole.whole_nights(book))

    def begun() -> Engine:
        engine = Engine(book, 3, dict(whole.MEDIA), tracing=True)
        engine.handle(h.Rest(dict(whole.REST)), 0)
        return engine

    plain = run_night(begun(), night)
    cut = data.draw(st.integers(0, len(night)))
    engine = begun()
    orders = []
    for at, happening in night[:cut]:
        orders += engine.handle(happening, at)
    kept = json.loads(json.dumps(snapshot_of(engine)))
    engine = engine_from(kept, tracing=True)
    assert json.loads(json.dumps(snapshot_of(engine))) == kept
    for at, happening in night[cut:]:
        orders += engine.handle(h.happening_from(json.loads(json.dumps(h.happening_json(happening)))), at)
    same_orders(orders + finish(engine), plain)
    assert View(engine).at_rest, "everything returns"


def test_a_speech_that_fails_while_it_is_up_gives_the_others_their_volume_back() -> None:
    beats = [{"id": "s", "kind": "speech", "text": "mind the gap", "duck": 0.3, "length": {"s": 20}},
             {"id": "c", "kind": "caption", "text": "mind the gap", "length": {"s": 5}}]  # fmt: skip
    engine = Engine(
        book_from({"cues": [{"id": "tea", "name": "Tea", "beats": beats}], "cast": [{"id": "clerk", "name": "Clerk"}]})
    )
    engine.handle(h.Pad("tea"), 0)
    assert View(engine).showing("sound/others") == 0.3
    orders = [order for _, order in engine.handle(h.SpeechReady("1", "s", 0, True), 1_000)]
    assert View(engine).showing("sound/others") == 1 and o.Hide("1", "s") in orders
    finish(engine)
    assert View(engine).at_rest


def test_made_longer_is_never_made_shorter() -> None:
    beats = [
        {"id": "short", "kind": "caption", "text": "mind the gap", "length": {"s": 4}},
        {"id": "long", "kind": "caption", "text": "the night mail", "length": {"s": 30}},
        {"id": "late", "kind": "caption", "text": "gone", "start": {"at_s": 25}, "length": {"s": 8}},
    ]
    cue = {
        "id": "c",
        "name": "Night mail",
        "entry": "extend",
        "calls": [{"kind": "chat", "text": "!mail"}],
        "beats": beats,
    }
    engine = Engine(book_from({"house": {"extend_cap_s": 10}, "cues": [cue]}), 3, {})
    orders = engine.handle(h.Chat(h.Viewer("v", "owlpost", ()), "!mail"), 0)
    orders += engine.handle(h.Chat(h.Viewer("w", "nine_gauge", ()), "!mail"), 3000)
    assert [order.verdict for _, order in orders if isinstance(order, o.Verdict)] == ["let_in", "extended"]
    orders += finish(engine)
    gone = {order.beat: at for at, order in orders if isinstance(order, o.Hide)}
    assert gone == {"short": 8000, "long": 30_000, "late": 33_000}
    assert [at for at, order in orders if isinstance(order, o.Prolong)] == [3000], (
        "nobody is told of what did not change"
    )
