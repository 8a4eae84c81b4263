"""A sound."""

from __future__ import annotations

from typing import Literal

from cuejar.core.kinds.base import AUDIBLE, HEARD, Kind, Named, show_media
from cuejar.core.parts.steps import Audible, MediaRef, Natural


class SoundBeat(Natural, Audible):
    kind: Literal["sound"]
    media: MediaRef


def _tells(b: SoundBeat, named: Named) -> str:
    return f"plays {named.media(b.media, 'sound')}"


KIND = Kind(
    SoundBeat,
    "shown",
    "sound",
    show_media,
    noticed=HEARD,
    tells=_tells,
    harmless=f"{AUDIBLE} media",
    asked="",
)
