"""What drivers of gear with a catalogue behind JSON-RPC have in common: it says what it has, and reports changes."""

from __future__ import annotations

import asyncio
from collections.abc import AsyncIterator, Callable, Mapping
from typing import Any

from cuejar.core.facts.gate import Value
from cuejar.core.facts.happenings import PropertyValue
from cuejar.live.drivers.base import AwayError, GearRefused, Greeting, PropertyPath, Report, Unanswered
from cuejar.live.drivers.rpc import Rpc
from cuejar.live.drivers.said import Said, Unreadable, read
from cuejar.live.watch import background

CLIENT = "cue-jar"
LOOK_S = 6.0
"""How long gear may take to report all that it has."""
CATALOGUE_A_SECOND = 100_000
"""The maximum bytes of catalogues read per second."""
AGAIN_S, MOST_AGAIN_S = 2.0, 60.0
"""After how long a catalogue with an unreadable row is requested again; each time twice as long."""

Call = tuple[str, dict[str, Any]]


class Answer(Said):
    """The answer to a change: what the property shows now."""

    value: Value


class CataloguedDriver:
    """One connection. A request without an answer is checked before it is repeated."""

    def __init__(self, address: str) -> None:
        self.address = address
        self.changes: dict[PropertyPath, int] = {}
        self.actual: dict[PropertyPath, PropertyValue] = {}
        self._reports: asyncio.Queue[Report | AwayError] = asyncio.Queue()
        self._rpc = Rpc(self._heard, self._reports.put_nowait)
        self._unsure: set[PropertyPath] = set()
        self._changed = False
        self._looking: asyncio.Task[None] | None = None
        self._left_out, self._again_s = 0, AGAIN_S
        self._later: asyncio.TimerHandle | None = None
        self._spoke_oddly = False
        """Whether anything on this connection was unreadable: then readable messages may be wrong too."""

    def log_to(self, odd: Callable[[Any, str], object], unknown: Callable[[str], object]) -> None:
        def told(message: Any, why: str) -> object:
            self._spoke_oddly = True
            return odd(message, why)

        self._rpc.odd, self._rpc.unknown = told, unknown

    # What each kind of gear adds

    def _heard(self, method: str, params: dict[str, Any]) -> None:
        """Takes a notification. May raise Unreadable."""
        raise NotImplementedError

    def _read(self, answer: Any) -> Greeting:
        """Reads a catalogue. Raises Unreadable: none of it can be read."""
        raise NotImplementedError

    def _odd_row(self, message: Any, why: str) -> None:
        """Skips an unreadable row of the catalogue, and asks for it again."""
        self._left_out += 1
        self._rpc.odd(message, why)

    def _setter(self, path: PropertyPath, value: PropertyValue) -> Call | None:
        """Returns the call that makes a property show a value; None if it has no such property or value."""
        raise NotImplementedError

    def _takes(self, path: PropertyPath, value: PropertyValue) -> PropertyValue:
        """Returns the nearest value that a property takes, as in the middle of a fade."""
        return value

    def _named(self, path: PropertyPath, value: PropertyValue) -> PropertyValue:
        """Returns a value of the wire in Cue Jar's form."""
        return value

    # Reports

    def _saw(self, path: PropertyPath, value: PropertyValue, changes: int) -> None:
        """Notes what a property shows, unless something newer is already known."""
        if changes >= self.changes.get(path, 0):
            self.changes[path], self.actual[path] = changes, value

    def _take(self, answer: Any) -> Greeting:
        """Takes a catalogue, and what everything shows. Raises AwayError: it can't be read."""
        self._left_out = 0
        self._not_later()
        try:
            greeting = self._read(answer)
        except Unreadable as error:
            self._rpc.odd(error.message, str(error))
            raise AwayError(f"its catalogue can’t be read: {error}") from error
        for path in set(self.actual) - set(greeting.found):
            self.actual.pop(path, None)
            self.changes.pop(path, None)
        for path, found in greeting.found.items():
            self._saw(path, found.value, found.changes)
        if not self._left_out:
            self._again_s = AGAIN_S
        else:
            self._look_later()
        return greeting

    def _look_later(self) -> None:
        """Schedules another reading after a while, each time twice as long; once, however often it is asked for."""
        if self._later is None:
            self._later = asyncio.get_running_loop().call_later(self._again_s, self._look_again)
            self._again_s = min(MOST_AGAIN_S, 2 * self._again_s)

    def _not_later(self) -> None:
        if self._later is not None:
            self._later.cancel()
            self._later = None

    async def _look(self) -> Greeting:
        return self._take(await self._rpc.ask("catalogue", {}, LOOK_S))

    def _look_again(self) -> None:
        """Reads the catalogue again, once more after the last change; and again later if there is no answer."""
        self._not_later()

        async def look() -> None:
            while self._changed:
                self._changed = False
                try:
                    self._reports.put_nowait(await self._look())
                except (AwayError, GearRefused):
                    self._look_later()
                # Each notification of a long list doubles the pause before the next reading.
                await asyncio.sleep(min(MOST_AGAIN_S, self._rpc.size / CATALOGUE_A_SECOND))

        self._changed = True
        if self._looking is None or self._looking.done():
            self._looking = background("gear: looking again", look(), self._fell)

    def _fell(self, problem: str) -> None:
        self._reports.put_nowait(AwayError(f"internal error: {problem}"))

    def unheard(self) -> bool:
        return not self._reports.empty()

    async def reports(self) -> AsyncIterator[Report]:
        while True:
            report = await self._reports.get()
            if isinstance(report, AwayError):
                raise report
            yield report

    # Requests

    async def show(self, wanted: Mapping[PropertyPath, PropertyValue]) -> Mapping[PropertyPath, PropertyValue | None]:
        """Sets all at once. A request without an answer in time is checked before it is repeated: it may have been
        done, or may still be. Such a property isn't in the result.
        """
        if self._unsure.intersection(wanted):
            try:
                self._reports.put_nowait(await self._look())
            except GearRefused as error:
                raise AwayError(f"it doesn’t report its catalogue: {error}") from error
            self._unsure.clear()
        answers = await asyncio.gather(*(self._set(path, value) for path, value in wanted.items()))
        return {path: value for path, value in zip(wanted, answers, strict=True) if path not in self._unsure}

    async def _set(self, path: PropertyPath, value: PropertyValue) -> PropertyValue | None:
        """Returns what the property shows now; None if it was refused, or is unknown."""
        call = self._setter(path, value)
        if call is None:
            if self._spoke_oddly:
                self._look_later()
            return None
        if self.actual.get(path) == self._takes(path, value):
            return value
        known = self.changes.get(path), self.actual.get(path)
        try:
            answer = await self._rpc.ask(*call)
        except GearRefused:
            return None
        except Unanswered:
            self._unsure.add(path)
            return None
        try:
            shows = self._named(path, read(Answer, answer).value)
        except Unreadable as error:
            self._rpc.odd(error.message, str(error))
            self._unsure.add(path)
            return None
        # Whatever it counts, it says here what it shows; unless it told of something newer meanwhile.
        if known == (self.changes.get(path), self.actual.get(path)):
            self.actual[path] = shows
        return shows

    async def close(self) -> None:
        self._not_later()
        if self._looking is not None:
            self._looking.cancel()
        await self._rpc.close()
