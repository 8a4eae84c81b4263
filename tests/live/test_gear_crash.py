"""Holds at the broadcaster when a process dies: they go back first of all, or are restored."""

from __future__ import annotations

import json
import time
from typing import Any

import httpx

from cuejar.standins.halt import PASSWORD
from tests.running import Running, free_ports, until

GEAR = [{"id": "broadcast", "kind": "broadcaster", "name": "Broadcaster"}]


def connected(running: Running) -> None:
    running.book(gear=GEAR)
    running.api.put("/api/gear/broadcast/secret", json={"secret": PASSWORD}).raise_for_status()
    until(lambda: running.api.get("/api/gear").json()[0]["state"] == "in_step")


def scene(running: Running) -> str:
    shown: str = running.broadcaster.get("/state").json()["scene"]
    return shown


def a_cue(seconds: float) -> dict:
    beats = [{"id": "b", "kind": "scene", "scene": "Yard cam", "length": {"s": seconds}}]
    return {"id": "yard", "name": "Yard", "beats": beats}


def test_killed_in_a_hold_and_back_after_its_end(running: Running) -> None:
    connected(running)
    running.book(cues=[a_cue(2)])
    running.api.post("/api/cues/yard/fire")
    until(lambda: scene(running) == "Yard cam")
    running.kill_server()
    time.sleep(2.2)
    assert scene(running) == "Yard cam", "nobody is there to put it back"
    running.start_server()
    until(lambda: scene(running) == "Workbench")
    held = running.api.get("/api/holds").json()
    assert held == []


def test_killed_in_a_hold_with_a_hand_meanwhile(running: Running) -> None:
    connected(running)
    running.book(cues=[a_cue(3)])
    running.api.post("/api/cues/yard/fire")
    until(lambda: scene(running) == "Yard cam")
    running.kill_server()
    running.broadcaster.post("/hand", json={"path": "broadcast/scene", "value": "Tea table"}).raise_for_status()
    running.start_server()
    until(lambda: running.api.get("/api/gear").json()[0]["state"] == "in_step")
    time.sleep(3.2)
    assert scene(running) == "Tea table"


def test_the_stand_in_is_put_right_when_it_comes_back(running: Running) -> None:
    connected(running)
    running.book(cues=[a_cue(30)])
    running.broadcaster.post("/hand", json={"path": "broadcast/scene", "value": "Tea table"}).raise_for_status()
    until(lambda: running.api.get("/api/gear").json()[0]["properties"])
    running.api.post("/api/cues/yard/fire")
    until(lambda: scene(running) == "Yard cam")
    running.kill_standins()
    until(lambda: running.api.get("/api/gear").json()[0]["state"] == "away")
    # It comes back with another scene on, as if it had forgotten.
    kept = running.data.parent / "broadcaster.json"
    kept.write_text(kept.read_text().replace('"scene": "Yard cam"', '"scene": "Signal box"', 1))
    running.start_standins()
    until(lambda: scene(running) == "Yard cam")
    running.api.post("/api/all-to-rest")
    until(lambda: scene(running) == "Tea table")


def test_a_wrong_password_is_said_and_the_right_one_helps(running: Running) -> None:
    running.book(gear=GEAR)
    running.api.put("/api/gear/broadcast/secret", json={"secret": "wrong"}).raise_for_status()
    row = until(
        lambda: (r := running.api.get("/api/gear").json()[0])["state"] == "away" and "password" in r["problem"] and r
    )
    assert "refused the connection" in row["problem"]
    assert "wrong" not in running.api.get("/api/book").text
    kept = running.data / "secrets.json"
    assert not kept.exists() or kept.stat().st_mode & 0o077 == 0
    connected(running)
    answer = running.api.post("/api/gear/broadcast/test").json()["what"]
    assert answer.startswith("It answers in")
    assert running.api.get("/api/gear/broadcast/picture").content.startswith(b"\x89PNG")


def test_rest_values_resting_looks_and_renames(running: Running) -> None:
    connected(running)
    path = "broadcast/filter/Bench cam/Fog/amount"
    running.api.put("/api/rest-values", json={"values": {path: 20}}).raise_for_status()
    until(lambda: running.broadcaster.get("/state").json()["values"][path] == 20)
    running.api.post("/api/looks", json={"name": "Bench night"}).raise_for_status()
    running.broadcaster.post("/hand", json={"path": path, "value": 55.0}).raise_for_status()
    until(
        lambda: next(p for p in running.api.get("/api/gear").json()[0]["properties"] if p["path"] == path)["rest"] == 55
    )
    look = running.api.get("/api/book").json()["book"]["looks"][0]
    assert look["values"][path] == 20
    running.api.post(f"/api/looks/{look['id']}/take").raise_for_status()
    until(lambda: running.broadcaster.get("/state").json()["values"][path] == 20)

    running.book(cues=[a_cue(1)])
    running.broadcaster.post(
        "/rename", json={"what": "scene", "old": "Yard cam", "new": "Goods yard"}
    ).raise_for_status()
    until(lambda: running.api.get("/api/book").json()["book"]["cues"][0]["beats"][0]["scene"] == "Goods yard")
    running.broadcaster.request("DELETE", "/scenes/Goods yard").raise_for_status()
    snag = until(lambda: next((s for s in running.api.get("/api/snags").json() if s["check"] == "lost_name"), None))
    assert "there is no scene “Goods yard”" in snag["what"]
    running.api.post("/api/cues/yard/fire")
    line = until(lambda: next((r for r in running.api.get("/api/ledger").json()["lines"] if r["notes"]), None))
    assert any("there is no scene" in str(note.get("why")) for note in line["notes"])


def test_a_scene_that_comes_up_calls_a_cue(running: Running) -> None:
    connected(running)
    beats = [{"id": "c", "kind": "caption", "text": "tea", "length": {"s": 1}}]
    calls = [{"kind": "scene", "scene": "Tea table"}]
    running.book(cues=[{"id": "tea", "name": "Tea", "calls": calls, "beats": beats}])
    running.broadcaster.post("/hand", json={"path": "broadcast/scene", "value": "Tea table"}).raise_for_status()
    line = until(lambda: running.api.get("/api/ledger").json()["lines"][0])
    assert (line["cue"], line["verdict"]) == ("tea", "let_in")


def test_killed_with_everything_else_held(running: Running) -> None:
    """Lamps, avatar, voice box and a latch: what ran out meanwhile goes back, a latch is tapped exactly once more."""

    def shows(kind: str) -> dict[str, str]:
        told = httpx.get(f"http://127.0.0.1:{running.port + 10}/{kind}/state", trust_env=False).json()
        values: dict[str, str] = told["values"]
        return values

    running.book(
        gear=[
            {"id": "lamps", "kind": "lights", "fixtures": [{"id": "signal", "address": 1}]},
            {"id": "avatar", "kind": "avatar"},
            {"id": "voice", "kind": "voice"},
            {"id": "keys", "kind": "keys"},
        ]
    )
    until(lambda: all(gear["state"] == "in_step" for gear in running.api.get("/api/gear").json()))
    until(lambda: shows("lights")["light/signal/shown"] != "#000000")
    at_rest = shows("lights")["light/signal/shown"]
    beats = [
        {"id": "hat", "kind": "avatar", "outfit": "Top hat", "expressions": ["Cheer"]},
        {"id": "voice", "kind": "voice", "preset": "Tannoy"},
        {"id": "red", "kind": "light", "colour": "#ff0000", "look": "breathe"},
        {"id": "curtain", "kind": "keys", "combo": "F8"},
    ]
    running.book(cues=[{"id": "all", "name": "All", "beats": [{**beat, "length": {"s": 5}} for beat in beats]}])
    running.api.post("/api/cues/all/fire")
    until(lambda: shows("keys")["keys/F8"] == "on" and shows("avatar")["avatar/outfit"] == "Top hat")
    until(lambda: shows("voice")["voice/preset"] == "Tannoy" and shows("lights")["light/signal/shown"][3:] == "0000")
    running.kill_server()
    hand = {"path": "avatar/pose", "value": "Waving"}
    httpx.post(f"http://127.0.0.1:{running.port + 10}/avatar/hand", json=hand, trust_env=False).raise_for_status()
    time.sleep(5.2)
    assert shows("keys")["keys/F8"] == "on" and shows("avatar")["avatar/outfit"] == "Top hat", "nobody is there"
    running.start_server()
    until(lambda: shows("keys")["keys/F8"] == "off")
    until(
        lambda: (avatar := shows("avatar"))["avatar/outfit"] == "Porter" and avatar["avatar/expression/Cheer"] == "off"
    )
    until(lambda: shows("voice")["voice/preset"] == "Plain" and shows("lights")["light/signal/shown"] == at_rest)
    assert shows("avatar")["avatar/pose"] == "Waving", "what a hand set meanwhile stays"
    taps = httpx.get(f"http://127.0.0.1:{running.port + 10}/keys/state", trust_env=False).json()["taps"]
    assert len(taps) == 2


def test_nobody_pays_for_what_gear_that_is_away_did_not_do(running: Running) -> None:
    """A scene, lamps and a tap at gear without an answer: refunded once it is sure; done if it comes in time."""
    nowhere = free_ports()
    gear = [
        {"id": "cast", "kind": "broadcaster", "address": f"ws://127.0.0.1:{nowhere}/broadcaster"},
        {"id": "lamps", "kind": "lights", "address": f"sacn://127.0.0.1:{nowhere}", "fixtures": [{"id": "signal"}]},
        {"id": "keys", "kind": "keys", "address": f"ws://127.0.0.1:{nowhere}/keys"},
    ]
    beats: dict[str, list[dict[str, Any]]] = {
        "scene": [{"id": "a", "kind": "scene", "scene": "Yard cam", "length": {"s": 1}}],
        "lamps": [{"id": "a", "kind": "light", "colour": "#ff0000", "length": {"s": 1}}],
        "partly": [{"id": "a", "kind": "scene", "scene": "Yard cam", "length": {"s": 1}}, {"id": "b", "kind": "caption", "text": "tea", "length": {"s": 1}}],
        "tap": [{"id": "a", "kind": "tap", "combo": "F9"}],
    }  # fmt: skip
    running.book(
        house={"cooldown_s": 0, "viewer_cooldown_s": 0},
        gear=gear,
        rewards=[{"id": one, "title": one, "cost": 500, "closed": "refund"} for one in beats],
        cues=[{"id": one, "name": one, "calls": [{"kind": "reward", "reward": one}], "entry": "overlap", "beats": some} for one, some in beats.items()],
    )  # fmt: skip
    running.api.put("/api/gear/cast/secret", json={"secret": PASSWORD}).raise_for_status()
    until(lambda: len(running.channel.get("/rewards").json()) == 4)
    until(lambda: {row["state"] for row in running.api.get("/api/gear").json()} == {"away"})
    time.sleep(1.5)  # A disconnection is reported after a second.
    called = {one: running.redeem("owlpost", one) for one in ("scene", "lamps", "partly", "tap")}
    until(lambda: running.state_of(called["partly"]) == "fulfilled")
    assert running.state_of(called["tap"]) == "unfulfilled", "it waits for its keys"
    until(lambda: {running.state_of(called[one]) for one in ("scene", "lamps")} == {"refunded"})
    until(lambda: running.state_of(called["tap"]) == "refunded")

    def notes(call: str) -> str:
        events = [json.loads(line)["data"] for line in running.api.get("/api/ledger.jsonl").text.splitlines()]
        return json.dumps([event["notes"] for event in events if event["call"] == call])

    until(lambda: "the gear was disconnected all the time" in notes(called["partly"]))
    # Keys that connect within the tap's ten seconds tap it, once.
    again = running.redeem("owlpost", "tap")
    running.book(gear=[{"id": "keys", "kind": "keys"}])
    until(lambda: running.state_of(again) == "fulfilled")
    known = f"http://127.0.0.1:{running.port + 10}/keys/known"
    until(lambda: len(httpx.get(known, trust_env=False).json()) == 1)
