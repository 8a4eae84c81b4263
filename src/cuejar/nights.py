"""Many nights at once, in worker processes that give way to everything else.

A job's input is written into a file of its own; each worker reads it once, with the first of its nights.

Other work has `media.workers`, whose pool has a limit of time for each job and survives a crash. Here a stop ends all
workers at once, and those that can't start are noticed at once, which that pool does neither.
"""

from __future__ import annotations

import json
import os
import tempfile
from collections.abc import Iterable, Iterator, Mapping, Sequence
from concurrent.futures import BrokenExecutor, Future, ProcessPoolExecutor, as_completed
from contextlib import contextmanager, suppress
from dataclasses import asdict
from multiprocessing import get_context
from pathlib import Path
from typing import Any, NamedTuple

from cuejar.core.book.book import Book
from cuejar.core.book.files import book_from, book_json
from cuejar.core.engine.night import Timed
from cuejar.core.facts.happenings import MediaFacts
from cuejar.core.nights.compare import Nights
from cuejar.core.nights.recorded import Recording, recording_of
from cuejar.core.nights.standouts import Standout
from cuejar.core.nights.tally import Result
from cuejar.core.nights.timeline import Timeline
from cuejar.core.parts.base import JsonObject
from cuejar.ending import work_beside
from cuejar.starting import START_S, TRIES, NoWorkers, not_within_a_worker, ready

END_S = 2.0
"""How long killed workers may take to end."""


class Work(NamedTuple):
    """A night to be played: which of the books, by its number, and the seed."""

    book: int
    seed: int


class Entries(NamedTuple):
    """A recorded night as it is stored: the state before it, and its entries (number, instant, happening)."""

    state: JsonObject
    rows: Sequence[tuple[int, int, Any]]


class Task(NamedTuple):
    """Whose nights are played, with which books.

    Args:
        books: the first is the one that the audience knows. None stands for a recorded night's own.
        audience: its id in the first book; empty: the recorded night is played.
        past: how often each thing was called on past nights.
    """

    books: list[Book | None]
    audience: str = ""
    recorded: Entries | None = None
    media: Mapping[str, MediaFacts] | None = None
    past: Mapping[str, float] | None = None


class Drawn(NamedTuple):
    """A night in full: its totals, what stands out, its timeline, and the messages for an overlay's page."""

    result: Result
    standouts: list[Standout]
    timeline: Timeline
    shows: list[Timed]


# In the worker

_at_hand: tuple[str, Nights] | None = None


def _nights(file: str) -> Nights:
    global _at_hand
    if _at_hand is None or _at_hand[0] != file:
        told = json.loads(Path(file).read_text("utf-8"))
        books = [book_from(book) if book is not None else None for book in told["books"]]
        recording: Recording | None = None
        if told["recorded"] is not None:
            recording = recording_of(*told["recorded"])
        media = told["media"]
        facts = None if media is None else {name: MediaFacts(**one) for name, one in media.items()}
        _at_hand = (file, Nights(books, told["audience"], recording, facts, told["past"]))
    return _at_hand[1]


def _play(file: str, work: Work) -> Result:
    return _nights(file).result(work.book, work.seed)


def _draw(file: str, work: Work) -> Drawn:
    return Drawn(*_nights(file).drawn(work.book, work.seed))


# Outside


class Crew:
    """The worker processes."""

    def __init__(self, processes: int = 0) -> None:
        """Args:
        processes: how many at once; 0: one per core.
        """
        self._processes = processes or os.cpu_count() or 1
        self._pool: ProcessPoolExecutor | None = None

    def _there(self) -> ProcessPoolExecutor:
        """Returns the workers, once one of them has started. Raises NoWorkers: none did."""
        not_within_a_worker()
        for _ in range(TRIES):
            if self._pool is None:
                self._pool = ProcessPoolExecutor(self._processes, get_context("spawn"), initializer=work_beside)
            pool = self._pool
            try:
                pool.submit(ready).result(START_S)
            except (BrokenExecutor, OSError, TimeoutError):
                if self._pool is not pool:  # Closed by hand.
                    raise
                self.close()
            else:
                return pool
        raise NoWorkers

    @contextmanager
    def at(self, task: Task) -> Iterator[_Job]:
        """A job: its file exists while it is worked on. Raises NoWorkers."""
        with tempfile.TemporaryDirectory(prefix="cue-jar-nights-") as folder:
            file = Path(folder) / "task.json"
            told = {
                "books": [book_json(book) if book is not None else None for book in task.books],
                "audience": task.audience,
                "recorded": task.recorded,
                "media": None if task.media is None else {name: asdict(one) for name, one in task.media.items()},
                "past": task.past,
            }
            file.write_text(json.dumps(told, ensure_ascii=False), "utf-8")
            yield _Job(self._there(), str(file))

    def close(self) -> None:
        """Ends the workers, whatever they do; the next job has new ones."""
        pool, self._pool = self._pool, None
        if pool is not None:
            there = list((pool._processes or {}).values())
            manager: Any = pool._executor_manager_thread
            pool.shutdown(wait=False, cancel_futures=True)
            for worker in there:
                worker.kill()
            if manager is not None:  # Else a command that ends just now ends with an error.
                manager.join(END_S)


class _Job:
    def __init__(self, pool: ProcessPoolExecutor, file: str) -> None:
        self._pool, self._file = pool, file

    def drawn(self, work: Work) -> Drawn:
        """Returns a night in full. Raises BookError if the book or the audience is refused, or BrokenExecutor."""
        return self._pool.submit(_draw, self._file, work).result()

    def results(self, work: Iterable[Work]) -> Iterator[tuple[Work, Result]]:
        """Yields every night as it is done. When the caller stops iterating, no further ones are started."""
        waiting: dict[Future[Result], Work] = {self._pool.submit(_play, self._file, one): one for one in work}
        try:
            for done in as_completed(waiting):
                yield waiting[done], done.result()
        finally:
            for one in waiting:
                one.cancel()
            # Nights in progress end first: they read the file.
            for one in waiting:
                if not one.cancelled():
                    with suppress(Exception):
                        one.result()


def results(task: Task, work: Iterable[Work], processes: int = 0) -> Iterator[tuple[Work, Result]]:
    """Yields every night as it is done, with workers of its own."""
    crew = Crew(processes)
    try:
        with crew.at(task) as job:
            yield from job.results(work)
    finally:
        crew.close()
