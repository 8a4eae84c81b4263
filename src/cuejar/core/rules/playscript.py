"""Reading aloud: who says which part of a viewer's text, and how.

A line or a `` / `` starts a new speech. ``Name: words`` gives it to the part of that name in the cast, in any case;
``Name (effect): words`` adds one of that part's allowed effects. Anything else is read by the default part:

    Pip: tickets please / Marlow (echo): mind the gap     Pip, then Marlow with an echo
    Nobody: hello                                          the default part reads "Nobody: hello"

A part that is switched off, or that the viewer's roles may not use, is replaced by the default part. The number of
speeches is limited; the last one reads the rest.

The text is made speakable: names without ornaments, emoji by their names, no endless numbers, and nothing that a
synthesizer could take for a command.
"""

from __future__ import annotations

import re
import unicodedata
from collections.abc import Sequence
from typing import NamedTuple

from cuejar.core.book.book import Part
from cuejar.core.facts.happenings import Viewer
from cuejar.core.parts.folding import folded
from cuejar.core.rules.conditions import has_role

_BREAK = re.compile(r"\n|(?:^|\s)/(?=\s)")
_LABEL = re.compile(r"\s*([^:()/]{1,60}?)\s*(?:\(([^()]{1,30})\))?\s*:\s*(\S.*)", re.S)
_TAG = re.compile(r"</?[A-Za-z!][^<>]{0,200}>")
MOST_EMOJI = 3
LONG_NUMBER = 12


class Speech(NamedTuple):
    """One speech: the part that says it (its id), with an effect, the words as written and as spoken. ``instead`` says
    whom it replaces and why.
    """

    part: str
    effect: str
    written: str
    said: str
    instead: str = ""


def _ornament(char: str) -> bool:
    return unicodedata.category(char) in ("So", "Sk") or 0x1F000 <= ord(char) <= 0x1FAFF


def speakable_name(name: str) -> str:
    """Returns a viewer's name as people would say it: ``xX_bramble_99`` is "bramble 99", ``NineGauge7`` is "Nine Gauge
    7".
    """
    plain = _without_ornaments(name.strip())
    apart = re.sub(r"(?<=[a-z])(?=[A-Z])|(?<=[^\W\d_])(?=\d)|(?<=\d)(?=[^\W\d_])", " ", plain or name)
    words = " ".join(re.sub(r"[_\-.~*|]+", " ", apart).split())
    return words or name


def _without_ornaments(name: str) -> str:
    """Returns a name without the x's around it, if they are set off: ``xX_bramble_Xx``, ``NineGaugeXx``."""
    plain = re.sub(r"(?i)^x+[_\-. ]*(?=\w{2})", "", name)
    bare = plain.rstrip("xX")
    if bare != plain and bare[-1:] in "_-. " and bare:
        return bare.rstrip("_-. ")
    return plain[:-2] if plain.endswith("Xx") and plain[-3:-2].islower() else plain


def speakable(text: str) -> str:
    """Returns words for a voice: no markup, no commands, emoji by name, no long numbers."""
    out: list[str] = []
    emoji: dict[str, int] = {}
    for char in _TAG.sub(" ", text):
        if char in "<>[]{}|\\^~`_*#":
            out.append(" ")
        elif _ornament(char):
            emoji[char] = emoji.get(char, 0) + 1
            name = unicodedata.name(char, "").lower().replace(" sign", "").replace("-", " ")
            if emoji[char] == 1 and len(emoji) <= MOST_EMOJI and name:
                out.append(f" {name} ")
        elif unicodedata.category(char)[0] == "C" or char in "\ufe0e\ufe0f":
            continue
        else:
            out.append(char)
    plain = re.sub(rf"\d{{{LONG_NUMBER + 1},}}", " a long number ", "".join(out))
    words = " ".join(plain.split())
    return words if any(c.isalnum() for c in words) else ""


def part_named(name: str, cast: Sequence[Part]) -> Part | None:
    wanted = folded(name)
    return next((part for part in cast if wanted in (folded(part.name), part.id)), None)


def may_use(part: Part, viewer: Viewer | None) -> bool:
    """Returns whether a viewer's roles let them use a part; pads and clocks may use any."""
    return viewer is None or any(has_role(viewer, role) for role in part.who)


def default_part(cast: Sequence[Part], wanted: str | None) -> Part | None:
    """Returns the default part: the one asked for, otherwise the first that isn't switched off."""
    asked = next((part for part in cast if part.id == wanted and part.on), None)
    return asked or next((part for part in cast if part.on), None)


def speeches(
    text: str, cast: Sequence[Part], default: str | None, viewer: Viewer | None = None, most: int = 4
) -> list[Speech]:
    """Returns who says what of a text, in order; unspeakable speeches are left out.

    Args:
        text: normalised, without anything that a list refuses.
        default: the part that reads text without a name.
        most: the maximum number of speeches.
    """
    fallback = default_part(cast, default)
    if fallback is None:
        return []
    pieces = [piece.strip() for piece in _BREAK.split(text) if piece and piece.strip()]
    if len(pieces) > most:
        pieces = [*pieces[: most - 1], " ".join(pieces[most - 1 :])]
    out: list[Speech] = []
    for piece in pieces:
        part, effect, written, instead = fallback, "", piece, ""
        label = _LABEL.fullmatch(piece)
        named = part_named(label.group(1), cast) if label else None
        if label and named is not None:
            written, wanted = label.group(3), folded(label.group(2) or "")
            if not named.on:
                instead = f"{named.name} is switched off"
            elif not may_use(named, viewer):
                instead = f"{named.name} is not for this viewer"
            else:
                part = named
            if wanted:
                effect = next((e for e in part.may if folded(e) == wanted), "")
                if not effect:
                    instead = instead or f"{part.name} has no effect “{label.group(2)}”"
        said = speakable(written)
        if said:
            out.append(Speech(part.id, effect or part.effect, written, said, instead))
    return out
