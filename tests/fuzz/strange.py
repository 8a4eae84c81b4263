"""Files and templates as somebody hostile would write them."""

from __future__ import annotations

import io
import random
import zipfile
from typing import Any

from tests.fuzz import odd

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
    """Returns a text with a character repeated, lines repeated, or a part cut out."""
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
    """Returns a template that is hard to parse: unclosed, deep, crossed, wide, with other delimiters."""
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


LINES: dict[str, dict[str, Any]] = {
    "ledger": {"at": 1, "wall": 2, "call": "c1", "kind": "chat", "verdict": "run", "run": "7", "trace": [["open", True]]},
    "notes": {"run": "7", "at": 1, "what": "draw", "data": {"drawn": "tea"}},
    "settlements": {"redemption": "r1", "outcome": "fulfilled", "confirmed": True},
    "viewers": {"id": "v-owl", "name": "owlpost", "roles": ["member"], "first": 1, "last": 2},
    "paid": {"viewer": "v-owl", "at": 1, "what": "earned", "call": "c1", "wall": 1, "amount": 1.5, "held": 1},
    "winners": {"run": "1", "beat": "prize", "wall": 1, "viewer": "v-owl", "name": "owlpost", "what": "a lamp"},
    "accounts": {"viewer": "v-owl", "name": "owlpost", "held": 7},
    "aliases": {"viewer": "v-owl", "into": "v-owl"},
    "counts": {"count": "cups", "value": 3},
    "nights": {
        "first": 1, "last": 2, "at": 0, "wall": 5, "ended": 9, "ended_wall": 9, "state": {"version": 4}, "entries": [[1, 0, {}]],
    },
}  # fmt: skip


def bundle(rng: random.Random) -> bytes:
    """Returns a bundle whose book, manifest or zip is broken."""
    cue = {
        "id": "far",
        "name": "From afar",
        "beats": [{"id": "c", "kind": "caption", "text": "hi", "length": {"s": 1}}],
    }
    book = {"format": "cue-jar-book", "version": 1, "cues": [cue], "house": {"nights_kept": 1}}
    what = rng.choice(["cues", "all"])
    manifest = {"format": "cue-jar-bundle", "version": 1, "what": what, "files": [], "left_out": []}
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as packed:
        for name, told in (("manifest.json", manifest), ("book.json", book)):
            packed.writestr(name, odd.text(told, rng).encode("utf-8", "replace"))
        for name, line in LINES.items() if what == "all" else ():
            rows = "\n".join(odd.text(line, rng) for _ in range(5))
            packed.writestr(f"data/{name}.jsonl", rows.encode("utf-8", "replace"))
    data = bytearray(out.getvalue())
    if rng.random() < 0.2:
        data[rng.randrange(len(data))] ^= 0xFF
    return bytes(data)
