"""Counts and quiet spells across kills, and repeated events."""

from __future__ import annotations

from typing import Any

from tests.running import Running, until

COUNTS = [{"id": "tea", "name": "Tea", "per": "good", "feeds": [{"by": "tips"}, {"by": "redemptions"}]}]
BEATS = [{"id": "c", "kind": "caption", "text": "tea", "length": {"s": 0.2}}]
CUES = [
    {"id": "cup", "name": "Cup", "entry": "overlap", "calls": [{"kind": "reward", "reward": "tea"}], "beats": BEATS},
    {
        "id": "third",
        "name": "Third",
        "entry": "overlap",
        "calls": [{"kind": "count", "count": "tea", "every": 3}],
        "beats": BEATS,
    },
]


def now(running: Running) -> int:
    count: int = running.api.get("/api/counts").json()[0]["now"]
    return count


def called(running: Running) -> int:
    lines: list[dict[str, Any]] = running.api.get("/api/ledger").json()["lines"]
    return [line["cue"] for line in lines].count("third")


def test_kills_and_the_same_event_again(running: Running) -> None:
    running.book(rewards=[{"id": "tea", "title": "Tea", "cost": 10}], counts=COUNTS, cues=CUES)
    running.in_step()
    reward = running.channel.get("/rewards").json()[0]["id"]
    for number in range(1, 7):
        # Every other one is a redemption; the server is killed right after each.
        if number % 2:
            running.channel.post("/tips", json={"viewer": "bramble_jo", "amount": 5, "text": ""}).raise_for_status()
        else:
            running.redeem("bramble_jo", reward)
        if number == 3:
            running.api.post("/api/quiet", json={"share": 0.5, "minutes": 60}).raise_for_status()
        running.kill_server()
        running.start_server()
        running.in_step()
        until(lambda number=number: now(running) == number)  # type: ignore[misc]
    until(lambda: called(running) == 2)
    assert running.state()["timing"]["quiet"]["share"] == 0.5, "the spell goes on over a kill"
    # Everything the channel repeats after a start was known.
    running.kill_server()
    running.start_server()
    running.in_step()
    assert (now(running), called(running)) == (6, 2)
