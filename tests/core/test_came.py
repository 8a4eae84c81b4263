"""What becomes of a run: a redemption is fulfilled once something of it is done, and refunded if nothing ever was."""

from __future__ import annotations

from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from cuejar.core.book.files import book_from
from cuejar.core.engine.engine import Engine
from cuejar.core.engine.state import engine_from, snapshot_of
from cuejar.core.facts import happenings as h
from cuejar.core.facts import orders as o

SCENE = {"id": "s", "kind": "scene", "scene": "Yard cam", "length": {"s": 4}}
LAMP = {"id": "l", "kind": "light", "fixtures": ["signal"], "colour": "#c0392b", "length": {"s": 6}}
TAP = {"id": "t", "kind": "tap", "combo": "F9"}
BUZZ = {"id": "z", "kind": "haptics", "pattern": "clack", "length": {"s": 2}}
CAPTION = {"id": "c", "kind": "caption", "text": "{{viewer}}", "length": {"s": 1}}
SPEECH = {"id": "v", "kind": "speech", "text": "{{viewer}}"}
KEEP = {"id": "k", "kind": "scene", "scene": "Tea table", "length": "keep"}
VIEWER = h.Viewer("v1", "owlpost")
GEAR = ("broadcast", "lamps", "keys", "haptics")


def show(*beats: dict[str, Any], grace: int = 0) -> Engine:
    engine = Engine(
        book_from(
            {
                "gear": [
                    {"id": "broadcast", "kind": "broadcaster"},
                    {"id": "lamps", "kind": "lights", "fixtures": [{"id": "signal"}]},
                    {"id": "keys", "kind": "keys"},
                    {"id": "haptics", "kind": "haptics"},
                ],
                "patterns": [{"id": "clack", "name": "clack", "length_s": 2}],
                "rewards": [{"id": "r", "title": "R", "cost": 10, "closed": "refund"}],
                "cues": [
                    {
                        "id": "q",
                        "name": "Q",
                        "calls": [{"kind": "reward", "reward": "r"}],
                        "door": {"cooldown_s": 0, "viewer_cooldown_s": 0},
                        "entry": "overlap",
                        "beats": list(beats),
                    }
                ],
            }
        ),
        speech_grace=grace,
    )
    engine.handle(
        h.Rest({"broadcast/scene": "Workbench", "light/signal/colour": "#ffffff", "light/signal/level": 1}), 0
    )
    return engine


def away(engine: Engine, at: int, *gear: str) -> list[o.Order]:
    return [order for one in gear for _, order in engine.handle(h.GearState(one, "lost"), at)]


def back(engine: Engine, at: int, *gear: str) -> list[tuple[int, o.Order]]:
    return [row for one in gear for row in engine.handle(h.GearState(one, "back"), at)]


def redeemed(engine: Engine, at: int) -> list[tuple[int, o.Order]]:
    return engine.handle(h.Redemption("x", "r", VIEWER, "", 10), at)


def settled(orders: list[tuple[int, o.Order]]) -> list[tuple[int, str]]:
    return [(at, order.as_) for at, order in orders if isinstance(order, o.Settle)]


def said(orders: list[tuple[int, o.Order]]) -> list[tuple[str, str]]:
    return [(order.beat, order.why) for _, order in orders if isinstance(order, o.Fail)]


@pytest.mark.parametrize(
    ("beats", "refunded_at"),
    [
        ([SCENE], 5_000),
        ([SCENE, LAMP], 7_000),
        ([BUZZ], 3_000),
        ([TAP], 11_000),  # A tap waits ten seconds for its keys.
        ([SCENE, TAP], 11_000),
        ([KEEP], 1_000),
    ],
)
def test_with_all_its_gear_away_nothing_comes_and_it_is_refunded_once(
    beats: list[dict[str, Any]], refunded_at: int
) -> None:
    engine = show(*beats)
    away(engine, 500, *GEAR)
    orders = redeemed(engine, 1_000) + engine.advance(60_000)
    assert settled(orders) == [(refunded_at, "refunded")]
    assert sorted(beat for beat, _ in said(orders)) == sorted(beat["id"] for beat in beats)
    assert not [order for _, order in orders if isinstance(order, o.Strike)]
    # A refunded call doesn't come later.
    later = back(engine, 70_000, *GEAR)
    assert not [order for _, order in later if isinstance(order, (o.Strike, o.Settle))]
    assert engine.surroundings.holds.showing("broadcast/scene") == "Workbench"


@pytest.mark.parametrize("beats", [[SCENE, CAPTION], [TAP, CAPTION], [LAMP, SCENE]])
def test_what_came_partly_is_fulfilled_with_a_note(beats: list[dict[str, Any]]) -> None:
    engine = show(*beats)
    away(engine, 500, "broadcast", "keys")
    orders = redeemed(engine, 1_000)
    assert settled(orders) == [(1_000, "fulfilled")]
    orders += engine.advance(60_000)
    assert [beat for beat, why in said(orders) if "disconnected" in why] == [
        beat["id"] for beat in beats if beat["id"] in ("s", "t")
    ]


@pytest.mark.parametrize(
    ("beats", "gear", "back_at", "comes"),
    [([SCENE], "broadcast", 3_000, True), ([TAP], "keys", 9_000, True), ([TAP], "keys", 10_990, True),
     ([TAP], "keys", 11_010, False), ([BUZZ], "haptics", 2_000, True), ([SCENE], "broadcast", 6_000, False)],
)  # fmt: skip
def test_gear_that_is_back_in_time_does_it(beats: list[dict[str, Any]], gear: str, back_at: int, comes: bool) -> None:
    engine = show(*beats)
    away(engine, 500, gear)
    orders = redeemed(engine, 1_000)
    assert settled(orders) == []
    # Also across a restart.
    engine = engine_from(snapshot_of(engine))
    orders += back(engine, back_at, gear) + engine.advance(60_000)
    assert settled(orders) == [(back_at, "fulfilled")] if comes else settled(orders)[0][1] == "refunded"
    struck = [order.beat for _, order in orders if isinstance(order, o.Strike)]
    assert struck == (["t"] if comes and beats == [TAP] else [])
    assert bool(said(orders)) is not comes


def test_a_speech_that_cannot_be_made_is_given_back_also_when_its_turn_had_come() -> None:
    for failed in (True, False):
        engine = show(SPEECH, grace=1_000)
        orders = redeemed(engine, 1_000)
        assert settled(orders) == []
        orders += engine.handle(h.SpeechReady("1", "v", 0 if failed else 1.5, failed), 1_200)
        orders += engine.advance(60_000)
        assert settled(orders) == [(1_200, "refunded" if failed else "fulfilled")]


def test_all_to_rest_and_a_forgotten_viewer_end_what_waits() -> None:
    for happening in (h.AllToRest(), h.Forget("v1")):
        engine = show(TAP, SCENE)
        away(engine, 500, *GEAR)
        redeemed(engine, 1_000)
        orders = engine.handle(happening, 2_000)
        assert settled(orders) == [(2_000, "refunded")]
        assert not back(engine, 3_000, *GEAR) and not engine.stage.late


STEPS = st.lists(
    st.tuples(st.integers(0, 3_000), st.sampled_from(["redeem", "lost", "back", "rest"]), st.sampled_from(GEAR)),
    max_size=25,
)


@given(st.lists(st.sampled_from([SCENE, LAMP, TAP, BUZZ, KEEP, CAPTION]), min_size=1, max_size=3, unique_by=str), STEPS)
def test_whatever_comes_and_goes_each_is_settled_once_and_as_it_was(
    beats: list[dict[str, Any]], steps: list[tuple[int, str, str]]
) -> None:
    engine, now, orders, called = show(*beats), 0, list[tuple[int, o.Order]](), 0
    for pause, what, gear in steps:
        now += pause
        if what == "redeem":
            called += 1
            orders += engine.handle(h.Redemption(f"x{called}", "r", VIEWER, "", 10), now)
        elif what == "rest":
            orders += engine.handle(h.AllToRest(), now)
        else:
            orders += engine.handle(h.GearState(gear, "lost" if what == "lost" else "back"), now)
        engine = engine_from(snapshot_of(engine))
    orders += engine.advance(now + 600_000)
    settlements = [order for _, order in orders if isinstance(order, o.Settle)]
    assert sorted(s.redemption for s in settlements) == sorted(f"x{n + 1}" for n in range(called))
    runs = {order.call: order.run for _, order in orders if isinstance(order, o.Start)}
    done = {order.run for _, order in orders if isinstance(order, (o.Strike, o.Show))}
    done |= {order.run for _, order in orders if isinstance(order, o.Set) and order.run is not None}
    for settlement in settlements:
        if runs[settlement.redemption] in done and settlement.as_ == "refunded":
            # Haptics go to a disconnected pad, and a change below another may be invisible.
            assert {beat["kind"] for beat in beats} & {"haptics"}
    assert not engine.stage.late and not engine.night.runs
