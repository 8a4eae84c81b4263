"""A picture: a file, a draw from a jar of them, or a viewer's own picture, on the overlay."""

from __future__ import annotations

from typing import Literal

from cuejar.core.kinds.base import SEEN, VISIBLE, Kind, Named, show_media
from cuejar.core.parts.steps import FromFace, Natural, PictureRef, Visible


class PictureBeat(Natural, Visible):
    kind: Literal["picture"]
    media: PictureRef


def _tells(b: PictureBeat, named: Named) -> str:
    if isinstance(b.media, FromFace) and b.whose == "drawn":
        return "shows the drawn viewer’s picture"
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
