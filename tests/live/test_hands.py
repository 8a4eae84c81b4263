"""Keys on another computer: paired by a code, every press counted and signed, latches' promise over cuts and ends."""

from __future__ import annotations

import asyncio
import importlib.util
import json
import os
import random
import secrets
import shutil
import signal
import subprocess
import sys
from pathlib import Path
from typing import Any

import pytest
from websockets.asyncio.server import ServerConnection, serve

from cuejar.core.rules.pairing import of_code
from cuejar.hands import Hands, Lost, Memory, Over, address_of
from tests.computer import Computer, Keyboard
from tests.phone import Phone, signature
from tests.running import PATIENCE_S, Running, free_ports, until

F8, MUTE = "F8", "ControlLeft+KeyM"
CUES = [
    {"id": "tap", "name": "Tap", "entry": "overlap", "beats": [{"id": "k", "kind": "tap", "combo": F8}]},
    {"id": "mute", "name": "Mute", "entry": "overlap",
     "beats": [{"id": "k", "kind": "keys", "combo": MUTE, "length": "open"}]},
]  # fmt: skip


def pads_of(running: Running) -> str:
    return f"http://127.0.0.1:{running.port + 5}"


def code_of(running: Running) -> str:
    made = running.api.post("/api/pads/offers", json={"here": True, "does": "hands", "name": "Game computer"})
    made.raise_for_status()
    command: str = made.json()["link"]
    assert command.startswith(f"cuejar hands {pads_of(running)}/ ")
    return command.rsplit(" ", 1)[1]


def gear(running: Running) -> dict[str, Any]:
    return next(one for one in running.api.get("/api/gear").json() if one["kind"] == "keys")


def latch(running: Running) -> Any:
    return next((one["actual"] for one in gear(running)["properties"] if one["path"] == f"keys/{MUTE}"), "off")


def fire(running: Running, cue: str) -> None:
    running.api.post(f"/api/cues/{cue}/fire", json={}).raise_for_status()


def rest(running: Running) -> None:
    running.api.post("/api/all-to-rest").raise_for_status()


@pytest.fixture
def halt(running: Running) -> Running:
    running.book(gear=[{"id": "keys", "kind": "keys", "name": "Keys", "address": "hands:"}], cues=CUES)
    return running


def test_every_tap_is_done_once_over_cuts_and_ends_of_both_sides(halt: Running, tmp_path: Path) -> None:
    assert until(lambda: "no other computer is paired" in gear(halt)["problem"])
    keyboard, file = Keyboard(), tmp_path / "hands.json"
    with Computer(file, keyboard, code_of(halt)).runs(pads_of(halt)) as there:
        until(lambda: gear(halt)["state"] == "in_step")
        assert halt.state()["pads"]["hands"]["connected"] == 1 and not halt.state()["pads"]["devices"]
        fire(halt, "tap")
        until(lambda: keyboard.taps == [F8])
        # Cut before the press: it is asked again. Cut after it: it is known to be done.
        for cut, cue in (("before", "mute"), ("after", "")):
            there.cut = cut
            fire(halt, cue) if cue else rest(halt)
            shows = "on" if cue else "off"
            until(lambda shows=shows: latch(halt) == shows and gear(halt)["state"] == "in_step")
        assert keyboard.taps == [F8, MUTE, MUTE]
        fire(halt, "mute")
        until(lambda: latch(halt) == "on")
    # While nobody is there what is held ends; it goes back once the computer is there again, after a crash of Cue Jar.
    until(lambda: gear(halt)["state"] == "away")
    rest(halt)
    halt.kill_server()
    halt.start_server()
    with Computer(file, keyboard).runs(pads_of(halt)):
        until(lambda: gear(halt)["state"] == "in_step" and latch(halt) == "off")
        assert keyboard.taps == [F8, MUTE, MUTE, MUTE, MUTE]
        # Ended in the middle of a press: nobody knows, so a person is asked.
        keyboard.stuck = True
        fire(halt, "mute")
        until(lambda: len(keyboard.taps) == 6)
    keyboard.stuck = False
    with Computer(file, keyboard).runs(pads_of(halt)):
        until(lambda: latch(halt) == "doubt")
        assert len(keyboard.taps) == 6


def test_a_code_pairs_one_computer_and_nothing_else(halt: Running, tmp_path: Path) -> None:
    address = f"{pads_of(halt).replace('http', 'ws', 1)}/hands"
    code = code_of(halt)
    offer, key = of_code(code.lower().replace("-", " "))
    as_phone = Phone(address.replace("/hands", "/feed"), offer, key.hex(), pair=True).join()
    assert as_phone.told["refused"]["why"] == "expired"
    first = Phone(address, offer, key.hex(), pair=True)
    assert first.hello()["t"] == "challenge"
    first.send({"t": "prove", "signature": signature(first.key, "pair", first.mine, first.theirs)})
    first.until(lambda: "welcome" in first.told)
    # Cue Jar asks at once, in the words of the wire, signed over both numbers and its count.
    device = first.told["paired"]["device"]
    own = signature(key.hex(), "device", device, first.mine, first.theirs)
    first.until(lambda: "ask" in first.told)
    ask = first.told["ask"]
    assert ask["signature"] == signature(own, "ask", first.mine, first.theirs, "1", ask["body"])
    assert json.loads(ask["body"])["method"] == "hello"
    # An answer that was altered counts against the device, and ends the connection.
    first.send({"t": "answer", "n": 1, "body": '{"result":{"memory":"x"}}', "signature": "0" * 64})
    assert first.is_ended() and halt.state()["pads"]["hands"]["wrong"] == 1
    # Its key is no pad's, the code is used, and a second computer is refused in words.
    assert Phone(address.replace("/hands", "/feed"), device, own).join().told["refused"]["why"] == "unknown"
    with Computer(tmp_path / "second.json", Keyboard(), code).runs(pads_of(halt)) as second:
        assert until(lambda: second.end).startswith("The code has expired")
    refused = halt.api.post("/api/pads/offers", json={"does": "hands"})
    assert refused.status_code == 409 and refused.json()["what"] == "Game computer is paired already."
    halt.api.delete(f"/api/pads/devices/{device}").raise_for_status()
    code_of(halt)


@pytest.mark.parametrize("how", ["signature", "number", "body", "welcome"])
def test_what_is_not_signed_presses_nothing(tmp_path: Path, how: str) -> None:
    """Someone poses as Cue Jar: with no key, with a request heard before, with an altered one."""
    keyboard, key = Keyboard(), secrets.token_bytes(32)
    memory = Memory(tmp_path / "hands.json")
    tries: list[str] = []

    async def pose(socket: ServerConnection) -> None:
        hello = json.loads(await socket.recv())
        theirs = secrets.token_hex(32)
        await socket.send(json.dumps({"t": "challenge", "number": theirs}))
        await socket.recv()

        def sign(*words: str) -> str:
            return signature(key.hex(), *words)

        welcome = sign("welcome", hello["number"], theirs) if how != "welcome" else "1" * 64
        await socket.send(json.dumps({"t": "welcome", "signature": welcome, "name": "x", "limited": False}))
        body = json.dumps({"method": "tap", "params": {"keys": ["F8"], "id": "latch_1"}})
        right = sign("ask", hello["number"], theirs, "1", body)
        told = {
            "signature": {"t": "ask", "n": 1, "body": body, "signature": "2" * 64},
            "number": {"t": "ask", "n": 2, "body": body, "signature": sign("ask", hello["number"], theirs, "2", body)},
            "body": {"t": "ask", "n": 1, "body": body.replace("F8", "F9"), "signature": right},
            "welcome": {"t": "ask", "n": 1, "body": body, "signature": right},
        }[how]
        tries.append(how)
        await socket.send(json.dumps(told))
        await socket.wait_closed()

    async def main() -> None:
        async with serve(pose, "127.0.0.1", 0) as server:
            address = f"http://127.0.0.1:{next(iter(server.sockets)).getsockname()[1]}"
            memory.pair(address, "d1", key)
            hands = Hands(memory, keyboard, lambda line: None)
            async with asyncio.timeout(PATIENCE_S):
                if how == "welcome":
                    with pytest.raises(Over, match="Something else answers there"):
                        await hands.serve(address)
                else:
                    with pytest.raises(Lost, match="wrongly signed; nothing was pressed"):
                        await hands._serve_once(address)

    asyncio.run(main())
    assert tries == [how] and keyboard.taps == []


def test_its_requests_its_file_and_addresses_are_made_sound(tmp_path: Path) -> None:
    keyboard = Keyboard()
    hands = Hands(Memory(tmp_path / "hands.json"), keyboard, lambda line: None)

    def do(method: Any, **params: Any) -> dict[str, Any]:
        return asyncio.run(hands.do(json.dumps({"method": method, "params": params})))

    for odd in ("", "[]", "{}", '{"method":"tap"}', '{"method":"shell","params":{}}', "[" * 2000):
        assert "error" in asyncio.run(hands.do(odd))
    for keys in ([], [1], ["F8"] * 9, "F8", ["Banana"], [""]):
        assert "error" in do("tap", keys=keys, id="a"), keys
    assert "error" in do("tap", keys=["F8"]) and keyboard.taps == []
    assert do("tap", keys=["F8"], id="a") == do("tap", keys=["F9"], id="a") == {"result": {"tapped": ["F8"]}}
    assert do("known", ids=["a", "b"]) == {"result": {"known": ["a"]}} and keyboard.taps == ["F8"]
    (tmp_path / "hands.json").write_text('{"key": "x"')
    with pytest.raises(Over, match=r"hands.json can’t be read \(it is damaged\)"):
        Memory(tmp_path / "hands.json")
    for told, right in (
        ("192.168.1.20", "http://192.168.1.20:8705"),
        ("http://halt.local:9000/", "http://halt.local:9000"),
        (' "https://halt.local/" ', "https://halt.local:8705"),
    ):
        assert address_of(told) == right
    for odd in ("", "ftp://halt", "http://", "halt:99999"):
        with pytest.raises(ValueError, match=r"address|port"):
            address_of(odd)


def test_the_command_presses_real_keys(halt: Running, tmp_path: Path) -> None:
    """Under a display of its own, where another program listens."""
    if shutil.which("Xvfb") is None or importlib.util.find_spec("pynput") is None:
        pytest.skip("there is no Xvfb or no pynput here")
    display = f":{random.randint(1000, 9000)}"
    env = {**os.environ, "DISPLAY": display, "PYTHONUNBUFFERED": "1", "CUEJAR_HANDS": str(tmp_path / "hands.json")}
    listen = (
        "from pynput import keyboard\nwith keyboard.Listener(on_press=lambda k: print(k, flush=True)) as l: l.join()"
    )

    def command(*words: str) -> subprocess.Popen[str]:
        return subprocess.Popen(
            [sys.executable, "-m", "cuejar.cli", "hands", *words],
            env=env, stdout=subprocess.PIPE, stderr=subprocess.STDOUT, text=True,
        )  # fmt: skip

    with (tmp_path / "keys.txt").open("w") as out:
        screen = subprocess.Popen(
            ["Xvfb", display, "-screen", "0", "320x200x8", "-nolisten", "tcp"], stderr=subprocess.DEVNULL
        )
        until(lambda: Path(f"/tmp/.X11-unix/X{display[1:]}").exists())
        listener = subprocess.Popen([sys.executable, "-c", listen], env=env, stdout=out)
        own = command(pads_of(halt), code_of(halt))
        try:
            until(lambda: gear(halt)["state"] == "in_step")
            until(lambda: fire(halt, "tap") or "Key.f8" in (tmp_path / "keys.txt").read_text(), every=0.5)
            twice = command()
            assert "already running" in twice.communicate(timeout=PATIENCE_S)[0] and twice.returncode == 1
            own.send_signal(signal.SIGINT)
            said = own.communicate(timeout=PATIENCE_S)[0]
            assert own.returncode == 0 and "Pressed F8." in said and "Traceback" not in said
            # Paired once, it needs no address or code; and it can forget.
            own = command()
            until(lambda: gear(halt)["state"] == "in_step")
        finally:
            for process in (own, listener, screen):
                process.terminate()
                process.wait(10)
    assert "Forgotten." in command("--forget").communicate(timeout=PATIENCE_S)[0]
    unpaired = command()
    assert "Not paired yet." in unpaired.communicate(timeout=PATIENCE_S)[0] and unpaired.returncode == 2
    nowhere = command(f"127.0.0.1:{free_ports()}", "short")
    assert "four groups of four" in nowhere.communicate(timeout=PATIENCE_S)[0] and nowhere.returncode == 1
