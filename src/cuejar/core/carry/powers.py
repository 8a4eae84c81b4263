"""What a cue could do that its streamer should allow, beyond what comes and goes on the overlay: hooks, keys, replies…

`declared` says which fields that is. A permission is for the exact content: another text, another body, or other words
in the jar that it draws from are asked for again. A cue can also do what the cues that it fires can do, named or drawn.
"""

from __future__ import annotations

import json
from collections.abc import Iterator
from hashlib import sha256
from typing import Any

from cuejar.core.book.book import Book, Cue
from cuejar.core.kinds.base import Power
from cuejar.core.kinds.table import KINDS, fired
from cuejar.core.parts.base import BookError, JsonObject, Problem
from cuejar.core.parts.folding import folded
from cuejar.core.parts.gear import Gear
from cuejar.core.parts.steps import FromJar
from cuejar.core.words.fields import said
from cuejar.core.words.names import Names
from cuejar.core.words.properties import keys_said

MOST_WAYS = 1_000_000
"""The maximum number of paths from cue to cue that are followed."""
MOST_TOLD = 160
"""The maximum length of a body or text that is shown."""


def marked(name: str, value: Any) -> str:
    """Returns a name with a mark of its exact content."""
    told = json.dumps(value, sort_keys=True, ensure_ascii=False)
    return f"{name} {sha256(told.encode()).hexdigest()[:16]}"


def powers(book: Book) -> dict[str, dict[Power, None]]:
    """Returns what every cue can do, by its id.

    Raises:
        BookError: the cues fire each other in too many ways to tell.
    """
    asked = _Asked(book)
    own = {cue.id: dict.fromkeys(asked.of(cue)) for cue in book.cues}
    # A jar of cues is a node of its own, visited once however many draw from it.
    fires = {("cue", cue.id): [_target(other) for other in fired(cue.beats)] for cue in book.cues}
    fires |= {("jar", jar.id): [("cue", one.value) for one in jar.entries] for jar in book.jars if jar.kind == "cue"}
    reach: dict[str, dict[Power, None]] = {}
    steps = 0
    for cue in book.cues:
        start = ("cue", cue.id)
        met, waiting = {start}, [start]
        found: dict[Power, None] = {}
        while waiting:
            stop = waiting.pop()
            if stop[0] == "cue":
                found |= own.get(stop[1], {})
            others = fires.get(stop, [])
            fresh = [other for other in others if other not in met]
            met |= set(fresh)
            waiting += fresh
            steps += 1 + len(others)
            if steps > MOST_WAYS:
                raise BookError(
                    [Problem(f"cues {cue.name}", "the cues fire each other in too many ways to be checked")]
                )
        reach[cue.id] = found
    return reach


def _target(cue: str | FromJar) -> tuple[str, str]:
    return ("jar", cue.jar) if isinstance(cue, FromJar) else ("cue", cue)


class _Asked:
    """What each cue of a book asks for by itself."""

    def __init__(self, book: Book) -> None:
        self._book, self._names = book, Names(book)
        self._gear = {one.id: one for one in book.gear}
        self._jars = {jar.id: [entry.value for entry in jar.entries] for jar in book.jars}
        self._inlets = {folded(name) for inlet in book.inlets for name in (inlet.id, inlet.name)}

    def of(self, cue: Cue) -> Iterator[Power]:
        for beat in cue.beats:
            kind = KINDS[beat.kind]
            if kind.asked:
                yield kind.power(beat, self)
        for call in cue.calls:
            if call.kind == "hook" and folded(call.name) in self._inlets:
                yield Power("inlet", folded(call.name), f"can be fired from outside by the hook {call.name}")

    def _exact(self, value: Any) -> Any:
        """Returns fields as JSON, with the words of the jars that they draw from."""
        if isinstance(value, FromJar):
            return {"jar": value.jar, "words": self._jars.get(value.jar, [])}
        if isinstance(value, dict):
            return {name: self._exact(one) for name, one in value.items()}
        return value

    # What a beat may ask (`kinds.base.Asking`)

    def power(self, beat: Any, what: str, **more: Any) -> Power:
        exact = self._exact({name: getattr(beat, name) for name in KINDS[beat.kind].asked.split()})
        return Power(beat.kind, marked(beat.kind, {**exact, **more}), what)

    def gear(self, id: str) -> Gear | None:
        return self._gear.get(id)

    def named(self, what: str, id: str) -> str:
        return self._names.of(what, id)

    def value(self, name: str, value: Any) -> str:
        return _short(said(name, value, self._names))

    def keys(self, combo: str) -> str:
        return keys_said(combo)

    def words(self, text: str | FromJar) -> str:
        if not isinstance(text, FromJar):
            return _short(text)
        words = self._jars.get(text.jar, [])
        more = f" and {len(words) - 3} more" if len(words) > 3 else ""
        return (
            f"{said('text', text.model_dump(), self._names)} ({', '.join(_short(one, 40) for one in words[:3])}{more})"
        )


def _short(text: str, most: int = MOST_TOLD) -> str:
    return text if len(text) <= most else text[: most - 1].rstrip() + "…"


def exact_of(entry: Any, fields: str) -> JsonObject:
    """Returns the fields of an entry that are asked, as JSON."""
    whole: JsonObject = entry.model_dump(mode="json", by_alias=True)
    return {name: whole.get(name) for name in fields.split()}
