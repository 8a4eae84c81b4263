"""Which wires can be tried, and the schemas of their messages."""

from __future__ import annotations

from collections.abc import Callable, Coroutine
from typing import Any

from pydantic import BaseModel
from pydantic.json_schema import models_json_schema

from cuejar.live.drivers import broadcaster_wire, catalogued, channel_wire, keys, rpc, things_wire
from cuejar.wires.asked import described
from cuejar.wires.channel import try_channel
from cuejar.wires.hook import try_hook
from cuejar.wires.osc import try_avatar, try_haptics, try_voice
from cuejar.wires.others import try_broadcaster, try_keys
from cuejar.wires.things import try_things
from cuejar.wires.trial import Trial

TRIALS: dict[str, Callable[[Trial, str, str], Coroutine[Any, Any, None]]] = {
    "channel": try_channel,
    "things": try_things,
    "broadcaster": try_broadcaster,
    "keys": try_keys,
    "avatar": try_avatar,
    "voice": try_voice,
    "haptics": try_haptics,
    "hook": try_hook,
}
"""The trial of each wire: with the address of the other side, and its secret if it has one."""
PAGES = {"avatar": "osc", "voice": "osc", "haptics": "osc", "hook": "hooks"}
"""The page of a wire in ``docs/reference/wires/``, if its name differs."""


class ThingWhole(things_wire.Thing):
    """A thing with its rows read."""

    settings: list[things_wire.Setting] = []
    deeds: list[DeedWhole] = []


class DeedWhole(things_wire.Deed):
    """A deed with its values read."""

    values: list[things_wire.Kind] = []


class Catalogue(BaseModel):
    """What a bridge has."""

    things: list[ThingWhole]


ThingWhole.model_rebuild()

MESSAGES: dict[str, list[type[BaseModel]]] = {
    "channel": [
        channel_wire.Event,
        channel_wire.Redemption,
        channel_wire.Chat,
        channel_wire.Follow,
        channel_wire.Tip,
        channel_wire.Membership,
        channel_wire.Raid,
        channel_wire.Stream,
        channel_wire.Reward,
        channel_wire.About,
    ],
    "things": [rpc.Envelope, things_wire.Hello, Catalogue, catalogued.Answer, things_wire.Changed],
    "broadcaster": [
        rpc.Envelope,
        broadcaster_wire.Challenge,
        broadcaster_wire.Things,
        broadcaster_wire.Scene,
        broadcaster_wire.Source,
        broadcaster_wire.Filter,
        broadcaster_wire.Setting,
        broadcaster_wire.Changed,
        broadcaster_wire.Renamed,
        broadcaster_wire.Picture,
        catalogued.Answer,
    ],
    "keys": [rpc.Envelope, keys.Remembers, keys.Known],
}
"""The other side's messages of each wire, as the drivers read them."""


def schemas() -> dict[str, dict[str, Any]]:
    """Returns the schemas of the other sides' messages, and the OpenAPI and AsyncAPI of the wires, by the names of
    their files.
    """
    return {**{f"{wire}.schema.json": _schema(wire, models) for wire, models in MESSAGES.items()}, **described()}


def _schema(wire: str, models: list[type[BaseModel]]) -> dict[str, Any]:
    _, definitions = models_json_schema([(model, "validation") for model in models], by_alias=True)
    head = {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "title": f"Cue Jar: what the other side of the wire “{wire}” says",
        "anyOf": [{"$ref": f"#/$defs/{model.__name__}"} for model in models],
    }
    return {**head, **definitions}
