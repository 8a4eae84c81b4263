"""Zips written in pieces, so that nothing waits and memory stays constant."""

from __future__ import annotations

import io
import lzma
import zipfile
import zlib
from collections.abc import Iterable, Iterator, Mapping, Sequence
from datetime import datetime
from pathlib import Path
from typing import Any

CHUNK = 1 << 18
BROKEN = (
    zipfile.BadZipFile, zipfile.LargeZipFile, zlib.error, lzma.LZMAError, EOFError, NotImplementedError, RuntimeError, ValueError,
)  # fmt: skip
"""Errors of the reader for a broken zip."""


class _Pipe(io.RawIOBase):
    """A zip's output, taken piece by piece."""

    def __init__(self) -> None:
        self.pieces: list[bytes] = []

    def writable(self) -> bool:
        return True

    def write(self, piece: Any) -> int:
        data = bytes(piece)
        self.pieces.append(data)
        return len(data)

    def taken(self) -> bytes:
        pieces, self.pieces = self.pieces, []
        return b"".join(pieces)


def zipped(
    texts: Sequence[tuple[str, str | bytes]],
    files: Sequence[tuple[str, Path]],
    streams: Mapping[str, Iterable[bytes]] | None = None,
) -> Iterator[bytes]:
    """Yields a zip in pieces.

    Args:
        texts: names in the zip and their contents; they are compressed.
        files: names in the zip and the paths of the files. Media are already compressed, so they are stored as they
        are.
        streams: names in the zip and contents made while writing; they are compressed.
    """
    pipe = _Pipe()
    with zipfile.ZipFile(pipe, "w", zipfile.ZIP_DEFLATED, strict_timestamps=False) as bundle:
        for name, content in texts:
            bundle.writestr(name, content)
        yield pipe.taken()
        for name, pieces in (streams or {}).items():
            info = zipfile.ZipInfo(name, datetime.now().timetuple()[:6])
            info.compress_type = zipfile.ZIP_DEFLATED
            with bundle.open(info, "w", force_zip64=True) as target:
                for piece in pieces:
                    target.write(piece)
                    if taken := pipe.taken():
                        yield taken
            yield pipe.taken()
        for name, path in files:
            info = zipfile.ZipInfo(name, datetime.now().timetuple()[:6])
            with path.open("rb") as source, bundle.open(info, "w", force_zip64=True) as target:
                while chunk := source.read(CHUNK):
                    target.write(chunk)
                    yield pipe.taken()
            yield pipe.taken()
    yield pipe.taken()
