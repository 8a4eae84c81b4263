"""Things behind a bridge, over the real wire: held and released, moved by hand, lost and back, done once, read and
refused.
"""

from __future__ import annotations

import asyncio
import json
import time
from pathlib import Path
from typing import Any

import pytest

from cuejar.core.book.book import Book
from cuejar.core.facts import happenings as h
from cuejar.core.facts.orders import Strike
from cuejar.live.drivers.base import AwayError, GearRefused, Greeting
from cuejar.live.drivers.said import Unreadable
from cuejar.live.drivers.things import ThingsDriver
from cuejar.live.drivers.things_wire import tables
from cuejar.live.memories import Memories
from cuejar.wires.asked import CALLS
from tests.inside import Inside
from tests.live.test_rpc import between
from tests.running import Running, until

GEAR = [{"id": "yard", "kind": "things", "name": "The yard"}]
ANGLE = {"kind": "set", "gear": "yard", "thing": "vane", "setting": "angle"}


def yard(running: Running) -> dict[str, Any]:
    state: dict[str, Any] = running.things.get("/state").json()
    return state


def at(running: Running, what: str) -> Any:
    return yard(running)["values"][what]


def connected(running: Running, *beats: dict[str, Any]) -> None:
    made = [{"id": f"b{n}", **beat} for n, beat in enumerate(beats)]
    running.book(gear=GEAR, cues=[{"id": "wind", "name": "Wind", "entry": "overlap", "beats": made}])
    until(lambda: running.api.get("/api/gear").json()[0]["state"] == "in_step")


def test_a_thing_is_held_and_returns_whatever_happens(running: Running) -> None:
    connected(running, {**ANGLE, "value": 90, "length": {"s": 2}, "fade_in_s": 0.3})
    running.api.post("/api/cues/wind/fire").raise_for_status()
    until(lambda: at(running, "vane/angle") == 90)
    until(lambda: at(running, "vane/angle") == 225)
    # Killed during the hold, it returns first of all.
    running.api.post("/api/cues/wind/fire").raise_for_status()
    until(lambda: at(running, "vane/angle") == 90)
    running.kill_server()
    time.sleep(2.2)
    assert at(running, "vane/angle") == 90, "nobody is there to put it back"
    running.start_server()
    until(lambda: at(running, "vane/angle") == 225)
    # The hand wins, during a hold and while the bridge is disconnected.
    running.api.post("/api/cues/wind/fire").raise_for_status()
    until(lambda: at(running, "vane/angle") == 90)
    running.things.post("/hand", json={"thing": "vane", "setting": "angle", "value": 10}).raise_for_status()
    until(lambda: not running.api.get("/api/holds").json())
    time.sleep(2.2)
    assert at(running, "vane/angle") == 10
    running.kill_server()
    running.things.post("/hand", json={"thing": "vane", "setting": "angle", "value": 45}).raise_for_status()
    running.start_server()
    rest = until(
        lambda: (
            {p["path"]: p["rest"] for p in running.api.get("/api/gear").json()[0]["properties"]}
            if running.api.get("/api/gear").json()[0]["state"] == "in_step"
            else None
        )
    )
    assert rest["things/yard/vane/angle"] == 45


def test_a_deed_is_done_once_though_it_was_not_answered(running: Running) -> None:
    spin = {"kind": "do", "gear": "yard", "thing": "vane", "deed": "spin", "values": {"turns": "{{number}}"}}
    connected(running, spin)
    book = running.api.get("/api/book").json()["book"]["cues"][0]
    running.book(cues=[{**book, "door": {"text": {"kind": "number"}}, "calls": [{"kind": "pad"}]}])
    running.things.post("/silent", json={"silent": True})
    running.api.post("/api/cues/wind/fire", json={"text": "12"}).raise_for_status()
    until(lambda: yard(running)["done"])
    running.things.post("/silent", json={"silent": False})
    until(lambda: not any(running.api.get("/api/health").json()["owed"].values()))
    assert [(one["values"], one["by"]) for one in yard(running)["done"]] == [({"turns": 9}, "cue-jar")], (
        "once, with the viewer's number brought into its range"
    )


@pytest.mark.stumbles
@pytest.mark.parametrize("ends", ["the bridge", "both"])
def test_a_deed_is_not_repeated_to_a_memory_that_does_not_know_it(running: Running, ends: str) -> None:
    connected(running, {"kind": "do", "gear": "yard", "thing": "vane", "deed": "spin", "values": {"turns": 3}})
    running.things.post("/silent", json={"silent": True})
    running.api.post("/api/cues/wind/fire").raise_for_status()
    until(lambda: yard(running)["done"])
    if ends == "both":
        running.kill_server()
    running.kill_standins()
    kept = running.data.parent / "things.json"
    kept.write_text(json.dumps({**json.loads(kept.read_text()), "memory": "another", "known": {}}))
    running.start_standins()
    if ends == "both":
        running.start_server()
    until(lambda: "may have been done" in running.api.get("/api/ledger").text)
    until(lambda: not any(running.api.get("/api/health").json()["owed"].values()))
    assert yard(running)["done"] == []


def test_what_fell_due_before_a_memory_was_met_may_have_gone_to_another(tmp_path: Path) -> None:
    async def met() -> list[str]:
        inside = Inside(tmp_path, Book())
        inside.start()
        memories = Memories(inside.database.sessions, inside.runner.later.keep)
        await memories.note("yard", "a 1", 1_000)
        await memories.note("yard", "a 1", 5_000)
        first = Memories(inside.database.sessions, inside.runner.later.keep)
        await memories.note("yard", "b", 9_000)
        second = Memories(inside.database.sessions, inside.runner.later.keep)
        await inside.stop()
        return [
            memories.before("yard", 9_000), first.before("yard", 2_000), second.before("yard", 8_999), second.before("yard", 9_000),
        ]  # fmt: skip

    assert asyncio.run(met()) == ["", "a 1", "", "b"]


def test_a_thing_that_is_no_more_is_a_snag_with_near_names(running: Running) -> None:
    connected(
        running,
        {**ANGLE, "thing": "vain", "value": 9, "length": {"s": 1}},
        {**ANGLE, "value": "north"},
        {**ANGLE, "value": 400},
        {**ANGLE, "value": 12.4},
    )
    snags = {s["beat"]: s for s in running.api.get("/api/snags").json()}
    assert "there is no thing “vain” at yard" in snags["b0"]["what"] and "vane" in str(snags["b0"]["what"]).casefold()
    assert "“north” is not a number" in snags["b1"]["what"]
    assert snags["b2"]["what"] == "“b2” sets “Points to” to 400, which it can’t show; it shows 359."
    assert snags["b3"]["what"] == "“b3” sets “Points to” to 12.4, which it can’t show; it shows 12."
    lamps = [*GEAR, {"id": "lamps", "kind": "lights", "name": "Lamps"}]
    running.book(gear=lamps, cues=[{"id": "odd", "name": "Odd", "beats": [
        {"id": "s", "kind": "set", "gear": "lamps", "thing": "a/b", "setting": "x", "value": 1},
        {"id": "d", "kind": "do", "gear": "lamps", "thing": "a", "deed": "y"},
    ]}])  # fmt: skip
    odd = [s["what"] for s in running.api.get("/api/snags").json() if s["check"] == "no_bridge"]
    assert len(odd) == 2 and "but Lamps has none (lamps)." in odd[0]
    running.api.post("/api/cues/odd/fire").raise_for_status()
    assert not [hold for hold in running.api.get("/api/holds").json() if "a/b" in hold["path"]]
    running.things.delete("/tower").raise_for_status()
    there = until(
        lambda: (t := running.api.get("/api/gear/catalogue").json()["things/yard"]["things"]) and "tower" not in t and t
    )
    assert set(there) == {"vane", "turntable"}
    refused = running.api.put("/api/rest-values", json={"values": {"things/yard/vane/angle": 400}})
    assert refused.status_code == 422 and "from 0 to 359" in refused.json()["what"]
    wrong = {"values": {"things/yard/turntable/road": "Moon"}}
    assert "Goods yard" in running.api.put("/api/rest-values", json=wrong).json()["do"]


SETTING = {"id": "level", "type": "number", "min": 0, "max": 5, "value": 2}


def answers(catalogue: Any, **more: Any) -> Any:
    async def side(socket: Any, call: dict[str, Any]) -> None:
        CALLS["things"][call["method"]].model_validate(call["params"])
        results = {"hello": {"version": 1, "boot": "b"}, "catalogue": catalogue, **more}
        result = results[call["method"]]
        said = (
            {"error": {"code": -32002, "message": result[4:]}} if str(result).startswith("not ") else {"result": result}
        )
        await socket.send(json.dumps({"jsonrpc": "2.0", "id": call["id"], **said}))

    return side


def test_one_odd_row_of_a_catalogue_costs_itself_alone() -> None:
    odd: list[str] = []
    listed = [
        {"id": "lid", "settings": [SETTING, {**SETTING, "id": "much", "value": 9}, {"id": "no type"}, "what"]},
        {"id": "not/an/id"},
        {
            "id": "cup",
            "name": "Cup",
            "deeds": [{"id": "fill", "values": [{"id": "ml", "type": "number"}, {"id": "?"}]}],
        },
    ]
    told = tables("shelf", {"things": listed}, lambda message, why: odd.append(why))
    assert set(told.things.things) == {"lid", "cup"} and told.things.things["cup"].title == "Cup"
    assert set(told.found) == {"things/shelf/lid/level"} and set(told.things.things["cup"].deeds["fill"].values) == {
        "ml"
    }
    assert len(odd) == 5 and any("can’t have that value" in why for why in odd)
    with pytest.raises(Unreadable, match="no list of things"):
        tables("shelf", {"things": {}}, lambda message, why: None)


def test_who_changed_a_setting_is_told_apart() -> None:
    rows = [
        {**SETTING, "id": "ours", "by": "cue-jar", "changes": 4, "hand": {"value": 1, "changes": 2}},
        {**SETTING, "id": "theirs", "by": "switch", "changes": 3},
        {**SETTING, "id": "fresh"},
    ]
    found = tables("shelf", {"things": [{"id": "lid", "settings": rows}]}, lambda message, why: None).found
    assert [(f.by, f.changes, f.hand, f.hand_changes) for f in found.values()] == [
        ("us", 4, 1, 2), ("hand", 3, 2, 3), ("start", 0, None, 0),
    ]  # fmt: skip


def test_the_middle_of_a_fade_is_in_steps() -> None:
    asked: list[Any] = []
    things = {"things": [{"id": "lid", "settings": [{**SETTING, "step": 2}]}]}
    side = answers(things, set={"value": 4})

    async def noting(socket: Any, call: dict[str, Any]) -> None:
        if call["method"] == "set":
            asked.append(call["params"]["value"])
        await side(socket, call)

    async def met(address: str) -> None:
        driver = ThingsDriver("shelf", address, "")
        await driver.connect()
        for value in (2.4, 2.9, 3.3, 3.9, 4.0):
            assert await driver.show({"things/shelf/lid/level": value}) == {
                "things/shelf/lid/level": pytest.approx(value, abs=1)
            }
        await driver.close()

    between(noting, met)
    assert asked == [4.0], "no more often than it changes"


def test_a_bridge_that_refuses_or_remembers_nothing() -> None:
    things = {"things": [{"id": "lid", "settings": [SETTING], "deeds": [{"id": "lift"}]}]}
    lift = Strike("1", "b", "do", {"gear": "shelf", "thing": "lid", "deed": "lift", "values": {}})

    async def met(address: str) -> None:
        driver = ThingsDriver("shelf", address, "a token")
        assert isinstance(await driver.connect(), Greeting) and not driver.memory()
        assert await driver.show({"things/shelf/lid/level": 9, "things/shelf/lid/none": 1}) == {
            "things/shelf/lid/level": None, "things/shelf/lid/none": None,
        }  # fmt: skip
        with pytest.raises(GearRefused, match="it is stuck"):
            await driver.strike(lift, "st_1")
        driver._rpc._take(
            {"jsonrpc": "2.0", "method": "changed", "params": {"thing": "lid", "setting": "level", "value": 3}}
        )
        report = await anext(driver.reports())
        assert report == h.Hand("things/shelf/lid/level", 3), "what nobody signed was a hand, and is not counted"
        await driver.close()

    between(answers(things, do="not it is stuck"), met)

    async def refused(address: str) -> None:
        with pytest.raises(AwayError, match="It refused the connection: the token is wrong"):
            await ThingsDriver("shelf", address, "another").connect()

    between(answers(things, hello="not the token is wrong"), refused)

    async def odd(address: str) -> None:
        with pytest.raises(AwayError, match="can’t be read"):
            await asyncio.wait_for(ThingsDriver("shelf", address, "").connect(), 5)

    between(answers(things, hello={"version": "one"}), odd)
    between(answers({"things": 5}), odd)


def test_a_row_that_could_not_be_read_is_asked_for_again() -> None:
    """A setting that was corrupted once on the way doesn't stay lost for good."""
    spoilt = {"things": [{"id": "lid", "settings": [{**SETTING, "value": "spoilt"}]}]}
    whole = {"things": [{"id": "lid", "settings": [SETTING]}]}
    asked: list[int] = []

    async def side(socket: Any, call: dict[str, Any]) -> None:
        if call["method"] == "catalogue":
            asked.append(1)
        result = {"version": 1} if call["method"] == "hello" else spoilt if len(asked) < 3 else whole
        await socket.send(json.dumps({"jsonrpc": "2.0", "id": call["id"], "result": result}))

    async def met(address: str) -> None:
        driver = ThingsDriver("shelf", address, "")
        driver._again_s = 0.05
        assert (await driver.connect()).found == {}
        async for report in driver.reports():
            if isinstance(report, Greeting) and report.found:
                break
        assert driver.actual == {"things/shelf/lid/level": 2} and len(asked) == 3
        await asyncio.sleep(0.3)
        assert len(asked) == 3, "what is whole is not asked for again"
        await driver.close()

    between(side, met)


def test_a_catalogue_that_was_wrong_once_is_read_again() -> None:
    """It reported too small a range, and refused the next request: what is wanted is shown all the same. A catalogue
    that was never odd is believed.
    """
    asked: list[int] = []

    async def side(socket: Any, call: dict[str, Any]) -> None:
        answer: dict[str, Any] = {"result": {"version": 1}}
        if call["method"] == "catalogue":
            asked.append(1)
            setting = {**SETTING, "max": 5 if len(asked) == 1 else 9}
            answer = {"result": {"things": [{"id": "lid", "settings": [setting]}]}}
            if len(asked) == 2:
                answer = {"error": {"code": -32000, "message": "not now"}}
        elif call["method"] == "set":
            answer = {"result": {"value": call["params"]["value"], "by": "cue-jar", "changes": 1}}
        await socket.send(json.dumps({"jsonrpc": "2.0", "id": call["id"], **answer}))

    async def met(address: str) -> None:
        driver = ThingsDriver("shelf", address, "")
        driver.log_to(lambda message, why: None, lambda method: None)
        await driver.connect()
        driver._again_s = 0.05
        path = "things/shelf/lid/level"
        assert await driver.show({path: 7}) == {path: None} and driver._later is None
        driver._rpc.odd("%!", "it cannot be read")
        assert await driver.show({path: 7}) == {path: None}
        assert await driver.show({path: 7}) == {path: None}, "it is not asked anew for each"
        async for report in driver.reports():
            if isinstance(report, Greeting):
                break
        assert len(asked) == 3 and await driver.show({path: 7}) == {path: 7}
        await driver.close()

    between(side, met)
