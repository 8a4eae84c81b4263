"""A viewer's picture, made safe: decoded, cut square, small, still, and encoded anew."""

from __future__ import annotations

import io
import warnings

from PIL import Image, ImageFile, ImageOps

from cuejar.platform import processor_time

MOST_BYTES = 4_000_000
MOST_POINTS = 25_000_000
SIDE = 512
WORK_S = 5.0
FORMS = ("PNG", "JPEG", "GIF", "WEBP", "AVIF")
MIME = "image/webp"


class NoFace(Exception):
    """It isn't a picture that is taken; the text says why."""


class NotNow(NoFace):
    """It can't be fetched at the moment."""


class _TooSlow(NoFace):
    def __init__(self) -> None:
        super().__init__("it takes too long to read")


def face_of(content: bytes) -> bytes:
    """Returns a WebP of at most `SIDE` by `SIDE` of the first frame of a picture. Runs in a worker process.

    Raises:
        NoFace.
    """
    if not 0 < len(content) <= MOST_BYTES:
        raise NoFace("it is empty" if not content else f"it has more than {MOST_BYTES // 1_000_000} MB")
    with processor_time(WORK_S, _TooSlow):
        try:
            return _drawn_again(content)
        except NoFace:
            raise
        except Exception as error:  # Decoders raise anything on broken data.
            raise NoFace(f"it can’t be read ({type(error).__name__})") from error


def _drawn_again(content: bytes) -> bytes:
    ImageFile.LOAD_TRUNCATED_IMAGES = False
    with warnings.catch_warnings():
        warnings.simplefilter("error")
        image = Image.open(io.BytesIO(content), formats=FORMS)
    with image:
        if image.width * image.height > MOST_POINTS:
            raise NoFace(f"it is {image.width} by {image.height}")
        image.seek(0)
        upright = ImageOps.exif_transpose(image)
        side = min(upright.width, upright.height, SIDE)
        square = ImageOps.fit(upright.convert("RGBA"), (side, side), Image.Resampling.LANCZOS)
        out = io.BytesIO()
        square.save(out, "WEBP", quality=85)
        return out.getvalue()
