"""Short ids from names."""

from __future__ import annotations

import re
import unicodedata
from collections.abc import Container


def slug(name: str, taken: Container[str], fallback: str = "thing") -> str:
    """Returns a short id made from a name that isn't among ``taken``."""
    plain = unicodedata.normalize("NFKD", name.casefold())
    base = re.sub(r"[^a-z0-9]+", "-", "".join(c for c in plain if ord(c) < 128)).strip("-")[:48] or fallback
    number, out = 2, base
    while out in taken:
        out, number = f"{base}-{number}", number + 1
    return out
