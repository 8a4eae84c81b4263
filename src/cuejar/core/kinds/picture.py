"""A picture: a file, or a draw from a jar of them, on the overlay."""

from __future__ import annotations

from typing import Literal

from cuejar.core.kinds.base import SEEN, VISIBLE, Kind, Named, show_media
from cuejar.core.parts.steps import MediaRef, Natural, Visible


class PictureBeat(Natural, Visible):
    kind: Literal["picture"]
    media: MediaRef


def _tells(b: PictureBeat, named: Named) -> str:
    return f"shows {named.media(b.media, 'picture')}"


KIND = Kind(
    PictureBeat,
    "shown",
    "picture",
    show_media,
    noticed=SEEN,
    tells=_tells,
    harmless=f"{VISIBLE} media",
    asked="",
)
