"""Pads: which cues have one, in which order, and what releasing one ends."""

from __future__ import annotations

from collections.abc import Collection

from cuejar.core.book.book import Book, Cue
from cuejar.core.facts import happenings as h
from cuejar.core.rules.run import Run
from cuejar.core.rules.score import PENDING, UP


def padded(book: Book, only: Collection[str] | None = None) -> list[Cue]:
    """Returns the cues that have a pad, in the house's order; the others follow in the book's order.

    Args:
        only: the cues that a device is limited to; none: all.
    """
    place = {cue: i for i, cue in enumerate(book.house.pads)}
    having = [cue for cue in book.cues if cue.on and cue.pad.on and (only is None or cue.id in only)]
    return sorted(having, key=lambda cue: place.get(cue.id, len(place)))


def opens(cue: Cue) -> bool:
    """Returns whether something of a cue lasts until it is released: its pad can be held."""
    return any(getattr(beat, "length", None) == "open" for beat in cue.beats)


def endings(run: Run) -> list[h.Happening]:
    """Returns what ends everything open of a run: a waiting run is dropped; one with something open still to come ends
    completely.
    """
    if run.started_at is None:
        return [h.DropCall(run=run.id)] if any(spec.length == "open" for spec in run.score.specs) else []
    opened = [beat for beat in run.beats if beat.spec.length == "open"]
    if any(beat.state == PENDING for beat in opened):
        return [h.Release(run.id)]
    return [h.Release(run.id, beat.id) for beat in opened if beat.state == UP]
