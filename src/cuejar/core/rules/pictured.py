"""Which picture a reward has: its own, or the one its cue shows, tinted."""

from __future__ import annotations

import hashlib
from collections.abc import Mapping, Sequence
from typing import NamedTuple

from cuejar.core.book.book import Book, Cue, Reward
from cuejar.core.facts.happenings import MediaFacts
from cuejar.core.parts.steps import FromFile, FromJar

TINT = "#e0912f"
"""For a reward without a colour."""
GROUND = "#1c2b28"
"""What shows through a picture with see-through parts, for a reward without a colour."""


class Pictured(NamedTuple):
    """A reward's picture: a media entry, the square cut out of it, its tint (none: its own colours), what is behind."""

    media: str
    x: float
    y: float
    zoom: float
    tint: str
    ground: str


def pictured(reward: Reward, cues: Sequence[Cue], book: Book, facts: Mapping[str, MediaFacts]) -> Pictured | None:
    """Returns a reward's picture; None if neither it nor its cues have one.

    Args:
        cues: those that the reward calls.
        facts: what is in the files; of missing ones nothing is shown.
    """

    def is_seen(media: str) -> bool:
        there = facts.get(media)
        return there is not None and not there.missing and there.kind != "sound"

    own, ground = reward.picture, reward.colour or GROUND
    if own is not None and is_seen(own.media):
        return Pictured(own.media, own.x, own.y, own.zoom, "", ground)
    jars = {jar.id: jar for jar in book.jars}
    for cue in cues:
        for beat in cue.beats:
            media = getattr(beat, "media", None)
            found = [media.file] if isinstance(media, FromFile) else []
            if isinstance(media, FromJar):
                found = [entry.value for entry in jars[media.jar].entries if entry.on]
            for one in found:
                if is_seen(one):
                    return Pictured(one, 0.5, 0.5, 1, reward.colour or TINT, ground)
    return None


def mark(picture: Pictured, file: str) -> str:
    """Returns a text that differs whenever the picture does; ``file`` is the hash of its file."""
    return hashlib.sha256(repr((file, *picture[1:])).encode()).hexdigest()[:24]
