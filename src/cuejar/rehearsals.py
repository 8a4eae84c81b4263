"""Rehearsals: jobs of nights, one after the other, with progress and a stop. The last few results are kept in memory."""

from __future__ import annotations

import asyncio
import logging
import threading
from collections import OrderedDict
from collections.abc import Callable, Sequence
from concurrent.futures import CancelledError
from concurrent.futures.process import BrokenProcessPool
from dataclasses import dataclass, field
from typing import Literal

from cuejar.core.nights.compare import Shift, Spread, shifts, spreads
from cuejar.core.nights.tally import Result
from cuejar.core.parts.base import BookError
from cuejar.live.watch import Watch
from cuejar.nights import Crew, Drawn, Task, Work
from cuejar.starting import NoWorkers

log = logging.getLogger(__name__)
KEPT = 4
"""How many rehearsals are kept."""
IDLE_S = 180.0
"""How long workers are kept for the next job."""
State = Literal["waiting", "running", "done", "stopped", "failed"]
Value = int | float | str | bool


@dataclass
class Rehearsal:
    """A job: nights of a task with one or two books, or a setting at several values.

    Attributes:
        told: the name of each book, for people.
        night: the saved night, if any.
        values: those of the setting, if one is tried; book ``i + 1`` of the task has value ``i``.
        differ: what differs in the second book, in words.
    """

    id: str
    task: Task
    told: list[str]
    seeds: list[int]
    what: str
    night: int | None = None
    setting: str = ""
    values: Sequence[Value] = ()
    differ: list[str] = field(default_factory=list)
    assumed: list[str] = field(default_factory=list)
    state: State = "waiting"
    problem: str = ""
    drawn: list[Drawn] = field(default_factory=list)
    results: dict[Work, Result] = field(default_factory=dict)
    stopping: threading.Event = field(default_factory=threading.Event)

    @property
    def total(self) -> int:
        return len(self.work)

    @property
    def done(self) -> int:
        return len(self.results)

    @property
    def work(self) -> list[Work]:
        """Returns what to play: seed by seed, so that every value has its first night soon."""
        numbers = range(1, len(self.task.books)) if self.values else range(len(self.task.books))
        return [Work(number, seed) for seed in self.seeds for number in numbers]

    def of(self, book: int) -> list[tuple[int, Result]]:
        """Returns the results of a book, by seed."""
        return [(work.seed, self.results[work]) for work in sorted(self.results) if work.book == book]

    def figures(self, book: int) -> dict[str, Spread]:
        found = [result for _, result in self.of(book)]
        return spreads(found) if found else {}

    def differences(self) -> dict[str, Shift]:
        """Returns the first two books, night by night, as far as both are done."""
        first, second = dict(self.of(0)), dict(self.of(1))
        both = [seed for seed in first if seed in second]
        return shifts([first[seed] for seed in both], [second[seed] for seed in both]) if both else {}


class Rehearsals:
    """Runs one rehearsal at a time: a new one stops the one in progress."""

    def __init__(self, watch: Watch) -> None:
        self._watch, self._crew = watch, Crew()
        self.kept: OrderedDict[str, Rehearsal] = OrderedDict()
        self._number = 0
        self._turn = asyncio.Lock()
        self._idle: asyncio.TimerHandle | None = None

    def begin(self, make: Callable[[str], Rehearsal]) -> Rehearsal:
        """Starts a rehearsal.

        Args:
            make: makes it, given its id.
        """
        for before in self.kept.values():
            self.stop(before)
        self._number += 1
        one = make(str(self._number))
        self.kept[one.id] = one
        while len(self.kept) > KEPT:
            self.kept.popitem(last=False)
        if self._idle is not None:
            self._idle.cancel()
            self._idle = None
        self._watch.once("rehearsing", lambda: self._run(one), lambda problem: self._failed(one, problem))
        return one

    @staticmethod
    def _failed(one: Rehearsal, problem: str) -> None:
        one.state, one.problem = "failed", problem

    async def _run(self, one: Rehearsal) -> None:
        try:
            async with self._turn:
                one.state = "running"
                await asyncio.to_thread(self._work, one)
        except BookError as error:
            self._failed(one, "; ".join(str(problem) for problem in error.problems))
        except NoWorkers as error:
            self._failed(one, str(error))
        except (BrokenProcessPool, CancelledError):
            self._crew.close()
            if one.stopping.is_set():
                one.state = "stopped"
            else:
                self._failed(one, "The rehearsal crashed. Run it again.")
        else:
            one.state = "stopped" if one.stopping.is_set() else "done"
        finally:
            # Another one may have started meanwhile, with the same workers.
            if not any(other.state in ("waiting", "running") for other in self.kept.values()):
                self._idle = asyncio.get_running_loop().call_later(IDLE_S, self._crew.close)

    def _work(self, one: Rehearsal) -> None:
        """Runs in a thread of its own: nothing here may touch the show."""
        with self._crew.at(one.task) as job:
            if not one.values:
                for number in range(len(one.task.books)):
                    if one.stopping.is_set():
                        return
                    one.drawn.append(job.drawn(Work(number, one.seeds[0])))
                    one.results[Work(number, one.seeds[0])] = one.drawn[-1].result
            left = [work for work in one.work if work not in one.results]
            if one.stopping.is_set() or not left:
                return
            for work, result in job.results(left):
                one.results[work] = result
                if one.stopping.is_set():
                    return

    def stop(self, one: Rehearsal) -> None:
        """Stops it at once; results so far stay."""
        one.stopping.set()
        if one.state == "running":
            self._crew.close()

    async def close(self) -> None:
        for one in self.kept.values():
            one.stopping.set()
        self._crew.close()
        async with self._turn:
            pass
        if self._idle is not None:
            self._idle.cancel()
