"""The OpenAPI as other tools read it: what trips up generators and checkers is expressed in another way that means the
same.
"""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

Json = dict[str, Any]

ABOUT = """Everything that Cue Jar's own pages do, for programs on the same computer.

All errors have one shape: what is wrong, what to do, and where in the request."""

TAGS = {
    "book": "The book: all cues, rewards, jars, gear and settings, with undo and versions",
    "building": "Help with building: calls, lengths and requirements of a cue",
    "carry": "Books and cues as files: export and import",
    "cues": "Cues: call, try, copy, create from media",
    "feeds": "WebSockets: the desk and the overlays",
    "files": "Open formats: OpenTimelineIO, WebVTT, CSV, CloudEvents",
    "gear": "Gear: state, catalogue, tests, secrets",
    "health": "Health",
    "inlets": "Incoming hooks",
    "jars": "Jars: draw, empty, odds, files",
    "computer": "This computer: starting with it, a report of a problem",
    "counts": "Counts and their values",
    "lanes": "Lanes: add, delete",
    "ledger": "The ledger: every call and its result",
    "live": "The desk: runs, lines, All to rest",
    "media": "The library of pictures, clips and sounds",
    "nights": "Kept nights and their files",
    "opening": "Opening night: the steps to going live",
    "overlays": "Overlays and their keys",
    "pads": "Pads on a phone: pairing and devices",
    "playbill": "The playbill: what viewers can trigger, as a page and as text",
    "readiness": "Whether a cue could run now",
    "rehearsals": "Rehearsals: simulated nights",
    "rewards": "Rewards at the channel",
    "snags": "Snags: what is wrong in the book",
    "speech": "Voices, and texts read aloud",
    "voice": "Phrases that the streamer says",
    "viewers": "Viewers: points, blocks, forgetting",
    "winners": "Winners: who won what, and whether they have it",
}

PARAMETERS = {
    "anyway": "also if it is used",
    "at": "from which moment on, in ms since the night began",
    "beat": "the id of a beat",
    "before": "only what is before this number",
    "book": "the number of the book that is compared, from 0",
    "call": "the id of a call",
    "count_id": "the id of a count",
    "cue": "the id of a cue",
    "cue_id": "the id of a cue",
    "days": "for how many days nights would be kept",
    "device_id": "the id of a device",
    "for_ms": "how much of it, in ms",
    "form": "the format of the file",
    "gear_id": "the id of a piece of gear",
    "inlet_id": "the id of an inlet",
    "jar_id": "the id of a jar",
    "job_id": "the id of a conversion",
    "kept": "how many nights would be kept",
    "key": "the key that the first request answered with",
    "kind": "the list of the book: `cues`, `rewards`, `jars`…",
    "lane_id": "the id of a lane",
    "limit": "how many at most",
    "line": "the number of a line of the ledger",
    "list_id": "the id of a word list",
    "look_id": "the id of a resting look",
    "made_up": "with made-up names in place of the viewers’",
    "media": "the id of a media entry",
    "media_id": "the id of a media entry",
    "name": "the name of the file",
    "night": "the number of a kept night",
    "offer_id": "the id of an offer to pair",
    "outcome": "only calls that ended so",
    "overlay_id": "the id of an overlay",
    "pattern_id": "the id of a haptic pattern",
    "reason": "only calls with this reason",
    "redemption": "the id of a redemption",
    "rehearsal": "the id of a rehearsal",
    "reward_id": "the id of a reward",
    "run": "the id of a run",
    "run_id": "the id of a run",
    "since": "from then on: ms since 1970",
    "skip": "how many to skip",
    "sort": "the order of the list",
    "text": "what a viewer would write",
    "thing": "the id of the entry",
    "until": "until then: ms since 1970",
    "verdict": "only calls with this verdict",
    "version": "the version of the book",
    "viewer": "the id of a viewer",
    "wire": "the id of a piece of gear, or `channel`",
    "words": "only with these words",
}
"""What each parameter in an address means, unless its route says something else."""

SECURITY = {
    "inletKey": {"type": "http", "scheme": "bearer", "description": "The inlet's key."},
    "inletSignature": {
        "type": "apiKey",
        "in": "header",
        "name": "webhook-signature",
        "description": "Standard Webhooks 1.0, beside webhook-id and webhook-timestamp.",
    },
}
"""How incoming hooks prove themselves."""


def described(told: Json, port: int) -> Json:
    """Returns an OpenAPI with a server address, described tags, and schemas that every reader accepts. It asks for
    credentials only where it says so: the server listens on this computer alone.
    """
    told["components"]["securitySchemes"] = SECURITY
    told["info"]["description"] = ABOUT
    schemas: Json = told["components"]["schemas"]
    for name, schema in schemas.items():
        # Generators can't tell two models of one title apart, the incoming and the outgoing one.
        if name.endswith(("-Input", "-Output")):
            schema["title"] = name.replace("-", "")
    for part in _parts(schemas):
        if "prefixItems" in part and "items" not in part:
            part["items"] = {
                "anyOf": [one for n, one in enumerate(part["prefixItems"]) if one not in part["prefixItems"][:n]]
            }
        if isinstance(part.get("const"), (str, int)):
            part["enum"] = [part.pop("const")]
        if part.get("contentMediaType") == "application/octet-stream":
            part["format"] = "binary"
        if isinstance(part.get("default"), dict) and ("anyOf" in part or "oneOf" in part):
            del part["default"]
    for row in told["paths"].values():
        for operation in row.values():
            for parameter in operation.get("parameters", []):
                if not parameter.get("schema", {}).get("description"):
                    parameter.setdefault("description", PARAMETERS[parameter["name"]])
    used = {tag for row in told["paths"].values() for operation in row.values() for tag in operation.get("tags", [])}
    tags = [{"name": tag, "description": TAGS[tag]} for tag in sorted(used)]
    servers = [{"url": f"http://127.0.0.1:{port}", "description": "Cue Jar on this computer"}]
    return {**told, "servers": servers, "security": [{}], "tags": tags}


def _parts(value: Any) -> Iterator[Json]:
    """Yields every object in it, however deep."""
    if isinstance(value, dict):
        yield value
        for inside in list(value.values()):
            yield from _parts(inside)
    elif isinstance(value, list):
        for inside in value:
            yield from _parts(inside)
