"""The broadcaster: its wire call by call and error by error, and a driver that is in step whatever happens."""

from __future__ import annotations

import asyncio
import hashlib
import hmac
import io
import json
import random
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

import pytest
from PIL import Image
from websockets.sync.client import ClientConnection, connect

from cuejar.core.book.files import book_from
from cuejar.core.facts import happenings as h
from cuejar.live.drivers.base import AwayError
from cuejar.live.drivers.broadcaster import BroadcasterDriver
from cuejar.live.keeper import Keeper
from cuejar.standins.halt import PASSWORD
from cuejar.standins.panel import HAND, Refused
from tests.inside import Inside
from tests.live.standin import StandIn
from tests.running import PATIENCE_S, free_ports


def ask(wire: ClientConnection, method: str, number: int | None = 1, **params: Any) -> Any:
    wire.send(json.dumps({"jsonrpc": "2.0", "id": number, "method": method, "params": params}))
    while True:
        message = json.loads(wire.recv(timeout=PATIENCE_S))
        if message.get("id") == number and "method" not in message:
            return message


@contextmanager
def signed_in(stand_in: StandIn, name: str = "somebody") -> Iterator[ClientConnection]:
    with connect(stand_in.address, proxy=None) as wire:
        challenge = json.loads(wire.recv(timeout=PATIENCE_S))["params"]["challenge"]
        proof = hmac.new(PASSWORD.encode(), challenge.encode(), hashlib.sha256).hexdigest()
        assert ask(wire, "sign_in", proof=proof, name=name)["result"] == {"ok": True}
        yield wire


def test_every_call_and_every_error_of_the_wire(stand_in: StandIn) -> None:
    with connect(stand_in.address, proxy=None) as stranger:
        stranger.recv(timeout=PATIENCE_S)
        assert ask(stranger, "catalogue")["error"]["code"] == -32001
        assert ask(stranger, "sign_in", proof="0" * 64)["error"]["code"] == -32002
        stranger.send("{")
        assert json.loads(stranger.recv(timeout=PATIENCE_S))["error"]["code"] == -32700
        stranger.send("[]")
        assert json.loads(stranger.recv(timeout=PATIENCE_S))["error"]["code"] == -32600
    with signed_in(stand_in) as wire, signed_in(stand_in, "other") as other:
        there = ask(wire, "catalogue")["result"]
        scenes = {scene["name"]: scene for scene in there["scenes"]}
        assert len(scenes) == 5 and len(scenes["Night mail"]["sources"]) == 6
        yard = scenes["Yard cam"]
        assert ask(wire, "scene.show", scene=yard["id"])["result"]["value"] == yard["id"]
        told = json.loads(other.recv(timeout=PATIENCE_S))
        assert told["method"] == "changed" and told["params"]["by"] == "somebody"
        assert ask(wire, "source.show", source=yard["sources"][1], visible=True)["result"]["value"] is True
        fog = next(f for f in there["filters"] if f["name"] == "Fog")
        amount = ask(wire, "filter.set", filter=fog["id"], setting="amount", value=900)["result"]
        assert amount["value"] == 100 and amount["changes"] == 1
        assert ask(wire, "filter.set", filter=fog["id"], setting="drift", value="quick")["result"]["value"] == "quick"
        music = next(i for i in there["inputs"] if i["name"] == "Music")
        assert ask(wire, "input.set", input=music["id"], setting="muted", value=True)["result"]["value"] is True
        assert ask(wire, "programme.picture", width=200)["result"]["png"].startswith("iVBOR")
        for method, params, code in (
            ("scene.show", {"scene": "nowhere"}, -32003),
            ("scene.show", {}, -32602),
            ("source.show", {"source": yard["sources"][0], "visible": "yes"}, -32004),
            ("filter.set", {"filter": fog["id"], "setting": "colour", "value": 1}, -32003),
            ("filter.set", {"filter": fog["id"], "setting": "amount", "value": "much"}, -32004),
            ("filter.set", {"filter": fog["id"], "setting": "drift", "value": "fast"}, -32004),
            ("input.set", {"input": music["id"], "setting": "pan", "value": 1}, -32003),
            ("no.such", {}, -32601),
        ):
            assert ask(wire, method, **params)["error"]["code"] == code, method


def test_a_wrong_password_and_nobody_there(stand_in: StandIn) -> None:
    async def tries() -> None:
        with pytest.raises(AwayError, match="password is wrong"):
            await BroadcasterDriver(stand_in.address, "guess").connect()
        with pytest.raises(AwayError, match="answer"):
            await BroadcasterDriver(f"ws://127.0.0.1:{free_ports()}/broadcaster", PASSWORD).connect()

    asyncio.run(tries())


CUES: list[dict[str, Any]] = [
    {"id": "yard", "name": "Yard", "beats": [{"id": "b", "kind": "scene", "scene": "yard CAM", "length": {"s": 0.06}}]},
    {
        "id": "mail",
        "name": "Mail",
        "beats": [{"id": "b", "kind": "scene", "scene": "Night mail", "length": {"s": 0.03}}],
    },
    {
        "id": "snow",
        "name": "Snow",
        "beats": [{"id": "b", "kind": "source", "scene": "Yard cam", "source": "Snow", "length": {"s": 0.05}}],
    },
    {
        "id": "fog",
        "name": "Fog",
        "beats": [
            {
                "id": "b",
                "kind": "filter",
                "source": "Bench cam",
                "filter": "fog",
                "setting": "amount",
                "value": 80.0,
                "length": {"s": 0.08},
                "fade_in_s": 0.04,
                "fade_out_s": 0.04,
            }
        ],
    },
    {
        "id": "tint",
        "name": "Tint",
        "beats": [
            {
                "id": "b",
                "kind": "filter",
                "source": "Bench cam",
                "filter": "Tint",
                "setting": "colour",
                "value": "#3366aa",
                "length": {"s": 0.04},
            }
        ],
    },
]
HANDS: list[tuple[str, list[Any]]] = [
    ("broadcast/scene", ["Workbench", "Tea table", "Signal box", "Yard cam"]),
    ("broadcast/source/Yard cam/Snow/visible", [True, False]),
    ("broadcast/filter/Bench cam/Fog/amount", [0.0, 12.0, 80.0]),
    ("broadcast/filter/Bench cam/Tint/colour", ["#ffffff", "#ff8800", "#3366aa"]),
]


class Stage:
    """A show with one keeper, in this process."""

    def __init__(self, folder: Path, stand_in: StandIn, cues: list[dict[str, Any]] = CUES) -> None:
        for cue in cues:
            cue.setdefault("entry", "overlap")
        self.book = book_from({"cues": cues, "gear": [{"id": "broadcast", "kind": "broadcaster"}]})
        self.inside = Inside(folder, self.book)
        self.runner = self.inside.runner
        self.keeper = Keeper(
            "broadcast",
            "broadcaster",
            "Broadcast",
            lambda: BroadcasterDriver(stand_in.address, PASSWORD),
            self.runner,
            renamed=lambda renamed: self.renamed.append(renamed),
        )
        self.runner.ears = [self.keeper]
        self.renamed: list[h.Renamed] = []

    async def start(self) -> None:
        self.inside.start()
        self.keeper.start()
        await self.in_step()

    async def until(self, check: Callable[[], Any]) -> None:
        end = time.monotonic() + PATIENCE_S
        while not check():
            assert time.monotonic() < end, f"{self.keeper.row()} {self.keeper._due()}"
            await asyncio.sleep(0.01)

    async def in_step(self) -> None:
        await self.until(lambda: self.keeper.state == "in_step" and not self.keeper._due() and not self.keeper._hands)

    async def stop(self) -> None:
        await self.keeper.stop()
        await self.inside.stop()


async def cut(stand_in: StandIn) -> None:
    import httpx

    async with httpx.AsyncClient(trust_env=False) as http:
        await http.post(f"http://127.0.0.1:{stand_in.port}/broadcaster/cut")


def test_a_thousand_interleavings_of_cues_hands_and_cuts(stand_in: StandIn, tmp_path: Path) -> None:
    async def night() -> None:
        stage = Stage(tmp_path, stand_in)
        await stage.start()
        luck = random.Random(11)
        by_hand: dict[str, Any] = {path: stand_in.broadcaster.values()[path] for path, _ in HANDS}
        for _ in range(25):
            for _ in range(40):
                what = luck.random()
                if what < 0.5:
                    await stage.runner.post(h.Pad(luck.choice(CUES)["id"]))
                elif what < 0.9:
                    path, values = luck.choice(HANDS)
                    by_hand[path] = luck.choice(values)
                    await asyncio.to_thread(stand_in.hand, path, by_hand[path])
                else:
                    await cut(stand_in)
                await asyncio.sleep(luck.choice([0, 0, 0.002, 0.02]))
            await stage.until(lambda: not stage.runner.view.held() and not stage.runner.view.runs)
            await asyncio.sleep(0.05)
            await stage.in_step()
            shows = stand_in.broadcaster.values()
            wanted = stage.keeper.wanted()
            assert {path: shows[path] for path in wanted} == wanted
            assert {path: shows[path] for path in by_hand} == by_hand
        await stage.stop()

    asyncio.run(night())


def test_a_keeper_made_anew_is_back_though_the_engine_hears_the_old_ones_loss_late(
    stand_in: StandIn, tmp_path: Path
) -> None:
    async def night() -> None:
        cues = [
            {
                "id": "yard",
                "name": "Yard",
                "beats": [{"id": "b", "kind": "scene", "scene": "Yard cam", "length": "open"}],
            }
        ]
        stage = Stage(tmp_path, stand_in, cues)
        stage.inside.start()
        stage.runner.put(h.GearState("broadcast", "lost"))
        stage.keeper.start()
        await stage.in_step()
        await stage.until(lambda: not stage.runner.view.is_lost("broadcast"))
        await stage.runner.post(h.Pad("yard"))
        await stage.until(lambda: stand_in.broadcaster.values()["broadcast/scene"] == "Yard cam")
        await stage.stop()

    asyncio.run(night())


def test_what_is_renamed_is_followed_and_what_is_gone_is_said(stand_in: StandIn, tmp_path: Path) -> None:
    async def night() -> None:
        cues = [
            {
                "id": "yard",
                "name": "Yard",
                "beats": [{"id": "b", "kind": "scene", "scene": "Yard cam", "length": "open"}],
            },
            {
                "id": "lost",
                "name": "Lost",
                "beats": [
                    {"id": "s", "kind": "scene", "scene": "Gods yard", "length": {"s": 1}},
                    {"id": "c", "kind": "caption", "text": "on", "length": {"s": 0.1}},
                ],
            },
        ]
        stage = Stage(tmp_path, stand_in, cues)
        await stage.start()
        await stage.runner.post(h.Pad("yard"))
        await stage.in_step()
        assert stand_in.broadcaster.values()["broadcast/scene"] == "Yard cam"
        await asyncio.to_thread(stand_in.do, "rename", "scene", "Yard cam", "Goods yard")
        await stage.until(lambda: "broadcast/source/Goods yard/Snow/visible" in stage.keeper.actual)
        await stage.until(lambda: stage.renamed and stage.renamed[0].new == "Goods yard")
        assert stage.runner.view.showing("broadcast/scene") == "Goods yard"
        await stage.runner.post(h.AllToRest())
        await stage.in_step()
        assert stand_in.broadcaster.values()["broadcast/scene"] == "Workbench"

        # A scene that doesn't exist: the beat reports near names, the caption goes on.
        timed = await stage.runner.post(h.Pad("lost"))
        why = next(order.why for _, order in timed if hasattr(order, "why"))
        assert "there is no scene “Gods yard”" in why and "near it: Goods yard" in why
        assert any(type(order).__name__ == "Show" for _, order in timed)

        # A new source is in the next draw at once.
        await asyncio.to_thread(stand_in.do, "add_source", "Night mail", "Mail 7", "snow")
        await stage.until(lambda: "Mail 7" in stage.runner.engine.resolver.sources["Night mail"])
        await stage.stop()

    asyncio.run(night())


def test_fades_go_through_the_middle(stand_in: StandIn, tmp_path: Path) -> None:
    async def night() -> None:
        beat = {**CUES[3]["beats"][0], "length": {"s": 0.8}, "fade_in_s": 0.5, "fade_out_s": 0.3}
        stage = Stage(tmp_path, stand_in, [{"id": "fog", "name": "Fog", "beats": [beat]}])
        await stage.start()
        seen: list[float] = []

        def hear(message: dict[str, Any]) -> None:
            if message["params"].get("setting") == "amount":
                seen.append(message["params"]["value"])

        stand_in.broadcaster.listeners.add(hear)
        await stage.runner.post(h.Pad("fog"))
        await asyncio.sleep(1.4)
        await stage.in_step()
        top = seen.index(80.0)
        assert top >= 3 and seen[:top] == sorted(seen[:top])
        assert seen[-1] == 0 and len(seen) - top >= 3
        await stage.stop()

    asyncio.run(night())


def test_the_hand_is_remembered_by_the_stand_in(stand_in: StandIn) -> None:
    stand_in.hand("broadcast/scene", "Tea table")
    p = stand_in.broadcaster.current
    assert p.by == HAND and p.hand_changes == p.changes == 1
    with pytest.raises(Refused):
        stand_in.broadcaster.hand("broadcast/scene", "Nowhere")
    for what, name in (("scene", "Tea table"), ("source", "Nobody")):
        with pytest.raises(Refused):
            stand_in.broadcaster.remove(what, name)
    stand_in.do("remove", "scene", "Yard cam")
    assert not any("Yard cam" in path for path in stand_in.broadcaster.values())


def test_its_picture_comes_whole(stand_in: StandIn) -> None:
    """It is longer than any text may be."""

    async def look() -> bytes:
        driver = BroadcasterDriver(stand_in.address, PASSWORD)
        await driver.connect()
        picture = await driver.picture()
        await driver.close()
        assert picture is not None
        return picture

    picture = asyncio.run(look())
    assert len(picture) > 10_000
    with Image.open(io.BytesIO(picture)) as image:
        image.load()
        assert image.size == (640, 360)
        lower = image.convert("RGB").crop((0, 200, 640, 360))
        assert len(lower.getcolors(100_000) or []) > 20, "not a black half"
