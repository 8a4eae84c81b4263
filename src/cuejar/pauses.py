"""Pauses between tries: they grow while something fails, and begin anew once it works."""

from __future__ import annotations

import random
from collections.abc import Generator
from typing import Any

from tenacity import RetryCallState, wait_exponential


class Pauses:
    """Each pause is twice the one before, up to the longest; of that between half and all, so that what failed in the same
    moment doesn't try again in the same.
    """

    def __init__(self, first_s: float = 0.2, most_s: float = 4.0) -> None:
        nobody: Any = None
        self._growing = wait_exponential(multiplier=first_s, max=most_s)
        self._tries = RetryCallState(nobody, None, (), {})

    def next(self) -> float:
        """Returns how long to wait now, in s."""
        pause = self._growing(self._tries) * random.uniform(0.5, 1.0)
        self._tries.attempt_number += 1
        return pause

    def reset(self) -> None:
        """It worked."""
        self._tries.attempt_number = 1


def pauses() -> Generator[float]:
    """Yields one pause after the other."""
    own = Pauses()
    while True:
        yield own.next()
