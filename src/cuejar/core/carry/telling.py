"""What an entry of a book is, in a line: so that one sees what comes in before it does."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from cuejar.core.book.book import Book
from cuejar.core.carry.words import Names, call_said, seconds
from cuejar.core.playbill.bill import does


def told(kind: str, entry: Any, book: Book) -> str:
    """An entry of one of the book's lists in words; empty where its name says all."""
    tell = _TOLD.get(kind)
    return tell(entry, book) if tell is not None else ""


def _cue(cue: Any, book: Book) -> str:
    names = Names(book)
    calls = ", or ".join(call_said(call.model_dump(mode="json", by_alias=True), names) for call in cue.calls)
    what = does(cue, book) if cue.beats else "Nothing happens yet."
    return f"When {calls}: {what[0].lower()}{what[1:]}" if calls else f"By its pad: {what[0].lower()}{what[1:]}"


def _jar(jar: Any, book: Book) -> str:
    return f"{len(jar.entries)} {'entry' if len(jar.entries) == 1 else 'entries'} of {jar.kind}"


def _reward(reward: Any, book: Book) -> str:
    return f"{reward.cost:,}{', asks for a text' if reward.text else ''}{'' if reward.on else ', off'}"


def _lane(lane: Any, book: Book) -> str:
    return f"{lane.width} at once, {lane.line} may wait"


def _gear(gear: Any, book: Book) -> str:
    return f"{gear.kind} at {gear.address}" if gear.address else str(gear.kind)


def _pattern(pattern: Any, book: Book) -> str:
    return seconds(pattern.length_s)


def _words(words: Any, book: Book) -> str:
    return f"{len(words.entries)} entries"


_TOLD: dict[str, Callable[[Any, Book], str]] = {
    "cues": _cue,
    "jars": _jar,
    "rewards": _reward,
    "lanes": _lane,
    "gear": _gear,
    "patterns": _pattern,
    "words": _words,
}
