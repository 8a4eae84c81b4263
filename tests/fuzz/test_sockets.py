"""Whatever comes over a socket fails alone: pages, the channel, and gear on every wire, both sides of each."""

from __future__ import annotations

import contextlib
import json
import random
import time
from collections.abc import Iterator
from typing import Any

import pytest
from websockets.exceptions import ConnectionClosed
from websockets.sync.client import ClientConnection, connect

from cuejar.demo import outside
from tests.fuzz import odd
from tests.fuzz.between import BetweenPackets, BetweenSockets, packet
from tests.fuzz.conftest import EXAMPLES, SEED, heal
from tests.running import PATIENCE_S, Running, until


@pytest.fixture
def rng() -> random.Random:
    return random.Random(SEED)


def _feed(address: str) -> contextlib.AbstractContextManager[ClientConnection]:
    return connect(address, proxy=None, max_queue=None, max_size=None)


PAGE: list[Any] = [
    {"t": "ping", "sent": 12.5},
    {"t": "here", "lag_ms": 3.5, "up": 2, "sound": True},
    {"t": "here", "sound": "blocked"},
]


@pytest.mark.parametrize("which", ["desk", "overlay"])
def test_a_pages_messages_reach_no_other_page(which: str, target: Running, rng: random.Random) -> None:
    address = target.overlay_feed() if which == "overlay" else f"ws://127.0.0.1:{target.port}/api/feed"
    with contextlib.ExitStack() as open_pages, _feed(address) as good:
        bad = open_pages.enter_context(_feed(address))
        for n in range(EXAMPLES * 5):
            said: str | bytes = odd.text(rng.choice(PAGE), rng).encode("utf-8", "replace").decode("utf-8")
            try:
                bad.send(said.encode() if rng.random() < 0.1 else said)
            except ConnectionClosed:
                bad = open_pages.enter_context(_feed(address))
            if n % 10 == 0:
                good.send(json.dumps({"t": "ping", "sent": n}))
                while (told := json.loads(good.recv(timeout=PATIENCE_S)))["t"] != "pong":
                    assert said not in json.dumps(told)
                assert told["sent"] == n


PADS: list[Any] = [
    {"t": "hello", "device": "d1", "number": "ab" * 32, "pair": False},
    {"t": "hello", "device": "d1", "number": "ab" * 32, "pair": True},
    {"t": "prove", "signature": "0" * 64},
    {"t": "do", "n": 1, "body": '{"do":"rest"}', "signature": "0" * 64},
    {"t": "answer", "n": 1, "body": '{"result":{}}', "signature": "0" * 64},
    {"t": "ping", "sent": 12.5},
]


@pytest.mark.parametrize("path", ["/feed", "/hands"])
def test_nobody_gets_in_at_the_pads(path: str, target: Running, rng: random.Random) -> None:
    """Whatever somebody without a key sends is answered with a challenge or a refusal, and nothing else."""
    for _ in range(EXAMPLES * 2):
        with contextlib.suppress(ConnectionClosed), _feed(f"ws://127.0.0.1:{target.port + 5}{path}") as nobody:
            for _ in range(4):
                said = odd.text(rng.choice(PADS), rng).encode("utf-8", "replace").decode("utf-8")
                nobody.send(said.encode() if rng.random() < 0.1 else said)
            while True:
                assert json.loads(nobody.recv(timeout=PATIENCE_S))["t"] in ("challenge", "refused")
    assert target.api.get("/api/health").json()["ok"]


EVENTS: list[Any] = [
    {"specversion": "1.0", "id": "e-1", "source": "/channel", "type": f"cuejar.channel.{what}", "time": "2026-11-26T12:00:00Z",
     "data": {"id": f"{what}-1", "viewer": {"id": "owlpost", "name": "owlpost", "roles": ["follower"], "tier": 1}, **data}}
    for what, data in [
        ("redemption", {"reward": "rw-1", "title": "Tea", "cost": 10, "text": "", "state": "unfulfilled"}),
        ("chat", {"text": "!whistle"}), ("follow", {}), ("tip", {"amount": 3, "text": "for coal"}),
        ("membership", {"tier": 1, "months": 2, "gifts": 0, "text": ""}), ("raid", {"party": 12}),
        ("stream", {"state": "live", "category": "Model railways"}), ("reward", {"title": "Tea"}), ("settled", {}), ("odd", {}),
    ]
]  # fmt: skip


def test_the_channels_events(target: Running, rng: random.Random) -> None:
    for _ in range(EXAMPLES * 10):
        text = odd.text(rng.choice(EVENTS), rng).encode("utf-8", "replace").decode("utf-8")
        target.channel.post("/raw", json={"text": text}).raise_for_status()
    assert _row(target, "halt")["state"] in ("in_step", "catching_up")
    target.channel.post("/follows", json={"viewer": "owlpost"}).raise_for_status()
    log = target.api.get("/api/wires/halt").json()
    assert log["count"] > EXAMPLES


@pytest.fixture
def between(request: pytest.FixtureRequest, target: Running, rng: random.Random) -> Iterator[Any]:
    """Routes the gear's address through something that corrupts messages; afterwards it is as before."""
    gear = request.param
    sockets = {"broadcast": "/broadcaster", "keys": "/keys", "yard": "/things"}
    there: Any
    if gear in sockets:
        there = BetweenSockets(rng, f"ws://127.0.0.1:{target.port + 10}{sockets[gear]}")
    else:
        there = BetweenPackets(rng, target.port + 10)
    heal(target)
    entry = next(row for row in [*outside.GEAR, BROADCASTER] if row["id"] == gear)
    target.book(gear=[entry | {"address": there.address}])
    yield gear, there
    there.spoils = False

    def in_step() -> bool:
        """Returns whether all is in step; a latch whose tap was never answered is settled by a person."""
        row = _row(target, gear)
        if "may be on" in row["problem"]:
            for path in [p["path"] for p in row["properties"] if p["path"].startswith("keys/")]:
                target.api.post(f"/api/gear/{gear}/latch", json={"path": path, "press": False})
        return bool(row["state"] == "in_step")

    until(in_step, patience_s=3 * PATIENCE_S)
    target.book(gear=[entry])
    until(lambda: _row(target, gear)["state"] == "in_step")
    there.stop()


def _row(target: Running, gear: str) -> dict[str, Any]:
    return next(row for row in target.api.get("/api/gear").json() if row["id"] == gear)


HANDS: dict[str, list[tuple[str, Any]]] = {
    "broadcast": [("broadcast/scene", "Yard cam"), ("broadcast/scene", "Workbench"), ("broadcast/filter/Bench cam/Fog/amount", 0.4)],
    "avatar": [("avatar/outfit", "Top hat"), ("avatar/outfit", "Porter")],
    "voice-box": [("voice/pitch", 0.5), ("voice/pitch", 0.0)],
    "coat": [("haptics/strength", 0.7), ("haptics/strength", 1.0)],
}  # fmt: skip
BROADCASTER = {"id": "broadcast", "kind": "broadcaster", "name": "Broadcaster"}
CUES = {
    "broadcast": "fog-on-the-line",
    "keys": "quiet-carriage",
    "avatar": "top-hat",
    "voice-box": "tannoy-voice",
    "coat": "express-rumble",
    "yard": "fill-the-tower",
}


@pytest.mark.parametrize("between", list(CUES), indirect=True)
def test_gear_that_speaks_oddly(between: tuple[str, Any], target: Running) -> None:
    gear, there = between
    root = {"broadcast": "broadcaster", "coat": "haptics", "voice-box": "voice"}.get(gear, gear)
    for n in range(EXAMPLES * 2):
        if gear == "yard":
            target.standin("/things/hand", {"thing": "vane", "setting": "angle", "value": n})
        if gear in HANDS:
            path, value = HANDS[gear][n % len(HANDS[gear])]
            target.api.get("/api/health").raise_for_status()
            target.standin(f"/{root}/hand", {"path": path, "value": value})
        if n % 4 == 0:
            target.api.post(f"/api/cues/{CUES[gear]}/try", json={}).raise_for_status()
        if n % 4 == 2:
            target.api.post("/api/all-to-rest", json={}).raise_for_status()
        time.sleep(0.05)
    assert there.spoilt > 0
    assert gear == "keys" or target.api.get(f"/api/wires/{gear}").json()["count"] > 0


def test_packets_from_anybody(target: Running, rng: random.Random) -> None:
    """The gear's port receives packets that nobody sane sends, and goes on."""
    import socket

    from pythonosc.osc_message_builder import OscMessageBuilder

    good = []
    sent: dict[str, list[Any]] = {
        "/avatar/hello": ["cue-jar", 0],
        "/avatar/expression": ["Cheer", True],
        "/voice/pitch": [0.5],
        "/haptics/frame": [b"\x00" * 14],
    }
    for address, values in sent.items():
        made = OscMessageBuilder(address=address)
        for value in values:
            made.add_arg(value)
        good.append(made.build().dgram)
    with socket.socket(socket.AF_INET, socket.SOCK_DGRAM) as out:
        for _ in range(EXAMPLES * 20):
            out.sendto(packet(rng.choice(good), rng), ("127.0.0.1", target.port + 10))
            out.sendto(rng.randbytes(rng.randrange(700)), ("127.0.0.1", target.port + 11))
    heal(target)
    target.book(gear=[row for row in outside.GEAR if row["id"] in ("avatar", "voice-box", "coat")])
    for gear in ("avatar", "voice-box", "coat"):
        until(lambda gear=gear: _row(target, gear)["state"] == "in_step")
