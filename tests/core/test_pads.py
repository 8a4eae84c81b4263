"""Pads: signatures and penalties for wrong ones; order, what a release ends, and what a cue's pad shows."""

from __future__ import annotations

from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from cuejar.core.book.files import book_from
from cuejar.core.engine.engine import Engine
from cuejar.core.engine.view import View
from cuejar.core.facts import happenings as h
from cuejar.core.facts import orders as o
from cuejar.core.rules.pads import endings, opens, padded
from cuejar.core.rules.pairing import MOST_BAD, MOST_WAIT_MS, REMEMBERED_MS, Conduct, SignedLine, key_of_device, signed

KEY = bytes(range(32))


def test_the_signature_is_the_standards() -> None:
    """RFC 4231, test case 2."""
    right = "5bdcc146bf60754e6a042426089575c75a003f089d2739839dec58b964ec3843"
    assert signed(b"Jefe", "what do ya want for nothing?") == right


def test_a_press_counts_once_on_its_own_connection() -> None:
    line, other = SignedLine(KEY, "aa", "bb"), SignedLine(KEY, "aa", "cc")
    press = '{"do":"press","cue":"bell"}'
    right = signed(KEY, "do", "aa", "bb", "1", press)
    assert not other.takes(1, press, right), "said on another connection"
    assert not line.takes(1, press.replace("bell", "mail"), right), "altered"
    assert not line.takes(2, press, right), "counted otherwise"
    assert line.takes(1, press, right)
    assert not line.takes(1, press, right), "repeated"
    assert not line.takes(3, press, signed(KEY, "do", "aa", "bb", "3", press)), "one was left out"
    assert line.takes(2, press, signed(KEY, "do", "aa", "bb", "2", press))


def test_a_link_opens_nothing_after_it_was_used() -> None:
    key = key_of_device(KEY, "d1", "aa", "bb")
    assert not SignedLine(key, "aa", "cc").proves(signed(KEY, "prove", "aa", "cc"))
    assert key != key_of_device(KEY, "d1", "aa", "cc") != key_of_device(KEY, "d2", "aa", "cc")


@given(st.lists(st.integers(0, 3 * REMEMBERED_MS), max_size=40).map(sorted))
def test_wrong_signatures_slow_and_many_lock(times: list[int]) -> None:
    conduct, locked = Conduct(), False
    for at in times:
        conduct.wrong(at)
        lately = sum(at - REMEMBERED_MS < one <= at for one in times[: times.index(at) + times.count(at)])
        assert 0 < conduct.wait_ms(at) <= MOST_WAIT_MS
        assert conduct.wait_ms(at + MOST_WAIT_MS) == 0
        locked = locked or lately >= MOST_BAD
    assert conduct.locked <= locked
    conduct.unlock()
    assert not conduct.locked and conduct.wait_ms(0) == 0


def test_ten_wrong_ones_lock_and_each_waits_longer() -> None:
    conduct = Conduct()
    waits = []
    for n in range(MOST_BAD):
        assert not conduct.locked
        conduct.wrong(n)
        waits.append(conduct.wait_ms(n))
    assert conduct.locked
    assert waits == [250, 500, 1000, 2000, 4000, 8000, 16_000, 30_000, 30_000, 30_000]


def cue(name: str, **fields: Any) -> dict[str, Any]:
    beats = [{"id": "words", "kind": "caption", "text": name, "length": {"s": 2}}]
    return {"id": name, "name": name.title(), "lane": "yard", "beats": beats, **fields}


HELD = [
    {"id": "words", "kind": "caption", "text": "mind the gap", "length": "open"},
    {"id": "later", "kind": "caption", "text": "still", "length": "open", "start": {"at_s": 4}},
    {"id": "bell", "kind": "caption", "text": "bell", "length": {"s": 8}},
]
BOOK = {
    "house": {"pads": ["mail", "gone", "bell"]},
    "lanes": [{"id": "yard", "name": "Yard"}],
    "cues": [
        cue("bell", door={"cooldown_s": 10}, calls=[{"kind": "chat", "match": "is", "text": "!bell"}]),
        cue("snow", on=False),
        cue("gap", beats=HELD),
        cue("mail"),
        cue("tint", pad={"on": False}),
    ],
}
OWL = h.Viewer("v1", "owlpost", ("follower",))


def test_the_order_is_the_houses_and_then_the_books() -> None:
    book = book_from(BOOK)
    assert [one.id for one in padded(book)] == ["mail", "bell", "gap"]
    assert [one.id for one in padded(book, ["gap", "tint", "bell"])] == ["bell", "gap"]
    assert [one.id for one in book.cues if opens(one)] == ["gap"]


@pytest.mark.parametrize(
    ("let_go_at", "ends"),
    [(3000, [h.Release("1")]), (5000, [h.Release("1", "words"), h.Release("1", "later")])],
)
def test_letting_go_ends_what_is_open(let_go_at: int, ends: list[h.Happening]) -> None:
    """Open beats end; one with its own length stays; one that would still open ends the whole run."""
    engine = Engine(book_from(BOOK), 1, {})
    view = View(engine)
    engine.handle(h.Pad("gap"), 0)
    engine.advance(let_go_at)
    assert [(row.cue, row.runs, row.open, row.until, row.since) for row in view.pads()] == [("gap", 1, True, None, 0)]
    run = view.pressed("gap")
    assert run is not None and endings(run) == ends
    for happening in ends:
        engine.handle(happening, let_go_at)
    up = [shown.beat for shown in view.up()]
    assert up == ([] if len(ends) == 1 else ["bell"])
    assert view.pressed("gap") is None


def test_one_that_waits_is_sent_back_when_it_is_let_go() -> None:
    engine = Engine(book_from(BOOK), 1, {})
    view = View(engine)
    engine.handle(h.Pad("mail"), 0)
    engine.handle(h.Pad("gap"), 100)
    assert [(row.cue, row.runs, row.waits) for row in view.pads()] == [("gap", 0, 1), ("mail", 1, 0)]
    run = view.pressed("gap")
    assert run is not None
    timed = [order for happening in endings(run) for _, order in engine.handle(happening, 200)]
    assert [type(order) for order in timed] == [o.Drop]
    assert endings(next(iter(view.runs))) == [], "what is not open is left alone"


def test_a_pad_shows_the_cooldown_that_the_door_would_tell() -> None:
    engine = Engine(book_from(BOOK), 1, {}, tracing=True)
    view = View(engine)
    engine.handle(h.Chat(OWL, "!bell"), 1000)
    engine.advance(5000)
    assert [(row.cue, row.runs, row.cools_until) for row in view.pads()] == [("bell", 0, 11_000)]
    turned = [order for _, order in engine.handle(h.Chat(OWL, "!bell"), 5000) if isinstance(order, o.Verdict)]
    left = next(check.left_ms for check in turned[0].trace if check.left_ms)
    assert 5000 + left == 11_000
    engine.advance(11_000)
    assert view.pads() == []
