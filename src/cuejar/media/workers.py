"""Worker processes for heavy or risky work: a time limit, a cancel, and progress.

The work is a function of this project whose first parameter is the path of a progress file. A crash, a hang or a cancel
costs only that job.
"""

from __future__ import annotations

import asyncio
import contextlib
import itertools
import multiprocessing
from collections.abc import Callable
from concurrent.futures import BrokenExecutor
from pathlib import Path
from time import monotonic
from typing import Any, Literal, NamedTuple, TypeVar

from pebble import CONSTS, ProcessExpired, ProcessPool

from cuejar.ending import end_with_parent
from cuejar.starting import CANNOT_START, START_S, can_start

LOOK_S = 0.15
SLOW_S = 5.0
"""How long the first job of new workers may wait before it is checked whether workers start at all."""
KEEP_JOBS = 30
CONSTS.sleep_unit = 0.5
"""How often a pool checks limits of time, in seconds; results and new jobs wake it up at once."""
R = TypeVar("R")
_numbers = itertools.count(1)
State = Literal["waiting", "running", "done", "stopped", "failed"]


class WorkFailed(Exception):
    """The work didn't finish: ``why`` is `time`, `crash`, or `start` if no worker starts on this computer."""

    def __init__(self, why: Literal["time", "crash", "start"]) -> None:
        super().__init__(why)
        self.why = why


class Stopped(Exception):
    """The work was stopped by hand; the text names it."""


class _PoolLost(Exception):
    """The workers were killed from outside while they waited."""


def _apart(_: Path, work: Callable[..., R], *args: Any) -> R:
    """In a worker: work without progress."""
    return work(*args)


def teller(progress: Path) -> Callable[[float], None]:
    """Returns the function by which a worker reports progress (0 to 1); writes at most every hundredth."""
    said = -1

    def tell(share: float) -> None:
        nonlocal said
        if int(share * 100) > said:
            said = int(share * 100)
            progress.write_text(f"{share:.3f}")

    return tell


What = Literal["reading", "measuring", "converting", "speaking", "importing", "exporting"]


class Job(NamedTuple):
    """A piece of long work as people see it; ``share`` is 0 to 1, ``problem`` says why it failed."""

    id: int
    what: What
    name: str
    state: State = "waiting"
    share: float = 0
    problem: str = ""


class Workers:
    """A pool of worker processes, and their jobs."""

    def __init__(
        self,
        folder: Path,
        count: int = 2,
        begin: Callable[[], None] = end_with_parent,
        changed: Callable[[], None] = lambda: None,
    ) -> None:
        """Args:
        folder: where progress is written; emptied at the start.
        begin: runs first in each process.
        changed: is told when a job changes.
        """
        self.folder, self._count, self._begin = folder, count, begin
        folder.mkdir(exist_ok=True)
        for left_over in folder.iterdir():
            left_over.unlink(missing_ok=True)
        self._pool: ProcessPool | None = None
        self._proven = False
        self._jobs: dict[int, Job] = {}
        self._tasks: dict[int, asyncio.Future[Any]] = {}
        self._stopped: set[int] = set()
        self._changed = changed

    @property
    def jobs(self) -> list[Job]:
        return list(self._jobs.values())

    def _note(self, job: Job) -> None:
        self._jobs[job.id] = job
        while len(self._jobs) > KEEP_JOBS:
            over = next((j.id for j in self._jobs.values() if j.state not in ("waiting", "running")), None)
            if over is None:
                break
            del self._jobs[over]
        self._changed()

    def stop_job(self, job_id: int) -> bool:
        """Stops a waiting or running job; its worker is killed."""
        task = self._tasks.get(job_id)
        if task is None:
            return False
        self._stopped.add(job_id)
        return task.cancel()

    async def run(
        self, what: What, name: str, limit_s: float, work: Callable[..., R],
        *args: Any,
    ) -> R:  # fmt: skip
        """Runs ``work(progress_file, *args)`` in a worker. If the workers were killed from outside, once more with new
        ones.

        Raises:
            WorkFailed: it took too long, or its process ended.
            asyncio.CancelledError: it was stopped.
            Exception: whatever the work itself raises.
        """
        try:
            return await self._run(what, name, limit_s, work, *args)
        except _PoolLost:
            try:
                return await self._run(what, name, limit_s, work, *args)
            except _PoolLost:
                raise WorkFailed("crash") from None

    async def apart(self, what: What, name: str, limit_s: float, work: Callable[..., R], *args: Any) -> R:
        """Runs ``work(*args)`` in a worker.

        Raises:
            Stopped: it was stopped by hand.
            WorkFailed; Exception: as `run`.
        """
        try:
            return await self.run(what, name, limit_s, _apart, work, *args)
        except asyncio.CancelledError:
            asker = asyncio.current_task()
            if asker is not None and asker.cancelling():
                raise
            raise Stopped(name) from None

    async def _run(
        self, what: What, name: str, limit_s: float, work: Callable[..., R],
        *args: Any,
    ) -> R:  # fmt: skip
        """Raises _PoolLost: there were no workers any more, and nothing was done."""
        if self._pool is None or not self._pool.active:
            # A pool whose idle workers were killed from outside is useless.
            spawned: Any = multiprocessing.get_context("spawn")
            self._pool = ProcessPool(self._count, context=spawned, initializer=self._begin)
            self._proven = False
        job = Job(next(_numbers), what, name)
        progress = self.folder / f"{job.id}"
        pool = self._pool
        try:
            scheduled = pool.schedule(work, args=[progress, *args], timeout=limit_s)
        except (OSError, BrokenExecutor) as error:
            self.close()
            if await asyncio.to_thread(can_start):
                raise _PoolLost from error
            self._note(job._replace(state="failed", problem=CANNOT_START))
            raise WorkFailed("start") from error
        task = asyncio.wrap_future(scheduled)
        self._tasks[job.id] = task
        self._note(job)
        state: State = "failed"
        problem, begin, patience = "", monotonic(), SLOW_S
        try:
            while True:
                done, _ = await asyncio.wait([task], timeout=LOOK_S)
                if done:
                    break
                self._proven = self._proven or scheduled.running()
                if not self._proven and monotonic() > begin + patience:
                    if not await asyncio.to_thread(can_start):
                        problem = CANNOT_START
                        self.close()
                        raise WorkFailed("start")
                    if patience > SLOW_S:  # Others start, but these workers don't.
                        self.close()
                        raise _PoolLost
                    begin, patience = monotonic(), SLOW_S + START_S
                share = job.share
                with contextlib.suppress(OSError, ValueError):
                    share = float(progress.read_text())
                if share != job.share or job.state == "waiting":
                    job = job._replace(state="running" if scheduled.running() else "waiting", share=share)
                    self._note(job)
            result: R = task.result()
            state = "done"
            return result
        except asyncio.CancelledError:
            asker = asyncio.current_task()
            if job.id not in self._stopped and not (asker is not None and asker.cancelling()):
                problem = "Its process crashed."
                raise WorkFailed("crash") from None
            state = "stopped"
            scheduled.cancel()  # type: ignore[no-untyped-call]
            raise
        except TimeoutError as error:
            problem = "It took too long."
            raise WorkFailed("time") from error
        except (WorkFailed, _PoolLost):
            raise
        except ProcessExpired as error:
            problem = "Its process crashed."
            raise WorkFailed("crash") from error
        except Exception as error:
            problem = str(error)
            if pool is not self._pool or not pool.active:
                self._pool = None if pool is self._pool else self._pool
                if not self._proven and not await asyncio.to_thread(can_start):
                    problem = CANNOT_START
                    raise WorkFailed("start") from error
                problem = "Its process crashed."
                raise _PoolLost from error
            raise
        finally:
            self._tasks.pop(job.id, None)
            self._stopped.discard(job.id)
            progress.unlink(missing_ok=True)
            self._note(job._replace(state=state, share=1 if state == "done" else job.share, problem=problem))

    def close(self) -> None:
        if self._pool is not None:
            pool, self._pool = self._pool, None
            pool.stop()  # type: ignore[no-untyped-call]
            pool.join(2)
