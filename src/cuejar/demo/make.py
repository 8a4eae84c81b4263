"""Makes the demo's media into ``files/``. Always the same: fixed seeds, no clock. Run it after changing a drawing or
a sound: ``python -m cuejar.demo.make``.
"""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

import av
import numpy as np
from PIL import Image

from cuejar.demo.faces import FACES, face
from cuejar.demo.pictures import FRAME_MS, POSTERS, crossing_frames, parcel, poster_frames, ticket, whistle_frames
from cuejar.demo.sounds import RATE, SOUNDS, Wave

FILES = Path(__file__).parent / "files"


def write_ogg(path: Path, wave: Wave) -> None:
    """Writes mono sound as Ogg with Opus at 64 kbit/s."""
    with av.open(str(path), "w", format="ogg") as container:
        stream = container.add_stream("libopus", rate=RATE, layout="mono")
        stream.bit_rate = 64_000
        block = np.asarray(np.clip(wave, -1, 1) * 32767, np.int16).reshape(1, -1)
        frame = av.AudioFrame.from_ndarray(block, format="s16", layout="mono")
        frame.sample_rate = RATE
        for packet in [*stream.encode(frame), *stream.encode(None)]:
            container.mux(packet)


def write_webm(path: Path, frames: Sequence[Image.Image], rate: int = 15) -> None:
    """Writes VP9 with alpha, as browsers play it."""
    with av.open(str(path), "w", format="webm") as container:
        stream = container.add_stream("libvpx-vp9", rate=rate, options={"crf": "40", "b:v": "0", "auto-alt-ref": "0"})
        stream.width, stream.height = frames[0].size
        stream.pix_fmt = "yuva420p"
        for image in frames:
            frame = av.VideoFrame.from_ndarray(np.asarray(image), format="rgba")
            container.mux(stream.encode(frame))
        container.mux(stream.encode(None))


def make(folder: Path = FILES) -> None:
    folder.mkdir(exist_ok=True)
    for name, sound in SOUNDS.items():
        write_ogg(folder / f"{name}.ogg", sound())
    for name, (draw, form) in POSTERS.items():
        first, *rest = poster_frames(draw)
        if form == "gif":
            palette = first.quantize(48, dither=Image.Dither.NONE)
            frames = [f.quantize(palette=palette, dither=Image.Dither.NONE) for f in (first, *rest)]
            frames[0].save(
                folder / f"{name}.gif",
                save_all=True,
                append_images=frames[1:],
                duration=FRAME_MS,
                loop=0,
                optimize=True,
            )
        elif form == "webp":
            first.save(
                folder / f"{name}.webp",
                save_all=True,
                append_images=rest,
                duration=FRAME_MS,
                loop=0,
                quality=70,
                method=6,
            )
        else:
            small = [f.resize((270, 360)).quantize(40, dither=Image.Dither.NONE) for f in (first, *rest)]
            small[0].save(
                folder / f"{name}.png", save_all=True, append_images=small[1:], duration=FRAME_MS, loop=0, optimize=True
            )
    first, *rest = whistle_frames()
    first.save(
        folder / "whistle-plume.webp", save_all=True, append_images=rest, duration=100, loop=0, quality=80, method=6
    )
    for name, (mouth, blink) in FACES.items():
        face(mouth, blink).save(folder / f"{name}.png", optimize=True)
    write_webm(folder / "crossing.webm", crossing_frames())
    ticket().save(folder / "paper-ticket.png", optimize=True)
    parcel().save(folder / "parcel.png", optimize=True)


if __name__ == "__main__":
    make()
