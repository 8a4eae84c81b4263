"""Export and import: bundles out of the book and the library, and the review of an import.

An imported file waits in its own folder until it is imported or cancelled; until then nothing of it counts. An import
is one revision of the book, so that one undo reverts it.
"""

from __future__ import annotations

import asyncio
import hashlib
import secrets
import shutil
import time
from collections.abc import AsyncIterator, Awaitable, Callable, Iterator, Mapping, Sequence
from contextlib import AbstractAsyncContextManager, suppress
from functools import partial
from pathlib import Path
from typing import Any, NamedTuple, Protocol, TypeVar

from sqlalchemy.orm import Session, sessionmaker

from cuejar import reviews
from cuejar.core.book.book import Book
from cuejar.core.book.files import book_json
from cuejar.core.carry.handon import handed_on
from cuejar.core.carry.review import Choices, Review, reviewed
from cuejar.core.files.timeline import Media
from cuejar.core.measures.catalogue import Catalogues
from cuejar.media.library import Arriving, Library
from cuejar.media.workers import Workers
from cuejar.platform import remove
from cuejar.reviews import Ours, Waiting, counted, whole
from cuejar.store import bundle as bundles
from cuejar.store import moving
from cuejar.store.books import Books, Origin
from cuejar.store.bundle import MediaFile, NotABundle
from cuejar.store.draft import Draft, NothingThere
from cuejar.store.moving import NOTHING, Balances
from cuejar.store.writer import Writer

R = TypeVar("R")
KEPT, KEPT_S = 8, 3_600
"""The maximum number of imported files that wait for the streamer, and how long they may."""


LIMIT_S = 600
"""How long reading a file may take."""


class Incoming(NamedTuple):
    """A file waiting to be imported, the media in it by their hashes, and when it arrived."""

    file: Waiting
    media: Mapping[str, str]
    at: float


class Kept(NamedTuple):
    """Where everything is stored: the database, its file, and who writes to it."""

    sessions: sessionmaker[Session]
    database: Path
    writer: Writer


class Show(NamedTuple):
    """What the show knows: what the gear has, and the points and counts."""

    catalogues: Catalogues
    balances: Balances = NOTHING


class Told(NamedTuple):
    """What was imported, in words; and points and counts for the show."""

    what: str
    balances: Balances | None


class Edit(Protocol):
    """Changes the book (`Studio.edit`)."""

    def __call__(
        self,
        change: Callable[[Draft], None],
        what: str,
        origin: Origin,
        version: int | None,
        within: AbstractAsyncContextManager[None] | None = None,
    ) -> Awaitable[None]: ...


class Carriage:
    """Everything that is exported and imported."""

    def __init__(
        self,
        folder: Path,
        books: Books,
        edit: Edit,
        library: Library,
        readers: Workers,
        most_bytes: int,
        installation: str,
        kept: Kept,
    ) -> None:
        self._sessions, self._database, self._writer = kept
        self._home = hashlib.sha256(installation.encode()).hexdigest()[:16]
        self._folder, self._books, self._library, self._most = folder, books, library, most_bytes
        self._readers, self._edit = readers, edit
        self._waiting: dict[str, Incoming] = {}
        self._taking: set[str] = set()
        shutil.rmtree(folder, ignore_errors=True)
        library.clear({entry.file for entry in books.book.media})

    # Out

    def out(self, cues: Sequence[str] = (), balances: Balances | None = None) -> Iterator[bytes]:
        """Yields the whole book, or some cues with what they need, in pieces.

        Args:
            balances: for an export of the whole data folder: the show's points and counts.

        Raises:
            BookError: there is no such cue.
        """
        book = handed_on(self._books.book, cues, self._home) if cues else self._books.book
        media: dict[str, MediaFile] = {}
        for entry in book.media:
            row, path = self._library.row(entry.file or ""), self._library.file(entry.file or "")
            if row is not None and path is not None:
                media[row.hash] = MediaFile(row.hash, path, bundles.ending(row.mime, row.format))
        if balances is not None:
            return bundles.written(book, "all", media, (), moving.written(self._sessions, balances), self._home)
        return bundles.written(book, "cues" if cues else "book", media, cues)

    # In

    async def arrive(self, chunks: AsyncIterator[bytes], name: str) -> str:
        """Receives a file for review, and returns the key under which it waits.

        Raises:
            NotABundle, BookError: it can't be imported; nothing is left of it.
        """
        self._sweep()
        self._folder.mkdir(parents=True, exist_ok=True)
        key = secrets.token_hex(8)
        path = self._folder / key
        waits = Waiting(key, path, self._most, name[:200])
        size = 0
        try:
            with path.open("wb") as file:
                async for chunk in chunks:
                    size += len(chunk)
                    if size > self._most:
                        raise NotABundle(
                            f"The file is larger than {self._most // 1_000_000:,} MB. Raise CUEJAR_MAX_BUNDLE_MB."
                        )
                    file.write(chunk)
            media = await self._apart(waits, reviews.looked)
        except BaseException:
            remove(path)
            waits.side.unlink(missing_ok=True)
            raise
        self._waiting[key] = Incoming(waits, media, time.monotonic())
        return key

    async def _apart(self, file: Waiting, work: Callable[..., R], *args: Any) -> R:
        return await self._readers.apart("importing", file.name, LIMIT_S, work, file, *args)

    def waiting(self, key: str) -> Incoming:
        """Raises NothingThere: it was imported, cancelled, or waited too long."""
        found = self._waiting.get(key)
        if found is None:
            raise NothingThere("That file is no longer waiting here. Import it again.")
        return found

    def leave(self, key: str) -> None:
        """Cancels the import of a file."""
        self._waiting.pop(key, None)
        with suppress(OSError):
            (self._folder / Path(key).name).unlink(missing_ok=True)
            (self._folder / f"{Path(key).name}.rows").unlink(missing_ok=True)

    def _sweep(self) -> None:
        old = sorted(self._waiting.items(), key=lambda item: item[1].at)
        late = [key for key, one in old if time.monotonic() - one.at > KEPT_S]
        for key in {*late, *(key for key, _ in old[: max(0, len(old) - KEPT + 1)])}:
            self.leave(key)

    def _ours(self, show: Show) -> Ours:
        books, here = self._books, {row.hash for row in self._library.rows() if self._library.file(row.hash)}
        return Ours(
            books.data,
            books.version,
            books.is_untouched,
            show.catalogues,
            here,
            self._database,
            show.balances,
        )

    async def review(self, key: str, choices: Choices, show: Show) -> bytes:
        """Returns what importing it would change, as JSON of `ReviewOut`. Raises NothingThere, WorkFailed."""
        return await self._apart(self.waiting(key).file, reviews.told, self._ours(show), choices)

    async def take(self, key: str, choices: Choices, show: Show, version: int | None) -> Told:
        """Imports what was chosen: the book as one revision, and what comes beside it.

        Raises:
            NothingThere, Stale, CannotWrite; NotTaken: a file of it can't be read; BookError: the result would be
            invalid.
        """
        waits = self.waiting(key)
        if key in self._taking:
            raise NothingThere("That file is already being imported.")
        self._taking.add(key)
        try:
            return await self._take(waits, choices, show, version)
        finally:
            self._taking.discard(key)

    async def _take(self, waits: Incoming, choices: Choices, show: Show, version: int | None) -> Told:
        taken = await self._apart(waits.file, reviews.taken, self._ours(show), choices)
        arriving = [
            Arriving(file_hash, name, partial(bundles.copied, waits.file.path, waits.media[file_hash], file_hash))
            for file_hash, name in taken.files
        ]
        what = f"imported {waits.file.name}: {taken.counted}"
        # The data beside the book goes first: importing it again after a failure changes nothing.
        for part in taken.data:
            for work in moving.batches(waits.file.side, part):
                await self._writer.do(work)
        if taken.is_new:
            # What goes wrong once the book names the files doesn't remove them.
            files = self._library.taking(arriving)
            await self._edit(lambda draft: draft.become(taken.book), what, "import", version, files)
        balances = moving.balances_in(waits.file.side, show.balances, {*taken.data}) if taken.data else None
        self.leave(waits.file.key)
        return Told(what, balances)

    async def take_back(self, version_of: int, choices: Choices, version: int | None, when: str) -> str:
        """Restores an earlier version, or some of it, as one revision. Raises as `take`."""
        review = await asyncio.to_thread(self.before, version_of, choices)
        what = f"restored from {when}: {counted(review)}"
        await self._edit(lambda draft: draft.become(book_json(whole(review))), what, "before", version)
        return what

    def before(self, version: int, choices: Choices) -> Review:
        """Returns the review of restoring an earlier version. Raises NothingThere, BookError."""
        return reviewed(self._books.book, self._books.at(version), "book", choices, trusted=True)


def media_of(book: Book, library: Library) -> list[Media]:
    """Returns the files of the library, by their names in the book."""
    found = []
    for entry in book.media:
        row = library.row(entry.file or "")
        if row is not None:
            kind: Any = row.kind
            url = f"media/{entry.id}{bundles.ending(row.mime, row.format)}"
            found.append(Media(entry.id, entry.name, kind, url, round(row.length_s * 1000)))
    return found


def files_of(book: Book, library: Library) -> dict[str, Path]:
    """Returns where the files of the library lie on disk, by their ids in the book."""
    found = ((entry.id, library.file(entry.file or "")) for entry in book.media)
    return {media_id: path for media_id, path in found if path is not None}
