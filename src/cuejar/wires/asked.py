"""Cue Jar's requests to the other sides, as models; and the OpenAPI and AsyncAPI of the wires, made from both sides'
models.
"""

from __future__ import annotations

from typing import Any, Literal

from pydantic import BaseModel, ConfigDict
from pydantic.json_schema import models_json_schema

from cuejar.live.drivers import broadcaster_wire, catalogued, channel_wire, keys, things_wire
from cuejar.live.drivers.rpc import Envelope

Value = bool | float | str


class Asked(BaseModel):
    """A body, or the params of a call, as Cue Jar sends it."""

    model_config = ConfigDict(extra="forbid")


class Nothing(Asked):
    """No params."""


class SayHello(Asked):
    name: str
    version: int = 1
    token: str = ""


class SetThing(Asked):
    thing: str
    setting: str
    value: Value


class DoDeed(Asked):
    thing: str
    deed: str
    values: dict[str, Value]
    id: str


class SignIn(Asked):
    proof: str
    name: str


class ShowScene(Asked):
    scene: str


class ShowSource(Asked):
    source: str
    visible: bool


class SetFilter(Asked):
    filter: str
    setting: str
    value: Value


class Look(Asked):
    width: int


class KeysHello(Asked):
    name: str


class Tap(Asked):
    keys: list[str]
    id: str = ""


class KnownTaps(Asked):
    ids: list[str]


class AskedLimits(Asked):
    """0: none."""

    cooldown_s: float
    per_stream: int
    per_viewer: int


class RewardChange(Asked):
    """``paused`` is only sent to a channel that can ``pause``, ``limits`` to one that can do ``limits``, ``colour`` to one
    that can do ``colours``.
    """

    title: str
    cost: int
    prompt: str
    text: bool
    on: bool
    paused: bool = False
    limits: AskedLimits | None = None
    colour: str = ""


class NewReward(RewardChange):
    made_by: str


class RewardPictures(Asked):
    """A PNG as base64 for each side in pixels that the channel wants."""

    sizes: dict[str, str]


class RewardOrder(Asked):
    order: list[str]


class Settlement(Asked):
    state: Literal["fulfilled", "refunded"]


class Reply(Asked):
    text: str


CALLS: dict[str, dict[str, type[Asked]]] = {
    "things": {"hello": SayHello, "catalogue": Nothing, "set": SetThing, "do": DoDeed},
    "broadcaster": {
        "sign_in": SignIn,
        "catalogue": Nothing,
        "scene.show": ShowScene,
        "source.show": ShowSource,
        "filter.set": SetFilter,
        "programme.picture": Look,
    },
    "keys": {"hello": KeysHello, "tap": Tap, "known": KnownTaps},
}
"""The methods of the JSON-RPC wires, with their params."""

TELLS: dict[str, dict[str, type[BaseModel]]] = {
    "things": {"changed": things_wire.Changed, "structure": Nothing},
    "broadcaster": {
        "hello": broadcaster_wire.Challenge,
        "changed": broadcaster_wire.Changed,
        "renamed": broadcaster_wire.Renamed,
        "structure": Nothing,
    },
    "keys": {},
}
"""The notifications of each wire."""

RESULTS: dict[str, list[type[BaseModel]]] = {
    "things": [things_wire.Hello, catalogued.Answer],
    "broadcaster": [catalogued.Answer, broadcaster_wire.Picture],
    "keys": [keys.Remembers, keys.Known],
}
EVENTS: dict[str, type[BaseModel]] = {
    "redemption": channel_wire.Redemption,
    **{what: model for what, (model, _) in channel_wire.CALLS.items()},
    "stream": channel_wire.Stream,
    "present": channel_wire.Present,
    "reward": channel_wire.Reward,
}

Route = tuple[str, str, type[Asked] | None, type[BaseModel] | None, dict[str, str]]
ROUTES: list[Route] = [
    ("get", "/channel", None, channel_wire.About, {"200": "what it can", "404": "it can everything"}),
    ("get", "/channel/stream", None, channel_wire.Stream, {"200": "whether it is on"}),
    ("get", "/channel/rewards", None, channel_wire.Reward, {"200": "all rewards"}),
    ("post", "/channel/rewards", NewReward, channel_wire.Reward, {"201": "the reward", "409": "the title is taken"}),
    ("patch", "/channel/rewards/{id}", RewardChange, channel_wire.Reward, {"200": "the reward", "404": "there is none"}),
    ("put", "/channel/rewards/{id}/picture", RewardPictures, None, {"204": "it is shown", "404": "there is none"}),
    ("delete", "/channel/rewards/{id}/picture", None, None, {"204": "it has none", "404": "there is none"}),
    ("put", "/channel/rewards/order", RewardOrder, None, {"200": "so they are shown"}),
    ("delete", "/channel/rewards/{id}", None, None, {"204": "it is gone", "404": "there is none"}),
    ("get", "/channel/redemptions", None, channel_wire.Redemption, {"200": "those that nobody settled"}),
    (
        "patch", "/channel/redemptions/{id}", Settlement, None,
        {"200": "confirmed", "404": "there is none", "409": "it is settled already", "410": "there is none any more",
         "429": "later", "503": "later"},
    ),
    ("post", "/channel/replies", Reply, None, {"201": "sent once per Idempotency-Key"}),
]  # fmt: skip
"""Cue Jar's requests to a channel."""
MEANS = {
    ("get", "/channel"): ("What it can", "Asked on each connection. A channel without it can do rewards and replies."),
    ("get", "/channel/stream"): ("The stream", "Whether it is live, and in which category."),
    ("get", "/channel/rewards"): ("All rewards", "Those that others made, too."),
    ("post", "/channel/rewards"): ("Make a reward", "A repeated key gets the first answer and makes none."),
    ("patch", "/channel/rewards/{id}"): ("Change a reward", "What is left out stays."),
    ("put", "/channel/rewards/{id}/picture"): ("Give a reward its picture", "In the sizes that `can.pictures` names."),
    ("delete", "/channel/rewards/{id}/picture"): ("Take a reward’s picture away", "Also answered if there is none."),
    ("put", "/channel/rewards/order"): ("Sort the rewards", "Rewards that aren’t named keep their places."),
    ("delete", "/channel/rewards/{id}"): ("Remove a reward", "Only one that Cue Jar made."),
    ("get", "/channel/redemptions"): ("Unsettled redemptions", "As in their events."),
    ("patch", "/channel/redemptions/{id}"): ("Settle a redemption", "The same outcome again is confirmed again."),
    ("post", "/channel/replies"): ("Say something in chat", "A repeated key gets the first answer and says nothing."),
}
"""What each request means: its summary and its description."""
LISTS = ("/channel/rewards", "/channel/redemptions")


def _definitions(models: list[type[BaseModel]], where: str) -> dict[str, Any]:
    _, made = models_json_schema(
        [(model, "validation") for model in dict.fromkeys(models)], by_alias=True, ref_template=where + "{model}"
    )
    return dict(made.get("$defs", {}))


def openapi() -> dict[str, Any]:
    """Returns the channel's HTTP as OpenAPI 3.1."""
    where = "#/components/schemas/"
    paths: dict[str, Any] = {}
    for method, path, body, answer, statuses in ROUTES:
        first = next(iter(statuses))
        schema: dict[str, Any] | None = {"$ref": where + answer.__name__} if answer is not None else None
        if method == "get" and path in LISTS and schema is not None:
            schema = {"type": "array", "items": schema}
        responses: dict[str, Any] = {status: {"description": words} for status, words in statuses.items()}
        if schema is not None:
            responses[first]["content"] = {"application/json": {"schema": schema}}
        name = "_".join([method, *(step.strip("{}") for step in path.split("/") if step)])
        summary, means = MEANS[method, path]
        operation: dict[str, Any] = {"operationId": name, "summary": summary, "description": means,
                                     "responses": responses, "security": [{"token": []}, {}]}  # fmt: skip
        if body is not None:
            content = {"application/json": {"schema": {"$ref": where + body.__name__}}}
            operation["requestBody"] = {"required": True, "content": content}
        parameters = []
        if "{id}" in path:
            means = f"the channel’s id of a {'reward' if 'rewards' in path else 'redemption'}"
            parameters.append(
                {"name": "id", "in": "path", "required": True, "description": means, "schema": {"type": "string"}}
            )
        if path == "/channel/redemptions":
            parameters.append(
                {"name": "state", "in": "query", "description": "which", "schema": {"const": "unfulfilled"}}
            )
        if path == "/channel/replies" or (method, path) == ("post", "/channel/rewards"):
            means = "the same for the same request, however often it is sent"
            parameters.append(
                {"name": "Idempotency-Key", "in": "header", "description": means, "schema": {"type": "string"}}
            )
        if parameters:
            operation["parameters"] = parameters
        operation["tags"] = [_tag(path)]
        paths.setdefault(path, {})[method] = operation
    models = [model for _, _, body, answer, _ in ROUTES for model in (body, answer) if model is not None]
    return {
        "openapi": "3.1.0",
        "info": {
            "title": "What Cue Jar asks of a channel",
            "version": "1",
            "description": "The calls that a channel or its bridge answers. Its events are in channel.asyncapi.json.",
        },
        "tags": [{"name": tag} for tag in sorted({_tag(path) for path in paths})],
        "servers": [{"url": "http://127.0.0.1:8710", "description": "the channel, or its bridge"}],
        "paths": paths,
        "components": {
            "schemas": _definitions(models, where),
            "securitySchemes": {"token": {"type": "http", "scheme": "bearer"}},
        },
    }


def _tag(path: str) -> str:
    """Returns the subject of a path: its step after ``/channel``."""
    return path.split("/")[2] if path.count("/") > 1 else "channel"


def asyncapi(wire: str) -> dict[str, Any]:
    """Returns a wire over a WebSocket as AsyncAPI 3.0: what Cue Jar sends, and what it receives."""
    where = "#/components/schemas/"
    if wire == "channel":
        payloads = {f"cuejar.channel.{what}": model for what, model in EVENTS.items()}
        received = {name: _event(name, where + model.__name__) for name, model in payloads.items()}
        sent: dict[str, Any] = {}
        models: list[type[BaseModel]] = list(EVENTS.values())
        address = "/channel/events"
    else:
        tells, calls = TELLS[wire], CALLS[wire]
        received = {name: _call(name, where + model.__name__, False) for name, model in tells.items()}
        received["answer"] = {"payload": {"$ref": where + "Envelope"}}
        sent = {name: _call(name, where + model.__name__, True) for name, model in calls.items()}
        models = [Envelope, *tells.values(), *calls.values(), *RESULTS[wire]]
        address = f"/{wire}"
    messages = {name.replace(".", "_"): message for name, message in {**received, **sent}.items()}

    def refs(names: dict[str, Any]) -> list[dict[str, str]]:
        return [{"$ref": f"#/channels/wire/messages/{name.replace('.', '_')}"} for name in names]

    channel = {"$ref": "#/channels/wire"}
    operations = {"hear": {"action": "receive", "channel": channel, "messages": refs(received)}}
    if sent:
        operations["ask"] = {"action": "send", "channel": channel, "messages": refs(sent)}
    return {
        "asyncapi": "3.0.0",
        "info": {"title": f"Cue Jar's side of the wire “{wire}”", "version": "1"},
        "channels": {"wire": {"address": address, "messages": messages}},
        "operations": operations,
        "components": {"schemas": _definitions(models, where)},
    }


def _event(kind: str, ref: str) -> dict[str, Any]:
    properties = {
        "specversion": {"const": "1.0"},
        "id": {"type": "string"},
        "source": {"type": "string"},
        "type": {"const": kind},
        "time": {"type": "string", "format": "date-time"},
        "data": {"$ref": ref},
    }
    required = ["specversion", "id", "source", "type", "data"]
    return {"name": kind, "payload": {"type": "object", "required": required, "properties": properties}}


def _call(method: str, ref: str, asked: bool) -> dict[str, Any]:
    properties: dict[str, Any] = {"jsonrpc": {"const": "2.0"}, "method": {"const": method}, "params": {"$ref": ref}}
    if asked:
        properties["id"] = {"type": "integer"}
    return {"name": method, "payload": {"type": "object", "required": list(properties), "properties": properties}}


def described() -> dict[str, dict[str, Any]]:
    """Returns all of them by the names of their files."""
    wires = {f"{wire}.asyncapi.json": asyncapi(wire) for wire in ("channel", "things", "broadcaster", "keys")}
    return {"channel.openapi.json": openapi(), **wires}
