"""Rehearsal: the same engine on a virtual clock. What is played, and who listens, is up to `core.nights`."""

from __future__ import annotations

import gc
import json
from collections.abc import Iterable, Iterator, Sequence
from contextlib import contextmanager
from typing import NamedTuple

from cuejar.core.engine.engine import Engine
from cuejar.core.engine.night import Timed
from cuejar.core.engine.view import View
from cuejar.core.facts import orders as o
from cuejar.core.facts.happenings import Happening, Try


@contextmanager
def undisturbed() -> Iterator[None]:
    """Suspends the garbage collector: a night makes no reference cycles, and looking for them takes a fifth of its
    time.
    """
    if not gc.isenabled():
        yield
        return
    frozen = gc.get_freeze_count() > 0
    gc.freeze()
    gc.disable()
    try:
        yield
    finally:
        gc.enable()
        if not frozen:
            gc.unfreeze()


class Step(NamedTuple):
    """A happening, or none if something fell due, with its orders."""

    at: int
    happening: Happening | None
    timed: list[Timed]


TO_REST = -1
"""A night that ends when nothing is in progress or due any more."""


def play(engine: Engine, happenings: Iterable[tuple[int, Happening]], until: int | None = None) -> Iterator[Step | int]:
    """Plays a night, step by step; its end comes as its instant (ms). What is in progress then follows, to its own end.

    A happening that fails in the engine is skipped alone, as on air.

    Args:
        until: when it ends, in ms of the engine's clock, or `TO_REST`; none: with its last happening.
    """
    last = engine.now
    with undisturbed():
        for at, happening in happenings:
            if until is not None and TO_REST != until < at:
                break
            try:
                timed = engine.handle(happening, at)
            except Exception:
                timed = engine.taken_out()
            yield Step(at, happening, timed)
            last = at
        if until is not None and until != TO_REST:
            yield Step(until, None, engine.advance(until))
            yield until
            return
        if until is None:
            yield last
        view = View(engine)
        while (due := engine.due()) is not None and not view.waits_for_the_clock:
            yield Step(due, None, timed := engine.advance(due))
            last = max(last, *(at for at, _ in timed)) if timed else last
        if until is not None:
            yield last


def preview(engine: Engine, attempt: Try, then: Sequence[Happening] = ()) -> list[Timed]:
    """Plays a try of a cue from 0 ms to its end, without anything being done.

    Args:
        engine: a fresh one over the draft of the book; it can't be used again.
        then: what is known right after the start, such as the real length of its speeches.
    """
    orders = engine.handle(attempt, 0)
    for happening in then:
        orders += engine.handle(happening, 0)
    view = View(engine)
    while view.runs and (due := engine.due()) is not None:
        orders += engine.advance(due)
    return orders


def lines(timed: Iterable[Timed]) -> Iterator[str]:
    """Yields the printed form: one JSON object per line, times in seconds."""
    for at, order in timed:
        row = o.line(order, at)
        if row is not None:
            yield json.dumps(row, ensure_ascii=False)
