"""Colours: viewers' words for colours, fades between colours, and random ones.

A viewer may write a CSS name with or without spaces, a basic colour in es, fr, de, pt or it, ``#rgb`` or ``#rrggbb``
with or without ``#``, ``rgb()``, ``hsl()``, or ``random``. A near miss of a name is accepted and reported: "tomatoe" is
read as tomato. Anything else isn't a colour.

Fades go through OKLab, so that red to green passes no dirty brown. Random colours have a uniform hue in OKLCh at fixed
lightness and chroma, fitted to the screen's colours by coloraide, never within 30 degrees of the one showing.
"""

from __future__ import annotations

import re
from functools import cache, lru_cache
from typing import NamedTuple

from cuejar.core.measures.oklab import Numbers, from_oklab, hex_of, oklab, srgb_of
from cuejar.core.parts.base import Random
from cuejar.core.parts.folding import letters_only

RANDOM = "random"
LIGHTNESS, CHROMA, APART = 0.72, 0.15, 30.0
MOST_CHARACTERS = 100
"""Anything longer isn't a colour."""

_BASIC = """
red: rojo rouge rot vermelho rosso
blue: azul bleu blau blu
green: verde vert grün gruen
yellow: amarillo jaune gelb amarelo giallo
orange: naranja orangefarben laranja arancione
purple: morado violett lila roxo viola púrpura pourpre purpurn
pink: rosa rose
black: negro noir schwarz preto nero
white: blanco blanc weiß weiss branco bianco
gray: gris grau cinza grigio
brown: marrón marron brun braun marrom marrone
gold: dorado doré dourado dorato or
silver: plata argent silber prata argento
turquoise: turquesa türkis tuerkis turchese
cyan: celeste ciano
"""


@cache
def names() -> dict[str, str]:
    """Returns every known name, reduced to its letters, with its ``#rrggbb``."""
    from coloraide import Color
    from coloraide.css.color_names import name2val_map

    known = {name: Color(name).to_string(hex=True) for name in name2val_map if name != "transparent"}
    for row in _BASIC.strip().splitlines():
        english, others = row.split(":")
        for other in others.split():
            known.setdefault(letters_only(other), known[english])
    return known


_HEX = re.compile(r"#?([0-9a-f]{6}|[0-9a-f]{3})\Z")


class Reading(NamedTuple):
    """A viewer's colour: ``hex`` is ``#rrggbb`` or ``random``; ``taken_as`` names the colour that a near miss was read
    as.
    """

    hex: str
    taken_as: str | None = None


def read_colour(text: str) -> Reading | None:
    """Returns the colour that ``text`` means, or None."""
    return _read_colour(text) if len(text) <= MOST_CHARACTERS else None


@lru_cache(maxsize=4096)
def _read_colour(text: str) -> Reading | None:
    plain = text.strip().casefold()
    name = letters_only(plain)
    if name in (RANDOM, "surprise"):
        return Reading(RANDOM)
    found = _HEX.match(plain.replace(" ", ""))
    if found:
        digits = found.group(1)
        return Reading("#" + (digits if len(digits) == 6 else "".join(d * 2 for d in digits)))
    if name in names():
        return Reading(names()[name])
    if plain.startswith(("rgb", "hsl")):
        from coloraide import Color

        match = Color.match(plain, fullmatch=True)
        if match is not None:
            return Reading(match.color.convert("srgb").clip().to_string(hex=True, alpha=False))
        return None
    if not name or len(name) < 3 or any(c.isdigit() for c in plain):
        return None
    return _near(name)


def _near(name: str) -> Reading | None:
    from rapidfuzz.distance import OSA

    reach = 1 if len(name) <= 5 else 2
    scored = [(OSA.distance(name, known, score_cutoff=reach), known) for known in names()]
    best = min(score for score, _ in scored)
    hits = {names()[known]: known for score, known in scored if score == best}
    if best > reach or len(hits) != 1:
        return None
    value, known = next(iter(hits.items()))
    return Reading(value, known)


def random_colour(random: Random, showing: str | None = None) -> str:
    """Returns a colour of random hue, at least `APART` degrees of OKLCh hue from ``showing`` if that has a hue."""
    from coloraide import Color

    avoid: float | None = None
    if showing:
        shown = Color(showing).convert("oklch")
        if shown["chroma"] > 0.02:
            avoid = float(shown["hue"])
    hue = random() * 360
    if avoid is not None:
        hue = (avoid + APART + random() * (360 - 2 * APART)) % 360
    return Color("oklch", [LIGHTNESS, CHROMA, hue]).convert("srgb").fit().to_string(hex=True)


def fade(start: str, end: str, part: float) -> str:
    """Returns the colour ``part`` (0 to 1) of the way from ``start`` to ``end``, through OKLab, in steps of a
    thousandth.
    """
    return _faded(start, end, round(min(1.0, max(0.0, part)), 3))


@lru_cache(maxsize=4096)
def _faded(start: str, end: str, part: float) -> str:
    first, last = _ends(start, end)
    return hex_of(from_oklab(first + (last - first) * part))


@lru_cache(maxsize=1024)
def _ends(start: str, end: str) -> tuple[Numbers, Numbers]:
    return oklab(srgb_of(as_hex(start))), oklab(srgb_of(as_hex(end)))


def as_hex(value: str) -> str:
    """Returns ``#rrggbb`` of a colour written in the book; anything else is returned unchanged."""
    reading = read_colour(value)
    return reading.hex if reading else value
