"""A clip: moving pictures with their sound, on the overlay."""

from __future__ import annotations

from typing import Literal

from cuejar.core.kinds.base import HEARD, SEEN, VISIBLE, Kind, Named, show_media
from cuejar.core.parts.base import Share
from cuejar.core.parts.steps import MediaRef, Natural, Visible, Volume


class ClipBeat(Natural, Visible):
    kind: Literal["clip"]
    media: MediaRef
    volume: Volume = 100
    duck: Share = 1


def _tells(b: ClipBeat, named: Named) -> str:
    return f"plays {named.media(b.media, 'clip')}"


KIND = Kind(
    ClipBeat,
    "shown",
    "clip",
    show_media,
    noticed=SEEN | HEARD,
    tells=_tells,
    harmless=f"{VISIBLE} media volume duck",
    asked="",
)
