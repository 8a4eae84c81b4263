"""Would they get in? The door's answer without a call; quiet spells; timers of the day."""

from __future__ import annotations

from datetime import datetime
from typing import Any

import pytest

from cuejar.core.book.files import book_from
from cuejar.core.engine.asking import Asked
from cuejar.core.engine.engine import Engine
from cuejar.core.engine.state import engine_from, snapshot_of
from cuejar.core.engine.view import View
from cuejar.core.facts import happenings as h
from cuejar.core.facts import orders as o
from cuejar.core.rules.calls import next_time

JO = h.Viewer("v1", "bramble_jo", ("follower",), 1)
CALL = {"kind": "chat", "text": "!tea"}


def engine(door: dict[str, Any], **house: Any) -> Engine:
    return Engine(book_from({"house": house, "cues": [{"id": "c", "name": "C", "calls": [CALL], "door": door}]}))


@pytest.mark.parametrize(
    ("door", "asked", "reason"),
    [
        ({}, Asked(JO), None),
        ({"who": ["vip"]}, Asked(JO), "role"),
        ({"air": "live"}, Asked(JO), "off_air"),
        ({"air": "live"}, Asked(JO, live=True), None),
        ({"air": "off"}, Asked(JO, live=True), "on_air"),
        ({"categories": ["Model railways"]}, Asked(JO, category="model railways"), None),
        ({"categories": ["Model railways"]}, Asked(JO, category="Gardening"), "category"),
        ({"scenes": ["Yard cam"]}, Asked(JO, scene="Yard cam"), None),
        ({"scenes": ["Yard cam"]}, Asked(JO), "scene"),
        ({"text": {"need": True, "min": 9}}, Asked(JO, "tea"), "text_short"),
        ({"cooldown_s": 60}, Asked(JO), "cooldown"),
        ({"cooldown_s": 60}, Asked(JO, in_s=59), "cooldown"),
        ({"cooldown_s": 60}, Asked(JO, in_s=60), None),
        ({"cap_window": {"count": 1, "per_s": 60}}, Asked(JO), "cap_window"),
        ({"cap_window": {"count": 1, "per_s": 60}}, Asked(JO, in_s=60), None),
    ],
)
def test_the_answer_is_the_doors_and_nothing_comes_of_it(
    door: dict[str, Any], asked: Asked, reason: str | None
) -> None:
    live = engine(door)
    live.handle(h.Chat(JO, "!tea"), 0)
    before = snapshot_of(live)
    answer = View(live).would_get_in(live.book.cues[0], asked)
    assert (answer.failed.reason if answer.failed else None) == reason
    failed = [check.reason for check in answer.checks if not check.passed]
    assert failed[:1] == ([reason] if reason else [])
    assert snapshot_of(live) == before


def test_a_cue_that_is_not_saved_yet_is_asked_too() -> None:
    live = engine({})
    drafted = book_from({"cues": [{"id": "new", "name": "New", "calls": [CALL], "on": False}]}).cues[0]
    answer = View(live).would_get_in(drafted, Asked(JO))
    assert answer.failed is not None and answer.failed.reason == "cue_off"


BELL = {
    "id": "c",
    "name": "C",
    "calls": [CALL],
    "entry": "overlap",
    "volume": 50,
    "beats": [{"id": "s", "kind": "sound", "media": {"file": "bell"}, "volume": 80}],
}


def loudness(timed: list[tuple[int, o.Order]]) -> list[float]:
    return [round(order.look["volume"], 3) for _, order in timed if isinstance(order, o.Show)]


def test_volumes_multiply_and_a_quiet_spell_ends_by_itself() -> None:
    live = Engine(book_from({"house": {"volume": 60}, "media": [{"id": "bell", "name": "Bell"}], "cues": [BELL]}))
    call = h.Chat(JO, "!tea")
    assert loudness(live.handle(call, 0)) == [24.0], "80 % of 50 % of 60 %"
    live.handle(h.Quiet(0.5, 60.0), 1_000)
    assert View(live).quiet == (0.5, 61_000)
    assert loudness(live.handle(call, 2_000)) == [12.0]
    again = engine_from(snapshot_of(live))
    assert loudness(again.handle(call, 60_999)) == [12.0], "also after a restart"
    assert loudness(again.handle(call, 61_000)) == [24.0] and View(again).quiet is None
    live.handle(h.Quiet(1.0, 1.0), 3_000)
    assert View(live).quiet is None and loudness(live.handle(call, 4_000)) == [24.0]


def test_when_timers_come_next() -> None:
    calls = [{"kind": "clock", "at_time": "21:30"}, {"kind": "clock", "every_min": 15}]
    book = book_from({"cues": [{"id": "c", "name": "C", "calls": calls, "entry": "overlap"}]})
    assert next_time(book, datetime(2026, 5, 1, 21, 29, 59)) == (datetime(2026, 5, 1, 21, 30), ["c"])
    assert next_time(book, datetime(2026, 5, 1, 21, 30)) == (datetime(2026, 5, 2, 21, 30), ["c"])
    assert next_time(book_from({}), datetime(2026, 5, 1)) is None
    live = Engine(book)
    assert View(live).timers() == []
    live.handle(h.Stream("live"), 1_000)
    assert View(live).timers() == [(901_000, "c")]
    called = [order.cue for _, order in live.handle(h.Clock("c"), 2_000) if isinstance(order, o.Start)]
    assert called == ["c"]
