"""Entries of a book in one line each, for the review of an import."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from cuejar.core.book.book import Book
from cuejar.core.words.calls import calls_said
from cuejar.core.words.cues import does
from cuejar.core.words.names import Names, Noticed
from cuejar.core.words.values import counted, seconds


class Telling:
    """Describes the entries of a book."""

    def __init__(self, book: Book) -> None:
        self.names, self.noticed = Names(book), Noticed(book)

    def told(self, kind: str, entry: Any) -> str:
        """Returns an entry of one of the book's lists in words; empty if its name says it all."""
        tell = _TOLD.get(kind)
        return tell(entry, self) if tell is not None else ""


def _cue(cue: Any, book: Telling) -> str:
    calls = calls_said([call.model_dump(mode="json", by_alias=True) for call in cue.calls], book.names)
    what = does(cue, book.noticed) if cue.beats else "Does nothing yet."
    return f"When {calls}: {what[0].lower()}{what[1:]}"


def _jar(jar: Any, book: Telling) -> str:
    return f"{counted(len(jar.entries), 'entry', 'entries')} ({jar.kind})"


def _reward(reward: Any, book: Telling) -> str:
    return f"{reward.cost:,}{', asks for text' if reward.text else ''}{'' if reward.on else ', off'}"


def _lane(lane: Any, book: Telling) -> str:
    return f"{lane.width} at once, up to {lane.line} waiting"


def _count(count: Any, book: Telling) -> str:
    return f"goal {count.goal:,}" if count.goal is not None else ""


def _gear(gear: Any, book: Telling) -> str:
    return f"{gear.kind} at {gear.address}" if gear.address else str(gear.kind)


def _pattern(pattern: Any, book: Telling) -> str:
    return seconds(pattern.length_s)


def _words(words: Any, book: Telling) -> str:
    return counted(len(words.entries), "entry", "entries")


_TOLD: dict[str, Callable[[Any, Telling], str]] = {
    "cues": _cue,
    "jars": _jar,
    "rewards": _reward,
    "lanes": _lane,
    "counts": _count,
    "gear": _gear,
    "patterns": _pattern,
    "words": _words,
}
