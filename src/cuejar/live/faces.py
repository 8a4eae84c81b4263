"""Viewers' pictures: fetched from their channel, made safe in a worker, kept for a week, forgotten with the viewer.

Nothing waits for one: until a picture is there, and if it can't be fetched, the viewer's letters are shown.
"""

from __future__ import annotations

import asyncio
import hashlib
import logging
import time
from collections.abc import Awaitable, Callable
from contextlib import suppress
from pathlib import Path
from typing import NamedTuple

from cuejar.live.watch import Watch
from cuejar.media.face import NoFace, NotNow, face_of
from cuejar.media.workers import Stopped, Workers, WorkFailed
from cuejar.platform import remove

log = logging.getLogger(__name__)
Fetch = Callable[[str], Awaitable[bytes]]
"""Returns the content of a picture by what was told of it. Raises NoFace."""
KEPT_S = 7 * 86_400.0
FRESH_S = 86_400.0
"""After how long a picture at the same address is fetched again, when its viewer is seen."""
AGAIN_S = 3_600.0
"""After how long one that can't be used is fetched again."""
SOON_S = 60.0
"""After how long its channel is asked again if it didn't answer."""
MOST_WAITING, MOST_KEPT, MOST_FAILED = 500, 20_000, 5_000
PRUNE_S = 3_600.0
WORK_LIMIT_S = 10.0


class _Told(NamedTuple):
    """A viewer's picture as a channel told it, and how it is fetched."""

    picture: str
    fetch: Fetch


class _Kept(NamedTuple):
    """A kept picture: its file, a mark of what was told, and when it was fetched (seconds since 1970)."""

    file: Path
    told: str
    at: float


def _mark(text: str) -> str:
    return hashlib.sha256(text.encode("utf-8", "surrogatepass")).hexdigest()[:32]


class Faces:
    """The pictures of viewers. File names are made from hashes: of the viewer's id, and of what was told."""

    def __init__(self, folder: Path, workers: Workers, clock: Callable[[], float] = time.time) -> None:
        """Args:
        clock: returns seconds since 1970.
        """
        self._folder, self._workers, self._clock = folder, workers, clock
        self._on = False
        self._waiting: dict[str, _Told] = {}
        self._not_before: dict[tuple[str, str], float] = {}
        """When pictures that can't be used may be fetched again."""
        self._stir = asyncio.Event()
        self._fetching: str | None = None
        folder.mkdir(exist_ok=True)
        self._kept: dict[str, _Kept] = {}
        for path in sorted(folder.iterdir()):
            viewer, _, told = path.stem.partition("-")
            if path.suffix != ".webp" or len(viewer) != 32 or viewer in self._kept:
                remove(path)
            else:
                self._kept[viewer] = _Kept(path, told, path.stat().st_mtime)

    def start(self, watch: Watch) -> None:
        watch.keep("viewers' pictures", self._fetch_all)
        watch.keep("old pictures of viewers", self._prune_all)

    def switch(self, on: bool) -> None:
        """Switches pictures on or off. Off, those kept are removed."""
        self._on = on
        if not on:
            self._waiting.clear()
            self._fetching = None
            for viewer in list(self._kept):
                self._drop(viewer)

    def told(self, viewer: str, picture: str, fetch: Fetch) -> None:
        """Takes what a channel told of a viewer's picture; it is fetched if it is new."""
        if not self._on or not picture:
            return
        key, told, now = _mark(viewer), _mark(picture), self._clock()
        kept = self._kept.get(key)
        if kept is not None and kept.told == told and now - kept.at < FRESH_S:
            return
        if now < self._not_before.get((key, told), 0):
            return
        self._waiting.pop(viewer, None)
        while len(self._waiting) >= MOST_WAITING:
            self._waiting.pop(next(iter(self._waiting)))
        self._waiting[viewer] = _Told(picture, fetch)
        self._stir.set()

    def file_of(self, viewer: str) -> Path | None:
        """Returns the file of a viewer's picture; None if there is none, or none are shown."""
        kept = self._kept.get(_mark(viewer))
        if not self._on or kept is None or self._clock() - kept.at >= KEPT_S or not kept.file.is_file():
            return None
        return kept.file

    def forget(self, viewer: str) -> None:
        self._waiting.pop(viewer, None)
        if self._fetching == viewer:
            self._fetching = None
        self._drop(_mark(viewer))

    async def _fetch_all(self) -> None:
        while True:
            while self._waiting:
                viewer = next(iter(self._waiting))
                await self._one(viewer, self._waiting.pop(viewer))
            self._stir.clear()
            await self._stir.wait()

    async def _one(self, viewer: str, told: _Told) -> None:
        self._fetching = viewer
        key = (_mark(viewer), _mark(told.picture))
        try:
            content = await told.fetch(told.picture)
            face = await self._workers.apart("reading", "a viewer’s picture", WORK_LIMIT_S, face_of, content)
        except (NoFace, Stopped, WorkFailed) as error:
            log.info("A viewer's picture can't be used: %s", error)
            self._not_before.pop(key, None)
            while len(self._not_before) >= MOST_FAILED:
                del self._not_before[next(iter(self._not_before))]
            self._not_before[key] = self._clock() + (SOON_S if isinstance(error, NotNow) else AGAIN_S)
            return
        # Meanwhile it may have been forgotten, or pictures switched off.
        if self._fetching == viewer and self._on:
            self._keep(key, face)

    def _keep(self, key: tuple[str, str], face: bytes) -> None:
        viewer, told = key
        path = self._folder / f"{viewer}-{told}.webp"
        draft = path.with_suffix(".new")
        try:
            draft.write_bytes(face)
            draft.replace(path)
        except OSError as error:
            log.warning("A viewer's picture can't be saved: %s", error)
            remove(draft)
            return
        before = self._kept.pop(viewer, None)
        if before is not None and before.file != path:
            remove(before.file)
        self._kept[viewer] = _Kept(path, told, self._clock())
        while len(self._kept) > MOST_KEPT:
            self._drop(next(iter(self._kept)))

    def _drop(self, viewer: str) -> None:
        kept = self._kept.pop(viewer, None)
        if kept is not None:
            with suppress(OSError):
                remove(kept.file)

    async def _prune_all(self) -> None:
        while True:
            self.prune()
            await asyncio.sleep(PRUNE_S)

    def prune(self) -> None:
        """Removes what was kept long enough."""
        now = self._clock()
        for viewer in [viewer for viewer, kept in self._kept.items() if now - kept.at >= KEPT_S]:
            self._drop(viewer)
