"""The calendar: what is due when. An entry knows itself whether it still counts, and what it does."""

from __future__ import annotations

import heapq
from collections.abc import Iterator
from typing import Protocol

EVER = 1 << 62
"""Later than everything (ms)."""


class Entry(Protocol):
    """Something that is noted for an instant."""

    def due(self, at: int) -> bool:
        """Whether it still counts, having been noted for ``at`` (ms)."""

    def take(self, at: int) -> None:
        """Its instant has come."""


class Calendar:
    """Entries by their instants (ms); those of one instant in the order in which they were noted."""

    def __init__(self) -> None:
        self._heap: list[tuple[int, int, Entry]] = []
        self._serial = 0

    def note(self, at: int, entry: Entry) -> None:
        self._serial += 1
        heapq.heappush(self._heap, (at, self._serial, entry))

    def next(self) -> int | None:
        """The next instant at which something is due, or None."""
        return self.come(EVER)

    def come(self, now: int) -> int | None:
        """The first instant up to and at ``now`` at which something is due, or None."""
        heap = self._heap
        while heap and heap[0][0] <= now:
            at, _, entry = heap[0]
            if entry.due(at):
                return at
            heapq.heappop(heap)
        return None

    def take(self, until: int) -> None:
        """Takes what is due up to and at ``until`` off the calendar, in order."""
        heap = self._heap
        while heap and heap[0][0] <= until:
            at, _, entry = heapq.heappop(heap)
            if entry.due(at):
                entry.take(until)

    def leave_out(self, kind: type) -> None:
        """Entries of a kind are off the calendar."""
        self._heap = [row for row in self._heap if not isinstance(row[2], kind)]
        heapq.heapify(self._heap)

    def __iter__(self) -> Iterator[tuple[int, Entry]]:
        """What still counts, in order."""
        for at, _, entry in sorted(self._heap, key=lambda row: row[:2]):
            if entry.due(at):
                yield at, entry
