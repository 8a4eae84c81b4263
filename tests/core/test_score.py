"""The score as a table: the natural length of a beat, where it lies, and how the plan moves during a run. Times in ms."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

import pytest

from cuejar.core.book.book import Book
from cuejar.core.book.files import book_from
from cuejar.core.facts.happenings import MediaFacts
from cuejar.core.measures.catalogue import Catalogues
from cuejar.core.rules.score import (
    LEFT_OUT,
    OVER,
    PENDING,
    UP,
    Lengths,
    Range,
    RunBeat,
    Score,
    in_order,
    media_ms,
    place,
    ranges,
)

MEDIA = {
    "bell": MediaFacts("sound", 2.6),
    "plume": MediaFacts("picture", 1.4, loops=3),
    "poster": MediaFacts("picture"),
    "barrier": MediaFacts("clip", 4.0),
    "gone": MediaFacts("sound", 9.0, missing=True),
}


def a_book(*beats: dict[str, Any], house: Mapping[str, Any] = {}, **more: Any) -> Book:
    cue = {"id": "c", "name": "Steam whistle", "beats": list(beats), **more.pop("cue", {})}
    entries = [{"id": name, "name": name} for name in MEDIA]
    return book_from({"house": {"still_s": 5, **house}, "media": entries, "cues": [cue], **more})


def a_score(*beats: dict[str, Any], **more: Any) -> tuple[Score, Lengths]:
    book = a_book(*beats, **more)
    return Score(book.cues[0], book), Lengths(book, MEDIA)


def beat(name: str, kind: str = "picture", **fields: Any) -> dict[str, Any]:
    usual: dict[str, dict[str, Any]] = {
        "picture": {"media": {"file": "poster"}},
        "sound": {"media": {"file": "bell"}},
        "caption": {"text": "mind the gap"},
        "scene": {"scene": "Yard cam"},
        "count": {"name": "times"},
    }
    return {"id": name, "kind": kind, **usual.get(kind, {}), **fields}


def after(anchor: str, edge: str = "end", at_s: float = 0, **more: Any) -> dict[str, Any]:
    return {"after": anchor, "edge": edge, "at_s": at_s, **more}


def lies(score: Score, lengths: Lengths) -> dict[str, tuple[Any, Any]]:
    """Returns where each beat lies: a number if shortest and longest are equal, otherwise both."""

    def told(span: Range) -> Any:
        return span.shortest if span.shortest == span.longest else (span.shortest, span.longest)

    return {row.beat: (told(row.start), told(row.end)) for row in ranges(score, lengths)}


# The natural length of a beat


@pytest.mark.parametrize(
    ("fields", "wanted"),
    [
        (beat("a", length={"s": 3}), (0, 3000)),
        (beat("a"), (0, 5000)),
        (beat("a", media={"file": "plume"}), (0, 4200)),
        (beat("a", media={"file": "plume"}, length={"loops": 2}), (0, 2800)),
        (beat("a", "sound"), (0, 2600)),
        (beat("a", "sound", length={"loops": 2}), (0, 5200)),
        (beat("a", "clip", media={"file": "barrier"}), (0, 4000)),
        (beat("a", "sound", media={"file": "gone"}), (0, 0)),
        (beat("a", "caption", length={"s": 0.25}), (0, 250)),
        (beat("a", "scene", length="open"), (0, (0, 600_000))),
        (beat("a", "scene", length="keep"), (0, 0)),
        (beat("a", "count"), (0, 0)),
        (beat("a", "picture", length="to_end"), (0, (0, None))),
        (beat("a", start={"at_s": 1.25}, length={"s": 1}), (1250, 2250)),
    ],
)
def test_a_beat_by_itself(fields: dict[str, Any], wanted: tuple[Any, Any]) -> None:
    assert lies(*a_score(fields)) == {"a": wanted}


@pytest.mark.parametrize(
    ("trim", "wanted"),
    [
        (None, 2600),
        ({"from_s": 0.6}, 2000),
        ({"from_s": 0.6, "to_s": 1.6}, 1000),
        ({"from_s": 0, "to_s": 99}, 2600),
        ({"from_s": 2.6}, 0),
    ],
)
def test_a_trimmed_file_is_as_long_as_what_is_played(trim: dict[str, float] | None, wanted: int) -> None:
    book = book_from({"media": [{"id": "bell", "name": "Bell", "trim": trim}]})
    assert media_ms(MEDIA["bell"], book.media[0]) == wanted
    assert media_ms(MEDIA["bell"], None) == 2600
    assert Lengths(book, MEDIA).one_pass("bell") == wanted
    assert Lengths(book, MEDIA).of_media("bell", 3) == (wanted * 3 or 5000), "nothing left of it: as a still picture"


def test_what_is_known_of_files() -> None:
    book = a_book()
    with_library, without = Lengths(book, MEDIA), Lengths(book, None)
    assert with_library.known("bell") is MEDIA["bell"]
    assert with_library.known("gone") is None and with_library.known("never") is None
    assert without.known("bell") == MediaFacts() and without.known("never") is None
    assert with_library.one_pass("gone") == 0 and with_library.of_media("gone", None) == 5000
    assert with_library.of_media("plume", None) == 4200 and with_library.of_media("plume", 1) == 1400
    clip_that_says_loops = Lengths(book, {"bell": MediaFacts("sound", 2.0, loops=4)})
    assert clip_that_says_loops.of_media("bell", None) == 2000, "only a picture goes round by itself"


def test_speech_is_reckoned_by_its_parts_pace() -> None:
    book = a_book(cast=[{"id": "marlow", "name": "Marlow", "rate": 2.0}])
    lengths = Lengths(book, MEDIA)
    text = "mind the gap between the train and the kettle"
    usual = lengths.of_speech(text, None)
    assert usual > 1000 and lengths.of_speech(text, "nobody") == usual
    assert lengths.of_speech(text, "marlow") == pytest.approx(usual / 2, abs=1)


def test_patterns_and_latches_by_the_books_names() -> None:
    frame = {"at_s": 0, "levels": {"a": 0.5}}
    pattern = {
        "id": "express",
        "name": "Express",
        "length_s": 1.5,
        "places": {"a": {"x": 0.5, "y": 0.5}},
        "frames": [frame],
    }
    book = a_book(
        {"id": "k", "kind": "keys", "combo": "ControlLeft+KeyM"},
        {"id": "l", "kind": "keys", "combo": "KeyM+ControlLeft"},
        patterns=[pattern],
    )
    lengths = Lengths(book, {**MEDIA, "jolt": MediaFacts("sound", 0.6)})
    assert (lengths.of_pattern("express", None), lengths.of_pattern("express", 3)) == (1500, 4500)
    assert lengths.of_pattern("jolt", 2) == 1200, "one that is elsewhere"
    assert lengths.spelled("KeyM+ControlLeft") == "ControlLeft+KeyM", "as the book writes it first"
    assert lengths.spelled("KeyQ") == "KeyQ"


def test_a_jar_gives_a_range_over_what_it_may_give() -> None:
    def jar(*entries: tuple[str, float, bool]) -> dict[str, Any]:
        rows = [{"value": value, "weight": weight, "on": on} for value, weight, on in entries]
        return {"id": "sounds", "kind": "media", "entries": rows}

    fields = beat("a", "sound", media={"jar": "sounds"})
    full = jar(("bell", 1, True), ("barrier", 1, True), ("plume", 0, True), ("poster", 1, False), ("gone", 1, True))
    score, lengths = a_score(fields, jars=[full])
    assert lengths.drawable("sounds") == ["bell", "barrier", "gone"] and lengths.drawable("never") == []
    assert lies(score, lengths) == {"a": (0, (2600, 4000))}
    assert lies(*a_score(fields, jars=[jar()])) == {"a": (0, 0)}


# Where beats lie


def test_the_worked_example_of_the_module() -> None:
    score, lengths = a_score(
        beat("picture", length={"s": 5}),
        beat("scene", "scene", start=after("picture", "start", 1), length={"s": 4}),
        beat("sound", "sound", start=after("scene")),
    )
    assert lies(score, lengths) == {"picture": (0, 5000), "scene": (1000, 5000), "sound": (5000, 7600)}


def test_a_beat_may_begin_before_its_anchor_and_at_a_throws_hit() -> None:
    throw = {"id": "t", "kind": "throw", "count": 3, "every_s": 0.5, "flight_s": 0.8, "linger_s": 1, "origin": "above"}
    score, lengths = a_score(
        beat("p", length={"s": 4}),
        beat("early", "caption", start=after("p", "end", -1.5), length={"s": 1}),
        throw,
        beat("thud", "sound", start=after("t", "hit", 0.1, hit=2)),
    )
    where = lies(score, lengths)
    assert where["early"] == (2500, 3500)
    assert where["thud"][0] == 500 + 800 + 100


def test_what_lasts_to_the_end_ends_with_the_longest_of_the_others() -> None:
    rest = beat("rest", "scene", length="to_end")
    assert lies(*a_score(rest, beat("a", length={"s": 2}), beat("b", "sound")))["rest"] == (0, 2600)
    assert lies(*a_score(rest, beat("n", "count", start={"at_s": 3})))["rest"] == (0, 3000), "strikes alone count"
    assert lies(*a_score(rest, beat("n", "count", start={"at_s": 3}), beat("a", length={"s": 1})))["rest"] == (0, 1000)
    late = beat("late", "scene", start={"at_s": 9}, length="to_end")
    assert lies(*a_score(late, beat("a", length={"s": 2})))["late"] == (9000, 9000), "never before it began"
    opened = lies(*a_score(rest, beat("o", "scene", scene="Platform", length="open")))
    assert opened["rest"][1] == (0, 600_000)


def test_anchors_stand_before_what_hangs_on_them() -> None:
    score, _ = a_score(
        beat("c", start=after("b")), beat("a"), beat("b", start=after("a", "start")), beat("d", start=after("c"))
    )
    assert [spec.id for spec in score.specs] == ["a", "b", "c", "d"]
    assert [(spec.after, spec.at_end) for spec in score.specs] == [(-1, True), (0, False), (1, True), (2, True)]
    plain = a_book(beat("z"), beat("y"), beat("x")).cues[0].beats
    assert [one.id for one in in_order(plain)] == ["z", "y", "x"]


# What a cue is made of


def test_a_score_knows_its_lane_its_room_and_what_is_settled() -> None:
    lanes = [{"id": "yard", "name": "Yard"}, {"id": "stage", "name": "Stage"}]
    plain, _ = a_score(
        beat("a", length={"s": 1}), beat("s", "scene", length={"s": 1}), lanes=lanes, cue={"lane": "stage"}
    )
    assert (plain.lane, plain.takes_room, plain.settled, plain.speaks, plain.entry) == (
        "stage",
        True,
        True,
        False,
        "queue",
    )
    over, _ = a_score({"id": "r", "kind": "speech", "text": "{{text}}"}, lanes=lanes, cue={"entry": "overlap"})
    assert (over.lane, over.takes_room, over.settled, over.speaks) == ("yard", False, False, True)
    natural, _ = a_score(beat("a"))
    assert not natural.settled, "its length is known when it runs"
    only_if, _ = a_score(beat("a", length={"s": 1}, only_if=[{"role": "member"}]))
    assert not only_if.settled
    drawn, _ = a_score(
        beat("a", media={"jar": "j"}, length={"s": 1}), jars=[{"id": "j", "kind": "media", "entries": []}]
    )
    assert not drawn.settled


def test_a_specs_times_volume_and_what_is_switched_off() -> None:
    sound = beat(
        "s", "sound", volume=50, fade_in_s=0.5, fade_out_s=1.25, duck=0.3, length={"s": 2}, start={"at_s": 0.75}
    )
    (spec,) = a_score(sound, cue={"volume": 40})[0].specs
    assert (spec.kind, spec.way, spec.output, spec.length, spec.own, spec.offset) == (
        "sound",
        "shown",
        "sound",
        "seconds",
        2000,
        750,
    )
    assert (spec.fade_in, spec.fade_out, spec.duck, spec.file, spec.off, spec.sets) == (
        500,
        1250,
        0.3,
        "bell",
        False,
        None,
    )
    assert spec.look["volume"] == 16, "the cue’s and the house’s multiply"
    assert a_score(sound, house={"volume": 80})[0].specs[0].look["volume"] == 40
    assert a_score(sound, house={"switches": {"sound": False}})[0].specs[0].off
    scene = a_score(beat("c", "scene", length={"s": 3}))[0].specs[0]
    assert (scene.sets and scene.sets(scene.beat, Catalogues()), scene.look, scene.file, scene.way) == (
        [("broadcast/scene", "Yard cam")],
        {},
        None,
        "hold",
    )
    assert a_score(beat("k", "scene", length="keep"))[0].specs[0].own == 0


def test_a_faster_try_divides_offsets_and_lengths_and_leaves_the_score() -> None:
    score = a_score(beat("a", length={"s": 2}, start={"at_s": 1}))[0]
    (spec,), (quick,) = score.specs, score.at_speed(4)
    assert score.at_speed(1) is score.specs
    assert (quick.own, quick.offset, quick.id) == (500, 250, "a") and (spec.own, spec.offset) == (2000, 1000)
    assert a_score(beat("a", length={"s": 0.002}))[0].at_speed(16)[0].own == 1, "never nothing"
    assert a_score(beat("a"))[0].at_speed(4)[0].own is None


# How the plan moves


def plan(score: Score, *own: int | None) -> list[RunBeat]:
    return [RunBeat(spec, length) for spec, length in zip(score.specs, own, strict=True)]


def where(beats: list[RunBeat]) -> list[tuple[int | None, int | None]]:
    return [(one.start, one.end) for one in beats]


def test_what_is_to_come_moves_with_its_anchor_and_what_has_begun_stays() -> None:
    score, _ = a_score(
        beat("o", "scene", length="open"), beat("b", start=after("o")), beat("c", "sound", start=after("b", "end", 0.5))
    )
    beats = plan(score, None, 1000, 200)
    assert place(beats, 10_000, 10_000) == []
    assert where(beats) == [(10_000, None), (None, None), (None, None)]
    beats[0].state, beats[0].end = UP, 14_000
    place(beats, 10_000, 14_000)
    assert where(beats) == [(10_000, 14_000), (14_000, 15_000), (15_500, 15_700)]
    beats[1].state = UP
    beats[1].end = 14_250
    place(beats, 10_000, 15_000)
    assert where(beats)[1:] == [(14_000, 14_250), (15_000, 15_200)], "nothing still to come starts before now"
    beats[1].state = OVER
    place(beats, 99_000, 15_000)
    assert where(beats)[:2] == [(10_000, 14_000), (14_000, 14_250)], "what has begun keeps its start"


def test_what_lasts_to_the_end_is_told_when_its_end_changes() -> None:
    score, _ = a_score(beat("rest", "scene", length="to_end"), beat("a", length={"s": 2}), beat("b", length={"s": 4}))
    beats = plan(score, None, 2000, 4000)
    assert place(beats, 0, 0) == [] and beats[0].end == 4000, "it is not up yet"
    for one in beats:
        one.state = UP
    assert place(beats, 0, 0) == [], "nothing changed"
    beats[2].end = 9000
    assert place(beats, 0, 4000) == [beats[0]] and beats[0].end == 9000
    beats[2].end = None
    assert place(beats, 0, 5000) == [beats[0]] and beats[0].end is None
    beats[0].state = OVER
    beats[2].end = 6000
    assert place(beats, 0, 5000) == [] and beats[0].end is None, "what is over is left alone"


def test_what_hangs_on_something_left_out_is_left_out_too() -> None:
    score, _ = a_score(
        beat("a", length={"s": 2}), beat("b", start=after("a"), length={"s": 2}), beat("rest", "scene", length="to_end")
    )
    beats = plan(score, 2000, 2000, None)
    beats[0].state = LEFT_OUT
    place(beats, 0, 0)
    assert [one.state for one in beats] == [LEFT_OUT, LEFT_OUT, PENDING]
    assert beats[2].end is None, "nothing is left that it could end with"


def test_nothing_goes_beyond_the_cap() -> None:
    score, _ = a_score(
        beat("a", length={"s": 9}), beat("b", start=after("a"), length={"s": 2}), beat("rest", "scene", length="to_end"),
        beat("early", start={"at_s": 1}, length={"s": 1}),
    )  # fmt: skip
    beats = plan(score, 9000, 2000, None, 1000)
    place(beats, 0, 0, cap=5000)
    assert where(beats) == [(0, 5000), (5000, None), (0, 5000), (1000, 2000)]
    assert [one.state for one in beats] == [PENDING, LEFT_OUT, PENDING, PENDING], "at the cap is beyond it"
    for one in (beats[0], beats[2]):
        one.state = UP
    beats[0].end = 6000
    assert place(beats, 0, 0, cap=6000) == [beats[2]] and beats[2].end == 6000


def test_a_doors_longest_text_bounds_what_a_speech_may_take() -> None:
    speech = {"id": "r", "kind": "speech", "text": "{{text}}"}

    def longest(most: int | None) -> int:
        text = {"need": True, "kind": "any", "max": most}
        (row,) = ranges(*a_score(speech, cue={"door": {"text": text}}))
        assert row.end.longest is not None and row.end.shortest < row.end.longest
        return row.end.longest

    assert longest(50) < longest(200) < longest(300) == longest(None)


def test_a_burst_lasts_as_long_as_its_pieces() -> None:
    for media in ({}, {"media": {"file": "poster"}}):
        assert lies(*a_score(beat("a", "burst", length="natural", life_s=4.5, **media))) == {"a": (0, 4500)}
