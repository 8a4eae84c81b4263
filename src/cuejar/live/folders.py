"""Folder jars: a new file in a jar's folder is in its next draw, without a restart.

Each file is added to the library like any other (probed, known by its content) under an id made from its content;
refused files are left out. The engine gets the whole contents whenever they change.
"""

from __future__ import annotations

import asyncio
import contextlib
import logging
from collections.abc import AsyncIterator, Awaitable, Callable
from functools import partial
from pathlib import Path

from watchfiles import awatch

from cuejar.core.book.book import Book
from cuejar.core.facts import happenings as h
from cuejar.live.runner import Runner
from cuejar.media.library import Library
from cuejar.media.probe import NotTaken
from cuejar.platform import path_in

log = logging.getLogger(__name__)
PREFIX = "folder-"


def media_id(file_hash: str) -> str:
    """Returns the id under which a file of a folder jar is drawn."""
    return f"{PREFIX}{file_hash[:32]}"


async def _contents(path: Path) -> AsyncIterator[bytes]:
    yield await asyncio.to_thread(path.read_bytes)


class Folders:
    """Watches the folders of all folder jars of the book."""

    def __init__(self, runner: Runner, library: Library, media_changed: Callable[[], Awaitable[None]]) -> None:
        self._runner, self._library, self._media_changed = runner, library, media_changed
        self._watching: dict[str, tuple[Path, asyncio.Task[None]]] = {}
        self._held: dict[str, list[str]] = {}
        self._known: dict[tuple[str, int, int], str] = {}

    @property
    def hashes(self) -> set[str]:
        """Returns the hashes of all files in the folders."""
        return {file_hash for held in self._held.values() for file_hash in held}

    def take(self, book: Book) -> None:
        """Takes a new book; called after every edit."""
        wanted = {
            jar.id: path_in(jar.folder) or Path(jar.folder) for jar in book.jars if jar.folder and jar.kind == "media"
        }
        for jar_id, (path, task) in list(self._watching.items()):
            if wanted.get(jar_id) != path:
                task.cancel()
                del self._watching[jar_id]
                self._held.pop(jar_id, None)
        for jar_id, path in wanted.items():
            if jar_id not in self._watching:
                task = self._runner.watch.keep(f"folder of the jar {jar_id}", partial(self._follow, jar_id, path))
                self._watching[jar_id] = (path, task)

    async def stop(self) -> None:
        await self._runner.watch.let_go([task for _, task in self._watching.values()])

    async def _follow(self, jar_id: str, path: Path) -> None:
        while True:
            with contextlib.suppress(OSError):
                await self._read(jar_id, path)
                if path.is_dir():
                    async for _ in awatch(path, debounce=200, step=50):
                        await self._read(jar_id, path)
            await asyncio.sleep(2)

    async def _read(self, jar_id: str, path: Path) -> None:
        files = sorted(p for p in path.iterdir() if p.is_file() and not p.name.startswith(".")) if path.is_dir() else []
        hashes = []
        for file in files:
            stat = file.stat()
            key = (str(file), stat.st_size, stat.st_mtime_ns)
            if key not in self._known:
                try:
                    self._known[key] = (await self._library.add(_contents(file))).hash
                except NotTaken as error:
                    log.warning("%s is left out of the jar %s: %s", file, jar_id, error)
                    continue
            hashes.append(self._known[key])
        hashes = list(dict.fromkeys(hashes))
        if hashes == self._held.get(jar_id):
            return
        self._held[jar_id] = hashes
        await self._media_changed()
        await self._runner.post(h.Folder(jar_id, tuple(media_id(file_hash) for file_hash in hashes)), patient=True)
