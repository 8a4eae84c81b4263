"""Watched tasks: everything that runs beside the show is started here, and none can end by an error unnoticed.

A *kept* task is restarted after an error, after a growing pause; one that runs *once* isn't. Both
are logged, and both report their problem until they are well again: health and the rig show `rows`.
"""

from __future__ import annotations

import asyncio
import logging
import time
from collections.abc import Callable, Coroutine, Iterable
from typing import Any, Literal, NamedTuple

from cuejar.pauses import Pauses

log = logging.getLogger(__name__)
FIRST_PAUSE_S, MOST_PAUSE_S = 0.1, 10.0
WELL_AFTER_S = 30.0
"""A task that has run this long is well again: its next failure starts with the first pause."""
STOP_S = 2.0
"""How long a task may take to stop."""

Work = Callable[[], Coroutine[Any, Any, None]]
State = Literal["running", "away"]


class Row(NamedTuple):
    """The state of a task: ``problem`` is why it is down, ``since`` when that began (ms since 1970), ``falls`` how
    often it failed.
    """

    name: str
    state: State
    problem: str
    since: int
    falls: int


def said(error: BaseException) -> str:
    """Returns an error as one line for people."""
    return f"{type(error).__name__}: {error}" if str(error) else type(error).__name__


class Watch:
    """All watched tasks. Two may have the same name, as when gear is renewed while the old keeper is still closing."""

    def __init__(self, changed: Callable[[], None] = lambda: None) -> None:
        """Args:
        changed: is told when a task fails, or runs again.
        """
        self._tasks: dict[str, asyncio.Task[None]] = {}
        self._rows: dict[str, Row] = {}
        self._changed = changed

    def keep(self, name: str, work: Work, failed: Callable[[str], None] = lambda problem: None) -> asyncio.Task[None]:
        """Runs ``work`` until it ends by itself or is stopped; after an error it is restarted.

        Args:
            failed: gets the reason in words, after every failure.
        """
        key = self._key(name)
        self._become(key, "running")
        return self._begin(key, name, self._kept(key, name, work, failed))

    def once(self, name: str, work: Work, failed: Callable[[str], None] = lambda problem: None) -> asyncio.Task[None]:
        """Runs ``work`` to its end."""
        key = self._key(name)
        return self._begin(key, name, self._single(key, name, work, failed))

    def _key(self, name: str) -> str:
        key = name
        while key in self._tasks:
            key += "'"
        return key

    def _begin(self, key: str, name: str, work: Coroutine[Any, Any, None]) -> asyncio.Task[None]:
        task = self._tasks[key] = asyncio.create_task(work, name=name)
        task.add_done_callback(lambda _: self._tasks.pop(key, None))
        return task

    async def _kept(self, key: str, name: str, work: Work, failed: Callable[[str], None]) -> None:
        pauses = Pauses(FIRST_PAUSE_S, MOST_PAUSE_S)
        try:
            while True:
                begun = time.monotonic()
                try:
                    await work()
                    return
                except BaseException as error:
                    if not _is_a_fall(error):
                        raise
                    log.exception("The task “%s” failed; it is restarted.", name)
                    self._fell(key, said(error), failed)
                if time.monotonic() - begun > WELL_AFTER_S:
                    pauses.reset()
                await asyncio.sleep(pauses.next())
                self._become(key, "running")
        finally:
            self._rows.pop(key, None)

    async def _single(self, key: str, name: str, work: Work, failed: Callable[[str], None]) -> None:
        try:
            await work()
        except BaseException as error:
            if not _is_a_fall(error):
                raise
            log.exception("The task “%s” failed.", name)
            self._fell(key, said(error), failed)
            return
        if self._rows.pop(key, None) is not None:
            self._changed()

    def _fell(self, key: str, problem: str, failed: Callable[[str], None]) -> None:
        self._become(key, "away", problem)
        try:
            failed(problem)
        except Exception:
            log.exception("The cleanup after “%s” failed too.", key)

    def _become(self, key: str, state: State, problem: str = "") -> None:
        before = self._rows.get(key)
        falls = (before.falls if before else 0) + (state == "away")
        self._rows[key] = Row(key.rstrip("'"), state, problem, time.time_ns() // 1_000_000, falls)
        self._changed()

    def rows(self) -> list[Row]:
        """Returns every kept task, and each that ran once and failed."""
        return sorted(self._rows.values())

    def running(self, name: str) -> bool:
        return any(task.get_name() == name for task in self._tasks.values())

    async def stop(self, *names: str) -> list[str]:
        """Stops the tasks of these names, or all. Returns those that didn't stop in time; they are left behind."""
        return await self.let_go([task for task in self._tasks.values() if not names or task.get_name() in names])

    async def let_go(self, tasks: Iterable[asyncio.Task[None]]) -> list[str]:
        """Stops these tasks. Returns those that didn't stop in time; they are left behind."""
        ending = {task for task in tasks if task is not asyncio.current_task() and not task.done()}
        for task in ending:
            task.cancel()
        left: set[asyncio.Task[None]] = set()
        if ending:
            _, left = await asyncio.wait(ending, timeout=STOP_S)
        for task in left:
            log.error("The task “%s” did not stop within %g s and was abandoned.", task.get_name(), STOP_S)
        return [task.get_name() for task in left]


def _is_a_fall(error: BaseException) -> bool:
    """Returns whether it is an error, or a cancellation that nobody asked this task for."""
    if isinstance(error, asyncio.CancelledError):
        task = asyncio.current_task()
        return task is not None and not task.cancelling()
    return isinstance(error, Exception)


def background(name: str, work: Coroutine[Any, Any, None], failed: Callable[[str], None]) -> asyncio.Task[None]:
    """Starts a helper of something that is itself watched: its error goes to its owner, who knows what it means."""

    async def run() -> None:
        try:
            await work
        except Exception as error:
            log.exception("The task “%s” failed.", name)
            failed(said(error))

    return asyncio.create_task(run(), name=name)
