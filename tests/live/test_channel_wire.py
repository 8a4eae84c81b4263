"""The channel's wire: no odd message kills it, every event counts once, and an unreadable one is skipped alone."""

from __future__ import annotations

import json
import time
from datetime import UTC, datetime, timedelta
from typing import Any

import pytest

from tests.running import Running, until

ODD: list[Any] = [
    {"specversion": "1.0", "id": "o1", "source": "/x", "type": "x.stream", "data": {"category": "x"}},
    {"specversion": "0.3", "id": "o2", "source": "/x", "type": "cuejar.channel.follow", "data": {}},
    {"specversion": "1.0", "source": "/x", "type": "cuejar.channel.follow", "data": {}},
    [],
    {"type": None},
    "not json",
    '{"type": "x.chat", "data": {"viewer": {"id": "v"}, "text": NaN}}',
    "[" * 5000,
    {"type": "cuejar.channel.redemption", "data": {"id": "rd-odd", "reward": "tea", "viewer": {"name": "no id"}}},
    {
        "type": "cuejar.channel.redemption",
        "data": {"id": "rd-dear", "reward": "tea", "viewer": {"id": "v"}, "cost": 2**63},
    },
    {"type": "cuejar.channel.tip", "data": {"amount": -5}},
    {"type": "cuejar.channel.raid", "data": {"party": "many"}},
    {
        "specversion": "1.0",
        "id": "o3",
        "source": "/x",
        "type": "cuejar.channel.fireworks",
        "data": {"colour": "slate blue"},
        "unknown": True,
    },
]


def _tea(running: Running, **more: Any) -> None:
    beats = [{"id": "c", "kind": "caption", "text": "tea, {{viewer}}", "length": {"s": 0.1}}]
    calls = [{"kind": "reward", "reward": "tea"}, {"kind": "follow"}, {"kind": "chat", "match": "is", "text": "!tea"}]
    cue = {"id": "tea", "name": "Tea", "entry": "overlap", "calls": calls, "beats": beats}
    running.book(rewards=[{"id": "tea", "title": "Tea", "cost": 10}], cues=[cue], **more)
    until(lambda: len(running.channel.get("/rewards").json()) == 1)


def _say(running: Running, message: Any) -> None:
    text = message if isinstance(message, str) else json.dumps(message)
    running.channel.post("/raw", json={"text": text}).raise_for_status()


def _event(number: str, what: str, data: dict[str, Any], **more: Any) -> dict[str, Any]:
    return {
        "specversion": "1.0",
        "id": number,
        "source": "/channel",
        "type": f"cuejar.channel.{what}",
        "data": data,
        **more,
    }


def _lines(running: Running) -> list[dict[str, Any]]:
    lines: list[dict[str, Any]] = running.api.get("/api/ledger").json()["lines"]
    return lines


def test_odd_messages_cost_themselves_alone(running: Running) -> None:
    _tea(running)
    for message in ODD:
        _say(running, message)
    # Without roles a viewer has none; unknown fields are ignored.
    viewer = {"id": "v9", "name": "nine_gauge", "hat": "blue"}
    rewards = running.channel.get("/rewards").json()
    bare = {"id": "rd-bare", "reward": rewards[0]["id"], "viewer": viewer, "text": None, "odd": [1]}
    _say(running, _event("e-bare", "redemption", bare))
    redemption = running.redeem("owlpost", "Tea")
    until(lambda: running.state_of(redemption) == "fulfilled")
    assert running.api.get("/api/health").json()["channel"] in ("in_step", "catching_up")
    log = running.api.get("/api/wires/given:channel").json()
    assert log["count"] == 11 and log["passed_over"] == {"cuejar.channel.fireworks": 1, "x.stream": 1}
    assert all(row["why"] and row["at"] for row in log["left_out"])
    bare_line = until(lambda: next((line for line in _lines(running) if line["call"] == "rd-bare"), None))
    assert bare_line["verdict"] == "let_in"
    for odd in ("rd-odd", "rd-dear"):
        line = until(lambda o=odd: next((r for r in _lines(running) if r["call"] == o), None))
        assert (line["verdict"], line["reason"], line["outcome"]) == ("ignored", "unreadable", "refunded")
    until(lambda: running.api.get("/api/health").json()["owed"]["settlements"] == 0)
    assert running.server is not None and running.server.is_running()
    running.kill_server()
    running.start_server()
    running.in_step()


@pytest.mark.stumbles
def test_an_odd_answer_does_not_hold_up_the_start(running: Running) -> None:
    """An unreadable redemption, and a reward, in the channel's lists."""
    _tea(running)
    running.kill_server()
    good = running.redeem("owlpost", "Tea")
    base = running.data.parent / "channel.sqlite"
    running.kill_standins()
    import sqlite3

    with sqlite3.connect(base) as kept:
        row = json.loads(kept.execute("select data from kept where kind = 'redemption'").fetchone()[0])
        odd = {**row, "id": "rd-odd", "viewer": None}
        kept.execute("insert into kept values ('redemption', 'rd-odd', ?)", [json.dumps(odd)])
        kept.execute(
            "insert into kept values ('reward', 'rw-odd', ?)",
            [json.dumps({"id": "rw-odd", "title": "", "on": "maybe"})],
        )
    running.start_standins()
    running.start_server()
    running.in_step()
    until(lambda: running.state_of(good) == "fulfilled")
    until(lambda: running.channel.get("/redemptions/rd-odd").json()["state"] == "refunded")


def test_every_event_counts_once_and_late_ones_do_not_fire(running: Running) -> None:
    _tea(running)
    viewer = {"id": "v7", "name": "puddlejump", "roles": ["follower"]}
    follow = _event("e-1", "follow", {"viewer": viewer})
    for _ in range(3):
        _say(running, follow)
    until(lambda: len(_lines(running)) == 1)
    running.kill_server()
    running.start_server()
    running.in_step()
    _say(running, follow)
    _say(running, {**follow, "source": "/another"})
    until(lambda: len(_lines(running)) == 2)
    old = (datetime.now(UTC) - timedelta(minutes=3)).isoformat()
    late = _event("e-2", "chat", {"id": "chat-late", "viewer": viewer, "text": "!tea"}, time=old)
    _say(running, late)
    _say(running, late)
    line = until(lambda: next((r for r in _lines(running) if r["call"] == "chat-late"), None))
    assert (line["verdict"], line["reason"], line["viewer_name"]) == ("ignored", "too_late", "puddlejump")
    time.sleep(0.3)
    assert len(_lines(running)) == 3


def test_what_was_said_during_an_outage_is_read_afterwards(running: Running) -> None:
    _tea(running)
    running.channel.post("/follows", json={"viewer": "owlpost"}).raise_for_status()
    until(lambda: len(_lines(running)) == 1)
    time.sleep(2.3)
    running.kill_server()
    for name in ("bramble_jo", "nine_gauge"):
        running.channel.post("/follows", json={"viewer": name}).raise_for_status()
    running.start_server()
    running.in_step()
    until(lambda: len(_lines(running)) == 3)
    assert {line["viewer_name"] for line in _lines(running)} == {"owlpost", "bramble_jo", "nine_gauge"}


def test_the_events_own_time_counts_for_the_stream(running: Running) -> None:
    now = datetime.now(UTC)
    _say(running, _event("s-1", "stream", {"state": "live"}, time=now.isoformat()))
    until(lambda: running.state()["show"]["on_air"])
    _say(running, _event("s-0", "stream", {"state": "ended"}, time=(now - timedelta(seconds=30)).isoformat()))
    running.channel.post("/chat", json={"viewer": "owlpost", "text": "mind the gap"})
    time.sleep(0.5)
    assert running.state()["show"]["on_air"]
    _say(running, _event("s-2", "stream", {"state": "ended"}, time=(now + timedelta(seconds=1)).isoformat()))
    until(lambda: not running.state()["show"]["on_air"])


def test_secrets_set_in_quick_succession_leave_one_connection(running: Running) -> None:
    running.book(gear=[{"id": "broadcast", "kind": "broadcaster"}])
    from cuejar.standins.halt import PASSWORD

    for n in range(12):
        secret = PASSWORD if n == 11 else f"wrong {n}"
        running.api.put("/api/gear/broadcast/secret", json={"secret": secret}).raise_for_status()
    until(lambda: running.api.get("/api/gear").json()[0]["state"] == "in_step")
    tasks = [task["name"] for task in running.api.get("/api/health").json()["tasks"]]
    assert tasks.count("gear broadcast") == 1
    assert running.server is not None
    begun = time.monotonic()
    running.server.terminate()
    running.server.wait(30)
    assert time.monotonic() - begun < 8, "5 s to give up what does not end, and the way out"


def test_answers_carry_the_headers_that_keep_others_out(running: Running) -> None:
    for path in ("/api/health", "/desk", "/api/none"):
        headers = running.api.get(path).headers
        assert running.channel.get("/viewers").headers["content-security-policy"].startswith("default-src 'self'")
        assert "frame-ancestors 'self'" in headers["content-security-policy"]
        assert headers["x-content-type-options"] == "nosniff" and headers["referrer-policy"] == "no-referrer"


def test_a_colour_and_a_number_come_in_as_they_were_written(running: Running) -> None:
    """Four alike in a row aren't cut to three: blue stays blue, ten thousand ten thousand."""
    rules = {"tint": {"kind": "colour"}, "platform": {"kind": "number", "range": [10_000, 10_000]}}
    running.book(
        rewards=[{"id": one, "title": one, "cost": 10} for one in rules],
        cues=[
            {
                "id": one,
                "name": one,
                "calls": [{"kind": "reward", "reward": one}],
                "door": {"text": {"need": True, **rule}},
            }
            for one, rule in rules.items()
        ],
    )
    asked = {
        running.redeem("owlpost", reward, text): state
        for reward, text, state in (
            ("tint", "#0000ff", "fulfilled"),
            ("tint", "#0000f", "refunded"),
            ("platform", "10000", "fulfilled"),
            ("platform", "1000", "refunded"),
        )
    }
    until(lambda: {one: running.state_of(one) for one in asked} == asked)
