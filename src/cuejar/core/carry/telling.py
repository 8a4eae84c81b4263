"""What an entry of a book is, in a line: so that one sees what comes in before it does."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from cuejar.core.book.book import Book
from cuejar.core.carry.words import Names, call_said, seconds
from cuejar.core.playbill.bill import Noticed, does


class Telling:
    """Tells the entries of a book."""

    def __init__(self, book: Book) -> None:
        self.names, self.noticed = Names(book), Noticed(book)

    def told(self, kind: str, entry: Any) -> str:
        """An entry of one of the book's lists in words; empty where its name says all."""
        tell = _TOLD.get(kind)
        return tell(entry, self) if tell is not None else ""


def _cue(cue: Any, book: Telling) -> str:
    calls = ", or ".join(call_said(call.model_dump(mode="json", by_alias=True), book.names) for call in cue.calls)
    what = does(cue, book.noticed) if cue.beats else "Nothing happens yet."
    return f"When {calls}: {what[0].lower()}{what[1:]}" if calls else f"By its pad: {what[0].lower()}{what[1:]}"


def _jar(jar: Any, book: Telling) -> str:
    return f"{len(jar.entries)} {'entry' if len(jar.entries) == 1 else 'entries'} of {jar.kind}"


def _reward(reward: Any, book: Telling) -> str:
    return f"{reward.cost:,}{', asks for a text' if reward.text else ''}{'' if reward.on else ', off'}"


def _lane(lane: Any, book: Telling) -> str:
    return f"{lane.width} at once, {lane.line} may wait"


def _count(count: Any, book: Telling) -> str:
    return f"goal {count.goal:,}" if count.goal is not None else ""


def _gear(gear: Any, book: Telling) -> str:
    return f"{gear.kind} at {gear.address}" if gear.address else str(gear.kind)


def _pattern(pattern: Any, book: Telling) -> str:
    return seconds(pattern.length_s)


def _words(words: Any, book: Telling) -> str:
    return f"{len(words.entries)} entries"


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
