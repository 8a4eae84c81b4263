"""The streamer's own phrases: trained by saying them, heard while they may be, and never taken from the stream itself."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

import psutil
import pytest

from cuejar.core.book.book import Book
from cuejar.core.book.files import book_from
from cuejar.core.facts import happenings as h
from cuejar.core.facts import orders as o
from cuejar.live.listening import Listening, Training
from cuejar.studio import first_book
from tests.inside import Inside
from tests.running import Running, until
from tests.voices import LATER, TALK, heard, say, silence, write

PHRASE = "all aboard please"
BELL: dict[str, Any] = {
    "id": "bell", "name": "Bell", "entry": "overlap", "calls": [{"kind": "said", "phrase": PHRASE}],
    "beats": [{"id": "c", "kind": "caption", "text": "All aboard", "length": {"s": 0.3}}],
}  # fmt: skip


def _voice(running: Running) -> dict[str, Any]:
    told: dict[str, Any] = running.api.get("/api/voice").json()
    return told


def _step(running: Running, step: str) -> None:
    running.api.post("/api/voice/training/step", json={"step": step, "talk_s": 20}).raise_for_status()


def _hold(running: Running, on: bool = True) -> None:
    running.api.post("/api/voice/held", json={"page": "desk", "on": on}).raise_for_status()


def _calls(running: Running) -> int:
    return len([line for line in running.api.get("/api/ledger").json()["lines"] if line["cue"] == "bell"])


def _train(running: Running, microphone: Path) -> dict[str, Any]:
    running.api.post("/api/voice/training", json={"phrase": PHRASE}).raise_for_status()
    for number, rate in enumerate((0.95, 1.0, 1.05)):
        write(microphone, heard([silence(0.8), say(PHRASE, rate=rate), silence(1.5)], number))
        _step(running, "say")
        until(lambda number=number: _voice(running)["training"]["sayings"] == number + 1)
        until(lambda: not _voice(running)["open"])
    write(microphone, heard([say(line) for line in TALK[:6]]))
    _step(running, "talk")
    until(lambda: _voice(running)["training"]["talked"])
    _step(running, "find")
    return until(lambda: (told := _voice(running)["training"])["step"] == "done" and told)


def test_a_phrase_is_trained_and_calls_its_cue(microphone: Path, running: Running) -> None:
    running.book(cues=[BELL])
    assert _voice(running)["mode"] == "off" and not _voice(running)["open"]
    assert running.api.post("/api/voice/training", json={"phrase": "another"}).status_code == 404
    assert running.api.post("/api/voice/training/step", json={"step": "say"}).status_code == 409
    assert _train(running, microphone)["problem"] == ""
    row = _voice(running)["phrases"][0]
    assert row["trained"] and len(row["sure"]) == 3 and min(row["sure"]) > 0.2 and row["cues"] == ["bell"]
    running.api.delete("/api/voice/training").raise_for_status()

    kept = json.loads((running.data / "voice.json").read_text())
    assert set(kept["phrases"][PHRASE]) == {"looseness", "outlines", "apart", "limit", "cepstrum", "phones"}
    assert not list(running.data.rglob("*.wav")), "no sound is kept"

    # Off, nothing is heard; held, only while the key is.
    write(microphone, heard([silence(0.6), say(LATER[0]), silence(0.7), say(PHRASE, rate=1.02), silence(1)]))
    running.book(house={"listening": "held"})
    assert not _voice(running)["open"] and _calls(running) == 0

    def held() -> bool:
        _hold(running)
        return _calls(running) == 1

    until(held, every=0.4)
    assert running.state()["show"]["listens"] and _voice(running)["latest"] == PHRASE
    _hold(running, on=False)
    until(lambda: not _voice(running)["open"])
    assert running.api.get("/api/ledger").json()["lines"][-1]["kind"] == "said"

    # A start forgets nothing of it; always open, it is heard without a key.
    running.kill_server()
    running.start_server()
    assert _voice(running)["phrases"][0]["phrase"] == PHRASE
    running.book(house={"listening": "always"})
    until(lambda: _calls(running) == 2)
    # A closed house refuses it as it does a pad.
    running.book(house={"listening": "off"})
    until(lambda: not _voice(running)["open"])
    running.book(house={"listening": "always", "open": False})
    until(lambda: _calls(running) == 3)
    line = next(line for line in running.api.get("/api/ledger").json()["lines"] if line["cue"] == "bell")
    assert (line["verdict"], line["reason"]) == ("turned_away", "house_closed")


def test_a_training_that_fails_says_why(tmp_path: Path) -> None:
    it = Listening(tmp_path, Inside(tmp_path, Book()).runner, None)
    it.take(book_from({**first_book(), "cues": [BELL]}))
    told = {"what": "trained", "cepstrum": "", "is_told": False}
    for apart, why in (
        ([None, 0.5, None], "Sayings 1 and 3 weren’t understood."),
        ([0.5, None, 0.5], "Saying 2 wasn’t understood."),
        ([0.5, 0.6, 1.9], "Saying 3 is unlike the others."),
        ([0.5, 0.6, 0.7], "It can’t be told from your ordinary talk."),
    ):
        it.training = Training(PHRASE, "finding")
        it._told({**told, "apart": apart})
        assert it.training.step == "done" and it.training.problem.startswith(why)
        assert not (tmp_path / "voice.json").exists()


def test_what_the_stream_says_is_not_heard(tmp_path: Path) -> None:
    inside = Inside(tmp_path, Book())
    asked: list[dict[str, Any]] = []
    it = Listening(tmp_path, inside.runner, None)
    it.take(book_from({**first_book(), "cues": [BELL]}))
    it._ask = lambda **what: asked.append(what)  # type: ignore[method-assign]
    called: list[h.Happening] = []
    inside.runner.put = called.append  # type: ignore[method-assign,assignment]
    spoken = o.Show("r1", "speech", "speech", "all aboard please", None, 0, {})
    it.hear([(0, spoken)])
    it._tell_now()
    it._told({"what": "heard", "phrase": PHRASE})
    assert not called and {"do": "mute", "on": True} in asked
    it.hear([(900, o.Hide("r1", "speech"))])
    it._told({"what": "heard", "phrase": PHRASE})
    assert not called, "nor its echo in the room"
    it._echo_until = 0
    it._told({"what": "heard", "phrase": PHRASE})
    it._told({"what": "heard", "phrase": PHRASE})
    assert [(one.kind, one.cue) for one in called] == [("pad", "bell")], "said once, it calls once"


def test_a_phrase_with_a_rare_word_is_offered_its_sounds(microphone: Path, running: Running) -> None:
    called = [{"kind": "said", "phrase": "wake up kettlewright"}, {"kind": "said", "phrase": "go"}]
    running.book(cues=[{**BELL, "calls": called}], house={"listening": "held"})
    rows = until(lambda: (found := _voice(running)["phrases"]) and found[0]["offer"] and found)
    assert rows[0]["missing"] == ["kettlewright"] and rows[0]["offer"].startswith("W EY K AH P")
    assert "lacks kettlewright" in rows[0]["problem"] and "too short" in rows[1]["problem"]
    running.book(cues=[{**BELL, "calls": [{**called[0], "sounds": rows[0]["offer"]}]}])
    row = until(lambda: (found := _voice(running)["phrases"][0])["phones"] and found)
    assert row["problem"] == "" and row["missing"] == []
    running.book(cues=[{**BELL, "calls": [{**called[0], "sounds": "W EY K AH P QU"}]}])
    until(lambda: "“QU” is no sound" in _voice(running)["phrases"][0]["problem"])


def test_one_phrase_written_twice_calls_its_cue_once(tmp_path: Path) -> None:
    it = Listening(tmp_path, Inside(tmp_path, Book()).runner, None)
    calls = [{"kind": "said", "phrase": "All aboard, please"}, {"kind": "said", "phrase": "ALL ABOARD, PLEASE"}]
    it.take(book_from({**first_book(), "cues": [{**BELL, "calls": calls}]}))
    assert [(state.phrase, state.cues) for state in it.states()] == [("All aboard, please", ["bell"])]


@pytest.mark.parametrize(
    "kept", ["", "[]", '{"phrases": []}', '{"phrases": {"a": {"looseness": "much"}}}', "\x00" * 50]
)
def test_figures_that_cannot_be_read_are_as_good_as_none(kept: str, tmp_path: Path) -> None:
    (tmp_path / "voice.json").write_text(kept)
    (tmp_path / "other").mkdir()
    it = Listening(tmp_path, Inside(tmp_path / "other", Book()).runner, None)
    it.take(book_from({**first_book(), "cues": [BELL]}))
    assert [state.trained for state in it.states()] == [False]


@pytest.mark.stumbles
def test_a_microphone_that_is_missing_is_opened_once_it_is_there(microphone: Path, running: Running) -> None:
    content = microphone.read_bytes()
    microphone.unlink()
    running.book(cues=[BELL], house={"listening": "always"})
    until(lambda: "can’t be read" in _voice(running)["problem"])
    assert not _voice(running)["open"]
    microphone.write_bytes(content)
    until(lambda: _voice(running)["open"])
    assert _voice(running)["problem"] == ""
    (ear,) = [one for one in psutil.process_iter(["cmdline"]) if str(microphone) in " ".join(one.info["cmdline"] or [])]
    ear.kill()
    until(lambda: not _voice(running)["open"])
    until(lambda: _voice(running)["open"])
    running.kill_server()
    until(
        lambda: (
            not [o for o in psutil.process_iter(["cmdline"]) if str(microphone) in " ".join(o.info["cmdline"] or [])]
        )
    )
