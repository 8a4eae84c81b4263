"""Tables exported and imported: rewards and balances in any spreadsheet's form; a refused row costs only itself."""

from __future__ import annotations

import contextlib
import csv
import io
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from cuejar.core.book.book import Book, Price, Reward
from cuejar.core.book.files import book_from, book_json
from cuejar.core.kinds.table import KINDS
from cuejar.core.parts.base import BookError
from cuejar.core.playbill.bill import build
from cuejar.core.playbill.pages import html, markdown
from cuejar.core.rules import pointlist, rewardlist
from cuejar.core.rules.price import Prices, PriceState, cost_now, forecast, sold

BOOK = book_from({
    "rewards": [
        {"id": "tea", "title": "Tea, with milk", "cost": 100, "tags": ["warm"], "colour": "#aa0000", "prompt": '"Milk?"'},
        {"id": "horn", "title": "=HORN()", "cost": 20, "on": False, "review": True, "text": True},
        {"id": "bare", "title": "Bare", "cost": 5},
        {"id": "own", "title": "Own", "cost": 5, "elsewhere": True},
    ],
    "cues": [
        {"id": "tea", "name": "Tea", "calls": [{"kind": "reward", "reward": "tea"}], "door": {"cap_stream": 9, "cooldown_s": 2.5, "tier": 2}},
        {"id": "horn", "name": "Horn", "calls": [{"kind": "reward", "reward": "horn"}]},
    ],
    "sets": [{"id": "bench", "name": "Only at the bench", "rewards": ["tea", "horn"]}],
})  # fmt: skip


def taken(text: str, book: Book = BOOK) -> tuple[dict[str, str], Book]:
    reading = rewardlist.read(text, book)
    return {row.title: row.what for row in reading.rows}, book_from(reading.data)


def test_what_was_written_changes_nothing_when_it_is_read() -> None:
    text = rewardlist.written(BOOK)
    said, book = taken(text)
    assert set(said.values()) == {"same", "refused"} and said["Own"] == "refused"
    assert book_json(book) == book_json(BOOK)
    rows = list(csv.DictReader(io.StringIO(text)))
    assert rows[0]["max_per_stream"] == "9" and rows[0]["cooldown_s"] == "2.5" and rows[0]["set"] == "Only at the bench"
    assert rows[1]["title"] == "'=HORN()", "no spreadsheet takes it for a formula"


@pytest.mark.parametrize("sign", [";", ",", "\t"])
@pytest.mark.parametrize("end", ["\r\n", "\n"])
def test_it_is_read_as_a_spreadsheet_writes_it(sign: str, end: str) -> None:
    out = io.StringIO()
    table = csv.writer(out, delimiter=sign, lineterminator=end)
    table.writerow(["Cost", "TITLE", "max per stream", "set"])
    table.writerow(["1 250", "tea, WITH milk", "", ""])
    table.writerow(["75.0", "Night mail", "3", "Trains, only at the bench"])
    table.writerow(["", "", "", ""])
    said, book = taken("\ufeff" + out.getvalue())
    assert said == {"tea, WITH milk": "changed", "Night mail": "new"}
    tea, new = book.rewards[0], book.rewards[-1]
    assert (tea.cost, tea.title, tea.tags, tea.prompt) == (1250, "Tea, with milk", ["warm"], '"Milk?"'), (
        "what is not named stays"
    )
    assert book.cues[0].door.cap_stream is None and book.cues[0].door.tier == 2
    assert (new.cost, book.cues[-1].door.cap_stream, book.cues[-1].calls[0].model_dump()["reward"]) == (
        75,
        3,
        "night-mail",
    )
    assert {one.name: one.rewards for one in book.sets} == {
        "Only at the bench": ["horn", "night-mail"],
        "Trains": ["night-mail"],
    }


@pytest.mark.parametrize(
    ("row", "why"),
    [
        ({"title": "", "cost": "5"}, "It has no title."),
        ({"title": "Tea, with milk", "cost": "-5"}, "“-5” isn’t a whole number."),
        ({"title": "Tea, with milk", "cost": "0"}, "cost: 0 must be at least 1."),
        ({"title": "Tea, with milk", "on": "perhaps"}, "“perhaps” is neither yes nor no."),
        ({"title": "Tea, with milk", "colour": "grumble"}, "“grumble” isn’t a colour."),
        ({"title": "Tea, with milk", "cooldown_s": "1e9"}, "1e9 s isn’t between 0 and one day."),
        ({"title": "Bare", "max_per_stream": "3"}, "Its limits belong to its cue’s door, and it calls no cue."),
        ({"title": "Own", "cost": "3"}, "It was made elsewhere and can’t be changed here."),
        ({"title": "New one"}, "A new reward needs a cost."),
        ({"title": "x" * 300, "cost": "5"}, "title: "),
    ],
)
def test_a_row_that_cannot_be_taken_is_refused_with_why(row: dict[str, str], why: str) -> None:
    out = io.StringIO()
    table = csv.DictWriter(out, list(rewardlist.COLUMNS))
    table.writeheader()
    columns = [name for name in rewardlist.COLUMNS if name in row]
    text = ",".join(columns) + "\n" + ",".join(f'"{row[name]}"' for name in columns) + '\n"Horn two",7'[:0] + "\n"
    reading = rewardlist.read(text, BOOK)
    assert [one.what for one in reading.rows] == (["refused"] if row.get("title") or "cost" in row else [])
    assert reading.rows[0].problem.startswith(why)
    assert reading.data == book_json(BOOK), "nothing of it is taken"


def test_the_same_title_twice_and_no_table_at_all() -> None:
    said = rewardlist.read("title,cost\nA,1\n a ,2\n", BOOK).rows
    assert [row.what for row in said] == ["new", "refused"] and "line 2" in said[1].problem
    for text, why in (
        ("", "is empty"),
        ("name,cost\nA,1", "no column “title”"),
        ("title,cost\n" + "A,1\n" * 2_001, "more than"),
    ):
        with pytest.raises(BookError, match=why):
            rewardlist.read(text, BOOK)


@given(st.text(max_size=200))
def test_no_text_breaks_it(text: str) -> None:
    for table in ("title,cost,set,colour\n" + text, text):
        with contextlib.suppress(BookError):
            book_from(rewardlist.read(table, BOOK).data)
        with contextlib.suppress(BookError):
            pointlist.read(table.replace("title", "viewer").replace("cost", "points"), {"v1": "owlpost"}, {})


def test_balances_come_back_and_odd_ones_are_refused() -> None:
    names, held = {"v1": "owlpost", "v2": "=Jo", "v3": "twin", "v4": "Twin"}, {"v1": 5, "v2": 70}
    text = pointlist.written((viewer, names[viewer], held[viewer]) for viewer in held)
    assert [row.what for row in pointlist.read(text, names, held)] == ["same", "same"]
    rows = pointlist.read("name;points\nOWLPOST;80\nTwin;1\nnobody;1\nowlpost;many\n", names, held)
    assert [(row.viewer, row.held, row.was, row.what) for row in rows[:1]] == [("v1", 80, 5, "changed")]
    assert [row.problem for row in rows[1:]] == [
        "Two viewers have that name. Use the id of the one you mean.",
        "This viewer doesn’t exist.",
        "“many” isn’t a number of points.",
    ]
    assert pointlist.read("viewer,points\nyard:v9,3\n", names, held)[0].what == "new"


@pytest.mark.parametrize(
    ("price", "per_hour", "line"),
    [
        ({}, 30, [(0, 100)]),
        ({"kind": "first", "then": 40}, 6, [(0, 100), (300_000, 40)]),
        ({"kind": "first", "then": 40}, 0, [(0, 100)]),
        ({"kind": "first", "then": 40}, 1, [(0, 100), (1_800_000, 40)]),
    ],
)
def test_the_price_of_the_coming_hour(price: dict[str, Any], per_hour: float, line: list[tuple[int, int]]) -> None:
    assert forecast(Reward(id="r", title="R", cost=100, price=Price.model_validate(price)), per_hour) == line


def test_a_rising_price_is_forecast_as_it_would_be() -> None:
    """Each point of the curve is the rule's price at that instant, and no change between two points is missing."""
    reward = Reward(
        id="r", title="R", cost=100, price=Price(kind="rising", factor=1.5, half_life_s=600, step=5, most=300)
    )
    line = forecast(reward, 12)
    state, steps = PriceState(), dict(line)
    shown = 100
    for minute_ms in range(0, 3_600_000, 1_000):
        if minute_ms % 300_000 == 150_000:
            sold(reward, state, minute_ms)
        since = [at for at, _ in line if at <= minute_ms][-1]
        shown = steps[since]
        assert abs(shown - cost_now(reward, state, minute_ms)) <= 5, minute_ms
    assert line[1] == (150_000, 150) and max(cost for _, cost in line) <= 300 and len(line) > 20


@pytest.mark.parametrize(("sold_at", "given_back_at"), [(0, 0), (0, 600_000), (60_000, 1_234_567)])
def test_a_refund_takes_its_rise_out_of_the_price(sold_at: int, given_back_at: int) -> None:
    """Afterwards the price is as if that one had never been, also on top of an earlier one, as it fades."""
    reward = Reward(id="r", title="R", cost=100, price=Price(kind="rising", factor=1.5, half_life_s=600, most=1_000))
    for before in (0, 2):
        with_it, without = Prices(), Prices()
        for prices in (with_it, without):
            prices.take(Book(rewards=[reward]))
            for _ in range(before):
                prices.sold("r", 0)
        assert with_it.sold("r", sold_at) and with_it.refunded("r", given_back_at, sold_at)
        a, b = with_it.states["r"], without.states["r"]
        assert a.sold == b.sold == before
        assert [cost_now(reward, a, given_back_at + more) for more in (0, 7_000, 200_000)] == [
            cost_now(reward, b, given_back_at + more) for more in (0, 7_000, 200_000)
        ]
    assert not with_it.refunded("another", 0, 0)


def test_every_kind_of_beat_has_words_for_viewers_or_none() -> None:
    """What viewers notice is described; what they don't (keys, hooks, counts, switches of rewards) isn't."""
    quiet = {name for name, kind in KINDS.items() if kind.tells.__name__ == "_not_told"}
    assert quiet == {"keys", "tap", "hook", "count", "reward"}


def test_a_playbill_says_what_the_book_does() -> None:
    jar = {"id": "posters", "name": "Posters", "entries": [{"value": "a"}, {"value": "b"}, {"value": "c", "on": False}]}
    beats = [
        {"id": "p", "kind": "picture", "media": {"jar": "posters"}, "length": {"s": 4}},
        {"id": "s", "kind": "sound", "media": {"file": "bell"}},
        {"id": "k", "kind": "tap", "combo": "F9"},
    ]
    book = book_from({
        "media": [{"id": "bell", "name": "Platform bell"}], "jars": [jar], "points": {"on": True, "name": "tokens"},
        "rewards": [{"id": "tea", "title": "Tea", "cost": 1200, "price": {"kind": "first", "then": 40}}, {"id": "off", "title": "Off", "cost": 1, "on": False},
                    {"id": "bare", "title": "Bare", "cost": 5}],
        "cues": [{"id": "tea", "name": "Tea", "beats": beats, "door": {"who": ["member"], "cap_stream": 3}, "calls": [{"kind": "reward", "reward": "tea"}]},
                 {"id": "say", "name": "Say", "beats": beats[2:], "calls": [{"kind": "chat", "text": "!say", "cost": 50}]}],
        "playbill": {"words": {"foot": "Mind the *gap*.", "reward/bare": "By hand."}},
    })  # fmt: skip
    bill = build(book)
    tea, bare = bill.rewards
    assert tea.does.said == "Shows one of 2 pictures for 4 s, plays Platform bell."
    assert (
        tea.price == "1,200 (2 h of watching), then 40 after the first of the stream"
        and tea.limits == "3 per stream, for members"
    )
    assert (bare.does.default, bare.does.said) == ("The streamer does this.", "By hand.")
    assert (bill.chats[0].price, bill.chats[0].does.said) == ("50 tokens", "The streamer does this.")
    text = markdown(bill)
    assert "Mind the \\*gap\\*." in text and "\n\n\n" not in text and "Off" not in text
    muted = book_from({**book_json(book), "house": {"switches": {"sound": False}}})
    assert build(muted).rewards[0].does.said == "Shows one of 2 pictures for 4 s."
    assert "<script" not in html(bill) and "Tea" in html(bill)
