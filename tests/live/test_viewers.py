"""Viewers and points of our own on the real processes: across a kill, counted once however often they come, and
forgotten for good.
"""

from __future__ import annotations

import json
import sqlite3
from typing import Any

import pytest

from tests.running import Running, until

CUE = {
    "id": "tea", "name": "Tea", "entry": "overlap", "calls": [{"kind": "chat", "match": "starts", "text": "!tea", "cost": 50}],
    "beats": [{"id": "c", "kind": "caption", "text": "{{viewer}}, the {{nth_viewer}}", "length": {"s": 0.2}}],
}  # fmt: skip
OWL = "v-owl"


def _points(running: Running, **more: Any) -> None:
    value = {"on": True, "per_min": 0, "follow": 120, "name": "tokens", "balance_word": "!mine", **more}
    running.api.put("/api/book/points", json={"value": value}).raise_for_status()


def _card(running: Running, viewer: str = OWL) -> dict[str, Any]:
    answer = running.api.get("/api/viewers/card", params={"viewer": viewer})
    answer.raise_for_status()
    card: dict[str, Any] = answer.json()
    return card


def _held(running: Running, viewer: str = OWL) -> int:
    account = _card(running, viewer)["account"]
    return int(account["held"]) if account else 0


def _says(running: Running, text: str, viewer: str = "owlpost") -> None:
    running.channel.post("/chat", json={"viewer": viewer, "text": text}).raise_for_status()


def _lines(running: Running) -> list[dict[str, Any]]:
    lines: list[dict[str, Any]] = running.api.get("/api/ledger").json()["lines"]
    return lines


@pytest.mark.stumbles
def test_points_are_earned_spent_and_given_back_over_a_kill(running: Running) -> None:
    _points(running)
    running.book(cues=[CUE])
    running.channel.post("/follows", json={"viewer": "owlpost"}).raise_for_status()
    until(lambda: _held(running) == 120)
    _says(running, "!tea")
    until(lambda: _held(running) == 70)
    _says(running, "!mine")
    until(lambda: any("owlpost: 70 tokens" in said["text"] for said in running.channel.get("/chat").json()))
    # A repeated event, even after a kill, counts once.
    told = [json.loads(text) for text in _events(running)]
    running.kill_server()
    running.start_server()
    running.in_step()
    for event in told:
        running.channel.post("/raw", json={"text": json.dumps(event)}).raise_for_status()
    _says(running, "!tea")
    until(lambda: _held(running) == 20)
    _says(running, "!tea")
    turned = until(lambda: next((line for line in _lines(running) if line["reason"] == "too_few_points"), None))
    assert turned["detail"] == "20 of 50"
    # If nothing of it can be done it is refunded.
    lost = {**CUE, "beats": [{"id": "p", "kind": "picture", "media": {"file": "nowhere"}}]}
    running.book(cues=[lost])
    running.api.post(
        "/api/viewers/points", json={"viewer": OWL, "held": 60, "why": "for the kettle"}
    ).raise_for_status()
    _says(running, "!tea")
    until(lambda: [row["what"] for row in _card(running)["paid"]][:1] == ["refunded"])
    running.kill_server()
    running.start_server()
    running.in_step()
    card = _card(running)
    account = card["account"]
    assert account["earned"] + account["given"] == account["spent"] + account["held"] - account["refunded"]
    assert account["held"] == 60 and account["spent"] == 150 and account["refunded"] == 50
    assert [row["what"] for row in card["paid"]] == ["refunded", "spent", "given", "spent", "spent", "earned"]
    assert card["paid"][2]["why"] == "for the kettle"


def _events(running: Running) -> list[str]:
    """Returns the channel's events so far, unaltered."""
    from websockets.sync.client import connect

    first = running.channel.post("/follows", json={"viewer": "hopper_kit"}).json()
    assert first["id"]
    texts: list[str] = []
    with connect(f"ws://127.0.0.1:{running.port + 10}/channel/events?after=", proxy=None, open_timeout=10) as socket:
        running.channel.post("/chat", json={"viewer": "hopper_kit", "text": "mind the gap"}).raise_for_status()
        event = json.loads(socket.recv(timeout=10))
        texts.append(json.dumps(event))
    return texts * 3


def test_who_watches_earns_and_the_list_knows_everybody(running: Running) -> None:
    _points(running, per_min=1_000, follow=0)
    running.channel.post("/stream", json={"state": "live"}).raise_for_status()
    until(lambda: running.state()["show"]["on_air"])
    running.channel.post("/presence", json={"viewer": "hopper_kit"}).raise_for_status()
    row = until(lambda: running.api.get("/api/viewers?text=hopper").json()["viewers"])[0]
    assert (row["name"], row["redemptions"], row["held"]) == ("hopper_kit", 0, 0)
    running.book(
        rewards=[{"id": "tea", "title": "Tea", "cost": 30}],
        cues=[{**CUE, "calls": [{"kind": "reward", "reward": "tea"}], "door": {"cap_viewer": 2}}],
    )
    until(lambda: running.channel.get("/rewards").json())
    until(lambda: running.channel.get("/rewards").json()[0]["limits"]["per_viewer"] == 2)
    running.channel.post("/can", json={"limits": False}).raise_for_status()
    for _ in range(2):
        running.redeem("owlpost", "Tea")
    until(lambda: _card(running)["viewer"]["redemptions"] == 2)
    card = _card(running)
    assert (card["viewer"]["refunds"], card["viewer"]["spent"]) == (0, 60)
    until(lambda: [row["said"] for row in _card(running)["times"]] == ["2nd time (2nd overall)"])
    listed = running.api.get("/api/viewers?sort=name&limit=1&skip=1").json()
    assert listed["total"] == 2 and [row["name"] for row in listed["viewers"]] == ["owlpost"]
    # The streamer's settings for them are in the book, and one undo reverts them.
    running.api.put("/api/book/cast/clerk", json={"value": {"id": "clerk", "name": "Clerk"}}).raise_for_status()
    running.api.post("/api/viewers/say", json={"viewer": OWL, "spared": True, "part": "clerk"}).raise_for_status()
    viewer = _card(running)["viewer"]
    assert viewer["spared"] and viewer["part"] == "clerk" and not viewer["shut_out"]
    running.api.post(
        "/api/viewers/say", json={"viewer": OWL, "shut_out": True, "spared": False, "part": ""}
    ).raise_for_status()
    viewer = _card(running)["viewer"]
    assert viewer["shut_out"] and not viewer["spared"] and viewer["part"] is None
    running.api.post("/api/book/undo").raise_for_status()
    assert _card(running)["viewer"]["spared"]


@pytest.mark.stumbles
def test_a_forgotten_viewer_is_nowhere_any_more(running: Running) -> None:
    _points(running)
    running.book(cues=[CUE])
    running.channel.post("/follows", json={"viewer": "saltmarsh_sue"}).raise_for_status()
    _says(running, "!tea a very particular text", "saltmarsh_sue")
    until(lambda: _held(running, "v-salt") == 70)
    until(lambda: any(line["text"] for line in _lines(running)))
    _says(running, "!tea", "owlpost")
    running.api.post("/api/viewers/forget", json={"viewer": "v-salt"}).raise_for_status()
    assert _card(running, "v-salt")["viewer"]["name"] == ""
    running.kill_server()
    whole = (running.data / "cue-jar.sqlite").read_bytes()
    with sqlite3.connect(running.data / "cue-jar.sqlite") as database:
        database.execute("pragma wal_checkpoint(truncate)")
        rows = {
            table: str(database.execute(f"select * from {table}").fetchall())
            for table in ("journal", "snapshots", "ledger", "viewers", "paid", "notes")
        }
    for table, text in rows.items():
        assert "saltmarsh" not in text and "particular" not in text, table
    assert whole
    running.start_server()
    running.in_step()
    assert _held(running, "v-salt") == 70, "the sums stay"
    assert {line["viewer_name"] for line in _lines(running)} <= {"", "owlpost"}


def test_two_viewers_are_one_person(running: Running) -> None:
    _points(running)
    running.book(cues=[CUE])
    for name in ("owlpost", "hopper_kit"):
        running.channel.post("/follows", json={"viewer": name}).raise_for_status()
    until(lambda: _held(running) == 120 and _held(running, "v-hopper") == 120)
    card = running.api.post("/api/viewers/merge", json={"viewer": "v-hopper", "into": OWL}).json()
    assert card["account"]["held"] == 240
    assert _card(running, "v-hopper")["merged"] == OWL
    _says(running, "!tea", "hopper_kit")
    until(lambda: _held(running) == 190)
    again = running.api.post("/api/viewers/merge", json={"viewer": "v-hopper", "into": OWL})
    assert again.status_code == 409
