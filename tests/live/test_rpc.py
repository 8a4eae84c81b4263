"""The wire of broadcaster and keys, against another side that misbehaves."""

from __future__ import annotations

import asyncio
import json
from collections.abc import Awaitable, Callable
from typing import Any

import pytest
from websockets.asyncio.server import ServerConnection, serve

from cuejar.live.drivers import rpc
from cuejar.live.drivers.base import AwayError, GearRefused
from cuejar.live.drivers.broadcaster import BroadcasterDriver
from cuejar.live.drivers.keys import WireTapper
from tests.running import free_ports

Side = Callable[[ServerConnection, dict[str, Any]], Awaitable[None]]


def between(side: Side, do: Callable[[str], Awaitable[None]]) -> None:
    """Runs ``do`` with the address of a server that answers every call by ``side``."""

    async def hear(socket: ServerConnection) -> None:
        async for text in socket:
            await side(socket, json.loads(text))

    async def whole() -> None:
        port = free_ports()
        async with serve(hear, "127.0.0.1", port):
            await do(f"ws://127.0.0.1:{port}")

    asyncio.run(whole())


async def ask(address: str, expect: type[Exception], why: str) -> None:
    """One call that must fail so, and a connection that must report its end if it has one, and what it couldn't read."""
    ends: list[AwayError] = []
    odd: list[str] = []
    wire = rpc.Rpc(lambda method, params: None, ends.append)
    wire.odd = lambda message, said: odd.append(said)
    await wire.open(address)
    with pytest.raises(expect, match=why):
        await wire.ask("tap", {"keys": ["F8"]})
    await wire.close()
    assert len(ends) <= 1
    assert len(odd) == (why == "no answer")


@pytest.mark.parametrize(
    ("told", "expect", "why"),
    [
        ("this is not JSON", AwayError, "no answer"),
        ("[1, 2]", AwayError, "no answer"),
        ("[" * 3000, AwayError, "no answer"),
        ('{"id": 1, "error": "no"}', AwayError, "no answer"),
        ('{"id": 1, "error": {"message": "no such key"}}', GearRefused, "no such key"),
        ('{"id": 1, "error": {}}', GearRefused, "refused"),
    ],
)
def test_what_cannot_be_understood_is_left_out_and_the_connection_goes_on(
    told: str, expect: type[Exception], why: str, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(rpc, "ANSWER_S", 0.3)

    async def side(socket: ServerConnection, call: dict[str, Any]) -> None:
        assert (call["jsonrpc"], call["method"], call["id"]) == ("2.0", "tap", 1)
        await socket.send(told)

    between(side, lambda address: ask(address, expect, why))


def test_answers_come_in_any_order_and_those_to_nobody_are_passed_over() -> None:
    calls: list[dict[str, Any]] = []

    async def side(socket: ServerConnection, call: dict[str, Any]) -> None:
        calls.append(call)
        if len(calls) == 3:
            await socket.send('{"id": 99, "result": "nobody asked"}')
            await socket.send('{"method": "told", "params": {"by": "itself"}}')
            for one in reversed(calls):
                await socket.send(json.dumps({"id": one["id"], "result": one["params"]["n"]}))

    async def do(address: str) -> None:
        heard: list[tuple[str, dict[str, Any]]] = []
        wire = rpc.Rpc(lambda method, params: heard.append((method, params)), lambda why: None)
        await wire.open(address)
        assert await asyncio.gather(*(wire.ask("count", {"n": n}) for n in range(3))) == [0, 1, 2]
        assert heard == [("told", {"by": "itself"})]
        await wire.close()
        with pytest.raises(AwayError, match="not connected"):
            await wire.ask("count", {"n": 4})

    between(side, do)


def test_silence_and_a_cut_are_said(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(rpc, "ANSWER_S", 0.3)

    async def silent(socket: ServerConnection, call: dict[str, Any]) -> None:
        pass

    async def cut(socket: ServerConnection, call: dict[str, Any]) -> None:
        if call["method"] == "hello":
            await socket.send(json.dumps({"jsonrpc": "2.0", "id": call["id"], "result": {"memory": "m"}}))
            return
        await socket.close(1011, "out of order")

    between(silent, lambda address: ask(address, AwayError, "no answer within 0.3 s"))
    between(cut, lambda address: ask(address, AwayError, "out of order"))

    async def gone(address: str) -> None:
        tapper = WireTapper(address)
        await tapper.open()
        with pytest.raises(AwayError):
            await tapper.tap(["F8"], "one")
        with pytest.raises(AwayError, match="out of order"):
            await tapper.gone()
        await tapper.close()
        nobody = WireTapper("ws://127.0.0.1:9/")
        with pytest.raises(AwayError, match="answer"):
            await nobody.open()

    between(cut, gone)


def test_something_else_than_a_broadcaster_is_said(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("cuejar.live.drivers.broadcaster.ANSWER_S", 0.3)

    async def silent(socket: ServerConnection, call: dict[str, Any]) -> None:
        pass

    async def do(address: str) -> None:
        with pytest.raises(AwayError, match="answer"):
            await BroadcasterDriver(address, "x").connect()

    between(silent, do)
