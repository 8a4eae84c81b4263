"""Everything that runs together in one process: book, library, show, overlays, channel, feeds."""

from __future__ import annotations

import asyncio
import fcntl
import secrets
from collections.abc import AsyncIterator, Callable, Sequence
from pathlib import Path
from typing import IO, Any

from sqlalchemy import select

from cuejar.core import happenings as h
from cuejar.core.book import MediaEntry, OverlayEntry, book_json
from cuejar.core.follow import followed
from cuejar.live.desk import Desk
from cuejar.live.drivers.channel import ChannelDriver, NoChannel
from cuejar.live.drivers.overlay import Overlays, topic
from cuejar.live.folders import PREFIX, Folders, media_id
from cuejar.live.hub import Hub
from cuejar.live.inlets import MOST_SEEN, Inlets
from cuejar.live.reader import Reader
from cuejar.live.rig import Rig
from cuejar.live.show import Show
from cuejar.media.library import Library
from cuejar.media.workers import Workers
from cuejar.settings import CannotStart, Settings, prepare_data_folder
from cuejar.store.books import Books
from cuejar.store.database import open_database
from cuejar.store.models import LinkRow
from cuejar.store.secrets import Secrets

OVERLAY_LINK = "overlay"
BOOT_LINK = "boot"
LATCH_LINK = "latch"


def first_book() -> dict[str, Any]:
    """What a new data folder begins with: a lane and an overlay, so that the first cue can be fired at once."""
    return {
        "format": "cue-jar-book",
        "version": 1,
        "lanes": [{"id": "main", "name": "Main"}],
        "overlays": [{"id": "stream", "name": "Stream"}],
    }


def lock_folder(folder: Path) -> IO[str]:
    """Takes the data folder for this process alone.

    Raises:
        CannotStart: another Cue Jar has it.
    """
    lock = (folder / ".lock").open("w")
    try:
        fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except OSError as error:
        lock.close()
        raise CannotStart(f"Another Cue Jar is running on {folder}. End it, or choose another --data.") from error
    return lock


async def _contents(path: Path) -> AsyncIterator[bytes]:
    yield path.read_bytes()


class Studio:
    """The composition. Nothing decides here."""

    def __init__(
        self, settings: Settings, first: Callable[[], dict[str, Any]] = first_book, files: Sequence[Path] = ()
    ) -> None:
        """Args:
        first: the book of a new data folder.
        files: media files to take into the library on starting.
        """
        self.settings, self._files = settings, files
        self.folder = prepare_data_folder(settings.data)
        self._lock = lock_folder(self.folder)
        self.sessions = open_database(self.folder)
        self.books = Books(self.sessions)
        self.books.load(first)
        megabyte = 1_000_000
        self.library = Library(self.folder, self.sessions, settings.max_file_mb * megabyte, settings.max_pixels)
        self.hub = Hub()
        self.show = Show(settings, self.sessions, self.hub)
        self.overlays = Overlays(self.hub, lambda: self.show.engine, self._source)
        self.speakers = Workers(self.folder / "speaking", 1)
        self.reader = Reader(self.folder / "speech", self.show, self.speakers)
        self.overlays.speech = self.reader.ready
        self.reader.on_ready = lambda run, beat: self.overlays.speech_ready(run, beat, self.show.clock.now())
        self.desk = Desk(self.hub, self.show, self.sessions)
        self.folders = Folders(self.show, self.library, self._media_changed)
        self.channel: ChannelDriver | None = None
        self.secrets = Secrets(self.folder, settings.key_store)
        self.rig = Rig(self.show, self.secrets.get, settings.standins)
        self.inlets = Inlets()
        self._following: set[asyncio.Task[None]] = set()
        with self.sessions() as session:
            rows = session.scalars(select(LinkRow).where(LinkRow.kind == OVERLAY_LINK))
            self._tokens = {row.thing: row.value for row in rows}
            boots = session.scalars(select(LinkRow).where(LinkRow.kind == BOOT_LINK))
            self.rig.boots = {row.thing: row.value for row in boots}
            latches = session.scalars(select(LinkRow).where(LinkRow.kind == LATCH_LINK))
            self.rig.latched = {row.thing: row.value for row in latches}

    def _source(self, media: str) -> dict[str, Any] | None:
        entry = next((entry for entry in self.show.engine.book.media if entry.id == media), None)
        if entry is None and media.startswith(PREFIX):
            found = next((f for f in self.folders.hashes if media_id(f) == media), None)
            entry = MediaEntry(id="file", name=media, file=found)
        return self.library.source(entry, self.show.engine.book.house.loudness_lufs)

    def facts(self) -> dict[str, h.MediaFacts]:
        """What is in every file that can be shown: those of the book, and those of the folder jars."""
        facts = self.library.facts(self.books.book)
        for file_hash in self.folders.hashes:
            row = self.library.row(file_hash)
            if row is not None:
                kind: Any = row.kind
                facts[media_id(file_hash)] = h.MediaFacts(kind, row.length_s, row.loops, flashes=bool(row.flashes))
        return facts

    async def _media_changed(self) -> None:
        facts = self.facts()
        if self.show.engine.media != facts:
            await self.show.post(h.MediaKnown(facts))

    async def start(self) -> None:
        for path in self._files:
            await self.library.add(_contents(path))
        self.show.load(self.books.book)
        self.inlets.remember(self.show.journal.hooks_before(MOST_SEEN))
        self.show.ears = [self.overlays, self.reader, self.desk]
        self.show.on_ledger = self.desk.ledger_changed
        self.show.on_change = self.hub.changed = self.library.workers.on_change = self.desk.changed
        self.desk.jobs = lambda: [job._asdict() for job in self.library.workers.jobs]
        if self.settings.channel:
            self.channel = ChannelDriver(self.settings.channel, self.show, self.sessions)
            self.channel.on_state = self.desk.changed
            self.show.ears.append(self.channel)
        else:
            self.show.ears.append(NoChannel(self.show))
        self.desk.gear = lambda: [*([self._channel_row()] if self.channel else []), *self.rig.rows()]
        self.rig.on_state, self.rig.on_boot, self.rig.on_renamed = self.desk.changed, self._booted, self._renamed
        self.rig.on_latch = self._latched
        self.show.ears.append(self.rig)
        self._keep_links()
        self.show.start(self.books.book, self.facts())
        self.overlays.book_changed(self.show.clock.now())
        self.reader.start()
        self.rig.take(self.books.book)
        self.folders.take(self.books.book)
        if self.channel is not None:
            self.channel.start()
        self.desk.start()
        self._measuring = asyncio.create_task(self._measure_again(), name="measure again")

    async def _measure_again(self) -> None:
        if await self.library.measure_again():
            await self._media_changed()
            self.hub.say("desk", {"t": "book", "version": self.books.version})

    async def stop(self) -> None:
        self.hub.close_all()
        self._measuring.cancel()
        if self.channel is not None:
            await self.channel.stop()
        await self.reader.stop()
        self.speakers.close()
        await self.rig.stop()
        await self.folders.stop()
        await self.desk.stop()
        await self.show.stop()
        self.library.close()
        self._lock.close()

    def _channel_row(self) -> dict[str, Any]:
        assert self.channel is not None
        c = self.channel
        return {
            "id": "channel",
            "kind": "channel",
            "name": "Channel",
            "state": c.state,
            "since": c.since,
            "problem": c.problem,
        }

    def _booted(self, gear: str, boot: str) -> None:
        with self.sessions.begin() as session:
            session.merge(LinkRow(kind=BOOT_LINK, thing=gear, value=boot))

    def _latched(self, path: str, value: str) -> None:
        with self.sessions.begin() as session:
            session.merge(LinkRow(kind=LATCH_LINK, thing=path, value=value))

    def _renamed(self, renamed: h.Renamed) -> None:
        """The book follows a rename on the gear, as a revision of its own."""

        async def follow() -> None:
            data = followed(self.books.data, renamed)
            if data is not self.books.data:
                self.books.replace(data, f"followed {renamed.old} to {renamed.new}")
                await self.book_changed()

        task = asyncio.create_task(follow())
        self._following.add(task)
        task.add_done_callback(self._following.discard)

    # The book

    async def book_changed(self) -> None:
        """The book has a new revision: it counts from the next call on."""
        await self._media_changed()
        await self.show.post(h.NewBook(book_json(self.books.book)))
        self.folders.take(self.books.book)
        self.rig.take(self.books.book)
        self._keep_links()
        self.overlays.book_changed(self.show.clock.now())
        if self.channel is not None:
            self.channel.book_changed()
        self.hub.say("desk", {"t": "book", "version": self.books.version})
        await asyncio.sleep(0)

    # Links

    def _keep_links(self) -> None:
        """Every overlay has a link; one that is gone has none."""
        ids = {overlay.id for overlay in self.books.book.overlays}
        for overlay_id in ids - set(self._tokens):
            self.renew_link(overlay_id)
        for gone in set(self._tokens) - ids:
            self.hub.close(topic(gone))

    def renew_link(self, overlay_id: str) -> str:
        """A new secret link of 128 random bits; pages on the old one are let go."""
        token = secrets.token_urlsafe(16)
        with self.sessions.begin() as session:
            session.merge(LinkRow(kind=OVERLAY_LINK, thing=overlay_id, value=token))
        self._tokens[overlay_id] = token
        self.hub.close(topic(overlay_id))
        return token

    def link(self, overlay_id: str) -> str | None:
        return self._tokens.get(overlay_id)

    def overlay_of(self, token: str) -> OverlayEntry | None:
        """The overlay of a link, compared without telling how much of it was right."""
        found = None
        for overlay_id, known in self._tokens.items():
            if secrets.compare_digest(known.encode(), token.encode()):
                found = overlay_id
        return next((overlay for overlay in self.books.book.overlays if overlay.id == found), None)
