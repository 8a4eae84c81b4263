"""The pictures of Tinwhistle Halt: flat railway-poster shapes in the app's palette, drawn at twice their size.

Every poster is a function of the moment ``u`` (0 to 1 per loop) that draws one frame; it is the same at 0 and at 1.
"""

from __future__ import annotations

import math
from collections.abc import Callable

from PIL import Image, ImageDraw, ImageFont

GREEN, DEEP, PINE, MOSS = "#1f3b34", "#121d1b", "#28524a", "#4f7d5c"
CREAM, MARMALADE, BERRY, SKY, SAND, STRAW = "#f4eedd", "#f0a23c", "#b8455f", "#7fb9dc", "#d9b98a", "#e9cf72"
W, H, TWICE = 360, 480, 2

Frame = Callable[[ImageDraw.ImageDraw, float], None]


def _circle(d: ImageDraw.ImageDraw, x: float, y: float, r: float, fill: str) -> None:
    d.ellipse((x - r, y - r, x + r, y + r), fill=fill)


def _plate(d: ImageDraw.ImageDraw, title: str, line: str, ink: str = CREAM, ground: str = DEEP) -> None:
    """Draws the lower plate of every waiting-room poster."""
    d.rectangle((0, H * 2 - 150, W * 2, H * 2), fill=ground)
    d.rectangle((0, H * 2 - 156, W * 2, H * 2 - 148), fill=MARMALADE)
    d.text((W, H * 2 - 96), title, font=ImageFont.load_default(62), fill=ink, anchor="mm")
    d.text((W, H * 2 - 38), line, font=ImageFont.load_default(30), fill=MARMALADE, anchor="mm")


def _engine(d: ImageDraw.ImageDraw, x: float, y: float, s: float, body: str = BERRY, u: float = 0) -> None:
    """Draws a tank engine facing right; x, y is the rail under its middle, s its scale."""
    d.rounded_rectangle((x - 70 * s, y - 70 * s, x + 62 * s, y - 26 * s), 12 * s, fill=body)
    d.rectangle((x - 84 * s, y - 104 * s, x - 26 * s, y - 26 * s), fill=body)
    d.rectangle((x - 92 * s, y - 112 * s, x - 18 * s, y - 102 * s), fill=DEEP)
    d.rectangle((x - 70 * s, y - 94 * s, x - 42 * s, y - 70 * s), fill=STRAW)
    d.polygon(
        [(x + 34 * s, y - 70 * s), (x + 56 * s, y - 70 * s), (x + 60 * s, y - 104 * s), (x + 30 * s, y - 104 * s)],
        fill=DEEP,
    )
    _circle(d, x + 2 * s, y - 70 * s, 12 * s, MARMALADE)
    d.rectangle((x - 90 * s, y - 28 * s, x + 72 * s, y - 18 * s), fill=DEEP)
    d.polygon([(x + 62 * s, y - 26 * s), (x + 86 * s, y - 2 * s), (x + 62 * s, y - 2 * s)], fill=DEEP)
    for wheel in (-58, -12, 34):
        cx, cy, r = x + wheel * s, y - 16 * s, 17 * s
        _circle(d, cx, cy, r, DEEP)
        _circle(d, cx, cy, r * 0.62, SAND)
        a = u * 2 * math.pi * 2
        d.line(
            (cx - r * math.cos(a), cy - r * math.sin(a), cx + r * math.cos(a), cy + r * math.sin(a)),
            fill=DEEP,
            width=int(5 * s),
        )


def _rails(d: ImageDraw.ImageDraw, y: float, shift: float = 0) -> None:
    for sleeper in range(-1, 13):
        x = sleeper * 64 + shift
        d.rectangle((x, y + 4, x + 34, y + 16), fill="#6b4f3a")
    d.rectangle((0, y, W * 2, y + 7), fill=SAND)


def dusk(d: ImageDraw.ImageDraw, u: float) -> None:
    d.rectangle((0, 0, W * 2, H * 2), fill="#d9764a")
    d.rectangle((0, 0, W * 2, 330), fill="#8a4a5e")
    _circle(d, 500, 330, 110, STRAW)
    d.polygon([(0, 560), (260, 320), (520, 560)], fill=PINE)
    d.polygon([(300, 560), (560, 380), (760, 560)], fill=GREEN)
    d.rectangle((0, 540, W * 2, H * 2), fill=MOSS)
    _rails(d, 700, -64 * ((u * 4) % 1))
    for puff in range(5):
        age = (u * 2 + puff / 5) % 1
        _circle(d, 400 - age * 260, 560 - age * 160, 18 + 46 * age, CREAM)
    _engine(d, 360, 700 + 3 * math.sin(u * 12 * math.pi), 1.7, BERRY, u)
    _plate(d, "DUSK LINE", "TINWHISTLE HALT")


def tea(d: ImageDraw.ImageDraw, u: float) -> None:
    d.rectangle((0, 0, W * 2, H * 2), fill=MARMALADE)
    _circle(d, W, 440, 300, "#f6c274")
    for plume in (-70, 0, 70):
        points = [(W + plume + 26 * math.sin(k / 3 + u * 2 * math.pi + plume), 400 - k * 16) for k in range(18)]
        d.line(points, fill=CREAM, width=16, joint="curve")
    d.ellipse((W - 230, 620, W + 230, 700), fill=CREAM)
    d.pieslice((W - 160, 280, W + 160, 660), 0, 180, fill=GREEN)
    d.ellipse((W - 160, 440, W + 160, 500), fill=PINE)
    d.ellipse((W - 140, 450, W + 140, 490), fill="#8a4a2e")
    d.arc((W + 120, 460, W + 240, 590), 250, 100, fill=GREEN, width=26)
    _plate(d, "TEA AT THREE", "TINWHISTLE HALT")


def signal(d: ImageDraw.ImageDraw, u: float) -> None:
    d.rectangle((0, 0, W * 2, H * 2), fill=SKY)
    d.polygon([(0, 700), (200, 520), (420, 700)], fill=MOSS)
    d.polygon([(260, 700), (540, 470), (800, 700)], fill=PINE)
    d.rectangle((0, 690, W * 2, H * 2), fill=GREEN)
    d.rectangle((W - 16, 130, W + 16, 810), fill=CREAM)
    d.rectangle((W - 60, 800, W + 60, 830), fill=DEEP)
    lift = max(0.0, min(1.0, 0.5 - 1.4 * math.cos(u * 2 * math.pi)))
    a = math.radians(-45 * lift)
    c, s = math.cos(a), math.sin(a)

    def arm(x: float, y: float) -> tuple[float, float]:
        return W + x * c - y * s, 210 + x * s + y * c

    d.polygon([arm(0, -34), arm(250, -34), arm(250, 34), arm(0, 34)], fill=BERRY)
    d.polygon([arm(190, -34), arm(214, -34), arm(214, 34), arm(190, 34)], fill=CREAM)
    _circle(d, W, 210, 46, DEEP)
    _circle(d, W, 210, 28, "#e0647f" if lift < 0.5 else "#79c9a2")
    _plate(d, "ALL CLEAR", "SIGNAL BOX, TINWHISTLE HALT")


def mail(d: ImageDraw.ImageDraw, u: float) -> None:
    d.rectangle((0, 0, W * 2, H * 2), fill="#1b2b44")
    for star in range(34):
        x, y = (star * 197) % 720, (star * 89) % 420
        bright = 0.5 + 0.5 * math.sin(u * 2 * math.pi * (1 + star % 3) + star)
        _circle(d, x, y, 2 + 4 * bright, CREAM)
    _circle(d, 560, 150, 70, STRAW)
    _circle(d, 590, 130, 62, "#1b2b44")
    d.polygon([(0, 640), (240, 430), (500, 640)], fill=DEEP)
    d.polygon([(260, 640), (560, 480), (800, 640)], fill="#16241f")
    d.rectangle((0, 630, W * 2, H * 2), fill=GREEN)
    _rails(d, 720, -64 * ((u * 6) % 1))
    for coach in range(2):
        x = 20 + coach * 210
        d.rounded_rectangle((x, 600, x + 196, 706), 14, fill=BERRY)
        for window in range(3):
            d.rectangle(
                (x + 18 + window * 58, 620, x + 58 + window * 58, 660), fill=STRAW if (window + coach) % 4 else CREAM
            )
    _engine(d, 560, 720, 1.3, PINE, u)
    _plate(d, "NIGHT MAIL", "LETTERS BY MORNING")


def snow(d: ImageDraw.ImageDraw, u: float) -> None:
    d.rectangle((0, 0, W * 2, H * 2), fill="#5a7f93")
    d.polygon([(0, 620), (220, 340), (470, 620)], fill=CREAM)
    d.polygon([(220, 620), (520, 400), (800, 620)], fill="#dfe6e0")
    d.rectangle((0, 610, W * 2, H * 2), fill=CREAM)
    d.rectangle((430, 470, 640, 650), fill=BERRY)
    d.polygon([(400, 480), (535, 380), (670, 480)], fill=DEEP)
    d.rectangle((500, 540, 570, 650), fill=STRAW)
    _rails(d, 740)
    for flake in range(60):
        x = (flake * 131 + 30 * math.sin(u * 2 * math.pi + flake)) % 720
        y = (flake * 73 + u * 820 * (1 + flake % 2)) % 820
        _circle(d, x, y, 4 + flake % 4 * 2, "#ffffff")
    _plate(d, "SNOW ON THE LINE", "MIND THE PLATFORM")


def owl(d: ImageDraw.ImageDraw, u: float) -> None:
    d.rectangle((0, 0, W * 2, H * 2), fill=GREEN)
    _circle(d, W, 380, 290, STRAW)
    d.rectangle((60, 690, 660, 726), fill="#6b4f3a")
    d.ellipse((W - 150, 270, W + 150, 710), fill="#8a5a3c")
    d.ellipse((W - 100, 440, W + 100, 700), fill=SAND)
    d.polygon([(W - 140, 340), (W - 130, 210), (W - 40, 290)], fill="#8a5a3c")
    d.polygon([(W + 140, 340), (W + 130, 210), (W + 40, 290)], fill="#8a5a3c")
    shut = 0.42 < u < 0.5 or 0.56 < u < 0.62
    for side in (-1, 1):
        x = W + side * 66
        _circle(d, x, 380, 66, CREAM)
        if shut:
            d.rectangle((x - 54, 372, x + 54, 388), fill=DEEP)
        else:
            _circle(d, x + 14 * math.sin(u * 2 * math.pi), 380, 36, DEEP)
            _circle(d, x + 12 + 14 * math.sin(u * 2 * math.pi), 366, 11, CREAM)
    d.polygon([(W - 22, 420), (W + 22, 420), (W, 470)], fill=MARMALADE)
    for foot in (-60, 40):
        d.rounded_rectangle((W + foot, 676, W + foot + 34, 720), 10, fill=MARMALADE)
    _plate(d, "LAST BUS: OWL", "WAITING ROOM, TINWHISTLE HALT")


POSTERS: dict[str, tuple[Frame, str]] = {
    "poster-dusk": (dusk, "gif"),
    "poster-tea": (tea, "gif"),
    "poster-signal": (signal, "gif"),
    "poster-mail": (mail, "gif"),
    "poster-snow": (snow, "webp"),
    "poster-owl": (owl, "apng"),
}
FRAMES, FRAME_MS = 14, 100


def poster_frames(draw: Frame) -> list[Image.Image]:
    """Returns the frames of a poster, RGB, W by H."""
    frames = []
    for number in range(FRAMES):
        big = Image.new("RGB", (W * TWICE, H * TWICE), DEEP)
        draw(ImageDraw.Draw(big), number / FRAMES)
        frames.append(big.resize((W, H), Image.Resampling.LANCZOS))
    return frames


def whistle_frames() -> list[Image.Image]:
    """Returns the brass whistle with its plume, RGBA on nothing, 480 by 320."""
    frames = []
    for number in range(12):
        u = number / 12
        big = Image.new("RGBA", (960, 640), (0, 0, 0, 0))
        d = ImageDraw.Draw(big)
        for puff in range(7):
            age = (u + puff / 7) % 1
            x, y = 330 + age * 520 + 20 * math.sin(puff * 3), 200 - age * 110 + 50 * math.sin(puff * 5 + age * 3)
            _circle(d, x, y, 28 + 74 * age, CREAM)
        shake = 5 * math.sin(u * 12 * math.pi)
        d.rounded_rectangle((150 + shake, 130, 290 + shake, 470), 30, fill=MARMALADE)
        d.ellipse((150 + shake, 90, 290 + shake, 190), fill=STRAW)
        d.rectangle((150 + shake, 215, 290 + shake, 250), fill=DEEP)
        d.rectangle((176 + shake, 470, 264 + shake, 540), fill="#c07c22")
        d.rounded_rectangle((110 + shake, 535, 330 + shake, 585), 16, fill=BERRY)
        d.line((120 + shake, 300, 40, 430 + 26 * math.sin(u * 4 * math.pi)), fill=DEEP, width=14)
        _circle(d, 40, 440 + 26 * math.sin(u * 4 * math.pi), 24, BERRY)
        frames.append(big.resize((480, 320), Image.Resampling.LANCZOS))
    return frames


def ticket() -> Image.Image:
    big = Image.new("RGBA", (320, 176), (0, 0, 0, 0))
    d = ImageDraw.Draw(big)
    d.rounded_rectangle((6, 6, 314, 170), 18, fill=SAND)
    for x in (0, 320):
        _circle(d, x, 88, 26, "#00000000")
    d.rectangle((44, 40, 276, 56), fill=BERRY)
    d.text((160, 96), "HALT", font=ImageFont.load_default(60), fill=DEEP, anchor="mm")
    return big.resize((160, 88), Image.Resampling.LANCZOS)


def parcel() -> Image.Image:
    big = Image.new("RGBA", (320, 280), (0, 0, 0, 0))
    d = ImageDraw.Draw(big)
    d.rounded_rectangle((20, 60, 300, 260), 12, fill="#b07b4a")
    d.rectangle((20, 60, 300, 96), fill="#c89560")
    d.rectangle((142, 60, 178, 260), fill=CREAM)
    d.rectangle((20, 140, 300, 170), fill=CREAM)
    _circle(d, 132, 46, 28, BERRY)
    _circle(d, 188, 46, 28, BERRY)
    _circle(d, 160, 58, 18, MARMALADE)
    return big.resize((160, 140), Image.Resampling.LANCZOS)


def crossing_frames(count: int = 60) -> list[Image.Image]:
    """Returns a barrier that comes down and goes up again, its two lamps alternating; transparent around it. 960 x 360."""
    w, h = 1920, 720
    frames = []
    for i in range(count):
        u = i / count
        image = Image.new("RGBA", (w, h), (0, 0, 0, 0))
        d = ImageDraw.Draw(image)
        down = min(1.0, max(0.0, min(u, 1 - u) / 0.2))
        down = down * down * (3 - 2 * down)
        angle = math.radians(78 * (1 - down))
        px, py, long = 300, 470, 1500
        ux, uy = math.cos(angle), -math.sin(angle)
        nx, ny = -uy * 22, ux * 22
        for k in range(10):
            a, b = k / 10 * long, (k + 1) / 10 * long
            fill = BERRY if k % 2 else CREAM
            corners = [(a, -1), (b, -1), (b, 1), (a, 1)]
            d.polygon([(px + ux * t + nx * s, py + uy * t + ny * s) for t, s in corners], fill=fill)
        d.rectangle((px - 60, py - 30, px + 40, h), fill=DEEP)
        d.rectangle((px - 60, py - 30, px + 40, py - 10), fill=MARMALADE)
        d.rectangle((120, 150, 150, h), fill=DEEP)
        d.rounded_rectangle((30, 150, 240, 270), 20, fill=DEEP)
        for side, x in enumerate((85, 185)):
            lit = int(i / 10) % 2 == side
            _circle(d, x, 210, 40, "#3a1620")
            _circle(d, x, 210, 34, "#e0647f" if lit else "#5a2430")
        frames.append(image.resize((w // 2, h // 2), Image.Resampling.LANCZOS))
    return frames
