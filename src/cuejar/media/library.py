"""The library: files by the hash of their content, what is in them, and their posters.

A file is written to a folder for arrivals first, probed there in a worker process, and only then moved to its place; one
that is refused leaves nothing behind. Names from outside are never used as paths.
"""

from __future__ import annotations

import asyncio
import hashlib
import multiprocessing
import re
import tempfile
import time
import unicodedata
from collections.abc import AsyncIterator
from concurrent.futures import ProcessPoolExecutor
from concurrent.futures.process import BrokenProcessPool
from pathlib import Path, PurePosixPath
from typing import Any

from sqlalchemy import delete, select
from sqlalchemy.orm import Session, sessionmaker

from cuejar.core.book import Book, MediaEntry
from cuejar.core.happenings import MediaFacts
from cuejar.media.probe import NotTaken, Probed, probe
from cuejar.store.models import MediaRow

PROBE_LIMIT_S = 120


def shown_name(name: str) -> str:
    """A name for people out of a file's name: no folders, no ending, no control characters, no quotes around it.

    Browsers send a quote in a file's name as ``%22``.
    """
    base = PurePosixPath(name.replace("%22", '"').replace("\\", "/").strip().strip("\"'")).name
    stem = re.sub(r"\.[A-Za-z0-9]{1,5}$", "", base)
    clean = "".join(c for c in unicodedata.normalize("NFKC", stem) if unicodedata.category(c)[0] != "C")
    return " ".join(re.sub(r"[_]+", " ", clean).split())[:120] or "Untitled"


def slug(name: str, taken: set[str], fallback: str = "thing") -> str:
    """A short id out of a name that is not among ``taken``."""
    plain = unicodedata.normalize("NFKD", name.casefold())
    base = re.sub(r"[^a-z0-9]+", "-", "".join(c for c in plain if ord(c) < 128)).strip("-")[:48] or fallback
    number, out = 2, base
    while out in taken:
        out, number = f"{base}-{number}", number + 1
    return out


class Library:
    """The media files of a data folder."""

    def __init__(self, folder: Path, sessions: sessionmaker[Session], max_bytes: int, max_pixels: int) -> None:
        self._files, self._arrivals = folder / "media", folder / "arrivals"
        self._posters = folder / "posters"
        for path in (self._files, self._arrivals, self._posters):
            path.mkdir(exist_ok=True)
        for left_over in self._arrivals.iterdir():
            left_over.unlink(missing_ok=True)
        self._sessions, self._max_bytes, self._max_pixels = sessions, max_bytes, max_pixels
        self._pool: ProcessPoolExecutor | None = None
        self._rows: dict[str, MediaRow] = {}
        with sessions() as session:
            for row in session.scalars(select(MediaRow)):
                self._rows[row.hash] = row

    def close(self) -> None:
        if self._pool is not None:
            self._pool.shutdown(wait=False, cancel_futures=True)

    def row(self, file_hash: str) -> MediaRow | None:
        return self._rows.get(file_hash)

    def rows(self) -> list[MediaRow]:
        return list(self._rows.values())

    def file(self, file_hash: str) -> Path | None:
        path = self._files / file_hash
        return path if re.fullmatch(r"[0-9a-f]{64}", file_hash) and path.is_file() else None

    def poster(self, file_hash: str) -> Path | None:
        path = self._posters / f"{file_hash}.png"
        return path if re.fullmatch(r"[0-9a-f]{64}", file_hash) and path.is_file() else None

    async def add(self, chunks: AsyncIterator[bytes]) -> MediaRow:
        """Takes a file in.

        Raises:
            NotTaken: why not; nothing is left of it then.
        """
        with tempfile.NamedTemporaryFile(dir=self._arrivals, delete=False) as arrival:
            path = Path(arrival.name)
            try:
                digest, size = hashlib.sha256(), 0
                async for chunk in chunks:
                    size += len(chunk)
                    if size > self._max_bytes:
                        limit = self._max_bytes // 1_000_000
                        raise NotTaken(
                            f"The file is larger than {limit} MB. Raise CUEJAR_MAX_FILE_MB, or make it smaller."
                        )
                    digest.update(chunk)
                    arrival.write(chunk)
                arrival.flush()
                return await self._take(path, digest.hexdigest(), size)
            finally:
                path.unlink(missing_ok=True)

    async def _take(self, path: Path, file_hash: str, size: int) -> MediaRow:
        known = self._rows.get(file_hash)
        if known is not None and self.file(file_hash) is not None:
            return known
        found = await self._probe(path)
        if found.poster:
            (self._posters / f"{file_hash}.png").write_bytes(found.poster)
        path.replace(self._files / file_hash)
        row = MediaRow(
            hash=file_hash,
            size=size,
            at=time.time_ns() // 1_000_000,
            **{name: value for name, value in found._asdict().items() if name not in ("poster", "notes", "wave")},
            notes=list(found.notes),
            wave=list(found.wave),
        )
        with self._sessions.begin() as session:
            session.merge(row)
        self._rows[file_hash] = row
        return row

    async def _probe(self, path: Path) -> Probed:
        if self._pool is None:
            self._pool = ProcessPoolExecutor(1, mp_context=multiprocessing.get_context("spawn"))
        work = asyncio.get_running_loop().run_in_executor(self._pool, probe, path, self._max_pixels)
        try:
            return await asyncio.wait_for(work, PROBE_LIMIT_S)
        except TimeoutError as error:
            self._stop_pool()
            raise NotTaken(f"Reading the file took longer than {PROBE_LIMIT_S} s; it is not taken.") from error
        except BrokenProcessPool as error:
            self._stop_pool()
            raise NotTaken("Reading the file brought its reader down; it is not taken.") from error

    def _stop_pool(self) -> None:
        pool, self._pool = self._pool, None
        if pool is not None:
            for process in list((pool._processes or {}).values()):
                process.kill()
            pool.shutdown(wait=False, cancel_futures=True)

    def forget(self, file_hash: str) -> None:
        """Removes a file that nothing uses any more."""
        with self._sessions.begin() as session:
            session.execute(delete(MediaRow).where(MediaRow.hash == file_hash))
        self._rows.pop(file_hash, None)
        for path in (self._files / file_hash, self._posters / f"{file_hash}.png"):
            path.unlink(missing_ok=True)

    def facts(self, book: Book) -> dict[str, MediaFacts]:
        """What the engine needs to know of every media entry of the book whose file is there."""
        known = {}
        for entry in book.media:
            row = self._rows.get(entry.file or "")
            if row is not None and self.file(row.hash) is not None:
                kind: Any = row.kind
                known[entry.id] = MediaFacts(kind, row.length_s, row.loops)
        return known

    def source(self, entry: MediaEntry | None) -> dict[str, Any] | None:
        """What a page needs to show or play a media entry, or None when its file is not there."""
        row = self._rows.get(entry.file or "") if entry is not None else None
        if entry is None or row is None:
            return None
        trim = entry.trim
        return {
            "url": f"/media/{row.hash}",
            "kind": row.kind,
            "mime": row.mime,
            "length_s": row.length_s,
            "loops": row.loops,
            "from_s": trim.from_s if trim else 0,
            "to_s": trim.to_s if trim else None,
        }
