"""The calendar: what is due when. An entry knows whether it still counts, and what it does."""

from __future__ import annotations

import heapq
from collections.abc import Iterator
from typing import Protocol

EVER = 1 << 62
"""Later than everything (ms)."""


class Entry(Protocol):
    """Something noted for an instant."""

    def due(self, at: int) -> bool:
        """Returns whether it still counts, having been noted for ``at`` (ms)."""

    def take(self, at: int) -> None:
        """Acts; its instant has come."""


class Calendar:
    """Entries by their instants (ms); those of one instant in the order they were noted."""

    def __init__(self) -> None:
        self._heap: list[tuple[int, int, Entry]] = []
        self._serial = 0

    def note(self, at: int, entry: Entry) -> None:
        self._serial += 1
        heapq.heappush(self._heap, (at, self._serial, entry))

    def next(self) -> int | None:
        """Returns the next instant at which something is due, or None."""
        return self.come(EVER)

    def come(self, now: int) -> int | None:
        """Returns the first instant up to and including ``now`` at which something is due, or None."""
        heap = self._heap
        while heap and heap[0][0] <= now:
            at, _, entry = heap[0]
            if entry.due(at):
                return at
            heapq.heappop(heap)
        return None

    def take(self, until: int) -> None:
        """Removes and returns what is due up to and including ``until``, in order."""
        heap = self._heap
        while heap and heap[0][0] <= until:
            at, _, entry = heapq.heappop(heap)
            if entry.due(at):
                entry.take(until)

    def leave_out(self, kind: type) -> None:
        """Removes all entries of a kind."""
        self._heap = [row for row in self._heap if not isinstance(row[2], kind)]
        heapq.heapify(self._heap)

    def __iter__(self) -> Iterator[tuple[int, Entry]]:
        """Yields what still counts, in order."""
        for at, _, entry in sorted(self._heap, key=lambda row: row[:2]):
            if entry.due(at):
                yield at, entry
