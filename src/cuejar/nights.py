"""Many nights at once, in worker processes that give way to everything else."""

from __future__ import annotations

import os
from collections.abc import Iterable, Iterator
from concurrent.futures import Future, ProcessPoolExecutor, as_completed
from contextlib import suppress
from multiprocessing import get_context
from typing import Any, NamedTuple

from cuejar.core.book.book import Book
from cuejar.core.book.files import book_from, book_json
from cuejar.core.facts.happenings import MediaFacts
from cuejar.core.nights.compare import one_night
from cuejar.core.nights.tally import Result
from cuejar.core.parts.base import JsonObject


class Work(NamedTuple):
    """A night to be played: which of the books, by its number, and the seed."""

    book: int
    seed: int


_books: list[Book] = []
_about: dict[str, Any] = {}


def _begin(books: list[JsonObject], about: dict[str, Any]) -> None:
    with suppress(OSError):
        os.nice(15)
    _books[:] = [book_from(book) for book in books]
    _about.update(about)


def _play(work: Work) -> Result:
    audience = next(one for one in _books[0].audiences if one.id == _about["audience"])
    return one_night(_books[0], audience, work.seed, _about["media"], _about["past"], _books[work.book])


def results(
    books: list[Book],
    audience: str,
    work: Iterable[Work],
    media: dict[str, MediaFacts] | None = None,
    past: dict[str, float] | None = None,
    processes: int = 0,
) -> Iterator[tuple[Work, Result]]:
    """Every night as it is done. Whoever stops asking stops the work.

    Args:
        books: the first is the one that the audience knows; the others are played against.
        audience: its id in the first book.
        processes: how many at once; 0: as many as there are cores.
    """
    about = {"audience": audience, "media": media, "past": past}
    pool = ProcessPoolExecutor(
        processes or os.cpu_count() or 1,
        mp_context=get_context("spawn"),
        initializer=_begin,
        initargs=([book_json(book) for book in books], about),
    )
    try:
        waiting: dict[Future[Result], Work] = {pool.submit(_play, one): one for one in work}
        for done in as_completed(waiting):
            yield waiting[done], done.result()
    finally:
        pool.shutdown(wait=True, cancel_futures=True)
