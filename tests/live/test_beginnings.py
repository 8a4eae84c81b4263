"""A text whose turn has come is heard from its beginning while the rest is made: one sound, at the right loudness."""

from __future__ import annotations

import asyncio
import json
import wave
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from websockets.sync.client import connect

from cuejar.core.book.files import book_from
from cuejar.core.measures.loudness import glide
from cuejar.live.beginnings import HEAD, Beginning
from cuejar.live.reader import Piece, Reader
from cuejar.media.probe import probe
from cuejar.media.workers import WorkFailed
from cuejar.speech.work import Ahead, Made, Order, _write, synthesize
from tests.inside import Inside
from tests.live.test_reader import CAST, SAY, say, shows
from tests.running import Running, until

TEXT = "The night mail is running late again and the kettle on the signal box stove has boiled dry. " * 2


def order(text: str, base: str = "en-gb", effect: str = "", volume: float = 100) -> Order:
    return Order("clerk", text, base, 1, 1, volume, effect)


def samples(path: Path) -> Any:
    with wave.open(str(path)) as file:
        return np.frombuffer(file.readframes(file.getnframes()), "<i2")


@pytest.mark.parametrize(
    ("text", "base", "volume"), [(TEXT, "en-gb", 100), (TEXT, "en-gb+whisper", 60), ("Der Zug hält. " * 3, "de", 100)]
)
def test_the_whole_begins_with_what_was_heard_of_it(tmp_path: Path, text: str, base: str, volume: float) -> None:
    first, there = tmp_path / "first", tmp_path / "a.wav"
    made = synthesize(tmp_path, [order(text, base, "", volume)], there, -24, None, 60, Ahead(first, 1.2))
    begun, whole = samples(first), samples(there)
    assert 1.2 <= len(begun) / 22050 < 1.5 < made.length_s == pytest.approx(len(whole) / 22050, abs=0.001)
    assert (whole[: len(begun)] == begun).all()
    assert probe(there, 10**7).lufs == pytest.approx(-24, abs=0.6)
    assert probe(first, 10**7).lufs == pytest.approx(-24, abs=0.4)

    # Its worker crashed: it is made again, slightly different as this voice is, and begins as before.
    again = synthesize(
        tmp_path, [order(text, base, "", volume)], there, -24, None, 60, Ahead(first, 1.2, begun.tobytes())
    )
    assert again.length_s == pytest.approx(made.length_s, abs=0.05)
    assert (samples(there)[: len(begun)] == begun).all()


@pytest.mark.parametrize(
    ("orders", "most_s"),
    [
        ([order("Mind the gap")], 60),
        ([order(TEXT, effect="echo")], 60),
        ([order("Yes"), order(TEXT)], 60),
        ([order(TEXT)], 1.0),
    ],
)
def test_what_is_short_changed_or_cut_comes_whole(tmp_path: Path, orders: list[Order], most_s: float) -> None:
    first = tmp_path / "first"
    made = synthesize(tmp_path, orders, tmp_path / "a.wav", -18, None, most_s, Ahead(first, 1.2))
    assert made.length_s > 0.5
    assert not first.exists()


@pytest.mark.parametrize(("loud", "to_db"), [(0.2, -6.0), (0.89, -6.0), (0.2, 3.0), (0.89, 0.0)])
def test_one_gain_becomes_another_without_getting_too_loud(loud: float, to_db: float) -> None:
    rate, begun = 1000, 500
    sound = np.full(4000, 0.1, np.float32)
    sound[600] = loud
    out = glide(sound, rate, begun, 2.0, to_db)
    gains = 20 * np.log10(out / sound)
    assert gains[:begun] == pytest.approx(2.0, abs=0.01)
    assert gains[begun + rate :] == pytest.approx(to_db, abs=0.01)
    assert np.abs(out[begun:]).max() <= max(0.892, loud * 10 ** (to_db / 20))
    jump = np.abs(np.diff(gains)).max()
    assert jump < 0.1 or loud == 0.89, "only where a peak comes at once is there no time for it"


def test_a_page_is_told_twice_and_hears_one_sound(running: Running) -> None:
    running.book(cast=CAST, cues=[SAY])
    with connect(running.overlay_feed(), proxy=None) as feed:
        feed.recv()
        say(running, TEXT)
        first = shows(feed)
        url = first["media"][0]["url"]
        with running.api.stream("GET", url) as answer:
            assert answer.headers["cache-control"] == "no-store", "while it is made"
            came = answer.read()
        whole = shows(feed)
        with connect(running.overlay_feed(), proxy=None) as joins:
            joined = json.loads(joins.recv())["up"]
    assert first["speech"]["words"] == []
    assert [word[0] for word in whole["speech"]["words"]][:3] == ["The", "night", "mail"]
    assert whole["at"] == first["at"]
    assert whole["until"] == pytest.approx(whole["at"] + whole["media"][0]["length_s"] * 1000, abs=120)
    assert [{**m, "now": None} for m in joined] == [{**whole, "now": None}], "one that joins hears no more of it"
    kept = running.api.get(url)
    assert kept.headers["cache-control"].startswith("private")
    assert (came[:4], came[HEAD:]) == (b"RIFF", kept.content[HEAD:])


class Falls:
    """Workers of which the first crashes after sending its beginning, and the next one too if it ``stays`` so."""

    def __init__(self, stays: bool) -> None:
        self.stays, self.asked = stays, list[Ahead]()

    async def run(self, *args: Any) -> Made:
        target, ahead = args[5], args[-1]
        self.asked.append(ahead)
        if not ahead.sent:
            _write(ahead.path, 22050, b"ab" * 30_000)
        await asyncio.sleep(0.05)
        if self.stays or len(self.asked) == 1:
            raise WorkFailed("crash")
        _write(target, 22050, ahead.sent + b"cd" * 30_000)
        return Made(2.7, [], [])


@pytest.mark.parametrize("stays", [False, True])
def test_a_worker_that_comes_down_in_the_middle(tmp_path: Path, stays: bool) -> None:
    async def go() -> None:
        inside = Inside(tmp_path, book_from({"cast": CAST}))
        folder = tmp_path / "speech"
        folder.mkdir()
        (folder / ".left.1.first").write_bytes(b"of one that was killed")
        falls = Falls(stays)
        reader = Reader(folder, inside.runner, falls)  # type: ignore[arg-type]
        heard: list[Piece] = []
        came: list[bytes] = []

        async def listen(beginning: Beginning) -> None:
            came.extend([part async for part in beginning.parts()])

        listening: list[asyncio.Task[None]] = []

        def begun(piece: Piece) -> None:
            heard.append(piece)
            listening.append(asyncio.ensure_future(listen(reader.beginnings[piece.key])))

        script = reader.script(inside.book, TEXT, None, None)
        if stays:
            with pytest.raises(WorkFailed):
                await reader.make(inside.book, script, begun)
        else:
            assert (await reader.make(inside.book, script, begun)).length_s == 2.7
        await asyncio.wait_for(asyncio.gather(*listening), 5)
        assert [piece.is_whole for piece in heard] == [False], "it is told once that it can be heard"
        assert heard[0].length_s == pytest.approx(12, abs=2), "about as long as it takes"
        sent = b"ab" * 30_000
        assert [ahead.sent for ahead in falls.asked] == [b"", sent]
        assert b"".join(came)[HEAD:] == sent + (b"" if stays else b"cd" * 30_000)
        assert reader.beginnings == {}
        assert not list(folder.glob(".*"))
        await inside.stop()

    asyncio.run(go())


def test_one_that_is_cut_while_it_is_made_leaves_nothing(running: Running) -> None:
    running.book(cast=CAST, cues=[{**SAY, "door": {"text": {"need": True, "max": 400}}}])
    with connect(running.overlay_feed(), proxy=None) as feed:
        feed.recv()
        say(running, TEXT * 2)
        assert shows(feed)["speech"]["words"] == []
        running.api.post("/api/all-to-rest").raise_for_status()
        until(lambda: json.loads(feed.recv())["t"] == "hide")
        say(running, TEXT)
        assert shows(feed)["speech"]["words"] == [], "the next is heard all the same"
