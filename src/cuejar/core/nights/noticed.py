"""What was noticed during a night: when something was seen, heard or felt, and when something was held away from rest.

The kind of a beat says how it counts (`Kind.noticed`). A hold counts from the moment its gear is connected, even below
others, until it ends or is dropped by hand; something shown counts from its showing to its hiding; a roll to its end.
"""

from __future__ import annotations

import heapq
from collections.abc import Iterator
from typing import get_args

from cuejar.core.facts import orders as o
from cuejar.core.kinds.base import Noticed
from cuejar.core.kinds.table import KINDS

SENSES: tuple[Noticed, ...] = get_args(Noticed)
Key = tuple[str, ...]
NOTHING: frozenset[Noticed] = frozenset()


class Spell:
    """When at least one of some things was there. Instants are ms.

    Attributes:
        there: what is there now.
        total: how long (ms) something was there.
        quiets: when nothing was, from beginning to end.
    """

    def __init__(self, begin: int) -> None:
        self.there: set[Key] = set()
        self.total = 0
        self.quiets: list[tuple[int, int]] = []
        self._since = self._gone = begin
        self._ends: list[tuple[int, Key]] = []

    def comes(self, key: Key, at: int, until: int | None = None) -> None:
        """Args:
        until: when it goes by itself.
        """
        self._pass(at)
        if not self.there:
            self._since = at
            if at > self._gone:
                self.quiets.append((self._gone, at))
        self.there.add(key)
        if until is not None:
            heapq.heappush(self._ends, (until, key))

    def goes(self, key: Key, at: int) -> None:
        self._pass(at)
        self._leave(key, at)

    def _leave(self, key: Key, at: int) -> None:
        if key in self.there:
            self.there.discard(key)
            if not self.there:
                self.total += at - self._since
                self._gone = at

    def _pass(self, at: int) -> None:
        while self._ends and self._ends[0][0] <= at:
            until, key = heapq.heappop(self._ends)
            self._leave(key, until)

    def end(self, at: int) -> None:
        self._pass(at)
        if self.there:
            self.total += at - self._since
        elif at > self._gone:
            self.quiets.append((self._gone, at))

    @property
    def longest_quiet(self) -> tuple[int, int]:
        """Returns the first longest stretch without any: its beginning and its end; (0, 0): there was none."""
        return max(self.quiets, key=lambda quiet: quiet[1] - quiet[0], default=(0, 0))


class Notice:
    """Listens to orders. ``spells`` are the times in which something was noticed, by kind."""

    def __init__(self, begin: int = 0) -> None:
        self.spells = {sense: Spell(begin) for sense in SENSES}
        self._as: dict[Key, frozenset[Noticed]] = {}

    def add(self, at: int, order: o.Order) -> frozenset[Noticed]:
        """Takes an order. Returns the kind that it begins to count as."""
        if isinstance(order, o.Show):
            return self._comes((order.run, order.beat), KINDS[order.kind].noticed, at)
        if isinstance(order, o.Hold):
            return self._comes((order.run, order.beat, order.path), KINDS[order.kind].noticed, at)
        if isinstance(order, o.Roll):
            noticed = KINDS["chance"].noticed if order.until is not None else NOTHING
            for sense in noticed:
                self.spells[sense].comes((order.run, order.beat), at, order.until)
            return noticed
        if isinstance(order, o.Hide):
            self._goes((order.run, order.beat), at)
        elif isinstance(order, o.Let):
            self._goes((order.run, order.beat, order.path), at)
        return NOTHING

    def _comes(self, key: Key, noticed: frozenset[Noticed], at: int) -> frozenset[Noticed]:
        self._as[key] = noticed
        for sense in noticed:
            self.spells[sense].comes(key, at)
        return noticed

    def _goes(self, key: Key, at: int) -> None:
        for sense in self._as.pop(key, NOTHING):
            self.spells[sense].goes(key, at)

    def end(self, at: int) -> None:
        for spell in self.spells.values():
            spell.end(at)

    def quiets(self, least: int) -> Iterator[tuple[int, int]]:
        """Returns the stretches of at least that many ms in which nothing was seen."""
        return (quiet for quiet in self.spells["seen"].quiets if quiet[1] - quiet[0] >= least)
