"""The wire log: what came over a wire and could not be read, the last of it, with when and why; and what was passed over.

Unknown kinds and fields are no fault: they are passed over and counted. Secrets are blanked.
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
    """A message that was left out: when (ms since 1970), what it said, why it could not be read."""

    at: int
    what: str
    why: str


def blanked(text: str) -> str:
    """A message as it may be looked at: cut, and without what looks like a secret."""
    return _SECRET.sub(r'\1"•••"', sound_text(text, 4 * MOST_CHARACTERS))[:MOST_CHARACTERS]


class WireLog:
    """What one wire brought that was left out or passed over."""

    def __init__(self) -> None:
        self.left_out: deque[LeftOut] = deque(maxlen=KEPT)
        self.count = 0
        self.passed_over: Counter[str] = Counter()
        """How often each unknown kind of message came."""
        self._said: set[tuple[str, str]] = set()

    def leave_out(self, message: Any, why: str) -> bool:
        """A message could not be read. Returns whether that is to be said: the first time for each kind and reason."""
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
