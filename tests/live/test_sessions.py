"""The recorded sessions bind both sides: drivers say what was recorded, and stand-ins answer as recorded.

``python -m tests.live.test_sessions`` records them again.
"""

from __future__ import annotations

import asyncio
import json
import sys
import tempfile
from collections.abc import AsyncIterator, Awaitable, Callable
from pathlib import Path
from typing import Any

import pytest

from cuejar.core.book.files import book_from
from cuejar.core.facts import happenings as h
from cuejar.core.facts import orders as o
from cuejar.core.kinds.gear import GEAR_KINDS
from cuejar.live.drivers.base import Driver, Report
from cuejar.live.drivers.broadcaster import BroadcasterDriver
from cuejar.live.drivers.channel import ChannelDriver
from cuejar.live.drivers.haptics import HapticsDriver
from cuejar.live.drivers.keys import KeysDriver, WireTapper
from cuejar.live.drivers.osc import OscDriver
from cuejar.live.drivers.things import ThingsDriver
from cuejar.standins.halt import PASSWORD
from tests.inside import Inside
from tests.live.sessions import SESSIONS, ChannelWire, PacketWire, Row, SocketWire, Wire, held
from tests.live.standin import NoPictures, StandIn
from tests.running import PATIENCE_S

PATTERN = {
    "id": "jolt", "name": "Jolt", "length_s": 60, "places": {"lapel": {"x": 0.37, "y": 0.24}},
    "frames": [{"levels": {"lapel": 0.5}, "curve": "step"}],
}  # fmt: skip
BOOK = book_from(
    {
        "patterns": [PATTERN],
        "rewards": [{"id": "tea", "title": "Tea", "cost": 10, "text": True}],
        "cues": [
            {"id": "tea", "name": "Tea", "calls": [{"kind": "reward", "reward": "tea"}],
             "beats": [{"id": "c", "kind": "caption", "text": "tea", "length": {"s": 0.2}}]}
        ],
    }
)  # fmt: skip


async def _until(check: Callable[[], Any]) -> None:
    async with asyncio.timeout(PATIENCE_S):
        while not check():
            await asyncio.sleep(0.01)


async def _next(reports: AsyncIterator[Report]) -> Report:
    async with asyncio.timeout(PATIENCE_S):
        return await anext(reports)


async def _held_and_back(driver: Driver, wire: Wire, path: str, post: str, body: Any, *values: Any) -> None:
    """Holds a property, changes it by hand meanwhile, and sees it return to the hand's value."""
    rest, held_at, by_hand = values
    greeting = await driver.connect()
    assert greeting.found[path].value == rest
    assert await driver.show({path: held_at}) == {path: held_at}
    reports = driver.reports()
    await wire.hand(post, body)
    report = await _next(reports)
    assert isinstance(report, h.Hand) and (report.path, report.value) == (path, by_hand)
    assert await driver.show({path: rest}) == {path: rest}


async def things(address: str, wire: Wire, inside: Inside) -> None:
    driver = ThingsDriver("yard", f"{address}/things", "")
    path = "things/yard/vane/angle"
    await _held_and_back(
        driver, wire, path, "/things/hand", {"thing": "vane", "setting": "angle", "value": 45}, 225, 90, 45
    )
    deed = {"thing": "vane", "deed": "spin", "values": {"turns": 2}}
    await driver.strike(o.Strike("1", "gust", "do", deed), "st_4f01")
    await driver.strike(o.Strike("1", "gust", "do", deed), "st_4f01")
    await driver.close()


async def keys(address: str, wire: Wire, inside: Inside) -> None:
    driver = KeysDriver(WireTapper(f"{address}/keys"), inside.latches)
    await driver.connect()
    await driver.strike(o.Strike("1", "tap", "tap", "F24"), "st_4f01")
    await driver.close()


async def broadcaster(address: str, wire: Wire, inside: Inside) -> None:
    driver = BroadcasterDriver(f"{address}/broadcaster", PASSWORD)
    body = {"path": "broadcast/scene", "value": "Tea table"}
    scenes = ("Workbench", "Yard cam", "Tea table")
    await _held_and_back(driver, wire, "broadcast/scene", "/broadcaster/hand", body, *scenes)
    path = "broadcast/filter/Bench cam/Fog/amount"
    assert await driver.show({path: 70}) == {path: 70}
    assert await driver.show({path: 0}) == {path: 0}
    await driver.close()


async def avatar(address: str, wire: Wire, inside: Inside) -> None:
    driver = OscDriver(GEAR_KINDS["avatar"], address)
    body = {"path": "avatar/outfit", "value": "Sou'wester"}
    outfits = ("Porter", "Top hat", "Sou'wester")
    await _held_and_back(driver, wire, "avatar/outfit", "/avatar/hand", body, *outfits)
    assert await driver.show({"avatar/expression/Cheer": "on"}) == {"avatar/expression/Cheer": "on"}
    assert await driver.show({"avatar/expression/Cheer": "off"}) == {"avatar/expression/Cheer": "off"}
    await driver.close()


async def haptics(address: str, wire: Wire, inside: Inside) -> None:
    driver = HapticsDriver(GEAR_KINDS["haptics"], address, lambda: BOOK, lambda: 1_000)
    greeting = await driver.connect()
    assert greeting.things is not None and len(greeting.things.touches) == 14
    driver.up([o.Show("1", "b", "haptics", "jolt", None, 0)])
    await asyncio.sleep(0.2)
    driver.up([])
    await asyncio.sleep(0.2)
    await driver.close()


async def channel(address: str, wire: Wire, inside: Inside) -> None:
    streams: list[Any] = []

    async def nobody(*hand: Any) -> None:
        raise AssertionError(hand)

    driver = ChannelDriver(
        "",
        address,
        "",
        inside.runner,
        inside.database.sessions,
        lambda *told: streams.append(told),
        nobody,
        lambda *_: None,
        NoPictures(),
    )
    inside.runner.ears = [driver]
    inside.decided = lambda settled, strikes: driver.settling.owe(settled)  # type: ignore[method-assign]
    inside.start()
    driver.start()
    await _until(lambda: driver.state == "in_step" and streams)
    await asyncio.sleep(0.5)
    reward = next(row["body"]["id"] for row in wire.rows if row.get("asks") is None and row.get("status") == 201)
    await wire.hand("/channel/redemptions", {"viewer": "owlpost", "reward": reward, "text": "mind the gap"})
    await _until(lambda: inside.runner.view.run_number)
    await _until(lambda: not driver.settling.owed and not inside.runner.view.runs)
    await driver.reply("Mind the gap, owlpost!", "st_4f01")
    await asyncio.sleep(0.2)
    await driver.stop()
    await inside.stop()


WIRES: dict[str, tuple[Callable[[str, Wire, Inside], Awaitable[None]], str]] = {
    "things": (things, "/things"),
    "keys": (keys, "/keys"),
    "broadcaster": (broadcaster, "/broadcaster"),
    "avatar": (avatar, "osc"),
    "haptics": (haptics, "osc"),
    "channel": (channel, "/channel"),
}
"""What is done on each wire, and the path of its recording."""


def _made(kind: str, rows: list[Row] | None = None, standins: int = 0) -> Any:
    path = WIRES[kind][1]
    if path == "osc":
        return PacketWire(rows, standins)
    return ChannelWire(rows, standins) if kind == "channel" else SocketWire(path, rows, standins)


def _recorded(kind: str) -> list[Row]:
    return [json.loads(line) for line in (SESSIONS / f"{kind}.jsonl").read_text("utf-8").splitlines()]


async def _work(kind: str, wire: Any, folder: Path) -> None:
    inside = Inside(folder, BOOK)
    async with wire.open() as address:
        await WIRES[kind][0](address, wire, inside)


@pytest.mark.parametrize("kind", WIRES)
def test_the_driver_says_what_was_recorded(kind: str, tmp_path: Path) -> None:
    rows = _recorded(kind)
    wire = _made(kind, rows)
    asyncio.run(_work(kind, wire, tmp_path))
    if isinstance(wire, ChannelWire):
        assert wire.unasked() == []
    else:
        assert wire.at == len(rows), rows[wire.at :]


@pytest.mark.parametrize("kind", WIRES)
def test_the_stand_in_answers_as_recorded(kind: str, stand_in: StandIn) -> None:
    asyncio.run(held(_recorded(kind), stand_in.port, WIRES[kind][1]))


def record(kinds: list[str]) -> None:
    """Writes sessions again, each from a fresh stand-in."""
    for kind in kinds or list(WIRES):
        stand_in = StandIn()
        wire = _made(kind, None, stand_in.port)
        with tempfile.TemporaryDirectory() as folder:
            asyncio.run(_work(kind, wire, Path(folder)))
        stand_in.stop()
        lines = [json.dumps(row, ensure_ascii=False) for row in wire.rows]
        (SESSIONS / f"{kind}.jsonl").write_text("".join(f"{line}\n" for line in lines), "utf-8")


if __name__ == "__main__":
    record(sys.argv[1:])
