"""Plays a night through an engine: every listener hears all happenings and orders, in order."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Protocol

from cuejar.core.engine.engine import Engine
from cuejar.core.engine.rehearsal import Step, play
from cuejar.core.facts.happenings import Happening
from cuejar.core.facts.orders import Order


class Listener(Protocol):
    """Hears a night; instants are ms of the engine's clock."""

    def note(self, at: int, happening: Happening) -> None:
        """A happening came; its orders follow."""

    def add(self, at: int, order: Order) -> None:
        """Takes an order."""

    def over(self, at: int) -> None:
        """Nothing more happens; whatever is still in progress ends after this."""


def heard(
    engine: Engine, happenings: Iterable[tuple[int, Happening]], *listeners: Listener, until: int | None = None
) -> None:
    """Plays a night to its end, as `play` does, before listeners."""
    for step in play(engine, happenings, until):
        if not isinstance(step, Step):
            for one in listeners:
                one.over(step)
            continue
        for one in listeners:
            if step.happening is not None:
                one.note(step.at, step.happening)
        for at, order in step.timed:
            for one in listeners:
                one.add(at, order)
