"""Captions of speech: every word of the text, in order, whatever the voice reports."""

from __future__ import annotations

import random

import pytest
from hypothesis import given
from hypothesis import strategies as st

from cuejar.speech.espeak import Espeak
from cuejar.speech.work import Order, _words, timed

HALT = [
    "I",
    "am",
    "going",
    "to",
    "be",
    "at",
    "the",
    "station",
    "by",
    "7:45,",
    "it's",
    "12",
    "o'clock",
    "somewhere!",
    "Mind",
    "the",
    "gap",
    "–",
    "1,250",
    "tickets…",
    "(all",
    "of",
    "them)",
    "were",
    "sold;",
    "would've,",
    "could've,",
    "e.g.",
    "the",
    "3rd",
    "signal-box",
    "at",
    "p.m.",
    "50%",
    "of",
    "us",
    "are",
    "in",
    "the",
    "waiting-room",
    "&",
    "so",
    "on.",
    "W8",
    "4",
    "me",
    "@",
    "platform",
    "9¾?",
]
SENTENCES = 500


def sentences() -> list[str]:
    draw = random.Random(29)
    return [" ".join(draw.choices(HALT, k=draw.randint(1, 12))) for _ in range(SENTENCES)]


def test_every_word_by_every_voice() -> None:
    """Five hundred sentences, distributed over all voices that ship."""
    espeak, voices = Espeak.here(), [voice.id for voice in Espeak.here().voices()]
    assert len(voices) > 100
    for number, text in enumerate(sentences()):
        voice = voices[number % len(voices)]
        said = espeak.say(text, voice, 2.0, 1.0, None)
        length = round(len(said.samples) * 1000 / espeak.rate)
        words = _words(Order("p", text, voice, 2.0, 1, 100, ""), said.words, 40, length)
        assert [word.text for word in words] == text.split(), voice
        begins = [word.begin for word in words]
        assert begins == sorted(begins) and begins[0] == 40, voice
        assert all(a.end == b.begin for a, b in zip(words, words[1:], strict=False)) and words[-1].end == 40 + length


@given(st.data())
def test_times_never_go_back_whatever_a_voice_tells(data: st.DataObject) -> None:
    text = " ".join(data.draw(st.lists(st.sampled_from(HALT), min_size=1, max_size=8)))
    length = data.draw(st.integers(0, 5_000))
    events = data.draw(
        st.lists(st.tuples(st.integers(-3, len(text) + 3), st.integers(0, 9), st.integers(0, 6_000)), max_size=12)
    )
    places, at = [], 0
    for word in text.split():
        at = text.index(word, at)
        places.append((at, at + len(word)))
        at += len(word)
    begins = timed(places, events, length)
    assert len(begins) == len(places) and begins == sorted(begins)
    assert begins[0] == 0 and begins[-1] <= length


@pytest.mark.parametrize(
    ("events", "wanted"),
    [
        ([(0, 1, 0), (2, 2, 100), (5, 2, 300)], [0, 100, 300]),
        ([(0, 4, 0), (5, 2, 300)], [0, 120, 300]),
        ([(0, 1, 0), (5, 2, 300), (5, 2, 350)], [0, 120, 300]),
        ([], [0, 200, 500]),
    ],
    ids=["told", "run together", "told twice", "nothing told"],
)
def test_what_is_not_told_lies_between_by_its_letters(events: list[tuple[int, int, int]], wanted: list[int]) -> None:
    assert timed([(0, 1), (2, 4), (5, 7)], events, 800) == wanted
