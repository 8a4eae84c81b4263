"""Pads: which cues have one and in which order, and what letting go of one ends."""

from __future__ import annotations

from collections.abc import Collection

from cuejar.core.book.book import Book, Cue
from cuejar.core.facts import happenings as h
from cuejar.core.rules.run import Run
from cuejar.core.rules.score import PENDING, UP


def padded(book: Book, only: Collection[str] | None = None) -> list[Cue]:
    """The cues that have a pad, in the order of the house; those that it does not name come after, as they stand in the book.

    Args:
        only: the cues that a device is limited to; none: all.
    """
    place = {cue: i for i, cue in enumerate(book.house.pads)}
    having = [cue for cue in book.cues if cue.on and cue.pad.on and (only is None or cue.id in only)]
    return sorted(having, key=lambda cue: place.get(cue.id, len(place)))


def opens(cue: Cue) -> bool:
    """Whether something of a cue stays until it is let go: a pad of it can be held."""
    return any(getattr(beat, "length", None) == "open" for beat in cue.beats)


def endings(run: Run) -> list[h.Happening]:
    """What ends everything open of a run: a run that waits is sent back; one with something open still to come ends whole."""
    if run.started_at is None:
        return [h.DropCall(run=run.id)] if any(spec.length == "open" for spec in run.score.specs) else []
    opened = [beat for beat in run.beats if beat.spec.length == "open"]
    if any(beat.state == PENDING for beat in opened):
        return [h.Release(run.id)]
    return [h.Release(run.id, beat.id) for beat in opened if beat.state == UP]
