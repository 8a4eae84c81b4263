"""Files and templates from anybody: long, deep and broken ones fail alone, and no template stops the show."""

from __future__ import annotations

import json
import random
from collections.abc import Callable
from typing import Any

import httpx
import pytest

from tests.fuzz.conftest import EXAMPLES, SEED
from tests.fuzz.strange import GOOD, broken, bundle, template
from tests.running import Running

PATIENT_S = 60
"""The maximum time for every answer, whatever came in."""


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
        # Edits are undone: the other tests find the demo unchanged.
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
            key = answer.json()["key"]
            _well(
                target.api.post(f"/api/carry/in/{key}/take", json={"take": [], "data": ["calls", "viewers", "nights"]})
            )
            target.api.delete(f"/api/carry/in/{key}")


def test_templates(target: Running) -> None:
    """Each either is refused, or runs; and the next one is handled."""
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
