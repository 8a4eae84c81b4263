"""A setting over 12 values, 20 nights each of 2 h with 2,000 redemptions, next to simpy passing as many jobs in one
process per core.
"""

from __future__ import annotations

import os
import time
from concurrent.futures import ProcessPoolExecutor

from cuejar.core.book.book import Book
from cuejar.core.book.files import book_from, book_json
from cuejar.core.nights.compare import with_setting
from cuejar.nights import Task, Work, results
from tests.bench.engine import CALLS, a_book, simpy_s

VALUES, NIGHTS, REDEMPTIONS = 12, 20, 2_000


def _book() -> Book:
    friday = {"id": "friday", "name": "Friday", "calls": REDEMPTIONS, "viewers": 300}
    return book_from({**book_json(a_book()), "audiences": [friday]})


def _floor(_: int) -> float:
    return simpy_s()


def sweep() -> dict[str, float]:
    """Returns the seconds for the whole sweep, until the first night is done, and the floor's for as many jobs."""
    book = _book()
    books: list[Book | None] = [book, *(with_setting(book, "lanes.l0.width", value) for value in range(1, VALUES + 1))]
    work = [Work(number, seed) for seed in range(1, NIGHTS + 1) for number in range(1, VALUES + 1)]
    begun, first, redemptions = time.monotonic(), 0.0, 0
    for _, result in results(Task(books, "friday"), work):
        first = first or time.monotonic() - begun
        redemptions += result.redemptions
    took = time.monotonic() - begun
    cores = os.cpu_count() or 1
    begun = time.monotonic()
    with ProcessPoolExecutor(cores) as pool:
        list(pool.map(_floor, range(cores)))
    floor = (time.monotonic() - begun) * redemptions / (CALLS * cores)
    return {
        "redemptions": redemptions,
        "s": round(took, 1),
        "first night, s": round(first, 1),
        "simpy, as many jobs, s": round(floor, 1),
        "ratio": round(took / floor, 2),
    }
