"""An OpenTimelineIO file bundle (``.otioz``): a zip of ``content.otio``, ``version.txt`` and ``media/NAME.ext``.

Source: OpenTimelineIO, "File Bundles", version 1.0.0.
"""

from __future__ import annotations

import zipfile
from collections.abc import Iterator, Mapping
from pathlib import Path
from typing import IO

from cuejar.core.parts.base import BookError, Problem
from cuejar.store.zips import BROKEN, zipped

CONTENT, VERSION_FILE, VERSION = "content.otio", "version.txt", "1.0.0"
MOST_TEXT = 5_000_000
"""Bytes of a timeline that are read."""


def written(text: str, media: Mapping[str, Path]) -> Iterator[bytes]:
    """Yields a bundle in pieces.

    Args:
        media: where the files are, by their addresses in the timeline (``media/NAME.ext``). Files that it doesn't name
        are left out.
    """
    files = [(url, path) for url, path in media.items() if f'"{url}"' in text]
    return zipped([(CONTENT, text), (VERSION_FILE, VERSION)], files)


def read(file: IO[bytes]) -> str:
    """Returns the timeline in a bundle; its media are ignored.

    Raises:
        BookError: it isn't such a bundle, or its timeline is too large.
    """
    try:
        with zipfile.ZipFile(file) as bundle, bundle.open(CONTENT) as source:
            data = source.read(MOST_TEXT + 1)
        if len(data) > MOST_TEXT:
            raise BookError([Problem("", f"its timeline is larger than {MOST_TEXT // 1_000_000} MB")])
        return data.decode("utf-8-sig")
    except BookError:
        raise
    except (*BROKEN, KeyError, OSError) as error:
        raise BookError([Problem("", "the file isn’t an OpenTimelineIO bundle, or it is damaged")]) from error
