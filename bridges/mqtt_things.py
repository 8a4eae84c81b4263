"""Things over MQTT: ``python -m bridges.mqtt_things yard.toml``. A file describes them (`bridges/yard.example.toml`).

Commands are topics and payloads that contain ``{value}`` (or a deed's values by name); messages on a state's topic
report a setting's value. A change that we didn't ask for was made by hand. An unavailable thing isn't in the catalogue
until it is back; while the broker is disconnected, connections are refused.
"""

from __future__ import annotations

import argparse
import asyncio
import json
import os
import random
import sys
import tomllib
from collections import deque
from pathlib import Path
from typing import Any

import aiomqtt

from bridges.things import Bridge, Refused, fitting

MOST_PAYLOAD = 100_000
MOST_ASKED = 1_000
ECHO_S = 5.0
"""How long a state may take to confirm a request."""


class Wrong(Exception):
    """The file's content is unusable; the text says where and why."""


def config_from(text: str) -> dict[str, Any]:
    """Returns the file's content, checked as far as the start needs. Raises Wrong."""
    try:
        config = tomllib.loads(text)
    except tomllib.TOMLDecodeError as error:
        raise Wrong(f"the file is no TOML: {error}") from error
    broker, things = config.get("broker"), config.get("thing")
    if not isinstance(broker, dict) or not isinstance(broker.get("host"), str):
        raise Wrong("[broker] needs a host")
    if not isinstance(things, list) or not things:
        raise Wrong("there is no [[thing]]")
    for thing in things:
        where = f"thing {thing.get('id', '?')}"
        if not isinstance(thing.get("id"), str):
            raise Wrong(f"{where} needs an id")
        for row in [*thing.get("setting", []), *thing.get("deed", [])]:
            if not isinstance(row.get("id"), str) or not isinstance(row.get("command", {}).get("topic"), str):
                raise Wrong(f"{where}: each setting and deed needs an id and command.topic")
        for row in thing.get("setting", []):
            try:
                fitting(row, row.get("value"))
            except (Refused, KeyError) as error:
                raise Wrong(f"{where}, {row['id']}: it needs a type and a value that fits it ({error})") from error
    return config


def written(template: str, values: dict[str, Any], words: dict[str, str]) -> str:
    """Returns a payload with its values; true and false in the words for ``on`` and ``off``."""
    out = template
    for name, value in values.items():
        said = (
            words["on" if value else "off"]
            if isinstance(value, bool)
            else f"{value:g}"
            if isinstance(value, float)
            else value
        )
        out = out.replace(f"{{{name}}}", str(said))
    return out


def told(row: dict[str, Any], payload: bytes) -> Any:
    """Returns the setting's value in a state's payload. Raises Refused: it isn't a possible one."""
    text = payload[:MOST_PAYLOAD].decode("utf-8", "replace").strip()
    for key in filter(None, str(row["state"].get("path", "")).split(".")):
        try:
            text = json.loads(text)[key] if isinstance(text, str) else text[key]
        except (ValueError, KeyError, TypeError, RecursionError) as error:
            raise Refused(f"there is no “{key}” in it") from error
    value: Any = text
    if row["type"] == "bool" and isinstance(value, str):
        words = {row.get("on", "ON"): True, row.get("off", "OFF"): False}
        value = words.get(value, value)
    elif row["type"] == "number" and isinstance(value, str):
        try:
            value = float(value)
        except ValueError as error:
            raise Refused(f"“{value[:40]}” is no number") from error
    return fitting(row, value)


class Mqtt:
    """A broker's topics as things."""

    def __init__(self, config: dict[str, Any], token: str = "") -> None:
        self.broker = config["broker"]
        self.rows: dict[tuple[str, str], dict[str, Any]] = {}
        self.deeds: dict[tuple[str, str], dict[str, Any]] = {}
        self.available: dict[str, tuple[str, dict[str, Any]]] = {}
        things = []
        for thing in config["thing"]:
            self.rows |= {(thing["id"], row["id"]): row for row in thing.get("setting", [])}
            self.deeds |= {(thing["id"], row["id"]): row for row in thing.get("deed", [])}
            if "available" in thing:
                self.available[thing["available"]["topic"]] = (thing["id"], thing["available"])
            keys = ("id", "name", "type", "min", "max", "step", "unit", "choices", "value", "values")
            things.append(
                {
                    "id": thing["id"],
                    "name": thing.get("name", thing["id"]),
                    "settings": [{k: row[k] for k in keys if k in row} for row in thing.get("setting", [])],
                    "deeds": [{k: row[k] for k in keys if k in row} for row in thing.get("deed", [])],
                }
            )
        self.bridge = Bridge(self.broker.get("name", "MQTT"), things, self._set, self._do, token)
        self.bridge.there = False
        self._client: aiomqtt.Client | None = None
        self._asked: dict[tuple[str, str], deque[tuple[Any, float]]] = {}
        """Unconfirmed requests, in order, each with the time until which it is awaited."""
        self._heard: set[tuple[str, str]] = set()

    # From Cue Jar to the broker

    async def _publish(self, command: dict[str, Any], values: dict[str, Any], words: dict[str, str]) -> None:
        if self._client is None:
            raise OSError("the broker is away")
        payload = written(str(command.get("payload", "{value}")), values, words)
        try:
            await self._client.publish(command["topic"], payload, qos=1, retain=bool(command.get("retain", False)))
        except aiomqtt.MqttError as error:
            raise OSError(str(error)) from error

    async def _set(self, thing: str, setting: str, value: Any) -> None:
        row = self.rows[thing, setting]
        asked = self._asked.setdefault((thing, setting), deque(maxlen=MOST_ASKED))
        asked.append((value, asyncio.get_running_loop().time() + ECHO_S))
        words = {"on": row.get("on", "ON"), "off": row.get("off", "OFF")}
        await self._publish(row["command"], {"value": value}, words)

    async def _do(self, thing: str, deed: str, values: dict[str, Any]) -> None:
        await self._publish(self.deeds[thing, deed]["command"], values, {"on": "true", "off": "false"})

    # From the broker to Cue Jar

    async def hear(self, topic: str, payload: bytes, kept: bool = False) -> None:
        """Takes one message; ``kept``: the broker had stored it (retained)."""
        if topic in self.available:
            thing, row = self.available[topic]
            there = payload.decode("utf-8", "replace").strip() == row.get("payload", "online")
            if there == (thing in self.bridge.hidden):
                (self.bridge.hidden.discard if there else self.bridge.hidden.add)(thing)
                await self.bridge.structure()
        for (thing, setting), row in self.rows.items():
            if row.get("state", {}).get("topic") != topic:
                continue
            try:
                await self._became(thing, setting, told(row, payload), kept)
            except Refused as refused:
                print(f"{topic} says what {thing}/{setting} cannot be: {refused}", file=sys.stderr)

    async def _became(self, thing: str, setting: str, value: Any, kept: bool) -> None:
        key = (thing, setting)
        row = self.bridge.part(thing, "settings", setting) if thing not in self.bridge.hidden else None
        first = kept and key not in self._heard
        self._heard.add(key)
        if self._ours(key, value):
            return
        if row is None or row["value"] == value:
            return
        # A retained message from before the first contact is nobody's change; a fresh one is, even the first.
        if first:
            row.update(value=value, hand={"value": value, "changes": 0})
            await self.bridge.structure()
            return
        await self.bridge.became(thing, setting, value)

    def _ours(self, key: tuple[str, str], value: Any) -> bool:
        """Returns whether we asked for a value, or it was an intermediate one.

        States come back in the order of the requests, and some are skipped: the first match also answers all requests
        before it, but no later one. After requests for A, B and A again, the first A that comes back doesn't end the
        wait.
        """
        asked, now = self._asked.get(key, deque()), asyncio.get_running_loop().time()
        while asked and asked[0][1] < now:
            asked.popleft()
        waited = bool(asked)
        if any(value == one for one, _ in asked):
            while asked.popleft()[0] != value:
                pass
        return waited

    async def keep(self) -> None:
        """Keeps connecting to the broker, with growing pauses."""
        broker, attempt = self.broker, 0
        while True:
            tls = aiomqtt.TLSParameters(ca_certs=broker.get("ca")) if broker.get("tls") else None
            client = aiomqtt.Client(
                broker["host"],
                broker.get("port", 8883 if tls else 1883),
                username=broker.get("username"),
                password=os.environ.get("MQTT_PASSWORD"),
                tls_params=tls,
                timeout=5,
            )
            try:
                async with client:
                    topics = {row["state"]["topic"] for row in self.rows.values() if "state" in row} | set(
                        self.available
                    )
                    for topic in sorted(topics):
                        await client.subscribe(topic, qos=1)
                    self._client, self.bridge.there, attempt = client, True, 0
                    async for message in client.messages:
                        if isinstance(message.payload, (bytes, bytearray)):
                            await self.hear(str(message.topic), bytes(message.payload), bool(message.retain))
            except (aiomqtt.MqttError, OSError) as error:
                print(f"{broker['host']} is away: {error}", file=sys.stderr)
            self._client = None
            await self.bridge.leave()
            await asyncio.sleep(min(30.0, 0.3 * 2 ** min(attempt, 8)) * random.uniform(0.5, 1.0))
            attempt += 1


async def serve(mqtt: Mqtt, port: int) -> None:
    async with asyncio.TaskGroup() as group:
        group.create_task(mqtt.keep())
        group.create_task(mqtt.bridge.serve("127.0.0.1", port))


def main() -> None:
    parser = argparse.ArgumentParser(description="Things over MQTT. The broker's password comes from MQTT_PASSWORD.")
    parser.add_argument("file", type=Path)
    parser.add_argument("--port", type=int, default=9102)
    parser.add_argument("--token", default="")
    given = parser.parse_args()
    try:
        mqtt = Mqtt(config_from(given.file.read_text("utf-8")), given.token)
    except (OSError, Wrong) as error:
        sys.exit(f"{given.file}: {error}")
    asyncio.run(serve(mqtt, given.port))


if __name__ == "__main__":
    main()
