"""Faces of the simulated viewers: drawn from their ids, each with a cap of the Halt."""

from __future__ import annotations

import io
import random
from functools import lru_cache

from PIL import Image, ImageDraw

SIDE = 256
GROUNDS = ["#1f4e5f", "#5b3a6e", "#7a4a1e", "#2f5d3a", "#6b2d3c", "#3a4a7a"]
SKINS = ["#f3d3b3", "#e0ac7e", "#b97f52", "#8a5a3a", "#5d3c28"]
CAPS = ["#18222c", "#8c2f2b", "#24503a", "#c49a2c", "#31456f"]
HAIR = ["#2a1d16", "#6b4423", "#b8873a", "#8a8a8a", "#a33c1f"]


@lru_cache(maxsize=256)
def drawn_face(viewer: str) -> bytes:
    """Returns a PNG of `SIDE` by `SIDE`, the same for the same viewer."""
    luck = random.Random(viewer)
    image = Image.new("RGB", (SIDE, SIDE), luck.choice(GROUNDS))
    draw = ImageDraw.Draw(image)
    skin, cap, hair = luck.choice(SKINS), luck.choice(CAPS), luck.choice(HAIR)
    draw.ellipse((20, 205, 236, 360), fill=cap)
    draw.ellipse((58, 80, 198, 240), fill=hair)
    draw.ellipse((70, 70, 186, 226), fill=skin)
    for x in (104, 152):
        draw.ellipse((x - 8, 136, x + 8, 154), fill="#fffaf0")
        draw.ellipse((x - 4, 141, x + 5, 152), fill="#1c1c1c")
    draw.line((128, 150, 122, 176, 132, 178), fill=hair, width=3)
    if luck.random() < 0.4:
        draw.arc((96, 176, 160, 214), 10, 170, fill="#7c2f2a", width=5)
    else:
        draw.arc((104, 180, 152, 206), 20, 160, fill="#7c2f2a", width=5)
    if luck.random() < 0.35:
        for x in (104, 152):
            draw.ellipse((x - 18, 126, x + 18, 164), outline="#222222", width=4)
        draw.line((122, 145, 134, 145), fill="#222222", width=4)
    if luck.random() < 0.3:
        draw.chord((92, 164, 164, 204), 180, 360, fill=hair)
    draw.pieslice((60, 36, 196, 150), 180, 360, fill=cap)
    draw.rounded_rectangle((54, 88, 206, 106), 8, fill="#11161c")
    draw.ellipse((118, 58, 138, 78), fill="#e2b33c")
    out = io.BytesIO()
    image.save(out, "PNG")
    return out.getvalue()
