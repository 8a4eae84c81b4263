"""The programme picture of the simulated broadcaster: every source is a drawing of a few flat shapes."""

from __future__ import annotations

import io
import math
import random
from collections.abc import Callable
from typing import Any

from PIL import Image, ImageDraw, ImageFont

from cuejar.core.facts.paths import Family, path_of
from cuejar.standins.broadcaster import Broadcaster

GROUNDS = {
    "Workbench": "#3d2f26",
    "Yard cam": "#16263a",
    "Night mail": "#0e1526",
    "Tea table": "#5b4334",
    "Signal box": "#24352f",
}
CREAM, MARMALADE, BERRY, PINE, DEEP, STRAW = "#f4eedd", "#f0a23c", "#b8455f", "#28524a", "#121d1b", "#e9cf72"
Draw = ImageDraw.ImageDraw
W, H = 1280, 720


def _bench(d: Draw, w: float, h: float) -> None:
    d.rectangle((0, h * 0.66, w, h), fill="#8a5f3c")
    for n in range(6):
        d.line((0, h * (0.7 + n * 0.055), w, h * (0.7 + n * 0.055)), fill="#74502f", width=2)
    x, y, s = w * 0.5, h * 0.68, h / 200
    d.rounded_rectangle((x - 70 * s, y - 62 * s, x + 62 * s, y - 22 * s), 10 * s, fill=BERRY)
    d.rectangle((x - 84 * s, y - 94 * s, x - 26 * s, y - 22 * s), fill=BERRY)
    d.rectangle((x - 68 * s, y - 84 * s, x - 42 * s, y - 60 * s), fill=STRAW)
    d.rectangle((x + 32 * s, y - 92 * s, x + 54 * s, y - 60 * s), fill=DEEP)
    for wheel in (-58, -12, 34):
        d.ellipse((x + (wheel - 16) * s, y - 30 * s, x + (wheel + 16) * s, y + 2 * s), fill=DEEP)
    d.polygon([(w * 0.12, h * 0.66), (w * 0.2, h * 0.4), (w * 0.24, h * 0.42), (w * 0.17, h * 0.66)], fill="#c9a36b")


def _lens(d: Draw, w: float, h: float) -> None:
    r = min(w, h) * 0.42
    d.ellipse((w / 2 - r, h / 2 - r, w / 2 + r, h / 2 + r), fill="#cfe3e0", outline=DEEP, width=14)
    d.ellipse((w / 2 - r * 0.4, h / 2 - r * 0.4, w / 2 + r * 0.4, h / 2 + r * 0.4), fill=BERRY)


def _clock(d: Draw, w: float, h: float) -> None:
    r = min(w, h) * 0.46
    d.ellipse((w / 2 - r, h / 2 - r, w / 2 + r, h / 2 + r), fill=CREAM, outline=MARMALADE, width=10)
    d.line((w / 2, h / 2, w / 2, h / 2 - r * 0.7), fill=DEEP, width=9)
    d.line((w / 2, h / 2, w / 2 + r * 0.5, h / 2 + r * 0.2), fill=DEEP, width=9)


def _lamp(d: Draw, w: float, h: float) -> None:
    d.rectangle((w * 0.46, h * 0.25, w * 0.54, h), fill="#2c3b4d")
    d.ellipse((w * 0.05, h * 0.02, w * 0.95, h * 0.34), fill="#5a4a26")
    d.polygon([(w * 0.3, h * 0.08), (w * 0.7, h * 0.08), (w * 0.62, h * 0.28), (w * 0.38, h * 0.28)], fill=STRAW)


def _snow(d: Draw, w: float, h: float) -> None:
    spots = random.Random(7)
    for _ in range(140):
        x, y, r = spots.random() * w, spots.random() * h, 1 + spots.random() * 6
        d.ellipse((x - r, y - r, x + r, y + r), fill=CREAM)


def _board(d: Draw, w: float, h: float) -> None:
    d.rectangle((0, 0, w, h), fill=DEEP, outline=MARMALADE, width=4)
    for n, words in enumerate(("19:04 Owl Junction", "19:31 Kettle Road", "20:12 Night mail")):
        d.text((w * 0.08, h * (0.14 + n * 0.27)), words, font=ImageFont.load_default(max(10, h / 9)), fill=STRAW)


def _mail(number: int) -> Callable[[Draw, float, float], None]:
    def draw(d: Draw, w: float, h: float) -> None:
        d.rectangle((0, h * 0.72, w, h), fill="#1b2a22")
        stars = random.Random(number)
        for _ in range(40):
            x, y = stars.random() * w, stars.random() * h * 0.5
            d.ellipse((x, y, x + 4, y + 4), fill=CREAM)
        body = (BERRY, PINE, "#7a4a86", MARMALADE, "#3f6ea6", "#8a5f3c")[number - 1]
        for car in range(4):
            x = w * (0.05 + number * 0.03 + car * 0.23)
            d.rounded_rectangle((x, h * 0.5, x + w * 0.21, h * 0.7), 8, fill=body)
            for window in range(3):
                left = x + w * (0.02 + window * 0.065)
                d.rectangle((left, h * 0.54, left + w * 0.045, h * 0.61), fill=STRAW)
        d.rectangle((0, h * 0.715, w, h * 0.73), fill="#8a949c")

    return draw


def _tea(d: Draw, w: float, h: float) -> None:
    d.rectangle((0, h * 0.7, w, h), fill="#c9a36b")
    d.ellipse((w * 0.36, h * 0.36, w * 0.62, h * 0.76), fill=PINE)
    d.polygon([(w * 0.6, h * 0.5), (w * 0.74, h * 0.4), (w * 0.72, h * 0.48), (w * 0.61, h * 0.62)], fill=PINE)
    d.arc((w * 0.27, h * 0.42, w * 0.42, h * 0.68), 90, 270, fill=PINE, width=22)
    d.rectangle((w * 0.45, h * 0.31, w * 0.53, h * 0.37), fill=MARMALADE)


def _levers(d: Draw, w: float, h: float) -> None:
    d.rectangle((0, h * 0.74, w, h), fill="#4a3a2c")
    for n in range(7):
        x = w * (0.1 + n * 0.07)
        lean = math.sin(n * 2.1) * w * 0.02
        d.line((x, h * 0.78, x + lean, h * 0.36), fill=(BERRY, CREAM, MARMALADE)[n % 3], width=22)
        d.ellipse((x + lean - 16, h * 0.32, x + lean + 16, h * 0.38), fill=DEEP)


def _yard(d: Draw, w: float, h: float) -> None:
    d.polygon(
        [(0, h * 0.62), (w * 0.3, h * 0.4), (w * 0.62, h * 0.6), (w, h * 0.44), (w, h * 0.8), (0, h * 0.8)],
        fill="#1f3350",
    )
    d.rectangle((0, h * 0.74, w, h), fill="#243b2f")
    for track in (0.8, 0.9):
        for sleeper in range(24):
            x = w * sleeper / 24
            d.rectangle((x, h * track, x + w * 0.025, h * (track + 0.025)), fill="#4a3a2c")
        d.rectangle((0, h * track, w, h * (track + 0.008)), fill="#8a949c")
    for car, body in enumerate(("#8a5f3c", PINE, BERRY)):
        x = w * (0.4 + car * 0.18)
        d.rectangle((x, h * 0.68, x + w * 0.16, h * 0.78), fill=body)
        for wheel in (0.03, 0.13):
            d.ellipse((x + w * wheel - 12, h * 0.77, x + w * wheel + 12, h * 0.77 + 24), fill=DEEP)


GROUND_DRAWINGS = {"Yard cam": _yard}
DRAWINGS: dict[str, Callable[[Draw, float, float], None]] = {
    "bench": _bench,
    "lens": _lens,
    "clock": _clock,
    "lamp": _lamp,
    "snow": _snow,
    "board": _board,
    "tea": _tea,
    "levers": _levers,
    **{f"mail-{n}": _mail(n) for n in range(1, 7)},
}


def _filtered(image: Image.Image, broadcaster: Broadcaster, source: str) -> Image.Image:
    """Draws tint, fog and glow, if they are on."""
    for row in broadcaster.filters.values():
        values = {name: p.value for name, p in row["values"].items()}
        if row["source"] != source or not values.get("on", True):
            continue
        veil = None
        if "colour" in values:
            veil = Image.new("RGBA", image.size, str(values["colour"]))
            strength = float(values.get("opacity", 0.5))
        elif "amount" in values:
            veil, strength = Image.new("RGBA", image.size, "#d9dee0"), float(values["amount"]) / 115
        elif "warmth" in values:
            veil, strength = Image.new("RGBA", image.size, "#ffb347"), float(values["warmth"]) / 400
        if veil is not None and strength > 0:
            veil.putalpha(image.getchannel("A").point(lambda a, s=strength: int(a * min(1, s))))
            image = Image.alpha_composite(image, veil)
    return image


def _drawn(broadcaster: Broadcaster, scene: str, depth: int = 0) -> Image.Image:
    name = broadcaster.scenes[scene]["name"]
    frame = Image.new("RGBA", (W, H), GROUNDS.get(name, "#22302c"))
    if name in GROUND_DRAWINGS:
        GROUND_DRAWINGS[name](ImageDraw.Draw(frame), W, H)
    for source_id in broadcaster.scenes[scene]["sources"]:
        row: dict[str, Any] = broadcaster.sources[source_id]
        if not row["visible"].value:
            continue
        x, y, w, h = row["at"]
        size = (max(1, round(w * W)), max(1, round(h * H)))
        layer = Image.new("RGBA", size)
        if row["nested"] and depth < 3:
            inner = next((key for key, s in broadcaster.scenes.items() if s["name"] == row["nested"]), None)
            if inner is not None:
                layer = _drawn(broadcaster, inner, depth + 1).resize(size)
                ImageDraw.Draw(layer).rectangle((0, 0, size[0] - 1, size[1] - 1), outline=CREAM, width=4)
        elif row["draws"] in DRAWINGS:
            DRAWINGS[row["draws"]](ImageDraw.Draw(layer), *size)
        frame.alpha_composite(_filtered(layer, broadcaster, row["name"]), (round(x * W), round(y * H)))
    return frame


COATS = {"Top hat": "#2b2f3a", "Sou'wester": "#e0b23c"}


def _avatar(frame: Image.Image, shown: dict[str, Any]) -> None:
    """Draws the avatar's window in the lower right of the programme: its coat, face, hat and expression."""
    d = ImageDraw.Draw(frame)
    left, top, s = W * 0.521, H * 0.22, H * 0.78 / 200
    outfit, face = str(shown[path_of(Family.AVATAR, "outfit")]), str(shown["face"])
    skin = "#8a8f86" if shown[path_of(Family.AVATAR, "model")] == "Station cat" else "#e3b98f"

    def at(*values: float) -> tuple[float, ...]:
        return tuple((left if i % 2 == 0 else top) + value * s for i, value in enumerate(values))

    d.pieslice(at(46, 134, 154, 270), 180, 360, fill=COATS.get(outfit, "#24508c"))
    d.rectangle(at(92, 138, 108, 200), fill=CREAM)
    if shown[path_of(Family.AVATAR, "pose")] == "Waving":
        d.line(at(146, 158, 166, 90), fill=COATS.get(outfit, "#24508c"), width=round(20 * s))
    d.ellipse(at(60, 48, 140, 136), fill=skin)
    if face == "Startled":
        for x in (84, 116):
            d.ellipse(at(x - 11, 75, x + 11, 97), fill="#ffffff")
            d.ellipse(at(x - 5, 81, x + 5, 91), fill=DEEP)
        d.ellipse(at(92, 105, 108, 127), fill="#5b2320")
    else:
        for x in (84, 116):
            low = 90 if face == "Sleepy" else 93
            d.ellipse(at(x - 5, 88 if face == "Sleepy" else 83, x + 5, low), fill=DEEP)
        d.chord(at(82, 96, 118, 124), 0, 180, fill="#5b2320" if face == "Cheer" else DEEP)
    if outfit == "Top hat":
        d.rectangle(at(68, 12, 132, 56), fill="#2b2f3a")
        d.rectangle(at(68, 44, 132, 54), fill="#b02a4d")
        d.ellipse(at(48, 49, 152, 67), fill="#2b2f3a")
    elif outfit == "Sou'wester":
        d.pieslice(at(56, 26, 144, 100), 180, 360, fill="#e0b23c")
    else:
        d.pieslice(at(60, 22, 140, 84), 180, 360, fill="#24508c")
        d.rectangle(at(58, 52, 142, 62), fill=DEEP)


def picture(broadcaster: Broadcaster, width: int) -> bytes:
    """Returns the current output, as a PNG of this width, 16 to 9."""
    frame = _drawn(broadcaster, str(broadcaster.current.value))
    if broadcaster.avatar is not None:
        _avatar(frame, broadcaster.avatar())
    frame = frame.convert("RGB")
    if width != W:
        frame = frame.resize((width, round(width * 9 / 16)))
    out = io.BytesIO()
    frame.save(out, "PNG", compress_level=2)
    return out.getvalue()
