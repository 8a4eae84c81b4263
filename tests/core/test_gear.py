"""Gear in the core: loose names, values in range, gear that comes back, renames."""

from __future__ import annotations

from typing import Any

import pytest

from cuejar.core.book.files import book_from
from cuejar.core.engine.engine import Engine
from cuejar.core.engine.state import engine_from, snapshot_of
from cuejar.core.facts import happenings as h
from cuejar.core.facts.orders import Fail, Set
from cuejar.core.measures.catalogue import Catalogues, NotThere, fitted
from cuejar.core.rules.holds import Holds, Layer
from cuejar.core.rules.renames import followed
from cuejar.core.rules.rig import Found, reunited

THERE = h.Catalogue(
    "broadcaster",
    {"Workbench": ("Bench cam", "Clock"), "Night mail": ("Mail 1", "Mail 2", "Other")},
    {"Bench cam": {"Fog": {"amount": h.Setting("number", 0, 100), "on": h.Setting("bool")}}},
)


def test_names_need_not_match_letter_by_letter() -> None:
    known = Catalogues()
    assert known.scene("anything") == "anything", "nothing is known yet"
    known.take(THERE)
    assert known.scene(" NIGHT mail ") == "Night mail"
    assert known.source("workbench", "bench CAM") == ("Workbench", "Bench cam")
    assert known.filter("bench cam", "fog", "AMOUNT") == ("Bench cam", "Fog", "amount")
    for ask, near in (
        (lambda: known.scene("Nite mail"), ["Night mail"]),
        (lambda: known.source("Workbench", "Bench camera"), ["Bench cam"]),
        (lambda: known.filter("Bench cam", "Fogg", "amount"), ["Fog"]),
        (lambda: known.scene("zzz"), []),
    ):
        with pytest.raises(NotThere) as error:
            ask()
        assert error.value.near == near


@pytest.mark.parametrize(
    ("kind", "value", "fits"),
    [
        (h.Setting("number", 0, 100), 250, 100),
        (h.Setting("number", 0, 100), "-3", 0),
        (h.Setting("number"), 250, 250),
        (h.Setting("bool"), "on", True),
        (h.Setting("choice", choices=("still", "Slow")), "slow", "Slow"),
        (h.Setting("colour"), "#8fbc8f", "#8fbc8f"),
        (h.Setting("number"), "much", None),
        (h.Setting("bool"), "maybe", None),
        (h.Setting("choice", choices=("still",)), "quick", None),
        (h.Setting("colour"), "teal", None),
    ],
)
def test_values_are_brought_to_fit(kind: h.Setting, value: Any, fits: Any) -> None:
    if fits is None:
        with pytest.raises(ValueError):
            fitted(kind, value)
    else:
        assert fitted(kind, value) == fits


def a_night(beats: list[dict[str, Any]]) -> Engine:
    engine = Engine(book_from({"cues": [{"id": "c", "name": "C", "entry": "overlap", "beats": beats}]}))
    engine.handle(THERE, 0)
    engine.handle(h.Rest({"broadcast/scene": "Workbench", "broadcast/filter/Bench cam/Fog/amount": 5}), 0)
    return engine


def test_a_wrong_name_fails_its_beat_and_the_others_go_on() -> None:
    engine = a_night(
        [
            {"id": "lost", "kind": "scene", "scene": "Nite mail", "length": {"s": 1}},
            {"id": "fog", "kind": "filter", "source": "BENCH cam", "filter": "fog", "setting": "amount",
             "value": 900.0, "length": {"s": 1}},
        ]
    )  # fmt: skip
    orders = [order for _, order in engine.handle(h.Pad("c"), 10)]
    assert [o.why for o in orders if isinstance(o, Fail)] == [
        "there is no scene “Nite mail” at the broadcaster; near it: Night mail"
    ]
    assert [(o.path, o.value) for o in orders if isinstance(o, Set)] == [("broadcast/filter/Bench cam/Fog/amount", 100)]


def test_one_at_random_follows_the_live_list() -> None:
    beat = {"id": "b", "kind": "source", "scene": "night mail", "any_source": True, "beginning": "mail",
            "hide_others": True, "length": {"s": 1}}  # fmt: skip
    engine = a_night([beat])
    seen = set()
    for n in range(30):
        orders = [o for _, o in engine.handle(h.Pad("c"), 10_000 * n) if isinstance(o, Set)]
        shown = [o.path.split("/")[3] for o in orders if o.value is True]
        hidden = {o.path.split("/")[3] for o in orders if o.value is False}
        assert len(shown) == 1 and "Other" not in {*shown, *hidden}
        seen.add(shown[0])
        if n == 15:
            scenes = {**THERE.scenes, "Night mail": (*THERE.scenes["Night mail"], "Mail 3")}
            engine.handle(h.Catalogue("broadcaster", scenes, THERE.filters), 10_000 * n)
    assert seen == {"Mail 1", "Mail 2", "Mail 3"}


def test_what_being_back_means() -> None:
    def holds(rest: Any, heard: tuple[str, int] | None, layers: int = 0) -> Holds:
        made = Holds()
        p = made.property("a")
        p.rest = p.shown = rest
        p.heard = heard
        p.layers = [Layer(str(n), "b", "Y") for n in range(layers)]
        return made

    def there(value: Any, by: Any, changes: int = 0, hand: Any = None, hand_changes: int = 0) -> Found:
        return Found(value, by, changes, hand, hand_changes)

    never: tuple[dict, dict] = ({}, {})
    for found, known, meaning in (
        (there("X", "hand", 7, "X", 7), Holds(), ({"a": "X"}, {})),  # new gear
        (there("X", "start"), holds(None, None, 1), ({"a": "X"}, {})),  # held before the first contact
        (there("Y", "us", 4, "R", 3), holds("R", ("b", 3), 1), never),  # our own, whose answer was lost
        (there("R", "hand", 3, "R", 3), holds("R", ("b", 3)), never),  # nobody since
        (there("H", "hand", 4, "H", 4), holds("R", ("b", 3), 1), ({}, {"a": "H"})),
        (there("R", "hand", 4, "R", 4), holds("R", ("b", 3), 1), ({}, {"a": "R"})),  # back to rest by hand
        (there("R", "hand", 3, "R", 3), holds("R", ("b", 3), 1), never),  # a hold that never reached it
        (there("Y", "us", 5, "H", 4), holds("R", ("b", 3), 1), ({}, {"a": "H"})),  # by hand, then ours
        (there("S", "start"), holds("R", ("a", 3), 1), never),  # it restarted during a hold: it is put right
        (
            there("Y", "start"),
            holds("R", ("a", 3)),
            never,
        ),  # it restarted with the last request: that isn't its rest
        (there("Y", "us", 9, "R", 1), holds("R", ("b", 1)), never),  # both died during the hold
        (there("H", "hand", 1, "H", 1), holds("R", ("a", 3)), ({}, {"a": "H"})),  # changed by hand since the restart
        (there("H", "hand", 9, "H", 9), holds("R", None), ({}, {"a": "H"})),  # never counted: from an earlier version
        (there("R", "hand", 9, "R", 9), holds("R", None), never),
    ):
        meant = reunited({"a": found}, "b", known)
        assert meant[:2] == meaning, found
        before = known.known("a")
        mark = ("b", found.hand_changes)
        assert meant.heard == ({} if before is not None and before.heard == mark else {"a": mark}), found


@pytest.mark.parametrize(
    ("found", "rest"),
    [
        (Found("Top hat", "us", 4, "Cape", 3), "Cape"),  # the last by hand
        (Found("Cape", "start"), "Cape"),  # its first value
        (Found("Top hat", "us", 4, "Porter", 3), "Overalls"),  # neither exists: its first option
        (Found("Top hat", "us", 4), "Overalls"),
    ],
)
def test_a_rest_that_is_not_there_any_more_is_the_gear_s_own_default(found: Found, rest: str) -> None:
    known = Holds()
    known.at_rest("a", "Porter")
    known.lay("a", Layer("1", "b", "Top hat"))
    known.property("a").heard = ("b", found.hand_changes)
    names = ("Overalls", "Top hat", "Cape")
    meant = reunited({"a": found}, "b", known, lambda path: names)
    assert (meant.rest, meant.hands, meant.gone) == ({"a": rest}, {}, {"a": "Porter"})
    assert reunited({"a": found}, "b", known, lambda path: ()).gone == {}, "what it has is not known"
    assert reunited({"a": found}, "b", known, lambda path: ("Porter",)).gone == {}


def test_renames_are_followed_while_things_are_held() -> None:
    engine = a_night([{"id": "b", "kind": "scene", "scene": "Night mail", "length": {"s": 5}}])
    engine.handle(h.Pad("c"), 0)
    engine.handle(h.Renamed("scene", "Night mail", "Express"), 1000)
    assert engine.surroundings.holds.showing("broadcast/scene") == "Express"
    engine.handle(h.Renamed("scene", "Workbench", "Bench"), 1500)
    engine = engine_from(snapshot_of(engine))
    orders = [o for _, o in engine.advance(6000) if isinstance(o, Set)]
    assert [(o.path, o.value) for o in orders] == [("broadcast/scene", "Bench")]
    engine.handle(h.Renamed("filter", "Fog", "Mist", "Bench cam"), 7000)
    engine.handle(h.Renamed("source", "Bench cam", "Camera"), 7000)
    assert engine.surroundings.holds.rest_of("broadcast/filter/Camera/Mist/amount") == 5


def test_the_book_follows_too() -> None:
    beats = [
        {"id": "a", "kind": "scene", "scene": "yard cam"},
        {"id": "b", "kind": "source", "scene": "Yard cam", "source": "Snow"},
        {"id": "c", "kind": "filter", "sources": ["Snow", "Fog"], "filter": "Glow"},
    ]
    calls = [{"kind": "scene", "scene": "Yard cam"}]
    cue = {"id": "x", "name": "X", "calls": calls, "door": {"scenes": ["Yard cam"]}, "beats": beats}
    looks = [{"id": "l", "name": "L", "values": {"broadcast/scene": "Yard cam"}}]
    book = {"cues": [cue], "looks": looks}
    scene = followed(book, h.Renamed("scene", "Yard cam", "Goods"))
    assert [b.get("scene") for b in scene["cues"][0]["beats"]] == ["Goods", "Goods", None]
    assert scene["cues"][0]["calls"][0]["scene"] == scene["cues"][0]["door"]["scenes"][0] == "Goods"
    assert scene["looks"][0]["values"] == {"broadcast/scene": "Goods"}
    source = followed(book, h.Renamed("source", "Snow", "Flakes"))
    assert source["cues"][0]["beats"][1]["source"] == source["cues"][0]["beats"][2]["sources"][0] == "Flakes"
    assert followed(book, h.Renamed("filter", "Glow", "Shine", "Other")) is book
    book_from(scene | {"format": "cue-jar-book", "version": 1})
