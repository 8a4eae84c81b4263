"""A picture: a file, or a draw from a jar of them, on the overlay."""

from __future__ import annotations

from typing import Literal

from cuejar.core.kinds.base import Kind, show_media
from cuejar.core.parts.steps import MediaRef, Natural, Seen


class PictureBeat(Natural, Seen):
    kind: Literal["picture"]
    media: MediaRef


KIND = Kind(PictureBeat, "shown", "picture", show_media, is_seen=True)
