"""Every kind of call, clocks, scenes, cues that fire cues, holds that multiply: short nights with known results."""

from __future__ import annotations

from typing import Any

import pytest

from cuejar.core.book.files import book_from
from cuejar.core.engine.engine import Engine
from cuejar.core.engine.night import Timed
from cuejar.core.facts import happenings as h
from cuejar.core.facts import orders as o
from cuejar.core.parts.base import BookError
from cuejar.core.rules.holds import Holds, Layer

VIEWER = {"id": "v1", "name": "bramble_jo", "roles": ["follower"]}


def cue(cue_id: str, *calls: dict[str, Any], beats: list[dict[str, Any]] | None = None, **more: Any) -> dict[str, Any]:
    return {"id": cue_id, "name": cue_id, "calls": list(calls), "beats": beats or [], "entry": "overlap", **more}


def starts(timed: list[Timed]) -> list[tuple[float, str]]:
    return [(at / 1000, order.cue) for at, order in timed if isinstance(order, o.Start)]


def night(book: dict[str, Any], *rows: tuple[float, dict[str, Any]], until: float = 0) -> tuple[Engine, list[Timed]]:
    engine = Engine(book_from(book))
    timed: list[Timed] = []
    for at, row in rows:
        timed += engine.handle(h.happening_from(row), round(at * 1000))
    return engine, timed + engine.advance(round(until * 1000))


CALLS: list[tuple[dict[str, Any], dict[str, Any], bool]] = [
    ({"kind": "tip", "from": 5, "to": 10}, {"kind": "tip", "amount": 5, "viewer": VIEWER}, True),
    ({"kind": "tip", "from": 5, "to": 10}, {"kind": "tip", "amount": 10.01}, False),
    ({"kind": "follow"}, {"kind": "follow", "viewer": VIEWER}, True),
    ({"kind": "membership", "tier": 2}, {"kind": "membership", "tier": 1}, False),
    ({"kind": "membership", "months_from": 3, "months_to": 6}, {"kind": "membership", "months": 6}, True),
    ({"kind": "membership", "gifts_from": 5}, {"kind": "membership", "gifts": 4}, False),
    ({"kind": "raid", "from": 20}, {"kind": "raid", "party": 25, "viewer": VIEWER}, True),
    ({"kind": "hook", "name": "Door bell"}, {"kind": "hook", "name": "door bell"}, True),
    ({"kind": "stream", "state": "live"}, {"kind": "stream", "state": "live"}, True),
    ({"kind": "stream", "state": "ended"}, {"kind": "stream", "state": "live"}, False),
    ({"kind": "scene", "scene": "Yard cam"}, {"kind": "hand", "path": "broadcast/scene", "value": "yard cam"}, True),
    ({"kind": "pad"}, {"kind": "pad", "cue": "a"}, True),
]


@pytest.mark.parametrize(("call", "happening", "does"), CALLS)
def test_calls(call: dict[str, Any], happening: dict[str, Any], does: bool) -> None:
    _, timed = night({"cues": [cue("a", call)]}, (1, happening), until=2)
    assert bool(starts(timed)) is does


def test_clocks_run_while_the_stream_is_on() -> None:
    book = {"cues": [cue("often", {"kind": "clock", "every_min": 2}), cue("once", {"kind": "clock", "at_min": 5})]}
    engine, timed = night(
        book, (10, {"kind": "stream", "state": "live"}), (400, {"kind": "stream", "state": "ended"}), until=2000
    )
    assert starts(timed) == [(130, "often"), (250, "often"), (310, "once"), (370, "often")]
    assert engine.due() is None
    again = engine.handle(h.Stream("live"), 3_000_000) + engine.advance(3_121_000)
    assert starts(again) == [(3120, "often")]


def test_cues_fire_cues_and_never_for_ever() -> None:
    fire = lambda to: [{"id": "go", "kind": "fire", "cue": to}]  # noqa: E731
    chain = [cue(f"c{i}", beats=fire(f"c{i + 1}")) for i in range(12)] + [cue("c12")]
    _, timed = night({"cues": chain}, (0, {"kind": "pad", "cue": "c0"}))
    assert [name for _, name in starts(timed)] == [f"c{i}" for i in range(9)]
    assert [order.why for _, order in timed if isinstance(order, o.Fail)] == ["cues call each other more than 8 deep"]
    with pytest.raises(BookError, match="fire each other without end: a → b → a"):
        book_from({"cues": [cue("a", beats=fire("b")), cue("b", beats=fire("a"))]})
    # Two scenes that call each other's cue stop by themselves, too.
    swap = [
        cue(
            name,
            {"kind": "scene", "scene": name},
            beats=[{"id": "s", "kind": "scene", "scene": other, "length": {"s": 5}}],
        )
        for name, other in (("One", "Two"), ("Two", "One"))
    ]
    for entry in swap:
        entry["id"] = entry["id"].lower()
    engine, timed = night({"cues": swap}, (0, {"kind": "hand", "path": "broadcast/scene", "value": "One"}), until=100)
    assert 2 <= len(starts(timed)) <= 40
    assert not engine.night.runs


def test_sounds_duck_each_other_by_multiplying_and_fades_are_of_the_hold() -> None:
    sound = {"kind": "sound", "media": {"file": "bell"}, "length": {"s": 4}}
    lamp = {"id": "lamp", "kind": "light", "fixtures": ["signal"], "colour": "#c0392b", "length": {"s": 3}}
    book = {
        "media": [{"id": "bell", "name": "Bell"}],
        "cues": [
            cue("a", beats=[{"id": "s", **sound, "duck": 0.5}]),
            cue("b", beats=[{"id": "s", **sound, "duck": 0.4}]),
            cue("c", beats=[{**lamp, "fade_in_s": 0.5, "fade_out_s": 1.5}]),
        ],
    }
    rest = {"kind": "rest", "values": {"light/signal/colour": "#ffd9a0"}}
    pads = [(t, {"kind": "pad", "cue": c}) for t, c in ((0, "a"), (1, "b"), (10, "c"))]
    _, timed = night(book, (0, rest), *pads, until=30)
    sets = [(at / 1000, order.path, order.value, order.fade_ms) for at, order in timed if isinstance(order, o.Set)]
    assert sets == [
        (0, "sound/others", 0.5, 0),
        (1, "sound/others", 0.2, 0),
        (4, "sound/others", 0.4, 0),
        (5, "sound/others", 1, 0),
        (10, "light/signal/colour", "#c0392b", 500),
        (13, "light/signal/colour", "#ffd9a0", 1500),
    ]


def test_a_try_passes_the_door_and_counts_nowhere() -> None:
    picture = {"id": "pic", "kind": "caption", "text": "{{viewer}} {{count_all}}", "length": {"s": 16}}
    book = {"cues": [cue("a", beats=[picture], on=False, door={"cooldown_s": 60, "who": ["moderator"]})]}
    attempt = {"kind": "try", "cue": "a", "viewer": VIEWER, "speed": 16}
    engine, timed = night(book, (0, attempt), (0.5, attempt), until=30)
    shows = [order for _, order in timed if isinstance(order, o.Show)]
    assert [(show.value, show.until) for show in shows] == [("bramble_jo 0", 1000), ("bramble_jo 0", 1500)]
    assert engine.reception.tallies.of("a").clock.latest() is None


def test_haptic_cells_take_the_highest() -> None:
    holds = Holds()
    for run, level in (("1", 0.3), ("2", 0.8), ("3", 0.5)):
        holds.lay("haptics/7", Layer(run, "b", level))
    assert [change.value for change in holds.flush(lambda path: False)] == [0.8]
    holds.lift("haptics/7", "2", "b")
    holds.lift("haptics/7", "1", "b")
    assert [change.value for change in holds.flush(lambda path: False)] == [0.5]
    holds.lift("haptics/7", "3", "b")
    assert [change.value for change in holds.flush(lambda path: False)] == [0]


def test_short_forms_and_names_are_taken() -> None:
    beats = [
        {"id": "t", "kind": "filter", "source": "Bench cam", "filter": "Tint", "value": True, "length": {"s": 1}},
        {"id": "r", "kind": "reward", "reward": "w", "on": False, "length": {"s": 1}},
    ]
    book = {
        "house": {"shut_out": ["Hopper_Kit"]},
        "rewards": [{"id": "w", "title": "W", "cost": 5}],
        "cues": [cue("a", {"kind": "follow"}, beats=beats)],
    }
    hopper = {"id": "v9", "name": "hopper_kit", "roles": []}
    _, timed = night(
        book, (0, {"kind": "follow", "viewer": hopper}), (1, {"kind": "follow", "viewer": VIEWER}), until=3
    )
    assert [(v.verdict, v.reason) for _, v in timed if isinstance(v, o.Verdict)] == [
        ("turned_away", "viewer_shut_out"),
        ("let_in", None),
    ]
    assert [(s.path, s.value) for _, s in timed if isinstance(s, o.Set)] == [
        ("broadcast/filter/Bench cam/Tint/on", True),
        ("reward/w/on", False),
        ("broadcast/filter/Bench cam/Tint/on", None),
        ("reward/w/on", True),
    ]
