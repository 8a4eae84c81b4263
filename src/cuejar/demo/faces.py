"""The stationmaster's face, with a mouth that opens: closed, half open, wide, and a blink."""

from __future__ import annotations

from PIL import Image, ImageDraw

from cuejar.demo.pictures import BERRY, CREAM, DEEP, MARMALADE, PINE, SAND

SIZE, TWICE = 320, 2
FACES: dict[str, tuple[float, bool]] = {
    "stationmaster-closed": (0.0, False),
    "stationmaster-half": (0.5, False),
    "stationmaster-wide": (1.0, False),
    "stationmaster-blink": (0.0, True),
}
"""By the file's name: how wide the mouth is (0 to 1), and whether the eyes are shut."""


def face(mouth: float, blink: bool) -> Image.Image:
    size = SIZE * TWICE
    image = Image.new("RGBA", (size, size))
    d = ImageDraw.Draw(image)
    d.rounded_rectangle((110, 500, 530, 700), 80, fill=PINE)
    d.polygon([(270, 500), (370, 500), (320, 590)], fill=CREAM)
    d.polygon([(300, 520), (340, 520), (350, 600), (320, 630), (290, 600)], fill=BERRY)
    d.ellipse((150, 150, 490, 540), fill=SAND)
    d.ellipse((128, 320, 188, 400), fill=SAND)
    d.ellipse((452, 320, 512, 400), fill=SAND)
    # The cap, with its badge.
    d.rounded_rectangle((140, 90, 500, 220), 46, fill=PINE)
    d.rectangle((140, 178, 500, 226), fill=MARMALADE)
    d.ellipse((110, 200, 530, 262), fill=DEEP)
    d.polygon([(320, 104), (350, 150), (320, 172), (290, 150)], fill=CREAM)
    for x in (240, 400):
        if blink:
            d.arc((x - 30, 300, x + 30, 340), 20, 160, fill=DEEP, width=9)
        else:
            d.ellipse((x - 26, 292, x + 26, 344), fill=CREAM)
            d.ellipse((x - 12, 306, x + 14, 332), fill=DEEP)
        d.arc((x - 40, 262, x + 40, 310), 200, 340, fill="#8a6a45", width=12)
    d.polygon([(320, 320), (344, 398), (300, 398)], fill="#c49a6c")
    if mouth > 0:
        height = 18 + 62 * mouth
        d.ellipse((320 - 56, 452 - height / 3, 320 + 56, 452 + height), fill="#5a1f2b")
        d.ellipse((320 - 34, 452 + height * 0.45, 320 + 34, 452 + height * 0.98), fill=BERRY)
    else:
        d.arc((262, 430, 378, 474), 20, 160, fill="#5a1f2b", width=10)
    # The moustache lies over the mouth.
    d.pieslice((206, 386, 326, 466), 180, 360, fill="#8a6a45")
    d.pieslice((314, 386, 434, 466), 180, 360, fill="#8a6a45")
    return image.resize((SIZE, SIZE), Image.Resampling.LANCZOS)
