"""Which rewards are out and open, what a channel is asked for them, and what a change by hand there means."""

from __future__ import annotations

from typing import Any

import pytest

from cuejar.core.book.book import Reward, TextRule
from cuejar.core.book.files import book_from, book_json
from cuejar.core.engine.engine import Engine
from cuejar.core.engine.view import View
from cuejar.core.facts import happenings as h
from cuejar.core.facts import orders as o
from cuejar.core.nights.scripts import report, script_from
from cuejar.core.rules.tickets import Limits, by_hand, cues_of, limits_of, prompt_for
from cuejar.core.words.rewards import hand_said

OWL = h.Viewer("v1", "owlpost", ("follower",))
LIVE = h.Stream("live", "Model railways")
SHORT = [{"id": "c", "kind": "caption", "text": "tea", "length": {"s": 1}}]


def tea(beats: list[dict[str, Any]] | None = None, **more: Any) -> dict[str, Any]:
    calls = [{"kind": "reward", "reward": "tea"}]
    return {"id": "tea", "name": "Tea", "calls": calls, "beats": SHORT if beats is None else beats, **more}


def engine(cues: list[dict[str, Any]], reward: dict[str, Any] | None = None, **book: Any) -> Engine:
    rewards = [{"id": "tea", "title": "Tea", "cost": 10, **(reward or {})}, {"id": "horn", "title": "Horn", "cost": 20}]
    made = Engine(book_from({"rewards": rewards, "cues": cues, **book}), 3, {})
    made.handle(h.Rest({"broadcast/scene": "Workbench"}), 0)
    return made


def paused(over: Engine) -> bool:
    return View(over).showing("reward/tea/paused") is True


def is_on(over: Engine, reward: str = "tea") -> Any:
    return View(over).showing(f"reward/{reward}/on")


LAMP = {"id": "l", "kind": "light", "fixtures": ["flood"], "colour": "#ffffff", "length": {"s": 5}}
SCENE = {"id": "s", "kind": "scene", "scene": "Yard cam", "length": {"s": 5}}
HOOK = {"id": "h", "kind": "hook", "hook": "box"}
GEAR = [
    {"id": "lamps", "kind": "lights", "fixtures": [{"id": "flood"}]},
    {"id": "cast", "kind": "broadcaster"},
    {"id": "box", "kind": "hook", "address": "http://127.0.0.1/x"},
]


@pytest.mark.parametrize(
    ("cue", "closes", "opens", "why"),
    [
        (tea(door={"scenes": ["Workbench"]}), h.Hand("broadcast/scene", "Yard cam"), h.Hand("broadcast/scene", "workbench"), "scene"),
        (tea(door={"categories": ["Model railways"]}), h.Stream("live", "Gardening"), LIVE, "category"),
        (tea(door={"air": "live"}), h.Stream("ended"), LIVE, "off_air"),
        (tea([LAMP]), h.GearState("lamps", "lost"), h.GearState("lamps", "back"), "gear_away"),
        (tea([HOOK]), h.GearState("box", "lost"), h.GearState("box", "back"), "gear_away"),
        (tea([SCENE]), h.GearState("cast", "lost"), h.GearState("cast", "back"), "gear_away"),
        (tea(door={"cap_stream": 1}), h.Redemption("r1", "tea", OWL), h.Stream("live"), "cap_stream"),
    ],
)  # fmt: skip
def test_a_reward_is_paused_while_its_cue_cannot_be_called(
    cue: dict[str, Any], closes: Any, opens: Any, why: str
) -> None:
    over = engine([cue], gear=GEAR)
    over.handle(LIVE, 0)
    assert not paused(over)
    orders = over.handle(closes, 1_000)
    assert paused(over) and View(over).closed()["tea"].reason == why
    assert [x for _, x in orders if isinstance(x, o.Set) and x.path == "reward/tea/paused"] == [
        o.Set("reward/tea/paused", True, None, None)
    ]
    if why == "cap_stream":
        over.handle(h.Stream("ended"), 2_000)
    over.handle(opens, 3_000)
    assert not paused(over) and not View(over).closed()


def test_it_stays_open_where_something_can_be_done_or_the_streamer_says_so() -> None:
    for cue, reward in (
        (tea([LAMP, *SHORT]), {}),
        (tea([LAMP]), {"closed": "refund"}),
        (tea([LAMP]), {"elsewhere": True}),
        (tea([]), {}),
    ):
        over = engine([cue], reward, gear=GEAR)
        over.handle(h.GearState("lamps", "lost"), 1)
        assert not paused(over)
    # One of two callable cues is enough; so is an exempt viewer.
    over = engine([tea(on=False), {**tea(), "id": "other"}])
    assert not paused(over)
    over = engine([tea(door={"cap_stream": 1, "spared": ["moderator"]})])
    over.handle(LIVE, 0)
    over.handle(h.Redemption("r1", "tea", OWL), 1)
    assert not paused(over)
    over = engine([])
    assert not paused(over), "a reward without a cue is for the streamer"


def test_house_and_cue_close_it_and_a_hand_at_the_channel_is_heard() -> None:
    over = engine([tea()])
    data = book_json(over.book)
    over.handle(h.NewBook({**data, "house": {"open": False}}), 1)
    assert paused(over) and View(over).closed()["tea"].reason == "house_closed"
    over.handle(h.Hand("reward/tea/paused", False), 2)
    assert not paused(over), "the hand wins"
    over.handle(h.NewBook({**data, "house": {"open": False, "volume": 3}}), 3)
    assert not paused(over), "as long as nothing changes"
    over.handle(h.NewBook(data), 4)
    over.handle(h.NewBook({**data, "cues": [{**data["cues"][0], "on": False}]}), 5)
    assert paused(over) and View(over).closed()["tea"].reason == "cue_off"


def test_a_cap_that_is_given_back_opens_it_again() -> None:
    over = engine([tea([{**SHORT[0], "length": {"s": 60}}], door={"cap_stream": 2})])
    over.handle(LIVE, 0)
    over.handle(h.Redemption("r1", "tea", OWL), 1)
    assert not paused(over)
    over.handle(h.Redemption("r2", "tea", OWL), 2)
    assert paused(over)
    over.handle(h.DropCall("r2"), 3)
    assert not paused(over)


def test_a_set_that_is_off_is_a_hold_on_its_rewards() -> None:
    song = {"id": "song", "name": "Song", "beats": [
        {"id": "off", "kind": "reward", "sets": ["between"], "rewards": ["tea"], "on": False, "length": {"s": 5}}]}  # fmt: skip
    happy = {"id": "happy", "name": "Happy", "entry": "overlap", "beats": [
        {"id": "on", "kind": "reward", "sets": ["bench"], "on": True, "length": {"s": 10}}]}  # fmt: skip
    sets = [
        {"id": "between", "name": "Between songs", "rewards": ["tea", "horn"]},
        {"id": "bench", "name": "Only at the bench", "rewards": ["horn"], "scenes": ["Workbench"]},
    ]
    over = engine([tea(), song, happy], sets=sets)
    assert is_on(over) is True
    over.handle(h.Pad("song"), 0)
    assert (is_on(over), is_on(over, "horn")) == (False, False)
    over.handle(h.Hand("broadcast/scene", "Yard cam"), 1_000)
    over.handle(h.Pad("happy"), 2_000)
    assert is_on(over, "horn") is True, "the last lies on top"
    over.advance(6_000)
    assert (is_on(over), is_on(over, "horn")) == (True, True), "the song is over"
    over.advance(13_000)
    assert is_on(over, "horn") is False, "not at the bench"
    assert View(over).at_rest and View(over).held()[0].cue == "Only at the bench"
    over.handle(h.Hand("reward/horn/on", True), 14_000)
    assert is_on(over, "horn") is True, "a hand at the channel wins"
    over.handle(h.Hand("broadcast/scene", "Workbench"), 15_000)
    over.handle(h.Hand("broadcast/scene", "Yard cam"), 16_000)
    assert is_on(over, "horn") is False, "until the set goes off the next time"
    data, empty = book_json(over.book), {"id": "bench", "name": "Only at the bench"}
    over.handle(h.NewBook({**data, "sets": [{**sets[0], "on": False}, empty]}), 17_000)
    assert (is_on(over), is_on(over, "horn")) == (False, False), "switched off by hand"
    over.handle(h.NewBook({**data, "sets": [{**sets[0], "on": False, "rewards": ["horn"]}, empty]}), 18_000)
    assert (is_on(over), is_on(over, "horn")) == (True, False), "taken out of it"
    over.handle(h.NewBook({**data, "sets": [{**empty, "id": "between"}, empty]}), 19_000)
    assert (is_on(over), is_on(over, "horn")) == (True, True)


def test_a_set_is_off_while_a_scene_shows_that_is_not_for_it() -> None:
    over = engine([tea()], sets=[{"id": "day", "name": "By day", "rewards": ["tea"], "off_scenes": ["Night mail"]}])
    assert is_on(over) is True, "the scene is not known"
    over.handle(h.Hand("broadcast/scene", "NIGHT mail"), 1_000)
    assert is_on(over) is False
    over.handle(h.Hand("broadcast/scene", "Yard cam"), 2_000)
    assert is_on(over) is True and View(over).at_rest


def test_a_reward_that_was_made_elsewhere_calls_its_cue_and_is_not_settled() -> None:
    over = engine([tea()], {"elsewhere": True, "review": True})
    asked = [x for _, x in over.handle(h.Redemption("r1", "tea", OWL), 0)]
    assert o.AskReview("r1", 10) in asked
    orders = [x for _, x in over.handle(h.Review("r1", True), 1)]
    assert any(isinstance(x, o.Start) for x in orders) and not any(isinstance(x, o.Settle) for x in orders)
    over.handle(h.Redemption("r2", "tea", OWL), 2)
    assert not any(isinstance(x, o.Settle) for _, x in over.handle(h.Review("r2", False), 3))


def test_what_waited_for_approval_has_its_line_whatever_becomes_of_it() -> None:
    over = engine([tea()], {"review": True})
    for call in ("r1", "r2"):
        over.handle(h.Redemption(call, "tea", OWL, "mind the gap"), 0)
    whole = o.Arrived("redemption", OWL, "mind the gap", "tea")
    for ok, said in ((True, ("let_in", None)), (False, ("turned_away", "sent_back"))):
        timed = over.handle(h.Review("r1" if ok else "r2", ok), 1)
        line = next(one for _, one in timed if isinstance(one, o.Verdict))
        assert (line.verdict, line.reason, line.arrived, line.cost) == (*said, whole, 10)
    assert o.Settle("r2", "refunded") in [one for _, one in timed]
    assert over.handle(h.Review("r2", False), 2) == [], "once"


@pytest.mark.parametrize(
    ("rule", "asks", "prompt"),
    [
        (None, False, ""),
        (None, True, "Your words, up to 500 characters"),
        ({"kind": "colour"}, True, "Name a colour: teal, brick red, #2a9d8f"),
        ({"kind": "number", "range": [1, 10]}, True, "A number from 1 to 10"),
        ({"kind": "number"}, True, "A whole number"),
        ({"kind": "choice", "choices": ["Up", "Down"]}, True, "Up or Down"),
        ({"kind": "choice", "choices": ["Up", "Down", "Round"]}, True, "Up, Down or Round"),
        ({"min": 5, "max": 80}, True, "Your words, 5 to 80 characters"),
        ({"max": 900}, False, "Your words, up to 500 characters"),
    ],
)
def test_the_prompt_writes_itself(rule: dict[str, Any] | None, asks: bool, prompt: str) -> None:
    assert prompt_for(TextRule.model_validate(rule) if rule else None, 500, asks) == prompt


def test_a_prompt_of_many_choices_fits() -> None:
    many = TextRule(kind="choice", choices=[f"Platform {n}" for n in range(60)])
    assert len(prompt_for(many, 500, True)) <= 400 and prompt_for(many, 500, True).endswith(" …")


@pytest.mark.parametrize(
    ("cue", "house", "limits"),
    [
        (tea(door={"cooldown_s": 45, "cap_stream": 9, "cap_viewer": 2}), {}, Limits(45, 9, 2)),
        (tea(), {"cooldown_s": 7}, Limits(7)),
        (tea(door={"cooldown_s": 0}), {"cooldown_s": 7}, Limits()),
        (tea(), {"cooldown_s": 7, "shared_cooldown_s": 9}, Limits()),
        (tea(door={"cooldown_s": 45, "cooldown_from": "finished", "cap_stream": 9}), {}, Limits(0, 9)),
        (tea(door={"cap_stream": 9, "spared": ["vip"]}), {}, Limits()),
        (
            {**tea(door={"cap_stream": 9}), "calls": [{"kind": "reward", "reward": "tea"}, {"kind": "follow"}]},
            {},
            Limits(),
        ),
    ],
)
def test_limits_that_mean_the_same_at_the_channel(cue: dict[str, Any], house: dict[str, Any], limits: Limits) -> None:
    book = book_from({"rewards": [{"id": "tea", "title": "Tea", "cost": 10}], "cues": [cue], "house": house})
    assert limits_of(cues_of(book)["tea"], book) == limits


@pytest.mark.parametrize(
    ("price", "sold", "cost", "now"),
    [
        ({}, 0, 400, {"cost": 400}),
        ({"kind": "first", "then": 90}, 0, 400, {"cost": 400}),
        ({"kind": "first", "then": 90}, 2, 400, {"cost": 10, "price": {"then": 400}}),
        ({"kind": "rising", "most": 300, "step": 50}, 2, 420, {"cost": 420, "price": {"most": 420, "step": 1}}),
        ({"kind": "rising", "least": 50}, 0, 20, {"cost": 20, "price": {"least": 20}}),
    ],
)
def test_a_price_by_hand_is_the_price_that_shows(
    price: dict[str, Any], sold: int, cost: int, now: dict[str, Any]
) -> None:
    reward = Reward.model_validate({"id": "tea", "title": "Tea", "cost": 10, "price": price})
    made = by_hand(reward, {"cost": cost}, sold)
    assert made["cost"] == now["cost"]
    assert {**price, **now.get("price", {})} == made.get("price", {})
    over = engine([tea()], {**made})
    for number in range(sold if price.get("kind") == "first" else 0):
        over.handle(h.Redemption(f"r{number}", "tea", OWL), 0)
    assert View(over).showing("reward/tea/cost") == cost


def test_a_hand_in_words() -> None:
    said = hand_said({"cost": 500, "on": True, "title": "Tea"}, {"cost": 400, "on": False, "title": "Cocoa"})
    assert said == "price 400 (was 500), off (was on), name “Cocoa” (was “Tea”)"


def test_a_hand_on_a_rising_price_ends_its_rise() -> None:
    over = engine([tea(entry="overlap")], {"price": {"kind": "rising", "factor": 2, "half_life_s": 60}})
    over.handle(h.Redemption("r1", "tea", OWL), 0)
    assert View(over).showing("reward/tea/cost") == 20
    over.handle(h.Hand("reward/tea/cost", 15), 1)
    over.handle(h.NewBook({**book_json(over.book), "rewards": [by_hand(over.book.rewards[0], {"cost": 15}, 1)]}), 2)
    assert View(over).showing("reward/tea/cost") == 15
    over.advance(120_000)
    assert View(over).showing("reward/tea/cost") == 15


def test_a_rehearsal_says_how_many_refunds_the_pauses_spare() -> None:
    book = {
        "rewards": [{"id": "tea", "title": "Tea", "cost": 10}],
        "cues": [tea(door={"cap_stream": 1, "cooldown_s": 5})],
    }
    who = {"id": "v", "name": "owlpost", "roles": []}
    calls = [{"at": at, "kind": "redemption", "id": f"r{at}", "reward": "tea", "viewer": who} for at in (1, 2, 3)]
    night = {
        "format": "cue-jar-script",
        "version": 1,
        "book": book,
        "happenings": [{"at": 0, "kind": "stream", "state": "live"}, *calls],
    }
    told = report(script_from(night))
    assert (told.points_spent, told.refunds, told.spared_by_pauses) == (10, 2, 2)
    night["book"] = {**book, "rewards": [{**book["rewards"][0], "closed": "refund"}]}
    assert report(script_from(night)).spared_by_pauses == 0
