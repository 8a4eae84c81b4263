"""Cues in words: what they are called, when they are called, and what they do."""

from __future__ import annotations

from typing import Literal, NamedTuple

from cuejar.core.book.book import Book, Cue
from cuejar.core.kinds.table import KINDS
from cuejar.core.parts.base import JsonObject
from cuejar.core.parts.steps import Beat, ForSeconds
from cuejar.core.rules.door import switched_off
from cuejar.core.words.calls import call_brief, call_said, calls_said
from cuejar.core.words.doors import exceptions_said, lane_said, pace_said, text_said, who_said
from cuejar.core.words.names import Names, Noticed
from cuejar.core.words.values import seconds

MOST_TOLD = 4
"""How many things that a cue does are listed before "and more"."""

PartKind = Literal["plain", "calls", "who", "text", "pace", "lane", "does"]


class Said(NamedTuple):
    """A part of a cue's sentence; the editor makes each part that isn't plain a button."""

    kind: PartKind
    words: str


def beat_told(beat: Beat, names: Noticed) -> str:
    """Returns what a beat does; empty if viewers don't notice it."""
    kind = KINDS[getattr(beat, "kind", "")]
    words, length = kind.tells(beat, names), getattr(beat, "length", None)
    if words and kind.way != "strike" and isinstance(length, ForSeconds) and length.s >= 1:
        words += f" for {seconds(length.s)}"
    return words


def does(cue: Cue, names: Noticed) -> str:
    """Returns what viewers notice of a cue, in order."""
    told = dict[str, None]()
    for beat in cue.beats:
        words = "" if switched_off(beat.kind, names.house) else beat_told(beat, names)
        if words:
            told[words] = None
    some = list(told)
    if not some:
        return "The streamer does this."
    said = ", ".join(some[:MOST_TOLD]) + (", and more" if len(some) > MOST_TOLD else "")
    return f"{said[0].upper()}{said[1:]}."


def effect(cue: Cue, names: Noticed) -> str:
    """Returns what a cue does, for the streamer: including what viewers don't notice."""
    told = dict.fromkeys(
        beat_told(beat, names) or KINDS[beat.kind].unnoticed or f"changes {beat.kind}" for beat in cue.beats
    )
    if not told:
        return "Does nothing yet"
    some = list(told)
    said = ", ".join(some[:MOST_TOLD]) + (f", and {len(some) - MOST_TOLD} more" if len(some) > MOST_TOLD else "")
    return f"{said[0].upper()}{said[1:]}"


def sentence(cue: Cue, book: Book, names: Names, noticed: Noticed) -> list[Said]:
    """Returns the whole sentence of a cue in its parts.

    *When* Steam whistle (250) is redeemed, anyone *can call it* without text, once every 20 s*; it* waits its turn in Yard*:*
    shows Whistle plume, plays Steam whistle*.*
    """
    what, calls = effect(cue, noticed), calls_said(_calls(cue), names)
    begins = "" if calls.startswith("every ") else "When "
    return [
        Said("plain", begins),
        Said("calls", calls if begins else f"{calls[0].upper()}{calls[1:]}"),
        Said("plain", ", "),
        Said("who", who_said(cue, book, names)),
        Said("plain", " can call it "),
        Said("text", text_said(cue.door.text)),
        Said("plain", ", "),
        Said("pace", pace_said(cue, book)),
        Said("plain", "; it "),
        Said("lane", lane_said(cue, book)),
        Said("plain", ": "),
        Said("does", f"{what[0].lower()}{what[1:]}"),
        Said("plain", "."),
    ]


def brief(cue: Cue, book: Book, names: Names) -> str:
    """Returns a cue's calls and where its rules differ from the defaults: *250 points or “!whistle” · every 20 s · Yard*."""
    calls = " or ".join(call_brief(call, names, cue.name) for call in _calls(cue)) or "its pad"
    return " · ".join([calls, *exceptions_said(cue, book, names)])


def calls_of(cue: Cue, names: Names) -> list[str]:
    """Returns each call of a cue in words, in order."""
    return [call_said(call, names) for call in _calls(cue)]


def _calls(cue: Cue) -> list[JsonObject]:
    return [call.model_dump(mode="json", by_alias=True) for call in cue.calls]
