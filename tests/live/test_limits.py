"""Answers and messages that are too long or too many, on the wire: they end, and waiting ones aren't read into memory."""

from __future__ import annotations

import asyncio
import gzip
import json
import socketserver
import threading
import time
from collections.abc import Iterator
from typing import Any

import httpx
import pytest

from cuejar.live.drivers import limits
from cuejar.live.drivers.base import AwayError
from cuejar.live.drivers.limits import Limited
from cuejar.live.drivers.rpc import Rpc
from cuejar.live.drivers.things import ThingsDriver
from tests.live.test_rpc import between

HEAD = b"HTTP/1.1 200 OK\r\ncontent-type: application/json\r\n"


class _Server(socketserver.ThreadingTCPServer):
    allow_reuse_address, daemon_threads = True, True
    sent = 0


@pytest.fixture
def endless() -> Iterator[_Server]:
    """A channel whose ``/long`` answers without an end, ``/slow`` with a byte now and then, ``/packed`` with 1 GB in 1
    MB.
    """

    class Answers(socketserver.BaseRequestHandler):
        def handle(self) -> None:
            asked = self.request.recv(65_536).split(b" ")[1].decode()
            try:
                if asked == "/packed":
                    body = gzip.compress(b"[" + b"0," * 50_000_000)
                    self.request.sendall(
                        HEAD + b"content-encoding: gzip\r\ncontent-length: %d\r\n\r\n" % len(body) + body
                    )
                    return
                self.request.sendall(HEAD + b"transfer-encoding: chunked\r\n\r\n")
                part = b" " * (1 if asked == "/slow" else 65_536)
                while True:
                    self.request.sendall(b"%x\r\n%s\r\n" % (len(part), part))
                    server.sent += len(part)
                    if asked == "/slow":
                        threading.Event().wait(0.05)
            except OSError:
                return

    server = _Server(("127.0.0.1", 0), Answers)
    threading.Thread(target=server.serve_forever, daemon=True).start()
    yield server
    server.shutdown()
    server.server_close()


@pytest.mark.parametrize(
    ("path", "why"), [("/long", "longer than 8 MB"), ("/slow", "took longer"), ("/packed", "compressed")]
)
def test_an_answer_ends(endless: _Server, path: str, why: str, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(limits, "ANSWER_S", 0.5)

    async def ask() -> None:
        async with httpx.AsyncClient(transport=Limited(httpx.AsyncHTTPTransport(trust_env=False))) as http:
            await http.get(f"http://127.0.0.1:{endless.server_address[1]}{path}")

    with pytest.raises(httpx.ReadError, match=why):
        asyncio.run(ask())
    assert endless.sent < 30_000_000, "beyond what lies between the two nothing is sent"


def test_a_catalogue_that_is_too_long_is_refused_and_a_long_one_not_asked_for_at_once() -> None:
    names = {"things": [{"id": f"t{number}", "name": "x" * 150, "note": "y" * 400} for number in range(400)]}
    asked: list[int] = []

    async def side(socket: Any, call: dict[str, Any]) -> None:
        result: Any = {"version": 1}
        if call["method"] == "catalogue":
            asked.append(1)
            result = {"things": ["x" * 12_000_000]} if len(asked) > 3 else names
            for _ in range(50):
                await socket.send(json.dumps({"jsonrpc": "2.0", "method": "structure", "params": {}}))
        await socket.send(json.dumps({"jsonrpc": "2.0", "id": call["id"], "result": result}))

    async def met(address: str) -> None:
        driver = ThingsDriver("shelf", address, "")
        await driver.connect()
        await asyncio.sleep(1.0)
        assert len(asked) == 2, "it says each time that it changed, and is asked again when that has been taken in"
        asked.extend([1, 1])
        with pytest.raises(AwayError):
            async for _ in driver.reports():
                pass
        await driver.close()

    between(side, met)


def test_messages_are_read_as_fast_as_is_good() -> None:
    """A faster sender has to wait: the line fills, and nothing piles up here."""
    heard: list[str] = []

    async def side(socket: Any, call: dict[str, Any]) -> None:
        for _ in range(20_000):
            await socket.send('{"jsonrpc": "2.0", "method": "changed", "params": {}}')

    async def met(address: str) -> None:
        wire = Rpc(lambda method, params: heard.append(method), lambda error: None)
        begun = time.monotonic()
        await wire.open(address)
        asking = asyncio.create_task(wire.ask("begin", {}, 30))
        await asyncio.sleep(1.5)
        # A busy machine sleeps longer than requested.
        most = limits.MESSAGES_A_SECOND * (limits.BURST_S + time.monotonic() - begun)
        assert 100 < len(heard) <= most + 100
        asking.cancel()
        await wire.close()

    between(side, met)
