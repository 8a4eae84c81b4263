"""Queues for outgoing requests: each piece of gear and each host has its own, so that a silent one delays nobody else;
in a queue, viewers take turns.
"""

from __future__ import annotations

import asyncio
from collections import Counter, OrderedDict, deque
from collections.abc import AsyncIterator
from contextlib import asynccontextmanager


class Room:
    """Allows a limited number at once, and at most half of them for one viewer."""

    def __init__(self, size: int) -> None:
        self._free, self._each = size, max(1, size // 2)
        self._inside: Counter[str] = Counter()
        self._waiting: OrderedDict[str, deque[asyncio.Future[None]]] = OrderedDict()

    async def enter(self, whose: str) -> None:
        turn: asyncio.Future[None] = asyncio.get_running_loop().create_future()
        self._waiting.setdefault(whose, deque()).append(turn)
        self._let_in()
        try:
            await turn
        except asyncio.CancelledError:
            if turn.done() and not turn.cancelled():
                self.leave(whose)  # It was let in just then.
            raise

    def leave(self, whose: str) -> None:
        self._free += 1
        self._inside[whose] -= 1
        if self._inside[whose] <= 0:
            del self._inside[whose]
        self._let_in()

    def _let_in(self) -> None:
        """Lets in those who wait, one of each viewer in turn."""
        for whose in list(self._waiting):
            if self._free <= 0:
                return
            turns = self._waiting.pop(whose)
            while turns and turns[0].done():
                turns.popleft()
            if turns and self._inside[whose] < self._each:
                turns.popleft().set_result(None)
                self._free -= 1
                self._inside[whose] += 1
            if turns:
                self._waiting[whose] = turns  # At the end of the queue.


class Rooms:
    """One queue for each address."""

    def __init__(self, size: int) -> None:
        self._size = size
        self._all: dict[str, tuple[Room, int]] = {}

    @asynccontextmanager
    async def at(self, where: str, whose: str) -> AsyncIterator[None]:
        room, users = self._all.get(where, (Room(self._size), 0))
        self._all[where] = room, users + 1
        try:
            await room.enter(whose)
            try:
                yield
            finally:
                room.leave(whose)
        finally:
            room, users = self._all[where]
            if users == 1:
                del self._all[where]
            else:
                self._all[where] = room, users - 1
