"""Plays a night through an engine: every listener hears all happenings and orders, in order."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Protocol

from cuejar.core.engine.engine import Engine
from cuejar.core.engine.rehearsal import undisturbed
from cuejar.core.engine.view import View
from cuejar.core.facts.happenings import Happening
from cuejar.core.facts.orders import Order


class Listener(Protocol):
    """Hears a night; instants are ms of the engine's clock."""

    def note(self, at: int, happening: Happening) -> None:
        """A happening is about to be handled."""

    def add(self, at: int, order: Order) -> None:
        """Takes an order."""

    def over(self, at: int) -> None:
        """Nothing more happens; whatever is still in progress ends after this."""


def play(engine: Engine, happenings: Iterable[tuple[int, Happening]], *listeners: Listener) -> None:
    """Plays a night to its end. A happening that fails in the engine is skipped alone, as on air."""
    last = engine.now
    with undisturbed():
        for at, happening in happenings:
            for one in listeners:
                one.note(at, happening)
            try:
                timed = engine.handle(happening, at)
            except Exception:
                timed = engine.taken_out()
            for when, order in timed:
                for one in listeners:
                    one.add(when, order)
            last = at
        for one in listeners:
            one.over(last)
        view = View(engine)
        while (due := engine.due()) is not None and not view.waits_for_the_clock:
            for when, order in engine.advance(due):
                for one in listeners:
                    one.add(when, order)
