"""Draws of viewers: who may be drawn, how likely, what the drawn one gets, and what happens if nobody is there."""

from __future__ import annotations

from collections import Counter
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from cuejar.core.book.audience import Audience
from cuejar.core.book.book import Book
from cuejar.core.book.files import book_from, book_json
from cuejar.core.engine.engine import Engine
from cuejar.core.engine.state import engine_from, snapshot_of
from cuejar.core.engine.view import View
from cuejar.core.facts import happenings as h
from cuejar.core.facts import orders as o
from cuejar.core.nights.generator import night_of
from cuejar.core.parts.base import BookError
from cuejar.core.rules.crowd import MOST, Crowd, Entrant, draw_viewer, shares_now
from cuejar.core.rules.draw import JarState, pick
from tests.core.books import VIEWERS
from tests.core.whole import whole_books, whole_nights

OWL, SUE, JO = (
    h.Viewer("v-owl", "owlpost"),
    h.Viewer("v-sue", "saltmarsh_sue", ("member",), 2),
    h.Viewer("v-jo", "bramble_jo", ("follower",)),
)
BOT, STREAMER = h.Viewer("v-bot", "ticket_machine"), h.Viewer("v-me", "halt", ("broadcaster",))
DRAW = {"id": "draw", "kind": "draw", "jar": "crowd", "spin_s": 2}
AFTER = {"start": {"after": "draw"}, "whose": "drawn"}
ROLL = {
    "id": "dice",
    "kind": "chance",
    "dice": {"count": 2},
    "outcomes": [{"id": "double", "when": "pair"}, {"id": "other"}],
    **AFTER,
}
MINUTE = 60_000


def show(*beats: dict[str, Any], draws: dict[str, Any] | None = None, rule: str = "any", **book: Any) -> Engine:
    """Returns an engine with one reward that draws from a jar of viewers, live."""
    cue = {"id": "signalman", "name": "Signalman of the night", "entry": "overlap", "beats": [DRAW, *beats],
           "calls": [{"kind": "reward", "reward": "r"}]}  # fmt: skip
    engine = Engine(book_from({
        "rewards": [{"id": "r", "title": "R", "cost": 10, "closed": "refund"}], "cues": [cue, *book.pop("cues", [])],
        "jars": [{"id": "crowd", "kind": "viewers", "rule": rule, "draws": draws or {}, "entries": book.pop("entries", [])}], **book,
    }), 7)  # fmt: skip
    engine.handle(h.Stream("live"), 0)
    return engine


def wrote(engine: Engine, at: int, *viewers: h.Viewer) -> None:
    for viewer in viewers:
        engine.handle(h.Chat(viewer, "hello"), at)


def redeem(engine: Engine, at: int, viewer: h.Viewer = OWL, number: int = 1) -> list[o.Order]:
    told = [order for _, order in engine.handle(h.Redemption(f"x{number}", "r", viewer), at)]
    return told + [order for _, order in engine.advance(at + 30_000)]


def of(orders: list[o.Order], kind: type) -> list[Any]:
    return [order for order in orders if isinstance(order, kind)]


def test_whoever_is_there_and_is_meant_is_in_the_draw_and_nobody_else() -> None:
    house = {"shut_out": ["Saltmarsh_SUE"], "bots": ["ticket_machine"]}
    engine = show(house=house)
    wrote(engine, 0, JO)
    wrote(engine, 12 * MINUTE, SUE, BOT, STREAMER, OWL, VIEWERS[1])
    (draw,) = of(redeem(engine, 13 * MINUTE), o.Draw)
    assert draw.weights == [(VIEWERS[1].id, 1.0)], "not the caller, a bot, the streamer, a blocked one, one who went"
    engine.handle(h.Present((JO, SUE)), 13 * MINUTE + 1)
    engine.handle(h.Present(left=(VIEWERS[1].id,)), 13 * MINUTE + 2)
    (draw,) = of(redeem(engine, 13 * MINUTE + 3, number=2), o.Draw)
    assert draw.drawn == [JO.id] and draw.weights == [(JO.id, 1.0)], "the channel told who came and who left"


FILTERS: list[tuple[dict[str, Any], list[h.Viewer]]] = [
    ({"roles": ["member"]}, [SUE]),
    ({"roles": ["member"], "tier": 3}, []),
    ({"roles": ["follower", "member"]}, [JO, SUE]),
    ({"points_from": 40}, [SUE]),
    ({"who": "redeemed"}, [JO]),
    ({"who": "members"}, [SUE]),
    ({"caller": True}, [JO, SUE, OWL]),
    ({"within_min": 5}, [SUE]),
    ({"weights": {"member": 0}}, [JO]),
    ({"who": "list"}, [SUE, h.Viewer("stranger", "stranger")]),
]


@pytest.mark.parametrize(("draws", "meant"), FILTERS)
def test_each_filter(draws: dict[str, Any], meant: list[h.Viewer]) -> None:
    entries = [{"value": "SALTMARSH_sue"}, {"value": "stranger"}, {"value": "v-sue"}, {"value": "v-jo", "on": False}]
    engine = show(draws=draws, entries=entries, points={"on": True, "per_min": 0})
    engine.handle(h.Redemption("earlier", "r", JO), 0)
    wrote(engine, 9 * MINUTE, SUE)
    engine.handle(h.GivePoints(SUE.id, 40), 9 * MINUTE)
    drawn = of(redeem(engine, 9 * MINUTE + 1), o.Draw)
    assert [{who for who, _ in draw.weights} for draw in drawn] == [{one.id for one in meant}] * bool(meant)


def test_only_those_who_are_here_for_the_first_time_tonight() -> None:
    engine = show(draws={"new_only": True})
    wrote(engine, 0, JO)
    engine.handle(h.Stream("ended"), 1)
    engine.handle(h.Stream("live"), 2)
    wrote(engine, 3, JO, SUE)
    (draw,) = of(redeem(engine, 4), o.Draw)
    assert draw.weights == [(SUE.id, 1.0)]


def test_what_follows_is_for_the_drawn_one() -> None:
    """They are named and read, their roles count, they get the points, the win, the count's and the other cue's call."""
    beats: list[dict[str, Any]] = [
        {"id": "name", "kind": "caption", "text": "{{viewer}}: {{drawn.name}}, {{drawn.times}}, {{drawn.draw}}", "length": {"s": 1}, **AFTER},
        {"id": "caller", "kind": "caption", "text": "{{viewer}} called {{drawn.name}}", "length": {"s": 1}},
        {"id": "member", "kind": "caption", "text": "a member", "only_if": [{"role": "member"}], "length": {"s": 1}, **AFTER},
        {"id": "gold", "kind": "points", "give": 25, **AFTER},
        {"id": "prize", "kind": "win", "what": "A lamp for {{viewer}}", **AFTER},
        {"id": "fire", "kind": "fire", "cue": "greet", **AFTER},
        {"id": "tea", "kind": "count", "name": "tea", **AFTER},
    ]  # fmt: skip
    greet = {
        "id": "greet",
        "name": "Greet",
        "entry": "overlap",
        "beats": [{"id": "hi", "kind": "caption", "text": "hello {{viewer}}", "length": {"s": 1}}],
    }
    tea = {**greet, "id": "tea", "name": "Tea", "calls": [{"kind": "count", "count": "tea", "every": 1}]}
    engine = show(*beats, cues=[greet, tea], points={"on": True, "per_min": 0}, counts=[{"id": "tea", "name": "Tea"}])
    wrote(engine, 0, SUE)
    told = redeem(engine, 1)
    shown = {show.beat: show.value for show in of(told, o.Show) if show.beat != "hi"}
    assert shown == {
        "name": "saltmarsh_sue: saltmarsh_sue, 1, saltmarsh_sue",
        "caller": "owlpost called saltmarsh_sue",
        "member": "a member",
    }
    assert [show.value for show in of(told, o.Show) if show.beat == "hi"] == ["hello saltmarsh_sue"] * 2
    assert [(paid.viewer, paid.what, paid.amount) for paid in of(told, o.Paid)] == [(SUE.id, "given", 25)]
    assert [won[2:] for won in of(told, o.Won)] == [(SUE.id, "saltmarsh_sue", "A lamp for saltmarsh_sue")]
    (roll,) = of(told, o.Roll)
    assert (
        roll.outcome == "drawn"
        and roll.look["drawn"] == {"id": SUE.id, "name": "saltmarsh_sue"}
        and roll.until == 2_001
    )
    wrote(engine, 40_000, SUE)
    again = {show.beat: show.value for show in of(redeem(engine, 40_001, number=2), o.Show)}
    assert again["name"].split(", ")[1] == "2", "how often they were drawn"


def test_nothing_is_prepared_that_is_not_known_yet() -> None:
    """A text with what is drawn or rolled in it is made when that is known, not before."""
    speech = {"kind": "speech", "length": {"s": 1}}
    engine = show(
        {**speech, "id": "plain", "text": "hello {{viewer}}"}, {**speech, "id": "named", "text": "hello {{ drawn.name }}"},
        {**speech, "id": "rolled", "text": "{{#rolled}}you rolled{{/rolled}}"}, {**speech, "id": "theirs", "text": "hello", **AFTER},
    )  # fmt: skip
    wrote(engine, 0, SUE)
    told = redeem(engine, 1)
    assert [(one.beat, one.text) for one in of(told, o.Prepare)] == [("plain", "hello owlpost")]
    assert {show.beat: show.value for show in of(told, o.Show)}["named"] == "hello saltmarsh sue"


def test_on_a_double_they_win_and_otherwise_they_do_not() -> None:
    prize = {
        "id": "prize",
        "kind": "win",
        "what": "a lamp",
        **AFTER,
        "start": {"after": "dice"},
        "only_if": [{"rolled": "double"}],
    }
    engine = show(ROLL, prize)
    won = Counter[tuple[bool, bool]]()
    for number in range(60):
        wrote(engine, number * 100_000, SUE)
        told = redeem(engine, number * 100_000 + 1, number=number)
        faces = next(roll.faces for roll in of(told, o.Roll) if roll.beat == "dice")
        won[faces[0] == faces[1], bool(of(told, o.Won))] += 1
    assert set(won) == {(True, True), (False, False)}


@pytest.mark.parametrize("says_so", [True, False])
def test_with_nobody_there_it_is_refunded_unless_something_else_happens(says_so: bool) -> None:
    nobody = {
        "id": "sorry",
        "kind": "caption",
        "text": "Nobody on the platform",
        "length": {"s": 1},
        "only_if": [{"rolled": "nobody"}],
    }
    for_them = {"id": "hi", "kind": "caption", "text": "hello", "length": {"s": 1}, "whose": "drawn"}
    told = redeem(show(for_them, *[nobody] * says_so), 1)
    assert [settle.as_ for settle in of(told, o.Settle)] == ["fulfilled" if says_so else "refunded"]
    assert [show.value for show in of(told, o.Show)] == ["Nobody on the platform"] * says_so
    assert [fail.why for fail in of(told, o.Fail)] == ["there was nobody to draw"] and not of(told, o.Roll)


def test_a_try_takes_nobodys_turn_wins_nothing_and_can_be_forced() -> None:
    prize = {"id": "prize", "kind": "win", "what": "a lamp", **AFTER}
    engine = show(prize, rule="bag")
    wrote(engine, 0, SUE, JO)
    for forced, names in (
        ({}, {"saltmarsh_sue", "bramble_jo"}),
        ({"draw": "BRAMBLE_jo"}, {"bramble_jo"}),
        ({"draw": "stranger"}, {"stranger"}),
    ):
        told = [order for _, order in engine.handle(h.Try("signalman", OWL, drawn=forced), engine.now + 1)]
        told += [order for _, order in engine.advance(engine.now + 10_000)]
        (roll,) = of(told, o.Roll)
        assert not of(told, o.Won) and roll.look["drawn"]["name"] in names
    assert {row.viewer.id: (row.share, row.times) for row in View(engine).in_the_draw("crowd")} == {
        "v-sue": (0.5, 0),
        "v-jo": (0.5, 0),
    }


def test_a_try_draws_somebody_even_with_nobody_there_unless_that_is_tried() -> None:
    engine = show()
    for forced, outcomes in ({}, ["drawn"]), ({"draw": "nobody"}, []):
        told = [order for _, order in engine.handle(h.Try("signalman", SUE, rolled=forced), engine.now + 1)]
        assert [roll.outcome for roll in of(told, o.Roll)] == outcomes
        assert [roll.look["drawn"]["name"] for roll in of(told, o.Roll)] == ["saltmarsh_sue"] * len(outcomes)


def test_a_bag_gives_everybody_one_turn_also_those_who_come_later() -> None:
    state, luck = JarState(), iter([0.99, 0.0, 0.4, 0.7, 0.2, 0.9, 0.5, 0.1]).__next__
    there, turns = [Entrant(SUE, 1.0), Entrant(JO, 3.0)], list[str]()

    def turn() -> None:
        odds = shares_now(there, "bag", state)
        assert sum(odds) == pytest.approx(1)
        drawing = draw_viewer(there, "bag", state, luck)
        assert drawing is not None and odds[[one.viewer.id for one in there].index(drawing.drawn.id)] > 0
        turns.append(drawing.drawn.id)

    turn()
    there.append(Entrant(OWL, 1.0))
    for _ in range(5):
        turn()
    assert sorted(turns[:3]) == sorted(turns[3:]) == ["v-jo", "v-owl", "v-sue"]
    assert all(a != b for a, b in zip(turns, turns[1:], strict=False))


@given(
    st.lists(st.sampled_from([0.5, 1.0, 3.0]), min_size=1, max_size=5),
    st.sampled_from(["any", "no_repeat", "bag"]),
    st.data(),
)
def test_odds_add_to_one_and_a_draw_can_be_repeated(weights: list[float], rule: str, data: st.DataObject) -> None:
    there = [Entrant(h.Viewer(f"v{i}", f"v{i}"), weight) for i, weight in enumerate(weights)]
    names = [one.viewer.id for one in there]
    had = data.draw(st.lists(st.sampled_from(names), unique=True))
    state = JarState(data.draw(st.none() | st.sampled_from(names)), had=had)
    odds = shares_now(there, rule, state)
    assert sum(odds) == pytest.approx(1)
    hits = Counter[str]()
    for number in range(400):
        drawing = draw_viewer(there, rule, JarState(state.last, had=list(had)), lambda n=number: (n + 0.5) / 400)
        assert drawing is not None and drawing.weights[pick(drawing.weights, drawing.number)][0] == drawing.drawn.id
        hits[drawing.drawn.id] += 1
    assert all(abs(hits[name] / 400 - share) <= 1 / 400 for name, share in zip(names, odds, strict=True))


@given(st.data())
def test_a_draw_never_takes_who_is_not_there_or_blocked(data: st.DataObject) -> None:
    """Any book, any night: who was there is reckoned once more from what happened."""
    book: Book = data.draw(whole_books())
    blocked = data.draw(st.sampled_from(VIEWERS))
    house = book.house.model_copy(update={"shut_out": [blocked.name.upper()]})
    cue = book.cues[0].model_copy(update={"beats": [*book_from({"jars": [{"id": "crowd", "kind": "viewers"}], "cues": [
        {"id": "c", "name": "C", "beats": [{"id": "always", "kind": "draw", "jar": "crowd"}]}]}).cues[0].beats]})  # fmt: skip
    book = book.model_copy(update={"house": house, "cues": [cue, *book.cues[1:]]})
    night = [
        (at, one)
        for at, one in data.draw(whole_nights(book))
        if not isinstance(one, (h.NewBook, h.Merge, h.Forget, h.Try))
    ]
    engine = Engine(book, 3)
    last: dict[str, int] = {}
    gone: set[str] = set()
    jars = {jar.id: jar for jar in book.jars}
    for at, happening in night:
        viewers = [
            *getattr(happening, "viewers", ()),
            *([viewer] if (viewer := getattr(happening, "viewer", None)) else []),
        ]
        orders = engine.handle(happening, at)
        for one in viewers:
            if isinstance(one, h.Viewer):
                last[one.id] = at
                gone.discard(one.id)
        gone |= {*getattr(happening, "left", ())} & set(last)
        for _, draw in orders:
            if isinstance(draw, o.Draw) and draw.jar == "crowd":
                ids = {who for who, _ in draw.weights}
                assert blocked.id not in ids and set(draw.drawn) <= ids <= set(last)
                if jars["crowd"].draws.who == "present":
                    assert not ids & gone and all(last[who] >= at - 10 * MINUTE for who in ids)
                assert draw.weights[pick(draw.weights, draw.numbers[0])][0] == draw.drawn[0]


def test_merged_viewers_are_one_and_a_forgotten_one_is_met_anew() -> None:
    engine = show(rule="bag")
    wrote(engine, 0, SUE, JO)
    engine.handle(h.Merge(SUE.id, JO.id), 1)
    wrote(engine, 2, SUE)
    assert [row.viewer.id for row in View(engine).in_the_draw("crowd")] == [JO.id]
    redeem(engine, 3)
    engine = engine_from(snapshot_of(engine))
    assert [row.times for row in View(engine).in_the_draw("crowd")] == [1, 0], "and the owl, who called"
    engine.handle(h.Forget(JO.id), 60_000)
    assert [row.viewer.id for row in View(engine).in_the_draw("crowd")] == [OWL.id]
    assert "v-jo" not in str(snapshot_of(engine)["resolver"]["crowd"]) + str(snapshot_of(engine)["jars"])


def test_merged_twice_they_are_still_one_with_one_turn() -> None:
    engine = show(rule="bag")
    wrote(engine, 0, SUE, JO, VIEWERS[1])
    (draw,) = of(redeem(engine, 1), o.Draw)
    first, others = draw.drawn[0], [one for one in (SUE.id, JO.id, VIEWERS[1].id) if one != draw.drawn[0]]
    engine.handle(h.Merge(others[0], others[1]), 40_000)
    engine.handle(h.Merge(first, others[0]), 40_001)  # Who is the other one by now.
    assert [(row.viewer.id, row.times) for row in View(engine).in_the_draw("crowd") if row.viewer != OWL] == [
        (others[1], 1)
    ]


def test_a_redemption_that_waits_for_approval_counts_as_redeemed() -> None:
    engine = show(draws={"who": "redeemed"})
    book = engine.book.model_copy(update={"rewards": [*engine.book.rewards, *book_from({"rewards": [{"id": "asks", "title": "A", "cost": 1, "review": True}]}).rewards]})  # fmt: skip
    engine.handle(h.NewBook(book_json(book)), 1)
    engine.handle(h.Redemption("waits", "asks", SUE), 2)
    assert [row.viewer.id for row in View(engine).in_the_draw("crowd")] == [SUE.id]


@pytest.mark.parametrize("who", [SUE, JO], ids=["drawn", "only on the board"])
def test_a_viewer_who_is_forgotten_stands_on_no_board(who: h.Viewer) -> None:
    engine = show(
        {"id": "hi", "kind": "caption", "text": "{{drawn.name}}", "length": {"s": 60}, **AFTER},
        draws={"weights": {"follower": 0.001}},
    )
    wrote(engine, 0, SUE, JO)
    engine.handle(h.Redemption("x1", "r", OWL), 1)
    engine.advance(3_000)
    assert who.name in str(snapshot_of(engine)["runs"])
    orders = [order for _, order in engine.handle(h.Forget(who.id), 3_001)]
    assert of(orders, o.Finish) and who.name not in str(snapshot_of(engine))


def test_a_draw_is_skipped_by_releasing_it() -> None:
    engine = show({"id": "hi", "kind": "caption", "text": "{{drawn.name}}", "length": {"s": 5}, **AFTER})
    wrote(engine, 0, SUE)
    (run,) = [start.run for _, start in engine.handle(h.Redemption("x1", "r", OWL), 1) if isinstance(start, o.Start)]
    told = [order for _, order in engine.handle(h.Release(run, "draw"), 500)]
    assert of(told, o.Prolong) == [o.Prolong(run, "draw", 500)] and [show.value for show in of(told, o.Show)] == [
        "saltmarsh_sue"
    ]


def test_draws_without_a_jar_share_nothing_with_a_jar_of_any_name() -> None:
    engine = show({"id": "again", "kind": "draw", "spin_s": 1}, rule="bag")
    wrote(engine, 0, SUE, JO)
    redeem(engine, 1)
    assert set(engine.resolver.jars.states) == {"crowd", "viewers/now"}


def test_only_those_who_were_there_last_are_remembered() -> None:
    crowd = Crowd()
    for number in range(MOST + 5):
        crowd.see(h.Viewer(f"v{number}", f"v{number}"), number, 1)
    assert len(crowd.met) == MOST and "v4" not in crowd.met and "v5" in crowd.met


def test_a_made_up_audience_is_drawn_from() -> None:
    book = show({"id": "prize", "kind": "win", "what": "a lamp", **AFTER}).book
    audience = Audience(id="friday", name="Friday", calls=40, viewers=15, length_min=30)
    drawn = Counter[str]()
    for seed in range(4):
        engine = Engine(book, seed)
        for at, happening in night_of(audience, book, seed):
            for _, order in engine.handle(happening, at):
                if isinstance(order, o.Draw):
                    assert order.drawn[0] in dict(order.weights)
                    drawn[order.drawn[0]] += 1
    assert drawn.total() > 40 and len(drawn) > 8


def test_a_draw_wants_a_jar_of_viewers() -> None:
    with pytest.raises(BookError, match="holds media, not viewers"):
        book_from({"jars": [{"id": "crowd"}], "cues": [{"id": "c", "name": "C", "beats": [DRAW]}]})
    with pytest.raises(BookError, match="no jar “elsewhere”"):
        book_from({"cues": [{"id": "c", "name": "C", "beats": [{**DRAW, "jar": "elsewhere"}]}]})
