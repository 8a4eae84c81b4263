"""Slow, silent or forgetful gear: it is asked again only if that is safe, and what is unknown is reported."""

from __future__ import annotations

import asyncio
import json
from pathlib import Path
from typing import Any

import pytest

from cuejar.core.book.files import book_from
from cuejar.core.facts import happenings as h
from cuejar.live.desk import MOST_BYTES, MOST_NAMED, Desk
from cuejar.live.drivers import rpc
from cuejar.live.drivers.keys import KeysDriver
from cuejar.live.hub import Hub
from cuejar.standins.panel import Refused
from tests.inside import Inside
from tests.live.standin import StandIn
from tests.live.test_broadcaster import Stage as BroadcastStage
from tests.live.test_wires import GEAR, Stage, cue, staged


def test_a_broadcaster_slower_than_its_limit_is_looked_at_before_it_is_asked_again(
    tmp_path: Path, stand_in: StandIn, monkeypatch: pytest.MonkeyPatch
) -> None:
    """It carries out everything, and answers after its time limit: each change is asked for once."""
    monkeypatch.setattr(rpc, "ANSWER_S", 0.25)
    asked: list[str] = []
    at_once = 0
    from cuejar.standins import broadcaster_wire as wire

    speak, real_do = wire._Connection.speak, wire._Connection.do

    async def slowly(self: Any) -> None:
        while message := await self._waiting.get():
            if "id" in message and message["id"] and slow:
                asyncio.get_running_loop().call_later(0.6, lambda m=message: send(self, m))
                continue
            await self.socket.send_text(json.dumps(message))

    def send(self: Any, message: dict[str, Any]) -> None:
        tasks.append(asyncio.ensure_future(self.socket.send_text(json.dumps(message))))

    def do(self: Any, method: str, params: dict[str, Any]) -> Any:
        if method in ("scene.show", "filter.set", "source.show"):
            asked.append(f"{method} {params}")
        return real_do(self, method, params)

    tasks: list[Any] = []
    slow = False
    monkeypatch.setattr(wire._Connection, "speak", slowly)
    monkeypatch.setattr(wire._Connection, "do", do)
    beats = [
        {"id": "s", "kind": "scene", "scene": "Yard cam", "length": {"s": 4}},
        {"id": "f", "kind": "filter", "source": "Bench cam", "filter": "Fog", "setting": "amount", "value": 70.0,
         "length": {"s": 4}},
    ]  # fmt: skip

    async def night() -> None:
        nonlocal slow, at_once
        stage = BroadcastStage(tmp_path, stand_in, [{"id": "c", "name": "C", "beats": beats}])
        await stage.start()
        slow = True
        await stage.runner.post(h.Pad("c"))
        await stage.until(lambda: stand_in.broadcaster.values()["broadcast/scene"] == "Yard cam")
        await stage.until(lambda: stand_in.broadcaster.values()["broadcast/filter/Bench cam/Fog/amount"] == 70)
        at_once = len(asked)
        await stage.in_step()
        assert len(asked) == at_once == 2, asked
        await stage.until(lambda: not stage.runner.view.runs)
        await stage.in_step()
        assert stand_in.broadcaster.values()["broadcast/scene"] == "Workbench"
        assert len(asked) == 4, asked
        await stage.stop()

    asyncio.run(night())
    assert speak is not None


def test_keys_whose_answer_does_not_come_are_not_dead(
    tmp_path: Path, stand_in: StandIn, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(rpc, "ANSWER_S", 0.3)
    keyboard = stand_in.app.state.keyboard
    cues = [
        cue("tap", {"kind": "tap", "combo": "F9"}),
        cue("latch", {"kind": "keys", "combo": "F8", "length": {"s": 1}}),
    ]

    async def night(stage: Stage) -> None:
        keyboard.silent = True
        await stage.fire("tap")
        await stage.until(lambda: keyboard.count == 1)
        await asyncio.sleep(0.5)
        keyboard.silent = False
        await stage.until(lambda: not stage.inside.strikes.owed)
        assert keyboard.count == 1, "the tap that came again under its id was not done again"
        await stage.fire("tap")
        await stage.until(lambda: keyboard.count == 2)
        keyboard.silent = True
        await stage.fire("latch")
        await stage.until(lambda: keyboard.on["F8"])
        await asyncio.sleep(0.6)
        keyboard.silent = False
        await stage.until(lambda: stage.inside.latches.value("keys/F8") == "off" and not keyboard.on["F8"])
        await stage.until(lambda: stage.rig.keepers["keys"].state == "in_step")
        assert keyboard.count == 4

    staged(tmp_path, stand_in, cues, night, gear=[GEAR[4]])


def test_a_latch_nobody_remembers_is_in_doubt_until_a_person_says(
    tmp_path: Path, stand_in: StandIn, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Keys on an older wire, without a memory of ids: a tap without an answer is never sent twice."""
    monkeypatch.setattr(rpc, "ANSWER_S", 0.3)
    keyboard = stand_in.app.state.keyboard
    real = keyboard.do

    def old(method: str, params: dict[str, Any]) -> Any:
        if method != "tap":
            raise Refused("there is no such method", -32601)
        assert "id" not in params
        return real(method, params)

    keyboard.do = old
    cues = [
        cue("tap", {"kind": "tap", "combo": "F9"}),
        cue("latch", {"kind": "keys", "combo": "F8", "length": {"s": 1}}),
    ]

    async def night(stage: Stage) -> None:
        keeper = stage.rig.keepers["keys"]
        keyboard.silent = True
        await stage.fire("latch")
        await stage.until(lambda: stage.inside.latches.value("keys/F8") == "doubt")
        keyboard.silent = False
        await stage.until(lambda: "F8 may be on; press once if so" in keeper.problem)
        keyboard.silent = True
        await stage.fire("tap")
        await stage.until(lambda: keyboard.count == 2)
        await stage.until(lambda: not stage.inside.strikes.owed)
        keyboard.silent = False
        await asyncio.sleep(1.2)
        assert keyboard.count == 2 and keyboard.on["F8"], "nothing is pressed while it is not known"
        assert isinstance(keeper.driver, KeysDriver)
        await keeper.driver.correct("keys/F8", "off", press=True)
        keeper.stir()
        assert keyboard.count == 3 and not keyboard.on["F8"]
        await stage.until(lambda: keeper.state == "in_step")
        await stage.fire("latch")
        await stage.until(lambda: keyboard.on["F8"])
        await stage.until(lambda: not keyboard.on["F8"])

    staged(tmp_path, stand_in, cues, night, gear=[GEAR[4]])


def test_a_long_line_makes_no_long_messages(tmp_path: Path) -> None:
    """Ten thousand waiting viewers: a desk that opens gets small messages, and only changes from then on."""
    beats = [{"id": "c", "kind": "caption", "text": "tea", "length": {"s": 600}}]
    calls = [{"kind": "chat", "match": "starts", "text": "!tea"}]
    lanes = [{"id": "yard", "name": "Yard", "line": 10_000, "wait_s": 3600}]
    rule = {"text": {"need": True, "max": 2000}}
    cues = [{"id": "tea", "name": "Tea", "calls": calls, "beats": beats, "door": rule}]
    inside = Inside(tmp_path, book_from({"lanes": lanes, "cues": cues}))

    async def night() -> None:
        inside.start()
        hub = Hub()
        desk = Desk(hub, inside.runner, inside.database.sessions)
        inside.runner.ears.append(desk)
        desk.start()
        for n in range(10_001):
            inside.runner.put(h.Chat(h.Viewer(f"v{n}", f"bramble_{n}"), f"!tea {'mind the gap ' * 30}{n}"))
        while inside.runner.view.run_number < 10_001:
            await asyncio.sleep(0.05)
        opening = [message.text() for message in desk.whole(1)]
        assert max(len(text.encode()) for text in opening) < MOST_BYTES
        lane = next(m for m in map(json.loads, opening) if m.get("of") == "lane" and m["value"]["id"] == "yard")[
            "value"
        ]
        assert (lane["runs"], lane["waits"], len(lane["waiting"])) == (1, 10_000, MOST_NAMED)
        assert [run["viewer"] for run in lane["waiting"][:2]] == ["bramble_1", "bramble_2"]
        listener = hub.join("desk")
        desk.changed()
        await asyncio.sleep(0.5)
        while not listener.line.empty():
            listener.line.get_nowait()
        await inside.runner.post(h.DropCall(run="9000"))
        texts = []
        for _ in range(40):
            await asyncio.sleep(0.02)
            while not listener.line.empty():
                texts.append(listener.line.get_nowait() or "")
        told = [m["of"] for m in map(json.loads, texts) if m["t"] == "part"]
        assert set(told) <= {"lane", "show"} and "lane" in told
        assert max(len(text.encode()) for text in texts) < MOST_BYTES
        await inside.stop()

    asyncio.run(night())
