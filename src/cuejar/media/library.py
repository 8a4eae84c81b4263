"""The library: files by the hash of their content, what is in them, and their posters.

A file is first written to a folder for arrivals, probed there in a worker process, and only then moved to its place; a
refused one leaves nothing behind. Names from outside are never used as paths.
"""

from __future__ import annotations

import asyncio
import hashlib
import json
import re
import tempfile
import time
import unicodedata
from collections.abc import AsyncIterator, Callable, Container, Sequence
from contextlib import asynccontextmanager, suppress
from pathlib import Path, PurePosixPath
from typing import Any, Literal, NamedTuple

from sqlalchemy import delete, select
from sqlalchemy.dialects.sqlite import insert
from sqlalchemy.orm import Session, sessionmaker

from cuejar.core.book.book import Book, MediaEntry
from cuejar.core.facts.happenings import MediaFacts
from cuejar.core.measures.loudness import gain_db
from cuejar.ending import work_behind
from cuejar.media.convert import convert
from cuejar.media.probe import PROBE, NotTaken, Probed, read_file
from cuejar.media.workers import Workers, WorkFailed
from cuejar.platform import put, remove
from cuejar.starting import CANNOT_START
from cuejar.store.facts import FOLDER, facts_of, file_in
from cuejar.store.models import MediaRow
from cuejar.store.writer import Writer

PROBE_LIMIT_S = 120
CONVERT_LIMIT_S = 1800
BESIDE = ("poster", "strip")
"""Parts of a probed file that are pictures beside it, not in the database."""


def shown_name(name: str) -> str:
    """Returns a name for people from a file's name: no folders, no ending, no control characters, no quotes around it.

    Browsers send a quote in a file's name as ``%22``.
    """
    base = PurePosixPath(name.replace("%22", '"').replace("\\", "/").strip().strip("\"'")).name
    stem = re.sub(r"\.[A-Za-z0-9]{1,5}$", "", base)
    clean = "".join(c for c in unicodedata.normalize("NFKC", stem) if unicodedata.category(c)[0] != "C")
    return " ".join(re.sub(r"[_]+", " ", clean).split())[:120] or "Untitled"


class Arriving(NamedTuple):
    """A file to be added: its hash, its name for people, and a function that copies its content to a path."""

    hash: str
    name: str
    copy: Callable[[Path], None]


class Library:
    """The media files of a data folder."""

    def __init__(
        self,
        folder: Path,
        sessions: sessionmaker[Session],
        writer: Writer,
        max_bytes: int,
        max_pixels: int,
        changed: Callable[[], None] = lambda: None,
    ) -> None:
        """Args:
        changed: is told when one of its jobs changes.
        """
        self._files, self._arrivals = folder / FOLDER, folder / "arrivals"
        self._posters, self._mark = folder / "posters", folder / "taking.json"
        for path in (self._files, self._arrivals, self._posters):
            path.mkdir(exist_ok=True)
        for left_over in self._arrivals.iterdir():
            left_over.unlink(missing_ok=True)
        self._writer, self._max_bytes, self._max_pixels = writer, max_bytes, max_pixels
        self.workers = Workers(folder / "progress", begin=work_behind, changed=changed)
        self._rows: dict[str, MediaRow] = {}
        with sessions() as session:
            for row in session.scalars(select(MediaRow)):
                self._rows[row.hash] = row

    def close(self) -> None:
        self.workers.close()

    def row(self, file_hash: str) -> MediaRow | None:
        return self._rows.get(file_hash)

    def rows(self) -> list[MediaRow]:
        return list(self._rows.values())

    def file(self, file_hash: str) -> Path | None:
        return file_in(self._files, file_hash)

    def beside(self, file_hash: str, what: str) -> Path | None:
        """Returns the path of a file's poster or strip."""
        ending = {"poster": ".png", "strip": ".strip.png"}.get(what)
        path = self._posters / f"{file_hash}{ending}"
        return path if ending and re.fullmatch(r"[0-9a-f]{64}", file_hash) and path.is_file() else None

    async def add(self, chunks: AsyncIterator[bytes], name: str = "a file") -> MediaRow:
        """Adds a file; ``name`` is what people see meanwhile.

        Raises:
            NotTaken: why it was refused; nothing is left of it then.
        """
        arrival = tempfile.NamedTemporaryFile(dir=self._arrivals, delete=False)  # noqa: SIM115 - closed before it is moved
        path = Path(arrival.name)
        try:
            with arrival:
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
            return await self._take(path, digest.hexdigest(), size, name)
        finally:
            remove(path)

    @asynccontextmanager
    async def taking(self, files: Sequence[Arriving]) -> AsyncIterator[None]:
        """Adds several files that the body must put into the book; otherwise they are removed, after a crash at the
        next start.

        Raises:
            NotTaken: which file is wrong, and why.
        """
        fresh = [one.hash for one in files if self.row(one.hash) is None]
        self._mark.write_text(json.dumps(fresh), "utf-8")
        try:
            await self._add_all(files)
            yield
        except BaseException:
            self.leave_out(fresh)
            raise
        finally:
            self._mark.unlink(missing_ok=True)

    def clear(self, named: Container[str | None]) -> None:
        """Removes files that were being added when Cue Jar ended, unless the book names them."""
        with suppress(OSError, ValueError):
            self.leave_out([one for one in json.loads(self._mark.read_text("utf-8")) if one not in named])
            self._mark.unlink(missing_ok=True)

    def leave_out(self, hashes: Sequence[str]) -> None:
        """Removes files from the library."""
        for one in hashes:
            self._rows.pop(one, None)
            for path in (self._files / one, self._posters / f"{one}.png", self._posters / f"{one}.strip.png"):
                remove(path)
        if hashes:
            self._writer.now(lambda c: c.execute(delete(MediaRow).where(MediaRow.hash.in_(hashes))))

    async def _add_all(self, files: Sequence[Arriving]) -> None:
        """Adds all or none: nothing is there before the last of them was read."""
        ready: list[tuple[Path, str, int, Probed]] = []
        drafts: list[Path] = []
        try:
            for one in files:
                if self.row(one.hash) is not None and self.file(one.hash) is not None:
                    continue
                with tempfile.NamedTemporaryFile(dir=self._arrivals, delete=False) as draft:
                    path = Path(draft.name)
                drafts.append(path)
                await asyncio.to_thread(one.copy, path)
                size = path.stat().st_size
                if size > self._max_bytes:
                    raise NotTaken(
                        f"{one.name} is larger than {self._max_bytes // 1_000_000} MB. Raise CUEJAR_MAX_FILE_MB."
                    )
                try:
                    ready.append((path, one.hash, size, await self._probe("reading", path, one.name)))
                except NotTaken as error:
                    raise NotTaken(f"{one.name}: {error}") from error
            for path, file_hash, size, found in ready:
                put(path, self._files / file_hash)
                await self._keep(file_hash, size, found)
        finally:
            for path in drafts:
                remove(path)

    async def _take(self, path: Path, file_hash: str, size: int, name: str) -> MediaRow:
        known = self._rows.get(file_hash)
        if known is not None and self.file(file_hash) is not None:
            return known
        found = await self._probe("reading", path, name)
        put(path, self._files / file_hash)
        return await self._keep(file_hash, size, found)

    async def _keep(self, file_hash: str, size: int, found: Probed) -> MediaRow:
        for what, ending in zip(BESIDE, (".png", ".strip.png"), strict=True):
            picture: bytes = getattr(found, what)
            if picture:
                (self._posters / f"{file_hash}{ending}").write_bytes(picture)
        facts = {key: list(v) if isinstance(v, tuple) else v for key, v in found._asdict().items() if key not in BESIDE}
        facts["flashes"] = [flash._asdict() for flash in found.flashes]
        values = {"hash": file_hash, "size": size, "at": time.time_ns() // 1_000_000, "probed": PROBE, **facts}
        query = insert(MediaRow).values(values).on_conflict_do_update(index_elements=["hash"], set_=values)
        await self._writer.do(lambda c: c.execute(query))
        row = MediaRow(**values)
        self._rows[file_hash] = row
        return row

    async def _probe(self, what: Literal["reading", "measuring"], path: Path, name: str) -> Probed:
        try:
            return await self.workers.run(what, name, PROBE_LIMIT_S, read_file, path, self._max_pixels)
        except WorkFailed as error:
            why = {
                "time": f"Reading the file took longer than {PROBE_LIMIT_S} s; it is not taken.",
                "start": CANNOT_START,
                "crash": "Reading the file brought its reader down; it is not taken.",
            }
            raise NotTaken(why[error.why]) from error
        except asyncio.CancelledError:
            task = asyncio.current_task()
            if task is not None and task.cancelling():
                raise
            raise NotTaken("You stopped it; the file is not taken.") from None

    async def measure_again(self) -> bool:
        """Reads files again that an older Cue Jar measured less thoroughly. Returns True if there were any."""
        old = [row for row in self._rows.values() if row.probed < PROBE and self.file(row.hash) is not None]
        for row in old:
            path = self.file(row.hash)
            try:
                if path is not None:
                    found = await self._probe("measuring", path, f"{row.kind} {row.hash[:6]}")
                    await self._keep(row.hash, row.size, found)
            except NotTaken:
                continue
        return bool(old)

    async def convert(self, file_hash: str, name: str) -> MediaRow:
        """Returns the same sound or clip in a form that every browser plays, as a new file.

        Raises:
            NotTaken: why not.
        """
        path = self.file(file_hash)
        if path is None:
            raise NotTaken("The file is missing.")
        with tempfile.NamedTemporaryFile(dir=self._arrivals, delete=False) as arrival:
            target = Path(arrival.name)
        try:
            await self.workers.run("converting", name, CONVERT_LIMIT_S, convert, path, target)
            content = target.read_bytes()
            return await self._take(target, hashlib.sha256(content).hexdigest(), len(content), name)
        except WorkFailed as error:
            why = CANNOT_START if error.why == "start" else "Converting did not come to its end;"
            raise NotTaken(f"{why} The file stays as it was.".replace("; The", "; the")) from error
        except asyncio.CancelledError:
            task = asyncio.current_task()
            if task is not None and task.cancelling():
                raise
            raise NotTaken("You stopped it; the file stays as it was.") from None
        finally:
            remove(target)

    def facts(self, book: Book) -> dict[str, MediaFacts]:
        """Returns what the engine needs to know of every media entry of the book with an existing file."""
        return facts_of(book, self._rows, self._files)

    def source(self, entry: MediaEntry | None, target_lufs: float | None) -> dict[str, Any] | None:
        """Returns what a page needs to show or play a media entry, or None if its file is missing."""
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
            "gain_db": gain_db(row.lufs, row.peak_dbtp, target_lufs),
        }
