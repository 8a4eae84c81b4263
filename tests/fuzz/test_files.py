"""Files and templates from anybody: long, deep and broken ones cost themselves alone, and no template stops the show."""

from __future__ import annotations

import io
import json
import random
import zipfile
from collections.abc import Callable
from typing import Any

import httpx
import pytest

from tests.fuzz import odd
from tests.fuzz.conftest import EXAMPLES, SEED
from tests.running import Running

PATIENT_S = 10
"""Within which every answer must be there, whatever came in."""
GOOD = {
    "vtt": "WEBVTT\n\n00:00:00.000 --> 00:00:02.000\nMind the gap\n",
    "csv": "value,weight\nTea!,2\nMind the gap,1\n",
    "lamps": "name,address,channels,kind\nLamp,1,4,rgbw\n",
    "pattern": "time_ms,side,x,y,size,level\n0,front,0.5,0.5,0.2,1\n200,back,0.5,0.5,0.2,0.5\n",
    "rewards": "title,cost\nSteam whistle,250\n",
    "points": "viewer,points\nowlpost,120\n",
    "otio": '{"OTIO_SCHEMA": "Timeline.1", "tracks": {"OTIO_SCHEMA": "Stack.1", "children": []}}',
}
SIGNS = ["<", '"', "'", "\\", "\n", "\r\n", ";", ",", "\t", "{", "[", "--> ", "&lt;", "\ufeff", "\u2028", "0", "é", " "]


def broken(text: str, rng: random.Random) -> str:
    """A text with a sign over and over, lines of it repeated, or a part of it cut out."""
    how = rng.randrange(5)
    at = rng.randrange(len(text))
    if how == 0:
        return text[:at] + rng.choice(SIGNS) * rng.choice([100, 8_000, 40_000]) + text[at:]
    if how == 1:
        return text * rng.choice([2, 500, 5_000])
    if how == 2:
        return text[:at] + text[at + rng.randrange(1, 20) :]
    if how == 3:
        return "".join(rng.choice(SIGNS) for _ in range(rng.choice([10, 3_000, 30_000])))
    return odd.deep(rng)


def template(rng: random.Random) -> str:
    """A template that is hard to take apart: open, deep, crossed, wide, with other delimiters."""
    names = ["viewer", "text", "payload", "payload.a", ".", "count.calls", "", " " * 200]
    tags = [
        "{{%s}}",
        "{{#%s}}",
        "{{/%s}}",
        "{{^%s}}",
        "{{!%s",
        "{{{%s}}}",
        "{{&%s}}",
        "{{=%s %s=}}",
        "{{>%s}}",
        "{{",
        "}}",
    ]
    pieces = []
    for _ in range(rng.choice([1, 5, 40, 190])):
        tag = rng.choice(tags)
        name = rng.choice(names)
        pieces.append(tag.replace("%s", name) + rng.choice(["", "x", " " * rng.choice([1, 100, 3_000])]))
    return "".join(pieces)[:3_900]


def bundle(rng: random.Random) -> bytes:
    """A bundle whose book, manifest or zip is broken."""
    cue = {
        "id": "far",
        "name": "From afar",
        "beats": [{"id": "c", "kind": "caption", "text": "hi", "length": {"s": 1}}],
    }
    book = {"format": "cue-jar-book", "version": 1, "cues": [cue], "house": {"nights_kept": 1}}
    manifest = {"format": "cue-jar-bundle", "version": 1, "what": "cues", "files": [], "left_out": []}
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as packed:
        for name, told in (("manifest.json", manifest), ("book.json", book)):
            packed.writestr(name, odd.text(told, rng).encode("utf-8", "replace"))
    data = bytearray(out.getvalue())
    if rng.random() < 0.2:
        data[rng.randrange(len(data))] ^= 0xFF
    return bytes(data)


def _well(answer: httpx.Response) -> None:
    assert answer.status_code < 500, (answer.request.url, answer.status_code, answer.text[:500])
    if answer.status_code >= 400:
        assert answer.json()["what"]


WAYS: dict[str, Callable[[Running, str], httpx.Response]] = {
    "vtt": lambda made, text: made.api.post("/api/cues/steam-whistle/captions.vtt", json={"text": text}),
    "otio": lambda made, text: made.api.post("/api/cues/steam-whistle/score.otio", json={"text": text}),
    "csv": lambda made, text: made.api.post("/api/jars/fuzzed/file", json={"form": "csv", "text": text}),
    "lamps": lambda made, text: made.api.post("/api/gear/lamps/lamps.csv", json={"text": text}),
    "pattern": lambda made, text: made.api.post("/api/patterns", json={"name": "Odd", "text": text}),
    "rewards": lambda made, text: made.api.post("/api/rewards/table/preview", json={"text": text}),
    "points": lambda made, text: made.api.post("/api/viewers/table/preview", json={"text": text}),
}


@pytest.mark.parametrize("way", list(WAYS))
def test_texts_that_come_in(way: str, target: Running) -> None:
    target.book(jars=[{"id": "fuzzed", "name": "Fuzzed", "kind": "text", "entries": []}])
    target.api.timeout = httpx.Timeout(PATIENT_S)
    rng = random.Random(f"{way} {SEED}")
    before = target.api.get("/api/book").json()["book"]
    try:
        for _ in range(EXAMPLES):
            _well(WAYS[way](target, broken(GOOD[way], rng)))
    finally:
        # What was taken is taken back: the others find the demo as it was.
        target.api.put("/api/book/cues/steam-whistle", json={"value": _entry(before, "cues", "steam-whistle")})
        target.api.put("/api/book/gear/lamps", json={"value": _entry(before, "gear", "lamps")})


def _entry(book: dict[str, Any], kind: str, thing: str) -> dict[str, Any]:
    return next(one for one in book[kind] if one["id"] == thing)


def test_bundles_that_come_in(target: Running) -> None:
    rng = random.Random(SEED)
    target.api.timeout = httpx.Timeout(PATIENT_S)
    for _ in range(EXAMPLES * 2):
        answer = target.api.post("/api/carry/in", files={"file": ("far.zip", bundle(rng))})
        _well(answer)
        if answer.is_success:
            assert not any("nights" in row["id"] for row in answer.json()["rows"])
            target.api.delete(f"/api/carry/in/{answer.json()['key']}")


def test_templates(target: Running) -> None:
    """Each either is refused, or runs; and the next one is heard."""
    rng = random.Random(SEED)
    target.api.timeout = httpx.Timeout(PATIENT_S)
    payload = json.dumps({"a": [{"a": number} for number in range(300)]})
    for number in range(EXAMPLES * 2):
        beat = {"id": "c", "kind": "caption", "text": template(rng), "length": {"s": 0.2}}
        cue = {"id": "fuzzed", "name": "Fuzzed", "entry": "overlap", "beats": [beat]}
        answer = target.api.put("/api/book/cues/fuzzed", json={"value": cue})
        _well(answer)
        if answer.is_success:
            _well(target.api.post("/api/cues/fuzzed/try", json={"text": payload[:400] + str(number)}))
    target.api.delete("/api/book/cues/fuzzed")
