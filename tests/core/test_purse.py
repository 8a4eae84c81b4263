"""Points of our own: none are added or lost, nobody goes below zero, minutes and refunds are exact, and questions are
answered once in a while.
"""

from __future__ import annotations

import json
from collections import Counter
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from cuejar.core.book.files import book_from, book_json
from cuejar.core.engine.engine import Engine
from cuejar.core.engine.night import Timed
from cuejar.core.engine.state import engine_from, snapshot_of
from cuejar.core.facts import happenings as h
from cuejar.core.facts import orders as o
from cuejar.core.rules.purse import ONE, PRESENT_MS
from tests.core import whole
from tests.core.books import VIEWERS

OWL = h.Viewer("v1", "owlpost", ("follower",))
JO = h.Viewer("v2", "bramble_jo", ("follower", "member"), 2)
LIVE, ENDED = h.Stream("live"), h.Stream("ended")
MIN = 60_000


def engine(cues: list[dict[str, Any]] | None = None, **points: Any) -> Engine:
    return Engine(
        book_from({"points": {"on": True, "per_min": 10, "follow": 300, **points}, "cues": cues or []}), 3, {}
    )


def tea(**more: Any) -> dict[str, Any]:
    beats = [{"id": "c", "kind": "caption", "text": "tea for {{cost}}", "length": {"s": 30}}]
    calls = [{"kind": "chat", "match": "starts", "text": "!tea", "cost": 50}]
    return {"id": "tea", "name": "Tea", "calls": calls, "beats": beats, **more}


def held(over: Engine, viewer: h.Viewer = OWL) -> int:
    return over.reception.purse.held(viewer.id, over.now)


def paid(orders: list[Timed]) -> list[tuple[str, float, int]]:
    return [(order.what, order.amount, order.held) for _, order in orders if isinstance(order, o.Paid)]


def whole_again(over: Engine) -> None:
    for viewer, a in over.reception.purse.rows(over.now):
        assert a.earned + a.given == a.spent + a.held - a.refunded, (viewer, a)
        assert a.held >= 0 and a.spent >= a.refunded, (viewer, a)


@given(st.data())
def test_points_are_neither_made_nor_lost(data: Any) -> None:
    """After every happening of any night, across a restart at any moment, and for everybody's account."""
    book = data.draw(whole.whole_books())
    points = {**book_json(book).get("points", {}), "on": True, "per_min": data.draw(st.sampled_from([0, 0.333, 7]))}
    book = book_from({**book_json(book), "points": points})
    over = Engine(book, 3, dict(whole.MEDIA))
    over.handle(h.Rest(dict(whole.REST)), 0)
    sums: Counter[str] = Counter()
    cut = data.draw(st.integers(0, 25))
    for number, (at, happening) in enumerate(data.draw(whole.whole_nights(book))):
        # Minutes pass in between, so they are credited too.
        for _, order in over.handle(happening, at + number * MIN):
            if isinstance(order, o.Paid) and order.what in ("spent", "refunded"):
                sums[order.what] += round(order.amount * ONE)
                assert order.held >= 0
        whole_again(over)
        if number == cut:
            before = snapshot_of(over)["reception"]["purse"]
            over = engine_from(json.loads(json.dumps(snapshot_of(over))))
            assert snapshot_of(over)["reception"]["purse"] == before, "a restart changes none"
    accounts = [account for _, account in over.reception.purse.rows(over.now)]
    assert sums["spent"] == sum(a.spent for a in accounts), "what was taken was said, once"
    assert sums["refunded"] == sum(a.refunded for a in accounts)


def test_minutes_are_paid_while_somebody_is_there_and_the_stream_is_on() -> None:
    over = engine(member_factor=2.5)
    over.handle(h.Chat(OWL, "mind the gap", "c1"), 0)
    over.handle(LIVE, 5 * MIN)
    assert held(over) == 0, "before the stream nobody earns"
    over.advance(6 * MIN - 1)
    assert held(over) == 0, "whole minutes alone are paid"
    over.advance(6 * MIN)
    assert held(over) == 10
    over.advance(60 * MIN)
    assert held(over) == 50, "there until ten minutes after the last word"
    over.handle(h.Present((OWL, JO)), 60 * MIN)
    over.advance(63 * MIN)
    assert (held(over), held(over, JO)) == (80, 75), "members by their factor"
    over.handle(ENDED, 64 * MIN)
    over.advance(90 * MIN)
    assert (held(over), held(over, JO)) == (90, 100)
    assert PRESENT_MS == 10 * MIN


def test_rates_that_change_count_from_then_on() -> None:
    over = engine()
    over.handle(LIVE, 0)
    over.handle(h.Present((OWL,)), 0)
    data = book_json(over.book)
    over.handle(h.NewBook({**data, "points": {**data["points"], "per_min": 100}}), 2 * MIN)
    over.advance(4 * MIN)
    assert held(over) == 2 * 10 + 2 * 100
    over.handle(h.NewBook({**data, "points": {**data["points"], "on": False}}), 5 * MIN)
    over.handle(h.Follow(OWL, "f1"), 6 * MIN)
    assert held(over) == 320, "what is held stays, and nothing is earned while points are off"


@pytest.mark.parametrize(
    ("done", "worth"),
    [
        (h.Follow(OWL, "x"), 300),
        (h.Membership(OWL, tier=1, months=4, id="x"), 500 + 4 * 25),
        (h.Membership(OWL, tier=3, months=1, id="x"), 2_500 + 25),
        (h.Membership(OWL, tier=9, id="x"), 2_500 + 25),
        (h.Membership(OWL, tier=2, gifts=5, id="x"), 5_000),
        (h.Tip(2.5, OWL, id="x"), 10),
        (h.Raid(40, OWL, "x"), 20),
        (h.Raid(40, None, "x"), 0),
    ],
)
def test_what_is_earned_by_what(done: h.Happening, worth: int) -> None:
    over = engine(month=25, tip=4, raid=0.5)
    over.handle(done, 1)
    assert held(over) == worth


def test_a_word_in_chat_costs_and_is_given_back_like_a_redemption() -> None:
    over = engine([tea()])
    over.handle(h.GivePoints("v1", 120, "owlpost", "for the kettle"), 0)
    first = over.handle(h.Chat(OWL, "!tea", "c1"), 1)
    assert paid(first) == [("spent", 50, 70)] and any(isinstance(order, o.Start) for _, order in first)
    assert [order.value for _, order in first if isinstance(order, o.Show)] == ["tea for 50"]
    assert paid(over.handle(h.Chat(OWL, "!tea", "c2"), 2)) == [("spent", 50, 20)]
    refused = over.handle(h.Chat(OWL, "!tea", "c3"), 3)
    assert paid(refused) == [], "what is turned away costs nothing"
    # A viewer who waits in vain gets it back; one whose run began doesn't.
    assert paid(over.handle(h.DropCall(run="2"), 4)) == [("refunded", 50, 70)]
    assert paid(over.handle(h.AllToRest(), 5)) == []
    # If nothing of it can be done it is refunded too.
    lost = {**tea(), "beats": [{"id": "p", "kind": "picture", "media": {"file": "lost"}}]}
    over = engine([lost])
    over.handle(h.GivePoints("v1", 60), 0)
    assert paid(over.handle(h.Chat(OWL, "!tea", "c1"), 1)) == [("spent", 50, 10), ("refunded", 50, 60)]
    # An extended run has done its work.
    over = engine([tea(entry="extend")])
    over.handle(h.GivePoints("v1", 100), 0)
    over.handle(h.Chat(OWL, "!tea", "c1"), 1)
    over.handle(h.Chat(OWL, "!tea", "c2"), 2)
    assert paid(over.handle(h.AllToRest(), 3)) == [] and held(over) == 0
    # Points off: the command is free.
    over = Engine(book_from({"cues": [tea()]}), 3, {})
    assert paid(over.handle(h.Chat(OWL, "!tea", "c1"), 1)) == []


def test_two_viewers_are_one() -> None:
    over = engine([tea(entry="overlap")])
    over.handle(LIVE, 0)
    over.handle(h.GivePoints("v1", 100), 0)
    over.handle(h.GivePoints("v2", 30), 0)
    over.handle(h.Chat(OWL, "!tea", "c1"), 1)
    over.handle(h.Merge("v1", "v2"), 2)
    assert held(over) == held(over, JO) == 80
    assert over.resolver.by_viewer["tea"] == {"v2": 1}
    over.handle(h.Chat(OWL, "!tea", "c2"), 3)
    assert held(over, JO) == 30, "and stays so"
    over.handle(h.Merge("v2", "v1"), 4)
    assert held(over) == 30, "one cannot be merged with oneself"
    whole_again(over)


def test_a_viewer_is_forgotten_and_the_sums_stay() -> None:
    over = engine([tea()])
    over.handle(h.GivePoints("v1", 120, "owlpost"), 0)
    over.handle(h.Chat(OWL, "!tea", "c1"), 1)
    over.handle(h.Chat(OWL, "!tea", "c2"), 2)
    orders = over.handle(h.Forget("v1"), 3)
    assert paid(orders) == [("refunded", 50, 70)], "who waits is dropped"
    assert [order.as_ for _, order in orders if isinstance(order, o.Finish)] == ["stopped"]
    assert held(over) == 70 and "owlpost" not in json.dumps(snapshot_of(over))


def test_a_question_is_answered_once_in_a_while() -> None:
    over = engine([tea(), {**tea(), "id": "off", "on": False}], balance_word="!mine", list_word="!LIST", name="tokens")
    over.handle(h.GivePoints("v1", 1_234), 0)

    def said(viewer: h.Viewer, text: str, at: int) -> list[Any]:
        orders = over.handle(h.Chat(viewer, text, f"c{at}"), at)
        return [order.value for _, order in orders if isinstance(order, o.Strike)]

    assert said(OWL, "!Mine ", 1) == ["owlpost: 1,234 tokens"]
    assert said(OWL, "!list", 29_999) == [], "either word, once in 30 s"
    assert said(JO, "!list", 29_999) == ["tokens: !tea 50"]
    assert said(OWL, "!mine", 30_001) == ["owlpost: 1,234 tokens"]
    assert said(h.Viewer("yard:v1", "owlpost", ()), "!mine", 3) == [{"channel": "yard", "text": "owlpost: 0 tokens"}]
    assert said(OWL, "", 90_000) == []
    assert len(VIEWERS) == 4


@given(st.lists(st.integers(0, 40 * MIN), max_size=12), st.sampled_from([0.0004, 0.0005, 0.333, 7]))
def test_it_is_the_same_whenever_somebody_looks(looks: list[int], rate: float) -> None:
    """A page's question between two happenings isn't in the journal, and changes nothing."""
    ends = []
    for asked in ([], sorted(looks)):
        over = engine(per_min=rate, member_factor=1.5)
        over.handle(LIVE, 0)
        for at in sorted(
            [*((minute * MIN, None) for minute in (0, 3, 9, 25, 31)), *((one, "look") for one in asked)],
            key=lambda row: row[0],
        ):
            over.advance(at[0])
            if at[1] is None:
                over.handle(h.Present((OWL, JO)), at[0])
            else:
                list(over.reception.purse.rows(over.now))
        over.handle(ENDED, 41 * MIN)
        ends.append([(viewer, account.held) for viewer, account in over.reception.purse.rows(over.now)])
    assert ends[0] == ends[1]


def test_two_refunds_give_back_what_two_calls_cost() -> None:
    over = engine(per_min=2)
    over.handle(LIVE, 0)
    over.handle(h.GivePoints(OWL.id, 100), 0)
    over.handle(h.Present((OWL,)), 0)
    purse = over.reception.purse
    assert [purse.spend(OWL, 30), purse.spend(OWL, 45)] == [70, 25]
    # A refund tells the minutes until then, too.
    assert [purse.refund(OWL, 30, 0), purse.refund(OWL, 45, MIN)] == [55, 102]
    assert (purse.accounts[OWL.id].refunded, purse.accounts[OWL.id].spent) == (75 * ONE, 75 * ONE)


def test_points_by_hand_and_an_account_that_goes_into_another() -> None:
    over = engine(per_min=60)
    over.handle(LIVE, 0)
    purse = over.reception.purse
    assert [purse.give("v8", "pip_signal", held, 0) for held in (50, 20, 25)] == [50, -30, 5]
    assert (purse.accounts["v8"].given, purse.accounts["v8"].name) == (25 * ONE, "pip_signal")
    # Who is here in the one account is here in the other, and keeps what the minutes until then were worth.
    over.handle(h.Present((h.Viewer("v8", "pip_signal", ()),)), 0)
    assert purse.merge("v8", "v9", MIN) and not purse.merge("v8", "v9", MIN) and not purse.merge("v9", "v9", MIN)
    kept = purse.accounts["v9"]
    assert (kept.name, kept.held, "v8" in purse.accounts) == ("pip_signal", 85 * ONE, False)
    assert dict(purse.rows(2 * MIN))["v9"].held == 145 * ONE, "the minutes go on"
    assert purse.merge("v7", "v9", MIN), "nobody knew that one yet"
    purse.forget("v8")
    assert kept.name == "" and kept.held >= 85 * ONE
