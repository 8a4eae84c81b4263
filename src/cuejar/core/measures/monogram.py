"""A viewer's stand-in for a picture: the first letters of their name in white on a colour of their own."""

from __future__ import annotations

import hashlib
import math
import re
import unicodedata
from urllib.parse import quote
from xml.sax.saxutils import escape

import numpy as np

from cuejar.core.measures.oklab import from_oklab, hex_of

FACE = "face/"
"""The prefix of a viewer's picture among what can be shown; no media entry has such an id."""
LIGHTNESS, CHROMA = 0.5, 0.1
"""In OKLCh; dark enough for white letters on every hue."""
_BETWEEN = re.compile(r"[\W_]+")


def letters(name: str) -> str:
    """Returns one or two capital letters or digits for a name; ``?`` if it has none."""
    words = [word for word in _BETWEEN.split(unicodedata.normalize("NFC", name)) if word]
    return "".join(word[0].upper()[:1] for word in words[:2]) or "?"


def ground(viewer: str) -> str:
    """Returns the ``#rrggbb`` of a viewer, the same for ever."""
    hue = int.from_bytes(hashlib.sha256(viewer.encode("utf-8", "surrogatepass")).digest()[:2]) / 65_536 * 2 * math.pi
    return hex_of(from_oklab(np.array([LIGHTNESS, CHROMA * math.cos(hue), CHROMA * math.sin(hue)])))


def monogram(viewer: str, name: str) -> str:
    """Returns a square SVG with a viewer's letters."""
    said = letters(name)
    size = 52 if len(said) == 1 else 42
    return (
        '<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 100 100" width="256" height="256">'
        f'<rect width="100" height="100" fill="{ground(viewer)}"/>'
        f'<text x="50" y="50" dy="0.36em" text-anchor="middle" fill="#fff" font-family="Nunito, sans-serif" '
        f'font-weight="700" font-size="{size}">{escape(said)}</text></svg>'
    )


def face_address(viewer: str) -> str:
    """Returns the path of a viewer's picture on Cue Jar's pages."""
    return f"/faces/{quote(viewer, safe='')}"
