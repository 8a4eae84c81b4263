"""Reading aloud live: ready when its turn comes, cut short, failing without harm, waiting for approval."""

from __future__ import annotations

import json
import os
import signal
import subprocess
import sys
import time
import wave
from pathlib import Path
from typing import Any

import psutil
import pytest
from websockets.sync.client import connect

from cuejar.media.probe import probe
from cuejar.speech.effects import CHAINS
from cuejar.speech.espeak import CannotSpeak
from cuejar.speech.work import Order, synthesize, voices
from tests.running import PATIENCE_S, Running, until

SAY = {
    "id": "say",
    "name": "Say",
    "calls": [{"kind": "chat", "match": "starts", "text": "!say"}],
    "door": {"text": {"need": True, "max": 200}},
    "beats": [{"id": "s", "kind": "speech", "text": "{{text}}"}],
}
CAST = [
    {"id": "clerk", "name": "Clerk", "base": "en-gb"},
    {"id": "pip", "name": "Pip", "base": "en-gb+f3", "pitch": 1.5},
]


def say(running: Running, text: str, viewer: str = "owlpost") -> None:
    running.channel.post("/chat", json={"viewer": viewer, "text": f"!say {text}"}).raise_for_status()


def shows(feed: Any) -> dict[str, Any]:
    end = time.monotonic() + PATIENCE_S
    while time.monotonic() < end:
        message: dict[str, Any] = json.loads(feed.recv(timeout=PATIENCE_S))
        if message.get("t") == "show":
            return message
    raise AssertionError("nothing was shown")


def test_voices_effects_and_word_times(tmp_path: Path) -> None:
    told = tmp_path / "told"
    known = {voice.id for voice in voices(told)}
    assert {"en-gb", "de", "fr-fr", "es"} <= known
    plain = synthesize(told, [Order("a", "Mind the gap please", "en-gb", 1, 1, 100, "")], tmp_path / "a.wav", -16)
    assert [word.text for word in plain.words] == ["Mind", "the", "gap", "please"]
    assert all(a.end <= b.begin for a, b in zip(plain.words, plain.words[1:], strict=False))
    with wave.open(str(tmp_path / "a.wav")) as file:
        assert file.getnframes() / file.getframerate() == pytest.approx(plain.length_s, abs=0.01)
    fast = synthesize(told, [Order("a", "Mind the gap please", "en-gb", 2, 1, 100, "")], tmp_path / "f.wav", -16)
    assert fast.length_s < 0.7 * plain.length_s
    sounds = {(tmp_path / "a.wav").read_bytes()}
    for effect in CHAINS:
        made = synthesize(
            told, [Order("a", "Mind the gap please", "en-gb", 1, 1, 100, effect)], tmp_path / "e.wav", -16
        )
        assert made.length_s == pytest.approx(plain.length_s, abs=0.35), effect
        sounds.add((tmp_path / "e.wav").read_bytes())
    assert len(sounds) == len(CHAINS) + 1
    two = [Order("a", "one", "en-gb", 1, 1, 100, ""), Order("b", "two", "de", 1, 1, 100, "backwards")]
    both = synthesize(told, two, tmp_path / "b.wav", None)
    assert [(word.text, word.part) for word in both.words] == [("one", "a"), ("two", "b")]
    with pytest.raises(CannotSpeak, match="no voice “zz”"):
        synthesize(told, [Order("a", "hi", "zz", 1, 1, 100, "")], tmp_path / "z.wav", None)


@pytest.mark.parametrize(
    ("text", "base"),
    [
        ("Mind the gap please", "en-gb"),
        ("Mind the gap", "en-gb+whisper"),
        ("Oh", "de"),
        ("The mail is late. " * 9, "fr-fr"),
    ],
)
def test_speeches_are_as_loud_as_the_house_wants(tmp_path: Path, text: str, base: str) -> None:
    there = tmp_path / "a.wav"
    made = synthesize(tmp_path / "told", [Order("a", text, base, 1, 1, 100, "")], there, -30)
    assert made.length_s > 0.2
    assert probe(there, 10**6).lufs == pytest.approx(-30, abs=0.3)
    synthesize(tmp_path / "told", [Order("a", text, base, 1, 1, 100, "")], there, -5)
    louder = probe(there, 10**6)
    assert louder.peak_dbtp is not None and louder.lufs is not None
    assert louder.lufs > -28 and louder.peak_dbtp < 0.5, "louder up to its peak"


def test_a_drawn_viewer_is_read_by_their_own_part_with_what_was_rolled(running: Running) -> None:
    """What is drawn or rolled is known when the run starts; it is read as it came out, by the drawn viewer's part."""
    beats = [{"id": "draw", "kind": "draw", "spin_s": 0.2},
             {"id": "dice", "kind": "chance", "spin_s": 0.2, "outcomes": [{"id": "lucky"}]},
             {"id": "s", "kind": "speech", "text": "{{viewer}} is {{rolled}}", "whose": "drawn", "start": {"after": "draw"}}]  # fmt: skip
    cue = {"id": "draw", "name": "Draw", "calls": [{"kind": "chat", "match": "is", "text": "!draw"}], "beats": beats}
    running.book(cast=CAST, cues=[cue])
    reading = {"default": "clerk", "viewers": {"bramble_jo": "pip"}}
    running.api.put("/api/book/reading", json={"value": reading}).raise_for_status()
    running.channel.post("/chat", json={"viewer": "bramble_jo", "text": "hello"}).raise_for_status()
    with connect(running.overlay_feed(), proxy=None) as feed:
        feed.recv(timeout=PATIENCE_S)
        running.channel.post("/chat", json={"viewer": "owlpost", "text": "!draw"}).raise_for_status()
        spoken = until(lambda: told if (told := shows(feed)).get("speech", {}).get("words") else None)
    words = [(word[0], word[3]) for word in spoken["speech"]["words"]]
    assert words == [(word, "Pip") for word in ("bramble", "jo", "is", "lucky")]


def test_read_aloud_one_after_the_other(running: Running) -> None:
    running.book(cast=CAST, cues=[SAY])
    with connect(running.overlay_feed(), proxy=None) as feed:
        feed.recv(timeout=PATIENCE_S)
        say(running, "Pip: tickets please / and the next")
        first = shows(feed)
        assert first["speech"]["words"][0][3] == "Pip"
        assert [word[0] for word in first["speech"]["words"]][:2] == ["tickets", "please"]
        assert running.api.get(first["media"][0]["url"]).content[:4] == b"RIFF"
        captions = running.api.get(first["media"][0]["url"].replace(".wav", ".vtt")).text
        assert captions.startswith("WEBVTT") and "<v Pip>tickets please" in captions
        for n in range(3):
            say(running, f"waiting text number {n}", "bramble_jo")
        times = [shows(feed) for _ in range(3)]
    ends = [m["at"] + m["media"][0]["length_s"] * 1000 for m in (first, *times)]
    gaps = [b["at"] - a for a, b in zip(ends, times, strict=False)]
    assert all(-30 <= gap < 1000 for gap in gaps), gaps


def test_a_hung_or_dead_worker_costs_its_speech_and_no_more(running: Running) -> None:
    caption = {"id": "c", "kind": "caption", "text": "still here", "length": {"s": 1}}
    cue = {**SAY, "beats": [*SAY["beats"], caption]}  # type: ignore[misc]
    running.book(cast=[{"id": "clerk", "name": "Clerk", "base": "zz"}], cues=[cue])
    with connect(running.overlay_feed(), proxy=None) as feed:
        feed.recv(timeout=PATIENCE_S)
        say(running, "nobody can say this")
        assert shows(feed)["kind"] == "caption"
    line = until(lambda: next((r for r in running.api.get("/api/ledger").json()["lines"] if r["notes"]), None))
    until(
        lambda: any(
            "could not be turned into speech" in str(note.get("why"))
            for note in running.api.get("/api/ledger").json()["lines"][0]["notes"]
        )
    )
    assert line["verdict"] == "let_in"

    # Every process below the server is killed; the next text is still read.
    running.book(cast=CAST)
    assert running.server is not None
    for child in psutil.Process(running.server.pid).children(recursive=True):
        os.kill(child.pid, signal.SIGKILL)
    time.sleep(1.5)
    with connect(running.overlay_feed(), proxy=None) as feed:
        feed.recv(timeout=PATIENCE_S)
        say(running, "mind the step")
        assert shows(feed)["kind"] == "caption"
        assert shows(feed)["kind"] == "speech"


def test_words_lists_review_and_who_was_read_before(running: Running) -> None:
    lists = [{"id": "a", "name": "House", "entries": [{"text": "grotbag"}]}]
    running.book(
        cast=CAST,
        words=lists,
        rewards=[{"id": "ask", "title": "Ask", "cost": 100, "text": True}],
        cues=[{**SAY, "calls": [{"kind": "reward", "reward": "ask"}, *SAY["calls"]]}],  # type: ignore[misc]
    )
    until(lambda: running.channel.get("/rewards").json())
    refused = running.redeem("owlpost", "Ask", "you g r 0 t b a g")
    until(lambda: running.state_of(refused) == "refunded")
    running.api.put("/api/book/reading", json={"value": {"review": "new"}}).raise_for_status()
    waits = running.redeem("owlpost", "Ask", "mind the gap")
    review = until(lambda: running.state()["reviews"]["first"])[0]
    assert (review["viewer"], review["reward"], review["text"]) == ("owlpost", "Ask", "mind the gap")
    assert running.state_of(waits) == "unfulfilled"
    running.api.post(f"/api/redemptions/{review['redemption']}/review", json={"ok": True}).raise_for_status()
    until(lambda: running.state_of(waits) == "fulfilled")
    again = running.redeem("owlpost", "Ask", "once more")
    until(lambda: running.state_of(again) == "fulfilled")
    back = running.redeem("bramble_jo", "Ask", "no thanks")
    review = until(lambda: running.state()["reviews"]["first"])[0]
    running.api.post(f"/api/redemptions/{review['redemption']}/review", json={"ok": False}).raise_for_status()
    until(lambda: running.state_of(back) == "refunded")
    lines = {line["call"]: line for line in running.api.get("/api/ledger").json()["lines"]}
    told = ("kind", "viewer_name", "text", "reward", "cost", "verdict", "reason", "outcome")
    assert [lines[waits][name] for name in told] == [
        "redemption", "owlpost", "mind the gap", "ask", 100, "let_in", "", "fulfilled",
    ]  # fmt: skip
    assert [lines[back][name] for name in told] == [
        "redemption", "bramble_jo", "no thanks", "ask", 100, "turned_away", "sent_back", "refunded",
    ]  # fmt: skip

    exported = running.api.get("/api/words/a/file").text
    assert exported == "grotbag\n"
    text = {"text": '"twerp"\n*blather*\n\n# a remark\ngrotbag\n'}
    running.api.post("/api/words/a/file", json=text).raise_for_status()
    assert running.api.get("/api/words/a/file").text == "grotbag\ntwerp\n*blather*\n"
    found = running.api.post("/api/words/check", json={"text": "b l a t h e r and tw3rp"}).json()
    assert [hit["entry"] for hit in found] == ["blather", "twerp"]
    bench = running.api.post("/api/cast/bench", json={"text": "Pip: hi <b> / Nobody: x"}).json()
    assert [(s["part"], s["said"]) for s in bench["speeches"]] == [("pip", "hi"), ("clerk", "Nobody: x")]
    assert bench["length_s"] > 0.5


def test_a_voice_of_the_streamers_own(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """If the library is installed and a model is in the folder; here a humming library replaces it."""
    library = tmp_path / "library" / "piper"
    library.mkdir(parents=True)
    (library / "__init__.py").write_text("""
import numpy as np
class Chunk:
    sample_rate = 16000
    def __init__(self, seconds): self.audio_float_array = np.sin(np.arange(int(16000 * seconds)) / 16000 * 2 * np.pi * 200).astype("f4") * 0.5
class PiperVoice:
    @classmethod
    def load(cls, model, config): return cls()
    def synthesize(self, text, config): yield Chunk(0.1 * len(text.split()) * config.length_scale); yield Chunk(0.2)
""")
    (library / "config.py").write_text(
        "class SynthesisConfig:\n    def __init__(self, length_scale): self.length_scale = length_scale\n"
    )
    own, told = tmp_path / "voices", tmp_path / "told"
    own.mkdir()
    (own / "halt.alan.onnx").write_bytes(b"model")
    assert not [voice for voice in voices(told, own) if voice.id.startswith("piper")], "not offered without the library"
    monkeypatch.syspath_prepend(str(library.parent))
    assert not [voice for voice in voices(told, own) if voice.id.startswith("piper")], "nor without its description"
    (own / "halt.alan.onnx.json").write_text('{"language": {"code": "en_GB"}}')
    (mine,) = [voice for voice in voices(told, own) if voice.id.startswith("piper")]
    assert (mine.id, mine.language) == ("piper-halt-alan", "en_GB")
    text = "mind the wide gap"
    plain = synthesize(told, [Order("a", text, mine.id, 1, 1, 100, "")], tmp_path / "p.wav", None, own)
    assert plain.length_s == pytest.approx(0.6, abs=0.02)
    assert [word.text for word in plain.words] == text.split()
    assert [word.begin for word in plain.words] == sorted(word.begin for word in plain.words)
    high = synthesize(told, [Order("a", text, mine.id, 2, 2, 100, "")], tmp_path / "h.wav", None, own)
    assert high.length_s == pytest.approx(0.4, abs=0.05)
    with pytest.raises(CannotSpeak, match="no voice"):
        synthesize(told, [Order("a", text, "piper-gone", 1, 1, 100, "")], tmp_path / "x.wav", None, own)


ROWS = ["x." * 199, "A.B.C." * 66, "é." * 120, "é. " * 200, "stationmaster" * 30, "1" * 400, "." * 400]


def test_no_row_of_letters_brings_the_library_down() -> None:
    """In a process of its own: earlier ones were killed by the system."""
    code = (
        "import json, sys\n"
        "from cuejar.speech.espeak import Espeak, pieces\n"
        "for text in json.loads(sys.argv[1]):\n"
        "    assert ''.join(piece for _, piece in pieces(text)) == text\n"
        "    said = Espeak.here().say(text, 'en', 1, 1)\n"
        "    places = [place for place, _, _ in said.words]\n"
        "    times = [at for _, _, at in said.words]\n"
        "    assert places == sorted(places) and times == sorted(times) and max(places, default=0) < len(text)\n"
        "    print(len(said.samples))\n"
    )
    done = subprocess.run(
        [sys.executable, "-c", code, json.dumps(ROWS)], capture_output=True, text=True, timeout=120, check=False
    )
    assert done.returncode == 0, done.stderr
    assert all(int(length) > 0 for length in done.stdout.split()[:-1])
