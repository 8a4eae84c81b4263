"""Colours, words, prices, calls: tables of what people write and what it means."""

from __future__ import annotations

import random
from pathlib import Path
from typing import get_args, get_origin

import pytest
from coloraide import Color
from hypothesis import given
from hypothesis import strategies as st

from cuejar.core import kinds
from cuejar.core.book.book import LISTS as NAMES
from cuejar.core.book.book import Book, Reward, WordList
from cuejar.core.book.files import book_from
from cuejar.core.kinds.gear import CHANNEL, GEAR_KINDS
from cuejar.core.kinds.table import KINDS, AnyBeat
from cuejar.core.measures.colour import fade, random_colour, read_colour
from cuejar.core.parts.base import BookError
from cuejar.core.parts.callkinds import ChatCall
from cuejar.core.rules.calls import chat_matches, text_after
from cuejar.core.rules.price import Prices, PriceState, cost_now, minutes_to_earn, next_change, refunded, sold
from cuejar.core.rules.words import blocked, censored, filled, normalised
from cuejar.live.drivers.table import DRIVERS

COLOURS = {
    "teal": "#008080",
    "  Deep Sky Blue ": "#00bfff",
    "slate blue": "#6a5acd",
    "SlateBlue": "#6a5acd",
    "#FF6347": "#ff6347",
    "f63": "#ff6633",
    "00ff00": "#00ff00",
    "rgb(1, 2, 300)": "#0102ff",
    "hsl(120 50% 50%)": "#40bf40",
    "rojo": "#ff0000",
    "vermelho": "#ff0000",
    "grün": "#008000",
    "BLAU": "#0000ff",
    "giallo": "#ffff00",
    "tomatoe": "#ff6347",
    "rred": "#ff0000",
    "random": "random",
    "quite dark": None,
    "#12345": None,
    "rgb(url(x))": None,
    "mind the gap": None,
    "": None,
    "12": None,
    "<b>": None,
}


@pytest.mark.parametrize(("said", "hexed"), COLOURS.items())
def test_colours(said: str, hexed: str | None) -> None:
    reading = read_colour(said)
    assert (reading.hex if reading else None) == hexed


def test_a_near_miss_says_what_it_was_taken_for() -> None:
    reading = read_colour("tomatoe")
    assert reading is not None
    assert reading.taken_as == "tomato"


def test_random_colours_keep_away_from_the_one_showing() -> None:
    stream = random.Random(3).random
    hues = []
    for _ in range(300):
        shown = Color("#c0392b").convert("oklch")["hue"]
        hue = Color(random_colour(stream, "#c0392b")).convert("oklch")["hue"]
        hues.append(hue)
        assert min(abs(hue - shown), 360 - abs(hue - shown)) > 28
    assert max(hues) - min(hues) > 280
    assert fade("#ff0000", "#00ff00", 0) == "#ff0000"
    assert fade("#ff0000", "#00ff00", 1) == "#00ff00"


LISTS = [
    WordList.model_validate(
        {"id": "l", "name": "L", "entries": [{"text": "grot"}, {"text": "clink", "anywhere": True}]}
    )
]
FOUND = [
    "grot",
    "GROT!",
    "gr0t",
    "g r o t",
    "g.r.o.t",
    "grrrot",
    "hi grót you",
    "gгrot x gr0t",
    "xxclinkyy",
    "c l i n k",
    "cl1nk",
    "GR$T grot",
]
CLEAN = ["grotto", "grots up", "the groat", "tea at three", "g r o w", "clin king", "c link"]


@pytest.mark.parametrize("text", FOUND)
def test_blocked_words_are_seen_through(text: str) -> None:
    assert blocked(normalised(text), LISTS)


@pytest.mark.parametrize("text", CLEAN)
def test_innocent_words_pass(text: str) -> None:
    assert not blocked(normalised(text), LISTS)


def test_words_are_replaced_or_refuse() -> None:
    kind = WordList.model_validate({"id": "k", "name": "K", "replace": "tea", "entries": [{"text": "grot"}]})
    assert censored("a grot, a GROT", [kind]) == ("a tea, a tea", [])
    assert censored("a grot", LISTS)[1][0].entry == "grot"


@given(st.text(max_size=400))
def test_normalised_text_is_tame_and_stays_as_it_is(text: str) -> None:
    tame = normalised(text)
    assert tame == "\n".join(" ".join(line.split()) for line in tame.split("\n"))
    assert "\n\n" not in tame and tame.strip() == tame
    assert not any(c in tame for c in "\u200b\u202e\x00\t")
    assert normalised(tame) == tame


def test_templates_escape_for_where_they_go() -> None:
    assert filled("{{viewer}}: {{text}}", {"viewer": "a<b>", "text": '{{cost}} & "x"'}) == 'a<b>: {{cost}} & "x"'
    assert filled('{"t": "{{text}}"}', {"text": 'say "hi"\n'}, "json") == '{"t": "say \\"hi\\"\\n"}'
    assert filled("{{drawn.poster}}{{> /etc/passwd}}{{nothing}}", {"drawn": {"poster": "dusk"}}) == "dusk"


CHAT = [
    ("is", "!whistle", "  !WHISTLE ", True, ""),
    ("is", "!whistle", "!whistle now", False, ""),
    ("starts", "!tint", "!Tint  dark red", True, "dark red"),
    ("starts", "!tint", "!tinted", False, ""),
    ("has_word", "train", "a Train, please", True, ""),
    ("has_word", "train", "trainer", False, ""),
    ("contains", "train", "Trainer", True, ""),
    ("is", "café", "cafe\u0301", True, ""),
    ("is", "tea", "ＴＥＡ", True, ""),
]


@pytest.mark.parametrize(("match", "wanted", "said", "does", "text"), CHAT)
def test_chat_matches(match: str, wanted: str, said: str, does: bool, text: str) -> None:
    call = ChatCall.model_validate({"kind": "chat", match: wanted})
    assert chat_matches(call, said) is does
    if does and match == "starts":
        assert text_after(call, said) == text


def test_a_rising_price_by_hand() -> None:
    price = {"kind": "rising", "factor": 1.5, "half_life_s": 600, "step": 5, "most": 300}
    reward = Reward.model_validate({"id": "w", "title": "W", "cost": 100, "price": price})
    state = PriceState()
    assert cost_now(reward, state, 0) == 100
    sold(reward, state, 0)
    assert cost_now(reward, state, 0) == 150
    assert cost_now(reward, state, 600_000) == 125
    sold(reward, state, 600_000)
    assert cost_now(reward, state, 600_000) == 190
    refunded(reward, state, 600_000, 600_000)
    assert cost_now(reward, state, 600_000) == 125
    for _ in range(9):
        sold(reward, state, 600_000)
    assert cost_now(reward, state, 600_000) == 300
    at = 600_000
    while (change := next_change(reward, state, at)) is not None:
        assert cost_now(reward, state, change - 2) > cost_now(reward, state, change)
        at = change
    assert cost_now(reward, state, at) == 100
    assert minutes_to_earn(250, 10) == 25


@pytest.mark.parametrize("waited", [0, 1, 600_000, 1_234_567, 6_000_000])
def test_one_that_is_given_back_leaves_no_rise(waited: int) -> None:
    price = {"kind": "rising", "factor": 1.5, "half_life_s": 600, "step": 1, "most": 300}
    reward = Reward.model_validate({"id": "w", "title": "W", "cost": 100, "price": price})
    state, alone = PriceState(), PriceState()
    sold(reward, state, 1_000)
    refunded(reward, state, 1_000 + waited, 1_000)
    assert state.above == pytest.approx(0, abs=1e-9) and state.sold == 0
    sold(reward, alone, 1_000), sold(reward, state, 1_000 + waited), sold(reward, state, 1_000 + waited)
    refunded(reward, state, 1_000 + waited, 1_000 + waited)
    assert cost_now(reward, state, 1_000 + waited) == cost_now(reward, alone, 1_000) == 150


def test_the_first_of_a_stream_pays_another_price() -> None:
    prices = Prices()
    first = {"id": "w", "title": "W", "cost": 100, "price": {"kind": "first", "then": 40, "step": 1}}
    fixed = {"id": "f", "title": "F", "cost": 30, "on": False}
    prices.take(book_from({"rewards": [first, fixed]}))
    assert prices.properties(0) == [
        ("reward/w/on", True),
        ("reward/w/cost", 100),
        ("reward/f/on", False),
        ("reward/f/cost", 30),
    ]
    assert prices.sold("w", 1) and not prices.sold("f", 1) and not prices.sold("gone", 1)
    assert [prices.cost("w", 1), prices.cost("f", 1)] == [40, 30]
    assert prices.sold("w", 2) and prices.refunded("w", 3, 2)
    assert prices.cost("w", 3) == 40, "another had it first"
    assert prices.refunded("w", 4, 1) and not prices.refunded("f", 4, 1) and not prices.refunded("gone", 4, 1)
    assert prices.cost("w", 4) == 100, "nobody had it"
    assert prices.refunded("w", 5, 1) and prices.sold("w", 6)
    assert prices.cost("w", 6) == 40, "one that is given back twice does not make another first"

    again = Prices()
    again.take(book_from({"rewards": [first]}))
    again.restore(prices.snapshot())
    assert again.cost("w", 7) == 40
    assert prices.new_stream() == ["w"] and prices.cost("w", 8) == 100
    assert prices.next_change("w", 8) is None and prices.due_at("w") == -1
    prices.note_due("w", 50)
    assert prices.due_at("w") == 50


@pytest.mark.parametrize(("least", "most", "paid"), [(1, 120, 120), (160, 300, 160), (1, 150, 150), (1, 300, 150)])
def test_a_rising_price_stays_between_least_and_most(least: int, most: int, paid: int) -> None:
    price = {"kind": "rising", "factor": 1.5, "half_life_s": 600, "step": 5, "least": least, "most": most}
    prices = Prices()
    prices.take(book_from({"rewards": [{"id": "w", "title": "W", "cost": 100, "price": price}]}))
    assert prices.next_change("w", 0) is None, "it did not rise"
    prices.sold("w", 0)
    assert prices.cost("w", 0) == paid
    falls = prices.next_change("w", 0)
    assert falls == prices.due_at("w") or falls is None
    if paid == least:
        assert falls is None, "it lies below the least"
    else:
        assert falls and prices.cost("w", falls - 2) == paid > prices.cost("w", falls)


def test_every_kind_is_whole() -> None:
    """Names a kind that is missing from one of its places: its file, the table, the union, the drivers, the gear it
    needs.
    """
    files = {path.stem for path in Path(kinds.__file__).parent.glob("*.py")} - {"__init__", "base", "table", "gear"}
    assert files == set(KINDS), "each kind of beat is a file of its name"
    union = get_args(get_args(AnyBeat)[0])
    assert {model.model_fields["kind"].annotation.__args__[0] for model in union} == set(KINDS)
    assert set(DRIVERS) | {CHANNEL} == set(GEAR_KINDS)
    for kind in KINDS.values():
        assert kind.gear is None or kind.gear in GEAR_KINDS, kind.name
        assert kind.way != "hold" or "length" in kind.model.model_fields, kind.name


@pytest.mark.parametrize(
    ("beat", "path"),
    [
        ({"kind": "throw", "count": 0}, "cues[0].beats[0].count"),
        ({"kind": "caption", "text": 5}, "cues[0].beats[0].text"),
        ({"kind": "picture", "media": {"file": ""}}, "cues[0].beats[0].media.file"),
        ({"kind": "picture", "media": {"file": "m"}, "length": {"s": "long"}}, "cues[0].beats[0].length.s"),
        ({"kind": "hook", "hook": 7}, "cues[0].beats[0].hook"),
        ({"kind": "reward", "rewards": [], "on": True}, "cues[0].beats[0].rewards"),
    ],
)
def test_a_path_names_the_key_even_where_a_kind_has_the_same_name(beat: dict[str, object], path: str) -> None:
    with pytest.raises(BookError) as caught:
        book_from({"cues": [{"id": "c", "name": "C", "beats": [{"id": "b", **beat}]}]})
    assert [problem.path for problem in caught.value.problems] == [path]


def test_every_list_of_the_book_whose_entries_have_ids_is_edited_by_its_name() -> None:
    lists = {
        name: get_args(field.annotation)[0]
        for name, field in Book.model_fields.items()
        if get_origin(field.annotation) is list
    }
    assert {name for name, entry in lists.items() if "id" in entry.model_fields} == set(NAMES)
