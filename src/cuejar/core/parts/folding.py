"""Text made comparable: case, width and accent form taken out of the way."""

from __future__ import annotations

import unicodedata
from functools import lru_cache

REMEMBERED = 200
"""Longer texts are not remembered in their folded form."""


def listed(text: str) -> list[str]:
    """The entries of a pasted list, one a line: blank lines skipped, surrounding space and quotes taken off."""
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
    """NFKC, casefolded, outer space off: the form in which names and chat commands are compared."""
    return _folded(text) if len(text) <= REMEMBERED else _plain(text)


def _plain(text: str) -> str:
    return unicodedata.normalize("NFKC", text).casefold().strip()


_folded = lru_cache(maxsize=8192)(_plain)


def letters_only(text: str) -> str:
    """The letters and digits of a text without accents, spaces or marks: ``Grün-blau`` becomes ``grunblau``."""
    apart = unicodedata.normalize("NFKD", text.casefold())
    return "".join(c for c in apart if c.isalnum())
