"""Text made comparable, regardless of case, width and accents."""

from __future__ import annotations

import unicodedata
from functools import lru_cache

REMEMBERED = 200
"""The folded form of longer texts isn't cached."""


def listed(text: str) -> list[str]:
    """Returns the entries of a pasted list, one per line: without blank lines, surrounding space and quotes."""
    pairs = {'"': '"', "'": "'", "“": "”", "„": "“", "«": "»", "‘": "’"}
    entries = []
    for line in text.splitlines():
        entry = line.strip()
        if len(entry) > 1 and pairs.get(entry[0]) == entry[-1]:
            entry = entry[1:-1].strip()
        if entry:
            entries.append(entry)
    return entries


def folded(text: str) -> str:
    """Returns the form in which names and chat commands are compared: NFKC, casefolded, without surrounding space."""
    return _folded(text) if len(text) <= REMEMBERED else _plain(text)


def _plain(text: str) -> str:
    return unicodedata.normalize("NFKC", text).casefold().strip()


_folded = lru_cache(maxsize=8192)(_plain)


def letters_only(text: str) -> str:
    """Returns the letters and digits of a text without accents, spaces or marks: ``Grün-blau`` becomes ``grunblau``."""
    apart = unicodedata.normalize("NFKD", text.casefold())
    return "".join(c for c in apart if c.isalnum())
