"""The bridges alone: each keeps the rules of its wire, and does its job against a real other side."""

from __future__ import annotations

import asyncio
import json
import shutil
import subprocess
from collections.abc import AsyncIterator, Awaitable, Callable
from contextlib import asynccontextmanager
from pathlib import Path
from typing import Any

import aiomqtt
import httpx
import mido
import pytest
import trustme
import uvicorn
import websockets

from bridges import midi_pads
from bridges.channel import Channel
from bridges.irc_channel import Irc, parsed
from bridges.mqtt_things import Mqtt, Wrong, config_from
from bridges.text_channel import added, take
from bridges.things import Bridge, Refused
from cuejar.wires.table import TRIALS
from cuejar.wires.trial import Trial
from tests.running import PATIENCE_S, free_ports

EXAMPLE = Path(__file__).parents[2] / "bridges" / "yard.example.toml"


async def broken(kind: str, address: str, token: str = "") -> list[Any]:
    trial = Trial(lambda row: None)
    await TRIALS[kind](trial, address, token)
    assert any(row.outcome == "holds" for row in trial.tried)
    return [row for row in trial.tried if row.outcome == "broken"]


async def until(check: Callable[[], Any]) -> Any:
    async with asyncio.timeout(PATIENCE_S):
        while not (found := check()):
            await asyncio.sleep(0.02)
    return found


async def ended(*tasks: asyncio.Task[Any]) -> None:
    for task in tasks:
        task.cancel()
    await asyncio.wait(tasks, timeout=PATIENCE_S)


@asynccontextmanager
async def serving(channel: Channel) -> AsyncIterator[str]:
    port = free_ports()
    server = uvicorn.Server(uvicorn.Config(channel.app(), host="127.0.0.1", port=port, log_level="warning"))
    task = asyncio.create_task(server.serve())
    await until(lambda: server.started)
    yield f"http://127.0.0.1:{port}"
    server.should_exit = True
    await task


async def _events(address: str, count: int, after: str = "") -> list[dict[str, Any]]:
    url = address.replace("http", "ws", 1) + "/channel/events" + (f"?after={after}" if after else "")
    async with websockets.connect(url, proxy=None) as socket, asyncio.timeout(PATIENCE_S):
        return [json.loads(await socket.recv()) for _ in range(count)]


def test_a_channel_of_text_keeps_the_wire(tmp_path: Path) -> None:
    said: list[str] = []

    async def say(text: str) -> None:
        said.append(text)

    async def whole() -> None:
        channel = Channel("text", say, "branch-line-token")
        async with serving(channel) as address:
            assert await broken("channel", address, "branch-line-token") == []
            assert said == ["Mind the gap."], "the same key twice is said once"
        channel = Channel("text", say)
        async with serving(channel) as address:
            file = tmp_path / "chat.txt"
            file.write_text("owlpost: before anybody looked\n", "utf-8")
            lines = added(file)
            asyncio.get_running_loop().call_later(
                0.1, lambda: file.open("a").write("owlpost (member, vip): !tea now\n")
            )
            heard = asyncio.create_task(_events(address, 1))
            await until(lambda: channel._listeners)
            assert take(channel, await anext(lines))
            (event,) = await heard
            assert event["data"]["viewer"] == {"id": "owlpost", "name": "owlpost", "roles": ["member", "vip"]}
            assert event["data"]["text"] == "!tea now" and event["type"] == "cuejar.channel.chat"
            assert [take(channel, line) for line in ("# a remark", "  ", "nobody said", "* ended", "* asleep", "pip: ok")] == [
                False, False, False, True, False, True,
            ]  # fmt: skip
            ended, chatted = await _events(address, 2, event["id"])
            assert ended["data"] == {"state": "ended"} and chatted["data"]["viewer"]["name"] == "pip"
            file.write_text("a: anew\n", "utf-8")
            assert await asyncio.wait_for(anext(lines), PATIENCE_S) == "a: anew", "a file that began anew"

    asyncio.run(whole())


@pytest.mark.parametrize(
    ("line", "told"),
    [
        (":owlpost!o@halt PRIVMSG #halt :mind the gap: now", ("owlpost", "PRIVMSG", ["#halt", "mind the gap: now"])),
        ("PING :box.halt", ("", "PING", ["box.halt"])),
        (":box.halt 353 cuejar = #halt :@owlpost +pip clerk", ("box.halt", "353", ["cuejar", "=", "#halt", "@owlpost +pip clerk"])),
        ("\x00\x01 nonsense", ("", "", [])),
        ("", ("", "", [])),
    ],
)  # fmt: skip
def test_messages_of_irc_come_apart(line: str, told: tuple[str, str, list[str]]) -> None:
    assert parsed(line) == told


def test_chat_over_irc_and_back_and_again_after_a_break() -> None:
    got: list[str] = []
    writers: list[asyncio.StreamWriter] = []

    async def server(reader: asyncio.StreamReader, writer: asyncio.StreamWriter) -> None:
        writers.append(writer)
        while line := await reader.readline():
            got.append(line.decode().strip())
            if got[-1].startswith("USER"):
                writer.write(b":box.halt 433 * cuejar :taken\r\n:box.halt 001 cuejar_ :Welcome\r\n")
            if got[-1].startswith("JOIN"):
                writer.write(
                    b":box.halt 353 cuejar_ = #halt :@owlpost +pip clerk\r\nPING :tick\r\n" + b"x" * 9_000 + b"\r\n"
                )
                writer.write(
                    b":owlpost!o@h PRIVMSG #halt :tea?\r\n:clerk!c@h PRIVMSG #other :no\r\n:x!x@h PRIVMSG cuejar_ :no\r\n"
                )
                writer.write(b":box MODE #halt +o-v clerk pip\r\n:clerk!c@h PRIVMSG #halt :\x01ACTION pours\x01\r\n")

    async def whole() -> None:
        port = free_ports()
        async with await asyncio.start_server(server, "127.0.0.1", port, limit=1 << 16):
            irc = Irc("127.0.0.1", port, "#halt", "cuejar")
            irc.channel = channel = Channel("halt", irc.say)
            keeping = asyncio.create_task(irc.keep())
            async with serving(channel) as address:
                await until(lambda: len(channel._told) >= 2)
                told = [json.loads(text)["data"] for text in channel._told.values()]
                assert [(t["viewer"]["name"], t["viewer"]["roles"], t["text"]) for t in told] == [
                    ("owlpost", ["moderator"], "tea?"), ("clerk", ["moderator"], "pours"),
                ]  # fmt: skip
                assert "PONG :tick" in got and "NICK cuejar_" in got
                assert await broken("channel", address) == []
                await until(lambda: "PRIVMSG #halt :Mind the gap." in got)
                writers[0].close()
                await until(lambda: sum(line.startswith("JOIN") for line in got) >= 2)
                async with httpx.AsyncClient(base_url=address, trust_env=False) as http:
                    answer = await http.post("/channel/replies", json={"text": "one\r\nQUIT :two " + "x" * 900})
                assert answer.status_code == 201
                await until(lambda: any("one QUIT :two" in line for line in got))
                assert not any(line.startswith("QUIT") for line in got), "a reply stays one message"
            await ended(keeping)

    asyncio.run(whole())


def test_things_of_a_bridge_keep_the_wire() -> None:
    moved: list[Any] = []

    async def move(*what: Any) -> None:
        moved.append(what)

    async def whole() -> None:
        config = config_from(EXAMPLE.read_text("utf-8"))
        mqtt = Mqtt(config)
        bridge = Bridge("yard", list(mqtt.bridge.things.values()), move, move, "branch-line-token")
        port = free_ports()
        task = asyncio.create_task(bridge.serve("127.0.0.1", port))
        await asyncio.sleep(0.1)
        assert await broken("things", f"ws://127.0.0.1:{port}", "branch-line-token") == []
        deeds = [what for what in moved if what[1] == "puff"]
        assert deeds == [("fog", "puff", {"seconds": 1})], "the same id twice is done once"
        await ended(task)

    asyncio.run(whole())


@asynccontextmanager
async def broker(folder: Path, port: int, tls: int) -> AsyncIterator[None]:
    """A real broker with a password, at one port plain and at another by TLS, with a certificate of ``folder/ca.pem``."""
    password = folder / "passwords"
    program = shutil.which("mosquitto", path="/usr/sbin:/usr/bin:/usr/local/sbin:/usr/local/bin")
    assert program is not None
    password.touch(mode=0o600)
    subprocess.run(["mosquitto_passwd", "-b", str(password), "halt", "signal-box-47"], check=True, capture_output=True)
    (folder / "broker.conf").write_text(
        f"listener {port} 127.0.0.1\nallow_anonymous false\npassword_file {password}\nuser root\n"
        f"listener {tls} 127.0.0.1\ncertfile {folder / 'broker.pem'}\nkeyfile {folder / 'broker.key'}\n",
        "utf-8",
    )
    process = await asyncio.create_subprocess_exec(
        program, "-c", str(folder / "broker.conf"), stderr=asyncio.subprocess.DEVNULL, stdout=asyncio.subprocess.DEVNULL
    )
    try:
        yield
    finally:
        process.terminate()
        await process.wait()


def test_things_over_a_real_broker(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """A command goes out and is confirmed by its state; a change by hand is reported; a thing and the broker disappear
    and return.
    """
    monkeypatch.setenv("MQTT_PASSWORD", "signal-box-47")
    at, tls, port = free_ports(), free_ports(), free_ports()
    ours = trustme.CA()
    ours.cert_pem.write_to_path(str(tmp_path / "ca.pem"))
    certificate = ours.issue_cert("127.0.0.1")
    certificate.private_key_pem.write_to_path(str(tmp_path / "broker.key"))
    certificate.cert_chain_pems[0].write_to_path(str(tmp_path / "broker.pem"))
    text = (
        EXAMPLE.read_text("utf-8")
        .replace("port = 1883", f"port = {tls}")
        .replace("# tls = true ", f'ca = "{tmp_path / "ca.pem"}"\ntls = true ')
        .replace('# username = "halt" ', 'username = "halt" ')
    )
    mqtt = Mqtt(config_from(text))
    heard: dict[str, str] = {}

    async def machine(work: Callable[[aiomqtt.Client], Awaitable[None]]) -> None:
        """Moves the machines themselves, and reports it."""
        async with aiomqtt.Client("127.0.0.1", at, username="halt", password="signal-box-47") as client:
            await client.subscribe("halt/#")

            async def act() -> None:
                async for message in client.messages:
                    heard[str(message.topic)] = bytes(message.payload).decode()  # type: ignore[arg-type]
                    if str(message.topic) == "halt/fog/density/set":
                        await client.publish("halt/fog/density", message.payload, retain=True)

            acting = asyncio.create_task(act())
            await client.publish("halt/fog/status", "online", retain=True)
            await client.publish("halt/fog/density", "20", retain=True)
            await work(client)
            await ended(acting)

    async def ask(socket: Any, method: str, **params: Any) -> Any:
        await socket.send(json.dumps({"jsonrpc": "2.0", "id": method, "method": method, "params": params}))
        while (message := json.loads(await asyncio.wait_for(socket.recv(), PATIENCE_S))).get("id") != method:
            told.append(message)
        return message.get("result", message.get("error"))

    told: list[Any] = []

    async def first(client: aiomqtt.Client) -> None:
        await until(lambda: mqtt.bridge.there and mqtt.bridge.things["fog"]["settings"][0]["value"] == 20)
        address = f"ws://127.0.0.1:{port}"
        async with websockets.connect(address, proxy=None) as socket:
            await ask(socket, "hello", name="cue-jar", version=1)
            # The broker retains nothing of the kettle: its first report is somebody's change, and stays.
            await client.publish("halt/kettle", '{"now": "BOIL"}')
            change = await asyncio.wait_for(_next(socket, "changed", True), PATIENCE_S)
            assert change["by"] == "hand" and change["hand"] == {"value": True, "changes": 1}
        assert await broken("things", address) == []
        async with websockets.connect(address, proxy=None) as socket:
            await ask(socket, "hello", name="cue-jar", version=1)
            shown = await ask(socket, "set", thing="fog", setting="density", value=60)
            assert shown["value"] == 60 and shown["by"] == "cue-jar"
            await until(lambda: heard.get("halt/fog/density") == "60")
            await ask(socket, "do", thing="fog", deed="puff", values={"seconds": 3}, id="st_1")
            await until(lambda: heard.get("halt/fog/puff") == '{"seconds": 3}')
            await ask(socket, "set", thing="kettle", setting="on", value=False)
            await until(lambda: heard.get("halt/kettle/set") == "REST")
            # A knob is turned on the machine itself; an unreadable value changes nothing.
            await client.publish("halt/fog/density", "damp")
            await client.publish("halt/fog/density", "35", retain=True)
            change = await asyncio.wait_for(_next(socket, "changed", 35), PATIENCE_S)
            assert change["by"] == "hand" and change["hand"]["value"] == 35
            await client.publish("halt/fog/status", "offline", retain=True)
            await until(lambda: "fog" in mqtt.bridge.hidden)
            assert [thing["id"] for thing in (await ask(socket, "catalogue"))["things"]] == ["kettle"]
            assert (await ask(socket, "set", thing="fog", setting="density", value=1))["code"] == -32003
            await client.publish("halt/fog/status", "online", retain=True)
            await until(lambda: "fog" not in mqtt.bridge.hidden)

    async def _next(socket: Any, method: str, value: Any) -> Any:
        while True:
            message = told.pop(0) if told else json.loads(await socket.recv())
            if message.get("method") == method and message["params"].get("value") == value:
                return message["params"]

    async def whole() -> None:
        tasks = [asyncio.create_task(mqtt.keep()), asyncio.create_task(mqtt.bridge.serve("127.0.0.1", port))]
        async with broker(tmp_path, at, tls):
            await until(lambda: mqtt.bridge.there)
            await machine(first)
        await until(lambda: not mqtt.bridge.there)
        async with websockets.connect(f"ws://127.0.0.1:{port}", proxy=None) as socket:
            with pytest.raises(websockets.ConnectionClosed):
                await asyncio.wait_for(socket.recv(), PATIENCE_S)
        async with broker(tmp_path, at, tls):
            await until(lambda: mqtt.bridge.there)
        await ended(*tasks)

    asyncio.run(whole())


@pytest.mark.parametrize(
    ("text", "why"),
    [
        ("x =", "no TOML"), ("", "needs a host"), ('[broker]\nhost="h"', r"no \[\[thing\]\]"),
        ('[broker]\nhost="h"\n[[thing]]\nid="a"\n[[thing.setting]]\nid="s"', "command.topic"),
        ('[broker]\nhost="h"\n[[thing]]\nid="a"\n[[thing.setting]]\nid="s"\ntype="bool"\nvalue=3\ncommand={topic="t"}', "a, s"),
    ],
)  # fmt: skip
def test_a_file_that_cannot_be_used_says_where(text: str, why: str) -> None:
    with pytest.raises(Wrong, match=why):
        config_from(text)


def test_pads_fire_cues(capsys: pytest.CaptureFixture[str]) -> None:
    asked: list[str] = []

    def answer(request: httpx.Request) -> httpx.Response:
        asked.append(request.url.path)
        return (
            httpx.Response(404, json={"what": "There is no cue “gone”."})
            if "gone" in request.url.path
            else httpx.Response(200)
        )

    cues = midi_pads.mappings(["note36=mail-call", "control7=tea-break", "program2=rest", "note37=gone"])
    messages = [
        mido.Message("note_on", note=36, velocity=90), mido.Message("note_on", note=36, velocity=0), mido.Message("note_off", note=36),
        *(mido.Message("control_change", control=7, value=value) for value in (3, 60, 64, 90, 127, 70, 3)),
        mido.Message("program_change", program=2), mido.Message("note_on", note=37), mido.Message("note_on", note=50),
        mido.Message("pitchwheel", pitch=10),
    ]  # fmt: skip
    with httpx.Client(transport=httpx.MockTransport(answer), base_url="http://127.0.0.1:8700") as api:
        midi_pads.run(messages, cues, api)
    fired = ["/api/cues/mail-call/fire", "/api/cues/tea-break/fire", "/api/all-to-rest", "/api/cues/gone/fire"]
    assert asked == fired
    said = capsys.readouterr()
    assert "note50 is pressed" in said.out and "There is no cue “gone”." in said.err
    for wrong in ("note200=x", "knob1=x", "note1=", "note1=Big Cue"):
        with pytest.raises(ValueError, match="is not like"):
            midi_pads.mappings([wrong])


def test_a_value_that_does_not_fit_is_refused() -> None:
    async def nothing(*_: Any) -> None: ...

    bridge = Bridge(
        "b", [{"id": "t", "settings": [{"id": "s", "type": "number", "max": 5, "value": 1}]}], nothing, nothing
    )
    with pytest.raises(Refused, match="can’t be"):
        asyncio.run(bridge.became("t", "s", 9))


def test_states_that_come_back_late_are_ours(monkeypatch: pytest.MonkeyPatch) -> None:
    """After requests for 0, 60 and 0 again without an answer, none of the three counts as a change by hand; later
    values do.
    """

    async def whole() -> None:
        mqtt = Mqtt(config_from(EXAMPLE.read_text("utf-8")))
        sent: list[Any] = []

        class Kept:
            async def publish(self, topic: str, payload: str, **_: Any) -> None:
                sent.append((topic, payload))

        monkeypatch.setattr(mqtt, "_client", Kept())
        row = mqtt.bridge.part("fog", "settings", "density")

        async def hears(value: float) -> tuple[float, str]:
            await mqtt.hear("halt/fog/density", str(value).encode())
            return row["value"], row["by"]

        await hears(20)
        for value in (0, 60, 0):
            await mqtt._set("fog", "density", value)
            await mqtt.bridge.became("fog", "density", value, "cue-jar")
        assert [payload for _, payload in sent] == ["0", "60", "0"]
        assert [await hears(value) for value in (0, 60, 0)] == [(0, "cue-jar")] * 3
        assert await hears(35) == (35, "hand")
        # A machine that only reports its final state isn't waited for any longer.
        for value in (10, 60):
            await mqtt._set("fog", "density", value)
            await mqtt.bridge.became("fog", "density", value, "cue-jar")
        assert await hears(60) == (60, "cue-jar")
        assert await hears(10) == (10, "hand")

    asyncio.run(whole())
