"""Every route of the API, in this process: what it does, and how it refuses. A missing route is named."""

from __future__ import annotations

import ast
import asyncio
import json
import re
import time
from collections.abc import Iterator, Mapping
from pathlib import Path
from typing import Any, NamedTuple

import httpx
import opentimelineio as otio
import pytest
from jsonschema import Draft202012Validator

from cuejar.api.app import create_app
from cuejar.carriage import Incoming
from cuejar.core.book.book import Book
from cuejar.core.book.files import book_from, book_json
from cuejar.core.facts import happenings as h
from cuejar.demo.load import demo_book, demo_files
from cuejar.live.devices import Device, Offer, now_ms
from cuejar.pads.overlays import OverlaysServer
from cuejar.pads.server import PadsServer
from cuejar.reviews import Waiting
from cuejar.settings import Settings
from cuejar.store.bundle import written
from cuejar.store.otioz import written as bundled
from cuejar.studio import Studio
from tests.running import free_ports

PORT = 8700
RED = {"id": "red", "name": "Red", "beats": [{"id": "b", "kind": "caption", "text": "stop", "length": {"s": 30}}]}
PNG = Path(demo_files()[0])


class Case(NamedTuple):
    """A request and its expected status; ``says`` is in the answer."""

    method: str
    path: str
    status: int = 200
    body: Any = None
    says: str = ""
    files: dict[str, Any] | None = None


def put(path: str, value: Any, status: int = 200, says: str = "") -> Case:
    return Case("PUT", path, status, {"value": value}, says)


NOWHERE = "There is no"
OTIO = (
    otio.schema.Timeline(
        tracks=[
            otio.schema.Track(
                children=[
                    otio.schema.Gap(duration=otio.opentime.RationalTime(24, 24)),
                    otio.schema.Clip(
                        "Platform bell",
                        source_range=otio.opentime.TimeRange(duration=otio.opentime.RationalTime(48, 24)),
                    ),
                ]
            )
        ]
    )
).to_json_string()
_CALL = {
    "call": "c",
    "at": 5,
    "kind": "chat",
    "verdict": "let_in",
    "viewer_name": "owlpost_of_before",
    "run": "r1",
    "cue": "red",
}
_CALL |= {"notes": [{"what": "start", "at": 1}, {"what": "tea", "at": 1}], "trace": ["odd"]}
PAST = (
    json.dumps({"specversion": "1.0", "type": "cue-jar.call", "source": "/ledger/halt", "data": _CALL}).encode() + b"\n"
)
CASES: list[Case] = [
    # The book
    Case("GET", "/api/book"),
    Case("GET", "/api/book/since/0", says='"book":{'),
    Case("GET", "/api/book/since/1?media=unknown", says='"book":null'),
    Case("GET", "/api/book/since/-1", 422, says="version"),
    put("/api/book/house", {"open": True}),
    put("/api/book/house", {"opne": True}, 422, "opne"),
    put("/api/book/reading", {"default": "clerk"}),
    put("/api/book/reading", {"max_parts": 0}, 422, "max_parts"),
    put("/api/book/cues/red", RED),
    put("/api/book/cues/red", {**RED, "lane": "nowhere"}, 422, "there is no lane “nowhere”"),
    put("/api/book/cues/red", {**RED, "id": "blue"}, 422),
    Case("PUT", "/api/book/cues/red", 409, {"value": RED, "version": 1}, "changed in the meantime"),
    put("/api/book/hats/red", {}, 422),
    Case("DELETE", "/api/book/cues/nothing", 404, says=NOWHERE),
    Case("DELETE", "/api/book/rewards/whistle", 422, says="whistle"),
    Case("POST", "/api/book/undo"),
    Case("POST", "/api/book/redo"),
    Case("POST", "/api/book/redo", 404, says="nothing to redo"),
    Case("POST", "/api/rewards", 201, {"title": "Tea", "cost": 10}),
    Case("POST", "/api/rewards", 422, {"title": "", "cost": 0}, "cost"),
    # Rewards
    Case("GET", "/api/rewards/tickets", says="Night mail"),
    Case("POST", "/api/rewards", 409, {"title": " TEA "}, "already"),
    Case("POST", "/api/rewards", 201, {"title": "Cocoa", "cue": True}, '"cue":"cocoa"'),
    Case("POST", "/api/rewards/change", 200, {"rewards": ["tea", "cocoa"], "change": {"cost": 70, "tag": "warm"}}),
    Case("POST", "/api/rewards/change", 200, {"rewards": ["tea"], "change": {"into": "bench", "untag": "warm", "on": False}}),
    Case("POST", "/api/rewards/change", 404, {"rewards": ["nothing"], "change": {}}, NOWHERE),
    Case("POST", "/api/rewards/change", 404, {"rewards": ["tea"], "change": {"into": "nothing"}}, NOWHERE),
    Case("POST", "/api/rewards/order", 200, {"order": ["cocoa", "tea"]}),
    Case("POST", "/api/rewards/order", 404, {"order": ["nothing"]}, NOWHERE),
    Case("POST", "/api/rewards/tea/again", 409, says="wasn’t removed"),
    Case("POST", "/api/rewards/nothing/again", 404, says=NOWHERE),
    Case("POST", "/api/rewards/take-in", 404, {"channel": "given:channel", "id": "rw-1"}, "no longer exists"),
    Case("POST", "/api/rewards/take-over", 404, {"channel": "given:channel", "id": "rw-1"}, "no longer exists"),
    Case("POST", "/api/rewards/curve", 200, {"cost": 100, "price": {"kind": "rising"}, "per_hour": 6}, '"minutes":10.0'),
    Case("POST", "/api/rewards/curve", 422, {"cost": 0}, "cost"),
    Case("GET", "/api/rewards/table.csv", says="Cocoa,70"),
    Case("POST", "/api/rewards/table/preview", 200, {"text": "title;cost\nTea;80\nNew;x"}, "isn’t a whole number"),
    Case("POST", "/api/rewards/table/preview", 422, {"text": "name,cost\nTea,80"}, "no column"),
    Case("POST", "/api/rewards/table", 200, {"text": "title;cost\nTea;80"}, "cost: 80 (was 70)"),
    Case("POST", "/api/rewards/table", 422, {"text": ""}, "is empty"),
    Case("POST", "/api/rewards/remove", 404, {"rewards": ["nothing"]}, NOWHERE),
    Case("POST", "/api/rewards/remove", 200, {"rewards": ["cocoa", "tea"]}),
    # Overlays on other computers
    Case("GET", "/api/overlays-beyond", says='"beyond":""'),
    Case("PUT", "/api/overlays-beyond", 422, {"address": "10.255.255.1"}, "is not an address of this computer"),
    Case("PUT", "/api/overlays-beyond", 200, {"address": ""}, '"begins":""'),
    Case("PUT", "/api/overlays-beyond", 422, {"address": "x" * 99}, "address"),
    # This computer
    Case("GET", "/api/computer", says='"starts":false'),
    Case("PUT", "/api/computer", 200, {"starts": True}, '"starts":true'),
    Case("PUT", "/api/computer", 200, {"starts": False}, '"starts":false'),
    Case("PUT", "/api/computer", 422, {"starts": "often"}, "starts"),
    Case("GET", "/api/computer/report.zip", says="log.txt"),
    # The playbill
    Case("GET", "/api/playbill", says='"key":"reward/whistle"'),
    put("/api/book/playbill", {"words": {"title": "Tonight at the halt", "reward/whistle": "<b>Loud</b> & *long*"}, "left_out": ["poster"]}),
    put("/api/book/playbill", {"words": {"title": 7}}, 422, "words"),
    Case("GET", "/api/playbill.html", says="&lt;b&gt;Loud&lt;/b&gt; &amp; *long*"),
    Case("GET", "/api/playbill.md", says="\\<b\\>Loud\\</b\\> & \\*long\\*"),
    # Viewers and points of our own
    put("/api/book/points", {"on": True, "per_min": 5}),
    put("/api/book/points", {"per_min": -5}, 422, "per_min"),
    Case("GET", "/api/viewers", says='"total":1'),
    Case("GET", "/api/viewers?sort=held", says='"total":1'),
    Case("GET", "/api/viewers?sort=hat", 422, says="sort"),
    Case("GET", "/api/viewers/card?viewer=nobody", 404, says="doesn’t exist"),
    Case("POST", "/api/viewers/say", 404, {"viewer": "nobody", "spared": True}, "doesn’t exist"),
    Case("POST", "/api/viewers/points", 404, {"viewer": "nobody", "held": 1, "why": "x"}, "doesn’t exist"),
    Case("POST", "/api/viewers/points", 422, {"viewer": "nobody", "held": -1, "why": ""}, "held"),
    Case("POST", "/api/viewers/merge", 404, {"viewer": "nobody", "into": "none"}, "doesn’t exist"),
    Case("POST", "/api/viewers/forget", 404, {"viewer": "nobody"}, "doesn’t exist"),
    Case("GET", "/api/viewers/points.csv", says="viewer,name,points"),
    Case("POST", "/api/viewers/table/preview", 200, {"text": "viewer,points\nv-owl,80\n,5"}, "viewer doesn’t exist"),
    Case("POST", "/api/viewers/table/preview", 422, {"text": "hat\n5"}, "no columns"),
    Case("POST", "/api/viewers/table", 200, {"text": "viewer,points\nv-owl,80"}, '"new":1'),
    put("/api/book/points", {}),
    Case("POST", "/api/viewers/table", 409, {"text": "viewer,points\nv-owl,80"}, "points are off"),
    # Building
    Case("POST", "/api/building/measure", 200, {"value": RED}),
    Case("POST", "/api/building/measure", 422, {"value": {"id": "red"}}, "name"),
    Case("POST", "/api/building/try", 200, {"value": RED}),
    Case("POST", "/api/building/try", 422, {"value": RED, "speed": 3}, "speed"),
    Case("POST", "/api/throws", 200, {"beat": {"id": "t", "kind": "throw", "count": 3}}),
    Case("POST", "/api/throws", 422, {"beat": {"id": "t", "kind": "throw", "count": 0}}, "count"),
    Case("GET", "/api/snags"),
    # Cues
    Case("POST", "/api/cues/from-media", 201, {"media": ["whistle-plume"]}),
    Case("POST", "/api/cues/from-media", 404, {"media": ["nothing"]}, NOWHERE),
    Case("POST", "/api/cues/steam-whistle/copy", 201),
    Case("POST", "/api/cues/nothing/copy", 404, says=NOWHERE),
    Case("POST", "/api/cues/many", 200, {"cues": ["red"], "on": False}),
    Case("POST", "/api/cues/many", 404, {"cues": ["nothing"], "on": False}, NOWHERE),
    Case("POST", "/api/cues/many", 200, {"cues": ["red"], "on": True}),
    Case("POST", "/api/cues/match", 200, {"calls": [{"kind": "chat", "match": "is", "text": "!tea"}], "text": "!TEA"}, '"matches":true'),
    Case("POST", "/api/cues/match", 422, {"calls": [{"kind": "hat"}], "text": ""}, "calls"),
    # Jars
    Case("GET", "/api/jars/posters/odds"),
    Case("GET", "/api/jars/nothing/odds", 404, says=NOWHERE),
    Case("POST", "/api/jars/posters/draw", 200, {"count": 10}),
    Case("POST", "/api/jars/posters/draw", 422, {"count": 0}, "count"),
    Case("GET", "/api/jars/posters/file?form=m3u8", says="#EXTM3U"),
    Case("GET", "/api/jars/posters/file?form=gpl", 404, says="has no palette"),
    Case("GET", "/api/jars/posters/file?form=hat", 422, says="form"),
    Case("POST", "/api/jars/posters/file", 422, {"form": "list", "text": "nothing at all"}, "Nothing in this file exists here"),
    Case("POST", "/api/jars/posters/file", 200, {"form": "list", "text": "Steam whistle\nnothing at all"}, "nothing at all"),
    # Media
    Case("GET", "/api/media", says="Steam whistle"),
    Case("POST", "/api/media", 201, files={"files": ("again.png", PNG.read_bytes())}),
    Case("POST", "/api/media", 201, files={"files": ("odd.png", b"not a picture")}, says="odd.png"),
    Case("POST", "/api/media", 422, files={}),
    Case("POST", "/api/media/paths", 201, {"text": f"'{PNG}'\n/nowhere/at/all.png"}, "/nowhere/at/all.png"),
    Case("POST", "/api/media/paths", 422, {"text": 7}, "text"),
    Case("POST", "/api/media/steam-whistle/replace", 422, files={"file": ("odd.png", b"no")}, says="The old file stays"),
    Case("POST", "/api/media/nothing/replace", 404, files={"file": ("odd.png", b"no")}, says=NOWHERE),
    Case("POST", "/api/media/whistle-plume/convert", 422, says="Pictures play as they are"),
    Case("POST", "/api/media/nothing/convert", 404, says=NOWHERE),
    Case("POST", "/api/media/steam-whistle/trim-use", 200, {"from_s": 0.5}, "Steam whistle"),
    Case("POST", "/api/media/nothing/trim-use", 404, {"from_s": 0}, NOWHERE),
    Case("GET", "/api/jobs"),
    Case("DELETE", "/api/jobs/99999", 404, says="already finished"),
    Case("DELETE", "/api/media/steam-whistle", 409, says="Remove it from them first"),
    Case("DELETE", "/api/media/nothing", 404, says=NOWHERE),
    # On air
    Case("POST", "/api/cues/red/fire", 200, None, '"verdict":"let_in"'),
    Case("POST", "/api/cues/nothing/fire", 404, says=NOWHERE),
    Case("POST", "/api/cues/red/try", 422, {"rolled": {"nothing": "x"}}, "has no roll"),
    Case("POST", "/api/cues/nothing/try", 404, {}, NOWHERE),
    Case("POST", "/api/cues/red/try", 200, {"speed": 16}),
    Case("GET", "/api/holds"),
    Case("POST", "/api/runs/99999/release", 409, {}, "already over"),
    Case("POST", "/api/runs/2/release", 200, {}, "Released."),
    Case("POST", "/api/runs/99999/drop", 409, says="waiting"),
    Case("POST", "/api/runs/99999/move", 409, {}, "waiting"),
    Case("POST", "/api/redemptions/nothing/review", 409, {"ok": True}, "waiting"),
    Case("POST", "/api/all-to-rest", says="what"),
    Case("POST", "/api/all-to-rest", says="Everything was already at rest."),
    # The ledger
    Case("GET", "/api/ledger?limit=5", says='"lines"'),
    Case("GET", "/api/ledger?limit=0", 422, says="limit"),
    Case("GET", "/api/ledger.csv", says="at,call,kind"),
    Case("GET", "/api/ledger.csv?since=-1", 422, says="since"),
    Case("GET", "/api/ledger.jsonl?cue=red", says="specversion"),
    Case("GET", "/api/draws", says="[]"),
    Case("GET", "/api/draws?line=", 422, says="line"),
    # Phrases
    Case("GET", "/api/voice", says='"mode":"off"'),
    Case("POST", "/api/voice/held", 200, {"page": "desk", "on": True}, '"open":false'),
    Case("POST", "/api/voice/held", 422, {"page": "", "on": True}, "page"),
    Case("POST", "/api/voice/training", 404, {"phrase": "all aboard"}, "No cue is called by"),
    Case("POST", "/api/voice/training", 422, {"phrase": ""}, "phrase"),
    Case("POST", "/api/voice/training/step", 409, {"step": "say"}, "No phrase is being trained"),
    Case("POST", "/api/voice/training/step", 422, {"step": "shout"}, "step"),
    Case("DELETE", "/api/voice/training", says='"step":"idle"'),
    Case("POST", "/api/voice/forget", 200, {"phrase": "mind the gap"}),
    Case("POST", "/api/voice/forget", 422, {}, "phrase"),
    Case("POST", "/api/voice/microphones", 200, {}),
    # Winners
    Case("GET", "/api/winners", says='"waiting":0,"total":0'),
    Case("GET", "/api/winners?limit=0", 422, says="limit"),
    Case("GET", "/api/winners.csv", says="at,viewer,name,what,cue,given"),
    Case("PUT", "/api/winners/1/prize", 404, {"given": True}, "not on the list of winners"),
    Case("PUT", "/api/winners/1/prize", 422, {}, "given"),
    Case("DELETE", "/api/winners/1/prize", 404, says="not on the list of winners"),
    # Overlays
    Case("GET", "/api/overlays"),
    Case("POST", "/api/overlays/stream/link", says="/overlay/"),
    Case("POST", "/api/overlays/nothing/link", 404, says=NOWHERE),
    Case("POST", "/api/overlays/stream/renew", says="/overlay/"),
    Case("POST", "/api/overlays/nothing/renew", 404, says=NOWHERE),
    # Gear: none of it is connected here
    Case("GET", "/api/gear", says="Stationmaster"),
    Case("GET", "/api/gear/kinds", says="Signing secret"),
    Case("GET", "/api/gear/catalogue"),
    Case("PUT", "/api/gear/broadcast/secret", 200, {"secret": "mind the gap"}, "saved"),
    Case("PUT", "/api/gear/nothing/secret", 404, {"secret": ""}, NOWHERE),
    Case("POST", "/api/gear/lamps/test", 409, says="It is switched off or has no address."),
    Case("POST", "/api/gear/nothing/test", 404, says=NOWHERE),
    put("/api/book/gear/lamps", {"id": "lamps", "kind": "lights", "address": "sacn://multicast/127.0.0.1", "fixtures": [{"id": "signal"}]}),
    put("/api/book/gear/keys", {"id": "keys", "kind": "keys", "address": "ws://127.0.0.1:9"}),
    Case("POST", "/api/gear/keys/test", 409, says="connected"),
    Case("POST", "/api/gear/keys/keep-as-rest", says="0 properties"),
    Case("POST", "/api/gear/nothing/keep-as-rest", 404, says=NOWHERE),
    Case("POST", "/api/gear/keys/hand", 409, {"path": "light/x/level", "value": 1}, "that can be set here"),
    Case("POST", "/api/gear/keys/hand", 200, {"path": "keys/F8", "value": "on"}, "F8 is on"),
    Case("POST", "/api/gear/keys/latch", 409, {"path": "broadcast/scene", "press": True}, "has no latch"),
    Case("GET", "/api/gear/lamps/lamps", says="signal"),
    Case("GET", "/api/gear/nothing/lamps", 404, says=NOWHERE),
    Case("GET", "/api/wires"),
    Case("GET", "/api/wires/nothing", 404, says=NOWHERE),
    Case("GET", "/api/wires/keys", says='"count":0'),
    Case("PUT", "/api/rest-values", 404, {"values": {"broadcast/hat": 1}}, "There is no property"),
    Case("PUT", "/api/rest-values", 200, {"values": {"keys/F8": "off"}}, "saved"),
    Case("POST", "/api/looks", 422, {"name": ""}, "name"),
    Case("POST", "/api/looks", 201, {"name": "As it is"}),
    Case("POST", "/api/looks/bench-night/take", says="Bench night"),
    Case("POST", "/api/looks/nothing/take", 404, says=NOWHERE),
    # Hooks in, patterns
    Case("GET", "/api/inlets/parcel-office/key", says='"key":""'),
    Case("POST", "/api/inlets/parcel-office/key", says="/api/in/parcel-office"),
    Case("GET", "/api/inlets/nothing/key", 404, says=NOWHERE),
    Case("POST", "/api/inlets/nothing/key", 404, says=NOWHERE),
    Case("POST", "/api/in/parcel-office", 401, {"order": {}}),
    Case("POST", "/api/in/nothing", 404, {}, NOWHERE),
    Case("GET", "/api/patterns/express.csv", says="time_ms,side,x,y,size,level"),
    Case("GET", "/api/patterns/nothing.csv", 404, says=NOWHERE),
    Case("POST", "/api/patterns", 201, {"name": "Jolt", "text": "time_ms,side,x,y,size,level\n0,front,.5,.5,.1,1\n500,front,.5,.5,.1,0\n"}),
    Case("POST", "/api/patterns", 422, {"name": "Jolt", "text": "hat"}, "hat"),
    Case("POST", "/api/patterns/play", 200, {"id": "p", "name": "P", "length_s": 1, "places": {"a": {"x": 0, "y": 0}}, "frames": [{"levels": {"a": 1}}]}),
    Case("POST", "/api/patterns/play", 422, {"id": "p", "name": "P", "length_s": 0}, "length_s"),
    Case("POST", "/api/patterns/fit", 200, {"id": "p", "name": "P", "places": {"a": {"x": 0, "y": 0}}}, '"a":'),
    Case("POST", "/api/patterns/fit", 422, {"id": "p", "name": "P", "frames": [{"levels": {"a": 1}}]}, "no place"),
    # Speech
    Case("GET", "/api/voices", says="en"),
    Case("POST", "/api/cast/bench", 200, {"text": "Pip: mind the gap", "sound": False}, "Pip"),
    Case("POST", "/api/cast/bench", 422, {"text": "x" * 20_000}, "text"),
    Case("POST", "/api/words/check", 200, {"text": "you grotbag"}, "grotbag"),
    Case("POST", "/api/words/check", 422, {}, "text"),
    Case("GET", "/api/words/house-rules/file", says="grotbag"),
    Case("GET", "/api/words/nothing/file", 404, says=NOWHERE),
    Case("POST", "/api/words/house-rules/file", 200, {"text": "*poltroon*\n# a note\n"}),
    Case("POST", "/api/words/house-rules/file", 422, {"text": "", "how": "hat"}, "how"),
    Case("POST", "/api/speech/repeat", 409, says="read"),
    Case("GET", "/api/health", says='"ok":'),
    Case("GET", "/api/token", says='"token":'),
    # Lanes
    put("/api/book/counts/tea", {"id": "tea", "name": "Tea", "goal": 10}),
    Case("GET", "/api/counts", 200, None, '"id":"tea","now":0'),
    Case("POST", "/api/counts/tea", 200, {"value": 7}, '"now":7'),
    Case("POST", "/api/counts/tea", 422, {"value": -1}, "value"),
    Case("POST", "/api/counts/moon", 404, {"value": 7}, "count doesn’t exist"),
    Case("GET", "/api/cues/told", 200, None, '"does":"Shows a caption for 30 s"'),
    Case("GET", "/api/cues/red/history", 200, None, '"changes":["added"]'),
    Case("GET", "/api/cues/nowhere/history", 404, None, NOWHERE),
    Case("POST", "/api/quiet", 200, {"share": 0.5, "minutes": 60}, "Volume at 50%"),
    Case("POST", "/api/quiet", 200, {"share": 1}, "back to normal"),
    Case("POST", "/api/quiet", 422, {"share": 2}, "share"),
    Case("POST", "/api/building/door", 200, {"value": RED, "live": True, "in_min": 5}, '"let_in":true'),
    Case(
        "POST",
        "/api/building/door",
        200,
        {"value": {**RED, "door": {"who": ["vip"]}}, "viewer": {"name": "owlpost", "roles": ["member"]}},
        '"reason":"not for this viewer\'s role"',
    ),
    Case("POST", "/api/building/door", 422, {"value": RED, "in_min": -1}, "in_min"),
    Case("POST", "/api/cues/many", 200, {"cues": ["red"], "louder_db": -6}),
    Case("POST", "/api/lanes", 201, {"name": "Coal siding"}, '"lane":"coal-siding"'),
    Case("POST", "/api/lanes", 422, {"name": ""}, "name"),
    Case("POST", "/api/lanes/yard/delete", 422, {}, "cues are in Yard"),
    Case("POST", "/api/lanes/coal-siding/delete", 200, {}, '"version":'),
    Case("POST", "/api/lanes/coal-siding/delete", 422, {}, "no lane"),
    Case("GET", "/api/nothing", 404, says="Nothing is at this address"),
    Case("GET", "/nothing.png", 404, says="Nothing is at this address"),
    Case("GET", "/api/readiness", says="No overlay is connected"),
    Case("POST", "/api/snags/mend", 409, {"check": "too_short", "cue": "steam-whistle"}, "Nothing here can be fixed"),
    put("/api/book/cues/late", {"id": "late", "name": "Late", "beats": [
        {"id": "p", "kind": "picture", "media": {"file": "poster-tea"}, "length": {"s": 1}},
        {"id": "s", "kind": "sound", "media": {"file": "express-rumble"}}]}),
    Case("GET", "/api/snags", says='"fields":{"length":"to_end"},"safe":true'),
    Case("POST", "/api/snags/mend", body={}, says="fixed"),
    Case("GET", "/api/book", says='"length":"to_end"'),
    Case("DELETE", "/api/book/cues/late"),
    # Pads
    Case("GET", "/api/pads", says='"beyond":""'),
    Case("PUT", "/api/pads/beyond", 422, {"address": "203.0.113.9"}, "not an address of this computer"),
    Case("PUT", "/api/pads/beyond", body={"address": ""}, says="127.0.0.1"),
    Case("POST", "/api/pads/offers", 201, {"name": "Signal box phone", "here": True}, "#pair."),
    Case("POST", "/api/pads/offers", 422, {"name": ""}, "name"),
    Case("GET", "/api/pads/offers/open", says="waits"),
    Case("DELETE", "/api/pads/offers/open", says="no longer works"),
    Case("DELETE", "/api/pads/offers/open", 404, says="code has expired"),
    Case("GET", "/api/pads/offers/open", 404, says="code has expired"),
    Case("PUT", "/api/pads/devices/phone", body={"name": "Porter", "cues": ["steam-whistle"]}, says="Porter"),
    Case("PUT", "/api/pads/devices/phone", 422, {"name": ""}, "name"),
    Case("POST", "/api/pads/devices/phone/unlock", says="unlocked"),
    Case("DELETE", "/api/pads/devices/phone", says="revoked"),
    Case("DELETE", "/api/pads/devices/phone", 404, says="no longer paired"),
    Case("POST", "/api/pads/devices/phone/unlock", 404, says="no longer paired"),
    Case("POST", "/api/cues/mind-the-gap/let-go", says="Nothing was held"),
    Case("POST", "/api/cues/nothing/let-go", 404, says=NOWHERE),
    # Export and import
    Case("GET", "/api/carry/book.zip", says="PK"),
    Case("GET", "/api/carry/cues.zip?cue=steam-whistle", says="PK"),
    Case("GET", "/api/carry/cues.zip?cue=nothing", 422, says="there is no cue"),
    Case("GET", "/api/carry/everything.zip", says="PK"),
    Case("GET", "/api/carry/stays", says='"left_out":[]'),
    Case("POST", "/api/carry/in", 201, files={"file": ("book.json", b'{"format": "cue-jar-book", "version": 1}', "application/json")},
         says='"scope":"book"'),
    Case("POST", "/api/carry/in", 422, files={"file": ("x.zip", b"no zip", "application/zip")}, says="neither a zip nor"),
    Case("POST", "/api/carry/in/open/review", 200, {"take": []}, '"counted":"nothing"'),
    Case("POST", "/api/carry/in/open/review", 422, {"take": 1}, "take"),
    Case("POST", "/api/carry/in/open/review", 422, {"data": ["gear"]}, "data"),
    Case("POST", "/api/carry/in/nothing/review", 404, {}, "no longer waiting"),
    Case("POST", "/api/carry/in/open/take", 409, {"version": 1}, "changed in the meantime"),
    Case("POST", "/api/carry/in/open/take", 200, {}, "imported whistle.zip: "),
    Case("POST", "/api/carry/in/open/take", 404, {}, "no longer waiting"),
    Case("DELETE", "/api/carry/in/open", says="Nothing was imported"),
    Case("DELETE", "/api/carry/in/" + "x" * 300, 422, says="key"),
    Case("GET", "/api/books", says='"origin":"import"'),
    Case("GET", "/api/books/copies", says="["),
    Case("GET", "/api/books/2/changes?since=1", says='"state"'),
    Case("GET", "/api/books/99999/changes?since=1", 404, says="no longer kept"),
    Case("POST", "/api/books/2/review", 200, {}, '"scope":"book"'),
    Case("POST", "/api/books/99999/review", 404, {}, "no longer kept"),
    Case("POST", "/api/books/2/take", 200, {"take": ["house"]}, "restored from"),
    Case("POST", "/api/books/99999/take", 404, {}, "no longer kept"),
    # Open formats
    Case("GET", "/api/cues/night-mail/score.otio", says='"Timeline.1"'),
    Case("GET", "/api/cues/nothing/score.otio", 404, says=NOWHERE),
    Case("POST", "/api/cues/mind-the-gap/score.otio", 200, {"text": OTIO}, "new: Platform bell at 1 s for 2 s"),
    Case("POST", "/api/cues/mind-the-gap/score.otio", 422, {"text": "tea"}, "an OpenTimelineIO"),
    Case("GET", "/api/cues/night-mail/score.otioz", says="PK"),
    Case("GET", "/api/cues/nothing/score.otioz", 404, says=NOWHERE),
    Case("POST", "/api/cues/mind-the-gap/score.otioz", 200, files={"file": ("x.otioz", b"".join(bundled(OTIO, {})))}, says="Platform bell"),
    Case("POST", "/api/cues/mind-the-gap/score.otioz", 422, files={"file": ("x.otioz", b"tea")}, says="an OpenTimelineIO bundle"),
    Case("GET", "/api/cues/night-mail/captions.vtt", says="WEBVTT"),
    Case("GET", "/api/cues/nothing/captions.vtt", 404, says=NOWHERE),
    Case("POST", "/api/cues/mind-the-gap/captions.vtt", 200, {"text": "WEBVTT\n\n00:01.000 --> 00:02.000\nTea!\n"}, "new: “Tea!”"),
    Case("POST", "/api/cues/mind-the-gap/captions.vtt", 422, {"text": "tea"}, "isn’t WebVTT"),
    Case("GET", "/api/gear/lamps/lamps.csv", says="lamp,name,profile"),
    Case("GET", "/api/gear/nothing/lamps.csv", 404, says=NOWHERE),
    Case("POST", "/api/gear/lamps/lamps.csv", 200, {"text": "name,address\nTea lamp,400"}, '"version"'),
    Case("POST", "/api/gear/lamps/lamps.csv", 422, {"text": "name,address\nTea lamp,900"}, "line 2"),
    Case("POST", "/api/gear/halt/lamps.csv", 409, {"text": "name\nx"}, "has no lamps"),
    Case("POST", "/api/ledger/in", 200, files={"file": ("calls.jsonl", PAST + b"nonsense\n", "application/x-ndjson")},
         says='{"taken":1,"known":0,"refused":["line 2: isn’t JSON"]}'),
    Case("POST", "/api/ledger/in", 200, files={"file": ("calls.jsonl", PAST, "x/y")}, says='"taken":0,"known":1'),
    Case("POST", "/api/ledger/in", 422, files={"file": ("calls.jsonl", b"x" * 600_000, "x/y")}, says="longer than"),
    Case("GET", "/api/ledger?viewer=owlpost_of_before", says='"total":1'),
    # Nights, and rehearsals of them
    Case("GET", "/api/nights", says='"calls":1'),
    Case("GET", "/api/nights?limit=0", 422, says="limit"),
    Case("GET", "/api/nights/freed?kept=1", says='{"nights":0,"calls":0,"bytes":0}'),
    Case("GET", "/api/nights/freed?days=0", 422, says="days"),
    Case("PUT", "/api/nights/3/note", 200, {"note": "The owl came."}, "saved"),
    Case("PUT", "/api/nights/99/note", 404, {"note": ""}, NOWHERE),
    Case("POST", "/api/rehearsals", 200, {"night": 3, "books": [{"kind": "own"}]}, '"what":"a kept night"'),
    Case("POST", "/api/rehearsals", 404, {"audience": "nobody"}, NOWHERE),
    Case("GET", "/api/nights/3/files/csv?made_up=true", says="at,call,kind"),
    Case("GET", "/api/nights/3/files/csv", says="kettlewright"),
    Case("GET", "/api/nights/3/files/events", says="specversion"),
    Case("GET", "/api/nights/3/files/script", says="cue-jar-script"),
    Case("GET", "/api/nights/3/files/otio", says="Timeline.1"),
    Case("GET", "/api/nights/3/files/vtt", says="WEBVTT"),
    Case("GET", "/api/nights/3/files/page", says="The owl came."),
    Case("GET", "/api/nights/3/files/page?made_up=true", says="<h1>Night of"),
    Case("GET", "/api/nights/3/files/sheet", 422, says="kind"),
    Case("GET", "/api/nights/99/files/csv", 404, says=NOWHERE),
    Case("GET", "/api/rehearsals", says='"what":"a kept night"'),
    Case("GET", "/api/rehearsals/1", says='"calls":1'),
    Case("GET", "/api/rehearsals/99", 404, says="Run it again"),
    Case("GET", "/api/rehearsals/1/timeline", says='"length":600000'),
    Case("GET", "/api/rehearsals/1/timeline?book=1", 404, says="isn’t ready yet"),
    Case("GET", "/api/rehearsals/1/stage?at=0&for_ms=900000", says='"t":"show"'),
    Case("GET", "/api/rehearsals/1/stage?at=-1", 422, says="at"),
    Case("POST", "/api/book/setting", 200, {"setting": "lanes.yard.width", "value": 3}, "Yard"),
    Case("POST", "/api/book/setting", 422, {"setting": "lanes.moon.width", "value": 3}, "no “moon”"),
    Case("DELETE", "/api/rehearsals/1", says="stopped"),
    Case("DELETE", "/api/rehearsals/99", 404, says="Run it again"),
    Case("DELETE", "/api/nights/99", 404, says=NOWHERE),
    Case("DELETE", "/api/nights/3", says="deleted"),
    # Opening night comes last, as gear without an address then uses the simulated one
    Case("GET", "/api/ready/poster-tea.gif", says="GIF"),
    Case("GET", "/api/ready/nothing", 404, says=NOWHERE),
    Case("POST", "/api/overlays/stream/test", 409, says="No page of this overlay"),
    Case("POST", "/api/overlays/nothing/test", 404, says=NOWHERE),
    Case("GET", "/api/simulated", says='"address":null'),
    Case("POST", "/api/simulated/redemptions", 409, {"reward": "Tea"}, "isn’t running"),
    Case("POST", "/api/simulated/redemptions", 422, {"reward": ""}, "reward"),
    Case("POST", "/api/simulated", says="http://127.0.0.1:"),
    Case("POST", "/api/simulated/redemptions", 409, {"reward": "No such reward"}, "no reward"),
    Case("GET", "/api/gear-found", says="["),
    Case("POST", "/api/gear-found", 404, {"kind": "kettle"}, NOWHERE),
]  # fmt: skip


def _past(book: Book, media: Mapping[str, h.MediaFacts], seed: int) -> Iterator[tuple[int, h.Happening]]:
    """Returns a night of ten minutes with one call."""
    begin = now_ms() - 86_400_000
    yield begin, h.NewBook(book_json(book))
    yield begin, h.MediaKnown(dict(media))
    yield begin, h.Stream("live")
    yield begin + 60_000, h.Redemption("r-1", "whistle", h.Viewer("v-1", "kettlewright"), "")
    yield begin + 600_000, h.Stream("ended")


class Answer(NamedTuple):
    """An answer, and the book before and after it, each with its version."""

    response: httpx.Response
    before: tuple[int, dict[str, Any]]
    after: tuple[int, dict[str, Any]]


@pytest.fixture(scope="module")
def answers(tmp_path_factory: pytest.TempPathFactory) -> list[Answer]:
    """Returns the answers to all cases, in order, from the app with the demo's book and no gear."""
    folder = tmp_path_factory.mktemp("routes")
    settings = Settings(data=folder / "data", key_store=False, port=free_ports())
    studio = Studio(settings, first=demo_book, files=demo_files(), past=_past)
    studio.devices.all["phone"] = Device("phone", "Phone", 1)
    studio.devices.offers["open"] = Offer("open", b"k" * 32, now_ms() + 600_000, "Phone", None)
    bundle = folder / "whistle.zip"
    kettle = book_from({"cues": [{**RED, "id": "kettle", "name": "Kettle"}]})
    bundle.write_bytes(b"".join(written(kettle, "cues", {}, ["kettle"])))
    studio.carriage._waiting["open"] = Incoming(Waiting("open", bundle, 10**9, "whistle.zip"), {}, time.monotonic())
    app = create_app(
        studio, PORT, [PadsServer(studio, settings.pads_port), OverlaysServer(studio, settings.overlays_port)]
    )

    async def ask() -> list[Answer]:
        transport = httpx.ASGITransport(app=app)
        async with (
            app.router.lifespan_context(app),
            httpx.AsyncClient(transport=transport, base_url=f"http://127.0.0.1:{PORT}", timeout=60) as client,
        ):
            found = []
            for case in CASES:
                if case.path == "/api/rehearsals/1":
                    await _played(client)
                told = {"json": case.body, "files": case.files} if case.files or case.body is not None else {}
                before = (studio.books.version, studio.books.data)
                response = await client.request(case.method, case.path, **told)
                found.append(Answer(response, before, (studio.books.version, studio.books.data)))
            return found

    return asyncio.run(ask())


async def _played(client: httpx.AsyncClient) -> None:
    """Waits until no rehearsal is running: its workers start with the first request."""
    async with asyncio.timeout(60):
        while any(row["state"] in ("waiting", "running") for row in (await client.get("/api/rehearsals")).json()):
            await asyncio.sleep(0.05)


@pytest.mark.parametrize(
    "number", range(len(CASES)), ids=lambda n: f"{CASES[n].method} {CASES[n].path} {CASES[n].status}"
)
def test_route(number: int, answers: list[Answer]) -> None:
    case, (answer, before, after) = CASES[number], answers[number]
    assert answer.status_code == case.status, answer.text[:500]
    assert case.says in answer.text
    if case.status >= 400:
        refusal = answer.json()
        assert refusal["what"] and set(refusal) == {"what", "do", "problems"}
        assert after == before, "what is refused changes nothing"
        return
    if case.method == "GET":
        assert after == before, "what is only asked for changes nothing"
    told = answer.json() if answer.headers.get("content-type", "").startswith("application/json") else None
    schema = SCHEMAS.get(_operation(case) or ("", ""))
    if schema is not None and told is not None:
        problems = [error.message for error in Draft202012Validator(schema).iter_errors(told)]
        assert problems == [], "it is as the API's description says"
        if isinstance(told, dict) and isinstance(told.get("version"), int):
            assert told["version"] == after[0], "it says which version of the book it made"
            assert (after[0] != before[0]) == (after[1] != before[1]), "a version is a change"
    elif told is None and case.status == 200:
        assert answer.content, "there is something in it"


WHOLE: dict[str, Any] = create_app(None, PORT).openapi()
OPERATIONS: dict[tuple[str, str], dict[str, Any]] = {
    (method.upper(), re.sub(r"\{\w+\}", "*", path)): operation
    for path, row in WHOLE["paths"].items()
    for method, operation in row.items()
}


def _answered(operation: dict[str, Any]) -> dict[str, Any] | None:
    """Returns the schema of what an operation answers with."""
    for status, told in operation["responses"].items():
        schema = told.get("content", {}).get("application/json", {}).get("schema")
        if status.startswith("2") and schema:
            return {**schema, "components": WHOLE["components"]}
    return None


SCHEMAS = {key: schema for key, operation in OPERATIONS.items() if (schema := _answered(operation)) is not None}


def _operation(case: Case) -> tuple[str, str] | None:
    """Returns which operation a case asks for."""
    path = case.path.split("?")[0]
    exact = (case.method, path)
    if exact in OPERATIONS:
        return exact
    fits = (
        key
        for key in OPERATIONS
        if key[0] == case.method and re.fullmatch(re.escape(key[1]).replace(r"\*", "[^/]+"), path)
    )
    return next(fits, None)


def test_every_route_is_here_and_every_one_that_takes_something_refuses() -> None:
    tried: dict[tuple[str, str], set[bool]] = {}
    for case in CASES:
        if (key := _operation(case)) is not None:
            tried.setdefault(key, set()).add(case.status < 400)
    assert set(OPERATIONS) - set(tried) == set(), "not tried at all"
    takes = {key for key, operation in OPERATIONS.items() if operation.get("requestBody") or "*" in key[1]}
    assert {key for key in takes if False not in tried[key]} == set(), "never refuses"


def test_the_book_is_changed_in_one_way_alone() -> None:
    """Only the studio writes revisions and tells everybody: whoever did one of the two would forget the other."""
    home = Path(__file__).parents[2] / "src" / "cuejar"
    for file in home.rglob("*.py"):
        for node in ast.walk(ast.parse(file.read_text("utf-8"))):
            if isinstance(node, ast.Call) and isinstance(node.func, ast.Attribute):
                own = ast.unparse(node.func)
                assert file.name == "studio.py" or not re.search(r"books\.(edit|step|_\w+)$|_book_changed$", own), (
                    file,
                    own,
                )
