"""Every text made from a book's parts reads without gaps: over drawn books, whatever is in them."""

from __future__ import annotations

import json
import re
from pathlib import Path
from typing import Any, get_args

import pytest
from hypothesis import given
from hypothesis import strategies as st

from cuejar.core.book.book import LISTS, Book, Cue
from cuejar.core.book.files import book_from
from cuejar.core.carry.differences import differences
from cuejar.core.facts.paths import Path as Property
from cuejar.core.parts.callkinds import Call, ChatCall
from cuejar.core.parts.slugs import slug
from cuejar.core.rules.tickets import Limits
from cuejar.core.snags.snags import snags
from cuejar.core.words.calls import SAID, call_brief, call_said
from cuejar.core.words.conditions import condition_said
from cuejar.core.words.cues import brief, does, effect, sentence
from cuejar.core.words.data import data_note, data_said
from cuejar.core.words.doors import effective, exceptions_said, lane_said, pace_said, text_said, who_said
from cuejar.core.words.entries import Telling
from cuejar.core.words.names import Names, Noticed
from cuejar.core.words.properties import keys_said, property_said, thing_said, value_said
from cuejar.core.words.rewards import called_said, limits_said, stamp_said, tonight_said
from cuejar.core.words.values import seconds, watching
from cuejar.core.words.verdicts import verdict_said
from tests.core import whole

GAPS = re.compile(r"\bNone\b|\bundefined\b|\bnan\b| {2}| [.,;:]|“”|\(\)|^\s|\s$|[{}\[\]]|_")
"""Signs of a missing part in a text, or of something not put into words."""
SAME = Path(__file__).parents[2] / "web" / "src" / "logic" / "said.json"
TEMPLATES = re.compile(r"\{\{[^{}]*\}\}|“[^”]*”|\b[bcfr]\d\b")


def reads_well(text: str) -> None:
    bare = TEMPLATES.sub("x", text)
    assert bare and not GAPS.search(bare), f"{text!r} has a gap at {GAPS.search(bare)}"


def told(book: Book) -> list[str]:
    telling, noticed, names = Telling(book), Noticed(book), Names(book)
    texts = [one for kind in LISTS for entry in getattr(book, kind) if (one := telling.told(kind, entry))]
    for cue in book.cues:
        texts += [does(cue, noticed), effect(cue, noticed), brief(cue, book, names)]
        texts.append("".join(part.words for part in sentence(cue, book, names, noticed)))
        texts += [call_said(call.model_dump(mode="json", by_alias=True), names) for call in cue.calls]
        asked = [*cue.door.only_if, *(one for beat in cue.beats for one in beat.only_if)]
        texts += [condition_said(one.model_dump(mode="json", by_alias=True), names) for one in asked]
    for snag in snags(book, None):
        texts += [snag.what, snag.mend]
    return texts


def test_every_call_has_its_words() -> None:
    assert {call.model_fields["kind"].annotation.__args__[0] for call in get_args(get_args(Call)[0])} == set(SAID)


@given(whole.whole_books())
def test_what_a_book_says_of_itself(book: Book) -> None:
    for text in told(book):
        reads_well(text)


@given(whole.whole_books(), whole.whole_books())
def test_what_differs_between_two_books(one: Book, other: Book) -> None:
    for difference in differences(one, other):
        for text in (difference.name, *(str(field) for field in difference.fields)):
            assert not re.search(r"\bNone\b|->|>= >=|: none → is", text), text


@given(st.data())
def test_every_condition_reads(data: Any) -> None:
    condition = data.draw(whole.CONDITIONS)
    reads_well(condition_said({**condition, "not": data.draw(st.booleans())}, Names(Book())))


def test_a_gap_is_found() -> None:
    for wrong in ("The door does not ask for a .", "only if: None", "waits  in Yard", "when “” is said", "is_ on"):
        assert GAPS.search(wrong)
    assert ChatCall(kind="chat", text="x").match == "is"


def a_book(**more: Any) -> Book:
    lanes = [{"id": "main", "name": "Yard"}, {"id": "side", "name": "Siding"}]
    house = {"cooldown_s": 5, **more.pop("house", {})}
    rewards = [{"id": "tea", "title": "Tea", "cost": 1250}]
    counts = [{"id": "sold", "name": "Sold", "goal": 100}]
    return book_from({"lanes": lanes, "house": house, "rewards": rewards, "counts": counts, **more})


def a_cue(**more: Any) -> Cue:
    return book_from(
        {**a_book().model_dump(mode="json"), "cues": [{"id": "c", "name": "C", "beats": [], **more}]}
    ).cues[0]


CALLS: list[tuple[dict[str, Any], str, str]] = [
    ({"kind": "reward", "reward": "tea"}, "Tea (1,250) is redeemed", "Tea (1,250)"),
    ({"kind": "reward", "reward": "gone"}, "a deleted reward is redeemed", "a deleted reward"),
    ({"kind": "chat", "match": "has_word", "text": "tea"}, "a message has the word “tea”", "has “tea”"),
    ({"kind": "chat", "match": "is", "text": "!tea"}, "a message is “!tea”", "“!tea”"),
    ({"kind": "tip", "from": 5, "to": 10}, "someone tips 5 to 10", ""),
    ({"kind": "tip", "from": 5}, "someone tips 5 or more", ""),
    ({"kind": "tip"}, "someone tips", ""),
    ({"kind": "follow"}, "someone follows", ""),
    ({"kind": "membership", "tier": 2}, "someone becomes a member of tier 2 or above", ""),
    ({"kind": "membership", "months_from": 12}, "someone becomes a member (12 or more months)", ""),
    (
        {"kind": "membership", "tier": 2, "months_from": 3, "months_to": 6, "gifts_from": 5, "gifts_to": 5},
        "someone becomes a member of tier 2 or above (3 to 6 months, 5 gifts)",
        "",
    ),
    ({"kind": "raid", "to": 20}, "a raid of up to 20 arrives", ""),
    ({"kind": "hook", "name": "Parcel office"}, "the hook Parcel office arrives", ""),
    ({"kind": "pad"}, "its pad is pressed", ""),
    ({"kind": "clock", "every_min": 10}, "every 10 minutes on air", ""),
    ({"kind": "clock", "at_min": 90}, "the stream reaches minute 90", ""),
    ({"kind": "clock", "at_time": "21:30"}, "it is 21:30 while live", ""),
    ({"kind": "count", "count": "sold", "goal": True}, "Sold reaches its goal", ""),
    ({"kind": "count", "count": "sold", "every": 10}, "Sold goes up by another 10", ""),
    ({"kind": "stream", "state": "ended"}, "the stream ends", ""),
    ({"kind": "scene", "scene": "Yard cam"}, "the scene switches to Yard cam", ""),
]


@pytest.mark.parametrize(("call", "said", "short"), CALLS, ids=lambda one: str(one)[:40])
def test_a_call_in_words(call: dict[str, Any], said: str, short: str) -> None:
    names = Names(a_book())
    assert (call_said(call, names), call_brief(call, names)) == (said, short or said)


@pytest.mark.parametrize(
    ("door", "more", "who", "pace", "differs"),
    [
        ({}, {}, "anyone", "once every 5 s", []),
        ({"cooldown_s": 5}, {}, "anyone", "once every 5 s", []),
        ({"cooldown_s": 0}, {}, "anyone", "with no cooldown", ["with no cooldown"]),
        ({"who": ["member"], "tier": 2}, {}, "members of tier 2", "once every 5 s", ["members of tier 2"]),
        (
            {"who": ["follower", "vip", "moderator"], "cooldown_s": 60, "viewer_cooldown_s": 3600, "cap_viewer": 2},
            {"lane": "side"},
            "followers, VIPs and moderators",
            "once a minute, each viewer once an hour, at most 2 per viewer",
            [
                "followers, VIPs and moderators",
                "once a minute",
                "each viewer once an hour",
                "at most 2 per viewer",
                "Siding",
            ],
        ),
        (
            {"scenes": ["Yard cam", "Workbench"], "categories": ["Gardening"], "cap_stream": 3},
            {"entry": "solo"},
            "anyone while Yard cam or Workbench is on in Gardening",
            "once every 5 s, at most 3 per stream",
            ["while Yard cam or Workbench is on in Gardening", "at most 3 per stream", "runs alone in Yard"],
        ),
        (
            {"only_if": [{"text_is": "train"}, {"live": True, "not": True}, {"scene": "Yard cam", "not": True}]},
            {},
            "anyone if the text is “train”, you are off air and the scene is not Yard cam",
            "once every 5 s",
            ["if the text is “train”, you are off air and the scene is not Yard cam"],
        ),
    ],
)
def test_a_door_in_words(door: dict[str, Any], more: dict[str, Any], who: str, pace: str, differs: list[str]) -> None:
    book, cue = a_book(), a_cue(door=door, **more)
    names = Names(book)
    assert (who_said(cue, book, names), pace_said(cue, book)) == (who, pace)
    assert exceptions_said(cue, book, names) == differs


def test_what_counts_is_the_cues_own_or_the_houses() -> None:
    live = a_book(house={"air": "live", "shared_cooldown_s": 9, "viewer_cooldown_s": 30, "most_text": 80})
    assert effective(a_cue(), live) == (9, 30, (9, 30, True), "live", "main", "Yard", 80)
    own = a_cue(door={"air": "off", "cooldown_s": 0, "text": {"kind": "any", "max": 30}}, lane="side")
    assert effective(own, live) == (0, 30, (9, 30, True), "off", "side", "Siding", 30)
    names = Names(live)
    assert who_said(a_cue(), live, names) == "anyone while live" and exceptions_said(a_cue(), live, names) == []
    assert who_said(own, live, names) == "anyone while off air"
    assert exceptions_said(a_cue(door={"air": "any"}), live, names) == ["live or off air"], "not as the house has it"
    assert pace_said(a_cue(), live) == "once every 9 s for all cues together, each viewer once every 30 s"
    free = a_cue(door={"viewer_cooldown_s": 0})
    assert (
        exceptions_said(free, live, names) == ["each viewer with no cooldown"]
        and pace_said(free, live) == "once every 9 s for all cues together"
    )


def test_a_book_without_lanes_has_words_too() -> None:
    book = book_from({"cues": [{"id": "c", "name": "C", "beats": []}]})
    (cue,) = book.cues
    assert lane_said(cue, book) == "waits its turn in Main" and brief(cue, book, Names(book)) == "its pad"
    assert sentence(cue, book, Names(book), Noticed(book))[-2].words == "does nothing yet"


def test_a_whole_sentence_and_its_line_in_a_list() -> None:
    calls = [{"kind": "reward", "reward": "tea"}, {"kind": "chat", "match": "is", "text": "!tea"}]
    beats = [{"id": "a", "kind": "caption", "text": "{{text}}"}]
    cue = a_cue(name="Tea", calls=calls, beats=beats, door={"text": {"kind": "colour", "need": True}, "cooldown_s": 20})
    book = a_book()
    said = sentence(cue, book, Names(book), Noticed(book))
    assert "".join(part.words for part in said) == (
        "When Tea (1,250) is redeemed or a message is “!tea”, anyone can call it with a colour, once every 20 s; it waits its turn in Yard: "
        "shows the viewer’s text for 5 s."
    )
    assert [part.kind for part in said if part.kind != "plain"] == ["calls", "who", "text", "pace", "lane", "does"]
    often = a_cue(calls=[{"kind": "clock", "every_min": 10}])
    assert "".join(part.words for part in sentence(often, book, Names(book), Noticed(book))).startswith(
        "Every 10 minutes on air, anyone"
    )
    assert brief(cue, book, Names(book)) == "1,250 points or “!tea” · once every 20 s"
    assert text_said(a_cue(door={"text": {"kind": "any", "need": False}}).door.text) == "with optional text"
    assert [lane_said(a_cue(entry=entry), book) for entry in ("queue", "refuse")] == [
        "waits its turn in Yard",
        "runs only when free in Yard",
    ]


def test_a_reward_in_words() -> None:
    assert (
        limits_said(Limits(45, 3, 1)) == "3 per stream, 1 per viewer, once every 45 s" and limits_said(Limits()) == ""
    )
    assert tonight_said(0, 0, "") == "not redeemed tonight"
    assert tonight_said(12, 2, "the line is full") == "12 redeemed tonight, 2 refunded (the line is full)"
    stamps = [
        stamp_said(*state)
        for state in ((True, True, False), (True, True, True), (True, False, False), (False, False, False))
    ]
    assert stamps == ["", "paused", "not now", "off"]
    book = a_book()
    assert called_said("C", [a_cue()], Noticed(book)) == "Does nothing yet"
    assert called_said("Tea", [a_cue()], Noticed(book)) == "C: Does nothing yet"
    assert called_said("Tea", [], Noticed(book)).startswith("No cue")


def test_the_pages_say_it_the_same_way() -> None:
    """What a page says of a draft, it says itself; its tests read the same file."""
    says: dict[str, Any] = {"value": value_said, "keys": keys_said, "duration": seconds, "watching": watching}
    says["id"] = slug
    says["paths"] = lambda told: str(Property(told[0], tuple(told[1])))
    for what, cases in json.loads(SAME.read_text("utf-8")).items():
        assert [says[what](*told) for *told, _ in cases] == [words for *_, words in cases], what


def test_data_in_words() -> None:
    assert (data_said("calls", 1204), data_said("points", 1)) == ("1,204 calls in the ledger", "1 viewer’s points")
    assert data_note("nights", 12, 1) == "12 already here, 1 line can’t be read"
    assert (data_note("counts", 2, 0), data_note("calls", 0, 0)) == ("2 already running here", "")


@pytest.mark.parametrize(
    ("call", "said"),
    [
        (("let_in",), "let in"),
        (
            ("turned_away", "cooldown", "12 s of cooldown left", 300),
            "refused, 12 s of cooldown left, 300 points refunded",
        ),
        (("turned_away", "role"), "refused, not for this viewer's role"),
        (("ignored", "", "no such thing"), "ignored, no such thing"),
        (("let_in", "", "", 1, [{"what": "drop", "as": "stale"}]), "let in, waited too long, 1 point refunded"),
        (("let_in", "", "", 0, [{"what": "drop", "as": "hand"}]), "let in, dropped by hand"),
        (("let_in", "", "", 0, [{"what": "fail", "why": "the jar is empty"}]), "let in, the jar is empty"),
    ],
)
def test_what_became_of_a_call(call: tuple[Any, ...], said: str) -> None:
    assert verdict_said(*call) == said


@pytest.mark.parametrize(
    ("path", "said", "thing"),
    [
        ("broadcast/scene", "Scene", "the scene"),
        ("broadcast/source/Workbench/Mug/visible", "Mug in Workbench", "Mug"),
        ("broadcast/filter/Bench cam/Fog/on", "Bench cam, Fog", "Fog on Bench cam"),
        ("broadcast/filter/Bench cam/Tint/colour", "Bench cam, Tint colour", "Tint on Bench cam"),
        ("light/signal/level", "signal level", "signal"),
        ("avatar/expression/Cheer", "Face Cheer", "Face Cheer"),
        ("avatar/outfit", "Avatar’s outfit", "Avatar’s outfit"),
        ("voice/pitch", "Voice box pitch", "Voice box pitch"),
        ("keys/ControlLeft+KeyM", "Control+M", "Control+M"),
        ("reward/tea/on", "Tea available", "Tea"),
        ("reward/tea/cost", "Tea price", "Tea"),
        ("reward/gone/paused", "gone paused", "gone"),
        ("sound/others", "Other sounds", "other sounds"),
        ("things/yard/vane/angle", "vane angle", "vane angle"),
        ("kettle/lid", "kettle lid", "kettle lid"),
    ],
)
def test_a_property_in_words(path: str, said: str, thing: str) -> None:
    rewards = book_from({"rewards": [{"id": "tea", "title": "Tea", "cost": 100}]}).rewards
    assert (property_said(path, rewards), thing_said(path, rewards)) == (said, thing)
