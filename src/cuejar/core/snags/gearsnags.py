"""Checks of what a cue needs: its gear, and throws that other beats wait for."""

from __future__ import annotations

from collections.abc import Iterator

from cuejar.core.book.book import Cue
from cuejar.core.kinds.gear import GEAR_KINDS, kind_of
from cuejar.core.kinds.table import KINDS
from cuejar.core.parts.steps import Flight
from cuejar.core.snags.context import CheckContext, Snag


def _is(kind: str, needed: str | None) -> bool:
    """Returns whether gear of a kind does what is needed: it is of that kind, or a plug-in's with things."""
    return kind == needed or kind_of(kind).prefix == GEAR_KINDS[needed or ""].prefix


def gear_there(cue: Cue, context: CheckContext) -> Iterator[Snag]:
    """Checks that each kind of gear is present, and at most one broadcaster."""
    broadcasters = [one.name or one.id for one in context.gear if one.kind == "broadcaster" and one.on]
    for beat in cue.beats:
        gear = KINDS[beat.kind].gear
        if gear not in (None, "broadcaster") and context.gear and not any(_is(one.kind, gear) for one in context.gear):
            what = f"“{beat.id}” needs {GEAR_KINDS[gear or ''].words}, and none are on the rig."
            yield Snag("no_gear", "error", cue.id, beat.id, what, "Add them on the Rig page.")
        if gear == "broadcaster" and len(broadcasters) > 1:
            what = f"There are {len(broadcasters)} broadcasters ({', '.join(broadcasters)}); “{beat.id}” moves them all alike."
            yield Snag("two_broadcasters", "warning", cue.id, beat.id, what, "Switch off all but one on the Rig page.")


def anchored(cue: Cue, context: CheckContext) -> Iterator[Snag]:
    """Checks that beats waiting for a hit wait for one that comes."""
    for beat in cue.beats:
        if beat.start.edge != "hit":
            continue
        anchor = next((other for other in cue.beats if other.id == beat.start.after), None)
        if not isinstance(anchor, Flight):
            what = f"“{beat.id}” waits for a hit, but nothing is thrown before it; it begins at once."
            yield Snag("no_hit", "warning", cue.id, beat.id, what, "Attach it to a throw.")
        elif beat.start.hit > anchor.count:
            what = (
                f"“{beat.id}” waits for hit {beat.start.hit}, but only {anchor.count} are thrown; the last one counts."
            )
            yield Snag("no_hit", "warning", cue.id, beat.id, what, f"Choose 1 to {anchor.count}.")
