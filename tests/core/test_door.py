"""The door: every reason, its conditions, and that the trace names the check that failed."""

from __future__ import annotations

from typing import Any, NamedTuple

import pytest

from cuejar.core.book.files import book_from
from cuejar.core.engine.engine import Engine
from cuejar.core.facts import happenings as h
from cuejar.core.facts import orders as o
from cuejar.core.rules.door import CHECKS, REASONS, Failed, Text, Visit
from cuejar.core.rules.traces import packed, unpacked
from cuejar.core.rules.words import normalised

OWL = h.Viewer("v1", "owlpost", ("follower",))
JO = h.Viewer("v2", "bramble_jo", ("follower", "member"), 2)
NINE = h.Viewer("v3", "nine_gauge", ())
PAT = h.Viewer("v4", "pip_signal", ("follower", "member"), 1)
LIVE = (0, h.Stream("live", "Model railways"))


class Case(NamedTuple):
    """A door, what happened before, and the call that is turned away; ``detail`` is in the words, ``left_ms`` until it
    would pass.
    """

    cue: dict[str, Any]
    before: list[tuple[int, Any]]
    call: tuple[int, h.Redemption | h.Chat]
    detail: str = ""
    left_ms: int | None = None
    book: dict[str, Any] = {}


def call(number: int, viewer: h.Viewer = OWL, text: str = "", reward: str = "tea") -> h.Redemption:
    return h.Redemption(f"rd-{number}", reward, viewer, text)


def asks(**rule: Any) -> dict[str, Any]:
    return {"door": {"text": {"need": True, **rule}}}


LONG = {"beats": [{"id": "c", "kind": "caption", "text": "tea", "length": {"s": 30}}]}
FULL = {"lanes": [{"id": "yard", "name": "Yard", "line": 0}]}
CASES: dict[str, Case] = {
    "house_closed": Case({}, [], (1, call(1)), book={"house": {"open": False}}),
    "cue_off": Case({"on": False}, [], (1, call(1))),
    "role": Case({"door": {"who": ["member"], "tier": 2}}, [], (1, call(1))),
    "viewer_shut_out": Case({}, [], (1, call(1)), book={"house": {"shut_out": ["OWLPOST"]}}),
    "condition": Case({"door": {"only_if": [{"text_is": "train"}]}}, [], (1, call(1, text="bus"))),
    "off_air": Case({"door": {"air": "live"}}, [LIVE, (0, h.Stream("ended"))], (1, call(1))),
    "on_air": Case({}, [LIVE], (1, call(1)), book={"house": {"air": "off"}}),
    "category": Case({"door": {"categories": ["Gardening"]}}, [LIVE], (1, call(1))),
    "scene": Case({"door": {"scenes": ["Yard cam"]}}, [(0, h.Rest({"broadcast/scene": "Workbench"}))], (1, call(1))),
    "text_missing": Case(asks(), [], (1, call(1, text="  "))),
    "text_short": Case(asks(min=5), [], (1, call(1, text="gap"))),
    "text_long": Case(asks(max=5), [], (1, call(1, text="mind the gap"))),
    "text_word": Case(
        asks(), [], (1, call(1, text="you GROTbag")), book={"words": [{"id": "w", "name": "W", "entries": [{"text": "grotbag"}]}]}
    ),
    "text_colour": Case(asks(kind="colour"), [], (1, call(1, text="not a colour")), "“not a colour”"),
    "text_number": Case(asks(kind="number", range=[1, 6]), [], (1, call(1, text="7")), "7 is not from 1 to 6"),
    "text_choice": Case(asks(kind="choice", choices=["Up", "Down"]), [], (1, call(1, text="Sideways")), "one of Up, Down"),
    "too_few_points": Case(
        {"calls": [{"kind": "chat", "text": "!tea", "cost": 500}]}, [(0, h.GivePoints("v1", 499))], (1, h.Chat(OWL, "!tea", "rd-1")),
        "499 of 500", book={"points": {"on": True}},
    ),
    "cap_stream": Case({"door": {"cap_stream": 1}}, [LIVE, (1, call(1, JO))], (2, call(2)), "1 a stream"),
    "cap_viewer": Case({"door": {"cap_viewer": 1}}, [LIVE, (1, call(1)), (1, call(2, JO))], (2, call(3)), "1 a stream"),
    "cap_window": Case(
        {"door": {"cap_window": {"count": 2, "per_s": 10}}}, [(1_000, call(1)), (3_000, call(2))], (5_000, call(3)), "2 in 10 s", 6_000
    ),
    "cooldown_viewer": Case(
        {"door": {"viewer_cooldown_s": 20}}, [(1_000, call(1)), (2_000, call(2, JO))], (5_000, call(3)), "16 s", 16_000
    ),
    "cooldown": Case({"door": {"cooldown_s": 45}}, [(1_000, call(1, JO))], (45_999, call(2)), "0 s of cooldown left", 1),
    "busy": Case({**LONG, "entry": "refuse"}, [(1, call(1, JO))], (2, call(2))),
    "lane_full": Case({**LONG, "lane": "yard"}, [(1, call(1, JO))], (2, call(2)), book=FULL),
    "repeat": Case({}, [(1, call(1))], (2, call(1))),
    "no_cue": Case({}, [], (1, call(1, reward="another"))),
}  # fmt: skip
ELSEWHERE = {"unreadable", "too_late", "sent_back"}
"""Reasons given before a door is asked (`tests/live/test_channel_wire.py`), or instead of it (`test_tickets.py`)."""


def after(case: Case, tracing: bool = True) -> Engine:
    """Returns an engine with the case's door, after what happened before."""
    rewards = [{"id": name, "title": name, "cost": 10} for name in ("tea", "another")]
    cue = {"id": "tea", "name": "Tea", "calls": [{"kind": "reward", "reward": "tea"}], "entry": "overlap", **case.cue}
    if "lane" in case.cue:
        cue["entry"] = "queue"
    engine = Engine(book_from({**case.book, "rewards": rewards, "cues": [cue]}), tracing=tracing)
    for at, happening in case.before:
        engine.handle(happening, at)
    return engine


def test_there_is_a_case_for_every_reason() -> None:
    assert set(CASES) | ELSEWHERE == set(REASONS)


@pytest.mark.parametrize("reason", CASES)
def test_it_is_turned_away_for_this_reason_and_says_so(reason: str) -> None:
    case = CASES[reason]
    for tracing in (False, True):
        engine = after(case, tracing)
        orders = [order for _, order in engine.handle(case.call[1], case.call[0])]
        verdict = next(order for order in orders if isinstance(order, o.Verdict))
        left_alone = reason in ("repeat", "no_cue")
        assert (verdict.verdict, verdict.reason) == ("ignored" if left_alone else "turned_away", reason)
        assert case.detail in verdict.detail
        settled = [order.as_ for order in orders if isinstance(order, o.Settle)]
        assert settled == ([] if left_alone or isinstance(case.call[1], h.Chat) else ["refunded"])
        if not tracing or left_alone:
            assert verdict.trace == ()
            continue
        said = {check.check: check for check in verdict.trace}
        assert list(said) == list(CHECKS), "every check, in its order"
        no = [check for check in verdict.trace if not check.passed]
        assert no[0].reason == reason and no[0].left_ms == case.left_ms
        assert reason in CHECKS[no[0].check].reasons
        assert unpacked(packed(verdict.trace)) == [check._asdict() for check in verdict.trace]


@pytest.mark.parametrize("reason", [reason for reason in CASES if reason not in ("repeat", "no_cue")])
def test_pads_and_spared_roles_are_asked_what_their_row_says(reason: str) -> None:
    case = CASES[reason]
    name = next(name for name, check in CHECKS.items() if reason in check.reasons)
    engine = after(case)
    by_pad = [order for _, order in engine.handle(h.Pad("tea", case.call[1].text), case.call[0])]
    verdict = next(order for order in by_pad if isinstance(order, o.Verdict))
    assert (verdict.verdict == "turned_away") == CHECKS[name].pads
    asked = {check.check for check in verdict.trace if check.detail != "not asked"}
    assert asked == {other for other, check in CHECKS.items() if check.pads}

    door = {**case.cue.get("door", {}), "spared": ["follower"]}
    spared = case._replace(cue={**case.cue, "door": door})
    verdict = next(x for _, x in after(spared).handle(spared.call[1], spared.call[0]) if isinstance(x, o.Verdict))
    assert (verdict.verdict == "let_in") == CHECKS[name].spares
    skipped = {check.check for check in verdict.trace if check.detail == "not asked"}
    assert skipped == {other for other, check in CHECKS.items() if check.spares}


@pytest.mark.parametrize(
    ("whose", "verdict"), [("v1", "let_in"), ("OWLpost", "let_in"), ("v2", "turned_away"), ("owl", "turned_away")]
)
def test_who_is_exempt_by_id_or_name_skips_limits_and_who_is_blocked_stays_out(whose: str, verdict: str) -> None:
    case = CASES["cap_viewer"]
    spared = after(case._replace(book={"house": {"spared": [whose]}}))
    said = [order for _, order in spared.handle(case.call[1], case.call[0]) if isinstance(order, o.Verdict)]
    assert [order.verdict for order in said] == [verdict]
    blocked = after(Case({}, [], case.call, book={"house": {"shut_out": [whose]}}))
    said = [order for _, order in blocked.handle(case.call[1], case.call[0]) if isinstance(order, o.Verdict)]
    assert [order.reason for order in said] == ["viewer_shut_out" if verdict == "let_in" else None]


@pytest.mark.parametrize("reason", [reason for reason, case in CASES.items() if case.left_ms is not None])
def test_it_is_free_again_to_the_millisecond(reason: str) -> None:
    case = CASES[reason]
    at, wanted = case.call
    assert case.left_ms is not None
    for left, verdicts in ((case.left_ms - 1, ["turned_away"]), (case.left_ms, ["let_in"])):
        later = after(case).handle(wanted, at + left)
        assert [order.verdict for _, order in later if isinstance(order, o.Verdict)] == verdicts


BY_NUMBER = {"cooldown_from": "finished", "cooldown_s": 5}
MEMBERS = {"door": {"who": ["member"], "tier": 2}}
PAPER = {"beats": [{"id": "c", "kind": "caption", "text": "platform {{number}}", "length": {"s": 3}}]}
SOUND = {"beats": [{"id": "s", "kind": "sound", "media": {"file": "whistle"}, "length": {"s": 3}}]}
WHISTLE = {"media": [{"id": "whistle", "name": "Whistle"}]}
AT_THE_EDGE: dict[str, tuple[Case, str]] = {
    "a member of the tier": (Case(MEMBERS, [], (1, call(1, JO))), ""),
    "a member below it": (Case(MEMBERS, [], (1, call(1, PAT)), "for member"), "role"),
    "any member": (Case({"door": {"who": ["member"]}}, [], (1, call(1, PAT))), ""),
    "tiers are for members": (Case({"door": {"who": ["member", "follower"], "tier": 3}}, [], (1, call(1))), ""),
    "neither": (Case({"door": {"who": ["member", "follower"]}}, [], (1, call(1, NINE)), "for member, follower"), "role"),
    "live": (Case({"door": {"air": "live"}}, [LIVE], (1, call(1))), ""),
    "not live yet": (Case({}, [], (1, call(1)), book={"house": {"air": "live"}}), "off_air"),
    "its own word over the house's": (Case({"door": {"air": "any"}}, [], (1, call(1)), book={"house": {"air": "live"}}), ""),
    "off air": (Case({"door": {"air": "off"}}, [], (1, call(1)), book={"house": {"air": "live"}}), ""),
    "the category": (Case({"door": {"categories": ["model RAILWAYS"]}}, [LIVE], (1, call(1))), ""),
    "another": (
        Case({"door": {"categories": ["Gardening"]}}, [LIVE], (1, call(1)), "the category is Model railways"),
        "category",
    ),
    "none": (Case({"door": {"categories": ["Gardening"]}}, [], (1, call(1)), "the category is not known"), "category"),
    "the scene": (
        Case({"door": {"scenes": ["workbench"]}}, [(0, h.Rest({"broadcast/scene": "Workbench"}))], (1, call(1))),
        "",
    ),
    "no scene": (Case({"door": {"scenes": ["Workbench"]}}, [], (1, call(1)), "the scene is not known"), "scene"),
    "not a number": (Case(asks(kind="number"), [], (1, call(1, text="seven")), "“seven”"), "text_number"),
    "a number too long": (Case(asks(kind="number"), [], (1, call(1, text="1" * 16)), "“1111"), "text_number"),
    "not finished": (Case({**LONG, "door": BY_NUMBER}, [(1, call(1))], (30_000, call(2)), "it has not finished"), "cooldown"),
    "finished, and cooling": (Case({**LONG, "door": BY_NUMBER}, [(1, call(1))], (34_600, call(2)), "0.4 s"), "cooldown"),
    "finished, and cooled": (Case({**LONG, "door": BY_NUMBER}, [(1, call(1))], (35_001, call(2))), ""),
    "its only output is off": (
        Case(SOUND, [], (1, call(1)), "every kind of output", book={"house": {"switches": {"sound": False}}, **WHISTLE}),
        "house_closed",
    ),
    "another output is off": (Case(SOUND, [], (1, call(1)), book={"house": {"switches": {"picture": False}}, **WHISTLE}), ""),
}  # fmt: skip


@pytest.mark.parametrize("edge", AT_THE_EDGE)
def test_just_in_and_just_out(edge: str) -> None:
    case, reason = AT_THE_EDGE[edge]
    verdict = next(x for _, x in after(case).handle(case.call[1], case.call[0]) if isinstance(x, o.Verdict))
    assert (verdict.verdict, verdict.reason) == (("turned_away", reason) if reason else ("let_in", None))
    assert case.detail in verdict.detail


@pytest.mark.parametrize(
    ("text", "range_", "read"),
    [
        (" 5 ", [1, 6], "5"),
        ("+6", [1, 6], "6"),
        ("1", [1, 6], "1"),
        ("-3", [-3, 3], "-3"),
        ("12", None, "12"),
        ("10000", None, "10000"),
        ("9" * 15, None, "9" * 15),
    ],
)
def test_a_number_is_read_as_the_number_it_is(text: str, range_: list[int] | None, read: str) -> None:
    case = Case({**PAPER, **asks(kind="number", range=range_)}, [], (1, call(1, text=text)))
    shown = [order for _, order in after(case).handle(case.call[1], case.call[0]) if isinstance(order, o.Show)]
    assert [order.value for order in shown] == [f"platform {read}"]


def test_what_is_said_in_signs_keeps_every_one_of_them() -> None:
    """Four alike aren't cut to three if each of them counts."""
    tint = {"beats": [{"id": "c", "kind": "caption", "text": "{{colour}}", "length": {"s": 3}}]}
    for written in ("#0000ff", "#ffff00", "ffffff"):
        case = Case({**tint, **asks(kind="colour")}, [], (1, call(1, text=written)))
        shown = [order for _, order in after(case).handle(case.call[1], case.call[0]) if isinstance(order, o.Show)]
        assert [order.value for order in shown] == [f"#{written.lstrip('#')}"]
    choice = Case(asks(kind="choice", choices=["Brrrr", "Brrr"]), [], (1, call(1, text="brrrr")))
    assert [x.verdict for _, x in after(choice).handle(choice.call[1], 1) if isinstance(x, o.Verdict)] == ["let_in"]
    assert normalised("10000 points, sooooo many!!!!!! " + "7" * 40) == "10000 points, sooo many!!! 777"


NO_LINKS = {"reading": {"links": "refuse"}}
WORDS = {"words": [{"id": "w", "name": "W", "replace": "teapot", "entries": [{"text": "grotbag"}]}]}
SHORT_HOUSE = {"house": {"most_text": 10}}


@pytest.mark.parametrize(
    ("rule", "text", "book", "said"),
    [
        ({"need": False}, "", {}, Text()),
        ({"need": False}, "mind the gap", {}, Text("mind the gap")),
        ({"need": False, "min": 5}, "gap", {}, Failed("text_short", "3 of at least 5 characters")),
        ({"need": False}, " \u200b ", {}, Text("")),
        ({"need": True}, " \u200b ", {}, Failed("text_missing")),
        ({"min": 3, "max": 3}, "gap", {}, Text("gap")),
        ({"min": 4}, "gap", {}, Failed("text_short", "3 of at least 4 characters")),
        ({"max": 11}, "mind the gap", {}, Failed("text_long", "12 of at most 11 characters")),
        ({"max": 9, "too_long": "cut"}, "mind the gap", {}, Text("mind the", note="cut from 12 to 9 characters")),
        ({"max": 12, "too_long": "cut"}, "mind the gap", {}, Text("mind the gap")),
        ({}, "mind the gap", SHORT_HOUSE, Failed("text_long", "12 of at most 10 characters")),
        ({"max": 11}, "mind the gap", SHORT_HOUSE, Failed("text_long", "12 of at most 10 characters")),
        ({}, "sooooo late", {}, Text("sooo late")),
        ({}, "see https://halt.example/tea", NO_LINKS, Failed("text_word", "there is a link in it")),
        ({}, "mind the gap", NO_LINKS, Text("mind the gap")),
        ({}, "see halt.example/tea", {}, Text("see halt.example/tea")),
        ({}, "you GROTbag, you", WORDS, Text("you teapot, you")),
        (
            {"kind": "choice", "choices": ["To the  Yard", "Home"]},
            "to THE yard",
            {},
            Text("to THE yard", choice="To the  Yard"),
        ),
        ({"kind": "choice", "choices": ["Up", "Down"]}, "updown", {}, Failed("text_choice", "one of Up, Down")),
        ({"kind": "colour"}, "slate blue", {}, Text("slate blue", colour="#6a5acd")),
        ({"kind": "colour"}, "slate bleu", {}, Text("slate bleu", colour="#6a5acd", note="taken as slateblue")),
        ({"kind": "number", "range": [-5, 5]}, " -5 ", {}, Text("-5", number=-5)),
        ({"kind": "number", "range": [-5, 5]}, "-6", {}, Failed("text_number", "-6 is not from -5 to 5")),
        ({"kind": "number"}, "--5", {}, Failed("text_number", "“--5”")),
    ],
)
def test_what_is_read_of_a_text(rule: dict[str, Any], text: str, book: dict[str, Any], said: Text | Failed) -> None:
    engine = after(Case(asks(**rule), [], (0, call(1)), book=book))
    doorway = engine.reception.scores["tea"].doorway
    for ask in (lambda visit: doorway.verdict(visit), lambda visit: doorway.answered(visit)[0]):
        visit = Visit(engine.reception, doorway, engine.reception.tallies.of("tea"), OWL, text, 0)
        failed = ask(visit)
        assert (failed if isinstance(said, Failed) else visit.read) == said
        assert (failed is None) == isinstance(said, Text)


@pytest.mark.parametrize("reason", [reason for reason in CASES if reason not in ("repeat", "no_cue")])
@pytest.mark.parametrize("way", ["plain", "pad", "spared", "another spared", "nobody"])
def test_the_quick_verdict_is_the_first_no_of_the_trace(reason: str, way: str) -> None:
    case = CASES[reason]
    spared = {"spared": ["follower"], "another spared": ["moderator"], "nobody": ["follower"]}.get(way, [])
    engine = after(case._replace(cue={**case.cue, "door": {**case.cue.get("door", {}), "spared": spared}}))
    engine.advance(case.call[0])
    doorway, tally = engine.reception.scores["tea"].doorway, engine.reception.tallies.of("tea")
    viewer = None if way in ("pad", "nobody") else case.call[1].viewer
    cost = case.cue["calls"][0].get("cost", 0) if "calls" in case.cue else 0
    quick = Visit(engine.reception, doorway, tally, viewer, case.call[1].text, engine.now, cost)
    slow = Visit(engine.reception, doorway, tally, viewer, case.call[1].text, engine.now, cost)
    verdict, (first, trace) = doorway.verdict(quick, way == "pad"), doorway.answered(slow, way == "pad")
    noes = [Failed(check.reason or "", check.detail, check.left_ms) for check in trace if not check.passed]
    assert verdict == first == (noes[0] if noes else None)
    if verdict is None:
        assert quick.read == slow.read
    if way in ("plain", "another spared"):
        assert verdict is not None and verdict.reason == reason


def test_a_member_is_spared_from_the_doors_tier_on() -> None:
    door = {"cap_viewer": 1, "tier": 2, "spared": ["member"]}
    for viewer, verdicts in ((JO, ["let_in", "let_in"]), (PAT, ["let_in", "turned_away"])):
        engine = after(Case({"door": door}, [LIVE], (0, call(1))))
        orders = [*engine.handle(call(1, viewer), 1), *engine.handle(call(2, viewer), 2)]
        assert [order.verdict for _, order in orders if isinstance(order, o.Verdict)] == verdicts


def test_one_clock_for_all_cues_turns_away_what_the_others_let_in() -> None:
    """House: 20 s for all cues. Both cues of one call are let in; the next one waits for both, unless it has its own
    clock.
    """
    cues = [
        {"id": name, "name": name, "entry": "overlap", "calls": [{"kind": "reward", "reward": reward}], "door": door}
        for name, reward, door in (
            ("tea", "tea", {}), ("kettle", "tea", {}), ("bell", "bell", {}), ("own", "own", {"cooldown_s": 5}),
        )
    ]  # fmt: skip
    rewards = [{"id": name, "title": name, "cost": 10} for name in ("tea", "bell", "own")]
    engine = Engine(book_from({"house": {"shared_cooldown_s": 20}, "rewards": rewards, "cues": cues}), tracing=False)

    def verdicts(at: int, number: int, reward: str) -> list[tuple[str | None, str, str | None, str]]:
        orders = engine.handle(call(number, JO, reward=reward), at)
        return [(x.cue, x.verdict, x.reason, x.detail) for _, x in orders if isinstance(x, o.Verdict)]

    assert verdicts(1000, 1, "tea") == [("tea", "let_in", None, ""), ("kettle", "let_in", None, "")]
    assert verdicts(6000, 2, "bell") == [("bell", "turned_away", "cooldown", "15 s of cooldown left")]
    assert verdicts(6000, 3, "own") == [("own", "let_in", None, "")]
    assert verdicts(25_999, 4, "bell")[0][1] == "turned_away", "every admission starts it"
    assert verdicts(26_000, 5, "bell")[0][1] == "let_in"


def test_a_viewers_clock_may_run_from_the_end() -> None:
    door = {"viewer_cooldown_s": 10, "cooldown_from": "finished"}
    engine = after(Case({**LONG, "door": door}, [(1000, call(1)), (2000, call(2, JO))], (0, call(9))))

    def verdict(at: int, number: int, viewer: h.Viewer = OWL) -> tuple[str, str | None, str]:
        (row,) = [x for _, x in engine.handle(call(number, viewer), at) if isinstance(x, o.Verdict)]
        return row.verdict, row.reason, row.detail

    assert verdict(30_000, 3) == ("turned_away", "cooldown_viewer", "it has not finished")
    assert verdict(31_500, 4) == ("turned_away", "cooldown_viewer", "9.5 s of cooldown left")
    assert verdict(31_500, 5, JO) == ("turned_away", "cooldown_viewer", "it has not finished")
    assert verdict(41_000, 6)[0] == "let_in"
