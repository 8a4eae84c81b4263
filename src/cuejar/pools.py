"""Pools of worker processes: a job that crashes or is stopped costs its own process, and the pool goes on."""

from __future__ import annotations

import multiprocessing
from collections.abc import Callable
from threading import Thread
from typing import Any

from pebble import CONSTS, ProcessPool

CONSTS.sleep_unit = 0.5
"""How often a pool checks limits of time, in seconds; results and new jobs wake it up at once."""


def new_pool(count: int, begin: Callable[[], None]) -> ProcessPool:
    """Returns a pool whose workers start with the first job.

    Args:
        begin: runs first in each of them.
    """
    spawned: Any = multiprocessing.get_context("spawn")
    return ProcessPool(count, context=spawned, initializer=begin)


def end_pool(pool: ProcessPool) -> Thread:
    """Ends the workers, whatever they do, without holding up the caller: returns the thread that sees to it."""
    pool.stop()  # type: ignore[no-untyped-call]
    thread = Thread(target=pool.join, name="workers' end")
    thread.start()
    return thread
