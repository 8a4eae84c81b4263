"""Text made comparable: case, width and accent form taken out of the way."""

from __future__ import annotations

import unicodedata
from functools import lru_cache


@lru_cache(maxsize=8192)
def folded(text: str) -> str:
    """NFKC, casefolded, outer space off: the form in which names and chat commands are compared."""
    return unicodedata.normalize("NFKC", text).casefold().strip()


def letters_only(text: str) -> str:
    """The letters and digits of a text without accents, spaces or marks: ``Grün-blau`` becomes ``grunblau``."""
    apart = unicodedata.normalize("NFKD", text.casefold())
    return "".join(c for c in apart if c.isalnum())
