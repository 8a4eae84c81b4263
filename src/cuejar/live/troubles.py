"""Troubles: what doesn't work at the moment and its consequences, for the desk; in the log at most once a minute each."""

from __future__ import annotations

import logging
import time
from collections.abc import Callable
from typing import NamedTuple

log = logging.getLogger(__name__)
LOG_EVERY_S = 60.0


class Trouble(NamedTuple):
    """``what`` is wrong, what it ``means`` for the show, ``since`` when (ms since 1970)."""

    what: str
    means: str
    since: int


class Troubles:
    """All current troubles, by subject."""

    def __init__(self, changed: Callable[[], None] = lambda: None) -> None:
        """Args:
        changed: is told when one begins, changes or ends.
        """
        self._now: dict[str, Trouble] = {}
        self._logged: dict[str, float] = {}
        self._changed = changed

    def has(self, key: str, what: str, means: str) -> None:
        """Notes that it is (still) wrong."""
        before = self._now.get(key)
        since = before.since if before is not None else time.time_ns() // 1_000_000
        self._now[key] = Trouble(what, means, since)
        if time.monotonic() - self._logged.get(key, -LOG_EVERY_S) >= LOG_EVERY_S:
            self._logged[key] = time.monotonic()
            log.error("%s %s", what, means)
        if before is None or before.what != what:
            self._changed()

    def gone(self, key: str) -> None:
        """Notes that it is right again."""
        before = self._now.pop(key, None)
        if before is not None:
            log.warning("Fixed: %s", before.what)
            self._logged.pop(key, None)
            self._changed()

    def __contains__(self, key: str) -> bool:
        return key in self._now

    def rows(self) -> list[Trouble]:
        return sorted(self._now.values(), key=lambda trouble: trouble.since)
