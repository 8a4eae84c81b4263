"""Reading aloud: time to the first sound of 200 characters next to the bare library, and the gaps in a line of texts."""

from __future__ import annotations

import json
import tempfile
import time
from pathlib import Path
from statistics import median
from typing import Any

from websockets.sync.client import connect

from cuejar.speech.espeak import Espeak
from tests.running import Running, until

TEXT = ("The night mail is running late again and the kettle on the signal box stove has boiled dry, so would the clerk "
        "please send Pip along the platform with a lamp and a bucket, and mind the gap in the dark {n}.")  # fmt: skip
TIMES, LINE = 12, 20


def _bare(texts: list[str]) -> list[float]:
    espeak = Espeak.here()
    espeak.say("warm", "en-gb", 1, 1)
    times = []
    for text in texts:
        begun = time.perf_counter()
        espeak.say(text, "en-gb", 1, 1)
        times.append((time.perf_counter() - begun) * 1000)
    return times


def _next(feed: Any, what: str) -> dict[str, Any]:
    while True:
        message: dict[str, Any] = json.loads(feed.recv(timeout=30))
        if message.get("t") == what:
            return message


def _first_sound(running: Running, url: str) -> None:
    """Returns the time until the page has the first samples of it."""
    with running.api.stream("GET", url) as answer:
        there = 0
        for part in answer.iter_raw():
            there += len(part)
            if there > 44:
                return


def reading(folder: Path) -> dict[str, Any]:
    data = folder / "speech" / "data"
    data.mkdir(parents=True)
    running = Running(data).start()
    try:
        cue = {
            "id": "say",
            "name": "Say",
            "calls": [{"kind": "chat", "match": "starts", "text": "!say"}],
            "door": {"text": {"need": True, "max": 400}},
            "entry": "overlap",
            "beats": [{"id": "s", "kind": "speech", "text": "{{text}}"}],
        }
        running.book(cues=[cue], lanes=[{"id": "main", "name": "Main", "line": 30, "wait_s": 900}])
        texts = [TEXT.format(n=n)[:200] for n in range(TIMES)]
        times = []
        with connect(running.overlay_feed(), proxy=None) as feed:
            feed.recv(timeout=5)
            for number, text in enumerate(texts):
                begun = time.perf_counter()
                running.channel.post("/chat", json={"viewer": "owlpost", "text": f"!say {number} {text}"})
                shown = _next(feed, "show")
                _first_sound(running, shown["media"][0]["url"])
                times.append((time.perf_counter() - begun) * 1000)
                while not shown["speech"]["words"]:  # The rest of it is made meanwhile.
                    shown = _next(feed, "show")
                running.api.post("/api/all-to-rest")
            running.book(cues=[{**cue, "entry": "queue"}])
            for number in range(LINE):
                running.channel.post("/chat", json={"viewer": "owlpost", "text": f"!say number {number}"})
            until(lambda: sum(len(lane["waiting"]) for lane in running.state()["lanes"]) >= LINE - 2)
            shown_line = [_next(feed, "show") for _ in range(LINE)]
    finally:
        running.stop()
    ends = [m["at"] + m["media"][0]["length_s"] * 1000 for m in shown_line]
    gaps = [b["at"] - a for a, b in zip(ends[1:], shown_line[2:], strict=False)]
    ours, bare = median(times[1:]), median(_bare(texts))
    return {
        "200 characters to the first sound, ms": round(ours, 1),
        "bare library, ms": round(bare, 1),
        "ratio": round(ours / bare, 2),
        f"gap between {LINE} waiting speeches, ms": {"median": round(median(gaps), 1), "most": round(max(gaps), 1)},
    }


if __name__ == "__main__":
    with tempfile.TemporaryDirectory() as there:
        print(reading(Path(there)))
