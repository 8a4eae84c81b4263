"""Snags: for each check a cue that has it, with its place and severity, and a similar cue without it."""

from __future__ import annotations

from typing import Any, NamedTuple

import pytest

from cuejar.core.book.files import book_from
from cuejar.core.facts.happenings import Catalogue, MediaFacts, Setting
from cuejar.core.measures.catalogue import Catalogues
from cuejar.core.snags.context import Snag
from cuejar.core.snags.mends import MENDS, hidden, mend_of, mended
from cuejar.core.snags.snags import CHECKS, snags

MEDIA = {
    "bell": MediaFacts("sound", 2.6),
    "plume": MediaFacts("picture", 1.4),
    "strobe": MediaFacts("clip", 4.0, flashes=True),
    "gone": MediaFacts("sound", 9.0, missing=True),
}


def beat(name: str, kind: str, **fields: Any) -> dict[str, Any]:
    return {"id": name, "kind": kind, **fields}


def media(file: str) -> dict[str, Any]:
    return {"media": {"file": file}}


def jar(*entries: tuple[str, float, bool], **more: Any) -> dict[str, Any]:
    rows = [{"value": value, "weight": weight, "on": on} for value, weight, on in entries]
    return {"jars": [{"id": "j", "name": "Posters", "kind": "media", "entries": rows, **more}]}


BELL = beat("bell", "sound", **media("bell"))
PLUME = beat("plume", "picture", **media("plume"), length={"s": 5})
DRAWN = beat("a", "picture", media={"jar": "j"}, length={"s": 5})
YARD = beat("yard", "scene", scene="Yard cam", length={"s": 3})
TWO_LOUD = {"overlays": [{"id": "stream", "name": "Stream"}, {"id": "side", "name": "Side"}]}
ONE_QUIET = {"overlays": [{"id": "stream", "name": "Stream"}, {"id": "side", "name": "Side", "sound": False}]}
ONE_PRIVATE = {"overlays": [{"id": "stream", "name": "Stream"}, {"id": "side", "name": "Side", "private": True}]}
THROW = beat("t", "throw", count=3, origin="above")
AVATAR = {
    "gear": [
        {"id": "avatar", "kind": "avatar", "targets": [{"id": "head", "name": "Head", "x": 0.5, "y": 0.5, "r": 0.1}]}
    ]
}


NEEDS_TEXT: dict[str, Any] = {"door": {"text": {"need": True}}}
DICE = beat("dice", "chance", dice={"count": 2}, outcomes=[{"id": "pair", "when": "pair"}], spin_s=2)
FOG = beat("fog", "filter", sources=["Lamp"], filter="Fog", setting="amount", value=0.5, length={"s": 3})
LAMP = beat("lamp", "source", scene="Yard cam", source="Lamp", length={"s": 3})
TINT = beat("tint", "light", colour="#f0a23c", length={"s": 3})
LAMPS = {
    "gear": [
        {
            "id": "lights",
            "kind": "lights",
            "fixtures": [{"id": "flood", "name": "Flood", "profile": "dimmer", "address": 1}],
        }
    ]
}
AT_HALT: dict[str, Any] = {
    "broadcaster": True,
    "rest": {"broadcast/scene": "Workbench", "broadcast/filter/Lamp/Fog/on": False},
}


SAID: dict[str, Any] = {"calls": [{"kind": "said", "phrase": "All aboard"}]}
LISTENS = {"house": {"listening": "held"}}


class Case(NamedTuple):
    """A cue's beats and their surroundings; ``where`` is the named beat, ``words`` are in the message."""

    beats: list[dict[str, Any]]
    where: str
    grade: str
    words: str
    cue: dict[str, Any] = {}
    book: dict[str, Any] = {}
    known: dict[str, Any] = {}


CROWD = {"jars": [{"id": "crowd", "kind": "viewers"}]}
DRAW = beat("draw", "draw", jar="crowd")
HAS: dict[str, list[Case]] = {
    "lost_file": [
        Case([beat("a", "sound", **media("gone"))], "a", "error", "The file “gone” is missing."),
        Case([beat("a", "sound", **media("never"))], "a", "error", "“never”"),
        Case([DRAWN], "a", "warning", "in the jar j", book=jar(("plume", 1, True), ("gone", 1, True))),
    ],
    "empty_jar": [
        Case([DRAWN], "a", "error", "The jar “Posters” has nothing", book=jar()),
        Case([DRAW], "draw", "error", "has nothing", book={"jars": [{**CROWD["jars"][0], "draws": {"who": "list"}}]}),
        Case([DRAWN], "a", "error", "nothing that can be drawn", book=jar(("plume", 1, False), ("plume", 0, True))),
    ],
    "nobody_drawn": [
        Case([beat("a", "caption", text="hello", whose="drawn")], "a", "error", "this cue draws nobody"),
        Case([beat("a", "reply", text="{{ drawn.name }} wins")], "a", "error", "“a” is for a drawn viewer"),
    ],
    "phrase": [
        Case([BELL], "", "warning", "Listening is off", cue=SAID),
        Case([BELL], "", "warning", "“All aboard” never calls this cue. It is too short.", cue=SAID, book=LISTENS, known={"unheard": {"all aboard": "It is too short."}}),
    ],
    "points_off": [Case([beat("a", "points", give=5)], "a", "error", "Cue Jar’s own points are off")],
    "nothing_happens": [Case([], "", "warning", "This cue does nothing.")],
    "no_call": [Case([PLUME], "", "warning", "Only its pad calls this cue.", cue={"calls": []})],
    "too_short": [
        Case([beat("a", "caption", text="mind the gap", length={"s": 0.299})], "a", "warning", "up for 299 ms"),
        Case([beat("a", "picture", **media("plume"), length={"s": 0.1})], "a", "warning", "up for 100 ms"),
    ],
    "sound_outlasts_picture": [
        Case([beat("p", "picture", **media("plume"), length={"s": 2.4}), BELL], "bell", "warning", "plays 0.2 s longer"),
    ],
    "same_sound_twice": [
        Case([BELL], "bell", "warning", "Stream, Side play it", book=TWO_LOUD, known={"pages": {"stream": 1, "side": 1}}),
        Case([BELL], "bell", "warning", "Stream play it", book=ONE_QUIET, known={"pages": {"stream": 2}}),
    ],
    "flashes": [Case([beat("a", "clip", **media("strobe"))], "a", "warning", "more than three times a second")],
    "nothing_seen": [
        Case([YARD], "yard", "warning", "Nothing will visibly change", known={"rest": {"broadcast/scene": "Yard cam"}}),
    ],
    "text_not_asked": [
        Case([beat("a", "caption", text="{{text}}, said {{viewer}}", length={"s": 3})], "a", "warning", "the viewer's text"),
        Case([beat("a", "caption", text="platform {{number}}", length={"s": 3})], "a", "warning", "the viewer's number"),
    ],
    "never_text": [
        Case([BELL], "", "error", "A follow brings no text", cue={"calls": [{"kind": "follow"}], **NEEDS_TEXT}),
        Case([BELL], "", "warning", "A raid brings", cue={"calls": [{"kind": "raid"}, {"kind": "chat", "text": "!tea"}], **NEEDS_TEXT}),
    ],
    "before_chance": [
        Case([DICE, beat("a", "sound", **media("bell"), only_if=[{"rolled": "pair"}])], "a", "warning", "gives the result away"),
        Case([DICE, beat("a", "caption", text="x", only_if=[{"rolled": "pair"}], start={"at_s": 1.9})], "a", "warning", "before its result"),
    ],
    "unknown_scene": [
        Case([BELL], "", "warning", "no scene “Yard”", cue={"door": {"scenes": ["Yard"]}}, known=AT_HALT),
        Case([{**BELL, "only_if": [{"scene": "Yard"}]}], "bell", "warning", "no scene “Yard”", known=AT_HALT),
        Case([BELL], "", "warning", "no scene", cue={"calls": [{"kind": "scene", "scene": "Yard"}]}, known=AT_HALT),
    ],
    "filter_off": [Case([FOG], "fog", "warning", "the filter Fog of Lamp, which is off", known=AT_HALT)],
    "scene_away": [Case([LAMP], "lamp", "warning", "Workbench is on", known=AT_HALT)],
    "lamps_dark": [Case([TINT], "tint", "warning", "they stay dark", book=LAMPS, known={"rest": {"light/flood/level": 0}})],
    "unheard": [
        Case([{**BELL, "overlays": ["side"]}], "bell", "warning", "nobody will hear it", book=ONE_QUIET),
        Case([BELL], "bell", "warning", "nobody", book={"overlays": [{"id": "s", "name": "S", "sound": False}]}),
    ],
    "unknown_key": [Case([beat("a", "tap", combo="ControlLeft+KeyTea")], "a", "error", "there is no key “KeyTea”")],
    "no_hit": [
        Case([PLUME, beat("a", "sound", **media("bell"), start={"after": "plume", "edge": "hit"})], "a", "warning", "nothing is thrown"),
        Case(
            [THROW, beat("a", "sound", **media("bell"), start={"after": "t", "edge": "hit", "hit": 4})],
            "a", "warning", "waits for hit 4, but only 3", book=AVATAR,
        ),
    ],
    "no_gear": [Case([beat("a", "tap", combo="KeyM")], "a", "error", "none are on the rig", book=AVATAR)],
    "no_target": [
        Case([THROW], "t", "warning", "a target that doesn’t exist", book={"gear": [{"id": "avatar", "kind": "avatar"}]}),
        Case([{**THROW, "targets": ["chest"]}], "t", "warning", "doesn’t exist", book=AVATAR),
    ],
    "two_broadcasters": [
        Case(
            [YARD], "yard", "warning", "There are 2 broadcasters (Old, b)",
            book={"gear": [{"id": "a", "kind": "broadcaster", "name": "Old"}, {"id": "b", "kind": "broadcaster"}]},
        ),
    ],
}  # fmt: skip
NEAR: dict[str, list[Case]] = {
    "lost_file": [Case([BELL], "", "", "")],
    "empty_jar": [
        Case([DRAW], "", "", "", book=CROWD),
        Case([DRAWN], "", "", "", book=jar(("plume", 0.1, True))),
        Case([DRAWN], "", "", "", book=jar(folder="/home/me/posters")),
    ],
    "nobody_drawn": [
        Case([DRAW, beat("a", "caption", text="{{drawn.name}}", whose="drawn", start={"after": "draw"})], "", "", "", book=CROWD),
        Case([DRAWN, beat("b", "caption", text="{{drawn.a}}", start={"after": "a"})], "", "", "", book=jar(("plume", 1, True))),
    ],
    "phrase": [
        Case([BELL], "", "", "", cue={"calls": [*SAID["calls"], {"kind": "pad"}]}),
        Case([BELL], "", "", "", cue=SAID, book=LISTENS, known={"unheard": {"all along": "It is too short."}}),
    ],
    "points_off": [Case([beat("a", "points", give=5)], "", "", "", book={"points": {"on": True}})],
    "nothing_happens": [Case([BELL], "", "", "")],
    "no_call": [Case([BELL], "", "", "", cue={"calls": []}, known={"fired": True})],
    "too_short": [
        Case([beat("a", "caption", text="mind the gap", length={"s": 0.3})], "", "", ""),
        Case([beat("a", "sound", **media("bell"), length={"s": 0.1})], "", "", ""),
        Case([beat("a", "clip", **media("gone"))], "", "", "", known={"why": "it is lost, not short"}),
        Case([beat("a", "caption", text="mind the gap", length="open")], "", "", ""),
    ],
    "sound_outlasts_picture": [
        Case([beat("p", "picture", **media("plume"), length={"s": 2.5}), BELL], "", "", ""),
        Case([beat("p", "picture", **media("plume"), length="to_end"), BELL], "", "", ""),
        Case([beat("y", "scene", scene="Yard cam", length={"s": 1}), BELL], "", "", ""),
        Case([BELL], "", "", ""),
    ],
    "same_sound_twice": [
        Case([BELL], "", "", "", book=TWO_LOUD, known={"pages": {"stream": 1}}),
        Case([BELL], "", "", "", book=ONE_QUIET, known={"pages": {"stream": 1, "side": 3}}),
        Case([BELL], "", "", "", book=ONE_PRIVATE, known={"pages": {"stream": 1, "side": 1}}),
        Case([{**BELL, "overlays": ["side"]}], "", "", "", book=TWO_LOUD, known={"pages": {"stream": 1, "side": 1}}),
        Case([PLUME], "", "", "", book=TWO_LOUD, known={"pages": {"stream": 2, "side": 2}}),
    ],
    "flashes": [
        Case([beat("a", "clip", **media("strobe"))], "", "", "", book={"house": {"flash_guard": False}}),
        Case([PLUME], "", "", ""),
    ],
    "nothing_seen": [
        Case([YARD], "", "", "", known={"rest": {"broadcast/scene": "Workbench"}}),
        Case([{**YARD, "length": "keep"}], "", "", "", known={"rest": {"broadcast/scene": "Yard cam"}}),
        Case(
            [{**YARD, "id": "away", "scene": "Platform"}, {**YARD, "start": {"after": "away"}}], "", "", "",
            known={"rest": {"broadcast/scene": "Yard cam"}},
        ),
    ],
    "text_not_asked": [
        Case([beat("a", "caption", text="{{text}}", length={"s": 3})], "", "", "", cue={"door": {"text": {"need": True}}}),
        Case([beat("a", "caption", text="mind the {{viewer}}", length={"s": 3})], "", "", ""),
    ],
    "never_text": [
        Case([BELL], "", "", "", cue={"calls": [{"kind": "follow"}]}),
        Case([BELL], "", "", "", cue=NEEDS_TEXT),
    ],
    "before_chance": [
        Case([DICE, beat("a", "sound", **media("bell"), only_if=[{"rolled": "pair"}], start={"after": "dice"})], "", "", ""),
        Case([DICE, beat("a", "caption", text="x", only_if=[{"rolled": "pair"}], start={"at_s": 2})], "", "", ""),
    ],
    "unknown_scene": [
        Case([BELL], "", "", "", cue={"door": {"scenes": ["yard CAM"]}}, known=AT_HALT),
        Case([BELL], "", "", "", cue={"door": {"scenes": ["Yard"]}}, known={"why": "no scene is known"}),
    ],
    "filter_off": [
        Case([FOG, {**FOG, "id": "on", "setting": "on", "value": True}], "", "", "", known=AT_HALT),
        Case([FOG], "", "", "", known={**AT_HALT, "rest": {"broadcast/filter/Lamp/Fog/on": True}}),
    ],
    "scene_away": [
        Case([LAMP, YARD], "", "", "", known=AT_HALT),
        Case([LAMP], "", "", "", known={**AT_HALT, "rest": {"broadcast/scene": "Yard cam"}}),
        Case([LAMP], "", "", "", cue={"door": {"scenes": ["Yard cam"]}}, known=AT_HALT),
    ],
    "lamps_dark": [
        Case([TINT], "", "", "", book=LAMPS, known={"rest": {"light/flood/level": 0.1}}),
        Case([{**TINT, "level": 0.5}], "", "", "", book=LAMPS, known={"rest": {"light/flood/level": 0}}),
    ],
    "unheard": [Case([BELL], "", "", "", book=ONE_QUIET), Case([PLUME], "", "", "", book={"overlays": [{"id": "s", "name": "S", "sound": False}]})],
    "unknown_key": [Case([beat("a", "tap", combo="ControlLeft+KeyT")], "", "", "")],
    "no_hit": [
        Case([THROW, beat("a", "sound", **media("bell"), start={"after": "t", "edge": "hit", "hit": 3})], "", "", "", book=AVATAR),
    ],
    "no_gear": [
        Case([beat("a", "tap", combo="KeyM")], "", "", ""),
        Case([beat("a", "tap", combo="KeyM")], "", "", "", book={"gear": [{"id": "keys", "kind": "keys"}]}),
    ],
    "no_target": [Case([{**THROW, "targets": ["head"]}], "", "", "", book=AVATAR), Case([THROW], "", "", "", book=AVATAR)],
    "two_broadcasters": [
        Case(
            [YARD], "", "", "",
            book={"gear": [{"id": "a", "kind": "broadcaster"}, {"id": "b", "kind": "broadcaster", "on": False}]},
        ),
    ],
}  # fmt: skip
ELSEWHERE = {"lost_name", "hook_not_allowed", "lamp_overlap"}
"""Checks that need a catalogue, addresses or a patch (`test_gear_rules`)."""


def cue_of(case: Case) -> dict[str, Any]:
    return {"id": "c", "name": "Tea", "calls": [{"kind": "chat", "text": "!tea"}], "beats": case.beats, **case.cue}


def found(case: Case, cue: dict[str, Any] | None = None) -> list[Snag]:
    cue = cue or cue_of(case)
    entries = [{"id": name, "name": name} for name in (*MEDIA, "never")]
    known = {key: value for key, value in case.known.items() if key in ("pages", "rest", "unheard")}
    if "broadcaster" in case.known:
        known["catalogues"] = Catalogues()
        scenes = {"Yard cam": ("Lamp", "Snow"), "Workbench": ("Mug",)}
        known["catalogues"].take(Catalogue("broadcaster", scenes, {"Lamp": {"Fog": {"amount": Setting("number")}}}))
    fires = {**cue, "id": "other", "calls": [{"kind": "follow"}], "beats": [beat("again", "fire", cue="c")]}
    cues = [cue, fires] if "fired" in case.known else [cue]
    return [
        one for one in snags(book_from({"media": entries, "cues": cues, **case.book}), MEDIA, **known) if one.cue == "c"
    ]


@pytest.mark.parametrize(("check", "case"), [(check, case) for check, cases in HAS.items() for case in cases])
def test_it_is_found_once_where_it_is(check: str, case: Case) -> None:
    (snag,) = [snag for snag in found(case) if snag.check == check]
    assert (snag.cue, snag.beat, snag.grade) == ("c", case.where, case.grade)
    assert case.words in snag.what
    assert snag.mend.endswith("."), "every one says what would put it right"


@pytest.mark.parametrize(("check", "case"), [(check, case) for check, cases in HAS.items() for case in cases])
def test_a_mend_puts_it_right_and_a_safe_one_makes_nothing_new(check: str, case: Case) -> None:
    (snag,) = [snag for snag in found(case) if snag.check == check]
    data = cue_of(case)
    mend = mend_of(
        snag,
        book_from(
            {"lanes": [], **case.book, "media": [{"id": m, "name": m} for m in (*MEDIA, "never")], "cues": [data]}
        ).cues[0],
    )
    if mend is None:
        assert check not in ("sound_outlasts_picture", "too_short", "text_not_asked")
        return
    after = found(case, mended(data, mend))
    assert [one for one in after if (one.check, one.beat) == (check, snag.beat)] == []
    if mend.safe:
        before = {(one.check, one.beat) for one in found(case)}
        assert {(one.check, one.beat) for one in after} < before


def test_every_mend_is_of_a_check_and_a_hidden_snag_says_why() -> None:
    assert set(MENDS) <= set(HAS) | ELSEWHERE
    case = Case([], "", "", "", cue={"hidden": [{"check": "nothing_happens", "reason": "it counts alone"}]})
    (snag,) = found(case)
    cue = book_from({"cues": [cue_of(case)]}).cues[0]
    assert hidden(snag, cue) == "it counts alone"
    assert hidden(snag._replace(beat="bell"), cue) is None


@pytest.mark.parametrize(("check", "case"), [(check, case) for check, cases in NEAR.items() for case in cases])
def test_the_nearest_that_is_right_has_none(check: str, case: Case) -> None:
    assert [snag for snag in found(case) if snag.check == check] == []


def test_every_check_is_here_or_named() -> None:
    assert set(HAS) == set(NEAR)
    assert set(CHECKS) - {"of_its_kind", "anchor", "gear", "hidden_hold"} <= set(HAS)
    assert not ELSEWHERE & set(HAS)


def test_a_cue_that_is_right_has_no_snags() -> None:
    assert found(Case([PLUME, BELL], "", "", "")) == []


def test_two_loud_overlays_are_said_once_for_the_cue() -> None:
    case = Case([BELL, {**BELL, "id": "again"}], "", "", "", book=TWO_LOUD, known={"pages": {"stream": 1, "side": 1}})
    assert [snag.beat for snag in found(case) if snag.check == "same_sound_twice"] == ["bell"]


def test_each_beat_has_its_own_snags() -> None:
    lost = [beat("a", "sound", **media("gone")), beat("b", "sound", **media("never")), BELL]
    assert [(snag.check, snag.beat) for snag in found(Case(lost, "", "", ""))] == [
        ("lost_file", "a"),
        ("lost_file", "b"),
    ]
