"""Trained phrases are found among other sounds, and not where they weren't said."""

from __future__ import annotations

from functools import cache
from pathlib import Path
from typing import Any

import numpy as np

from cuejar.core.measures.phones import spelling
from cuejar.voice.outline import RATE
from cuejar.voice.spotting import Phrase, Spotter, cepstrum_of, dictionary, found_in, train
from tests.voices import LATER, TALK, Sound, heard, mixed, say, silence

PHRASES = ("all aboard please", "ring the signal bell")


@cache
def _music() -> Sound:
    at = np.arange(RATE * 8) / RATE
    notes: Any = sum(
        np.sin(2 * np.pi * f * at) * (0.5 + 0.5 * np.sin(2 * np.pi * at * k))
        for k, f in enumerate((220, 277, 330, 440))
    )
    return np.asarray(notes, np.float64)


def test_a_trained_phrase_is_found(tmp_path: Path) -> None:
    voice, phrase = "en-us", PHRASES[0]
    phones = spelling(phrase, dictionary()).phones
    talk = heard([say(line, voice) for line in TALK[:4]])
    cepstrum = cepstrum_of(talk, tmp_path)
    sayings = [heard([silence(0.3), say(phrase, voice, rate), silence(0.4)]) for rate in (0.95, 1.0, 1.06)]
    trained = train(phones, sayings, talk, cepstrum, tmp_path)
    known = [one for one in trained.apart if one is not None]
    assert trained.is_told and len(known) == 3 and max(known) < trained.limit
    spotter = Spotter([Phrase(phrase, phones, trained.looseness, trained.outlines, trained.limit)], tmp_path, cepstrum)
    other = say(TALK[6] + TALK[2], "en-gb+f2")
    for name, beside, db in (
        ("alone", None, 0.0),
        ("music", _music(), 10.0),
        ("music", _music(), 20.0),
        ("talk", other, 20.0),
        ("talk", other, 10.0),
    ):
        found = []
        for begin, rate in enumerate((0.92, 0.97, 1.0, 1.04, 1.1)):
            speech = np.concatenate([silence(0.4), say(phrase, voice, rate), silence(1)])
            among = speech if beside is None else mixed(speech, np.roll(beside, begin * 9_000), db)
            found += found_in(spotter, heard([among], begin))
            spotter.start_over()
        assert found == [phrase] * 5, f"{name} at {db:g} dB"
    assert found_in(spotter, heard([say(line, voice, rate) for rate in (0.95, 1.05) for line in LATER])) == []


def test_a_phrase_that_is_not_said_is_not_trained(tmp_path: Path) -> None:
    phones = spelling(PHRASES[1], dictionary()).phones
    talk = heard([say(line) for line in TALK[:3]])
    cepstrum = cepstrum_of(talk, tmp_path)
    wrong = [heard([silence(0.3), say("tea", rate=rate), silence(0.4)]) for rate in (0.95, 1.0, 1.06)]
    trained = train(phones, wrong, talk, cepstrum, tmp_path)
    assert not trained.is_told and trained.apart == [None] * 3
    # What is said all the time can't be told from talk.
    often = heard([say(PHRASES[1]), silence(0.5), say(TALK[0]), say(PHRASES[1])])
    right = [heard([silence(0.3), say(PHRASES[1], rate=rate), silence(0.4)]) for rate in (0.95, 1.0, 1.06)]
    assert not train(phones, right, often, cepstrum, tmp_path).is_told
