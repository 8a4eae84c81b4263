"""Incoming OSC: from whom, to which address, and its effect on a running Cue Jar."""

from __future__ import annotations

import socket
import time
from typing import Any

import pytest
from pythonosc.osc_bundle_builder import IMMEDIATELY, OscBundleBuilder
from pythonosc.osc_message import OscMessage
from pythonosc.osc_message_builder import OscMessageBuilder
from pythonosc.udp_client import SimpleUDPClient

from cuejar.core.parts.oscaddress import matches, problem_of
from cuejar.live.osc_in import _arguments
from tests.running import Running, free_ports, until


@pytest.mark.parametrize(
    ("pattern", "yes", "no"),
    [
        ("/pads/*", ["/pads/1", "/pads/"], ["/pads/1/press", "/pad/1"]),
        ("/pads/[1-4]", ["/pads/3"], ["/pads/5", "/pads/33"]),
        ("/pads/[!1-4]", ["/pads/9"], ["/pads/2"]),
        ("/{red,blue}/{on,off}", ["/red/on", "/blue/off"], ["/green/on", "/red,blue/on"]),
        ("/fader?", ["/fader1"], ["/fader", "/fader12"]),
        ("/a.b", ["/a.b"], ["/axb"]),
    ],
)
def test_a_pattern_stands_for_its_addresses(pattern: str, yes: list[str], no: list[str]) -> None:
    assert problem_of(pattern) == ""
    assert [address for address in yes if not matches(pattern, address)] == []
    assert [address for address in no if matches(pattern, address)] == []


@pytest.mark.parametrize("pattern", ["pads", "", "/a b", "/a[1", "/{a", "/" + "x" * 300, "/a\n"])
def test_what_is_no_address_is_said(pattern: str) -> None:
    assert problem_of(pattern)


def test_no_pattern_takes_long() -> None:
    nasty, begun = "/" + "{a,aa}" * 20 + "*a" * 30 + "c", time.perf_counter()
    assert problem_of(nasty) == "" and not matches(nasty, "/" + "a" * 198)
    assert time.perf_counter() - begun < 5, "it is not tried in every way there is"


def remotes(running: Running) -> SimpleUDPClient:
    port = free_ports()
    cue = {
        "id": "bell", "name": "Bell", "entry": "overlap", "door": {"text": {}},
        "calls": [{"kind": "hook", "name": "Signal lever"}],
        "beats": [{"id": "c", "kind": "caption", "text": "{{payload.turns}} {{text}}", "length": {"s": 0.2}}],
    }  # fmt: skip
    running.book(
        cues=[cue],
        inlets=[
            {"id": "lever", "name": "Signal lever", "kind": "osc", "address": "/lever/[1-3]", "fields": {"turns": "0"}, "text": "1"},
            {"id": "pad", "name": "Pad", "kind": "osc", "address": "/pad", "does": "pad", "cue": "bell", "text": "1"},
            {"id": "rest", "name": "Rest", "kind": "osc", "address": "/rest", "does": "rest"},
            {"id": "fader", "name": "Fader", "kind": "osc", "address": "/master", "does": "volume"},
            {"id": "house", "name": "House", "kind": "osc", "address": "/house", "does": "house"},
            {"id": "sound", "name": "Sounds", "kind": "osc", "address": "/sounds", "does": "house", "switch": "sound"},
            {"id": "far", "name": "Far", "kind": "osc", "address": "/far", "does": "rest", "senders": ["127.0.0.2"]},
            {"id": "quick", "name": "Quick", "kind": "osc", "address": "/quick", "per_min": 2},
        ],
    )  # fmt: skip
    house = running.api.get("/api/book").json()["book"]["house"]
    running.book(house={**house, "osc_port": port})
    until(lambda: any(t["name"] == "incoming OSC" for t in running.api.get("/api/health").json()["tasks"]))
    client = SimpleUDPClient("127.0.0.1", port)
    until(lambda: (client.send_message("/unknown", 1), wire(running)["passed_over"].get("/unknown"))[1])
    return client


def _packet(address: str, arguments: list[Any]) -> bytes:
    message = OscMessageBuilder(address)
    for argument in arguments:
        message.add_arg(argument)
    return bytes(message.build().dgram)


def wire(running: Running) -> dict[str, Any]:
    log: dict[str, Any] = running.api.get("/api/wires/osc").json()
    return log


def house(running: Running) -> dict[str, Any]:
    there: dict[str, Any] = running.api.get("/api/book").json()["book"]["house"]
    return there


def test_a_control_surface_is_a_remote(running: Running) -> None:
    client = remotes(running)
    lines = lambda: running.api.get("/api/ledger").json()["lines"]  # noqa: E731
    client.send_message("/lever/2", [3.5, "mind the gap"])
    client.send_message("/lever/2", [0.0, "let go"])
    client.send_message("/lever/9", 1)
    until(lambda: len(lines()) == 1)
    client.send_message("/pad", [1, "all aboard"])
    until(lambda: len(lines()) == 2)
    assert {line["text"] for line in lines()} == {"mind the gap", "all aboard"}
    # The incoming address may be a pattern itself (OSC 1.0); a first argument that is an empty text isn't 0; 0.2
    # is 0.2.
    client.send_message("/{pad,none}", ["", 0.2])
    until(lambda: len(lines()) == 3)
    client.send_message("/lever/2", [0.2, "as it was sent"])
    until(lambda: len(lines()) == 4)
    assert _arguments(list(OscMessage(_packet("/x", [0.2, 3.5, "", True])).params)) == [0.2, 3.5, "", True]
    # A fader reports every step; the book gets its final value.
    revisions = running.api.get("/api/book").json()["version"]
    for step in range(50):
        client.send_message("/master", step / 100)
    until(lambda: house(running)["volume"] == 49)
    assert running.api.get("/api/book").json()["version"] - revisions < 10
    client.send_message("/house", False)
    until(lambda: house(running)["open"] is False)
    client.send_message("/house", True)
    client.send_message("/sounds", 0)
    until(lambda: house(running)["open"] is True and house(running)["switches"] == {"sound": False})
    # A bundle is its messages; a message of its own ends long runs.
    running.api.post("/api/cues/bell/fire")
    bundle = OscBundleBuilder(IMMEDIATELY)
    for address in ("/rest", "/pad"):
        message = OscMessageBuilder(address)
        message.add_arg(1)
        bundle.add_content(message.build())
    with socket.socket(socket.AF_INET, socket.SOCK_DGRAM) as raw:
        raw.sendto(bundle.build().dgram, (client._address, client._port))
        until(lambda: len(lines()) == 6)
        # An unreadable, foreign or excessive message is skipped alone.
        before = wire(running)["count"]
        for odd in (
            b"",
            b"\x00",
            b"/pad\x00\x00\x00\x00,i\x00\x00",
            b"#bundle\x00" + b"\xff" * 20,
            b"/" + b"a" * 9_000,
        ):
            raw.sendto(odd, (client._address, client._port))
    client.send_message("/far", 1)
    for _ in range(4):
        client.send_message("/quick", 1)
    until(lambda: wire(running)["count"] >= before + 4)
    whys = " ".join(row["why"] for row in wire(running)["left_out"])
    assert "127.0.0.1 is not among the senders of Far" in whys
    until(lambda: "More than 2 hooks a minute" in " ".join(row["why"] for row in wire(running)["left_out"]))
    client.send_message("/pad", 1)
    until(lambda: len(lines()) >= 7)


def test_an_inlet_that_cannot_be_is_refused(running: Running) -> None:
    for fields, why in (
        ({"address": "pads"}, "must begin with /"),
        ({"address": "/a", "senders": ["halt"]}, "“halt” isn’t an address"),
        ({"address": "/a", "does": "pad", "cue": "gone"}, "there is no cue “gone”"),
        ({"address": "/a", "does": "house", "switch": "kettle"}, "there is no kind of output “kettle”"),
    ):
        value = {"id": "x", "name": "X", "kind": "osc", **fields}
        answer = running.api.put("/api/book/inlets/x", json={"value": value})
        assert answer.status_code == 422 and why in answer.text, answer.text


def test_a_port_that_is_taken_is_said_and_taken_once_it_is_free(running: Running) -> None:
    with socket.socket(socket.AF_INET, socket.SOCK_DGRAM) as other:
        other.bind(("127.0.0.1", 0))
        port = other.getsockname()[1]
        running.book(inlets=[{"id": "p", "name": "P", "kind": "osc", "address": "/p", "does": "rest"}])
        running.book(house={"osc_port": port})
        trouble = until(lambda: running.api.get("/api/health").json()["troubles"])[0]
        assert f"UDP port {port} can’t be opened" in trouble["what"] and "Rig page" in trouble["means"]
    until(lambda: not running.api.get("/api/health").json()["troubles"])
    assert all(task["falls"] == 0 for task in running.api.get("/api/health").json()["tasks"])
