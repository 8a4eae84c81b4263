"""The wire log: the last unreadable messages of a wire, with time and reason; and counts of ignored ones.

Unknown kinds and fields are no fault: they are ignored and counted. Secrets are blanked.
"""

from __future__ import annotations

import json
import re
import time
from collections import Counter, deque
from typing import Any, NamedTuple

from cuejar.core.facts.gate import sound_text

KEPT, MOST_CHARACTERS = 200, 500
_SECRET = re.compile(r'(?i)("(?:[^"]*(?:token|password|secret|proof|authorization|challenge|key)[^"]*)"\s*:\s*)"[^"]*"')


class LeftOut(NamedTuple):
    """An ignored message: when (ms since 1970), what it said, why it couldn't be read."""

    at: int
    what: str
    why: str


def blanked(text: str) -> str:
    """Returns a message for display: cut, and without anything that looks like a secret."""
    return _SECRET.sub(r'\1"•••"', sound_text(text, 4 * MOST_CHARACTERS))[:MOST_CHARACTERS]


class WireLog:
    """The unreadable and unknown messages of one wire."""

    def __init__(self) -> None:
        self.left_out: deque[LeftOut] = deque(maxlen=KEPT)
        self.count = 0
        self.passed_over: Counter[str] = Counter()
        """How often each unknown kind of message came."""
        self._said: set[tuple[str, str]] = set()

    def leave_out(self, message: Any, why: str) -> bool:
        """Notes an unreadable message. Returns whether to report it: the first time for each kind and reason."""
        try:
            text = message if isinstance(message, str) else json.dumps(message, ensure_ascii=False, default=str)
        except (ValueError, RecursionError):
            text = type(message).__name__
        why = sound_text(why, MOST_CHARACTERS)
        self.left_out.append(LeftOut(time.time_ns() // 1_000_000, blanked(text), why))
        self.count += 1
        kind = str(message.get("type")) if isinstance(message, dict) else ""
        about = (sound_text(kind, 60), why[:60])
        fresh = about not in self._said and len(self._said) < 1_000
        if fresh:
            self._said.add(about)
        return fresh

    def pass_over(self, kind: str) -> None:
        kind = sound_text(kind, 60)
        if kind in self.passed_over or len(self.passed_over) < 100:
            self.passed_over[kind] += 1
