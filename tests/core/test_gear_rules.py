"""Lamps, haptics, keys, throws and the flash guard: what holds whatever runs together."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
import pytest
from hypothesis import example, given
from hypothesis import strategies as st

from cuejar.core.book.files import book_from
from cuejar.core.engine.engine import Engine
from cuejar.core.facts import happenings as h
from cuejar.core.facts import orders as o
from cuejar.core.kinds.throw import ThrowBeat
from cuejar.core.measures.catalogue import Catalogues, stepped
from cuejar.core.measures.colour import fade
from cuejar.core.measures.flash import Guard, flashing
from cuejar.core.measures.haptics import Limit, Worn, fitted, from_csv, levels_at, to_csv
from cuejar.core.measures.keys import canonical, unknown
from cuejar.core.measures.lampbank import LampBank
from cuejar.core.measures.lamps import Board, Motion, channels, light, luminance, motion_from, overlaps, patched, share
from cuejar.core.measures.throw import Thing, hit_ms, natural_ms, things
from cuejar.core.parts.base import BookError
from cuejar.core.parts.gear import BodyPlace, Fixture, Frame, HapticPattern, Target
from cuejar.core.snags.snags import snags


@pytest.mark.parametrize(
    ("profile", "colour", "level", "expected"),
    [
        ("rgb", "#ffffff", 1.0, [255, 255, 255]),
        ("rgb", "#ff0000", 0.5, [128, 0, 0]),
        ("rgb", "#808080", 1.0, [56, 56, 56]),  # (128/255)**2.2 = 0.2195
        ("rgbw", "#ffffff", 1.0, [0, 0, 0, 255]),
        ("rgbw", "#ff8000", 1.0, [255, 56, 0, 0]),
        ("rgbw", "#ff8080", 1.0, [199, 0, 0, 56]),
        ("dimmer", "#00ff00", 1.0, [182]),  # 0.7152
        ("dimmer_rgb", "#ff0000", 0.5, [128, 255, 0, 0]),
        ("dimmer_rgb", "#000000", 1.0, [0, 0, 0, 0]),
    ],
)
def test_a_colour_becomes_channels(profile: str, colour: str, level: float, expected: list[int]) -> None:
    fixture = Fixture(id="a", profile=profile)  # type: ignore[arg-type]
    assert channels(fixture, light(colour, level, fixture.gamma)) == expected


def test_lamps_find_their_addresses() -> None:
    lamps = [
        Fixture(id="a", profile="rgbw"),
        Fixture(id="b", address=3),
        Fixture(id="c", profile="dimmer"),
        Fixture(id="d", universe=2, profile="rgb", address=510),
        Fixture(id="e", universe=2, profile="dimmer_rgb"),
    ]
    where = patched(lamps)
    # a has no four free channels before b, so it comes after it; c follows b, where a is; e starts again at the front.
    assert (where["b"].address, where["a"].address, where["c"].address) == (3, 6, 10)
    assert (where["e"].universe, where["e"].address) == (2, 1)
    assert overlaps(lamps) == []
    assert overlaps([Fixture(id="x", address=1), Fixture(id="y", address=3), Fixture(id="z", address=4)]) == [
        ("x", "y"),
        ("y", "z"),
    ]
    with pytest.raises(BookError, match="512"):
        book_from({"gear": [{"id": "l", "kind": "lights", "fixtures": [{"id": "a", "address": 511}]}]})


def test_looks_are_written_and_read_back_and_chase_goes_round() -> None:
    for look in (Motion(), Motion("breathe", 2.5), Motion("chase", 1.2, 2, 4), Motion("flicker", 0.4, 1, 3)):
        assert motion_from(str(look)) == look
    assert motion_from("nonsense") == motion_from("chase x s") == Motion()
    brightest = [max(range(4), key=lambda n: share(Motion("chase", 4, n, 4), t)) for t in (0.0, 1.0, 2.0, 3.0, 4.0)]
    assert brightest == [0, 1, 2, 3, 0]
    assert share(Motion("breathe", 2), 0) == pytest.approx(1) and share(Motion("breathe", 2), 1) == pytest.approx(0.1)


LOOKS = st.builds(
    Motion,
    st.sampled_from(["steady", "breathe", "chase", "flicker"]),
    st.floats(0.05, 3),
    st.integers(0, 3),
    st.just(4),
)
COLOURS = st.sampled_from(["#ffffff", "#000000", "#ff0000", "#00ff00", "#3366aa", "#f0a23c"])


@example([[(0, "#ffffff", Motion()), (4, "#ffffff", Motion("breathe", 0.05, 0, 4)), (43, "#ff0000", Motion())]])
@example([[(0, "#ff0000", Motion()), (3, "#ffffff", Motion("breathe", 0.25, 0, 4))]])
@given(
    st.lists(st.lists(st.tuples(st.integers(0, 200), COLOURS, LOOKS), min_size=1, max_size=30), min_size=1, max_size=4)
)
def test_the_flash_guard_holds_for_any_sum_of_looks(plans: list[list[tuple[int, str, Motion]]]) -> None:
    guard = Guard(len(plans))
    seen, times = [], []
    for frame in range(200):
        t = frame / 40
        wanted = []
        for plan in plans:
            begun = [row for row in sorted(plan, key=lambda row: row[0]) if row[0] <= frame]
            _, colour, look = begun[-1] if begun else (0, "#000000", Motion())
            wanted.append(light(colour, 1, 2.2) * share(look, t))
        out = guard.passed(np.array(wanted), t)
        seen.append(luminance(out))
        times.append(t)
    lamps = np.array(seen)
    whole = np.column_stack([lamps, lamps.mean(axis=1)])
    for column in range(whole.shape[1]):
        # Also for an observer who starts later.
        for first in (0, 3, 17, 40):
            assert flashing(np.array(times[first:]), whole[first:, [column]]) == []


def test_the_guard_lets_through_what_is_slow_and_catches_up_in_the_end() -> None:
    guard = Guard(1)
    for frame in range(80):
        wanted = light("#ffffff", 1, 2.2)[None, :] * share(Motion("breathe", 2), frame / 40)
        assert np.allclose(guard.passed(wanted, frame / 40), wanted)
    for frame in range(80, 160):
        guard.passed(light("#ffffff" if frame % 2 else "#000000", 1, 2.2)[None, :], frame / 40)
    end = light("#f0a23c", 0.7, 2.2)[None, :]
    for frame in range(160, 260):
        out = guard.passed(end, frame / 40)
    assert np.allclose(out, end)


# Haptics


def test_patterns_curve_merge_and_come_back_from_csv() -> None:
    frames = [
        Frame(at_s=0, levels={"a": 0}, curve="line"),
        Frame(at_s=0.2, levels={"a": 0.8}, curve="step"),
        Frame(at_s=0.4, levels={"b": 1}, curve="smooth"),
        Frame(at_s=0.6),
    ]
    places = {"a": BodyPlace(x=0.3, y=0.2), "b": BodyPlace(side="back", x=0.5, y=0.4, size=0.3)}
    pattern = HapticPattern(id="p", name="P", length_s=0.8, places=places, frames=frames)
    assert levels_at(pattern, 0.1)[0] == pytest.approx(0.4)
    assert levels_at(pattern, 0.3)[0] == pytest.approx(0.8)
    assert levels_at(pattern, 0.5)[1] == pytest.approx(0.5) and levels_at(pattern, 0.45)[1] == pytest.approx(0.84375)
    assert not levels_at(pattern, 0.8).any() and not levels_at(pattern, -0.1).any()
    worn = Worn(list(places.values()))
    both = worn.merged([worn.felt(pattern, 0.3), np.full(2, 0.5)])
    assert both.tolist() == pytest.approx([0.8, 0.5])
    head = "time_ms, side ,x,y,size,level"
    told = f"\ufeff{head}\n0,front,.3,.2,,0\n200,Front,.3,.2,,0.8\n400,front,.3,.2,,0\n400,back,.5,.4,.3,1\n\n"
    read = from_csv(told, "p", "P")
    assert list(read.places.values()) == list(places.values())
    assert [(f.at_s, dict(f.levels)) for f in read.frames] == [(0, {}), (0.2, {"p1": 0.8}), (0.4, {"p2": 1})]
    again = from_csv(to_csv(read), "p", "P")
    assert all(np.allclose(levels_at(again, t), levels_at(read, t)) for t in (0, 0.1, 0.2, 0.3, 0.39))
    head = "time_ms,side,x,y,size,level"
    for wrong, why in (
        ("a,b,c\n1,2,3", "first line"),
        (f"{head}\n1,2", "line 2"),
        (f"{head}\n1,left,.5,.5,.1,1", "line 2.*front or back"),
        (f"{head}\n1,front,.5,1.5,.1,1", "line 2.*of 0 to 1"),
        (f"{head}\n", "no row"),
        (head + "".join(f"\n0,front,.5,{n / 1000},.1,1" for n in range(501)), "more than 500 places"),
    ):
        with pytest.raises(ValueError, match=why):
            from_csv(wrong, "p", "P")
    with pytest.raises(ValueError, match="no place “gone”"):
        HapticPattern(id="p", name="P", places=places, frames=[Frame(levels={"gone": 1})])


@pytest.mark.parametrize(
    ("place", "pads", "felt"),
    [
        pytest.param(BodyPlace(x=0.5, y=0.5), [BodyPlace(x=0.5, y=0.5), BodyPlace(x=0.6, y=0.5)], [0], id="the pad itself"),
        pytest.param(BodyPlace(x=0.5, y=0.5), [BodyPlace(x=0.1, y=0.5), BodyPlace(x=0.8, y=0.5)], [1], id="the nearest"),
        pytest.param(
            BodyPlace(x=0.5, y=0.5, size=0.4), [BodyPlace(x=0.4, y=0.5), BodyPlace(x=0.6, y=0.6), BodyPlace(x=0.9, y=0.5)], [0, 1], id="all within"
        ),
        pytest.param(BodyPlace(x=0.5, y=0.5, size=0.2), [BodyPlace(x=0.4, y=0.5), BodyPlace(x=0.5, y=0.59)], [0], id="a side is higher than wide"),
        pytest.param(BodyPlace(x=0.1, y=0.5), [BodyPlace(side="back", x=0.1, y=0.5), BodyPlace(x=0.9, y=0.9)], [1], id="its own side first"),
        pytest.param(
            BodyPlace(x=0.1, y=0.5), [BodyPlace(side="back", x=0.1, y=0.5), BodyPlace(side="back", x=0.9, y=0.5)], [1], id="through the body"
        ),
        pytest.param(BodyPlace(x=0.1, y=0.5), [], [], id="no pads"),
    ],
)  # fmt: skip
def test_a_place_is_felt_by_the_pads_near_it(place: BodyPlace, pads: list[BodyPlace], felt: list[int]) -> None:
    assert fitted([place], pads) == [felt]


@given(
    st.lists(st.tuples(st.booleans(), st.floats(0, 1), st.floats(0, 1), st.floats(0, 1)), min_size=1, max_size=20),
    st.lists(st.tuples(st.booleans(), st.floats(0, 1), st.floats(0, 1)), min_size=1, max_size=40),
)
def test_on_any_wearable_every_place_is_felt_and_levels_are_kept(
    felt: list[tuple[bool, float, float, float]], pads: list[tuple[bool, float, float]]
) -> None:
    def at(front: bool, x: float, y: float) -> BodyPlace:
        return BodyPlace(side="front" if front else "back", x=x, y=y)

    places = {f"p{n}": at(*row[:3]) for n, row in enumerate(felt)}
    levels = {f"p{n}": row[3] for n, row in enumerate(felt)}
    pattern = HapticPattern(id="p", name="P", places=places, frames=[Frame(levels=levels, curve="step")])
    worn = Worn([at(*pad) for pad in pads])
    out = worn.felt(pattern, 0.5)
    assert out.max() == pytest.approx(max(levels.values()))
    assert all(any(abs(level - kept) < 1e-9 for kept in [0.0, *levels.values()]) for level in out)


def test_a_pattern_of_before_is_where_its_cells_were() -> None:
    frames = [{"at_s": 0, "cells": {"0": 1.0, "39": 0.5}, "curve": "step"}, {"at_s": 0.5, "cells": {}}]
    pattern = book_from({"patterns": [{"id": "p", "name": "P", "frames": frames}]}).patterns[0]
    assert pattern.places == {
        "c0": BodyPlace(side="front", x=0.2, y=0.2, size=0.16),
        "c39": BodyPlace(side="back", x=0.8, y=0.76, size=0.16),
    }
    assert [dict(frame.levels) for frame in pattern.frames] == [{"c0": 1.0, "c39": 0.5}, {}]
    assert pattern.frames[0].curve == "step"
    for odd in ({"40": 1}, {"hat": 1}):
        with pytest.raises(BookError, match="cells"):
            book_from({"patterns": [{"id": "p", "name": "P", "frames": [{"cells": odd}]}]})


@given(
    st.lists(st.tuples(st.integers(0, 400), st.integers(1, 300), st.floats(0.01, 1)), max_size=12),
    st.floats(0.1, 1),
    st.integers(200, 2000),
    st.integers(100, 1000),
)
@example([(0, 265, 1.0), (298, 1, 1.0)], 1.0, 200, 661)  # a pause that is one frame too short
def test_haptic_limits_hold_for_any_sum_of_patterns(
    spans: list[tuple[int, int, float]], level: float, most: int, pause: int
) -> None:
    limit, worn = Limit(level, most, pause), Worn([BodyPlace(x=0.5, y=0.5)] * 3)
    felt_from, quiet_from = None, 0
    for frame in range(500):
        now = frame * 20
        wanted = worn.merged(np.full(3, strength) for at, long, strength in spans if at <= frame < at + long)
        out = limit.passed(wanted, now)
        assert out.max() <= level + 1e-9 and (out <= wanted + 1e-9).all()
        if out.any():
            if felt_from is None or now - quiet_from >= pause:
                felt_from = now
            assert now - felt_from < most
            quiet_from = now + 20


# Keys


def test_combinations_have_one_name() -> None:
    assert canonical("shift + control+ m") == canonical("ControlLeft+ShiftLeft+KeyM") == "ControlLeft+ShiftLeft+KeyM"
    assert canonical("f8") == "F8" and canonical("7") == "Digit7" and canonical("F8+F8") == "F8"
    assert unknown("Control+Banana") == ["Banana"] and canonical("Control+Banana") == "Control+Banana"


@given(st.lists(st.tuples(st.integers(0, 60), st.integers(1, 40), st.booleans()), min_size=1, max_size=12))
def test_latches_tap_evenly_and_everything_returns(runs: list[tuple[int, int, bool]]) -> None:
    """Overlapping holds of a latch, the avatar, the voice box and lamps: each changes evenly and is at rest in the end."""

    def beats(long: int) -> list[dict[str, object]]:
        kinds: list[dict[str, object]] = [
            {"kind": "keys", "combo": "F8"},
            {"kind": "avatar", "outfit": "Top hat", "expressions": ["Startled", "Cheer"]},
            {"kind": "voice", "preset": "Tannoy", "mix": 0.5},
            {"kind": "light", "fixtures": ["yard"], "colour": "#ff0000", "look": "chase"},
        ]
        return [{"id": f"b{i}", "length": {"s": long / 10}, **kind} for i, kind in enumerate(kinds)]

    lengths = sorted({long for _, long, _ in runs})
    cues = [{"id": f"c{n}", "name": "C", "entry": "overlap", "beats": beats(n)} for n in lengths]
    lamps = {"id": "l", "kind": "lights", "fixtures": [{"id": "a"}, {"id": "b"}],
             "groups": [{"id": "yard", "name": "Yard", "fixtures": ["b", "a"]}]}  # fmt: skip
    engine = Engine(book_from({"cues": cues, "gear": [lamps]}))
    rest: dict[str, Any] = {"avatar/outfit": "Porter", "voice/preset": "Plain", "voice/mix": 1.0}
    rest |= {f"light/{lamp}/colour": "#ffd9a0" for lamp in "ab"}
    engine.handle(h.Rest(dict(rest)), 0)
    timed = []
    for at, long, stop in sorted(runs):
        timed += engine.handle(h.Pad(f"c{long}"), at * 100)
        if stop:
            timed += engine.handle(h.AllToRest(), at * 100 + 50)
    timed += engine.advance(60_000)
    taps = [order.value for _, order in timed if isinstance(order, o.Set) and order.path == "keys/F8"]
    assert taps == ["on", "off"] * (len(taps) // 2) and taps
    assert not engine.surroundings.holds.held()
    for path, value in {**rest, "avatar/expression/Startled": "off", "light/a/look": "steady"}.items():
        assert engine.surroundings.holds.showing(path) == value, path
    chased = {order.value for _, order in timed if isinstance(order, o.Set) and order.path == "light/b/look"}
    assert chased == {"chase 2 s, 1 of 2", "steady"}


# Throws

TARGETS = [Target(id="head", name="Head", x=0.7, y=0.3, r=0.06), Target(id="chest", name="Chest", x=0.68, y=0.6, r=0.1)]
BEATS = st.builds(
    ThrowBeat,
    id=st.just("t"),
    kind=st.just("throw"),
    count=st.integers(1, 40),
    every_s=st.sampled_from([0, 0.05, 0.4]),
    origin=st.sampled_from(["above", "left", "right", "point", "random"]),
    targets=st.sampled_from([[], ["head"], ["head", "chest"], ["gone"]]),
    flight_s=st.floats(0.1, 3),
    arc=st.floats(0, 1),
)


def _position(thing: Thing, t: float) -> tuple[float, float]:
    """Returns where it is at ``t`` (0 to 1) of its flight."""
    x = thing.x0 + (thing.x1 - thing.x0) * t
    y = thing.y0 + (thing.y1 - thing.y0) * t - 4 * thing.arc * t * (1 - t)
    return x, y


@given(BEATS, st.sampled_from([16 / 9, 9 / 16, 1.0]), st.text(max_size=8))
def test_every_throw_lands_within_its_circle(beat: ThrowBeat, ratio: float, seed: str) -> None:
    thrown = things(beat, TARGETS, ratio, seed)
    assert thrown == things(beat, TARGETS, ratio, seed)
    assert len(thrown) == beat.count
    wanted = {"head", "chest"} if beat.targets in ([], ["gone"]) else set(beat.targets)
    for number, thing in enumerate(thrown, 1):
        target = next(target for target in TARGETS if target.id == thing.target)
        assert thing.target in wanted
        assert _position(thing, 0) == (thing.x0, thing.y0)
        x, y = _position(thing, 1)
        assert math.hypot((x - target.x) * ratio, y - target.y) <= target.r
        assert thing.at + thing.flight == hit_ms(beat, number)
        # Uniform gravity: the second difference of the height is constant.
        steps = [_position(thing, t / 8)[1] for t in range(9)]
        bends = {round(c - 2 * b + a, 9) for a, b, c in zip(steps, steps[1:], steps[2:], strict=False)}
        assert max(bends) - min(bends) < 1e-8 and min(bends) == pytest.approx(8 * thing.arc / 64, abs=1e-8)
    assert natural_ms(beat) >= hit_ms(beat, beat.count)


def test_a_hit_sets_off_a_beat_at_its_moment() -> None:
    throw = {"id": "t", "kind": "throw", "count": 3, "every_s": 0.5, "flight_s": 0.7, "start": {"at_s": 1}}
    startled = {"id": "s", "kind": "avatar", "expression": "Startled", "length": {"s": 1},
                "start": {"after": "t", "edge": "hit", "hit": 2, "at_s": 0.1}}  # fmt: skip
    engine = Engine(book_from({"cues": [{"id": "c", "name": "C", "beats": [throw, startled]}]}))
    timed = engine.handle(h.Pad("c"), 0) + engine.advance(20_000)
    at = [when for when, order in timed if isinstance(order, o.Set) and order.value == "on"]
    assert at == [1000 + 500 + 700 + 100]
    hide = [when for when, order in timed if isinstance(order, o.Hide)]
    assert hide == [1000 + 1000 + 700 + 1200]


def test_a_hook_calls_again_at_the_end_of_its_hold() -> None:
    hook = {
        "id": "k",
        "kind": "hook",
        "hook": "box",
        "payload": '{"who": "{{viewer}}"}',
        "then_s": 4,
        "then_payload": "{}",
    }
    book = {
        "cues": [{"id": "c", "name": "C", "calls": [{"kind": "chat", "match": "is", "text": "!box"}], "beats": [hook]}],
        "gear": [{"id": "box", "kind": "hook", "address": "http://a/{{viewer}}"}],
    }
    engine = Engine(book_from(book))
    timed = engine.handle(h.Chat(h.Viewer("v", 'a "b"'), "!box"), 0) + engine.advance(10_000)
    strikes = [(at, order.value) for at, order in timed if isinstance(order, o.Strike)]
    assert [at for at, _ in strikes] == [0, 4000]
    assert strikes[0][1]["payload"] == '{"who": "a \\"b\\""}' and strikes[1][1]["payload"] == "{}"
    assert strikes[0][1]["values"]["viewer"] == 'a "b"' and "then" not in strikes[0][1]


def test_what_gear_cannot_do_is_a_snag() -> None:
    beats = [
        {"id": "a", "kind": "avatar", "outfit": "Tip hat", "expressions": ["cheer"]},
        {"id": "b", "kind": "tap", "combo": "F8+Banana"},
        {"id": "c", "kind": "haptics", "pattern": "Expres"},
        {"id": "d", "kind": "throw", "targets": ["gone"], "count": 2},
        {"id": "e", "kind": "light", "colour": "red"},
        {"id": "f", "kind": "hook", "hook": "box"},
        {"id": "g", "kind": "sound", "media": {"file": "m"}, "start": {"after": "d", "edge": "hit", "hit": 3}},
        {"id": "h", "kind": "voice", "preset": "Tannoy"},
    ]
    book = book_from({
        "cues": [{"id": "c", "name": "C", "beats": beats}],
        "media": [{"id": "m", "name": "M"}],
        "patterns": [{"id": "x", "name": "Express"}],
        "gear": [
            {"id": "avatar", "kind": "avatar", "targets": [{"id": "head", "name": "Head"}]},
            {"id": "keys", "kind": "keys"},
            {"id": "coat", "kind": "haptics"},
            {"id": "lamps", "kind": "lights", "fixtures": [{"id": "l", "address": 1}, {"id": "m", "address": 2}]},
            {"id": "box", "kind": "hook", "address": "https://office.example/{{viewer}}"},
        ],
    })  # fmt: skip
    known = Catalogues()
    known.take(h.Catalogue("avatar", names={"outfit": ("Top hat",), "expression": ("Cheer",)}))
    found = {(snag.beat, snag.check): snag for snag in snags(book, None, catalogues=known) if snag.beat}
    assert found["a", "lost_name"].near == ("Top hat",) and found["a", "lost_name"].grade == "error"
    assert found["c", "lost_name"].near == ("Express",) and found["c", "lost_name"].key == "pattern"
    kinds = {beat: check for beat, check in found if check != "text_not_asked"}
    assert kinds == {"a": "lost_name", "b": "unknown_key", "c": "lost_name", "d": "no_target", "e": "lamp_overlap",
                     "f": "hook_not_allowed", "g": "no_hit", "h": "no_gear"}  # fmt: skip


def test_two_broadcasters_are_a_snag() -> None:
    gear = [{"id": "one", "kind": "broadcaster"}, {"id": "two", "kind": "broadcaster", "name": "The other"}]
    beats = [{"id": "s", "kind": "scene", "scene": "Yard cam"}]
    found = snags(book_from({"cues": [{"id": "c", "name": "C", "beats": beats}], "gear": gear}), None)
    assert [(snag.check, snag.beat, "one, The other" in snag.what) for snag in found if "two" in snag.check] == [
        ("two_broadcasters", "s", True)
    ]
    gear[1]["on"] = False
    found = snags(book_from({"cues": [{"id": "c", "name": "C", "beats": beats}], "gear": gear}), None)
    assert not [snag for snag in found if snag.check == "two_broadcasters"]


MOTIONS = [
    Motion(),
    Motion("breathe", 2),
    Motion("chase", 1.5, 1, 4),
    Motion("chase", 1.5, 3, 4),
    Motion("flicker", 0.7, 2, 3),
]


@given(
    st.lists(
        st.tuples(
            st.integers(0, 3),
            st.sampled_from(["#d2281e", "#00a0ff", "#ffffff", "#121d1b"])
            | st.sampled_from([0.0, 0.3, 1.0])
            | st.sampled_from(MOTIONS),
            st.sampled_from([0.0, 0.5, 2.0]),
            st.sampled_from([0.0, 0.1, 0.7]),
        ),
        max_size=12,
    ),
    st.floats(0, 4),
)
def test_a_bank_of_lamps_is_each_lamp_by_itself(
    turns: list[tuple[int, str | float | Motion, float, float]], later_s: float
) -> None:
    """All at once in numpy, each colour's fade as the colour library's and each motion by its own formula."""
    fixtures = [Fixture(id=f"l{n}", gamma=1 + n / 2) for n in range(4)]
    bank = LampBank(fixtures, "#ffd9a0", 1.0)
    colours, levels, motions = (
        [("#ffd9a0", "#ffd9a0", 0.0, 1e-9)] * 4,
        [(1.0, 1.0, 0.0, 1e-9)] * 4,
        [(Motion(), 0.0)] * 4,
    )
    now = 0.0

    def part(begun: float, span: float, at: float) -> float:
        return 1.0 if span <= 1e-9 else min(1.0, max(0.0, (at - begun) / span))

    for lamp, what, span, pause in turns:
        now += pause
        if isinstance(what, str):
            one, other, begun, took = colours[lamp]
            bank.colour(lamp, what, now, span)
            colours[lamp] = (fade(one, other, part(begun, took, now)), what, now, max(span, 1e-9))
        elif isinstance(what, float):
            low, high, begun, took = levels[lamp]
            bank.level(lamp, what, now, span)
            levels[lamp] = (low + (high - low) * part(begun, took, now), what, now, max(span, 1e-9))
        else:
            bank.motion(lamp, what, now)
            alike = [t for m, t in motions if (m.name, m.period_s, m.lamps) == (what.name, what.period_s, what.lamps)]
            motions[lamp] = (what, alike[0] if alike and what.name != "steady" else now)
    now += later_s
    for lamp, (seen, fixture) in enumerate(zip(bank.light(now), fixtures, strict=True)):
        one, other, begun, took = colours[lamp]
        low, high, from_s, over = levels[lamp]
        motion, since = motions[lamp]
        level = (low + (high - low) * part(from_s, over, now)) * share(motion, now - since)
        expected = light(fade(one, other, part(begun, took, now)), level, fixture.gamma)
        assert seen == pytest.approx(expected, abs=0.02), "to the rounding of whole values and thousandths"
    if not bank.is_moving(now):
        assert bank.light(now) is bank.light(now + 100), "nothing is reckoned for lamps that stand still"


def test_a_board_of_lamps_is_as_its_lamps_one_by_one() -> None:
    profiles = ("rgb", "dimmer", "rgbw", "dimmer_rgb")
    fixtures = [
        Fixture(id=f"l{n}", name="L", profile=profiles[n % 4], universe=1 + n % 3, gamma=1 + n % 2) for n in range(40)
    ]
    fixtures[7] = Fixture(id="l7", name="L", profile="rgb", universe=2, address=200)
    where = patched(fixtures)
    del where["l5"]
    pick = np.random.default_rng(3)
    for lit in (pick.uniform(-0.2, 1.2, (40, 3)), np.zeros((40, 3)), np.ones((40, 3))):
        wanted = {universe: bytearray(512) for universe in (1, 2, 3)}
        for fixture, shining in zip(fixtures, lit, strict=True):
            if (patch := where.get(fixture.id)) is not None:
                values = channels(fixture, shining)
                wanted[patch.universe][patch.address - 1 : patch.address - 1 + len(values)] = bytes(values)
        assert Board(fixtures, where).frame(lit) == {universe: bytes(values) for universe, values in wanted.items()}
    assert Board([], {}).frame(np.zeros((0, 3))) == {}


@given(
    st.floats(-1e6, 1e6),
    st.one_of(st.none(), st.integers(-1000, 1000)),
    st.one_of(st.none(), st.integers(0, 2000)),
    st.one_of(st.none(), st.sampled_from([0.1, 0.25, 1, 5, 7])),
)
def test_a_setting_takes_the_nearest_in_its_range_and_steps(
    number: float, low: int | None, span: int | None, step: float | None
) -> None:
    high = None if span is None else (low or 0) + span
    taken = stepped(h.Setting(min=low, max=high, step=step), number)
    least, most = -math.inf if low is None else low, math.inf if high is None else high
    clamped = min(most, max(least, number))
    if step is None:
        assert taken == pytest.approx(clamped, abs=1e-6)
        return
    steps = (taken - (low or 0)) / step
    assert steps == pytest.approx(round(steps), abs=1e-4), "on its grid"
    if low is None or span is None or span >= step:
        assert least - 1e-6 <= taken <= most + 1e-6
        inner = clamped if high is None else min(clamped, (low or 0) + (high - (low or 0)) // step * step)
        assert abs(taken - inner) <= step / 2 + 1e-5
