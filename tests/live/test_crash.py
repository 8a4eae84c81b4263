"""``kill -9`` at the worst moments: nothing lost, nothing doubled, and effects that are up keep their remaining time."""

from __future__ import annotations

import json
import time
from typing import Any

from websockets.sync.client import connect

from cuejar.demo.make import FILES
from tests.running import PATIENCE_S, Running, until

PICTURE = (FILES / "whistle-plume.webp").read_bytes()


def _book(running: Running, **door: Any) -> None:
    media = running.add_file("plume.webp", PICTURE)
    cues = []
    for name, length in (("long", 14.0), ("short", 3.0)):
        beat = {"id": "pic", "kind": "picture", "media": {"file": media}, "length": {"s": length}}
        # Another cue of the same reward has its cooldown only at the door: the channel lets everybody in there.
        calls = [{"kind": "reward", "reward": name}, {"kind": "pad"}]
        cues.append({"id": name, "name": name, "calls": calls, "lane": "main", "beats": [beat], "door": door})
    running.book(rewards=[{"id": n, "title": n, "cost": 100} for n in ("long", "short")], cues=cues)
    until(lambda: len(running.channel.get("/rewards").json()) == 2)


def _lines(running: Running) -> list[dict[str, Any]]:
    lines: list[dict[str, Any]] = running.api.get("/api/ledger").json()["lines"]
    return lines


def _up(running: Running) -> list[dict[str, Any]]:
    with connect(running.overlay_feed(), proxy=None) as feed:
        whole = json.loads(feed.recv(timeout=PATIENCE_S))
    up: list[dict[str, Any]] = whole["up"]
    return up


def test_killed_mid_run_and_before_a_start(running: Running) -> None:
    _book(running)
    first, second = running.redeem("bramble_jo", "long"), running.redeem("nine_gauge", "short")
    until(lambda: running.state_of(first) == "fulfilled")
    until(lambda: len(_lines(running)) == 2)
    before = _up(running)
    running.kill_server()
    time.sleep(1.0)
    running.start_server()
    running.in_step()

    after = _up(running)
    assert [(m["run"], m["beat"], m["at"], m["until"]) for m in after] == [
        (m["run"], m["beat"], m["at"], m["until"]) for m in before
    ]
    assert 0 < after[0]["until"] - time.time() * 1000 < 13_200
    assert running.state_of(second) == "unfulfilled"
    until(lambda: running.state_of(second) == "fulfilled")
    until(lambda: not _up(running))

    def finishes() -> list[str]:
        return [note["as"] for line in _lines(running) for note in line["notes"] if note["what"] == "finish"]

    until(lambda: len(finishes()) >= 2)
    assert finishes() == ["ended", "ended"]
    assert sorted((line["call"], line["verdict"], line["outcome"]) for line in _lines(running)) == sorted(
        [(first, "let_in", "fulfilled"), (second, "let_in", "fulfilled")]
    )
    points = {v["name"]: v["points"] for v in running.channel.get("/viewers").json()}
    assert points["bramble_jo"] == points["nine_gauge"] == 20_000 - 100


def test_ended_while_away_and_missed_redemptions(running: Running) -> None:
    _book(running, cooldown_s=30)
    first = running.redeem("bramble_jo", "short")
    until(lambda: running.state_of(first) == "fulfilled")
    running.kill_server()
    missed = running.redeem("kettlewright", "long")
    refused = running.redeem("saltmarsh_sue", "short")
    time.sleep(3.3)
    running.start_server()
    until(lambda: running.state_of(missed) == "fulfilled")
    until(lambda: running.state_of(refused) == "refunded")
    assert [(m["run"], m["kind"]) for m in _up(running)] == [("2", "picture")]
    reasons = {line["call"]: (line["verdict"], line["reason"]) for line in _lines(running)}
    assert reasons == {first: ("let_in", ""), missed: ("let_in", ""), refused: ("turned_away", "cooldown")}


def test_the_channel_dies_before_the_settlement(running: Running) -> None:
    _book(running, cooldown_s=30)
    first, second = running.redeem("bramble_jo", "long"), running.redeem("owlpost", "long")
    until(lambda: running.state_of(second) == "refunded")
    third = running.redeem("puddlejump", "short")
    running.kill_standins()
    until(lambda: len(_lines(running)) == 3 or running.api.get("/api/health").json()["channel"] == "away")
    running.kill_server()
    running.start_standins()
    running.start_server()
    running.in_step()
    until(lambda: running.state_of(third) == "fulfilled")
    assert running.state_of(first) == "fulfilled"
    assert sum(line["call"] == third for line in _lines(running)) == 1
