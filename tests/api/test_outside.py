"""The API of lamps, patterns, latches and inlets: what is refused, and in which words; nothing is lost by it."""

from __future__ import annotations

import base64
import json

from tests.running import Running, until


def said(answer: object) -> str:
    told: str = answer.json()["what"]  # type: ignore[attr-defined]
    return told


def test_lamps_tell_where_they_listen_and_a_hand_is_taken(running: Running) -> None:
    lamps = [{"id": "a", "address": 1}, {"id": "b", "address": 3}, {"id": "c"}]
    running.book(gear=[{"id": "lamps", "kind": "lights", "fixtures": lamps}, {"id": "voice", "kind": "voice"}])
    rows = {row["id"]: row for row in running.api.get("/api/gear/lamps/lamps").json()}
    assert (rows["c"]["address"], rows["c"]["problem"], rows["a"]["channels"]) == (6, "", 3)
    assert "overlap those of b" in rows["a"]["problem"] and "overlap those of a" in rows["b"]["problem"]
    until(lambda: all(gear["state"] == "in_step" for gear in running.api.get("/api/gear").json()))
    hand = {"path": "light/c/colour", "value": "#3366aa"}
    running.api.post("/api/gear/lamps/hand", json=hand).raise_for_status()

    def rest(path: str) -> object:
        gear = running.api.get("/api/gear").json()[0]
        return next(p["rest"] for p in gear["properties"] if p["path"] == path)

    assert rest("light/c/colour") == "#3366aa"
    refused = running.api.post("/api/gear/voice/hand", json={"path": "voice/preset", "value": "Tunnel"})
    assert refused.status_code == 409 and "that can be set here" in said(refused)
    refused = running.api.post("/api/gear/lamps/hand", json={"path": "voice/preset", "value": "Tunnel"})
    assert refused.status_code == 409
    for path, value in (("light/c/colour", "puce"), ("light/c/level", 7.0), ("light/c/look", "wobble")):
        refused = running.api.post("/api/gear/lamps/hand", json={"path": path, "value": value})
        assert refused.status_code == 422 and str(value) in said(refused)
    assert running.api.get("/api/gear/gone/lamps").status_code == 404
    wrong = running.api.put(
        "/api/book/gear/lamps",
        json={"value": {"id": "lamps", "kind": "lights", "fixtures": [{"id": "a", "address": 511}]}},
    )
    assert wrong.status_code == 422 and "512" in wrong.text
    assert rest("light/c/colour") == "#3366aa", "nothing is lost by a refused edit"


def test_patterns_in_and_out(running: Running) -> None:
    head = "time_ms,side,x,y,size,level"
    text = f"{head}\n0,front,0.4,0.2,0.1,0\n200,front,0.4,0.2,0.1,0.8\n500,front,0.4,0.2,0.1,0\n"
    running.api.post("/api/patterns", json={"name": "Coupling jolt", "text": text}).raise_for_status()
    assert running.api.get("/api/patterns/coupling-jolt.csv").text == text
    wrong = running.api.post("/api/patterns", json={"name": "X", "text": f"{head}\n0,front,0.4,2,0.1,1"})
    assert wrong.status_code == 422 and "line 2" in said(wrong)
    pattern = running.api.get("/api/book").json()["book"]["patterns"][0]
    played = running.api.post("/api/patterns/play", json=pattern).json()
    peak = max(level for (level,) in played["frames"])
    assert 0.7 < peak <= 0.8 and len(played["frames"]) == round(0.5 / played["every_s"])
    assert running.api.get("/api/patterns/gone.csv").status_code == 404


def test_a_throw_is_looked_at_before_it_is_thrown(running: Running) -> None:
    targets = [{"id": "head", "name": "Head", "x": 0.7, "y": 0.3, "r": 0.1}]
    running.book(gear=[{"id": "avatar", "kind": "avatar", "targets": targets}])
    beat = {"id": "t", "kind": "throw", "count": 3, "every_s": 0.5}
    one, same, other = (
        running.api.post("/api/throws", json={"beat": beat, "luck": luck}).json()["things"] for luck in (1, 1, 2)
    )
    assert one == same != other and [thing[0] for thing in one] == [0, 500, 1000] and one[0][8] == "head"
    assert running.api.post("/api/throws", json={"beat": {**beat, "count": 0}}).status_code == 422


def test_inlets_refuse_in_plain_words(running: Running) -> None:
    running.book(inlets=[{"id": "office", "name": "Office"}, {"id": "shut", "name": "Shut", "on": False}])
    count = {"id": "n", "kind": "count", "name": "parcels"}
    calls = [{"kind": "hook", "name": "Office"}]
    running.book(cues=[{"id": "parcel", "name": "Parcel", "calls": calls, "beats": [count]}])
    assert running.api.get("/api/inlets/office/key").json()["key"] == "", "looking makes none"
    key = running.api.post("/api/inlets/office/key").json()["key"]
    assert running.api.get("/api/inlets/office/key").json()["key"] == key
    bearer = {"authorization": f"Bearer {key}"}

    def send(inlet: str, content: bytes, **headers: str) -> tuple[int, str]:
        answer = running.api.post(f"/api/in/{inlet}", content=content, headers={**bearer, **headers})
        return answer.status_code, answer.json().get("what", "")

    assert send("gone", b"{}")[0] == 404
    assert send("shut", b"{}") == (403, "Shut is switched off.")
    assert send("office", b"{}")[0] == 202
    assert send("office", b"not json") == (400, "The body is not JSON.")
    assert send("office", b"x" * 100_001)[0] == 413
    event = json.dumps({"id": "1", "data": {}}).encode()
    status, what = send("office", event, **{"content-type": "application/cloudevents+json"})
    assert status == 400 and "needs an id, a source and a type" in what
    # A CloudEvent's base64 content appears as JSON, or as text (CloudEvents 1.0, JSON format, 3.1).
    whole = {"specversion": "1.0", "source": "/office", "type": "parcel"}
    for number, (content, kind) in enumerate(((b'{"parcels": 3}', "application/json"), (b"three", "text/plain"))):
        carried = {
            **whole,
            "id": f"b{number}",
            "datacontenttype": kind,
            "data_base64": base64.b64encode(content).decode(),
        }
        assert (
            send("office", json.dumps(carried).encode(), **{"content-type": "application/cloudevents+json"})[0] == 202
        )
    for odd, why in (
        ("*", "isn’t base64"),
        ("/w==", "neither JSON nor text"),
        ("e30", "isn’t base64"),
        ("ew==", "JSON"),
    ):
        carried = {**whole, "id": "b9", "data_base64": odd}
        status, what = send("office", json.dumps(carried).encode(), **{"content-type": "application/cloudevents+json"})
        assert status == 400 and why in what
    binary = {"ce-specversion": "1.0", "ce-id": "7", "ce-source": "/office", "ce-type": "parcel"}
    assert send("office", b"{}", **binary)[0] == 202
    assert running.api.post("/api/in/office", content=b"{}", headers={**bearer, **binary}).json()["taken"] is False
    running.kill_server()
    running.start_server()
    again = running.api.post("/api/in/office", content=b"{}", headers={**bearer, **binary})
    assert again.json()["taken"] is False, "also after a crash"
    running.api.post("/api/inlets/office/key").raise_for_status()
    assert send("office", b"{}") == (401, "The signature is wrong.")
