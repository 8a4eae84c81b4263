"""What is carried away and brought in: bundles out of the book and the library, and their reviews on the way in.

A file that is brought in lies in a folder of its own until it is taken or left; nothing of it counts before. What is taken is one
revision of the book, so that one undo takes all of it back.
"""

from __future__ import annotations

import asyncio
import hashlib
import secrets
import shutil
import time
from collections.abc import AsyncIterator, Iterator, Sequence
from contextlib import suppress
from functools import partial
from pathlib import Path
from typing import Any, NamedTuple

from cuejar.core.book.book import Book
from cuejar.core.book.files import book_json
from cuejar.core.carry.differences import Difference, in_words
from cuejar.core.carry.handon import handed_on
from cuejar.core.carry.review import Choices, Review, reviewed
from cuejar.core.carry.words import ONE
from cuejar.core.files.timeline import Media
from cuejar.core.measures.catalogue import Catalogues
from cuejar.core.parts.base import BookError
from cuejar.media.library import Arriving, Library
from cuejar.store import bundle as bundles
from cuejar.store.books import Books, NothingThere
from cuejar.store.bundle import Bundle, MediaFile, NotABundle

KEPT, KEPT_S = 8, 3_600
"""How many files that are brought in wait at most for the streamer, and for how long."""


class Incoming(NamedTuple):
    """A file that waits to be taken: its bundle, what it is called, and when it came."""

    bundle: Bundle
    name: str
    at: float


class Carriage:
    """Everything that goes out and comes in as a file."""

    def __init__(self, folder: Path, books: Books, library: Library, most_bytes: int, installation: str) -> None:
        self._home = hashlib.sha256(installation.encode()).hexdigest()[:16]
        self._folder, self._books, self._library, self._most = folder, books, library, most_bytes
        self._waiting: dict[str, Incoming] = {}
        shutil.rmtree(folder, ignore_errors=True)
        library.clear({entry.file for entry in books.book.media})

    # Out

    def out(self, cues: Sequence[str] = ()) -> Iterator[bytes]:
        """The whole book, or some cues with what they need, in pieces.

        Raises:
            BookError: there is no such cue.
        """
        book = handed_on(self._books.book, cues, self._home) if cues else self._books.book
        media: dict[str, MediaFile] = {}
        for entry in book.media:
            row, path = self._library.row(entry.file or ""), self._library.file(entry.file or "")
            if row is not None and path is not None:
                media[row.hash] = MediaFile(row.hash, path, bundles.ending(row.mime, row.format))
        return bundles.written(book, "cues" if cues else "book", media, cues)

    # In

    async def arrive(self, chunks: AsyncIterator[bytes], name: str) -> str:
        """Takes a file to look at, and returns the key under which it waits.

        Raises:
            NotABundle, BookError: it is not to be taken; nothing is left of it.
        """
        self._sweep()
        self._folder.mkdir(parents=True, exist_ok=True)
        key = secrets.token_hex(8)
        path = self._folder / key
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
            bundle = await asyncio.to_thread(bundles.read, path, self._most)
        except BaseException:
            path.unlink(missing_ok=True)
            raise
        self._waiting[key] = Incoming(bundle, name[:200], time.monotonic())
        return key

    def waiting(self, key: str) -> Incoming:
        """Raises NothingThere: it was taken, or left, or waited too long."""
        found = self._waiting.get(key)
        if found is None:
            raise NothingThere("That file does not wait here any more. Bring it in again.")
        return found

    def leave(self, key: str) -> None:
        """The file is not taken after all."""
        self._waiting.pop(key, None)
        with suppress(OSError):
            (self._folder / Path(key).name).unlink(missing_ok=True)

    def _sweep(self) -> None:
        old = sorted(self._waiting.items(), key=lambda item: item[1].at)
        late = [key for key, one in old if time.monotonic() - one.at > KEPT_S]
        for key in {*late, *(key for key, _ in old[: max(0, len(old) - KEPT + 1)])}:
            self.leave(key)

    def review(self, key: str, choices: Choices, catalogues: Catalogues) -> Review:
        """What would come of taking it. Raises NothingThere."""
        bundle = self.waiting(key).bundle
        return reviewed(
            self._books.book, bundle.book, bundle.scope, choices, catalogues, fresh=self._books.is_untouched
        )

    def missing(self, key: str, review: Review) -> list[str]:
        """Names of files that would come without their content, as neither the file nor the library has it."""
        bundle = self.waiting(key).bundle
        taken = {row.key.id for row in review.rows if row.key.kind == "media" and row.takes and row.state != "removed"}
        return [
            entry.name
            for entry in bundle.book.media
            if entry.id in taken
            and entry.file is not None
            and entry.file not in bundle.media
            and self._library.file(entry.file) is None
        ]

    async def take(self, key: str, choices: Choices, catalogues: Catalogues, version: int | None) -> str:
        """Takes what was chosen, as one revision. Returns what was done, in words.

        Raises:
            NothingThere, Stale, CannotWrite; NotTaken: a file of it cannot be read; BookError: it does not hang together.
        """
        waits = self.waiting(key)
        review = await asyncio.to_thread(self.review, key, choices, catalogues)
        book = whole(review)
        bundle = waits.bundle
        wanted = {entry.file for entry in book.media}
        arriving = [
            Arriving(file_hash, _name(bundle.book, file_hash), partial(bundle.copy, file_hash))
            for file_hash in bundle.media
            if file_hash in wanted
        ]
        what = f"brought in {waits.name}: {counted(review)}"
        async with self._library.taking(arriving):
            await self._books.replace(book_json(book), what, "import", version)
        self.leave(key)
        return what

    async def take_back(self, version_of: int, choices: Choices, version: int | None, when: str) -> str:
        """Takes a book of before back, or what was chosen of it, as one revision. Raises as `take`."""
        review = await asyncio.to_thread(self.before, version_of, choices)
        what = f"took back from {when}: {counted(review)}"
        await self._books.replace(book_json(whole(review)), what, "before", version)
        return what

    def before(self, version: int, choices: Choices) -> Review:
        """What would come of taking a book of before back. Raises NothingThere, BookError."""
        return reviewed(self._books.book, self._books.at(version), "book", choices, trusted=True)


def _name(book: Book, file_hash: str) -> str:
    return next((entry.name for entry in book.media if entry.file == file_hash), file_hash[:6])


def whole(review: Review) -> Book:
    """The book of a review. Raises BookError: it does not hang together."""
    if review.book is None:
        raise BookError(review.problems)
    return review.book


def counted(review: Review) -> str:
    """What is taken, in words: *2 cues, 1 jar*; the one difference where it is one."""
    taken = [row for row in review.rows if row.takes]
    if len(taken) == 1:
        row = taken[0]
        return in_words([Difference(row.key, row.name, "new" if row.beside else row.state, row.fields)])
    counts: dict[str, int] = {}
    for row in taken:
        what = row.key.kind if row.key.id else row.name
        counts[what] = counts.get(what, 0) + 1
    told = [f"{n} {ONE[what]}{'s' if n > 1 else ''}" if what in ONE else what for what, n in counts.items()]
    return ", ".join(told) or "nothing"


def media_of(book: Book, library: Library) -> list[Media]:
    """The files of the library, by their names in the book."""
    found = []
    for entry in book.media:
        row = library.row(entry.file or "")
        if row is not None:
            kind: Any = row.kind
            url = f"media/{entry.id}{bundles.ending(row.mime, row.format)}"
            found.append(Media(entry.id, entry.name, kind, url, round(row.length_s * 1000)))
    return found


def files_of(book: Book, library: Library) -> dict[str, Path]:
    """Where the files of the library lie on the disk, by their ids in the book."""
    found = ((entry.id, library.file(entry.file or "")) for entry in book.media)
    return {media_id: path for media_id, path in found if path is not None}
