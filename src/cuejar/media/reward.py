"""A reward's picture: cut square, tinted if it is its cue's, on its colour, as a PNG of any size."""

from __future__ import annotations

import io
from pathlib import Path

from PIL import Image, ImageColor, ImageOps

from cuejar.core.measures.crop import square
from cuejar.core.rules.pictured import Pictured

SIDES = range(16, 1025)
"""The sides that are made, in pixels."""


def reward_picture(path: Path, picture: Pictured, sides: tuple[int, ...]) -> list[bytes]:
    """Returns one PNG for each side. Runs in a worker process.

    Args:
        path: of the picture, which was read before; of something that moves its first frame counts.
    """
    with Image.open(path) as image:
        image.seek(0)
        upright = ImageOps.exif_transpose(image).convert("RGBA")
    left, top, side = square(*upright.size, picture.x, picture.y, picture.zoom)
    cut = upright.crop((left, top, left + side, top + side))
    return [_one(cut, picture, wanted) for wanted in sides]


def _one(cut: Image.Image, picture: Pictured, side: int) -> bytes:
    small = cut.resize((side, side), Image.Resampling.LANCZOS)
    whole = Image.new("RGB", small.size, picture.ground)
    if picture.tint:
        whole = Image.new("RGB", small.size, _darker(picture.tint))
    whole.paste(_tinted(small, picture.tint) if picture.tint else small.convert("RGB"), mask=small.getchannel("A"))
    out = io.BytesIO()
    whole.save(out, "PNG")
    return out.getvalue()


def _darker(colour: str) -> tuple[int, int, int]:
    red, green, blue = ImageColor.getrgb(colour)[:3]
    return red // 5, green // 5, blue // 5


def _tinted(image: Image.Image, tint: str) -> Image.Image:
    """Returns a picture in shades of one colour: dark of it, the colour itself, and white."""
    grey = ImageOps.autocontrast(image.convert("L"))
    return ImageOps.colorize(grey, _darker(tint), "#ffffff", mid=tint)
