"""Everything that runs together in one process: book, library, show, overlays, channel, feeds."""

from __future__ import annotations

import asyncio
import contextlib
import logging
from collections.abc import AsyncIterator, Callable, Iterable, Mapping, Sequence
from concurrent.futures import ThreadPoolExecutor
from contextlib import AbstractAsyncContextManager
from pathlib import Path
from typing import Any, TypeVar

from cuejar.carriage import Carriage, Kept
from cuejar.core.book.book import Book, MediaEntry
from cuejar.core.book.files import book_json
from cuejar.core.facts import happenings as h
from cuejar.core.facts import orders as o
from cuejar.core.facts.paths import reward_path
from cuejar.core.kinds.table import KINDS
from cuejar.core.measures.monogram import FACE, face_address, monogram
from cuejar.core.parts.base import BookError
from cuejar.core.rules.renames import followed
from cuejar.core.rules.tickets import by_hand
from cuejar.core.rules.words import prepared
from cuejar.core.words.rewards import hand_said
from cuejar.ending import work_behind
from cuejar.links import Links
from cuejar.live import plugins
from cuejar.live.channels import Channels
from cuejar.live.desk import TOPIC, Around, Desk
from cuejar.live.devices import Devices
from cuejar.live.drivers.overlay import Overlays
from cuejar.live.faces import Faces
from cuejar.live.folders import PREFIX, Folders, media_id
from cuejar.live.hands import Hands
from cuejar.live.hub import Hub
from cuejar.live.inlets import MOST_SEEN, Inlets
from cuejar.live.journal import Journal
from cuejar.live.latches import Latches
from cuejar.live.listening import Listening
from cuejar.live.memories import Memories
from cuejar.live.messages import DeskBook, Source
from cuejar.live.orderlog import OrderLog
from cuejar.live.osc_in import OscIn
from cuejar.live.pads import MOST_ARRIVALS, Pads
from cuejar.live.reader import Reader
from cuejar.live.rewardpictures import RewardPictures
from cuejar.live.rig import Rig
from cuejar.live.runner import Runner
from cuejar.live.simulated import Simulated
from cuejar.live.strikes import Owed, Striker, Strikes
from cuejar.live.timers import DayTimers
from cuejar.live.troubles import Troubles
from cuejar.live.watch import Watch
from cuejar.media.library import Library
from cuejar.media.workers import Job, Workers
from cuejar.platform import Lock, Taken
from cuejar.rehearsals import Rehearsals
from cuejar.settings import CannotStart, Settings, prepare_data_folder, token_of
from cuejar.store.books import Books, Origin
from cuejar.store.database import FILE, copied_aside, open_database
from cuejar.store.draft import Draft, NothingThere
from cuejar.store.models import ViewerRow
from cuejar.store.secrets import Secrets
from cuejar.store.writer import CannotWrite, Writer, plain
from cuejar.upkeep import Upkeep

BOOK_COPY = "book-copy.json"
NEW_BOOK_S = 1.5
"""How long the answer to an edit waits for it to take effect."""
R = TypeVar("R")
THREADS = 24
"""How many edits, feeds and lists may wait for a disk at once."""
SHORT_TEXT, READ_LIMIT_S = 20_000, 30
STOP_S = 4.0
"""How long all parts together may take to stop."""
T = TypeVar("T")
log = logging.getLogger(__name__)
Past = Callable[[Book, Mapping[str, h.MediaFacts], int], Iterable[tuple[int, h.Happening]]]


def first_book() -> dict[str, Any]:
    """Returns the book of a new data folder: a lane and an overlay, so that the first cue can be fired at once."""
    return {
        "format": "cue-jar-book",
        "version": 1,
        "lanes": [{"id": "main", "name": "Main"}],
        "overlays": [{"id": "stream", "name": "Stream"}],
    }


def lock_folder(folder: Path) -> Lock:
    """Locks the data folder for this process.

    Raises:
        CannotStart: another Cue Jar has it.
    """
    try:
        return Lock(folder / ".lock")
    except OSError as error:
        raise CannotStart(
            f"{folder / '.lock'} can’t be written ({error.strerror}). Remove it, or choose another folder with --data."
        ) from error
    except Taken as error:
        raise CannotStart(f"Another Cue Jar is running on {folder}. End it, or choose another --data.") from error


def _refuse_emptied(folder: Path) -> None:
    """Raises CannotStart: the database is empty, but the folder was used, and there is no copy of its book."""
    file, media = folder / FILE, folder / "media"
    emptied = file.exists() and file.stat().st_size == 0 and not file.with_name(f"{FILE}-wal").exists()
    if emptied and media.is_dir() and any(media.iterdir()) and not (folder / BOOK_COPY).exists():
        raise CannotStart(
            f"{file} is empty, but this folder has media of a book. Restore a copy of the file, or delete the empty "
            "one to start over with the media."
        )


async def _contents(path: Path) -> AsyncIterator[bytes]:
    yield path.read_bytes()


class Studio:
    """The composition. It decides nothing."""

    # Needed by what is made before them.
    desk: Desk
    channels: Channels
    pads: Pads
    hands: Hands
    rig: Rig

    def __init__(
        self,
        settings: Settings,
        first: Callable[[], dict[str, Any]] = first_book,
        files: Sequence[Path] = (),
        go_on: bool = False,
        past: Past | None = None,
    ) -> None:
        """Args:
            past: returns what happened before the very first start, from a book, its files and the show's seed.
            first: returns the book of a new data folder.
            files: media files to add to the library at start-up.
            go_on: a damaged database is rebuilt from its readable part, whatever copies there are.

        Raises:
            CannotStart, Damaged.
        """
        self.settings, self._files, self._past = settings, files, past
        self.is_demo = bool(files)
        plugins.load()
        self.folder = prepare_data_folder(settings.data)
        self.token = token_of(self.folder)
        self._lock = lock_folder(self.folder)
        _refuse_emptied(self.folder)
        try:
            database = open_database(self.folder, go_on)
        except BaseException:
            self._lock.close()
            raise
        self.sessions, self.database = database.sessions, database.path
        self.writer = Writer(database.writing)
        self.watch, self.troubles = Watch(self._changed), Troubles(self._changed)
        self.books = Books(self.sessions, self.writer, self.folder / BOOK_COPY)
        journal = Journal(self.sessions)
        try:
            journal.said = database.said + self.books.load(first, lambda: copied_aside(database.path, "damaged").name)
        except CannotWrite as error:
            raise CannotStart(f"The book can’t be saved to {self.folder}: {error}.") from error
        megabyte = 1_000_000
        self.library = Library(
            self.folder,
            self.sessions,
            self.writer,
            settings.max_file_mb * megabyte,
            settings.max_pixels,
            self._changed,
        )
        self.readers = Workers(self.folder / "reading", 2, work_behind, self._changed)
        self.carriage = Carriage(
            self.folder / "incoming",
            self.books,
            self.edit,
            self.library,
            self.readers,
            settings.max_bundle_mb * megabyte,
            journal.installation,
            Kept(self.sessions, self.database, self.writer),
        )
        self.facing = Workers(self.folder / "facing", 1, work_behind)
        self.faces = Faces(self.folder / "faces", self.facing)
        self.reward_pictures = RewardPictures(
            self.library, self.facing, lambda: self.books.book, lambda: self.library.facts(self.books.book)
        )
        self.hub = Hub(self._changed)
        self.runner = Runner(
            settings,
            journal,
            self.writer,
            self.watch,
            self.troubles,
            self._changed,
            self._decided,
            lambda calls: self.desk.ledger_changed(calls),
        )
        self.speakers = Workers(self.folder / "speaking", 1)
        self.reader = Reader(
            self.folder / "speech",
            self.runner,
            self.speakers,
            lambda run, beat: self.overlays.speech_ready(run, beat, self.runner.clock.now()),
        )
        self.overlays = Overlays(self.hub, lambda: self.runner.view, self._source, self.reader.ready)
        self.day_timers = DayTimers(self.runner)
        self.beyond: Callable[[], str] = str
        """The address at which other computers find the overlays, once they are served there."""
        around = Around(
            gear=lambda: [*self.channels.rows(), *self.rig.rows()],
            jobs=lambda: [job._asdict() for job in self.jobs],
            owed=self.owed,
            day_timers=self.day_timers.next,
            beyond=lambda: self.beyond(),
            pads=lambda: self.pads.told_to_the_desk(self.hands),
            listens=lambda: self.listening.is_open,
            is_shown_beside=lambda: self.pads.shows_desk(),
            arrived=lambda lines: self.pads.arrived(lines),
        )
        self.desk = Desk(self.hub, self.runner, self.sessions, around)
        self.folders = Folders(self.runner, self.library, self._media_changed)
        self.secrets = Secrets(self.folder, settings.key_store)
        latches = Latches(self.sessions, self.runner.later.keep, journal.installation)
        self.devices = Devices(self.sessions, self.writer, self.secrets, self._changed)
        self.pads = Pads(
            self.hub, self.runner, self.devices, self._change_house, lambda: self.desk.latest(MOST_ARRIVALS)
        )
        self.hands = Hands(self.devices, self.hub.changed, self.pads)
        memories = Memories(self.sessions, self.runner.later.keep)
        self.rig = Rig(
            self.runner,
            self.secrets.get,
            settings.standins,
            latches,
            memories,
            self.hands,
            self._changed,
            self._renamed,
        )
        self.simulated = Simulated(self.folder / "simulated", settings.standins_port, settings.standins, self.watch)
        self.channels = Channels(
            self.runner,
            self.sessions,
            self.secrets.get,
            self.rig.address,
            settings.channel,
            self._reward_by_hand,
            self._changed,
            self.faces.told,
            self.reward_pictures,
        )
        self.strikes = Strikes(
            self._striker,
            lambda: self.runner.clock.now(),
            self.watch.once,
            self.runner.recorder.struck,
            lambda failed: self.runner.post(failed, patient=True),
            lambda strike: "chat" if KINDS[strike.kind].to_channel else self.rig.where(strike),
        )
        self.listening = Listening(self.folder, self.runner, settings.recording, self._listens)
        self.pads.listens = lambda: self.listening.is_open
        self.inlets = Inlets(journal.has_heard)
        self.osc = OscIn(self.runner, self.inlets, self._change_house)
        self.rehearsals = Rehearsals(self.watch)
        self._is_on = False
        """Whether the show runs: a command that imports has only the book."""
        self.links = Links(self.sessions, self.runner.later.keep, self.hub)
        self._upkeep = Upkeep(self.database, self.sessions, self.writer, self.books, self.troubles)

    def monogram_of(self, viewer: str) -> str:
        """Returns an SVG with the letters of a viewer, by the name they were last seen with."""
        with self.sessions() as session:
            row = session.get(ViewerRow, viewer)
        return monogram(viewer, row.name if row is not None else viewer)

    def _source(self, media: str) -> Source | None:
        if media.startswith(FACE):
            url = face_address(media.removeprefix(FACE))
            return Source(url=url, kind="picture", mime="", length_s=0, loops=0, from_s=0, to_s=None, gain_db=0)
        entry = next((entry for entry in self.runner.view.book.media if entry.id == media), None)
        if entry is None and media.startswith(PREFIX):
            found = next((f for f in self.folders.hashes if media_id(f) == media), None)
            entry = MediaEntry(id="file", name=media, file=found)
        source = self.library.source(entry, self.runner.view.book.house.loudness_lufs)
        return Source(**source) if source is not None else None

    def facts(self) -> dict[str, h.MediaFacts]:
        """Returns what is in every file that can be shown: those of the book, and those of the folder jars."""
        facts = self.library.facts(self.books.book)
        for file_hash in self.folders.hashes:
            row = self.library.row(file_hash)
            if row is not None:
                kind: Any = row.kind
                facts[media_id(file_hash)] = h.MediaFacts(kind, row.length_s, row.loops, flashes=bool(row.flashes))
        return facts

    async def _media_changed(self) -> None:
        facts = self.facts()
        if self.runner.view.media != facts:
            with contextlib.suppress(TimeoutError):
                async with asyncio.timeout(NEW_BOOK_S):
                    await self.runner.post(h.MediaKnown(facts), patient=True)

    def _striker(self, strike: o.Strike) -> Striker | None:
        if KINDS[strike.kind].to_channel:
            return self.channels
        return self.rig.striker(strike)

    def _decided(self, settled: list[tuple[str, str]], strikes: list[Owed]) -> None:
        """Notes that decisions are written down: now they are owed."""
        self.channels.owe(settled)
        self.strikes.owe(strikes)

    def _changed(self) -> None:
        self.desk.changed()

    def _listens(self) -> None:
        self.desk.changed()
        self.pads.changed()

    def owed(self) -> dict[str, int]:
        """Returns how much is owed to channel and gear."""
        return {"settlements": self.channels.owed, "strikes": len(self.strikes.owed)}

    async def start(self) -> None:
        asyncio.get_running_loop().set_default_executor(ThreadPoolExecutor(THREADS, "beside the show"))
        for path in self._files:
            await self.library.add(_contents(path))
        if self._past is not None:
            told = list(self._past(self.books.book, self.library.facts(self.books.book), self.settings.seed))
            self.writer.now(lambda c: self.runner.journal.remember(plain(c), told))
        prepared(self.books.book.words)
        self.runner.load(self.books.book)
        orders = [OrderLog(self.settings.orders)] if self.settings.orders is not None else []
        self.runner.ears = [
            self.overlays,
            self.reader,
            self.desk,
            *orders,
            self.channels,
            self.rig,
            self.pads,
            self.listening,
        ]
        self.runner.start(self.books.book, self.facts())
        self._is_on = True
        self.inlets.remember(self.runner.journal.hooks_before(MOST_SEEN))
        # Read from where all debts are stored, once every decision so far is written there.
        self.channels.owe(self.runner.journal.unconfirmed())
        self.strikes.owe(self.runner.journal.owed_strikes(), again=True)
        await self.links.take(self.books.book)
        self.overlays.book_changed(self.runner.clock.now())
        self.reader.start()
        self.simulated.resume()
        self.rig.standins = self.simulated.address
        self.rig.take(self.books.book)
        self.folders.take(self.books.book)
        self.faces.switch(self.books.book.house.faces)
        self.faces.start(self.watch)
        self.channels.take(self.books.book)
        self.osc.take(self.books.book)
        self.listening.take(self.books.book)
        self.desk.start()
        self.pads.start()
        self.watch.once("measuring files again", self._measure_again)
        self.watch.keep("timers of the day", self.day_timers.keep)
        self._upkeep.start(self.watch)

    async def _measure_again(self) -> None:
        if await self.library.measure_again():
            await self._media_changed()
            self.hub.say(TOPIC, DeskBook(version=self.books.version))

    async def stop(self) -> None:
        """Stops every part; one that hangs is abandoned after a while, and reported."""
        self.hub.close_all()
        try:
            async with asyncio.timeout(STOP_S):
                await self._stop_parts()
        except TimeoutError:
            log.error("Not everything stopped within %g s; the rest is left behind.", STOP_S)
        with contextlib.suppress(Exception):
            await self.runner.stop()
        await self.watch.stop()
        self.let_go()

    async def read_text(self, name: str, work: Callable[..., R], text: str, *args: Any) -> R:
        """Returns the result of ``work`` on a text from outside: a long one is read in a worker process, where it can
        be stopped.

        Raises:
            Stopped, WorkFailed: as `Workers.apart`.
        """
        if len(text) <= SHORT_TEXT:
            return await asyncio.to_thread(work, text, *args)
        return await self.readers.apart("importing", name, READ_LIMIT_S, work, text, *args)

    @property
    def jobs(self) -> list[Job]:
        """Returns long work that can be stopped."""
        return [*self.library.workers.jobs, *self.readers.jobs]

    def stop_job(self, job_id: int) -> bool:
        return self.library.workers.stop_job(job_id) or self.readers.stop_job(job_id)

    def let_go(self) -> None:
        """Releases a folder that was opened for its book alone, and never started."""
        self.speakers.close()
        self.readers.close()
        self.facing.close()
        self.library.close()
        self.writer.close()
        self._lock.close()

    async def _stop_parts(self) -> None:
        await self.rehearsals.close()
        await self.channels.stop()
        await self.osc.stop()
        await self.listening.stop()
        await self.reader.stop()
        await self.rig.stop()
        await self.folders.stop()
        await self.desk.stop()
        await self.pads.stop()
        await self.simulated.stop()

    async def simulate(self) -> None:
        """Runs the simulated channel and gear, which gear without an address uses. Raises AwayError."""
        self.rig.standins = await self.simulated.start()
        self.rig.take(self.books.book)
        self.channels.take(self.books.book)
        self.desk.changed()

    def _renamed(self, renamed: h.Renamed) -> None:
        """Follows a rename on the gear, as a revision of the book."""

        async def follow() -> None:
            if followed(self.books.data, renamed) is not self.books.data:
                what = f"updated {renamed.old} to {renamed.new}"
                await self.edit(lambda draft: draft.become(followed(draft.data, renamed)), what, "gear")

        self.watch.once("following a rename", follow)

    async def _reward_by_hand(self, channel: str, reward_id: str, hand: dict[str, Any], was: dict[str, Any]) -> None:
        """Takes a change by hand of a reward at a channel, as a revision of the book, and drops what is held of it.

        In this order: after a crash in between it is still a change by hand, and reported again.
        """
        reward = next((one for one in self.books.book.rewards if one.id == reward_id), None)
        if reward is not None and set(hand) - {"paused"}:
            what = f"changed at {self.channels.name(channel)}: {reward.title}: {hand_said(was, hand)}"
            value = by_hand(reward, hand, self.runner.view.sold(reward_id))
            # A value that the book can't take is corrected at the channel.
            with contextlib.suppress(BookError, NothingThere):
                await self.edit(lambda draft: draft.put("rewards", reward_id, value), what, "channel")
        for name in ("on", "cost", "paused"):
            if name in hand:
                await self.runner.post(h.Hand(reward_path(reward_id, name), hand[name]), patient=True)

    # The book

    async def edit(
        self,
        change: Callable[[Draft], T],
        what: str = "",
        origin: Origin = "page",
        version: int | None = None,
        within: AbstractAsyncContextManager[None] | None = None,
    ) -> T:
        """Changes the book, and lets everybody know: the only way to do so. One edit is one revision and one undo; it
        counts from the next call on.

        Args, returns and raises as `Books.edit`.

        Args:
            within: what holds while the revision is written, and no longer.
        """
        async with within or contextlib.nullcontext():
            made = await self.books.edit(change, what, origin, version)
        if self._is_on:
            await self._book_changed()
        return made

    async def step(self, back: bool) -> str:
        """Undoes or redoes an edit. Returns which. Raises NothingThere, CannotWrite."""
        what = await self.books.step(back)
        await self._book_changed()
        return what

    async def _book_changed(self) -> None:
        await asyncio.to_thread(prepared, self.books.book.words)
        await self._media_changed()
        # It is already saved; while nothing can be written it counts as soon as the fault is gone.
        with contextlib.suppress(TimeoutError):
            async with asyncio.timeout(NEW_BOOK_S):
                await self.runner.post(h.NewBook(book_json(self.books.book)), patient=True)
        self.folders.take(self.books.book)
        self.rig.take(self.books.book)
        self.reader.take(self.books.book)
        await self.links.take(self.books.book)
        self.overlays.book_changed(self.runner.clock.now())
        self.faces.switch(self.books.book.house.faces)
        self.channels.take(self.books.book)
        self.osc.take(self.books.book)
        self.listening.take(self.books.book)
        self.pads.changed()
        self.hub.say(TOPIC, DeskBook(version=self.books.version))
        await asyncio.sleep(0)

    async def _change_house(self, fields: dict[str, Any]) -> None:
        """Changes settings of the house; unchanged ones make no revision."""
        before = self.books.data.get("house", {})
        if any(before.get(key, getattr(self.books.book.house, key)) != value for key, value in fields.items()):
            await self.edit(
                lambda draft: draft.put("house", None, {**draft.data.get("house", {}), **fields}), origin="pads"
            )
