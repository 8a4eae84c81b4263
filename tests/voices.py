"""Speech for tests: said by eSpeak, at the rate of a microphone, with a little room noise."""

from __future__ import annotations

import wave
from collections.abc import Sequence
from pathlib import Path

import numpy as np
import numpy.typing as npt

from cuejar.speech.espeak import Espeak
from cuejar.voice.outline import RATE, Samples

Sound = npt.NDArray[np.float64]
ROOM = 0.004
TALK = (
    "The train on platform two is late again today, and the signal is stuck at red.",
    "We should paint the tender before the end of the week, and then mend the gate by the goods yard.",
    "My kettle is boiling, who wants tea? The hole in the fence is wide enough for a cat.",
    "Tonight I want to finish the roof of the signal box, and maybe glue the chimney on.",
    "The blue paint dries much slower than the red one, so let us wait a little while.",
    "I bought this wagon at a flea market for almost nothing, and the wheels were bent.",
    "Can you see the lamp on the left side? It should light up as soon as the next train arrives.",
    "The weather is awful here, rain all day long, so it is a good day for the workshop.",
)
LATER = (
    "And now the tricky part, we have to bend the wire without breaking it.",
    "Yesterday a viewer asked how long the layout is, it is about four metres, with two loops and a branch line.",
    "All right, all the boards are painted now, please give them an hour.",
    "Mind you, the cat was here again last night, and the gap between the tables is just about her size.",
    "We will ring up the neighbours about the noise, the signal lamp makes quite a racket.",
)


def say(text: str, voice: str = "en-us", rate: float = 1.0) -> Sound:
    """Returns speech at `RATE`, half as loud as possible."""
    library = Espeak.here()
    said = library.say(text, voice, rate, 1.0).samples
    count = int(len(said) * RATE / library.rate)
    samples = np.interp(np.arange(count) * library.rate / RATE, np.arange(len(said)), said)
    return samples / max(1e-9, float(np.abs(samples).max())) * 0.5


def silence(seconds: float) -> Sound:
    return np.zeros(int(RATE * seconds))


def heard(parts: Sequence[Sound], seed: int = 1) -> Samples:
    """Returns sounds in a row as a microphone hears them."""
    whole = np.concatenate(list(parts))
    room = np.random.default_rng(seed).normal(0, ROOM, len(whole))
    return (np.clip(whole + room, -1, 1) * 32767).astype(np.int16)


def mixed(speech: Sound, other: Sound, db: float) -> Sound:
    """Returns speech with something else so many dB below it."""
    noise = np.resize(other, len(speech))
    share = np.sqrt(np.mean(speech**2) / np.mean(noise**2) / 10 ** (db / 10))
    return speech + noise * share


def write(path: Path, samples: Samples) -> None:
    with wave.open(str(path), "wb") as file:
        file.setnchannels(1)
        file.setsampwidth(2)
        file.setframerate(RATE)
        file.writeframes(samples.tobytes())
