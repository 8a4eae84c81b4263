"""Conditions of beats and doors, and counts with their goals: what holds, what is called, what a bar shows."""

from __future__ import annotations

from typing import Any

import pytest

from cuejar.core.book.files import book_from
from cuejar.core.engine.engine import Engine
from cuejar.core.engine.night import Timed
from cuejar.core.facts import happenings as h
from cuejar.core.facts import orders as o
from cuejar.core.parts.base import BookError
from cuejar.core.rules.tickets import Limits, limits_of

JO = h.Viewer("v1", "bramble_jo", ("follower", "member"), 1)
YARD = {"id": "yard", "kind": "things", "name": "The yard"}
LIVE = h.Stream("live", "Model railways")
HOLDS: list[tuple[dict[str, Any], str, bool]] = [
    ({"role": "member"}, "", True),
    ({"role": "vip"}, "", False),
    ({"text_is": "Mind the GAP"}, " mind the gap ", True),
    ({"text_is": "mind"}, "mind the gap", False),
    ({"text_has": "gap"}, "mind the gap", True),
    ({"text_has": "ga"}, "mind the gap", False),
    ({"text_contains": "ga"}, "mind the gap", True),
    ({"text_from": 5, "text_to": 7}, "platform 7 please", True),
    ({"text_from": 8}, "platform 7 please", False),
    ({"text_to": 7}, "no number", False),
    ({"live": True}, "", True),
    ({"live": False}, "", False),
    ({"category": "MODEL railways"}, "", True),
    ({"scene": "workbench"}, "", True),
    ({"scene": "Yard cam"}, "", False),
    ({"gear": "yard"}, "", True),
    ({"gear": "mill"}, "", False),
    ({"count": "tea", "is": "=", "number": 0}, "", True),
]


def night(cue: dict[str, Any], **book: Any) -> Engine:
    whole = {
        "gear": [YARD, {"id": "mill", "kind": "things"}],
        "rewards": [{"id": "tea", "title": "Tea", "cost": 30}],
        **book,
    }
    engine = Engine(
        book_from({**whole, "cues": [{"id": "c", "name": "C", "calls": [{"kind": "reward", "reward": "tea"}], **cue}]})
    )
    for happening in (LIVE, h.Rest({"broadcast/scene": "Workbench"}), h.GearState("mill", "lost")):
        engine.handle(happening, 0)
    return engine


def redeem(engine: Engine, number: int, text: str = "", at: int = 1, reward: str = "tea") -> list[Timed]:
    return engine.handle(h.Redemption(f"rd-{number}", reward, JO, text), at)


@pytest.mark.parametrize("turned", [False, True], ids=["as it is", "turned round"])
@pytest.mark.parametrize(("condition", "text", "holds"), HOLDS)
def test_a_condition_at_the_door_and_of_a_beat(condition: dict[str, Any], text: str, holds: bool, turned: bool) -> None:
    asked = {**condition, "not": turned}
    holds = holds != turned
    first = redeem(night({"door": {"only_if": [asked]}}), 1, text)
    verdict = next(order for _, order in first if isinstance(order, o.Verdict))
    assert (verdict.verdict, verdict.reason) == (("let_in", None) if holds else ("turned_away", "condition"))
    assert [order.as_ for _, order in first if isinstance(order, o.Settle)] == ["fulfilled" if holds else "refunded"]
    beats = [
        {"id": name, "kind": "caption", "text": name, "only_if": [asked], "unless": name == "else"}
        for name in ("then", "else")
    ]
    shown = [order.beat for _, order in redeem(night({"beats": beats}), 1, text) if isinstance(order, o.Show)]
    assert shown == (["then"] if holds else ["else"])


def test_what_cannot_be_known_at_the_door_is_refused() -> None:
    chance = {"id": "d", "kind": "chance", "outcomes": [{"id": "pair"}]}
    for wrong in (
        {"rolled": "pair"},
        {"drawn": "d", "value": "x"},
        {"gear": "nowhere"},
        {"text_from": 3, "text_to": 1},
        {},
    ):
        with pytest.raises(BookError):
            night({"door": {"only_if": [wrong]}, "beats": [chance]})


TEA = {"id": "tea", "name": "Tea", "goal": 3}
GOAL = {
    "id": "g",
    "name": "G",
    "entry": "overlap",
    "beats": [{"id": "b", "kind": "caption", "text": "{{count.tea}} of {{goal.tea}}, {{viewer}}"}],
}


def cues_called(timed: list[Timed]) -> list[str]:
    return [order.cue for _, order in timed if isinstance(order, o.Start) and order.cue != "c"]


@pytest.mark.parametrize(
    ("feed", "happenings", "wanted"),
    [
        ({"by": "tips"}, [h.Tip(5.0, JO)] * 3, 3),
        ({"by": "tipped"}, [h.Tip(2.6, JO)], 2),
        ({"by": "follows"}, [h.Follow(JO)], 1),
        ({"by": "members"}, [h.Membership(JO), h.Membership(JO, gifts=5)], 6),
        ({"by": "raiders"}, [h.Raid(40, JO)], 40),
        ({"by": "redemptions"}, [h.Redemption("a", "tea", JO), h.Redemption("a", "tea", JO), h.Redemption("b", "other", JO)], 2),
        ({"by": "redemptions", "reward": "other"}, [h.Redemption("a", "tea", JO), h.Redemption("b", "other", JO)], 1),
        ({"by": "points", "reward": "tea"}, [h.Redemption("a", "tea", JO, "", 45), h.Redemption("b", "tea", JO)], 75),
        ({"by": "redemptions"}, [h.Redemption("a", "shut", JO)], 0),
    ],
)  # fmt: skip
def test_what_feeds_a_count(feed: dict[str, Any], happenings: list[Any], wanted: int) -> None:
    shut = {"id": "s", "name": "S", "on": False, "calls": [{"kind": "reward", "reward": "shut"}]}
    rewards = [{"id": name, "title": name, "cost": 30} for name in ("tea", "other", "shut")]
    cue = {"id": "c", "name": "C", "entry": "overlap", "calls": [{"kind": "reward", "reward": "tea"}]}
    engine = Engine(book_from({"counts": [{**TEA, "feeds": [feed]}], "rewards": rewards, "cues": [cue, shut]}))
    for happening in happenings:
        engine.handle(happening, 1)
    assert engine.resolver.counts["tea"] == wanted


def test_a_value_every_nth_and_the_goal_call_and_a_try_counts_for_nobody() -> None:
    waits = [{"at": 2}, {"every": 2}, {"goal": True}]
    others = [
        {**GOAL, "id": name, "calls": [{"kind": "count", "count": "tea", **call}]}
        for name, call in zip(("at", "every", "goal"), waits, strict=True)
    ]
    book = {"counts": [{**TEA, "feeds": [{"by": "tips"}]}], "cues": [*others]}
    engine = Engine(
        book_from(
            {
                **book,
                "cues": [
                    *others,
                    {"id": "c", "name": "C", "beats": [{"id": "n", "kind": "count", "name": "tea", "add": 3}]},
                ],
            }
        )
    )
    engine.handle(LIVE, 0)
    timed = [engine.handle(h.Tip(5.0, JO), 1 + i) for i in range(4)]
    assert [cues_called(row) for row in timed] == [[], ["at", "every"], ["goal"], ["every"]]
    words = [order.value for _, order in timed[2] if isinstance(order, o.Show)]
    assert words == ["3 of 3, bramble_jo"]
    ledger = next(order for _, order in timed[2] if isinstance(order, o.Verdict) and order.cue == "goal")
    assert ledger.call.startswith("count-") and ledger.cost == 0
    assert cues_called(engine.handle(h.Try("c"), 10)) == [] and engine.resolver.counts["tea"] == 4
    assert cues_called(engine.handle(h.Pad("c"), 11)) == ["every"] and engine.resolver.counts["tea"] == 7
    engine.handle(h.Stream("ended"), 12)
    engine.handle(LIVE, 13)
    assert engine.resolver.counts["tea"] == 0, "a count of the stream begins anew"


def test_a_tip_that_waits_for_a_yes_counts_once() -> None:
    reads = {
        "id": "c",
        "name": "C",
        "calls": [{"kind": "tip"}],
        "beats": [{"id": "s", "kind": "speech", "text": "{{text}}"}],
    }
    book = {"counts": [{**TEA, "feeds": [{"by": "tips"}]}], "reading": {"review": "all"}, "cues": [reads]}
    engine = Engine(book_from(book))
    engine.handle(h.Tip(5.0, JO, "mind the gap", "t1"), 1)
    assert engine.reception.reviews and engine.resolver.counts["tea"] == 1
    started = [order for _, order in engine.handle(h.Review("t1", True), 2) if isinstance(order, o.Start)]
    assert started and engine.resolver.counts["tea"] == 1


def test_a_bar_fills_while_it_is_seen() -> None:
    bar = {"id": "b", "kind": "bar", "count": "tea", "length": {"s": 10}}
    engine = night({"beats": [bar], "entry": "overlap"}, counts=[{**TEA, "per": "good", "feeds": [{"by": "tips"}]}])
    shown = [order.value for _, order in redeem(engine, 1) if isinstance(order, o.Show)]
    assert shown == [{"name": "Tea", "now": 0, "goal": 3}]
    changed = [order for _, order in engine.handle(h.Tip(1.0, JO), 5_000) if isinstance(order, o.Change)]
    assert [(change.beat, change.value["now"]) for change in changed] == [("b", 1)]
    by_hand = [
        order for _, order in engine.handle(h.SetCount("tea", 3), 6_000) if isinstance(order, (o.Change, o.Verdict))
    ]
    assert by_hand == [o.Change("1", "b", {"name": "Tea", "now": 3, "goal": 3})], "what is set by hand calls nothing"
    later = engine.handle(h.Tip(1.0, JO), 10_001)
    assert not [order for _, order in later if isinstance(order, o.Change)], "it is gone by then"
    without = night({"beats": [bar]}, counts=[{"id": "tea", "name": "Tea"}])
    assert "has no goal" in next(order.why for _, order in redeem(without, 1) if isinstance(order, o.Fail))


def test_cues_that_count_each_other_round_are_refused() -> None:
    round_ = {
        "calls": [{"kind": "count", "count": "tea", "every": 1}],
        "beats": [{"id": "n", "kind": "count", "name": "tea"}],
    }
    with pytest.raises(BookError, match="without end"):
        book_from({"counts": [TEA], "cues": [{"id": "c", "name": "C", **round_}]})


def test_while_anybody_is_spared_no_limit_is_handed_to_the_channel() -> None:
    cue = {
        "id": "c",
        "name": "C",
        "calls": [{"kind": "reward", "reward": "tea"}],
        "door": {"cooldown_s": 30, "cap_viewer": 2},
    }
    rewards = [{"id": "tea", "title": "Tea", "cost": 30}]
    for spared, limits in (([], Limits(30, 0, 2)), (["bramble_jo"], Limits())):
        book = book_from({"house": {"spared": spared}, "rewards": rewards, "cues": [cue]})
        assert limits_of(book.cues, book) == limits
